"""Treatments that follow the light, the lens and the eye: each against its published equation, at more than one place."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.integrate import quad

from valleylight.core.treatments.depth_blur import DepthBlur, circle_of_confusion_mm
from valleylight.core.treatments.fringe import Fringe
from valleylight.core.treatments.ghosts import Ghosts
from valleylight.core.treatments.glare import Glare, veil_per_lux
from valleylight.core.treatments.glow import SmallGlow
from valleylight.core.treatments.haze import Haze
from valleylight.core.treatments.run import treated
from valleylight.core.treatments.seen import LensSeen, Seen
from valleylight.core.treatments.shafts import Shafts
from valleylight.core.treatments.star import (
    Star,
    area_m2,
    corners_m,
    polygon_pattern,
    star_pattern,
    streak_per_rad,
)
from valleylight.core.treatments.vignette import Vignette

LUMA = np.array([0.2126, 0.7152, 0.0722])


def point(height: int, width: int, y: int, x: int, value: float = 1000.0) -> np.ndarray:
    picture = np.zeros((height, width, 3), np.float32)
    picture[y, x] = value
    return picture


def with_depth(depth: np.ndarray, **more: object) -> Seen:
    return Seen(passes={"depth": depth.astype(np.float32), "position": np.zeros((*depth.shape, 3), np.float32)}, **more)


@pytest.mark.parametrize(
    ("angle", "age", "pigment", "veil"),
    [
        # By hand from the equation of CIE 135/1: 10/t^3 + (5/t^2 + 0.1 p/t)(1 + (age/62.5)^4) + 0.0025 p.
        (1.0, 0.0, 0.0, 15.0), (10.0, 0.0, 0.0, 0.06), (10.0, 62.5, 0.0, 0.11), (10.0, 62.5, 1.0, 0.1325), (2.0, 62.5, 0.5, 3.80125),
        (100.0, 0.0, 0.0, 0.00051), (0.05, 30.0, 0.5, 0.0),
    ],
)  # fmt: skip
def test_the_veil_of_a_source_is_that_of_the_glare_equation(angle, age, pigment, veil):
    assert float(veil_per_lux(np.array(angle), age, pigment)) == pytest.approx(veil, rel=1e-9)


@pytest.mark.parametrize(("half_width", "far"), [(0.75, 12), (0.3, 30), (2.0, 5)])
def test_a_lamp_in_the_picture_veils_what_lies_about_it(half_width, far):
    """E = L w at the eye, veil by the equation at the angle between: in the picture as by hand."""
    seen = Seen(lens=LensSeen(half_width=half_width, half_height=half_width * 9 / 16))
    picture = point(90, 160, 45, 60, 5000.0)
    got = treated(picture, (Glare(age=40, pigment=0.5),), 1.0, seen)
    pixel = 2 * half_width / 160
    angle = np.arctan(far * pixel)
    lux = 5000.0 * pixel**2
    expected = lux * np.cos(angle) * veil_per_lux(np.degrees(np.array(angle)), 40, 0.5)
    assert got[45, 60 + far, 1] == pytest.approx(expected, rel=2e-3)
    assert got[45 - far, 60, 0] == pytest.approx(expected, rel=2e-3)
    # What is spread was taken from the lamp: nothing is made.
    assert got.sum() <= picture.sum() * 1.0001 and got[45, 60, 1] < 5000


def test_an_even_field_is_left_as_it_is_by_glare_in_its_middle():
    """Every direction sends as much as it gets; the edges, which see dark beyond the picture, get less."""
    got = treated(np.ones((200, 320, 3), np.float32), (Glare(),), 1.0)
    assert got[100, 160] == pytest.approx([1, 1, 1], abs=0.03) and (got <= 1.0001).all()


@pytest.mark.parametrize("blades", [5, 6, 7, 8])
def test_the_pattern_of_a_polygon_at_its_middle_is_its_area_squared(blades):
    corners = corners_m(blades, 0.002, 10)
    tiny = polygon_pattern(corners, np.array([1e-3, 2e-3]))
    assert tiny == pytest.approx(area_m2(blades, 0.002) ** 2, rel=1e-4)


def test_the_pattern_of_a_square_is_a_product_of_sincs():
    """Fraunhofer pattern of a rectangular aperture: J. W. Goodman, Introduction to Fourier Optics, 4.4."""
    side = 0.001
    square = corners_m(4, side / np.sqrt(2), 45)
    k = np.random.default_rng(2).uniform(-4000, 4000, (200, 2))
    expected = (side * side * np.sinc(k[:, 0] * side) * np.sinc(k[:, 1] * side)) ** 2
    assert polygon_pattern(square, k) == pytest.approx(expected, abs=1e-6 * side**4)


@pytest.mark.parametrize("blades", [5, 6, 9])
def test_the_pattern_of_a_polygon_is_the_transform_of_its_shape(blades):
    """Against numpy's FFT of the shape drawn on a fine grid."""
    n, wide = 1024, 0.02
    step = wide / n
    x = (np.arange(n) - n / 2 + 0.5) * step
    corners = corners_m(blades, 0.004, 7)
    inside = np.ones((n, n), bool)
    for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        inside &= (b[0] - a[0]) * (x[:, None] - a[1]) - (b[1] - a[1]) * (x[None] - a[0]) >= 0
    pattern = np.abs(np.fft.fft2(inside) * step * step) ** 2
    frequency = np.fft.fftfreq(n, step)
    for i, j in ((0, 3), (2, 5), (7, -4), (-6, -6)):
        k = np.array([frequency[j], frequency[i]])
        assert polygon_pattern(corners, k) == pytest.approx(pattern[i, j], rel=0.05, abs=1e-4 * pattern[0, 0])


