"""Geometry as glTF 2.0 means it: matrices of nodes, and normals where a file gives none or bad ones."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray


def good_normals(normals: NDArray[np.float32]) -> NDArray[np.bool_]:
    """Which normals have a direction."""
    length = np.linalg.norm(normals.astype(np.float64), axis=1)
    return (length > 1e-6) & (length < 1e6)


def mended(
    normals: NDArray[np.float32], points: NDArray[np.float32], triangles: NDArray[np.uint32]
) -> NDArray[np.float32]:
    """Normals with those that have no direction made from the faces around, weighed by area."""
    corners = points[triangles].astype(np.float64)
    face = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    made = np.zeros((len(points), 3))
    for k in range(3):
        np.add.at(made, triangles[:, k], face)
    length = np.linalg.norm(made, axis=1, keepdims=True)
    made = np.where(length > 1e-30, made / np.maximum(length, 1e-30), [0.0, 0.0, 1.0])
    return np.where(good_normals(normals)[:, None], normals, made).astype(np.float32)


def rotation_matrices(quaternions: NDArray[np.float64]) -> NDArray[np.float64]:
    """Rotation matrices (N, 3, 3) of unit quaternions (N, 4) in the order x, y, z, w."""
    x, y, z, w = quaternions.T / np.linalg.norm(quaternions, axis=1)
    rows = [
        [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
        [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
        [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
    ]
    return np.moveaxis(np.array(rows), 2, 0)


def local_matrix(node: dict[str, Any]) -> NDArray[np.float64]:
    if node.get("matrix"):
        return np.array(node["matrix"], float).reshape(4, 4).T
    matrix = np.eye(4)
    if node.get("rotation"):
        matrix[:3, :3] = rotation_matrices(np.array([node["rotation"]], float))[0]
    if node.get("scale"):
        matrix[:3, :3] *= np.array(node["scale"], float)
    if node.get("translation"):
        matrix[:3, 3] = node["translation"]
    return matrix


def flat_shaded(
    points: NDArray[np.float32], uv: NDArray[np.float32], triangles: NDArray[np.uint32]
) -> tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.uint32], NDArray[np.float32]]:
    """Vertices split per triangle with the face's own normal, for models that carry none."""
    corners = points[triangles]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-20)
    return (
        corners.reshape(-1, 3), uv[triangles].reshape(-1, 2),
        np.arange(corners.shape[0] * 3, dtype=np.uint32).reshape(-1, 3), np.repeat(normal, 3, axis=0).astype(np.float32),
    )  # fmt: skip
