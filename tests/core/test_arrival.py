"""Models of many kinds as they arrive: read as trimesh and the formats' own words have it, packed or alone, or refused with the remedy.

Sources: trimesh's writers; Khronos glTF 2.0, COLLADA 1.4.1; MTL's statements Kd, d, Tr, Ke.
"""

from __future__ import annotations

import io
import json
import re
import zipfile
from typing import Any

import numpy as np
import pytest
import trimesh
from PIL import Image
from trimesh.exchange.dae import export_collada

from tests.glb import packed, square
from valleylight.core.errors import InputError
from valleylight.core.stage import read_glb
from valleylight.core.stage.arrival import arrive, sheet_of
from valleylight.core.stage.arrival.bundle import opened
from valleylight.core.stage.arrival.units import UNITS, guessed_unit, metres_of_object

SIZE = np.array([8.0, 5.0, 3.0])


def house(scale: float = 1.0) -> trimesh.Trimesh:
    """Eight metres along x, five along y, three up along z, standing on the ground beside the zero."""
    made = trimesh.creation.box(SIZE * scale)
    made.apply_translation(SIZE * scale / 2)
    return made


def written(mesh: trimesh.Trimesh, kind: str) -> bytes:
    data = export_collada(mesh) if kind == "dae" else mesh.export(file_type=kind)
    return data.encode() if isinstance(data, str) else bytes(data)


def zipped(**files: bytes | str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name.replace("__", "/"), data)
    return out.getvalue()


def folder(files: dict[str, bytes | str]) -> bytes:
    return zipped(**files)


def extent(stage) -> np.ndarray:
    low, high = stage.bounds()
    return high - low


def volume(stage) -> float:
    total = 0.0
    for i in stage.instances:
        mesh = stage.meshes[i.mesh]
        points = mesh.points.astype(float) @ i.matrix[:3, :3].T + i.matrix[:3, 3]
        a, b, c = np.moveaxis(points[mesh.triangles], 1, 0)
        total += np.einsum("ti,ti->", a, np.cross(b, c)) / 6
    return total


@pytest.mark.parametrize("kind", ["stl", "ply", "obj", "dae", "glb"])
@pytest.mark.parametrize(("unit", "scale"), [("m", 1.0), ("mm", 0.001), ("cm", 0.01)])
def test_size_volume_and_unit_of_every_kind(kind, unit, scale):
    """STL and PLY are taken as Z up, the others as Y up; in the end it is eight metres long."""
    factor = 1 / scale
    mesh = house(factor)
    if kind in ("obj", "dae", "glb"):  # written so that it stands in a Y up file
        mesh.apply_transform(np.array([[1, 0, 0, 0], [0, 0, 1, 0], [0, -1, 0, 0], [0, 0, 0, 1]], float))
    data = written(mesh, kind)
    if kind == "dae":
        data = data.replace(b"<asset>", f'<asset><unit name="x" meter="{scale}"/>'.encode()) if b"<unit" not in data else (
            re.sub(rb'meter="[^"]*"', f'meter="{scale}"'.encode(), data))  # fmt: skip
    made = arrive(data, f"house.{kind}")
    sheet = sheet_of(made.stage, "house", made.metres)
    assert made.metres == {"glb": 1.0, "dae": scale}.get(
        kind
    )  # glTF is in metres, COLLADA says its unit, the others say nothing
    assert sheet.unit.metres == pytest.approx(scale) and sheet.unit.stated == (kind in ("glb", "dae"))
    # A glTF in millimetres is 8 km long: it is read, and doubted.
    assert sheet.unit.doubtful == (unit != "m" and kind != "dae")
    assert extent(made.stage) == pytest.approx(SIZE * factor, rel=1e-5)
    assert volume(made.stage) == pytest.approx(SIZE.prod() * factor**3, rel=1e-4)
    # What is kept reads the same, words and all.
    again = read_glb(made.glb, "again")
    assert again.notes == made.stage.notes and extent(again) == pytest.approx(extent(made.stage))


