"""Exposure and treatments."""

from __future__ import annotations

import numpy as np
import pytest

from valleylight.core import finish
from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.colour.temperature import kelvin_to_unit_rgb
from valleylight.core.errors import InputError
from valleylight.core.film import Film
from valleylight.core.finish.exposure import METER_K
from valleylight.core.project import Lens, Look
from valleylight.core.treatments.bloom import Bloom
from valleylight.core.treatments.contrast import Contrast
from valleylight.core.treatments.exposure import Exposure
from valleylight.core.treatments.saturation import Saturation
from valleylight.core.treatments.tone_curve import ToneCurve
from valleylight.core.treatments.white_balance import WhiteBalance, for_grey, white_balance_matrix


def look(*treatments) -> Look:
    return Look(key="t", name="t", treatments=treatments)


def test_ev_of_the_additive_system():
    """ISO 2720: EV 0 is f/1 at 1 s; EV 15 is about f/16 at 1/125 s."""
    assert finish.ev100(Lens(f_number=1, shutter_s=1)) == pytest.approx(0)
    assert finish.ev100(Lens(f_number=16, shutter_s=1 / 128)) == pytest.approx(15)
    assert finish.ev100(Lens(f_number=16, shutter_s=1 / 128, iso=400)) == pytest.approx(13)


def test_sunny_sixteen():
    """Common practice: in full sun, f/16 at 1/ISO s. A grey card of 18 percent under 100 klx then falls near the middle."""
    lens = Lens(f_number=16, shutter_s=1 / 100, iso=100)
    card = 0.18 * 100_000 / np.pi
    assert finish.metered_ev100(card) == pytest.approx(finish.ev100(lens), abs=1.0)
    assert card / finish.saturation_luminance(lens) == pytest.approx(0.18, rel=0.25)


def test_saturation_luminance():
    """ISO 12232: L_sat = 78 / (0.65 S) N^2 / t: 1.2 cd/m2 at EV 0; a metered grey lies 3.26 stops under it."""
    assert finish.saturation_luminance(Lens(f_number=1, shutter_s=1)) == pytest.approx(1.2)
    metered = METER_K / 100
    assert np.log2(1.2 / metered) == pytest.approx(3.263, abs=1e-3)


def test_plain_values_are_srgb():
    picture = np.full((8, 9, 3), 0.2140, np.float32)
    out = finish.apply(picture, look())
    assert out.dtype == np.uint8 and out.shape == (8, 9, 3)
    assert out == pytest.approx(128, abs=1)  # 21.4 percent is the middle code value of sRGB


def test_exposure_is_in_stops():
    picture = np.full((8, 8, 3), 0.1, np.float32)
    assert finish.apply_linear(picture, look(Exposure(stops=2)), 1.0) == pytest.approx(0.4)
    assert finish.apply_linear(picture, look(Exposure(stops=2, on=False)), 1.0) == pytest.approx(0.1)


def test_white_balance_makes_the_lamp_white():
    """A surface lit by a 3000 K lamp turns neutral when white is set to 3000 K; 6500 K leaves all as it is."""
    lamp = kelvin_to_unit_rgb(3000) * 0.3
    picture = np.tile(lamp, (8, 8, 1)).astype(np.float32)
    out = finish.apply_linear(picture, look(WhiteBalance(kelvin=3000)), 1.0)[0, 0]
    assert out == pytest.approx(np.full(3, out.mean()), rel=2e-3)
    assert white_balance_matrix(6500.0) == pytest.approx(np.eye(3), abs=1e-6)


