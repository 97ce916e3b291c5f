"""The arrival sheet: its guesses on generated houses in five units, on any axis and far from zero, and what it finds doubtful."""

from __future__ import annotations

import tracemalloc

import numpy as np
import pytest
import trimesh

from tests.core.test_arrival import written
from valleylight.core.errors import InputError
from valleylight.core.stage.arrival import arrive, placed, sheet_of
from valleylight.core.stage.arrival.doubts import doubts_of
from valleylight.core.stage.arrival.outline import outline
from valleylight.core.stage.arrival.units import UNITS
from valleylight.core.stage.assembly import UP_MATRICES, assembled
from valleylight.core.stage.model import Material, Mesh, MeshInstance, StageData

RNG = np.random.default_rng(5)
AXES = ("z", "y", "x", "-y", "-x")


def box(low, high) -> trimesh.Trimesh:
    made = trimesh.creation.box(np.subtract(high, low))
    made.apply_translation((np.add(low, high)) / 2)
    return made


def house(storeys: int, storey: float, door: float, length: float) -> trimesh.Scene:
    """Floors, walls and two doors as objects of their own; Z up, in metres."""
    scene = trimesh.Scene()
    wide = length * 0.6
    for k in range(storeys + 1):
        scene.add_geometry(
            box((0, 0, k * storey - 0.2), (length, wide, k * storey)), node_name=f"floor {k}", geom_name=f"floor {k}"
        )
    for k, (low, high) in enumerate(
        [
            ((0, 0), (length, 0.2)),
            ((0, wide - 0.2), (length, wide)),
            ((0, 0.2), (0.2, wide - 0.2)),
            ((length - 0.2, 0.2), (length, wide - 0.2)),
        ]
    ):
        scene.add_geometry(
            box((*low, 0), (*high, storeys * storey - 0.2)), node_name=f"wall {k}", geom_name=f"wall {k}"
        )
    for k in range(2):
        at = 1.0 + 2 * k
        scene.add_geometry(box((at, -0.05, 0), (at + 0.95, 0.0, door)), node_name=f"door {k}", geom_name=f"door {k}")
    return scene


@pytest.mark.parametrize("unit", UNITS)
@pytest.mark.parametrize(
    ("storeys", "storey", "door", "length"), [(1, 2.7, 2.1, 9.0), (3, 3.0, 2.0, 24.0), (7, 3.4, 2.3, 60.0)]
)
def test_units_are_told_by_doors_and_storeys(unit, storeys, storey, door, length):
    scene = house(storeys, storey, door, length)
    scene.apply_scale(1 / UNITS[unit])
    made = arrive(_as_obj(scene), "house.obj")
    sheet = sheet_of(made.stage, "house.obj", made.metres)
    assert (sheet.unit.unit, sheet.unit.metres) == (unit, UNITS[unit]), sheet.unit.reason
    assert "door-like" in sheet.unit.reason and f"{door / UNITS[unit]:.4g}" in sheet.unit.reason
    assert sheet.up.up == "-y"  # an OBJ is taken as Y up; this one is not, and shows it
    thing = placed(sheet, "house", "0" * 64, sheet.unit.metres, sheet.up.up, 0.0, sheet.far is not None)
    low, high = assembled({"0" * 64: made.stage}, [thing]).bounds()
    assert high - low == pytest.approx([length, length * 0.6 + 0.05, storeys * storey + 0.2], rel=1e-3)
    assert low[2] == pytest.approx(-0.2, abs=1e-3)


def _as_obj(scene: trimesh.Scene) -> bytes:
    text = trimesh.exchange.obj.export_obj(scene)
    return (text if isinstance(text, str) else text[0]).encode()


@pytest.mark.parametrize("up", AXES)
def test_the_axis_that_is_up_is_found_where_the_file_does_not_say(up):
    """The house lies so that its own up is another axis; PLY and STL are taken as Z up."""
    scene = house(2, 2.9, 2.1, 14.0)
    turn = np.eye(4)
    turn[:3, :3] = UP_MATRICES[up].T
    scene.apply_transform(turn)
    mesh = scene.to_mesh()
    made = arrive(written(mesh, "stl"), "house.stl")
    found = sheet_of(made.stage, "house.stl", made.metres).up
    assert found.up == up and found.doubtful == (up != "z"), found.reason


