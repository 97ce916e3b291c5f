"""What picture files say of themselves, read back by other libraries."""

from __future__ import annotations

import io
import struct
from datetime import datetime

import numpy as np
import OpenEXR
import OpenImageIO as oiio  # noqa: N813
import pytest
from PIL import Image

from tests.core.test_film import noisy_film
from valleylight.core.film import remove_noise
from valleylight.core.film.caption import Caption
from valleylight.core.film.exr import write_exr
from valleylight.core.film.png import png

CAPTION = Caption("Süd Häuser", "Halle — innen", "June", datetime(2026, 6, 21, 9, 20), "Tarn valley", False)
#: ITU-R BT.709-6, items 1.3 and 1.4: x and y of red, green, blue and D65.
REC_709 = (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290)


def test_a_png_says_its_colour_space_title_view_and_hour():
    data = png(np.full((4, 6, 3), 128, np.uint8), CAPTION)
    picture = Image.open(io.BytesIO(data))
    picture.load()
    assert picture.size == (6, 4) and picture.info["srgb"] == 0
    assert picture.info["chromaticity"] == pytest.approx((0.3127, 0.329, *REC_709[:6]), abs=1e-5)
    assert picture.info["Title"] == "Süd Häuser: Halle — innen, June"
    assert picture.info["Creation Time"] == "2026-06-21T09:20:00" and picture.info["View"] == "Halle — innen"
    assert picture.info["Description"].endswith("2026-06-21 09:20, Tarn valley; sun set by hand")


def test_png_chunks_stand_in_the_order_of_the_standard():
    """PNG 3, 5.6: sRGB, gAMA and cHRM before the first IDAT; each once."""
    data, kinds, at = png(np.zeros((2, 2, 3), np.uint8), CAPTION), [], 8
    while at < len(data):
        length, kind = struct.unpack(">I4s", data[at : at + 8])
        kinds.append(kind)
        at += 12 + length
    first = kinds.index(b"IDAT")
    assert all(kinds.count(k) == 1 and kinds.index(k) < first for k in (b"sRGB", b"gAMA", b"cHRM"))


@pytest.mark.parametrize("caption", [None, CAPTION])
def test_an_exr_says_its_primaries_and_what_it_shows(tmp_path, caption):
    film = remove_noise(noisy_film())
    write_exr(film, tmp_path / "film.exr", caption=caption)
    with OpenEXR.File(str(tmp_path / "film.exr")) as file:
        header = dict(file.header())
    assert tuple(header["chromaticities"]) == pytest.approx(REC_709, abs=1e-6)
    other = oiio.ImageInput.open(str(tmp_path / "film.exr")).spec()
    assert tuple(other.getattribute("chromaticities")) == pytest.approx(REC_709, abs=1e-6)
    assert (other.width, other.height) == film.size
    if caption is not None:
        assert header["title"] == caption.title and header["capDate"] == "2026:06:21 09:20:00"
        assert "sun set by hand" in header["comments"]
