"""A light mesh of a stage for a working view: what is near the work, without planting and small things."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.stage.model import StageData

MOST_TRIANGLES = 120_000


def working_mesh(
    stage: StageData, low: NDArray[np.float64], high: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float32]]:
    """Triangles (T, 3, 3) in metres inside a box, the largest ones, MOST_TRIANGLES at the most; given about a point (3,), in
    whole metres, for survey coordinates have more digits than single precision."""
    parts, origin = [], np.round((low + high) / 2)
    for instance in stage.instances:
        if instance.layer:
            continue
        mesh = stage.meshes[instance.mesh]
        points = mesh.points.astype(float) @ instance.matrix[:3, :3].T + instance.matrix[:3, 3]
        if (points.max(0) < low).any() or (points.min(0) > high).any():
            continue
        t = points[mesh.triangles]
        centre = t.mean(1)
        parts.append(t[((centre > low) & (centre < high)).all(1)])
    if not parts:
        return origin, np.zeros((0, 3, 3), np.float32)
    triangles = np.concatenate(parts)
    if len(triangles) > MOST_TRIANGLES:
        area = np.linalg.norm(np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]), axis=1)
        triangles = triangles[np.sort(np.argsort(-area)[:MOST_TRIANGLES])]
    return origin, np.asarray(triangles - origin, np.float32)