@pytest.mark.parametrize("away", [(2_600_000.0, 1_200_000.0, 450.0), (-431_000.5, 5_500_000.25, 12.0)])
@pytest.mark.parametrize("scale", [1.0, 1000.0])
def test_survey_coordinates_are_taken_to_the_middle_without_losing_detail(away, scale):
    """A house of 12 m, a centimetre of detail in it, at the coordinates of a survey, in metres and in millimetres."""
    mesh = trimesh.util.concatenate([box((0, 0, 0), (12, 8, 5)), box((2, -0.01, 1), (3, 0, 2))])
    mesh.apply_translation(away)
    mesh.apply_scale(scale)
    lines = [f"v {x:.3f} {z:.3f} {-y:.3f}" for x, y, z in mesh.vertices] + [
        f"f {a + 1} {b + 1} {c + 1}" for a, b, c in mesh.faces
    ]
    made = arrive("\n".join(lines).encode(), "survey.obj")
    sheet = sheet_of(made.stage, "survey.obj", made.metres)
    assert sheet.unit.metres == pytest.approx(1 / scale)
    assert sheet.far is not None and np.multiply(sheet.far, sheet.unit.metres)[:2] == pytest.approx(
        np.add(away, (6, 4, 0))[:2], abs=0.02
    )
    thing = placed(sheet, "survey", "0" * 64, sheet.unit.metres, "z", 30.0, True)
    low, high = assembled({"0" * 64: made.stage}, [thing]).bounds()
    assert np.abs((low + high) / 2)[:2].max() < 0.1 and low[2] == pytest.approx(0, abs=1e-3)
    points = np.concatenate(
        [
            m.points.astype(float) @ i.matrix[:3, :3].T + i.matrix[:3, 3]
            for i in made.stage.instances
            for m in [made.stage.meshes[i.mesh]]
        ]
    )
    assert np.ptp(points[:, 1]) * sheet.unit.metres == pytest.approx(8.01, abs=2e-3)


def stage_of(*meshes: trimesh.Trimesh) -> StageData:
    made = tuple(
        Mesh(m.vertices.astype(np.float32), m.vertex_normals.astype(np.float32), np.zeros((len(m.vertices), 2), np.float32),
             m.faces.astype(np.uint32), np.zeros(len(m.faces), np.int32))
        for m in meshes
    )  # fmt: skip
    things = tuple(MeshInstance(k, np.eye(4), "", f"thing {k}") for k in range(len(made)))
    return StageData(made, things, (Material("plaster", (0.6, 0.55, 0.5)),))


