"""What glTF 2.0 allows and other programs write: each comes in as the specification says, or is named in the notes.

Sources: Khronos glTF 2.0 specification (sections given beside) and its extensions; trimesh as a second reader.
"""

from __future__ import annotations

import io
from typing import Any

import numpy as np
import pytest
import trimesh
from PIL import Image

from tests import glb
from tests.glb import packed, square
from valleylight.core.colour.rgb import srgb_encode
from valleylight.core.errors import InputError
from valleylight.core.stage import StageData, read_glb

RNG = np.random.default_rng(12)


class Doc:
    """A square that things are added to."""

    def __init__(self, **arrays: np.ndarray) -> None:
        self.json, self.blob = square(**arrays)

    def view(self, raw: bytes) -> int:
        self.json["bufferViews"].append({"buffer": 0, "byteOffset": len(self.blob), "byteLength": len(raw)})
        self.blob += raw + b"\0" * (-len(raw) % 4)
        self.json["buffers"][0]["byteLength"] = len(self.blob)
        return len(self.json["bufferViews"]) - 1

    def picture(self, pixels: np.ndarray, kind: str = "PNG", mode: str | None = None) -> int:
        """Number of a texture of these pixels."""
        out = io.BytesIO()
        Image.fromarray(pixels, mode).save(out, kind, lossless=True) if kind == "WEBP" else Image.fromarray(
            pixels, mode
        ).save(out, kind)
        images, textures = self.json.setdefault("images", []), self.json.setdefault("textures", [])
        images.append({"bufferView": self.view(out.getvalue()), "mimeType": f"image/{kind.lower()}"})
        textures.append({"source": len(images) - 1})
        return len(textures) - 1

    def material(self, **fields: Any) -> Doc:
        self.json["materials"][0] = {"name": "m", **fields}
        return self

    @property
    def primitive(self) -> dict[str, Any]:
        return self.json["meshes"][0]["primitives"][0]

    def read(self) -> StageData:
        return read_glb(packed(self.json, self.blob), "house.glb")


def world(stage: StageData) -> np.ndarray:
    """Corners (T, 3, 3) of all triangles in the file's own axes (Y up)."""
    found = []
    for i in stage.instances:
        mesh = stage.meshes[i.mesh]
        points = mesh.points.astype(float) @ i.matrix[:3, :3].T + i.matrix[:3, 3]
        found.append(points[mesh.triangles][..., [0, 2, 1]] * [1, 1, -1])
    return np.concatenate(found)


def sorted_areas(corners: np.ndarray) -> np.ndarray:
    return np.sort(np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2)


def strip_of(points: np.ndarray, mode: int, indices: np.ndarray | None) -> Doc:
    arrays = {"POSITION": points.astype(np.float32), "NORMAL": np.tile(np.float32([0, 0, 1]), (len(points), 1)),
              "TEXCOORD_0": points[:, :2].astype(np.float32)}  # fmt: skip
    doc = Doc(**arrays, indices=indices if indices is not None else glb.CORNERS)
    doc.primitive["mode"] = mode
    if indices is None:
        del doc.primitive["indices"]
    return doc


ZIGZAG = np.array([[0, 0, 0], [0, 1, 0], [1, 0, 0], [1, 1, 0], [2, 0, 0], [2, 1, 0]], float)
ROUND = np.array([[0, 0, 0], *[[np.cos(a), np.sin(a), 0] for a in np.linspace(0, 2 * np.pi, 13)]])


@pytest.mark.parametrize("indices", [None, np.arange(6, dtype=np.uint16), np.arange(6, dtype=np.uint8)])
def test_strips_are_triangles_that_all_face_one_way(indices):
    """3.7.2.1: p_i = {v_i, v_i + (1 + i mod 2), v_i + (2 - i mod 2)}."""
    corners = world(strip_of(ZIGZAG, 5, indices).read())
    assert len(corners) == 4 and sorted_areas(corners) == pytest.approx([0.5] * 4)
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    assert (np.sign(normals[:, 2]) == np.sign(normals[0, 2])).all()


