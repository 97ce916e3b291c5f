"""The grid whose cells choose the fixtures that a point asks."""

from __future__ import annotations

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.lamps import record
from valleylight.core.trace.lights import lamplight

F32 = np.float32
GRID_CELL_M, GRID_CELLS_MOST = 1.2, 40


@dataclass(frozen=True)
class LampGrid:
    """The grid that chooses fixtures, with what it was made from: (cells, L) weights for records of L fixtures."""

    arrays: dict[str, object]
    records: NDArray[np.float32]
    profiles: NDArray[np.float32]
    weights: NDArray[np.float32]


def lamp_grid(lamps: NDArray[np.float32], profiles: NDArray[np.float32], before: LampGrid | None = None) -> LampGrid:
    """The grid that chooses fixtures: its box reaches 6 m beyond the outermost ones. What fixtures weighed in the grid `before`
    stays where they have not changed."""
    if not len(lamps):
        empty: dict[str, object] = {
            "grid_box": np.array([0, 0, 0, 1, 1, 1], float), "grid_counts": np.ones(3, np.int64),
            "grid_cdf": np.zeros((1, 1), F32),
        }  # fmt: skip
        return LampGrid(empty, lamps, profiles, np.zeros((1, 0), F32))
    # Whole metres, so that the box stays as it is while a fixture moves a little.
    low = np.floor(lamps[:, record.three(record.PLACE)].min(0).astype(float)) - [6, 6, 4]
    high = np.ceil(lamps[:, record.three(record.PLACE)].max(0).astype(float)) + [6, 6, 2]
    counts = np.clip(np.ceil((high - low) / GRID_CELL_M), 1, GRID_CELLS_MOST).astype(np.int64)
    if len(lamps) > 100:
        counts = np.maximum(counts // 2, 1)
    box = np.concatenate([low, counts / (high - low)])
    weights, which = np.zeros((int(counts.prod()), len(lamps)), F32), np.arange(len(lamps))
    if (
        before is not None and before.records.shape == lamps.shape and before.weights.shape == weights.shape
        and np.array_equal(before.arrays["grid_box"], box) and np.array_equal(before.profiles, profiles)  # type: ignore[arg-type]
    ):  # fmt: skip
        weights[:] = before.weights
        which = np.flatnonzero((before.records != lamps).any(1))
    # Cells stand by themselves; every core takes a share of them.
    threads = os.cpu_count() or 1
    edges = np.linspace(0, len(weights), threads + 1).astype(int)
    with ThreadPoolExecutor(threads) as pool:
        parts = pool.map(
            lambda k: lamplight.weigh_cells(
                lamps, profiles, box, counts, which, weights, int(edges[k]), int(edges[k + 1])
            ),
            range(threads),
        )
        list(parts)
    cdf = np.zeros((len(weights), len(lamps) + 1), np.float64)
    np.cumsum(weights, axis=1, out=cdf[:, 1:])
    total = cdf[:, -1:]
    shares = np.where(total > 0, cdf / np.maximum(total, 1e-300), np.linspace(0, 1, len(lamps) + 1))
    shares[:, -1] = 1.0
    arrays: dict[str, object] = {"grid_box": box, "grid_counts": counts, "grid_cdf": shares.astype(F32)}
    return LampGrid(arrays, lamps, profiles, weights)
