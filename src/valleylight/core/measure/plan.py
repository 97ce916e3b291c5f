"""The plan of a stage: its triangles cut by a level plane."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.stage.model import StageData

SHORTEST_M = 0.02


def cut(
    stage: StageData,
    height_m: float,
    low: tuple[float, float],
    high: tuple[float, float],
    hidden: frozenset[str] = frozenset(),
) -> NDArray[np.float32]:
    """Segments (N, 4) of x0, y0, x1, y1 in metres where the stage meets the plane z = height, within a rectangle."""
    parts = []
    for placement in stage.placements:
        if placement.layer in hidden:
            continue
        mesh = stage.meshes[placement.mesh]
        points = mesh.points.astype(float) @ placement.matrix[:3, :3].T + placement.matrix[:3, 3]
        if points[:, 2].min() > height_m or points[:, 2].max() < height_m:
            continue
        if (points[:, :2].max(0) < low).any() or (points[:, :2].min(0) > high).any():
            continue
        t = points[mesh.triangles]
        above = t[..., 2] > height_m
        crossing = above.any(1) & ~above.all(1)
        if crossing.any():
            parts.append(_segments(t[crossing], above[crossing], height_m))
    if not parts:
        return np.zeros((0, 4), np.float32)
    segments = np.concatenate(parts)
    inside = (np.maximum(segments[:, 0:2], segments[:, 2:4]) > low).all(1) & (
        np.minimum(segments[:, 0:2], segments[:, 2:4]) < high
    ).all(1)
    long = np.hypot(segments[:, 2] - segments[:, 0], segments[:, 3] - segments[:, 1]) > SHORTEST_M
    return np.asarray(segments[inside & long], np.float32)


def _segments(t: NDArray[np.float64], above: NDArray[np.bool_], height: float) -> NDArray[np.float64]:
    """Where each triangle's two crossing edges meet the plane."""
    lone = np.where(above.sum(1) == 1, above.argmax(1), (~above).argmax(1))
    rows = np.arange(len(t))
    apex = t[rows, lone]
    ends = []
    for other in (t[rows, (lone + 1) % 3], t[rows, (lone + 2) % 3]):
        share = (height - apex[:, 2]) / (other[:, 2] - apex[:, 2])
        ends.append(apex[:, :2] + share[:, None] * (other[:, :2] - apex[:, :2]))
    return np.concatenate(ends, axis=1)