def test_a_strip_sewn_together_loses_its_flat_triangles():
    sewn = np.array([0, 1, 2, 3, 3, 4, 4, 5], np.uint16)
    corners = world(strip_of(ZIGZAG, 5, sewn).read())
    assert (sorted_areas(corners) > 0).all()


def test_a_fan_is_round():
    """3.7.2.1: p_i = {v_(i+1), v_(i+2), v_0}; against the area of a regular twelve-sided polygon."""
    corners = world(strip_of(ROUND, 6, None).read())
    assert len(corners) == 12
    assert sorted_areas(corners).sum() == pytest.approx(6 * np.sin(np.pi / 6), rel=1e-6)


@pytest.mark.parametrize("mode", [0, 1, 2, 3])
def test_points_and_lines_are_left_out_with_a_word(mode):
    doc = Doc()
    line = {**doc.primitive, "mode": mode}
    doc.json["meshes"][0]["primitives"].append(line)
    stage = doc.read()
    assert len(world(stage)) == 2 and "not made of triangles" in " ".join(stage.notes)


@pytest.mark.parametrize("count", [0, 1, 2])
def test_a_strip_of_too_few_corners_is_nothing(count):
    doc = Doc()
    few = strip_of(ZIGZAG[: max(count, 1)], 5, None)
    few.json["meshes"][0]["primitives"].append(dict(few.primitive))
    with pytest.raises(InputError, match="no triangles"):
        few.read()
    assert len(world(doc.read())) == 2


@pytest.mark.parametrize("kind", [np.uint8, np.uint16, np.uint32])
@pytest.mark.parametrize("base", [True, False])
def test_sparse_accessors_replace_some_numbers(kind, base):
    """3.6.2.3; without a view the numbers that are not replaced are zero."""
    doc = Doc()
    accessor = doc.json["accessors"][doc.primitive["attributes"]["POSITION"]]
    moved = np.array([[5, 0, 0], [5, 1, 0]], np.float32)
    accessor["sparse"] = {
        "count": 2, "indices": {"bufferView": doc.view(np.array([1, 2], kind).tobytes()), "componentType": {1: 5121, 2: 5123, 4: 5125}[np.dtype(kind).itemsize]},
        "values": {"bufferView": doc.view(moved.tobytes())},
    }  # fmt: skip
    if not base:
        del accessor["bufferView"]
    points = doc.read().meshes[0].points
    wanted = glb.POINTS.copy() if base else np.zeros((4, 3), np.float32)
    wanted[1:3] = moved
    assert points == pytest.approx(wanted)


@pytest.mark.parametrize(("fault", "value", "words"), [
    ("count", 9, "replaces 9 of 4"), ("count", 0, "replaces 0"), ("count", "two", "damaged"), ("componentType", 5126, "no whole numbers"),
    ("index", 4, "replaces number 4 of 4"), ("bufferView", 77, "points at number 77"), ("byteOffset", 10**9, "past the end"),
])  # fmt: skip
def test_sparse_accessors_that_lie_are_refused(fault, value, words):
    doc = Doc()
    accessor = doc.json["accessors"][0]
    indices = np.array([1, value if fault == "index" else 2], np.uint16)
    sparse = {
        "count": 2, "indices": {"bufferView": doc.view(indices.tobytes()), "componentType": 5123},
        "values": {"bufferView": doc.view(np.zeros((2, 3), np.float32).tobytes())},
    }  # fmt: skip
    accessor["sparse"] = sparse
    if fault in ("bufferView", "byteOffset"):
        sparse["values"][fault] = value
    elif fault == "componentType":
        sparse["indices"][fault] = value
    elif fault == "count":
        sparse["count"] = value
    with pytest.raises(InputError, match=words):
        doc.read()


