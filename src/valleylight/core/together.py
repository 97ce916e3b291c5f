"""The same work for many things at once, where what it spends its time on lets other threads run (numpy, Pillow, kernels)."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

_Thing = TypeVar("_Thing")
_Result = TypeVar("_Result")


def together(work: Callable[[_Thing], _Result], things: Iterable[_Thing]) -> list[_Result]:
    """What `work` gives for each of `things`, in their order, on as many threads as there are cores. Raises what `work` raises."""
    every = list(things)
    if len(every) < 2:
        return [work(thing) for thing in every]
    with ThreadPoolExecutor(min(len(every), os.cpu_count() or 1)) as pool:
        return list(pool.map(work, every))