@pytest.mark.parametrize(
    "shape", [trimesh.creation.icosphere(2), trimesh.creation.torus(2, 0.5), box((0, 0, 0), (3, 2, 1))]
)
def test_a_closed_shape_is_not_doubted_and_a_damaged_one_is(shape):
    assert doubts_of(stage_of(shape)) == []
    count = len(shape.faces)
    flipped = shape.copy()
    chosen = RNG.choice(count, max(1, count // 12), replace=False)
    flipped.faces[chosen] = flipped.faces[chosen][:, ::-1]
    kinds = {d.kind for d in doubts_of(stage_of(flipped))}
    assert "flipped" in kinds and "open" not in kinds
    doubled = trimesh.Trimesh(
        shape.vertices, np.concatenate([shape.faces, shape.faces[:2][:, [1, 2, 0]]]), process=False
    )
    found = doubts_of(stage_of(doubled))
    assert [d.kind for d in found] == ["doubled"] and found[0].text.startswith("4 triangles")
    opened = trimesh.Trimesh(shape.vertices, shape.faces[1:], process=False)
    gap = next(d for d in doubts_of(stage_of(opened)) if d.kind == "open")
    assert "3 open edges" in gap.text
    corner = shape.vertices[shape.faces[0]]
    low, high = np.array(gap.box)
    assert (low >= corner.min(0) - 1e-3).all() and (high <= corner.max(0) + 1e-3).all()  # it is shown where it is


def test_sheets_and_ground_are_told_apart():
    wall = trimesh.Trimesh([[0, 0, 0], [4, 0, 0], [4, 0, 3], [0, 0, 3]], [[0, 1, 2], [0, 2, 3]])
    x, y = np.meshgrid(np.arange(20.0), np.arange(20.0))
    k = (np.arange(19)[:, None] * 20 + np.arange(19)).ravel()
    ground = trimesh.Trimesh(
        np.column_stack([x.ravel(), y.ravel(), np.sin(x.ravel()) * 0.3]),
        np.concatenate([np.column_stack([k, k + 1, k + 21]), np.column_stack([k, k + 21, k + 20])]),
    )
    found = doubts_of(stage_of(wall, ground))
    assert [(d.kind, d.about) for d in found] == [("thin", "thing 0")]


def test_the_drawing_has_the_edges_of_a_box_and_no_more():
    """Twelve edges, whose lengths add up; the diagonals of its faces are none."""
    lines = outline(stage_of(box((0, 0, 0), (3, 2, 1))))
    assert len(lines) == 12 and np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1).sum() == pytest.approx(
        4 * (3 + 2 + 1)
    )
    assert len(outline(stage_of(*[box((k, 0, 0), (k + 0.5, 1, 1)) for k in range(40)]), 100)) == 100


def with_materials(*names: str) -> StageData:
    stage = stage_of(*[box((k, 0, 0), (k + 0.5, 1, 1)) for k in range(len(names))])
    meshes = tuple(
        Mesh(m.points, m.normals, m.uv, m.triangles, np.full(len(m.triangles), k, np.int32))
        for k, m in enumerate(stage.meshes)
    )
    return StageData(meshes, stage.instances, tuple(Material(n, (0.2 + 0.1 * k,) * 3) for k, n in enumerate(names)))


def test_a_newer_file_is_compared_with_the_one_before():
    before, after = (
        with_materials("Oak floor", "Render white", "Slate"),
        with_materials("oak_floor_01", "Slate", "Zinc gutter"),
    )
    compared = sheet_of(after, "new", 1.0, before, ("Oak floor", "Render white", "Slate")).compared
    assert compared is not None
    # What still has its name goes on by itself; the floor is found by likeness; nothing is like the render.
    assert [(m.name, m.likely) for m in compared.lost] == [("Oak floor", "oak_floor_01"), ("Render white", None)]
    assert compared.kept == 3 and compared.new == [] and compared.gone == []
    grown = sheet_of(with_materials("a", "b", "c", "d"), "new", 1.0, before, ()).compared
    assert grown is not None and grown.new == ["thing 3"]


def test_a_model_too_large_in_its_unit_is_the_size_of_a_building_in_another():
    """A plot of 300 m in millimetres would be 300 km in metres; one that fits no unit is refused as before."""
    made = arrive(written(box((0, 0, 0), (300_000, 12_000, 200_000)), "glb"), "plot.glb")
    sheet = sheet_of(made.stage, "plot.glb", made.metres)
    assert (sheet.unit.unit, sheet.unit.doubtful) == ("mm", True)
    from valleylight.core.stage import read_glb

    assert len(read_glb(made.glb, "again").instances) == 1  # and reads the same when it was kept
    with pytest.raises(InputError, match=r"the most|farther than"):
        arrive(written(box((0, 0, 0), (3e9, 2e9, 1e9)), "glb"), "planet.glb")


def test_wide_ground_does_not_shrink_the_drawing():
    """A house of 12 m on a plot of 200 m is drawn with a little room about it; a plot alone is drawn whole."""
    plot, home = box((-100, -100, -1), (100, 100, 0)), box((0, 0, 0), (12, 8, 5))
    low, high = np.array(sheet_of(stage_of(plot, home), "h", 1.0).frame)
    assert low == pytest.approx([-1.44, -1.44, -1.0]) and high == pytest.approx([13.44, 9.44, 5.0])
    low, high = np.array(sheet_of(stage_of(plot), "p", 1.0).frame)
    assert high - low == pytest.approx([200, 200, 1])


def test_what_stands_many_times_is_told_once_and_drawn_sparingly():
    """Twenty thousand grasses of a thousand blades: one doubt, and no more lines on the way than a few drawings hold."""
    blade = trimesh.creation.icosphere(3)
    one = stage_of(trimesh.Trimesh(blade.vertices, blade.faces[1:], process=False))
    places = RNG.uniform(-100, 100, (20_000, 3))
    matrices = np.tile(np.eye(4), (len(places), 1, 1))
    matrices[:, :3, 3] = places
    stage = StageData(one.meshes, tuple(MeshInstance(0, m, "", "grass") for m in matrices), one.materials)
    assert [(d.kind, d.about) for d in doubts_of(stage)] == [("open", "grass")]
    tracemalloc.start()
    assert len(outline(stage)) == 5000
    assert tracemalloc.get_traced_memory()[1] < 300e6
    tracemalloc.stop()


def test_a_doubtful_material_is_shown_where_all_of_it_is():
    """Two boxes of it, one of them turned and moved, and one of another material."""
    stage = with_materials("one", "other")
    meshes = (stage.meshes[0], stage.meshes[1])
    away = np.eye(4)
    away[:3, :3] = UP_MATRICES["y"]
    away[:3, 3] = (10, 20, 30)
    things = (MeshInstance(0, np.eye(4), "", "a"), MeshInstance(1, np.eye(4), "", "b"), MeshInstance(0, away, "", "c"))
    greys = (Material("one", (0.8, 0.8, 0.8)), Material("other", (0.4, 0.3, 0.2)))
    (doubt,) = [d for d in doubts_of(StageData(meshes, things, greys)) if d.kind == "surface"]
    points = meshes[0].points @ away[:3, :3].T + away[:3, 3]
    assert doubt.about == "one"
    assert np.array(doubt.box) == pytest.approx(
        np.array([np.minimum(meshes[0].points.min(0), points.min(0)), points.max(0)]), abs=1e-3
    )
