"""Treatments on the scale of the display, lookup tables, strengths and limits: against numpy, closed forms and another reader."""

from __future__ import annotations

import colorsys
import math

import numpy as np
import pytest
from pydantic import ValidationError
from scipy.interpolate import PchipInterpolator

from valleylight.core.errors import InputError
from valleylight.core.film import Film
from valleylight.core.film.exr import read_exr, write_exr
from valleylight.core.finish.seen import needs_masks, seen_of
from valleylight.core.project import Look
from valleylight.core.treatments import KINDS
from valleylight.core.treatments.bent_curve import BentCurve
from valleylight.core.treatments.contrast import Contrast
from valleylight.core.treatments.drawn import drawn
from valleylight.core.treatments.exposure import Exposure
from valleylight.core.treatments.grain import Grain
from valleylight.core.treatments.hue_ranges import HueRanges
from valleylight.core.treatments.limit import Gradient, Hues, Limit, Span, Stroke
from valleylight.core.treatments.limits import Limits
from valleylight.core.treatments.local_contrast import LocalContrast
from valleylight.core.treatments.local_tone import LocalTone
from valleylight.core.treatments.run import treated
from valleylight.core.treatments.saturation import Saturation
from valleylight.core.treatments.seen import Seen
from valleylight.core.treatments.sharpen import Sharpen
from valleylight.core.treatments.split_tone import SplitTone, tint
from valleylight.core.treatments.vibrance import Vibrance

RNG = np.random.default_rng(11)
PICTURE = RNG.uniform(0.0, 1.0, (32, 48, 3)).astype(np.float32)
LUMA = np.array([0.2126, 0.7152, 0.0722])


def steps(value: float = 0.5) -> np.ndarray:
    """A dark half and a light half, with a fine texture on both."""
    picture = np.full((64, 128, 3), 0.01, np.float32)
    picture[:, 64:] = value
    return picture * RNG.uniform(0.9, 1.1, (64, 128, 1)).astype(np.float32)


@pytest.mark.parametrize(("black", "white", "gamma"), [(10.0, 90.0, 1.0), (0.0, 100.0, 1.8), (20.0, 60.0, 0.7)])
def test_limits_and_gamma_are_their_formula(black, white, gamma):
    v = PICTURE.astype(float) ** (1 / 2.2)
    expected = np.clip((v - black / 100) / ((white - black) / 100), 0, 1) ** (1 / gamma)
    got = treated(PICTURE, (Limits(black_percent=black, white_percent=white, gamma=gamma),), 1.0)
    assert got.astype(float) ** (1 / 2.2) == pytest.approx(expected, abs=4e-3)
    with pytest.raises(ValidationError, match="black must lie below white"):
        Limits(black_percent=80, white_percent=70)


@pytest.mark.parametrize(
    "points", [((0, 0), (1, 1)), ((0, 0.1), (0.3, 0.2), (0.6, 0.8), (1, 0.9)), ((0.2, 0), (0.21, 1))]
)
def test_a_curve_by_points_goes_through_them_and_never_turns_back(points):
    """Against scipy's monotone cubic (Fritsch and Carlson), level beyond the ends."""
    x = np.linspace(0, 1, 400)
    grey = np.repeat((x**2.2)[None, :, None], 3, axis=2).astype(np.float32)
    got = treated(grey, (BentCurve(points=points),), 1.0)[0, :, 0].astype(float) ** (1 / 2.2)
    at, to = np.array(points, float).T
    expected = PchipInterpolator(at, to)(np.clip(x, at[0], at[-1]))
    # Near black a step of the table spans many codes.
    assert got[40:] == pytest.approx(expected[40:], abs=0.02 if points[0][0] == 0.2 else 4e-3)
    if (np.diff(to) >= 0).all():
        assert (np.diff(got) >= -1e-6).all()
    for bad in (((0, 0),), ((0, 0), (0, 1)), ((0.5, 0), (0.4, 1)), ((0, 0), (1, 1.2))):
        with pytest.raises(ValidationError):
            BentCurve(points=bad)


