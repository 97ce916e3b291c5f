"""How every kernel is compiled: without the GIL, kept on disk, with the harmless part of fast arithmetic."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

from numba import njit

from valleylight.core.jit.cache import KernelCache

F = TypeVar("F", bound=Callable[..., Any])

#: `_nrt`: kernels allocate nothing, so counting references to shared arrays would only make threads wait.
OPTIONS: dict[str, Any] = {
    "nogil": True,
    "error_model": "numpy",
    "fastmath": {"nsz", "arcp", "contract", "afn"},
    "_nrt": False,
}


def part(function: F) -> F:
    """Like `kernel`, for a piece of a larger kernel that is always laid into it instead of being called."""
    return _compiled(function, {**OPTIONS, "forceinline": True})


def kernel(function: F) -> F:
    """Compile with Numba; infinities and NaN keep their meaning, results do not depend on the thread."""
    return _compiled(function, OPTIONS)


def is_cached(compiled: Any) -> bool:
    """Whether some version of a kernel, as it is written now, is kept on disk."""
    cache: KernelCache = compiled._cache
    return cache.index_path.is_file()


def _compiled(function: F, options: dict[str, Any]) -> F:
    compiled: Any = njit(**options)(function)
    compiled._cache = KernelCache(compiled, options)
    return compiled  # type: ignore[no-any-return]
