"""Skies against CIE S 011 and handbook illuminances."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.integrate import simpson
from scipy.ndimage import map_coordinates

from valleylight.core import sky
from valleylight.core.colour.temperature import rgb_to_kelvin
from valleylight.core.project.sky import CloudLayer, Sky
from valleylight.core.sky.cie import gradation, indicatrix
from valleylight.core.sky.cloudfield import CELLS, TILE_M
from valleylight.core.sky.cloudlight import LEAST_DENSITY
from valleylight.core.sky.cloudsky import as_seen, lit_layer
from valleylight.core.sky.dome import ROWS, cell_angles, solid_angles
from valleylight.core.sky.ribbon import sky_colours


def test_overcast_is_three_times_brighter_at_the_zenith():
    """Moon-Spencer 1:3 (CIE 110): L(horizon) / L(zenith) = 1/3; type 1 keeps that ratio."""
    ratio = gradation(np.radians(89.99), 1) / gradation(0.0, 1)
    assert ratio == pytest.approx(1 / 3, rel=0.02)


@pytest.mark.parametrize("sky_type", sorted(sky.PARAMETERS))
def test_indicatrix_and_gradation_by_hand(sky_type):
    """The formulas of CIE S 011 written out again for one direction."""
    a, b, c, d, e = sky.PARAMETERS[sky_type]
    chi, z, zs = 0.7, 1.0, 0.9
    phi = lambda t: 1 + a * np.exp(b / np.cos(t))  # noqa: E731
    f = lambda t: 1 + c * (np.exp(d * t) - np.exp(d * np.pi / 2)) + e * np.cos(t) ** 2  # noqa: E731
    expected = f(chi) * phi(z) / (f(zs) * phi(0))
    assert sky.relative_luminance(z, chi, zs, sky_type) == pytest.approx(expected)
    assert indicatrix(np.pi / 2, sky_type) == pytest.approx(1.0)


def made(sky_type: int, azimuth: float, altitude: float) -> sky.SkyLight:
    """A CIE sky without far sunlit ground."""
    return sky.sky_light(Sky(cie_type=sky_type), sky.CelestialBody(azimuth, altitude), None, 0.0, 0.0, 256)


def test_uniform_sky_is_uniform():
    dome = made(5, 180.0, 40.0).dome
    upper = dome.luminance[ROWS // 2 + 2 :]
    assert upper == pytest.approx(np.full_like(upper, sky.sky_horizontal_lx(40, 5) / np.pi), rel=3e-3)


@pytest.mark.parametrize("sky_type", [1, 3, 7, 12, 14])
@pytest.mark.parametrize("altitude", [5.0, 35.0, 65.0])
def test_the_dome_gives_the_illuminance_of_its_class(sky_type, altitude):
    dome = made(sky_type, 140.0, altitude).dome
    heights, _ = cell_angles()
    integral = (dome.luminance * np.maximum(np.sin(heights), 0)[:, None] * solid_angles()[:, None]).sum()
    assert integral == pytest.approx(dome.horizontal_illuminance_lx, rel=1e-3)
    assert dome.horizontal_illuminance_lx == pytest.approx(sky.sky_horizontal_lx(altitude, sky_type), rel=5e-3)


def test_handbook_illuminances():
    """IES RP-21: clear sky 0.8 + 15.5 sin^0.5 h klx; overcast 0.3 + 21 sin h klx. Twilight from memory: 400 lx at
    sunset, 3.4 lx at the end of civil twilight."""
    assert sky.sky_horizontal_lx(90, 12) == pytest.approx(16_300)
    assert sky.sky_horizontal_lx(30, 1) == pytest.approx(10_800)
    assert sky.sky_horizontal_lx(-0.8, 12) == pytest.approx(400, rel=0.01)
    assert sky.sky_horizontal_lx(-6, 12) == pytest.approx(3.4, rel=0.01)
    falling = [sky.sky_horizontal_lx(h, 12) for h in np.arange(60, -20, -0.5)]
    assert all(a > b or a == b == falling[-1] for a, b in zip(falling, falling[1:], strict=False))


def test_clouds_dim_the_sun():
    assert sky.sun_share_through_cloud(40, 12) == 1.0
    assert 0.3 < sky.sun_share_through_cloud(40, 7) < 0.6
    assert sky.sun_share_through_cloud(40, 2) == 0.0


@pytest.mark.parametrize("sun", [(0.36, -0.48, 0.8), (-0.8, 0.59, 0.11)])
def test_the_way_of_the_sun_through_a_cloud(sun):
    """Optical depth along the sun's way, against scipy's interpolation of the field as it is seen and its integral by Simpson's rule."""
    layer = CloudLayer(kind="sheet", cover=0.9, base_m=1200.0, depth_m=400.0, density=0.004, size_m=9000.0)
    lit, density = lit_layer(layer, 5, sun), as_seen(layer, 5)
    cell, levels = TILE_M / CELLS, density.shape[2]
    heights = (np.arange(levels) + 0.5) * layer.depth_m / levels
    for i, j, k in [(40, 70, 2), (200, 11, 5), (255, 255, 0)]:
        t = np.linspace(0, min((layer.depth_m - heights[k]) / max(sun[2], 0.02), 9000.0), 4001)
        z = (heights[k] + t * sun[2]) / layer.depth_m * levels - 0.5
        at = np.array([i + t * sun[0] / cell, j + t * sun[1] / cell])
        around = [map_coordinates(density[:, :, n], at, order=1, mode="grid-wrap") for n in range(levels)]
        below = np.clip(z, 0, levels - 1.001)
        n = below.astype(int)
        along = np.arange(len(t))
        value = np.array(around)[n, along] * (1 - below + n) + np.array(around)[n + 1, along] * (below - n)
        expected = layer.density * simpson(value, x=t)
        assert lit.to_sun[i, j, k] == pytest.approx(expected, rel=0.08)
    steps = density[40, 70].astype(float) * layer.density * layer.depth_m / levels
    assert lit.above[40, 70, 3] == pytest.approx(steps[4:].sum() + steps[3] / 2, rel=1e-5)