def test_signed_numbers_of_one_byte_do_not_pass_minus_one():
    """3.6.2.2: f = max(c / 127, -1)."""
    doc = Doc()
    raw = np.array([[0, 0, -128, 0]] * 4, np.int8)
    view = doc.view(raw.tobytes())
    doc.json["bufferViews"][view]["byteStride"] = 4
    doc.json["accessors"].append(
        {"bufferView": view, "componentType": 5120, "count": 4, "type": "VEC3", "normalized": True}
    )
    doc.primitive["attributes"]["NORMAL"] = len(doc.json["accessors"]) - 1
    assert doc.read().meshes[0].normals == pytest.approx(np.tile([0, 0, -1.0], (4, 1)))


CHECKS = RNG.integers(0, 256, (6, 5, 3), np.uint8)


@pytest.mark.parametrize(("transform", "wanted"), [
    ({"offset": [0.25, -0.5]}, lambda uv: uv + [0.25, -0.5]), ({"scale": [3, 0.5]}, lambda uv: uv * [3, 0.5]),
    ({"rotation": np.pi / 2}, lambda uv: np.column_stack([uv[:, 1], -uv[:, 0]])),
    ({"offset": [0.1, 0.2], "scale": [2, 4], "rotation": 0.3}, None), ({}, lambda uv: uv),
])  # fmt: skip
def test_pictures_are_shifted_turned_and_scaled(transform, wanted):
    """KHR_texture_transform: translation x rotation x scale, as its matrices are written there (column vectors)."""
    doc = Doc()
    reference = {"index": doc.picture(CHECKS), "extensions": {"KHR_texture_transform": transform}}
    stage = doc.material(pbrMetallicRoughness={"baseColorTexture": reference}).read()
    if wanted is None:
        (x, y), (sx, sy), r = transform["offset"], transform["scale"], transform["rotation"]
        translation = np.array([[1, 0, x], [0, 1, y], [0, 0, 1]])
        rotation = np.array([[np.cos(r), np.sin(r), 0], [-np.sin(r), np.cos(r), 0], [0, 0, 1]])
        matrix = translation @ rotation @ np.diag([sx, sy, 1])
        wanted = lambda uv: (np.column_stack([uv, np.ones(len(uv))]) @ matrix.T)[:, :2]  # noqa: E731
    assert stage.meshes[0].uv == pytest.approx(wanted(glb.UV.astype(float)), abs=1e-6)
    assert not stage.notes


@pytest.mark.parametrize("by", ["reference", "transform"])
def test_the_second_set_of_coordinates_is_used_where_a_picture_asks_for_it(by):
    other = glb.UV[::-1].copy() * 2
    doc = Doc(TEXCOORD_1=other)
    reference: dict[str, Any] = {"index": doc.picture(CHECKS)}
    if by == "reference":
        reference["texCoord"] = 1
    else:
        reference["extensions"] = {"KHR_texture_transform": {"texCoord": 1}}
    stage = doc.material(pbrMetallicRoughness={"baseColorTexture": reference}).read()
    assert stage.meshes[0].uv == pytest.approx(other)
    assert Doc(TEXCOORD_1=other).read().meshes[0].uv == pytest.approx(glb.UV)


def test_pictures_laid_in_several_ways_are_named():
    doc = Doc()
    number = doc.picture(CHECKS)
    doc.material(
        normalTexture={"index": number, "texCoord": 1}, pbrMetallicRoughness={"baseColorTexture": {"index": number}}
    )
    assert "laid in several ways" in " ".join(doc.read().notes)


@pytest.mark.parametrize("offset", [1e300, float("nan"), float("inf")])
def test_a_transform_that_is_no_number_is_refused(offset):
    doc = Doc()
    reference = {"index": doc.picture(CHECKS), "extensions": {"KHR_texture_transform": {"offset": [offset, 0]}}}
    with pytest.raises(InputError, match="house"):
        doc.material(pbrMetallicRoughness={"baseColorTexture": reference}).read()