@pytest.mark.parametrize("amount", [0.5, -0.7])
def test_vibrance_moves_pale_colours_most(amount):
    high, low = PICTURE.max(-1, keepdims=True), PICTURE.min(-1, keepdims=True)
    luma = (PICTURE @ LUMA)[..., None]
    expected = np.maximum(luma + (1 + amount * (1 - (high - low) / high)) * (PICTURE - luma), 0)
    assert treated(PICTURE, (Vibrance(amount=amount),), 1.0) == pytest.approx(expected, abs=1e-5)


def test_eight_hues_leave_others_alone_and_keep_luminance():
    green, red = np.array([0.1, 0.5, 0.1], np.float32), np.array([0.5, 0.1, 0.1], np.float32)
    picture = np.stack([np.tile(green, (4, 1)), np.tile(red, (4, 1)), np.full((4, 3), 0.3, np.float32)])
    got = treated(picture, (HueRanges(green_turn=-20),), 1.0)
    hue = [colorsys.rgb_to_hsv(*map(float, got[k, 0]))[0] * 360 for k in (0, 1)]
    assert hue[0] == pytest.approx(100, abs=4) and hue[1] == pytest.approx(0, abs=1e-3)
    assert (got @ LUMA) == pytest.approx(picture @ LUMA, abs=1e-5)
    assert got[2] == pytest.approx(picture[2])  # grey has no hue
    fuller = treated(picture, (HueRanges(green_full=-1.0),), 1.0)
    assert fuller[0, 0] == pytest.approx(np.full(3, green @ LUMA), abs=1e-5) and fuller[1] == pytest.approx(picture[1])
    lighter = treated(np.tile(np.array([0, 1.0, 0], np.float32), (2, 2, 1)), (HueRanges(green_light=1.0),), 1.0)
    assert lighter[0, 0, 1] == pytest.approx(2.0)
    # Halfway between two middles each counts for a half.
    middle = np.tile(np.array(colorsys.hsv_to_rgb(90 / 360, 0.5, 0.8), np.float32), (2, 2, 1))
    half = treated(middle, (HueRanges(yellow_light=1.0, green_light=-1.0),), 1.0)
    assert half == pytest.approx(middle, rel=1e-4)


@pytest.mark.parametrize("hue", [0, 40, 120, 200, 300, 359])
def test_split_tone_keeps_the_luminance_of_greys(hue):
    assert tint(hue) @ LUMA == pytest.approx(0, abs=1e-12)
    full = np.array(colorsys.hsv_to_rgb(hue / 360, 1, 1))
    assert tint(hue) == pytest.approx(full - full @ LUMA, abs=1e-9)
    grey = np.repeat(np.linspace(0, 1, 60, dtype=np.float32)[None, :, None], 3, axis=2)
    got = treated(grey, (SplitTone(shadow_hue=hue, shadow_amount=0.1, light_hue=hue, light_amount=0.1),), 1.0)
    assert (got @ LUMA) == pytest.approx(grey @ LUMA, abs=1e-5)
    # Shadows take the one, lights the other.
    two = treated(grey, (SplitTone(shadow_hue=240, light_hue=0),), 1.0)
    assert two[0, 3, 2] > two[0, 3, 0] and two[0, -2, 0] > two[0, -2, 2]


def test_local_tone_opens_shadows_and_keeps_their_texture():
    picture = steps()
    got = treated(picture, (LocalTone(shadows=2.0, highlights=0.0, middle=-2.0),), 1.0)
    dark, light = got[8:-8, 8:48], got[8:-8, 80:120]
    assert dark.mean() / picture[8:-8, 8:48].mean() == pytest.approx(4.0, rel=0.02)
    assert light.mean() / picture[8:-8, 80:120].mean() == pytest.approx(1.0, rel=0.02)
    assert dark.std() / dark.mean() == pytest.approx(picture[8:-8, 8:48].std() / picture[8:-8, 8:48].mean(), rel=0.05)


def test_local_contrast_is_in_the_texture_and_not_in_the_tones():
    picture = steps(0.3)
    got = treated(picture, (LocalContrast(amount=1.0),), 1.0)
    for part in (np.s_[8:-8, 8:48], np.s_[8:-8, 80:120]):
        assert got[part].mean() == pytest.approx(picture[part].mean(), rel=0.03)
        assert got[part].std() == pytest.approx(2 * picture[part].std(), rel=0.2)
    softer = treated(picture, (LocalContrast(amount=-1.0),), 1.0)
    assert softer[8:-8, 8:48].std() < 0.35 * picture[8:-8, 8:48].std()


