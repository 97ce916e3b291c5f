"""Models that are damaged, meant to do harm, or legal but seldom: each comes in, or is refused in words; nothing unchecked goes on."""

from __future__ import annotations

import base64
import io
import json
import struct
import time

import numpy as np
import pytest
from PIL import Image

from tests import glb
from tests.glb import changed, packed, square
from valleylight.core.errors import InputError
from valleylight.core.measure import plan
from valleylight.core.stage import read_glb
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.scene.geometry import build_geometry, with_bodies


def broken(values: np.ndarray, at: tuple[int, int], value: float) -> np.ndarray:
    out = values.astype(np.float32).copy()
    out[at] = value
    return out


REFUSED = {
    "no such material": (changed("meshes.0.primitives.0.material", 3), "points at number 3 of 1"),
    "a negative material": (changed("meshes.0.primitives.0.material", -1), "points at number -1"),
    "no such mesh": (changed("nodes.0.mesh", 9), "points at number 9 of 1"),
    "no such accessor": (changed("meshes.0.primitives.0.attributes.POSITION", 77), "points at number 77"),
    "no such view": (changed("accessors.0.bufferView", 12), "points at number 12"),
    "no such buffer": (changed("bufferViews.0.buffer", 4), "points at number 4"),
    "an index past the points": (packed(*square(indices=np.array([0, 1, 9], np.uint32))), "index 9 points past"),
    "indices with decimals": (packed(*square(indices=np.array([0, 1, 2], np.float32))), "whole numbers"),
    "a position of NaN": (packed(*square(POSITION=broken(glb.POINTS, (1, 0), np.nan))), "not a finite number"),
    "positions of two numbers": (changed("accessors.0.type", "VEC2"), "2 numbers each where 3"),
    "a count of a billion without data": (changed("accessors.0", {"componentType": 5126, "count": 10**9, "type": "VEC3"}), "million numbers"),
    "a negative count": (changed("accessors.0.count", -4), "holds nothing"),
    "a count of none": (changed("accessors.3.count", 0), "holds nothing"),
    "a type nobody knows": (changed("accessors.0.componentType", 9999), "does not know"),
    "a view past the end": (changed("bufferViews.0.byteOffset", 10**7), "past the end"),
    "a view before the start": (changed("bufferViews.0.byteOffset", -64), "past the end"),
    "a node in a loop": (changed("nodes", [{"mesh": 0, "children": [0]}]), "in a loop"),
    "nodes in a ring": (changed("nodes", [{"mesh": 0, "children": [1]}, {"children": [0]}]), "in a loop"),
    "a node hung up twice": (changed("nodes", [{"children": [1, 1]}, {"mesh": 0}]), "hung up twice"),
    "a child that is not there": (changed("nodes.0.children", [5]), "no node 5"),
    "a matrix of NaN": (changed("nodes.0.matrix", [float("nan")] * 16), "stands or reaches farther"),
    "a place beyond all reach": (changed("nodes.0.translation", [1e30, 0, 0]), "stands or reaches farther"),
    "a scale beyond all reach": (changed("nodes.0.scale", [1e300] * 3), "stands or reaches farther"),
    "a factor that is no number": (changed("materials.0.pbrMetallicRoughness", {"roughnessFactor": "rough"}), "'rough'"),
    "a factor of NaN": (changed("materials.0.pbrMetallicRoughness", {"metallicFactor": float("nan")}), "no number"),
    "an extension nobody knows": (changed("extensionsRequired", ["ACME_wonder"]), "ACME_wonder"),
    "compressed triangles": (changed("extensionsRequired", ["EXT_meshopt_compression"]), "without compression"),
    "compressed triangles not owned up to": (changed("meshes.0.primitives.0.extensions", {"EXT_meshopt_compression": {}}), "without compression"),
    "compressed triangles that lie nowhere": (changed("meshes.0.primitives.0.extensions", {"KHR_draco_mesh_compression": {}}), "points at number None"),
    "compressed triangles that are none": (changed("meshes.0.primitives.0.extensions", {"KHR_draco_mesh_compression": {"bufferView": 0, "attributes": {"POSITION": 0}}}), "cannot be unpacked"),
    "compressed views": (changed("bufferViews.0.extensions", {"EXT_meshopt_compression": {}}), "without compression"),
    "a buffer elsewhere": (changed("buffers", [{"uri": "more.bin", "byteLength": 200}]), "'more.bin'"),
    "only nodes without a mesh": (changed("nodes", [{"name": "nothing"}]), "no triangles"),
    "nothing but a description": (packed({"asset": {"version": "2.0"}}, b""), ""),
    "a list for a description": (packed([1, 2], b""), "cannot be parsed"),  # type: ignore[arg-type]
    "depth without end": (packed(json.loads('{"asset":{"version":"2.0"},"extras":' + "[" * 900 + "]" * 900 + "}"), b""), ""),
}  # fmt: skip