@pytest.mark.parametrize(("wavelength", "angle"), [(550e-9, 0.02), (450e-9, 0.01), (650e-9, 0.05)])
def test_a_streak_holds_the_light_of_the_pattern_across_it(wavelength, angle):
    """|F|^2 / (wavelength^2 A) of a hexagon integrated across a streak, averaged over its ripples: two edges send along it."""
    radius = 0.002
    corners, area = corners_m(6, radius, 0), area_m2(6, radius)
    across_of = np.array([np.cos(np.pi / 6), np.sin(np.pi / 6)])  # square to the edge between the first corners
    side = np.array([-across_of[1], across_of[0]])
    reach = 12 * wavelength / radius
    t = np.linspace(-reach, reach, 801)
    total = []
    for along in angle + np.linspace(0, 8 * wavelength / radius, 160, endpoint=False):
        k = (along * across_of[None] + t[:, None] * side[None]) / wavelength
        total.append(np.trapezoid(polygon_pattern(corners, k), t) / (wavelength**2 * area))
    expected = 2 * streak_per_rad(np.array(angle + 4 * wavelength / radius), radius, area, wavelength)
    assert np.mean(total) == pytest.approx(expected, rel=0.06)


@pytest.mark.parametrize(("blades", "streaks"), [(6, 6), (8, 8), (5, 10), (7, 14)])
def test_a_star_has_as_many_streaks_as_blades_or_twice_as_many(blades, streaks):
    reach = 60
    pattern = star_pattern(reach, 1.2e-3, blades, 0.0015, 10.0) @ LUMA
    angle = np.linspace(0, 2 * np.pi, 2880, endpoint=False)
    ring = np.array([
        pattern[int(round(reach + 45 * np.sin(a))), int(round(reach + 45 * np.cos(a)))] for a in angle
    ])  # fmt: skip
    lit = ring > 0.3 * ring.max()
    assert int((lit & ~np.roll(lit, 1)).sum()) == streaks


def test_the_light_of_a_streak_falls_with_the_square_and_grows_with_the_f_number():
    held = [streak_per_rad(np.array([0.01, 0.02]), r / 1000, area_m2(6, r / 1000), 550e-9) for r in (2.0, 1.0)]
    assert held[0][0] == pytest.approx(4 * held[0][1]) and held[1][0] == pytest.approx(2 * held[0][0])
    total, _ = quad(lambda t: float(streak_per_rad(np.array(t), 0.002, area_m2(6, 0.002), 550e-9)), 1e-3, np.inf)
    assert 12 * total < 0.2  # most of the light stays in the middle