def test_sharpening_overshoots_an_edge_and_leaves_what_is_even():
    edge = np.full((20, 60, 3), 0.2, np.float32)
    edge[:, 30:] = 0.4
    got = treated(edge, (Sharpen(amount=1.0, radius_px=1.0, threshold_percent=0),), 1.0)[10, :, 0]
    assert got[29] < 0.2 < 0.4 < got[30] and got[:20] == pytest.approx(0.2, abs=1e-5)
    # By hand at the edge: v + (v - blurred v) on the display's scale; the blur of a step is the normal distribution.
    low, high = 0.2 ** (1 / 2.2), 0.4 ** (1 / 2.2)
    blurred = low + (high - low) * 0.5 * (1 + math.erf(-0.5 / math.sqrt(2)))
    assert got[29] == pytest.approx((2 * low - blurred) ** 2.2, rel=0.02)
    quiet = treated(edge, (Sharpen(amount=1.0, radius_px=1.0, threshold_percent=50),), 1.0)
    assert quiet == pytest.approx(edge, abs=1e-5)


@pytest.mark.parametrize("iso", [100.0, 1600.0])
def test_grain_has_the_deviation_of_its_speed_and_is_the_same_again(iso):
    grey = np.full((200, 300, 3), 0.5**2.2, np.float32)
    got = treated(grey, (Grain(iso=iso, coloured=0.0, size=0.3),), 1.0)
    codes = got.astype(float) ** (1 / 2.2)
    assert codes.std() == pytest.approx(0.006 * math.sqrt(iso / 100), rel=0.03)
    assert np.array_equal(got, treated(grey, (Grain(iso=iso, coloured=0.0, size=0.3),), 1.0))
    assert not np.array_equal(got, treated(grey, (Grain(iso=iso, coloured=0.0, size=0.3),), 1.0, Seen(seed=2)))
    assert np.ptp(codes, axis=-1).max() < 1e-6


@pytest.mark.parametrize("kind", KINDS)
def test_half_a_strength_is_halfway_and_none_is_nothing(kind):
    seen = Seen(
        passes={"depth": np.full((32, 48), 9, np.float32), "position": np.ones((32, 48, 3), np.float32)},
        sun_at=(0.5, 0.2),
    )
    whole = treated(PICTURE, (kind(on=True),), 1.0, seen)
    half = treated(PICTURE, (kind(on=True, strength=0.5),), 1.0, seen)
    assert half == pytest.approx((PICTURE + whole) / 2, abs=1e-5)
    assert np.array_equal(treated(PICTURE, (kind(on=True, strength=0.0),), 1.0, seen), PICTURE)
    left = Limit(gradient=Gradient(start=(0.499, 0.5), end=(0.501, 0.5)), elsewhere=True)
    limited = treated(PICTURE, (kind(on=True, limit=left),), 1.0, seen)
    assert limited[:, :22] == pytest.approx(whole[:, :22], abs=1e-5) and np.allclose(
        limited[:, 26:], PICTURE[:, 26:], atol=1e-6
    )


def weight(limit: Limit, picture: np.ndarray = PICTURE, seen: Seen | None = None) -> np.ndarray:
    return limit.weight(picture, seen or Seen())


def test_a_span_has_soft_edges_outside_of_it():
    t = np.array([0.0, 0.5, 1.0, 1.5, 2.0, 2.5, 3.0, 99.0])
    assert Span(low=1, high=2, soft=1).weight(t) == pytest.approx([0, 0.5, 1, 1, 1, 0.5, 0, 0])
    assert Span(low=1, high=2).weight(t) == pytest.approx([0, 0, 1, 1, 1, 0, 0, 0])
    with pytest.raises(ValidationError, match="change them over"):
        Span(low=2, high=1)