@pytest.mark.parametrize("what", REFUSED)
def test_refused_in_words(what):
    data, words = REFUSED[what]
    with pytest.raises(InputError) as caught:
        read_glb(data, "tower.glb")
    assert "tower.glb" in str(caught.value) and words in str(caught.value)
    assert caught.value.remedy and "Error" not in caught.value.what.split("(")[0]


@pytest.mark.parametrize("cut", [0, 3, 11, 13, 19, 40, 200, 500, -1, -30])
def test_cut_off_anywhere(cut):
    data = packed(*square())
    with pytest.raises(InputError, match=r"tower\.glb"):
        read_glb(data[:cut], "tower.glb")


def test_bytes_that_were_damaged_never_do_more_than_be_refused():
    """Of five hundred damaged files each is read or refused; no other error, and what is read holds finite numbers."""
    data = bytearray(packed(*square()))
    rng = np.random.default_rng(11)
    read = 0
    for turn in range(500):
        other = bytearray(data)
        first = 12 if turn % 2 else len(data) - 200  # in the description, or among the numbers
        for place in rng.integers(first, len(data), rng.integers(1, 9)):
            other[place] = int(rng.integers(0, 256))
        try:
            stage = read_glb(bytes(other), "tower.glb")
        except InputError:
            continue
        read += 1
        for mesh in stage.meshes:
            assert np.isfinite(mesh.points).all() and np.isfinite(mesh.uv).all() and np.abs(mesh.uv).max() <= 1e6
            assert mesh.triangles.size == 0 or mesh.triangles.max() < len(mesh.points)
            assert (mesh.material >= 0).all() and (mesh.material < len(stage.materials)).all()
        build_geometry(stage, stage.materials)
    assert read > 50


@pytest.mark.parametrize("value", [np.nan, np.inf, -np.inf, 1e20, -3e7])
def test_texture_coordinates_that_are_no_numbers_are_set_to_zero_with_a_word(value):
    stage = read_glb(packed(*square(TEXCOORD_0=broken(glb.UV, (2, 1), value))), "tower.glb")
    assert stage.meshes[0].uv[2] == pytest.approx([0, 0])
    assert stage.meshes[0].uv[3] == pytest.approx([0, 1])
    assert "texture coordinates" in " ".join(stage.notes)


def test_normals_that_are_missing_too_few_or_without_direction():
    few = read_glb(packed(*square(NORMAL=glb.NORMALS[:2])), "tower.glb")
    assert "2 normals for 4 points" in " ".join(few.notes)
    assert np.abs(few.meshes[0].normals[:, 2]) == pytest.approx(np.ones(6))
    none = read_glb(packed(*square(NORMAL=broken(glb.NORMALS, (1, 2), 0.0))), "tower.glb")
    assert none.meshes[0].normals == pytest.approx(glb.NORMALS)
    wild = read_glb(packed(*square(NORMAL=broken(glb.NORMALS, (1, 0), np.nan))), "tower.glb")
    assert wild.meshes[0].normals == pytest.approx(glb.NORMALS) and wild.notes


def test_texture_coordinates_stay_with_meshes_that_have_no_normals():
    document, blob = square()
    del document["meshes"][0]["primitives"][0]["attributes"]["NORMAL"]
    mesh = read_glb(packed(document, blob), "tower.glb").meshes[0]
    assert mesh.uv == pytest.approx(glb.UV[glb.CORNERS])