@pytest.mark.parametrize("unit", UNITS)
@pytest.mark.parametrize("across", [3.0, 12.0, 80.0])
def test_units_are_guessed_from_the_size_of_buildings(unit, across):
    """Where several fit the metre is taken, then the millimetre: feet and inches are seldom told from metres by size alone."""
    guess = guessed_unit(np.array([across, 3.0, across]) / UNITS[unit], 3.0 / UNITS[unit])
    there = across / UNITS[unit] * guess.metres
    assert 2.0 <= there <= 1500.0 and guess.doubtful == (guess.unit != "m")
    if unit in ("m", "mm"):
        assert guess.unit == unit
    assert guess.unit in guess.reason or guess.unit == "m"


@pytest.mark.parametrize("size", [1e-6, 0.5, 1e9])
def test_what_is_a_building_in_no_unit_is_left_in_metres(size):
    guess = guessed_unit(np.array([size, 0.0, 0.0]), 0.0)
    assert (guess.unit, guess.metres, guess.doubtful) == ("m", 1.0, True)


@pytest.mark.parametrize(("axis", "size"), [("X", [3, 5, 8]), ("Y", [8, 3, 5]), ("Z", [8, 5, 3])])
def test_colladas_own_axis_is_up(axis, size):
    made = trimesh.creation.box(size)
    data = written(made, "dae")
    stated = f"<up_axis>{axis}_UP</up_axis>".encode()
    data = (
        re.sub(rb"<up_axis>\w+</up_axis>", stated, data)
        if b"<up_axis>" in data
        else data.replace(b"</asset>", stated + b"</asset>")
    )
    assert extent(arrive(data, "x.dae").stage)[2] == pytest.approx(3)


OBJ = """mtllib parts/house.mtl
o wall
v 0 0 0
v 8 0 0
v 8 3 0
v 0 3 0
vt 0 0
vt 1 0
vt 1 1
vt 0 1
usemtl oak
f 1/1 2/2 3/3 4/4
o pane
v 1 1 0.1
v 2 1 0.1
v 2 2 0.1
usemtl glass
f 5/1 6/2 7/3
o lamp
v 3 1 0.1
v 4 1 0.1
v 4 2 0.1
usemtl shine
f 8/1 9/2 10/3
"""
MTL = "newmtl oak\nKd 0.5 0.3 0.1\nNs 50\nmap_Kd oak.png\nnewmtl glass\nKd 0.9 1 1\nd 0.3\nnewmtl shine\nKd 0.1 0.1 0.1\nKe 0.5 1 0\n"


def png(pixels: np.ndarray) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    return out.getvalue()


def test_obj_with_its_materials_and_pictures():
    pixels = np.random.default_rng(1).integers(0, 255, (4, 4, 3), np.uint8)
    made = arrive(folder({"m/house.obj": OBJ, "m/parts/house.mtl": MTL, "m/oak.png": png(pixels)}), "house.zip")
    by_name = {m.name: m for m in made.stage.materials}
    assert by_name["glass"].thin_glass and not by_name["oak"].thin_glass
    assert by_name["shine"].emission == pytest.approx((0.5, 1.0, 0.0))
    assert [note for note in made.stage.notes if "without a unit" in note and "'shine'" in note]
    assert (made.stage.textures[by_name["oak"].base_texture].pixels == pixels).all()
    assert by_name["oak"].roughness < by_name["glass"].roughness or by_name["glass"].roughness == 0
    assert {i.name.split("_")[0] for i in made.stage.instances} == {"wall", "pane", "lamp"}


@pytest.mark.parametrize("left", ["m/parts/house.mtl", "m/oak.png"])
def test_what_an_obj_refers_to_and_is_not_there_is_named(left):
    files: dict[str, Any] = {
        "m/house.obj": OBJ,
        "m/parts/house.mtl": MTL,
        "m/oak.png": png(np.zeros((2, 2, 3), np.uint8)),
    }
    del files[left]
    made = arrive(folder(files), "house.zip")
    assert left.rsplit("/", 1)[1] in " ".join(made.stage.notes)
    assert len(made.stage.instances) == 3


@pytest.mark.parametrize(
    "named", ["../../../etc/passwd", "/etc/hostname", "http://127.0.0.1/x.mtl", "file:///etc/hostname"]
)
def test_nothing_outside_what_was_handed_in_is_read(named):
    made = arrive(folder({"house.obj": OBJ.replace("parts/house.mtl", named)}), "house.zip")
    told = " ".join(made.stage.notes)
    assert "it refers to is not there" in told and b"root:" not in made.glb
    alone = arrive(OBJ.replace("parts/house.mtl", named).encode(), "house.obj")
    assert b"root:" not in alone.glb


