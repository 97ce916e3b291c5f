"""Pictures as files: read by other readers, of the sizes of paper, with profile and caption and nothing else."""

from __future__ import annotations

import datetime
import io

import numpy as np
import OpenImageIO as oiio  # noqa: N813
import pytest
from PIL import Image, ImageCms

from valleylight.core.errors import InputError
from valleylight.core.film.caption import Caption
from valleylight.core.film.exports import SUFFIXES, size_of, srgb_profile, write_pages, write_picture

CAPTION = Caption("Mühle", "Long view", "June", datetime.datetime(2026, 6, 21, 9, 20), "Tarn", True)
CODES = np.random.default_rng(5).uniform(0, 1, (36, 64, 3)).astype(np.float32)


@pytest.mark.parametrize(
    ("made", "fit", "dpi", "size"),
    [
        # ISO 216 in dots: A4 at 300 dpi is 3508 x 2480, A3 4961 x 3508, A1 at 150 dpi 4967 x 3508.
        ((3508, 2480), "a4", 300, (3508, 2480)), ((4961, 3508), "a3", 300, (4961, 3508)), ((1920, 1080), "a4", 300, (3508, 1973)),
        ((1080, 1920), "a4", 300, (1973, 3508)), ((1000, 1000), "a1", 150, (3508, 3508)), ((1920, 1080), "uhd", 300, (3840, 2160)),
        ((1080, 1920), "uhd", 72, (2160, 3840)), ((7680, 4320), "uhd", 300, (3840, 2160)), ((640, 360), "made", 300, (640, 360)),
        ((8000, 100), "a4", 72, (842, 11)), ((9933, 7016), "a1", 300, (9933, 7016)),
    ],
)  # fmt: skip
def test_a_picture_fits_its_paper_whole(made, fit, dpi, size):
    got = size_of(made, fit, dpi)
    assert got == pytest.approx(size, abs=1)


def test_more_pixels_than_are_written_are_refused():
    with pytest.raises(InputError, match="too large"):
        size_of((1920, 1080), "a1", 1200)


@pytest.mark.parametrize(("form", "bits"), [("png", 8), ("png16", 16), ("jpeg", 8), ("tiff16", 16)])
def test_what_is_written_is_read_by_others_with_its_profile_and_caption(form, bits, tmp_path):
    path = tmp_path / f"picture{SUFFIXES[form]}"
    write_picture(CODES, path, form, CAPTION, dpi=240)
    back = oiio.ImageInput.open(str(path))
    spec = back.spec()
    assert (spec.width, spec.height, spec.nchannels) == (64, 36, 3)
    assert str(spec.format) == ("uint8" if bits == 8 else "uint16")
    pixels = back.read_image("float")
    assert pixels == pytest.approx(CODES, abs=0.09 if form == "jpeg" else 0.51 / (2**bits - 1))
    with Image.open(path) as picture:
        assert picture.info["icc_profile"] == srgb_profile()
        assert picture.info["dpi"] == pytest.approx((240, 240), rel=1e-3)
        said = picture.getexif()
        assert (
            "Long view at 2026-06-21 09:20, Tarn; true to date and place" in said[270]
            and said[306] == "2026:06:21 09:20:00"
        )
    profile = ImageCms.ImageCmsProfile(io.BytesIO(srgb_profile()))
    assert "sRGB" in ImageCms.getProfileDescription(profile)
    # Nothing is said of who made it and where, nor of anybody's program; and it is the same again.
    data = path.read_bytes()
    for word in (b"Adobe", b"OpenImageIO", b"root", b"Artist", b"/tmp", b"HostComputer"):
        assert word not in data
    write_picture(CODES, path, form, CAPTION, dpi=240)
    assert path.read_bytes() == data
    assert [p.name for p in tmp_path.iterdir()] == [path.name]


def test_layers_are_pages_of_one_file_under_their_names(tmp_path):
    path = tmp_path / "layers.tif"
    pages = [("picture", CODES), ("sun", CODES * 0.5), ("Tischlampen", CODES * 0.25)]
    write_pages(pages, path, "layers", CAPTION)
    back = oiio.ImageInput.open(str(path))
    for k, (name, codes) in enumerate(pages):
        assert back.seek_subimage(k, 0)
        assert name in back.spec()["ImageDescription"] and str(back.spec().format) == "uint16"
        assert back.read_image("float") == pytest.approx(codes, abs=1e-5)
    assert not back.seek_subimage(3, 0)
    with Image.open(path) as picture:
        assert picture.n_frames == 3


@pytest.mark.parametrize("size", [(128, 72), (33, 19), (640, 360)])
def test_another_size_keeps_the_picture_s_tones(size, tmp_path):
    y, x = np.mgrid[0:36, 0:64]
    smooth = np.stack([x / 64, y / 36, np.full(x.shape, 0.5)], axis=-1).astype(np.float32)
    path = tmp_path / "sized.png"
    write_picture(smooth, path, "png16", CAPTION, size)
    back = oiio.ImageInput.open(str(path)).read_image("float")
    assert back.shape == (size[1], size[0], 3)
    assert back.mean((0, 1)) == pytest.approx(smooth.mean((0, 1)), abs=4e-3)
    assert back[size[1] // 2, size[0] // 2] == pytest.approx([0.5, 0.5, 0.5], abs=0.02)
    even = tmp_path / "even.png"
    write_picture(np.full((36, 64, 3), 0.7, np.float32), even, "png16", CAPTION, size)
    assert oiio.ImageInput.open(str(even)).read_image("float") == pytest.approx(0.7, abs=1e-4)


def test_what_cannot_be_written_leaves_nothing(tmp_path):
    with pytest.raises(RuntimeError, match="failed"):
        write_picture(CODES, tmp_path / "no-such-folder" / "a.png", "png", CAPTION)
    assert list(tmp_path.iterdir()) == []
