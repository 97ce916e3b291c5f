"""Layers whose things stand as boxes while a picture is tried: the boxes are those of the things, and nothing else is changed by them."""

from __future__ import annotations

import hashlib
from dataclasses import replace

import numpy as np
import pytest

from tests.shapes import box_glb, ground_glb
from valleylight.core.making.glb import Model, Surface, Thing, write_glb
from valleylight.core.making.shapes import tube
from valleylight.core.measure import pick
from valleylight.core.project.build import build
from valleylight.core.project.description import Layer, Made, Occasion, Placement, Project, View
from valleylight.core.stage import read_glb
from valleylight.core.stage.boxes import as_boxes, box_of
from valleylight.core.stage.model import Mesh, StageData, boxes_of
from valleylight.core.trace.scene.compiler import Compiler, without_boxes
from valleylight.core.trace.scene.quality import SKETCH


def sha(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


def ring_glb() -> bytes:
    """An upright hoop 2 m across in the plane of x and z, its middle 1 m up: a ray through its middle meets nothing."""
    model = Model()
    model.surface(Surface("bark", (0.3, 0.2, 0.1)))
    turns = np.linspace(0, 2 * np.pi, 25)
    path = np.stack([np.cos(turns), np.zeros(25), 1 + np.sin(turns)], 1)
    model.put(Thing("hoop").add("bark", tube(path, np.full(25, 0.05), 8)))
    return write_glb(model)


RING, GROUND = ring_glb(), ground_glb(0.0)
VIEW = View(key="v", name="v", position=(0, -8, 1), target=(0, 0, 1))
NOON = Occasion(key="o", name="o", when="2026-06-21T12:00:00")


def hoops(boxed=(), layer="trees", repeat=None, made=True):
    """A hoop on a layer of ours over level ground."""
    placements = (
        Placement(key="ground", name="ground", asset=sha(GROUND)),
        Placement(
            key="hoop", name="Hoop", asset=sha(RING), layer=layer, made=Made(family="hoop") if made else None, repeat=repeat
        ),
    )  # fmt: skip
    project = build(
        files=[RING, GROUND], placements=placements, views=(VIEW,), occasions=(NOON,),
        layers=(Layer(key="trees", name="Trees"), Layer(key="others", name="Others")),
    )  # fmt: skip
    stage = project.description.stage.model_copy(update={"boxed": boxed})
    return replace(project, description=project.description.model_copy(update={"stage": stage}))


def met_in_the_middle(project, quality, compiler=None):
    scene = (compiler or Compiler()).scene(project, VIEW, NOON, 64, 36, 1, quality)
    return pick.through_picture(scene, 0.5, 0.5)


def test_a_box_is_that_of_its_mesh_and_closed():
    mesh = read_glb(RING).meshes[0]
    box = box_of(mesh)
    assert box.points.min(0) == pytest.approx(mesh.points.min(0), abs=1e-6)
    assert box.points.max(0) == pytest.approx(mesh.points.max(0), abs=1e-6)
    a, b, c = (box.points[box.triangles[:, k]].astype(float) for k in range(3))
    normals = np.cross(b - a, c - a) / 2
    assert normals.sum(0) == pytest.approx(np.zeros(3), abs=1e-9)  # closed
    # Divergence theorem: the volume within faces that look outwards.
    size = np.ptp(box.points.astype(float), axis=0)
    assert np.einsum("ij,ij->", a, normals) / 3 == pytest.approx(np.prod(size), rel=1e-5)
    told = box.normals[box.triangles[:, 0]]
    assert np.einsum("ij,ij->i", told, normals) == pytest.approx(np.linalg.norm(normals, axis=1), rel=1e-5)


def test_a_flat_mesh_has_a_box_with_some_thickness():
    flat = Mesh(
        np.array([[0, 0, 5], [2, 0, 5], [2, 3, 5]], np.float32), np.zeros((3, 3), np.float32), np.zeros((3, 2), np.float32),
        np.array([[0, 1, 2]], np.uint32), np.zeros(1, np.int32),
    )  # fmt: skip
    size = np.ptp(box_of(flat).points, axis=0)
    assert size[:2] == pytest.approx([2, 3]) and 0 < size[2] < 0.01


def test_a_box_is_of_the_material_that_covers_most():
    points = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1], [5, 0, 1], [0, 5, 1]], np.float32)
    two = Mesh(
        points, np.zeros_like(points), np.zeros((6, 2), np.float32), np.array([[0, 1, 2], [3, 4, 5]], np.uint32),
        np.array([7, 2], np.int32),
    )  # fmt: skip
    assert set(box_of(two).material.tolist()) == {2}


def test_only_what_stands_on_the_layer_is_boxed_and_where_it_stands_stays():
    compiler = Compiler()
    whole, boxed = compiler.stage(hoops()), compiler.stage(hoops(("trees",)))
    assert len(whole.instances) == len(boxed.instances) == 2
    for before, after in zip(whole.instances, boxed.instances, strict=True):
        assert (before.name, before.layer) == (after.name, after.layer)
        assert (before.matrix == after.matrix).all()
    hoop = boxed.instances[-1]
    assert len(boxed.meshes[hoop.mesh].triangles) == 12
    low, high = boxes_of(boxed.instances, boxed.meshes)
    expected = boxes_of(whole.instances, whole.meshes)
    assert low == pytest.approx(expected[0], abs=1e-6) and high == pytest.approx(expected[1], abs=1e-6)
    assert as_boxes(whole, ()) is whole and as_boxes(whole, ("others",)) is whole
    assert as_boxes(StageData(), ("trees",)) == StageData()


def test_what_is_no_heavier_than_a_box_stays():
    box = read_glb(box_glb(1.0))
    on = replace(box, instances=tuple(replace(i, layer="trees") for i in box.instances))
    assert as_boxes(on, ("trees",)) is on


@pytest.mark.parametrize("made", [True, False], ids=["object", "model"])
def test_only_pictures_that_want_boxes_show_them(made):
    """Through the middle of a hoop the ray goes on to nothing; its box stands in the way."""
    compiler = Compiler()
    boxed = hoops(("trees",), made=made)
    trying = replace(SKETCH, boxes=True)
    for _ in range(2):  # one after the other, from what is kept
        assert met_in_the_middle(boxed, SKETCH, compiler) is None
        met = met_in_the_middle(boxed, trying, compiler)
        assert met is not None and met.point[1] == pytest.approx(-0.05, abs=0.01)
        assert met_in_the_middle(hoops(made=made), trying, compiler) is None
        assert met_in_the_middle(hoops(("others",), made=made), trying, compiler) is None


def test_layers_of_models_are_boxed_by_key_and_by_their_own_name():
    project = Project(
        name="p",
        layers=(Layer(key="garden", name="Garden", in_models="planting"),),
        stage={"boxed": ("planting", "snow")},
    )
    assert project.boxed() == {"garden", "snow"}
    assert Project(name="p", stage={"boxed": ("garden",)}, layers=project.layers).boxed() == {"garden"}


def test_without_boxes_leaves_all_else():
    boxed = hoops(("trees",))
    assert without_boxes(boxed).description == hoops().description
    plain = hoops()
    assert without_boxes(plain) is plain


def test_order_and_names_of_layers_are_nothing_to_the_stage():
    compiler = Compiler()
    project = hoops(("trees",))
    layers = tuple(reversed(project.description.layers))
    renamed = tuple(layer.model_copy(update={"name": "x " + layer.name}) for layer in layers)
    other = replace(project, description=project.description.model_copy(update={"layers": renamed}))
    assert compiler.stage(project) is compiler.stage(other)