@pytest.mark.parametrize(
    ("start", "end"), [((0.25, 0.5), (0.75, 0.5)), ((0.5, 0.0), (0.5, 1.0)), ((0.2, 0.1), (0.9, 0.8))]
)
def test_a_gradient_rises_from_its_start_to_its_end(start, end):
    """Against numpy: the smooth step of the place along the line, in pixels."""
    h, w = 32, 48
    y, x = np.mgrid[0:h, 0:w] + 0.5
    a, b = np.array(start) * (w, h), np.array(end) * (w, h)
    t = np.clip(((x - a[0]) * (b - a)[0] + (y - a[1]) * (b - a)[1]) / ((b - a) @ (b - a)), 0, 1)
    assert weight(Limit(gradient=Gradient(start=start, end=end))) == pytest.approx(t * t * (3 - 2 * t), abs=1e-5)


def test_luminance_and_hue_ranges_choose_by_the_picture_as_it_is_found():
    grey = np.repeat((2.0 ** np.linspace(-8, 0, 48)).astype(np.float32)[None, :, None], 3, axis=2)
    chosen = weight(Limit(stops=Span(low=-3, high=-1)), grey)[0]
    stops = np.linspace(-8, 0, 48)
    assert (chosen == ((stops >= -3.0001) & (stops <= -0.9999))).all()
    hues = np.array([[colorsys.hsv_to_rgb(h / 360, 0.6, 0.5) for h in range(360)]], np.float32)
    about = weight(Limit(hues=Hues(middle_deg=350, width_deg=40, soft_deg=0)), hues)[0]
    assert set(np.flatnonzero(about > 0.5)) == {h % 360 for h in range(330, 371)}
    assert weight(Limit(hues=Hues(middle_deg=10)), grey).max() == 0
    # After two stops more the range is found where it then lies.
    look = (Exposure(stops=2.0), Saturation(amount=-1, limit=Limit(stops=Span(low=-1, high=1))))
    coloured = grey * np.array([1.2, 1.0, 0.6], np.float32)
    got = treated(coloured, look, 1.0)[0]
    colourless = np.ptp(got, axis=-1) < 1e-4 * got.max(-1)
    bright = np.log2(4 * coloured[0] @ LUMA)
    assert (colourless == ((bright >= -1) & (bright <= 1))).all()


def test_strokes_cover_what_lies_near_their_line_and_take_away_again():
    line = Stroke(points=((0.2, 0.5), (0.8, 0.5)), radius=0.1, soft=0.0)
    laid = weight(Limit(strokes=(line,)))
    assert laid[16, 24] == 1 and laid[16, 12] == 1 and laid[16, 3] == 0 and laid[2, 24] == 0
    area = float((0.6 * 2 * 0.1 + math.pi * 0.01) * 48 * 48)
    assert laid.sum() == pytest.approx(area, rel=0.05)
    away = Stroke(points=((0.5, 0.5),), radius=0.1, soft=0.0, away=True)
    assert weight(Limit(strokes=(line, away)))[16, 24] == 0 and weight(Limit(strokes=(away, line)))[16, 24] == 1
    with pytest.raises(ValidationError, match="points"):
        Limit(strokes=(Stroke(points=((0.1, 0.1),) * 500),) * 11)
    beyond = Stroke(points=((-0.5, -0.5), (-0.2, 2.0)), radius=0.1)
    assert weight(Limit(strokes=(beyond,))).max() == 0


