"""Pictures of surfaces as they arrive: what is kept of each kind, what is refused, and surfaces out and in as files."""

from __future__ import annotations

import io
import json
import struct
import zipfile
import zlib

import numpy as np
import OpenImageIO as oiio  # noqa: N813
import pytest
import trimesh
from PIL import Image

from valleylight.core.colour.rgb import LUMINANCE, srgb_encode
from valleylight.core.errors import InputError
from valleylight.core.project.surface import Apart, Courses, Laying, Pictures, Surface
from valleylight.core.stage import Material
from valleylight.core.stage.catalogue import CATALOGUE
from valleylight.core.stage.channels import CHANNELS, KEPT_SIDE, kept_picture, laid_picture
from valleylight.core.stage.dressing import dressed, laid, pictures_of, set_apart
from valleylight.core.stage.exchange import material_glb, picture_zip, taken_surface, with_pictures
from valleylight.core.stage.model import MeshInstance, StageData
from valleylight.validation.stages import quad

RNG = np.random.default_rng(21)


def png(pixels: np.ndarray, kind: str = "PNG", **options) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, kind, **options)
    return out.getvalue()


def floating(pixels: np.ndarray, suffix: str, tmp_path, kind=oiio.FLOAT) -> bytes:
    path = str(tmp_path / f"p{suffix}")
    out = oiio.ImageOutput.create(path)
    out.open(path, oiio.ImageSpec(pixels.shape[1], pixels.shape[0], pixels.shape[2], kind))
    out.write_image(pixels)
    out.close()
    return (tmp_path / f"p{suffix}").read_bytes()


def read(data: bytes) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(data)))


def test_eight_bit_colours_are_kept_as_they_are():
    colours = RNG.integers(0, 256, (5, 9, 3), dtype=np.uint8)
    made = kept_picture(png(colours), "a.png", "colour")
    assert (made.width, made.height, made.words) == (9, 5, ())
    assert np.array_equal(read(made.png), colours)
    grey = RNG.integers(0, 256, (5, 9), dtype=np.uint8)
    assert np.array_equal(read(kept_picture(png(grey), "g.png", "colour").png), np.repeat(grey[..., None], 3, 2))
    palette = Image.fromarray(colours).quantize(8)
    out = io.BytesIO()
    palette.save(out, "PNG")
    assert np.array_equal(read(kept_picture(out.getvalue(), "p.png", "colour").png), np.asarray(palette.convert("RGB")))
    jpeg = png(np.full((16, 16, 3), (200, 90, 40), np.uint8), "JPEG", quality=95)
    assert np.abs(read(kept_picture(jpeg, "j.jpg", "colour").png).astype(int) - (200, 90, 40)).max() <= 3


def test_floating_colours_are_light_and_become_codes(tmp_path):
    """EXR is linear: IEC 61966-2-1 gives the codes. What is no number, or beyond white, is told."""
    light = RNG.uniform(0, 1, (6, 4, 3)).astype(np.float32)
    made = kept_picture(floating(light, ".exr", tmp_path), "a.exr", "colour")
    assert np.abs(read(made.png) / 255 - srgb_encode(light)).max() <= 0.5 / 255 + 1e-6
    assert made.words == ()
    light[0, 0], light[1, 1], light[2, 2, 0] = np.nan, 7.0, np.inf
    words = kept_picture(floating(light, ".exr", tmp_path), "a.exr", "colour").words
    assert words == ("2 pixels were no numbers and are 0 now", "1 pixels lay outside 0 to 1 and were cut there")


def test_heights_keep_sixteen_bits(tmp_path):
    height = RNG.integers(0, 65536, (7, 5), dtype=np.uint16)
    assert np.array_equal(read(kept_picture(png(height), "h.png", "height").png), height)
    tiff = floating(height[..., None].astype(np.float32) / 65535, ".tif", tmp_path, oiio.UINT16)
    assert np.array_equal(read(kept_picture(tiff, "h.tif", "height").png), height)


def test_grey_of_a_colour_is_its_luminance():
    """Rec. ITU-R BT.709 weights, here of data as it stands."""
    colours = RNG.integers(0, 256, (4, 4, 3), dtype=np.uint8)
    got = read(kept_picture(png(colours), "r.png", "roughness").png)
    assert np.abs(got - colours @ LUMINANCE).max() <= 0.51