def test_a_star_is_laid_about_a_lamp_and_nothing_about_a_lit_wall():
    wall = np.full((90, 160, 3), 0.9, np.float32)
    assert np.array_equal(treated(wall, (Star(),), 1.0), wall)
    lamp = wall.copy()
    lamp[40, 80] = 4000
    more = treated(lamp, (Star(blades=6),), 1.0) - lamp
    assert more.max() > 0 and (more >= -1e-4).all()
    louder = treated(lamp, (Star(blades=6, gain_stops=2),), 1.0) - lamp
    assert louder.sum() == pytest.approx(4 * more.sum(), rel=1e-3)


@pytest.mark.parametrize("visibility", [100.0, 2000.0])
def test_haze_leaves_two_percent_of_contrast_at_its_visibility(visibility):
    """Koschmieder: black against the air's own light at that distance."""
    depth = np.tile(np.array([0.001, visibility / 2, visibility, np.inf]), (8, 1))
    black = np.zeros((8, 4, 3), np.float32)
    haze = Haze(visibility_m=visibility, stops=0.0, kelvin=6504, sky_m=1e6)
    got = treated(black, (haze,), 1.0, with_depth(depth)) @ LUMA
    air = got[0, 3]
    assert air == pytest.approx(1.0, abs=0.01)
    contrast = (air - got[0]) / air
    assert contrast == pytest.approx([1.0, 0.02**0.5, 0.02, 0.0], abs=1e-3)
    assert np.array_equal(treated(black, (haze,), 1.0), black)  # nothing is known of distances


@pytest.mark.parametrize(("natural", "stops"), [(1.0, 0.0), (0.5, -1.0), (-1.0, 0.0)])
def test_the_vignette_is_cos4_of_the_angle_to_the_axis(natural, stops):
    lens = LensSeen(half_width=0.8, half_height=0.45, off_axis=(0.0, 0.2))
    got = treated(
        np.ones((90, 160, 3), np.float32), (Vignette(natural=natural, stops=stops, begins=0.9),), 1.0, Seen(lens=lens)
    )
    x, y = (100.5 / 160 * 2 - 1) * 0.8, (1 - 30.5 / 90 * 2) * 0.45 + 0.2
    cosine = 1 / np.sqrt(1 + x * x + y * y)
    assert got[30, 100, 0] == pytest.approx(cosine ** (4 * natural), rel=1e-4)
    if natural == 1:  # taken out again it is as if there were none
        back = treated(got, (Vignette(natural=-1.0, stops=0.0),), 1.0, Seen(lens=lens))
        assert back == pytest.approx(1.0, rel=1e-4)


def test_the_circle_of_confusion_is_that_of_a_thin_lens():
    """S. F. Ray, Applied Photographic Optics: 50 mm at f/2 on 5 m; at twice the distance, at infinity, in focus."""
    lens = LensSeen(focal_mm=50)
    f, n, s = 50.0, 2.0, 5000.0
    got = circle_of_confusion_mm(np.array([5.0, 10.0, np.inf, 2.5]), lens, 5.0, n)
    infinity = f * f / (n * (s - f))
    assert got == pytest.approx([0.0, infinity / 2, infinity, infinity], rel=1e-3)
    # At the hyperfocal distance far things are just as sharp as half of it: c = f^2 / (N H).
    far = circle_of_confusion_mm(np.array([1e5, 20.0]), lens, 40.0, n)
    assert far[0] == pytest.approx(far[1], rel=2e-2)


