"""Finished pictures read otherwise, on instruments and as they print: against colour-science, numpy and littleCMS."""

from __future__ import annotations

import io

import colour
import numpy as np
import pytest
from PIL import Image, ImageCms

from valleylight.core.colour.rgb import srgb_decode, srgb_encode
from valleylight.core.errors import InputError
from valleylight.core.finish.readings import WITHOUT_CONES, check_profile, proofed, read_as, zones_of
from valleylight.core.finish.scopes import BINS, CELLS, COLUMNS, LEVELS, scopes

RANDOM = np.random.default_rng(5).integers(0, 256, (40, 60, 3)).astype(np.uint8)


def flat(r: int, g: int, b: int, size: tuple[int, int] = (24, 32)) -> np.ndarray:
    return np.broadcast_to(np.array([r, g, b], np.uint8), (*size, 3)).copy()


def test_grey_has_the_luminance_of_the_colour():
    """ITU-R BT.709 by colour-science: Y of linear sRGB."""
    got = srgb_decode(read_as(RANDOM, "grey")[..., 0] / 255)
    wanted = colour.RGB_luminance(
        srgb_decode(RANDOM / 255),
        colour.models.RGB_COLOURSPACE_sRGB.primaries,
        colour.models.RGB_COLOURSPACE_sRGB.whitepoint,
    )
    assert got == pytest.approx(wanted, abs=5e-3)


@pytest.mark.parametrize(
    ("kind", "name"), [("protan", "Protanomaly"), ("deutan", "Deuteranomaly"), ("tritan", "Tritanomaly")]
)
def test_the_sight_without_one_kind_of_cones_is_machado_s(kind, name):
    """Machado et al. 2009 as colour-science has its tables; what is grey stays grey."""
    table = colour.blindness.CVD_MATRICES_MACHADO2010[name][1.0]
    assert WITHOUT_CONES[kind] == pytest.approx(np.asarray(table), abs=1e-6)
    got = read_as(RANDOM, kind).astype(float)
    wanted = np.round(srgb_encode(np.clip(srgb_decode(RANDOM / 255) @ np.asarray(table).T, 0, 1)) * 255)
    assert np.abs(got - wanted).max() <= 2
    greys = np.repeat(np.arange(256, dtype=np.uint8)[None, :, None], 3, -1)
    assert np.abs(read_as(greys, kind).astype(int) - greys).max() <= 1


def test_zones_are_whole_stops_about_middle_grey():
    """A. Adams: the fifth zone is a card of 18 percent, every other a stop from it."""
    for zone in range(1, 8):
        code = round(float(srgb_encode(np.array(0.18 * 2.0 ** (zone - 5))) * 255))
        if code > 3:
            assert zones_of(flat(code, code, code))[0, 0] == zone
    assert set(np.unique(zones_of(flat(0, 0, 0)))) == {0}
    assert zones_of(flat(255, 255, 255)).max() == 7  # 2.5 stops above middle grey is all that a screen has
    shown = read_as(RANDOM, "zones")
    assert len(np.unique(shown)) <= 11
    assert (shown[..., 0] == shown[..., 2]).all()


def test_a_histogram_counts_every_pixel_once():
    got = scopes(RANDOM)
    for channel, name in enumerate(("red", "green", "blue")):
        wanted = np.histogram(RANDOM[..., channel] / 255, bins=BINS, range=(0, 1))[0] / RANDOM[..., 0].size
        assert getattr(got, name) == pytest.approx(wanted)
    assert got.luma.sum() == pytest.approx(1)
    assert got.zones.sum() == pytest.approx(1)
    assert got.vectors.sum() == pytest.approx(1)
    assert got.waveform.sum(0)[: RANDOM.shape[1]] == pytest.approx(np.ones(60))


def test_the_waveform_is_a_ramp_for_a_ramp():
    ramp = np.repeat(np.linspace(0, 255, 320).round().astype(np.uint8)[None, :, None], 20, 0).repeat(3, 2)
    wave = scopes(ramp).waveform
    assert wave.shape == (LEVELS, COLUMNS)
    level = (wave * np.arange(LEVELS)[:, None]).sum(0)
    assert level == pytest.approx(LEVELS * (1 - np.linspace(0, 1, COLUMNS)) - 0.5, abs=1.2)


@pytest.mark.parametrize("name", ["red", "green", "blue", "yellow", "grey"])
def test_a_colour_stands_in_the_vectorscope_where_bt_709_puts_it(name):
    code = {
        "red": (191, 0, 0),
        "green": (0, 191, 0),
        "blue": (0, 0, 191),
        "yellow": (191, 191, 0),
        "grey": (90, 90, 90),
    }[name]
    y, cb, cr = colour.RGB_to_YCbCr(np.array(code) / 255, K=colour.WEIGHTS_YCBCR["ITU-R BT.709"], out_legal=False)
    down, across = np.unravel_index(scopes(flat(*code)).vectors.argmax(), (CELLS, CELLS))
    assert (across + 0.5) / CELLS - 0.5 == pytest.approx(cb, abs=1 / CELLS)
    assert 0.5 - (down + 0.5) / CELLS == pytest.approx(cr, abs=1 / CELLS)
    assert 0 <= y <= 1


@pytest.mark.parametrize(("code", "cast"), [
    ((120, 120, 120), "neutral"), ((160, 120, 90), "warm"), ((90, 118, 160), "cold"), ((110, 140, 110), "green"),
    ((140, 110, 140), "magenta"), ((0, 0, 0), "neutral"),
])  # fmt: skip
def test_the_mean_is_said_to_be_grey_or_not(code, cast):
    assert scopes(flat(*code)).cast == cast


def test_what_is_cut_off_is_told_and_a_large_picture_is_sampled():
    picture = flat(100, 100, 100, (1500, 1600))
    picture[:300], picture[300:750] = 0, 255
    got = scopes(picture)
    assert (got.black, got.white) == (pytest.approx(0.2, abs=0.01), pytest.approx(0.3, abs=0.01))
    assert got.mean_kelvin == pytest.approx(6500, abs=60)
    one = scopes(flat(3, 4, 5, (1, 1)))
    assert one.luma.sum() == pytest.approx(1)


def paper(name: str = "sRGB", **more) -> bytes:
    return ImageCms.ImageCmsProfile(ImageCms.createProfile(name, **more)).tobytes()


def test_a_proof_is_what_little_cms_makes_of_it():
    """sRGB as its own printer changes nothing; a profile in Lab of another white keeps colours by its own transform."""
    assert np.abs(proofed(RANDOM, paper()).astype(int) - RANDOM).max() <= 1
    image = Image.fromarray(RANDOM)
    wanted = np.asarray(ImageCms.applyTransform(image, ImageCms.buildProofTransform(
        ImageCms.createProfile("sRGB"), ImageCms.createProfile("sRGB"), ImageCms.ImageCmsProfile(io.BytesIO(paper())), "RGB", "RGB",
        ImageCms.Intent.ABSOLUTE_COLORIMETRIC, ImageCms.Intent.RELATIVE_COLORIMETRIC,
        ImageCms.Flags.SOFTPROOFING | ImageCms.Flags.BLACKPOINTCOMPENSATION,
    )))  # fmt: skip
    assert (proofed(RANDOM, paper(), paper_white=True) == wanted).all()


def test_what_is_no_profile_of_a_printer_is_refused():
    assert "sRGB" in check_profile(paper())
    for wrong in (b"", b"nonsense", paper()[:100], RANDOM.tobytes(), paper("LAB")):
        with pytest.raises(InputError):
            check_profile(wrong)
