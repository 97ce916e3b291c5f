"""Points on objects of the stage from which a fixture's light may come."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.stage.model import StageData

Array = NDArray[np.float64]
POINTS, SEED = 256, 11


def objects_of(stage: StageData, name: str) -> list[Array]:
    """Points and outward normals (256, 6) spread evenly over each object whose name begins so."""
    found: dict[tuple[str, tuple[float, ...]], list[Array]] = {}
    for p in stage.instances:
        if not name or not p.name.lower().startswith(name.lower()):
            continue
        mesh = stage.meshes[p.mesh]
        world = mesh.points.astype(float) @ p.matrix[:3, :3].T + p.matrix[:3, 3]
        # Parts of one object stand close together: instances of one name and one place belong to it.
        found.setdefault((p.name, tuple(np.round(p.matrix[:3, 3], 3))), []).append(world[mesh.triangles])
    return [_spread(np.concatenate(parts)) for parts in found.values()]


def _spread(triangles: Array) -> Array:
    """Points by area, with the normals turned away from the middle of the object."""
    edge_u, edge_v = triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]
    cross = np.cross(edge_u, edge_v)
    size = np.linalg.norm(cross, axis=1)
    random = np.random.default_rng(SEED)
    which = np.searchsorted(np.cumsum(size) / size.sum(), (np.arange(POINTS) + 0.5) / POINTS)
    root, share = np.sqrt(random.random(POINTS)), random.random(POINTS)
    points = (
        triangles[which, 0] + (root * (1 - share))[:, None] * edge_u[which] + (root * share)[:, None] * edge_v[which]
    )
    normals = cross[which] / np.maximum(size[which], 1e-12)[:, None]
    outward = ((points - triangles.reshape(-1, 3).mean(0)) * normals).sum(1) < 0
    normals[outward] *= -1
    return np.hstack([points, normals])
