"""Import of GLB models: what arrives is what was written, and broken files say so."""

from __future__ import annotations

import io
import struct

import numpy as np
import pytest
import trimesh
from PIL import Image

from tests import small
from valleylight.core.errors import InputError
from valleylight.core.making.glb import Model, Surface, Thing, place, write_glb
from valleylight.core.making.shapes import box
from valleylight.core.measure import plan
from valleylight.core.stage import read_glb


def test_materials_size_layers_and_openings_arrive():
    stage = read_glb(small.room_glb())
    by_name = {m.name: m for m in stage.materials}
    assert by_name["plaster"].base == pytest.approx((0.7, 0.7, 0.68))
    assert by_name["glass"].thin_glass and by_name["glass"].tint == pytest.approx((0.96, 0.98, 0.97))
    assert by_name["oak"].roughness == pytest.approx(0.5)
    low, high = stage.bounds()
    assert low == pytest.approx([-30, -30, -0.1]) and high == pytest.approx([30, 30, 3.1], abs=1e-6)
    assert stage.layers == ("ground",)
    assert stage.openings[0].inward == (0, 1, 0)


def test_instances_stand_where_they_were_put():
    model = Model()
    model.surface(Surface("s", (0.5, 0.5, 0.5)))
    matrices = [place((3, 4, 5), 30, 2.0), place((-1, 0, 0), -75)]
    model.put(Thing("t").add("s", box([0, 0, 0], [1, 2, 3])), at=matrices)
    stage = read_glb(write_glb(model))
    assert len(stage.instances) == 2
    for instance, matrix in zip(stage.instances, matrices, strict=True):
        mesh = stage.meshes[instance.mesh].points.astype(float)
        world = mesh @ instance.matrix[:3, :3].T + instance.matrix[:3, 3]
        expected = box([0, 0, 0], [1, 2, 3]).points @ matrix[:3, :3].T + matrix[:3, 3]
        assert world == pytest.approx(expected, abs=1e-5)


def test_a_model_of_another_exporter_reads_alike():
    """trimesh writes the box; we read its size and place."""
    trimesh_box = trimesh.creation.box(extents=(2, 3, 4))
    trimesh_box.apply_translation((1, 2, 3))  # trimesh is told Y up coordinates
    stage = read_glb(trimesh.Scene(trimesh_box).export(file_type="glb"))
    low, high = stage.bounds()
    assert low == pytest.approx([0, -5, 0.5], abs=1e-6)
    assert high == pytest.approx([2, -1, 3.5], abs=1e-6)


def test_textures_arrive_upright():
    pixels = np.zeros((4, 4, 3), np.uint8)
    pixels[0] = 200
    model = Model()
    model.surface(Surface("s", texture=pixels))
    model.put(Thing("t").add("s", box([0, 0, 0], [1, 1, 1])))
    stage = read_glb(write_glb(model))
    assert stage.textures[0].pixels[0].mean() > 150 > 50 > stage.textures[0].pixels[3].mean()


def _png() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (4, 4)).save(out, "PNG")
    return out.getvalue()


GOOD = small.room_glb()
BROKEN = {
    "a picture": (_png(), "a picture"),
    "empty": (b"", "not a GLB"),
    "cut off": (GOOD[: len(GOOD) // 2], "cut off"),
    "version 1": (GOOD[:4] + struct.pack("<I", 1) + GOOD[8:], "version 1"),
    "damaged description": (GOOD[:40] + b"\xff\xfe{{" + GOOD[44:], "damaged"),
    "no triangles": (write_glb(Model()), "no triangles"),
}


@pytest.mark.parametrize("name", BROKEN)
def test_broken_models_are_refused_in_words(name):
    data, words = BROKEN[name]
    with pytest.raises(InputError) as caught:
        read_glb(data, "house.glb")
    assert "house.glb" in str(caught.value) and words in str(caught.value)
    assert caught.value.remedy


def test_plan_cut_through_the_room():
    """At 1.2 m the outer length of the walls' faces can be summed by hand."""
    stage = read_glb(GOOD)
    segments = plan.cut(stage, 1.2, (-5, -5), (10, 10))
    length = np.hypot(segments[:, 2] - segments[:, 0], segments[:, 3] - segments[:, 1]).sum()
    boxes = 2 * (6 + 0.2) + 4 * (4 + 0.2) + 4 * (2 + 0.2)  # north; west and east; two piers of the south wall
    assert length == pytest.approx(boxes + 2.0, abs=0.01)  # and the glass
