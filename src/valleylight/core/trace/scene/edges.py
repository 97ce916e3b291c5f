"""Which edges of a mesh stick out: where weather and hands wear a surface first."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.trace.arrays import layout

SHARP_DEG = 30.0
GRID_M = 1e-4


def sharp_edges(record: NDArray[np.float32]) -> NDArray[np.int64]:
    """For triangle records (T, 32): bits 1, 2, 4 where the edge opposite corner 0, 1, 2 is an outer edge of more than
    30 degrees, or a free one."""
    corner = np.stack(
        [
            record[:, layout.three(layout.TRIANGLE_CORNER)],
            record[:, layout.three(layout.TRIANGLE_CORNER)] + record[:, layout.three(layout.TRIANGLE_EDGE_1)],
            record[:, layout.three(layout.TRIANGLE_CORNER)] + record[:, layout.three(layout.TRIANGLE_EDGE_2)],
        ],
        1,
    ).astype(float)
    normal = np.cross(
        record[:, layout.three(layout.TRIANGLE_EDGE_1)],
        record[:, layout.three(layout.TRIANGLE_EDGE_2)],
    ).astype(float)
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-20)
    _, spot = np.unique(np.round(corner.reshape(-1, 3) / GRID_M).astype(np.int64), axis=0, return_inverse=True)
    spot = spot.reshape(-1, 3)
    ends = np.sort(np.stack([spot[:, [1, 2]], spot[:, [2, 0]], spot[:, [0, 1]]], 1).reshape(-1, 2), axis=1)
    _, edge, count = np.unique(ends, axis=0, return_inverse=True, return_counts=True)
    edge = edge.ravel()
    order = np.argsort(edge, kind="stable")
    sharp = np.ones(len(edge), bool)  # free edges, and those where more than two faces meet
    starts = np.concatenate([[0], np.cumsum(count)[:-1]])
    two = count == 2
    first, second = order[starts[two]], order[starts[two] + 1]
    f, g = first // 3, second // 3
    outer = np.einsum("ij,ij->i", normal[f], corner[g, second % 3] - corner[f, (first % 3 + 1) % 3]) < -1e-6
    bent = np.einsum("ij,ij->i", normal[f], normal[g]) < np.cos(np.radians(SHARP_DEG))
    sharp[first] = sharp[second] = outer & bent
    return np.asarray(sharp.reshape(-1, 3) @ np.array([1, 2, 4]))