def test_depth_blur_keeps_what_is_in_focus_and_spreads_the_rest_by_its_circle():
    """A point of light: its spread has the second moment of a disc of that diameter (variance d^2 / 16 a side)."""
    size = (101, 101)
    lens = LensSeen(half_width=0.36, half_height=0.36, focal_mm=50, film_width_mm=36)
    picture = point(*size, 50, 50, 1.0)
    sharp = treated(picture, (DepthBlur(focus_m=3.0, f_number=1.4),), 1.0, with_depth(np.full(size, 3.0), lens=lens))
    assert sharp == pytest.approx(picture, abs=1e-6)
    for far in (6.0, 30.0):
        got = treated(picture, (DepthBlur(focus_m=3.0, f_number=2.0),), 1.0, with_depth(np.full(size, far), lens=lens))
        assert got.sum() == pytest.approx(picture.sum(), rel=0.02)
        x = np.arange(101) - 50.0
        variance = float((got[..., 0].sum(0) * x * x).sum() / got[..., 0].sum())
        disc = float(circle_of_confusion_mm(np.array(far), lens, 3.0, 2.0)) / 36 * 101
        assert np.sqrt(variance) == pytest.approx(disc / 4, rel=0.2)


def test_a_fringe_draws_red_and_blue_apart_by_the_percent_at_the_edge():
    """A fine line at three quarters of the way out: its red and its blue are apart by that share of its distance to the axis."""
    width = 801
    picture = np.zeros((41, width, 3), np.float32)
    x = np.arange(width)
    picture[:] = np.exp(-(((x - 700) / 3.0) ** 2))[None, :, None]
    got = treated(picture, (Fringe(percent=1.0),), 1.0)[20]
    places = [(got[:, c] * x).sum() / got[:, c].sum() for c in range(3)]
    assert places[0] - places[2] == pytest.approx(0.01 * (700 - 400), rel=0.02)
    assert places[1] == pytest.approx(700, abs=0.01)


def test_ghosts_stand_across_the_axis_and_follow_a_shifted_lens():
    picture = point(80, 160, 20, 120, 8000.0)
    ghost = treated(picture, (Ghosts(amount_percent=1.0),), 1.0) - picture
    assert ghost.min() >= -1e-4 and ghost.sum() > 0
    y, x = np.unravel_index(int(ghost[..., 1][:, :70].argmax()), (80, 70))
    assert (y, x) == pytest.approx((59, 39), abs=12)  # turned about the middle, smaller ones nearer to it
    shifted = Seen(lens=LensSeen(off_axis=(0.3, 0.0)))
    other = treated(picture, (Ghosts(amount_percent=1.0),), 1.0, shifted) - picture
    assert not np.allclose(ghost, other)
    dark = np.full((40, 80, 3), 0.5, np.float32)
    assert np.array_equal(treated(dark, (Ghosts(),), 1.0), dark)


def test_small_lights_glow_and_windows_do_not():
    picture = np.full((180, 320, 3), 0.1, np.float32)
    picture[60:120, 40:120] = 6.0  # a window
    window = treated(picture, (SmallGlow(amount=1.0, size_percent=2.0),), 1.0)
    assert window[30, 80, 0] == pytest.approx(0.1, abs=0.01)
    picture[90:92, 240:242] = 60.0
    lamp = treated(picture, (SmallGlow(amount=1.0, size_percent=2.0),), 1.0)
    assert lamp[90, 247, 0] > 0.15 > lamp[90, 300, 0]
    assert (lamp >= picture - 1e-5).all()


def test_shafts_run_from_the_sun_and_need_it():
    picture = np.zeros((90, 160, 3), np.float32)
    picture[30:34, 78:82] = 50.0
    shafts = Shafts(amount=1.0, length=0.9)
    assert np.array_equal(treated(picture, (shafts,), 1.0), picture)
    below = treated(picture, (shafts,), 1.0, Seen(sun_at=(0.5, -0.3))) - picture
    assert below[60, 80, 0] > 5 * below[32, 120, 0] and below[10, 80, 0] < 0.2 * below[50, 80, 0]
    aside = treated(picture, (shafts,), 1.0, Seen(sun_at=(-0.3, 0.35))) - picture
    assert aside[32, 110, 0] > 5 * aside[60, 80, 0]
