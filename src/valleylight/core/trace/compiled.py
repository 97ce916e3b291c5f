"""How every kernel is compiled: without the GIL, cached on disk, with the harmless part of fast arithmetic."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from numba import njit

F = TypeVar("F", bound=Callable[..., Any])


#: `_nrt`: kernels allocate nothing, so counting references to shared arrays would only make threads wait.
_OPTIONS: dict[str, Any] = {
    "cache": True,
    "nogil": True,
    "error_model": "numpy",
    "fastmath": {"nsz", "arcp", "contract", "afn"},
    "_nrt": False,
}


def part(function: F) -> F:
    """Like `kernel`, for a piece of a larger kernel that is always laid into it instead of being called."""
    compiled: F = njit(**_OPTIONS, forceinline=True)(function)
    return compiled


def kernel(function: F) -> F:
    """Compile with Numba; infinities and NaN keep their meaning, results do not depend on the thread."""
    compiled: F = njit(**_OPTIONS)(function)
    return compiled
