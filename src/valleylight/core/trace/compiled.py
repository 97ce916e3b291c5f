"""How every kernel is compiled: without the GIL, cached on disk, with the harmless part of fast arithmetic."""

from __future__ import annotations

import hashlib
import os
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import numba
from numba import njit

#: Files of the sky that hold kernels or what is laid into them; the rest of it may change without compiling anew.
_SKY_KERNELS = ("scatter.py", "clear.py", "cloudlight.py", "constituents.py", "cloudfield.py")


def _choose_cache() -> None:
    """Keep compiled kernels in a folder named after all sources that hold some.

    Numba itself looks only at the file of a kernel, not at those of the kernels it calls, and would go on using old
    pieces after one of them has changed.
    """
    if os.environ.get("NUMBA_CACHE_DIR"):
        return
    core = Path(__file__).parents[1]
    sources = hashlib.sha256()
    files = [file for part in ("trace", "finish", "measure", "sky") for file in (core / part).rglob("*.py")]
    for file in sorted(file for file in files if file.parent.name != "sky" or file.name in _SKY_KERNELS):
        text = file.read_bytes()
        if file.parent.name != "measure" or b"import kernel" in text:
            sources.update(text)
    home = core / "__pycache__" / "kernels"
    chosen = home / sources.hexdigest()[:16]
    if not chosen.is_dir() and home.is_dir():
        for old in home.iterdir():
            shutil.rmtree(old, ignore_errors=True)
    numba.config.CACHE_DIR = str(chosen)  # type: ignore[attr-defined]


_choose_cache()
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


def is_cached(compiled: Any) -> bool:
    """Whether some version of a kernel is kept on disk."""
    name = f"{compiled.py_func.__module__.rsplit('.', 1)[1]}.{compiled.py_func.__name__}-*.nbi"
    return any(Path(numba.config.CACHE_DIR).rglob(name))  # type: ignore[attr-defined]