@pytest.mark.parametrize(
    ("kelvin", "tint"), [(2400, 0.0), (3000, 0.4), (4100, -0.6), (6504, 0.2), (9000, 0.0), (15000, -0.3)]
)
def test_what_is_pointed_at_as_grey_becomes_grey(kelvin, tint):
    """A grey under a light of some colour, on the locus and off it: found again, and grey in the picture."""
    light = np.linalg.inv(white_balance_matrix(kelvin, tint)) @ np.full(3, 0.18)
    found = for_grey(light)
    assert found.kelvin == pytest.approx(kelvin, rel=0.02) and found.tint == pytest.approx(tint, abs=0.05)
    out = finish.apply_linear(np.tile(light, (2, 2, 1)).astype(np.float32), look(found), 1.0)[0, 0]
    assert np.ptp(out) < 0.012 * out.mean()


@pytest.mark.parametrize("rgb", [(0, 0, 0), (float("nan"), 1, 1), (-1, -1, -1)])
def test_black_has_no_grey(rgb):
    assert for_grey(np.array(rgb)) is None


@pytest.mark.parametrize("rgb", [(1.0, 0.4, 0.1), (0.2, 0.5, 1.0), (0.9, 0.1, 0.5)])
def test_tone_curve_keeps_hue_and_never_falls(rgb):
    base, last = np.array(rgb), -1.0
    reference = _hue(base)
    for stops in np.arange(-6, 6.1, 0.5):
        picture = np.tile(base * 2.0**stops, (2, 2, 1)).astype(np.float32)
        out = finish.apply_linear(picture, look(ToneCurve()), 1.0)[0, 0]
        assert (out >= 0).all() and (out <= 1.0 + 1e-6).all()
        assert out @ LUMINANCE >= last - 1e-6
        last = float(out @ LUMINANCE)
        if np.ptp(out) > 0.01:
            assert _hue(out) == pytest.approx(reference, abs=0.5)
    assert last == pytest.approx(1.0, abs=0.02)  # far over, the light is white


def _hue(c: np.ndarray) -> float:
    return float(np.degrees(np.arctan2(np.sqrt(3) * (c[1] - c[2]), 2 * c[0] - c[1] - c[2])))


def test_contrast_turns_about_the_middle():
    picture = np.array([[[0.05] * 3, [0.5**2.2] * 3, [0.6] * 3]], np.float32).repeat(2, 0)
    out = finish.apply_linear(picture, look(Contrast(amount=0.5)), 1.0)[0, :, 0]
    assert out[0] < 0.05 and out[2] > 0.6
    assert out[1] == pytest.approx(0.5**2.2, rel=1e-4)


def test_saturation_keeps_luminance():
    picture = np.tile([0.3, 0.2, 0.1], (4, 4, 1)).astype(np.float32)
    for amount in (-1.0, 0.4):
        out = finish.apply_linear(picture, look(Saturation(amount=amount)), 1.0)[0, 0]
        assert out @ LUMINANCE == pytest.approx(picture[0, 0] @ LUMINANCE, rel=1e-4)
    assert np.ptp(finish.apply_linear(picture, look(Saturation(amount=-1)), 1.0)) < 1e-6


def test_bloom_spreads_and_keeps_the_light():
    picture = np.zeros((128, 128, 3), np.float32)
    picture[62:66, 62:66] = 50.0
    out = finish.apply_linear(picture, look(Bloom(amount=0.2, radius_percent=4)), 1.0)
    assert out.sum() == pytest.approx(picture.sum(), rel=0.01)
    assert out[64, 80].max() > 0 and out[64, 64, 0] < 50


def test_levels_and_lens_of_a_film():
    film = Film.empty(4, 4, ("sun", "Lamps"))
    film.light[:, :, 0], film.light[:, :, 1], film.samples = 2.0, 6.0, 2
    film.counts[:] = 2
    film.settings["saturation_cd_m2"] = 10.0
    assert film.balanced({"Lamps": 0.5}) == pytest.approx(1.0 + 1.5)
    bright, dark = finish.apply(film, look()), finish.apply(film, look(), {"Lamps": 0.0})
    assert bright.mean() > dark.mean()


def test_a_wrong_array_is_refused():
    with pytest.raises(InputError, match=r"\(H, W, 3\)"):
        finish.apply(np.zeros((4, 4)), look())
