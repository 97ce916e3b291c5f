"""Compiled kernels on disk, each named after all that its machine code was made from.

Numba's own cache looks only at the date of a kernel's file: it would go on using pieces of kernels that have changed
elsewhere, and forget all kernels of a file in which a comment has. Here the name of what is kept holds a hash of the
kernel's code, of the values it names (numbers, tables, layouts) and, in turn, of the kernels it calls. So an edit compiles
anew what it changes and what is built on that, no more; and what was compiled for another version stays beside it.
"""

from __future__ import annotations

import contextlib
import hashlib
import inspect
import os
import sys
import threading
import time
from collections.abc import Iterator
from functools import cached_property
from pathlib import Path
from types import CodeType, ModuleType
from typing import Any

import numba
import numpy as np
from numba.core import types
from numba.core.caching import CompileResultCacheImpl, FunctionCache, IndexDataCacheFile, _CacheLocator
from numba.core.dispatcher import Dispatcher


def _first_writable(places: list[Path]) -> Path:
    """The first of some folders that can be written to, made where it is missing; the last when none can."""
    for place in places:
        try:
            place.mkdir(parents=True, exist_ok=True)
        except OSError:
            continue
        if os.access(place, os.W_OK):
            return place
    return places[-1]


def _places() -> list[Path]:
    """Where kernels may be kept: where it is asked for, beside the core, or with what the user's other programs keep."""
    if asked := os.environ.get("NUMBA_CACHE_DIR"):
        return [Path(asked)]
    user = Path(os.environ.get("XDG_CACHE_HOME") or os.path.expanduser("~/.cache"))
    return [Path(__file__).parents[1] / "__pycache__" / "kernels", user / "valleylight" / "kernels"]


HOME = _first_writable(_places())
#: What no version in hand has been using for so long is let go of.
KEPT_DAYS = 30


class KernelCache(FunctionCache):  # type: ignore[misc]
    """Numba's cache of one function, under a name that changes with the function's meaning.

    The name is found when it is first needed, for a kernel may call others that are written below it.
    """

    def __init__(self, dispatcher: Any, options: dict[str, Any]) -> None:
        self._py_func = dispatcher.py_func
        self._name = repr(self._py_func)
        self._dispatcher = dispatcher
        self.options = options
        self._impl = _Impl(self._py_func)
        self._cache_path = str(HOME)
        self.enable()

    @cached_property
    def _cache_file(self) -> IndexDataCacheFile:  # type: ignore[override]
        return IndexDataCacheFile(str(HOME), self._base, self._base)

    @cached_property
    def _base(self) -> str:
        module = self._py_func.__module__.removeprefix("valleylight.core.")
        python = f"py{sys.version_info[0]}{sys.version_info[1]}"
        return f"{module}.{self._py_func.__qualname__}-{fingerprint(self._dispatcher)[:20]}.{python}"

    @property
    def index_path(self) -> Path:
        return HOME / f"{self._base}.nbi"

    def _index_key(self, signature: Any, codegen: Any) -> Any:
        # A named tuple's type does not tell the order of its fields, the machine code depends on it.
        return (*super()._index_key(signature, codegen), tuple(_fields(signature)))


class _Here(_CacheLocator):  # type: ignore[misc]
    """Numba's answer to where and whether something may be kept."""

    def get_cache_path(self) -> str:
        return str(HOME)

    def get_source_stamp(self) -> str:
        return ""

    def get_disambiguator(self) -> str:
        return ""

    @classmethod
    def from_function(cls, py_func: Any, py_file: str) -> _Here:
        return cls()


class _Impl(CompileResultCacheImpl):  # type: ignore[misc]
    _locator_classes = (_Here,)  # type: ignore[assignment]


def forget_unused() -> None:
    """Delete what was compiled for versions that nobody has been using; call it when all kernels are imported and compiled."""
    current = {cache._base for cache in _caches()}
    for index in HOME.glob("*.nbi"):
        with contextlib.suppress(OSError):  # another process is tidying up too
            if index.stem in current:
                os.utime(index)
            elif time.time() - index.stat().st_mtime > KEPT_DAYS * 86400:
                for file in HOME.glob(f"{index.stem}.*"):
                    file.unlink(missing_ok=True)


def _caches() -> Iterator[KernelCache]:
    for name, module in list(sys.modules.items()):
        if name.startswith("valleylight."):
            for value in list(vars(module).values()):
                cache = getattr(value, "_cache", None) if isinstance(value, Dispatcher) else None
                if isinstance(cache, KernelCache):
                    yield cache