def test_things_lights_distances_and_heights_choose_by_what_the_film_knows():
    size = (32, 48)
    depth = np.tile(np.linspace(1, 48, 48, dtype=np.float32), (32, 1))
    depth[:, -1] = np.inf
    position = np.zeros((*size, 3), np.float32)
    position[..., 2] = np.linspace(3, 0, 32)[:, None]
    chair = np.zeros(size, np.float32)
    chair[10:20, 10:20] = 0.75
    sun, lamp = np.full((*size, 3), 3.0, np.float32), np.full((*size, 3), 1.0, np.float32)
    seen = Seen(
        passes={"depth": depth, "position": position},
        groups={"sun": sun, "Lamps": lamp},
        objects={"Chair": chair},
        surfaces={"oak": chair},
    )
    assert weight(Limit(objects=("Chair",)), seen=seen) == pytest.approx(chair)
    assert weight(Limit(surfaces=("oak", "stone")), seen=seen) == pytest.approx(chair)
    assert weight(Limit(groups=("Lamps",)), seen=seen) == pytest.approx(0.25)
    assert weight(Limit(objects=("Table",)), seen=seen).max() == 0
    near = weight(Limit(distance_m=Span(low=0, high=10)), seen=seen)
    assert near[5, 9] == 1 and near[5, 11] == 0 and near[5, -1] == 0
    low = weight(Limit(height_m=Span(low=-1, high=1)), seen=seen)
    assert low[31, 3] == 1 and low[0, 3] == 0 and low[31, -1] == 0
    both = weight(Limit(objects=("Chair",), distance_m=Span(low=0, high=15)), seen=seen)
    assert both == pytest.approx(chair * (depth <= 15))
    assert weight(Limit(objects=("Chair",), elsewhere=True), seen=seen) == pytest.approx(1 - chair)
    # A smaller picture of the same film, and one of which nothing is known.
    assert weight(Limit(objects=("Chair",)), PICTURE[::2, ::2], seen) == pytest.approx(chair[::2, ::2])
    for limit in (
        Limit(objects=("Chair",)),
        Limit(groups=("Lamps",)),
        Limit(distance_m=Span(low=0, high=9)),
        Limit(height_m=Span(low=0, high=9)),
    ):
        assert weight(limit).max() == 0


def film_with_masks() -> Film:
    film = Film.empty(24, 16, ("sun", "Lamps"), masks=True)
    film.samples = 4
    film.counts[:] = 4
    film.light[:] = 4 * RNG.uniform(0.5, 1, film.light.shape)
    film.auxiliary[..., 6], film.auxiliary[..., 7] = 4 * 2.5, 4  # 2.5 m in every sample
    film.auxiliary[..., 8:11] = 4 * np.array([1.0, 2.0, 0.5])
    film.mask_names = (("", "Chair", "Table"), ("oak", "wool"))
    film.masks[:, :, 0, 0] = (1, 4)
    film.masks[4:8, 6:12, 0, 0], film.masks[4:8, 6:12, 0, 1] = (2, 3), (3, 1)
    film.masks[:, :, 1, 0] = (2, 4)
    film.settings["lens"] = {
        "half_width": 0.5, "half_height": 0.3, "off_axis": [0.0, 0.1], "focal_mm": 36.0, "film_width_mm": 36.0, "focus_m": None,
    }  # fmt: skip
    film.settings["sun_at"] = [0.25, -0.5]
    return film


def test_a_film_tells_its_treatments_what_is_seen_and_so_does_its_file(tmp_path):
    film = film_with_masks()
    write_exr(film, tmp_path / "film.exr")
    for known in (film, read_exr(tmp_path / "film.exr")):
        seen = seen_of(known)
        assert seen.objects["Chair"][5, 8] == pytest.approx(0.75) and seen.objects["Table"][5, 8] == pytest.approx(0.25)
        assert seen.objects["Chair"][0, 0] == 0 and seen.surfaces["wool"] == pytest.approx(1)
        assert seen.depth_m((16, 24)) == pytest.approx(2.5) and seen.height_m((8, 12)) == pytest.approx(0.5)
        assert (seen.lens.half_width, seen.lens.off_axis, seen.sun_at) == (0.5, (0.0, 0.1), (0.25, -0.5))
    # Only what a look asks for is worked out.
    assert seen_of(film, Look()).objects == {} and seen_of(film, Look()).passes == {}
    limited = Look(treatments=(Contrast(amount=0.2, limit=Limit(objects=("Chair",))),))
    assert needs_masks(limited) and not needs_masks(Look()) and set(seen_of(film, limited).objects) >= {"Chair"}


def test_a_curve_by_points_is_drawn_and_has_no_handles_of_its_own():
    curve = BentCurve(points=((0.0, 0.1), (1.0, 0.9)))
    shown = drawn(curve)
    stops, values = np.array(shown.points).T
    inside = (stops <= 0) & (stops > -6)
    assert values[inside] ** (1 / 2.2) == pytest.approx(0.1 + 0.8 * 2.0 ** (stops[inside] / 2.2), abs=5e-3)
    assert shown.handles == ()
    with pytest.raises(InputError, match="points"):
        curve.bent("toe", 0, 0)
