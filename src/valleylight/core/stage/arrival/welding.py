"""Corners in one place taken as one, so that triangles that meet are known to."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

#: Corners nearer than this share of the object's size are one: 17 binary digits for each direction.
SAME = 1e-5
_BITS = 20


def welded(points: NDArray[np.floating]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Of points (V, 3): the number (V,) of the corner each is, and the first point (C,) of each corner."""
    p = points.astype(np.float64)
    size = float(np.ptp(p, axis=0).max()) if len(p) else 0.0
    cell = np.round((p - p.min(0)) / max(size * SAME, 1e-12)).astype(np.int64)
    key = cell[:, 0] << 2 * _BITS | cell[:, 1] << _BITS | cell[:, 2]
    _, first, number = np.unique(key, return_index=True, return_inverse=True)
    return number.ravel().astype(np.int64), first.astype(np.int64)


def mixed(columns: NDArray[np.int64]) -> NDArray[np.uint64]:
    """One number (N,) for each row of whole numbers (N, k); different rows share one about once in 2^64."""
    out = np.zeros(len(columns), np.uint64)
    for k in range(columns.shape[1]):
        out = (out ^ columns[:, k].astype(np.uint64)) * np.uint64(0x9E3779B97F4A7C15)
        out ^= out >> np.uint64(29)
    return out