#: What all machine code is made with: the compiler, and how arrays are handed to kernels.
_FOUNDATION = numba.__version__.encode() + Path(__file__).with_name("held.py").read_bytes()
_known: dict[Any, str] = {}
#: Kernels whose hash is being worked out, the innermost last; one thread at a time.
_open: list[Any] = []
_one_at_a_time = threading.RLock()
_tables: dict[int, tuple[Any, str]] = {}


def fingerprint(dispatcher: Any) -> str:
    """SHA-256 of all that a kernel's machine code is made from: its own code and what that names, in depth.

    Raises TypeError where a kernel names something whose meaning cannot be told.
    """
    with _one_at_a_time:
        if dispatcher in _known:
            return _known[dispatcher]
        if dispatcher in _open:
            if dispatcher is not _open[-1]:
                raise TypeError(
                    f"{dispatcher.py_func.__qualname__} is called by kernels that it calls; let it call itself alone"
                )
            return str(dispatcher.py_func.__qualname__)
        _open.append(dispatcher)
        try:
            _known[dispatcher] = _told(dispatcher)
        finally:
            _open.pop()
        return _known[dispatcher]


def _told(dispatcher: Any) -> str:
    function = dispatcher.py_func
    told = hashlib.sha256(_FOUNDATION)
    told.update(
        repr(sorted((k, sorted(v) if isinstance(v, set) else v) for k, v in dispatcher._cache.options.items())).encode()
    )
    names: set[str] = set()
    for code in _codes(function.__code__):
        constants = [k for k in code.co_consts if not isinstance(k, CodeType) and k != function.__doc__]
        told.update(repr((code.co_varnames, code.co_names, constants)).encode() + code.co_code)
        names.update(code.co_names)
    told.update(repr(function.__defaults__).encode())
    for name in sorted(names & function.__globals__.keys()):
        told.update(f"{name}={_meaning(function.__globals__[name], names)};".encode())
    return told.hexdigest()


def _codes(code: CodeType) -> Iterator[CodeType]:
    yield code
    for constant in code.co_consts:
        if isinstance(constant, CodeType):
            yield from _codes(constant)


def _meaning(value: Any, names: set[str]) -> str:
    """What a name in a kernel stands for, as a text that changes when that does."""
    if isinstance(value, Dispatcher):
        return fingerprint(value)
    if isinstance(value, bool | int | float | str | bytes | np.generic | None):
        return repr(value)
    if isinstance(value, tuple):
        return f"{type(value).__name__}({','.join(_meaning(one, names) for one in value)})"
    if isinstance(value, np.ndarray):
        if id(value) not in _tables:
            digest = hashlib.sha256(np.ascontiguousarray(value).tobytes()).hexdigest()
            _tables[id(value)] = (value, f"{value.dtype}{value.shape}{digest}")
        return _tables[id(value)][1]
    if isinstance(value, ModuleType):
        if not value.__name__.startswith("valleylight."):
            return value.__name__  # its version is pinned
        inner = sorted(name for name in names if hasattr(value, name))
        return ";".join(f"{name}={_meaning(getattr(value, name), names)}" for name in inner)
    if isinstance(value, type):
        return f"{value.__module__}.{value.__qualname__}{getattr(value, '_fields', '')}"
    if isinstance(value, types.ExternalFunction):
        return f"{value.symbol}{value.sig}"
    if hasattr(value, "_defn"):  # an intrinsic: what it writes stands in its module
        return hashlib.sha256(inspect.getsource(inspect.getmodule(value._defn)).encode()).hexdigest()  # type: ignore[arg-type]
    raise TypeError(
        f"a kernel names {value!r}, and nothing says when that changes; give it to the kernel as an argument"
    )


def _fields(kind: Any) -> Iterator[str]:
    """The field names of every named tuple in a signature."""
    if isinstance(kind, tuple | list):
        for one in kind:
            yield from _fields(one)
        return
    if isinstance(kind, types.BaseNamedTuple):
        yield ",".join(kind.fields)  # type: ignore[attr-defined]
    if isinstance(kind, types.BaseTuple):
        yield from _fields(list(kind.types))  # type: ignore[attr-defined]
    elif hasattr(kind, "inner"):
        yield from _fields(kind.inner)
