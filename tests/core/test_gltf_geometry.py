"""Geometry as glTF means it, against scipy's rotations and trimesh's matrices and normals."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from scipy.spatial.transform import Rotation

from valleylight.core.stage.gltf.geometry import flat_shaded, good_normals, local_matrix, mended, rotation_matrices

RNG = np.random.default_rng(7)


def test_quaternions_turn_as_scipy_has_it():
    """x, y, z, w; those of files are seldom of unit length to the last digit."""
    quaternions = RNG.normal(size=(50, 4))
    assert rotation_matrices(quaternions) == pytest.approx(Rotation.from_quat(quaternions).as_matrix(), abs=1e-12)
    assert rotation_matrices(quaternions * 3) == pytest.approx(rotation_matrices(quaternions), abs=1e-12)


@pytest.mark.parametrize("node", [
    {}, {"translation": [1, 2, 3]}, {"scale": [2, 1, -0.5]}, {"rotation": [0.1, 0.7, -0.2, 0.6]},
    {"translation": [4, -1, 0.5], "rotation": [0.5, 0.5, 0.5, 0.5], "scale": [3, 3, 3]},
])  # fmt: skip
def test_a_node_is_scaled_then_turned_then_moved(node):
    """glTF 2.0, section 3.5.2: T R S."""
    turn = np.eye(4)
    turn[:3, :3] = Rotation.from_quat(node.get("rotation", [0, 0, 0, 1])).as_matrix()
    wanted = trimesh.transformations.concatenate_matrices(
        trimesh.transformations.translation_matrix(node.get("translation", [0, 0, 0])), turn,
        np.diag([*node.get("scale", [1, 1, 1]), 1.0]),
    )  # fmt: skip
    assert local_matrix(node) == pytest.approx(wanted, abs=1e-12)
    # The same as sixteen numbers, column by column.
    assert local_matrix({"matrix": wanted.T.ravel().tolist()}) == pytest.approx(wanted)


def test_missing_normals_are_those_of_the_faces_around():
    """Weighed by area, as trimesh makes vertex normals by area; good ones are left alone."""
    ball = trimesh.creation.icosphere(subdivisions=2, radius=2.0)
    points, triangles = np.asarray(ball.vertices, np.float32), np.asarray(ball.faces, np.uint32)
    given = np.asarray(points / 2.0, np.float32)
    given[::3] = 0.0
    given[1] = np.nan
    given[4] = 1e9
    made = mended(given, points, triangles)
    wanted = trimesh.geometry.weighted_vertex_normals(
        len(points), ball.faces, ball.face_normals, np.repeat(ball.area_faces[:, None], 3, 1)
    )
    for k in range(len(points)):
        if good_normals(given)[k]:
            assert (made[k] == given[k]).all()
        else:
            assert made[k] == pytest.approx(wanted[k], abs=1e-5)
    assert not good_normals(given)[[0, 1, 3, 4]].any()
    assert np.linalg.norm(made, axis=1) == pytest.approx(np.ones(len(points)), abs=1e-3)


def test_a_vertex_without_faces_points_up():
    made = mended(np.zeros((4, 3), np.float32), np.eye(4, 3, dtype=np.float32), np.array([[0, 1, 2]], np.uint32))
    assert made[3].tolist() == [0, 0, 1]
    assert made[0] == pytest.approx(np.ones(3) / np.sqrt(3), abs=1e-6)


def test_flat_shading_gives_every_face_its_own_corners():
    box = trimesh.creation.box(extents=(1, 2, 3))
    points, triangles = np.asarray(box.vertices, np.float32), np.asarray(box.faces, np.uint32)
    uv = RNG.uniform(size=(len(points), 2)).astype(np.float32)
    corners, laid, order, normals = flat_shaded(points, uv, triangles)
    assert order.ravel().tolist() == list(range(36))
    assert (corners[order] == points[triangles]).all() and (laid[order] == uv[triangles]).all()
    assert normals[order][:, 0] == pytest.approx(box.face_normals, abs=1e-6)
    flat = np.zeros((1, 3), np.uint32)  # a triangle without a size has no direction, and is no NaN
    assert np.isfinite(flat_shaded(points, uv, flat)[3]).all()
