"""How every kernel is compiled: without the GIL, cached on disk, with the harmless part of fast arithmetic."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from numba import njit

F = TypeVar("F", bound=Callable[..., Any])


def kernel(function: F) -> F:
    """Compile with Numba; infinities and NaN keep their meaning, results do not depend on the thread."""
    return njit(cache=True, nogil=True, error_model="numpy", fastmath={"nsz", "arcp", "contract", "afn"}, _nrt=False)(function)  # type: ignore[no-any-return]