def gltf(outside: bool, **more: Any) -> tuple[bytes, bytes]:
    document, blob = square()
    document.update(more)
    if outside:
        document["buffers"] = [{"uri": "data%20one.bin", "byteLength": len(blob)}]
    else:
        import base64

        document["buffers"] = [{"uri": "data:;base64," + base64.b64encode(blob).decode(), "byteLength": len(blob)}]
    return json.dumps(document).encode(), blob


def test_gltf_beside_its_files_is_what_its_binary_is():
    text, blob = gltf(True)
    made = arrive(folder({"house.gltf": text, "data one.bin": blob}), "house.zip").stage
    same = read_glb(packed(*square()), "same")
    assert (made.meshes[0].points == same.meshes[0].points).all() and made.notes == same.notes
    alone = arrive(gltf(False)[0], "house.gltf").stage
    assert (alone.meshes[0].uv == same.meshes[0].uv).all()


def test_gltf_of_two_buffers_and_a_picture_beside_it():
    document, blob = square()
    half = document["bufferViews"][2]["byteOffset"]
    document["buffers"] = [{"uri": "a.bin", "byteLength": half}, {"uri": "b.bin", "byteLength": len(blob) - half}]
    for view in document["bufferViews"][2:]:
        view["buffer"], view["byteOffset"] = 1, view["byteOffset"] - half
    pixels = np.full((3, 3, 3), 77, np.uint8)
    document["images"], document["textures"] = [{"uri": "pictures/wood.png"}], [{"source": 0}]
    document["materials"] = [{"name": "m", "pbrMetallicRoughness": {"baseColorTexture": {"index": 0}}}]
    files = {
        "in/h.gltf": json.dumps(document),
        "in/a.bin": blob[:half],
        "in/b.bin": blob[half:],
        "in/pictures/wood.png": png(pixels),
    }
    made = arrive(folder(files), "h.zip").stage
    assert (made.textures[0].pixels == pixels).all() and made.meshes[0].triangles.tolist() == [[0, 1, 2], [0, 2, 3]]
    del files["in/pictures/wood.png"]
    without = arrive(folder(files), "h.zip").stage
    assert without.materials[0].base_texture == -1 and "pictures/wood.png" in " ".join(without.notes)
    del files["in/b.bin"]
    with pytest.raises(InputError, match=r"b\.bin"):
        arrive(folder(files), "h.zip")


def test_corners_that_are_no_numbers_are_counted_and_left_out():
    text = OBJ.replace("v 8 3 0", "v nan 3 0").replace("mtllib parts/house.mtl\n", "")
    made = arrive(text.encode(), "house.obj")
    assert "no numbers" in " ".join(made.stage.notes)
    assert all(np.isfinite(mesh.points).all() for mesh in made.stage.meshes)


