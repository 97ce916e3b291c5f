"""Triangle records of meshes, in the order of `layout`, and the soups of points that Embree is given of them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.lamps.bodies import BodyMesh
from valleylight.core.stage.model import Mesh
from valleylight.core.trace.arrays import layout

F32 = np.float32
#: So many times its size away from its frame's zero a mesh lies far from it.
FAR_OUT = 20.0


def heart_of_mesh(mesh: Mesh) -> NDArray[np.float64]:
    """The middle of a mesh that lies far from the zero of its own frame, in that frame; else that zero. A mesh used often is kept in
    single precision in its frame."""
    low, high = mesh.points.min(0).astype(float), mesh.points.max(0).astype(float)
    middle = (low + high) / 2
    return middle if np.abs(middle).max() > FAR_OUT * (high - low).max() else np.zeros(3)


def moved_by(point: NDArray[np.float64]) -> NDArray[np.float64]:
    """The 4 x 4 matrix that moves by a vector."""
    matrix = np.eye(4)
    matrix[:3, 3] = point
    return matrix


def records_of(mesh: Mesh, matrix: NDArray[np.float64]) -> NDArray[np.float32]:
    """Triangle records (T, 32) of a mesh under a matrix."""
    points = mesh.points.astype(float) @ matrix[:3, :3].T + matrix[:3, 3]
    turn = np.linalg.inv(matrix[:3, :3]).T
    normals = mesh.normals.astype(float) @ turn.T
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-20)
    t = mesh.triangles.astype(int)
    if np.linalg.det(matrix[:3, :3]) < 0:
        t = t[:, [0, 2, 1]]
    record = np.zeros((len(t), layout.TRIANGLE_WIDTH), F32)
    corner = points[t]
    record[:, layout.three(layout.TRIANGLE_CORNER)] = corner[:, 0]
    record[:, layout.three(layout.TRIANGLE_EDGE_1)] = corner[:, 1] - corner[:, 0]
    record[:, layout.three(layout.TRIANGLE_EDGE_2)] = corner[:, 2] - corner[:, 0]
    record[:, layout.TRIANGLE_NORMALS : layout.TRIANGLE_NORMALS + 9] = normals[t].reshape(-1, 9)
    record[:, layout.TRIANGLE_UV : layout.TRIANGLE_UV + 6] = mesh.uv[t].reshape(-1, 6)
    record[:, layout.TRIANGLE_MATERIAL] = mesh.material
    return record


def body_records(bodies: BodyMesh, first_material: int) -> NDArray[np.float32]:
    record = np.zeros((len(bodies.triangles), layout.TRIANGLE_WIDTH), F32)
    corner = bodies.points[bodies.triangles]
    record[:, layout.three(layout.TRIANGLE_CORNER)] = corner[:, 0]
    record[:, layout.three(layout.TRIANGLE_EDGE_1)] = corner[:, 1] - corner[:, 0]
    record[:, layout.three(layout.TRIANGLE_EDGE_2)] = corner[:, 2] - corner[:, 0]
    record[:, layout.TRIANGLE_NORMALS : layout.TRIANGLE_NORMALS + 9] = bodies.normals[bodies.triangles].reshape(-1, 9)
    record[:, layout.TRIANGLE_MATERIAL] = bodies.material + first_material
    record[:, layout.TRIANGLE_FIXTURE] = bodies.fixture
    return record


def soup_of(record: NDArray[np.float32]) -> tuple[NDArray[np.float32], NDArray[np.uint32]]:
    """Points and indices for Embree, from the very numbers the kernels use."""
    points = np.stack(
        [
            record[:, layout.three(layout.TRIANGLE_CORNER)],
            record[:, layout.three(layout.TRIANGLE_CORNER)] + record[:, layout.three(layout.TRIANGLE_EDGE_1)],
            record[:, layout.three(layout.TRIANGLE_CORNER)] + record[:, layout.three(layout.TRIANGLE_EDGE_2)],
        ],
        1,
    )
    return points.reshape(-1, 3), np.arange(3 * len(record), dtype=np.uint32).reshape(-1, 3)


def corners_of(record: NDArray[np.float32]) -> NDArray[np.float32]:
    """Corners (3 T, 3) of triangle records."""
    corner = record[:, layout.three(layout.TRIANGLE_CORNER)]
    along, across = (record[:, layout.three(e)] for e in (layout.TRIANGLE_EDGE_1, layout.TRIANGLE_EDGE_2))
    return np.concatenate([corner, corner + along, corner + across])
