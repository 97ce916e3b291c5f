"""Boxes in the place of what is heavy, while a picture is being tried."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from valleylight.core.stage.model import Mesh, StageData

#: Thinner boxes than this share of their longest edge are given it, so that no two faces of a flat one lie in one plane.
_THINNEST = 1e-3
#: The corners of each face of a box, anticlockwise seen from outside; corner k lies at the high end of axis a where bit a of k is set.
_FACES = ((0, 2, 3, 1), (4, 5, 7, 6), (0, 1, 5, 4), (2, 6, 7, 3), (0, 4, 6, 2), (1, 3, 7, 5))
_CORNERS = np.array([[k >> axis & 1 for axis in range(3)] for k in range(8)], float)


def as_boxes(stage: StageData, layers: Collection[str]) -> StageData:
    """A stage where whatever stands on some of its layers is the box of its mesh (12 triangles), of the material that covers most of it.
    Numbers of meshes, materials and pictures stay; boxes follow behind."""
    heavy = {i.mesh for i in stage.instances if i.layer in layers and len(stage.meshes[i.mesh].triangles) > 12}
    if not heavy:
        return stage
    number = {mesh: len(stage.meshes) + k for k, mesh in enumerate(sorted(heavy))}
    return replace(
        stage,
        meshes=(*stage.meshes, *(box_of(stage.meshes[mesh]) for mesh in sorted(heavy))),
        instances=tuple(
            replace(i, mesh=number[i.mesh]) if i.layer in layers and i.mesh in heavy else i for i in stage.instances
        ),
    )


def box_of(mesh: Mesh) -> Mesh:
    """The box about a mesh, in its frame; its uv is in its own units along each face."""
    low, high = mesh.points.min(0).astype(float), mesh.points.max(0).astype(float)
    least = max(float((high - low).max()), 1e-6) * _THINNEST
    thin = high - low < least
    middle = (low + high) / 2
    low, high = np.where(thin, middle - least / 2, low), np.where(thin, middle + least / 2, high)
    corners = low + _CORNERS * (high - low)
    points = np.concatenate([corners[list(face)] for face in _FACES])
    normals, uv = [], []
    for face in _FACES:
        a, b, _, d = corners[list(face)]
        normal = np.cross(b - a, d - a)
        normals += [normal / np.linalg.norm(normal)] * 4
        wide, tall = np.linalg.norm(b - a), np.linalg.norm(d - a)
        uv += [(0.0, 0.0), (wide, 0.0), (wide, tall), (0.0, tall)]
    first = 4 * np.arange(6)[:, None]
    triangles = np.concatenate([first + [0, 1, 2], first + [0, 2, 3]], 1).reshape(-1, 3)
    return Mesh(
        points.astype(np.float32), np.array(normals, np.float32), np.array(uv, np.float32), triangles.astype(np.uint32),
        np.full(12, _covers_most(mesh), np.int32),
    )  # fmt: skip


def _covers_most(mesh: Mesh) -> int:
    """The number of the material that has the largest area."""
    a, b, c = (mesh.points[mesh.triangles[:, k]].astype(float) for k in range(3))
    areas: NDArray[np.float64] = np.linalg.norm(np.cross(b - a, c - a), axis=1)
    numbers, where = np.unique(mesh.material, return_inverse=True)
    return int(numbers[np.argmax(np.bincount(where, areas))])