def test_alpha_is_opacity():
    pixels = RNG.integers(0, 256, (4, 4, 4), dtype=np.uint8)
    pixels[0, 0, 3] = 7
    assert np.array_equal(read(kept_picture(png(pixels), "leaf.png", "opacity").png), pixels[..., 3])
    told = kept_picture(png(pixels), "leaf.png", "colour")
    assert "alpha" in told.words[0]


def test_large_pictures_are_kept_smaller_by_means_of_blocks():
    wide = np.tile(np.array([0, 200], np.uint8), (4, (KEPT_SIDE + 2) // 2))
    made = kept_picture(png(wide), "w.png", "roughness")
    assert made.width == KEPT_SIDE // 2 + 1
    assert set(np.unique(read(made.png))) == {100}
    assert "are kept" in made.words[0]


def huge_png(width: int, height: int) -> bytes:
    """A PNG that says it is huge; its one row of data is not."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 100)) + chunk(b"IEND", b"")
    )


@pytest.mark.parametrize(
    ("data", "word"),
    [
        (b"", "no PNG"), (b"BM" + b"\0" * 60, "no PNG"), (b"<svg/>", "no PNG"), (huge_png(20_000, 8), "at most 16384"),
        (huge_png(16_384, 16_384), "at most 16384"), (b"\x89PNG\r\n\x1a\n" + b"junk" * 9, ""), (b"\xff\xd8\xff" + b"\0" * 40, ""),
        (b"II*\0" + b"\xff" * 40, ""), (b"\x76\x2f\x31\x01" + b"\xff" * 40, ""),
    ],
)  # fmt: skip
@pytest.mark.parametrize("channel", CHANNELS)
def test_what_is_no_picture_is_refused_by_name(data, word, channel):
    with pytest.raises(InputError, match=word) as refused:
        kept_picture(data, "wall.png", channel)
    assert "wall.png" in str(refused.value)


def test_damaged_pictures_never_come_through_half():
    good = png(RNG.integers(0, 256, (64, 64, 3), dtype=np.uint8))
    for cut in range(20, len(good) - 12, 400):
        with pytest.raises(InputError):
            kept_picture(good[:cut], "cut.png", "colour")
    with pytest.raises(InputError, match="three channels"):
        kept_picture(png(np.zeros((4, 4), np.uint8)), "n.png", "normal")


def test_files_that_an_archive_names_are_checked_before_they_are_laid():
    for bad in (b"", b"glTF", huge_png(9000, 9000), png(RNG.integers(0, 256, (64, 64, 3), dtype=np.uint8))[:4000]):
        with pytest.raises(InputError, match="Bring it in again"):
            laid_picture(bad, "colour")
    # A file of another channel is taken as what it is said to be.
    assert laid_picture(png(np.zeros((4, 4, 3), np.uint8)), "roughness").texture.pixels.shape == (4, 4, 3)
    assert laid_picture(png(np.zeros((4, 4), np.uint16)), "colour").texture.pixels.dtype == np.uint8


def test_a_flat_height_is_flat_and_a_step_is_steep():
    flat = laid_picture(png(np.full((8, 8), 900, np.uint16)), "height")
    assert np.abs(flat.texture.pixels.astype(int) - (128, 128, 255)).max() <= 1
    step = np.zeros((64, 64), np.uint16)
    step[:, 32:] = 65535
    normals = laid_picture(png(step), "height").texture.pixels
    assert normals[5, 31, 0] < 60  # rises to the right: leans to the left
    assert normals[5, 63, 0] > 200
    assert (np.abs(normals[:, 5:28].astype(int) - (128, 128, 255)) <= 1).all()


def test_roughness_and_metal_share_a_texture():
    """As glTF has it: roughness in green, metal in blue, as large as the roughness; what has no picture is left as it is."""
    rough, metal = np.full((8, 16), 50, np.uint8), np.zeros((4, 8), np.uint8)
    metal[:, 4:] = 255
    both = laid_picture(png(rough), "roughness", metal=png(metal)).texture.pixels
    assert both.shape == (8, 16, 3) and (both[..., 1] == 50).all()
    assert (both[:, :6, 2] == 0).all() and (both[:, 10:, 2] == 255).all()
    assert (laid_picture(png(rough), "roughness").texture.pixels[..., 2] == 255).all()
    alone = laid_picture(png(metal), "metal").texture.pixels
    assert (alone[..., 1] == 255).all() and (alone[..., 2] == metal).all()


def test_a_surface_lays_its_metal_with_its_roughness():
    files = {"r": png(np.full((4, 4), 128, np.uint8)), "m": png(np.full((4, 4), 64, np.uint8))}
    stage = StageData((square(0, 0),), (MeshInstance(0, np.eye(4)),), (Material(name="wall"),))

    def worn(**pictures):
        held = Pictures(**{k: v * 64 for k, v in pictures.items()})
        got, asked = dressed(
            stage,
            {"wall": Surface(pictures=held, metal=1.0)},
            lambda p: laid(p, lambda sha: files[sha[0]]),
            lambda n: 1.0,
        )
        return got.textures[got.materials[0].rough_texture].pixels[0, 0].tolist(), asked

    files |= {"a": files["r"], "b": files["m"]}
    assert worn(roughness="a", metal="b")[0][1:] == [128, 64] and len(worn(roughness="a", metal="b")[1]) == 1
    assert worn(metal="b")[0] == [255, 255, 64] and worn(roughness="a")[0][1:] == [128, 255]


PICTURES = {
    "colour": png(RNG.integers(0, 256, (8, 16, 3), dtype=np.uint8)), "roughness": png(RNG.integers(0, 256, (8, 16), dtype=np.uint8)),
    "metal": png(RNG.integers(0, 256, (8, 16), dtype=np.uint8)), "light": png(RNG.integers(0, 256, (8, 16, 3), dtype=np.uint8)),
    "normal": png(RNG.integers(100, 156, (8, 16, 3), dtype=np.uint8)), "opacity": png(RNG.integers(0, 256, (8, 16), dtype=np.uint8)),
}  # fmt: skip


@pytest.mark.parametrize("entry", CATALOGUE, ids=lambda e: e.key)
def test_every_surface_goes_out_and_comes_back(entry):
    for data in (material_glb(entry.name, entry.surface, {}), picture_zip(entry.name, entry.surface, {})):
        back = taken_surface(data, "file")
        assert (back.name, back.surface, back.pictures) == (entry.name, entry.surface, {})


@pytest.mark.parametrize("suffix", ["glb", "zip"])
def test_pictures_layouts_and_their_laying_come_back(suffix):
    surface = Surface(
        base=(0.9, 0.8, 0.7), keep_picture=False, roughness=0.7, courses=Courses(bond="flemish", tint=(0.2, 0.1, 0.1)),
        laying=Laying(by="sides", tile_m=0.8, turn_deg=30, shift_m=(0.1, 0.2)), pattern="grain",
        metal=1.0, emission_cd_m2=(200, 100, 50),
    )  # fmt: skip
    named = with_pictures(surface, {k: "0" * 64 for k in PICTURES})
    data = (material_glb if suffix == "glb" else picture_zip)("Wall", named, PICTURES)
    back = taken_surface(data, f"wall.{suffix}")
    assert back.surface == surface
    assert set(back.pictures) == set(PICTURES)
    for channel, held in PICTURES.items():
        got, was = read(back.pictures[channel].png), read(held)
        assert np.abs(got.astype(int) - was).max() <= (1 if channel == "roughness" else 0), channel
    assert set(pictures_of(named)) == set(PICTURES)


def test_another_reader_finds_the_tile_at_its_true_size():
    """trimesh reads the file: a square metre, its uv in turns of a tile of 0.4 x 0.2 m, its colour and its pictures."""
    surface = Surface(base=(0.5, 0.25, 0.125), roughness=0.3, metal=1.0, laying=Laying(tile_m=0.4))
    data = material_glb("Metal", surface, {"colour": PICTURES["colour"]})
    [mesh] = trimesh.load(io.BytesIO(data), file_type="glb").geometry.values()
    assert mesh.area == pytest.approx(1.0)
    assert np.ptp(mesh.visual.uv, axis=0) == pytest.approx([2.5, 5.0])
    material = mesh.visual.material
    assert np.asarray(material.baseColorFactor)[:3] / 255 == pytest.approx([0.5, 0.25, 0.125], abs=0.003)
    assert (material.metallicFactor, material.roughnessFactor) == (1.0, 0.3)
    assert np.array_equal(np.asarray(material.baseColorTexture.convert("RGB")), read(PICTURES["colour"]))


def pack(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, data in files.items():
            archive.writestr(name, data)
    return out.getvalue()


def test_pictures_are_told_apart_by_their_names():
    """Names as texture libraries give them (common practice)."""
    flat = png(np.full((4, 4, 3), 128, np.uint8))
    green = png(np.full((4, 4, 3), (128, 200, 255), np.uint8))
    back = taken_surface(pack({
        "oak/Oak_2K_BaseColor.jpg": png(np.full((4, 4, 3), 90, np.uint8), "JPEG"), "oak/oak_2k-rough.png": flat,
        "oak/oak_NormalDX.png": green, "oak/oak_disp.png": flat, "oak/oak_AO.png": flat, "oak/read me.txt": b"hello",
        "oak/oak_bump.png": flat, "oak/oak_2k_Metalness.png": flat, "oak/oak_emission.png": flat,
    }), "Oak floor.zip")  # fmt: skip
    assert back.name == "Oak floor"
    assert set(back.pictures) == {"colour", "roughness", "metal", "normal", "height", "light"}
    assert back.surface.metal == 1.0 and min(back.surface.emission_cd_m2) > 0  # or the pictures would say nothing
    assert read(back.pictures["normal"].png)[0, 0].tolist() == [128, 55, 255]
    assert len([w for w in back.words if "left out" in w]) == 3
    assert back.surface.laying == Laying()
    alone = taken_surface(flat, "photograph.png")
    assert (set(alone.pictures), alone.name) == ({"colour"}, "photograph")


@pytest.mark.parametrize(
    ("files", "word"),
    [
        ({}, "no picture"), ({"a.txt": b"x"}, "no picture"), ({"a.glb": b"glTF", "b.glb": b"glTF"}, "2 glTF files"),
        ({"surface.json": b"[1]"}, "no JSON"), ({"surface.json": b'{"surface": {"base": [2, 0, 0]}}'}, "base"),
        ({"surface.json": b'{"surface": {"shine": 1}}'}, "shine"), ({"colour.png": b"\x89PNG\r\n\x1a\nxx"}, ""),
        ({"surface.json": b'{"surface": {"roughness": NaN}}'}, "roughness"),
    ],
)  # fmt: skip
def test_bundles_without_a_surface_are_refused(files, word):
    with pytest.raises(InputError, match=word):
        taken_surface(pack(files), "bundle.zip")


def test_a_file_cannot_name_pictures_that_it_does_not_bring():
    told = {"surface": {"pictures": {"colour": "a" * 64, "height": "b" * 64, "height_m": 0.3}}}
    back = taken_surface(pack({"surface.json": json.dumps(told).encode()}), "x.zip")
    assert back.surface.pictures is None
    assert with_pictures(
        Surface(pictures=Pictures(colour="a" * 64, height_m=0.3)), {"height": "c" * 64}
    ).pictures == Pictures(height="c" * 64, height_m=0.3)


def square(material: int, x: float):
    return quad([(x, 0, 0), (x + 1, 0, 0), (x + 1, 1, 0), (x, 1, 0)], material)


def test_what_stands_apart_has_a_name_of_its_own():
    """One of two walls that share a mesh; the other, and other materials of the same object, stay."""
    shared = square(0, 0)
    both = StageData(
        (shared, square(1, 5)), (MeshInstance(0, np.eye(4), name="north"), MeshInstance(0, np.eye(4), name="south"), MeshInstance(1, np.eye(4), name="north")),
        (Material(name="plaster"), Material(name="oak")),
    )  # fmt: skip
    made = set_apart(both, [Apart(object="north", material="plaster", name="plaster, north")])
    assert [m.name for m in made.materials] == ["plaster", "oak", "plaster, north"]
    assert [made.meshes[i.mesh].material[0] for i in made.instances] == [2, 0, 1]
    assert made.meshes[:2] == both.meshes
    assert set_apart(both, [Apart(object="nobody", material="plaster", name="x")]) is both
    worn, asked = dressed(made, {"plaster, north": Surface(base=(0.1, 0.2, 0.3))}, lambda p: 1 / 0, lambda n: 1.0)
    assert (worn.materials[2].base, worn.materials[0].base, asked) == ((0.1, 0.2, 0.3), (0.5, 0.5, 0.5), ())