@pytest.mark.parametrize("scale", [[0, 1, 1], [0, 0, 0], [1e-9, 1, 1]])
def test_objects_scaled_to_nothing_are_left_out_with_a_word(scale):
    document, blob = square()
    document["nodes"] += [{"mesh": 0, "name": "flat", "scale": scale}]
    document["scenes"][0]["nodes"] = [0, 1]
    stage = read_glb(packed(document, blob), "tower.glb")
    if min(np.abs(scale)) > 0:
        assert build_geometry(stage, stage.materials).world > 0
        return
    assert [p.name for p in stage.instances] == ["square"]
    assert "'flat'" in " ".join(stage.notes)
    build_geometry(stage, stage.materials)


def test_mirrored_and_tiny_objects_stand():
    for scale in ([-1, 1, 1], [1e-4, 1e-4, 1e-4], [-0.5, -0.5, -0.5]):
        document, blob = square()
        document["nodes"] += [{"mesh": 0, "name": "other", "scale": scale}]
        document["scenes"][0]["nodes"] = [0, 1]
        stage = read_glb(packed(document, blob), "tower.glb")
        assert len(stage.instances) == 2 and build_geometry(stage, stage.materials).world == 4


@pytest.mark.parametrize("scale", [0.0101, 1.0, 99_000.0])
def test_models_of_1_cm_to_100_km_come_in(scale):
    assert not read_glb(changed("nodes.0.scale", [scale] * 3), "tower.glb").notes


@pytest.mark.parametrize(
    ("scale", "told"), [(0.001, "measures 1 mm"), (0.0099, "measures 9.9 mm"), (101_000, "measures 101 km")]
)
def test_smaller_and_larger_models_are_refused_with_their_size(scale, told):
    with pytest.raises(InputError, match=told) as refused:
        read_glb(changed("nodes.0.scale", [scale] * 3), "tower.glb")
    assert "metres" in str(refused.value) and "tower.glb" in str(refused.value)


@pytest.mark.parametrize("away", [[2e5, 0, 0], [0, 0, -5e6], [4.4e5, 3e2, -5.6e6]])
def test_what_stands_far_from_the_rest_is_left_out_with_a_word(away):
    """A marker at the zero of the survey, and the building at its coordinates; or the other way round."""
    document, blob = square()
    document["nodes"] = [{"mesh": 0, "name": f"wall {k}", "translation": [a + k for a in away]} for k in range(3)] + [
        {"mesh": 0, "name": "marker"}
    ]
    document["scenes"][0]["nodes"] = [0, 1, 2, 3]
    stage = read_glb(packed(document, blob), "tower.glb")
    assert [p.name for p in stage.instances] == ["wall 0", "wall 1", "wall 2"]
    assert "'marker'" in " ".join(stage.notes)
    near = [a + 90_000 * (k == 0) for k, a in enumerate(away)]
    document["nodes"][3]["translation"] = near
    assert len(read_glb(packed(document, blob), "tower.glb").instances) == 4