def test_webp_comes_in_and_the_picture_beside_it_is_not_needed():
    doc = Doc()
    number = doc.picture(CHECKS, "WEBP")
    source = doc.json["textures"][number].pop("source")
    doc.json["textures"][number]["extensions"] = {"EXT_texture_webp": {"source": source}}
    doc.json["extensionsRequired"] = ["EXT_texture_webp"]
    stage = doc.material(pbrMetallicRoughness={"baseColorTexture": {"index": number}}).read()
    assert (stage.textures[0].pixels == CHECKS).all()


def test_a_picture_packed_otherwise_is_named():
    doc = Doc()
    number = doc.picture(CHECKS)
    del doc.json["textures"][number]["source"]
    doc.json["textures"][number]["extensions"] = {"KHR_texture_basisu": {"source": 0}}
    stage = doc.material(pbrMetallicRoughness={"baseColorTexture": {"index": number}}).read()
    assert stage.materials[0].base_texture == -1 and "KHR_texture_basisu" in " ".join(stage.notes)


@pytest.mark.parametrize("dtype", [np.uint8, np.uint16])
def test_grey_pictures_of_8_and_16_bits(dtype):
    grey = np.linspace(0, np.iinfo(dtype).max, 30).astype(dtype).reshape(5, 6)
    doc = Doc()
    number = doc.picture(grey)
    pixels = doc.material(pbrMetallicRoughness={"baseColorTexture": {"index": number}}).read().textures[0].pixels
    assert pixels.shape == (5, 6, 3)
    assert pixels[..., 1].astype(float) / 255 == pytest.approx(grey / np.iinfo(dtype).max, abs=0.6 / 255)


def half(linear: float) -> np.ndarray:
    """A picture whose left half has a linear value and whose right half is black."""
    pixels = np.zeros((8, 8, 3), np.uint8)
    pixels[:, :4] = round(float(srgb_encode(np.array(linear))) * 255)
    return pixels


def test_a_picture_of_what_shines_is_kept():
    doc = Doc()
    reference = {"index": doc.picture(half(0.6))}
    strength = {"KHR_materials_emissive_strength": {"emissiveStrength": 1000.0}}
    stage = doc.material(emissiveTexture=reference, emissiveFactor=[1, 0.5, 0], extensions=strength).read()
    made = stage.materials[0]
    assert made.emission == pytest.approx((1000, 500, 0), rel=1e-6) and stage.notes == ()
    assert (stage.textures[made.emission_texture].pixels == half(0.6)).all() and made.base_texture == -1
    # What does not shine needs no picture of it.
    assert doc.material(emissiveTexture=reference, emissiveFactor=[0, 0, 0]).read().textures == ()


def test_pictures_of_coat_and_transmission_count_by_their_mean():
    doc = Doc()
    number = doc.picture(np.full((4, 4, 3), 204, np.uint8))
    coat = {"clearcoatFactor": 0.5, "clearcoatTexture": {"index": number}}
    glass = {"transmissionFactor": 1.0, "transmissionTexture": {"index": number}}
    made = doc.material(extensions={"KHR_materials_clearcoat": coat, "KHR_materials_transmission": glass}).read()
    assert made.materials[0].coat == pytest.approx(0.4) and made.materials[0].thin_glass
    assert len([n for n in made.notes if "taken as its mean" in n]) == 2