REFUSED = {
    "nothing": (b"", "x.obj", "no model|triangles|cannot be read"), "a picture": (png(np.zeros((2, 2, 3), np.uint8)), "x.png", "a picture"),
    "another kind": (b"whatever", "house.xyz", r"\.xyz are not read"), "words": (b"hello there", "readme.txt", r"\.txt are not read"),
    "points alone": (b"v 0 0 0\nv 1 0 0\n", "x.obj", "no triangles|cannot be read"), "an obj of noise": (b"f 1 2 3\n", "x.obj", "cannot be read|no triangles"),
    "a cut stl": (written(house(), "stl")[:200], "x.stl", "cannot be read|no triangles"), "a cut ply": (written(house(), "ply")[:150], "x.ply", "cannot be read"),
    "an index past the points": (b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n", "x.obj", "cannot be read|no triangles|no numbers"),
    "no collada": (b"<COLLADA>nothing", "x.dae", "cannot be read"), "no json": (b"{", "x.gltf", "no JSON"), "a list": (b"[]", "x.gltf", "cannot be parsed"),
    "buffers that are none": (b'{"buffers": 3}', "x.gltf", "no list of tables"),
    "a buffer elsewhere": (gltf(True)[0], "x.gltf", "data%20one.bin"),
    "a zip of nothing": (zipped(), "x.zip", "no model"), "a zip of words": (zipped(a__txt="hello"), "x.zip", "no model"),
    "a zip of two": (folder({"a.obj": OBJ, "b.stl": written(house(), "stl")}), "x.zip", "2 models"),
    "a cut zip": (zipped(a=OBJ * 50)[:300], "x.zip", "cannot be unpacked"), "a way out": (folder({"../a.obj": OBJ}), "x.zip", "leads out"),
    "an absolute way": (folder({"/a.obj": OBJ}), "x.zip", "leads out"), "a bomb": (folder({"a.obj": b"v 0 0 0\n" * 40_000_000}), "x.zip", "unpacked it would be"),
    "entities": (b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/hostname">]><COLLADA>&a;</COLLADA>', "x.dae", "entities"),
    "entities in UTF-16": ('<?xml version="1.0" encoding="utf-16"?><!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/hostname">]><COLLADA>&a;</COLLADA>'.encode("utf-16"), "x.dae", "another encoding"),
    "UTF-16 without a mark": ('<COLLADA/>'.encode("utf-16-le"), "x.dae", "another encoding"),
    "an encoding of old": (b'<?xml version="1.0" encoding="IBM037"?>' + '<!DOCTYPE x>'.encode("cp037"), "x.dae", "another encoding"),
    "a unit that is none": (written(house(), "dae").replace(b"<asset>", b'<asset><unit meter="far"/>'), "x.dae", "its unit"),
    "geometry hung up nowhere": (re.sub(rb"<instance_visual_scene[^>]*/>|<scene>.*?</scene>", b"", re.sub(rb"<node.*</node>", b"", written(house(), "dae"), flags=re.S), flags=re.S), "x.dae", "no triangles|nothing of the model|cannot be read"),
    "too many files": (folder({f"{k}.txt": "" for k in range(5001)}), "x.zip", "5001 files"),
}  # fmt: skip


@pytest.mark.parametrize("what", REFUSED)
def test_refused_with_the_file_and_the_remedy(what):
    data, name, words = REFUSED[what]
    with pytest.raises(InputError, match=words) as caught:
        arrive(data, name)
    assert caught.value.remedy and caught.value.where


def test_bytes_that_were_damaged_never_do_more_than_be_refused():
    rng = np.random.default_rng(5)
    for kind in ("stl", "ply", "obj", "dae"):
        data = written(house(), kind)
        for _ in range(60):
            other = bytearray(data)
            for place in rng.integers(0, len(data), 4):
                other[place] = int(rng.integers(0, 256))
            try:
                stage = arrive(bytes(other), f"x.{kind}").stage
            except InputError:
                continue
            assert all(np.isfinite(mesh.points).all() for mesh in stage.meshes)


def test_the_content_tells_the_kind_where_the_suffix_lies():
    assert extent(arrive(written(house(), "stl"), "house.obj").stage) == pytest.approx(SIZE)
    assert extent(arrive(written(house(), "ply"), "house.glb").stage) == pytest.approx(SIZE)
    assert len(arrive(packed(*square()), "house.stl").stage.instances) == 1


def test_a_bundle_finds_files_by_path_then_by_name():
    bundle = opened(folder({"a/x.png": b"1", "b/y.png": b"2", "b/X.PNG": b"3", "Thumbs.db": b"4"}), "z.zip")
    assert bundle.find("x.png", "a/model.obj") == b"1" and bundle.find("../b/y.png", "a/model.obj") == b"2"
    assert bundle.find("C:\\work\\Y.PNG", "a/model.obj") == b"2"  # by its name alone
    assert bundle.find("x.png", "c/model.obj") is None  # there are two
    assert bundle.missing == ["x.png"]


@pytest.mark.parametrize(
    ("greatest", "unit"),
    [(0.9, "m"), (90, "cm"), (900, "mm"), (36, "inch"), (2.2, "m"), (2200, "mm"), (210, "cm"), (1.1, "m")],
)
def test_the_unit_of_an_object_is_that_of_furniture(greatest, unit):
    """Chairs are 0.9 m high, beds 2.1 m long, cabinets 2.2 m high (common practice)."""
    assert metres_of_object(np.array([greatest / 2, greatest, greatest / 3])) == UNITS[unit]
    assert metres_of_object(np.zeros(3)) in UNITS.values()