def test_a_mesh_used_often_far_from_the_zero_of_its_frame_keeps_its_shape():
    """Ten thousand uses of a mesh whose corners lie 6 km from the zero of its frame, put back beside each other by their nodes."""
    far = np.array([6000.0, 250.0, -4000.0])
    points = (glb.POINTS + far).astype(np.float32)  # half a millimetre, as it stands in the file
    document, blob = square(POSITION=points)
    document["nodes"] = [
        {"mesh": 0, "name": f"tile {k}", "translation": [k % 100 - far[0], k // 100 - far[1], -far[2]]}
        for k in range(10_100)
    ]
    document["scenes"][0]["nodes"] = list(range(10_100))
    stage = read_glb(packed(document, blob), "tiles.glb")
    built = build_geometry(stage, stage.materials)
    assert built.world == 0 and len(built.arrays["transforms"]) == 10_100
    scene = with_bodies(built, None, 1).scene
    ray = rays.new_ray()
    for x, y in ((0.5, 0.5), (50.25, 50.75), (99.5, 100.5)):
        # Y up in the file, Z up in the stage: tiles stand upright and are met from the south.
        assert rays.closest(scene.handle, ray, ray.view(np.uint32), x, -9.0, y, 0.0, 1.0, 0.0, 100.0, rays.EVERYTHING)
        assert float(ray[rays.FAR]) == pytest.approx(9.0, abs=1e-3)


def test_bytes_in_the_description_and_further_buffers_are_read():
    """glTF 2.0, section 3.6.1: buffers by data URI, beside the file's own or in its place."""
    document, blob = square()
    coded = "data:application/octet-stream;base64," + base64.b64encode(glb.POINTS.tobytes()).decode()
    document["buffers"].append({"byteLength": glb.POINTS.nbytes, "uri": coded})
    document["bufferViews"].append({"buffer": 1, "byteOffset": 0, "byteLength": glb.POINTS.nbytes})
    document["accessors"][0]["bufferView"] = len(document["bufferViews"]) - 1
    moved = blob[glb.POINTS.nbytes :]
    for view in document["bufferViews"][1:-1]:
        view["byteOffset"] -= glb.POINTS.nbytes
    document["buffers"][0]["byteLength"] = len(moved)
    assert read_glb(packed(document, moved), "tower.glb").meshes[0].points == pytest.approx(glb.POINTS)
    document["buffers"][1]["uri"] = coded[:-9] + "*"
    with pytest.raises(InputError, match="damaged"):
        read_glb(packed(document, moved), "tower.glb")


def test_pictures_in_the_description_are_read_and_too_many_refused():
    out = io.BytesIO()
    Image.new("RGB", (8, 4), (200, 10, 10)).save(out, "PNG")
    uri = "data:image/png;base64," + base64.b64encode(out.getvalue()).decode()
    document, blob = square()
    document |= {"images": [{"uri": uri}], "textures": [{"source": 0}]}
    document["materials"][0]["pbrMetallicRoughness"] = {"baseColorTexture": {"index": 0}}
    stage = read_glb(packed(document, blob), "tower.glb")
    assert stage.textures[0].pixels.shape == (4, 8, 3) and stage.textures[0].pixels[0, 0, 0] == 200
    huge = io.BytesIO()
    Image.new("1", (13000, 13000)).save(huge, "PNG")
    uri = "data:image/png;base64," + base64.b64encode(huge.getvalue()).decode()
    document |= {"images": [{"uri": uri}] * 6, "textures": [{"source": k} for k in range(6)]}
    document["materials"] = [{"pbrMetallicRoughness": {"baseColorTexture": {"index": k}}} for k in range(6)]
    began = time.monotonic()
    with pytest.raises(InputError, match="million pixels"):
        read_glb(packed(document, blob), "tower.glb")
    assert time.monotonic() - began < 60


@pytest.mark.parametrize(("alpha", "glass"), [(0.2, True), (0.6, True), (1.0, False)])
def test_panes_painted_see_through_are_glass(alpha, glass):
    painted = {
        "name": "window",
        "alphaMode": "BLEND",
        "pbrMetallicRoughness": {"baseColorFactor": [0.5, 0.8, 1.0, alpha]},
    }
    stage = read_glb(changed("materials", [painted]), "tower.glb")
    window = stage.materials[0]
    assert window.thin_glass == glass
    if glass:
        assert window.tint == pytest.approx((1 - alpha * 0.5, 1 - alpha * 0.2, 1.0)) and window.roughness == 0.0
        assert "taken as thin glass" in " ".join(stage.notes)


def test_twenty_thousand_nodes_come_in_and_are_cut_quickly():
    """Ten times what is usual; a loop that grows with the square of their number would take minutes."""
    document, blob = square()
    document["nodes"] = [{"mesh": 0, "name": f"n{k}", "translation": [k % 200, 0, k // 200]} for k in range(20_000)]
    document["scenes"][0]["nodes"] = list(range(20_000))
    began = time.monotonic()
    stage = read_glb(packed(document, blob), "tower.glb")
    assert len(stage.instances) == 20_000
    geometry = build_geometry(stage, stage.materials)
    assert len(geometry.parts) == 20_000  # one mesh in many places
    # Squares stand upright in the stage: y up becomes z up.
    segments = plan.cut(stage, 0.5, (-1, -200), (300, 200))
    assert len(segments) == 40_000
    assert time.monotonic() - began < 60


def test_a_wrong_length_of_the_whole_file_is_told():
    data = packed(*square())
    longer = data[:8] + struct.pack("<I", len(data) + 100) + data[12:]
    with pytest.raises(InputError, match="cut off"):
        read_glb(longer, "tower.glb")
