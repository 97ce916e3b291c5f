"""The computed sky against handbook illuminances, extinction, and the CIE's clear and overcast types."""

from __future__ import annotations

import numpy as np
import pytest

from valleylight.core import sky, sun
from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.colour.temperature import rgb_to_kelvin
from valleylight.core.project.sky import CloudLayer, Clouds, MeasuredSky, Sky
from valleylight.core.sky import cie, perez
from valleylight.core.sky.atmosphere import atmosphere
from valleylight.core.sky.columns import column_table
from valleylight.core.sky.constituents import RAYLEIGH_PER_M, WAVELENGTHS_NM
from valleylight.core.sky.scatter import sun_columns
from valleylight.core.sun.sunlight import air_mass


def clear(altitude: float, turbidity: float = 2.5, **more) -> sky.SkyLight:
    return sky.sky_light(
        Sky(turbidity=turbidity, stars=False, **more), sky.CelestialBody(180.0, altitude), None, 0.0, 0.0, 128
    )


def horizontal(altitude: float, **more) -> float:
    return clear(altitude, **more).dome.horizontal_illuminance_lx


def test_rayleigh_optical_depth():
    """B. Bodhaine et al., On Rayleigh optical depth calculations, J. Atmos. Ocean. Tech. 16, 1999: 0.098 at 550 nm, 0.36 at
    400 nm, at sea level (from memory)."""
    column = sun_columns(column_table(), 0.0, 1.0)[0]
    depth = np.interp([400, 550], WAVELENGTHS_NM, RAYLEIGH_PER_M * column)
    assert depth == pytest.approx([0.36, 0.098], rel=0.05)


@pytest.mark.parametrize("altitude", [60, 30, 10, 5])
def test_columns_follow_the_air_mass(altitude):
    """The air's column over the one straight up against F. Kasten, A. Young 1989, which has refraction."""
    table = column_table()
    ratio = sun_columns(table, 0.0, float(np.sin(np.radians(altitude))))[0] / sun_columns(table, 0.0, 1.0)[0]
    assert ratio == pytest.approx(air_mass(altitude), rel=0.03 if altitude > 8 else 0.08)


@pytest.mark.parametrize("altitude", [70, 45, 25])
def test_direct_normal_against_the_handbook(altitude):
    """IES Lighting Handbook: 127.5 klx exp(-0.21 m); and the other spectrum of the direct sun, SPCTRL2."""
    direct = float(atmosphere(2.5, 0.18).direct_rgb_lx(altitude) @ LUMINANCE)
    assert direct == pytest.approx(127_500 * np.exp(-0.21 * air_mass(altitude)), rel=0.12)
    assert direct == pytest.approx(sun.clear_sunlight(altitude, 2.5).normal_illuminance_lx, rel=0.04)


def test_illuminance_from_noon_to_night():
    """Clear sky alone 10 to 20 klx, total 100 to 130 klx at high sun (common practice); about 400 lx at sunset and 3.4 lx at the
    end of civil twilight, 0.008 lx at that of nautical twilight (RCA Electro-Optics Handbook 1974, figure 6-1, from memory).
    A sky without any horizon is somewhat brighter at sunset than the handbook's."""
    for altitude in (30, 45, 60):
        assert 10_000 < horizontal(altitude) < 21_000
    high = 65.0
    direct = float(atmosphere(2.5, 0.18).direct_rgb_lx(high) @ LUMINANCE) * np.sin(np.radians(high))
    assert 100_000 < direct + horizontal(high) < 130_000
    assert horizontal(-0.83) == pytest.approx(450, rel=0.4)
    assert horizontal(-6.0) == pytest.approx(3.4, rel=0.25)
    assert horizontal(-12.0) == pytest.approx(0.0083, rel=0.5)
    falling = [horizontal(float(h)) for h in (60, 40, 20, 10, 5, 0, -2, -4, -6, -9, -12, -15, -18)]
    assert all(a > b for a, b in zip(falling, falling[1:], strict=False))
    assert falling[-1] == pytest.approx(6e-4, rel=0.6)  # the night sky's own light, from memory


def test_the_suns_colour_by_altitude():
    """Direct sun about 5500 K high, 4300 to 4700 K at 20 degrees, 3500 K at 10, about 2000 K at the horizon (common
    practice)."""
    air = atmosphere(2.5, 0.18)
    kelvin = [rgb_to_kelvin(air.direct_rgb_lx(h)) for h in (80, 20, 10, 2)]
    assert kelvin[0] == pytest.approx(5400, rel=0.05)
    assert kelvin[1] == pytest.approx(4500, rel=0.06)
    assert kelvin[2] == pytest.approx(3600, rel=0.08)
    assert kelvin[3] == pytest.approx(2000, rel=0.2)


def test_blue_hour_is_blue_and_the_afterglow_warm():
    dusk = clear(-5.0).dome.rgb
    zenith, low = dusk[-1].mean(0), dusk[66, 128]
    assert rgb_to_kelvin(zenith) > 15_000 or not np.isfinite(rgb_to_kelvin(zenith))
    assert zenith[2] > 2.5 * zenith[0]  # without ozone it would be yellowish
    assert low[0] > low[2]