def test_specular_and_glossiness_become_roughness_and_metal():
    """KHR_materials_pbrSpecularGlossiness: of 0.04 specular it is paint, of strong coloured specular a metal."""
    paint = {"diffuseFactor": [0.5, 0.3, 0.1, 1], "specularFactor": [0.04, 0.04, 0.04], "glossinessFactor": 0.7}
    made = Doc().material(extensions={"KHR_materials_pbrSpecularGlossiness": paint}).read().materials[0]
    assert (made.base, made.metal, made.specular) == ((0.5, 0.3, 0.1), 0.0, pytest.approx(1.0))
    assert made.roughness == pytest.approx(0.3)
    gold = {"diffuseFactor": [0, 0, 0, 1], "specularFactor": [1.0, 0.77, 0.34], "glossinessFactor": 0.9}
    stage = Doc().material(extensions={"KHR_materials_pbrSpecularGlossiness": gold}).read()
    assert (stage.materials[0].base, stage.materials[0].metal) == ((1.0, 0.77, 0.34), 1.0)
    assert "specular and glossiness" in " ".join(stage.notes)


def test_alpha_cuts_out_only_where_something_is_cut():
    cut = np.full((4, 4, 4), 255, np.uint8)
    for hole in (False, True):
        cut[:2, :, 3] = 0 if hole else 255
        for mode in ("MASK", "BLEND"):
            doc = Doc()
            reference = {"index": doc.picture(cut)}
            made = doc.material(alphaMode=mode, pbrMetallicRoughness={"baseColorTexture": reference}).read()
            assert (made.materials[0].alpha_texture >= 0) == hole and not made.materials[0].thin_glass


def test_two_materials_of_one_name_are_told_apart():
    doc = Doc()
    doc.json["materials"] = [
        {"name": " oak "},
        {"name": "oak"},
        {},
        {"name": "x" * 300},
        {"name": "x" * 300},
        {"name": "oak 2"},
    ]
    stage = doc.read()
    names = [m.name for m in stage.materials]
    assert names[:3] == ["oak", "oak 2", "material 2"] and names[5] == "oak 2 2" and names[-1] == "placeholder"
    assert len(set(names)) == len(names) and max(map(len, names)) <= 200
    assert "Several materials are called 'oak'" in " ".join(stage.notes)


def test_what_a_stage_does_not_take_is_named():
    doc = Doc()
    doc.json["scenes"].append({"nodes": [0]})
    doc.json["animations"] = [{"channels": [], "samplers": []}]
    doc.json["nodes"][0]["name"] = "n" * 500
    doc.material(
        extensions={"KHR_materials_iridescence": {}, "KHR_materials_unlit": {}},
        occlusionTexture={"index": doc.picture(CHECKS)},
    )
    stage = doc.read()
    told = " ".join(stage.notes)
    for words in (
        "1 further scene,",
        "1 animation,",
        "KHR_materials_iridescence",
        "unlit",
        "occlusion",
    ):
        assert words in told, words
    assert len(stage.instances[0].name) == 200


@pytest.mark.parametrize("shape", ["box", "annulus", "capsule"])
def test_what_trimesh_writes_has_the_area_volume_and_place_it_has_there(shape):
    made = {"box": lambda: trimesh.creation.box((1, 2, 3)), "annulus": lambda: trimesh.creation.annulus(0.3, 0.5, 1.0),
            "capsule": lambda: trimesh.creation.capsule(2.0, 0.5)}[shape]()  # fmt: skip
    made.visual.vertex_colors = RNG.integers(0, 255, (len(made.vertices), 4), np.uint8)
    scene = trimesh.Scene()
    scene.add_geometry(made, transform=trimesh.transformations.rotation_matrix(0.4, (1, 2, 3), (0.1, 0.2, 0.3)))
    corners = world(read_glb(scene.export(file_type="glb"), "made.glb"))
    there = trimesh.load_mesh(io.BytesIO(scene.export(file_type="glb")), file_type="glb")
    assert sorted_areas(corners).sum() == pytest.approx(there.area, rel=1e-5)
    volume = np.einsum("ti,ti->t", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6
    assert volume == pytest.approx(there.volume, rel=1e-4)
    low, high = corners.reshape(-1, 3).min(0), corners.reshape(-1, 3).max(0)
    assert np.stack([low, high]) == pytest.approx(there.bounds, abs=1e-5)