def test_sight_skips_only_clear_air():
    layer = CloudLayer(kind="heaped", cover=0.3, base_m=1200.0, depth_m=800.0, density=0.03, size_m=2500.0)
    lit = lit_layer(layer, 5, (0.0, 0.6, 0.8))
    thick = (lit.density > LEAST_DENSITY).any(2)
    x, y = np.nonzero(lit.busy == 0)
    assert 0.1 < len(x) / lit.busy.size < 0.95
    for i, j in ((0, 0), (0, 1), (1, 0), (1, 1)):  # the cells a point between them is interpolated from
        assert not thick[(x + i) % CELLS, (y + j) % CELLS].any()


def test_colour_of_clear_overcast_and_dusk_skies():
    zenith = lambda dome: dome.rgb[-1].mean(0)  # noqa: E731
    clear, overcast = made(12, 180.0, 45.0).dome, made(1, 180.0, 45.0).dome
    assert rgb_to_kelvin(zenith(clear)) > 9000  # common practice: blue sky 9000 K and more
    assert rgb_to_kelvin(zenith(overcast)) == pytest.approx(6500, rel=0.02)
    dusk = made(12, 180.0, -4.0).dome.rgb
    low = ROWS // 2 + 3
    towards, away = dusk[low, dusk.shape[1] // 2], dusk[low, 0]
    assert towards[0] / towards[2] > 1.5 * away[0] / away[2]  # the afterglow is where the sun went down
    assert np.isfinite(dusk).all() and (dusk >= 0).all()


def test_ribbon_runs_from_night_to_day():
    night, day = sky_colours(np.array([-20.0, 50.0]), 2.5)
    assert sum(bytes.fromhex(night[1:])) < 60 < 300 < sum(bytes.fromhex(day[1:]))
    assert int(day[5:], 16) > int(day[1:3], 16)