@pytest.mark.parametrize("altitude", [20.0, 40.0])
def test_shape_against_the_cie_clear_sky(altitude):
    """The computed sky over that of CIE S 011 type 12 (clear, low turbidity), both over their zenith, away from the glow."""
    luminance = clear(altitude, turbidity=2.2).dome.luminance
    heights = np.radians([70, 45, 25, 12])
    rows = ((heights / np.pi + 0.5) * 128).astype(int)
    for turn in (90, 180):  # degrees from the sun's azimuth
        column = int((180 + turn) % 360 / 360 * 256)
        chi = np.arccos(
            np.sin(heights) * np.sin(np.radians(altitude))
            + np.cos(heights) * np.cos(np.radians(altitude)) * np.cos(np.radians(turn))
        )
        expected = cie.relative_luminance(np.pi / 2 - heights, chi, np.pi / 2 - np.radians(altitude), 12)
        got = luminance[rows, column] / luminance[-1].mean()
        assert got == pytest.approx(expected, rel=0.5)
        assert np.corrcoef(got, expected)[0, 1] > 0.9


def test_turbidity_dims_the_sun_and_whitens_the_sky():
    assert (
        atmosphere(6.0, 0.18).direct_rgb_lx(30) @ LUMINANCE < 0.6 * atmosphere(2.0, 0.18).direct_rgb_lx(30) @ LUMINANCE
    )
    blue, pale = (
        clear(40.0, turbidity=1.8).dome.rgb[100:].mean((0, 1)),
        clear(40.0, turbidity=6.0).dome.rgb[100:].mean((0, 1)),
    )
    assert blue[2] / blue[0] > 1.2 * pale[2] / pale[0]


def test_perez_gives_back_what_was_measured():
    """The distribution is scaled to the measured diffuse light; a clear sky has its corona, an overcast one is near 1:3."""
    weather = MeasuredSky(direct_normal_lx=80_000, diffuse_horizontal_lx=14_000)
    made = clear(40.0, model="measured", measured=weather).dome
    assert made.horizontal_illuminance_lx == pytest.approx(14_000, rel=0.01)
    assert made.luminance[64:].max() > 8 * made.luminance[-1].mean()
    zenith = np.radians(50)
    dull = perez.coefficients(perez.clearness(0, 10_000, zenith), perez.brightness(10_000, 1.5), zenith)
    ratio = perez.relative_luminance(np.radians(84), np.pi / 2, dull) / perez.relative_luminance(0.0, np.pi / 2, dull)
    assert 0.3 < float(ratio) < 0.75
    assert perez.clearness(0, 10_000, zenith) == pytest.approx(1.0)
    assert perez.clearness(90_000, 10_000, zenith) > 4.5


OVERCAST = Clouds(layers=(CloudLayer(kind="sheet", cover=1.0, base_m=900, depth_m=800, density=0.06, ragged=0.3),))


@pytest.mark.parametrize("altitude", [20.0, 45.0, 65.0])
def test_an_overcast_sky_gets_its_brightness_from_its_clouds(altitude):
    """IES RP-21: overcast 0.3 + 21 sin h klx, for a cloud whose thickness was not told; within the spread of real clouds."""
    dull = clear(altitude, clouds=OVERCAST)
    handbook = 300 + 21_000 * np.sin(np.radians(altitude))
    assert 0.55 * handbook < dull.dome.horizontal_illuminance_lx < 1.8 * handbook
    assert dull.sun_share < 1e-3
    luminance = dull.dome.luminance
    assert luminance[-4:].mean() > 1.3 * luminance[70:76].mean()  # brighter above than low down
    assert 5500 < rgb_to_kelvin(dull.dome.horizontal_rgb_lx) < 8000


def test_two_stream_transmission_of_a_thick_cloud():
    """Of a conservative layer of optical depth t and asymmetry g there passes (4/3) / ((1 - g) t + 4/3) (Eddington); the
    upper limit is a thin cloud. Doubling a thick cloud's density nearly halves what comes through."""
    thick = [
        horizontal(
            60.0, clouds=OVERCAST.model_copy(update={"layers": (OVERCAST.layers[0].model_copy(update={"density": d}),)})
        )
        for d in (0.1, 0.2)
    ]
    assert 1.45 < thick[0] / thick[1] < 2.1


def test_cover_is_the_share_asked_for_and_the_seed_the_field():
    from valleylight.core.sky.cloudfield import field_of

    layer = CloudLayer(kind="heaped", cover=0.4, ragged=0.0)
    field = field_of(layer, 3).density
    assert (field.max(2) > 0).mean() == pytest.approx(0.4, abs=0.03)
    assert (field_of(layer, 3).density == field).all()
    assert (field_of(layer, 4).density != field).any()


def test_clouds_shade_the_site_and_drift():
    """The shadow map, followed along the sun, is that of the field: drifting it by its own length changes nothing, drifting the
    clouds moves the shadow with them."""
    from valleylight.core.sky.cloudshadow import through_cloud

    heaps = Clouds(layers=(CloudLayer(kind="heaped", cover=0.4),), seed=2)
    made = clear(50.0, clouds=heaps)
    spots = np.arange(0, 32_000, 640.0)
    row = lambda m: np.array([through_cloud(m.shadow, m.shadow_frame, x, 0.0, 0.0) for x in spots])  # noqa: E731
    still, moved = row(made), row(clear(50.0, clouds=heaps.model_copy(update={"east_m": 640.0})))
    assert 0.2 < still.mean() < 0.9 and still.min() < 0.05 and still.max() > 0.95
    assert moved == pytest.approx(np.roll(still, 1), abs=1e-6)
    assert made.sun_share == pytest.approx(still[0])
    assert clear(50.0).shadow.size == 0
