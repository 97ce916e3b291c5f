"""The light mesh of the stage view: what of a stage is in it, in which colours, and whose it is."""

from __future__ import annotations

import json

import numpy as np
import pytest

from valleylight.core.colour.rgb import srgb_encode
from valleylight.core.measure import outline
from valleylight.core.stage import Material, Texture
from valleylight.core.stage.model import MeshInstance, StageData
from valleylight.validation.stages import quad

LOW, HIGH = np.full(3, -50.0), np.full(3, 50.0)
PICTURE = Texture(np.full((16, 16, 3), 188, np.uint8))  # half the light, by IEC 61966-2-1


def square(size: float, z: float, material: int):
    return quad([(0, 0, z), (size, 0, z), (size, size, z), (0, size, z)], material)


def stage(*instances: MeshInstance) -> StageData:
    materials = (
        Material(name="red", base=(0.5, 0.0, 0.0)), Material(name="pane", thin_glass=True, tint=(1, 1, 1)),
        Material(name="lamp", emission=(400, 200, 0)), Material(name="picture", base=(1, 1, 1), base_texture=0),
    )  # fmt: skip
    meshes = (square(1, 0, 0), square(4, 1, 1), square(2, 2, 2), square(3, 3, 3))
    every = instances or tuple(MeshInstance(k, np.eye(4), name=f"o{k}") for k in range(4))
    return StageData(meshes, every, materials, (PICTURE,))


def test_the_largest_come_first_with_their_colours_and_objects():
    made = outline.working_mesh(stage(), LOW, HIGH, frozenset())
    sizes = np.linalg.norm(
        np.cross(made.triangles[:, 1] - made.triangles[:, 0], made.triangles[:, 2] - made.triangles[:, 0]), axis=1
    )
    assert sizes == pytest.approx([16, 16, 9, 9, 4, 4, 1, 1])
    assert [made.names[k] for k in made.objects] == ["o1", "o1", "o3", "o3", "o2", "o2", "o0", "o0"]
    code = round(255 * float(srgb_encode(np.array(0.5))))
    assert made.colours[-1].tolist() == [code, 0, 0, 255]
    assert made.colours[0, 3] == outline.PANE
    assert made.colours[2].tolist() == [188, 188, 188, 255]
    assert made.colours[4].tolist() == [255, code, 0, 255]


def test_what_is_hidden_or_far_is_left_out():
    moved = np.eye(4)
    moved[0, 3] = 500
    some = (
        MeshInstance(0, np.eye(4), layer="trees", name="a"),
        MeshInstance(1, moved, name="far"),
        MeshInstance(2, np.eye(4), name="near"),
    )
    made = outline.working_mesh(stage(*some), LOW, HIGH, frozenset({"trees"}))
    assert made.names == ("near",)
    assert len(made.triangles) == 2
    assert len(outline.working_mesh(stage(*some[:2]), LOW, HIGH, frozenset({"trees"})).triangles) == 0


def test_a_coarser_mesh_keeps_what_is_large(monkeypatch):
    monkeypatch.setattr(outline, "MOST_TRIANGLES", 4)
    made = outline.working_mesh(stage(), LOW, HIGH, frozenset())
    assert {made.names[k] for k in made.objects} == {"o1", "o3"}


def test_survey_coordinates_keep_their_millimetres():
    far = np.eye(4)
    far[:3, 3] = 4_512_345.123, 1_234_567.891, 402.5
    made = outline.working_mesh(stage(MeshInstance(0, far, name="far")), far[:3, 3] - 9, far[:3, 3] + 9, frozenset())
    corners = made.triangles.astype(float) + made.origin
    assert corners.reshape(-1, 3).min(0) == pytest.approx(far[:3, 3], abs=1e-6)


def test_it_is_packed_as_it_says():
    made = outline.working_mesh(stage(), LOW, HIGH, frozenset())
    data = made.packed()
    count, letters = (int(v) for v in np.frombuffer(data, "<u4", 2, 24))
    assert np.array_equal(np.frombuffer(data, "<f4", 9 * count, 32), made.triangles.ravel())
    assert np.array_equal(np.frombuffer(data, "u1", 4 * count, 32 + 36 * count), made.colours.ravel())
    assert np.array_equal(np.frombuffer(data, "<u2", count, 32 + 40 * count), made.objects)
    assert json.loads(data[-letters:]) == list(made.names)
