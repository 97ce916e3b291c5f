"""How far the hollows of a ground can fill before they spill.

Priority flood from the rim inwards (R. Barnes, C. Lehman, D. Mulla, Priority-Flood, Computers & Geosciences 62, 2014):
the lowest place that the water can leave by is settled first, and what lies behind it is at least as high. What is not
ground (NaN) lets water out, like the rim.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from valleylight.core.jit.compiled import kernel, part


@part
def _nothing(x):
    return x != x


@kernel
def _up(keys, places, size, key, place):
    """Put a place into the heap."""
    k = size
    while k > 0 and keys[(k - 1) // 2] > key:
        keys[k], places[k] = keys[(k - 1) // 2], places[(k - 1) // 2]
        k = (k - 1) // 2
    keys[k], places[k] = key, place
    return size + 1


@kernel
def _down(keys, places, size):
    """Take the lowest place out of the heap, which stands first."""
    size -= 1
    key, place = keys[size], places[size]
    k = 0
    while 2 * k + 1 < size:
        child = 2 * k + 1
        if child + 1 < size and keys[child + 1] < keys[child]:
            child += 1
        if keys[child] >= key:
            break
        keys[k], places[k] = keys[child], places[child]
        k = child
    keys[k], places[k] = key, place
    return size


@kernel
def _flood(z, filled, seen, keys, places):
    rows, columns = z.shape
    size = 0
    for y in range(rows):
        for x in range(columns):
            out = y == 0 or x == 0 or y == rows - 1 or x == columns - 1
            if not out:
                out = (
                    _nothing(z[y - 1, x]) or _nothing(z[y + 1, x]) or _nothing(z[y, x - 1]) or _nothing(z[y, x + 1])
                )  # fmt: skip
            if _nothing(z[y, x]):
                seen[y, x] = True
                filled[y, x] = z[y, x]
            elif out:
                seen[y, x] = True
                filled[y, x] = z[y, x]
                size = _up(keys, places, size, z[y, x], y * columns + x)
    while size > 0:
        level, place = keys[0], places[0]
        size = _down(keys, places, size)
        y, x = place // columns, place % columns
        for side in range(4):
            v = y + (1 if side == 0 else (-1 if side == 1 else 0))
            u = x + (1 if side == 2 else (-1 if side == 3 else 0))
            if v < 0 or u < 0 or v >= rows or u >= columns or seen[v, u]:
                continue
            seen[v, u] = True
            filled[v, u] = max(z[v, u], level)
            size = _up(keys, places, size, filled[v, u], v * columns + u)


def filled(height_m: NDArray[np.float64]) -> NDArray[np.float64]:
    """Level of the water over a ground (Y, X) in m, NaN where there is none, when every hollow is full."""
    z = np.ascontiguousarray(height_m, np.float64)
    out, seen = np.empty_like(z), np.zeros(z.shape, np.bool_)
    _flood(z, out, seen, np.empty(z.size + 1), np.empty(z.size + 1, np.int64))
    return out


def water_m(height_m: NDArray[np.float64], share: float) -> NDArray[np.float64]:
    """Depth of the water (Y, X) in m where hollows are full to a share of what they hold: of each the water reaches that share of
    the way from its deepest place to where it spills."""
    full = filled(height_m)
    depth = np.nan_to_num(full - height_m)
    which, number = ndimage.label(depth > 1e-6)
    if number == 0 or share <= 0:
        return np.zeros_like(depth)
    deepest = np.concatenate([[0.0], np.atleast_1d(ndimage.maximum(depth, which, np.arange(1, number + 1)))])
    return np.maximum(depth - (1.0 - share) * deepest[which], 0.0) * (which > 0)
