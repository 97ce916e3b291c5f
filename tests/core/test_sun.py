"""The sun's place and strength against published figures."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta, timezone

import numpy as np
import pytest

from valleylight.core import sun
from valleylight.core.colour.temperature import rgb_to_kelvin
from valleylight.core.errors import InputError
from valleylight.core.sun.sunlight import air_mass


def test_nrel_spa_example():
    """NREL/TP-560-34302, table A5.1: Golden, 17 October 2003, 12:30:30 at UTC-7: zenith 50.11162, azimuth 194.34024."""
    when = datetime(2003, 10, 17, 12, 30, 30, tzinfo=timezone(timedelta(hours=-7)))
    where = sun.position(39.742476, -105.1786, when, elevation_m=1830.14, pressure_hpa=820, temperature_c=11)
    assert 90 - where.altitude_deg == pytest.approx(50.11162, abs=1e-4)
    assert where.azimuth_deg == pytest.approx(194.34024, abs=1e-4)


def test_nrel_spa_example_sunrise():
    """The same table: sunrise 06:12:43, sunset 17:20:19 local time."""
    rise, fall = sun.rise_and_set(39.742476, -105.1786, "America/Denver", date(2003, 10, 17))
    assert rise == pytest.approx(7 + 12 / 60 + 43 / 3600, abs=0.01)  # daylight saving time: one hour later
    assert fall == pytest.approx(18 + 20 / 60 + 19 / 3600, abs=0.01)


def test_solstice_noon_stands_at_the_textbook_height():
    """Altitude at noon = 90 - latitude + declination; declination 23.44 degrees in June."""
    azimuths, altitudes = sun.positions_of_day(46.6, 9.84, "Europe/Zurich", date(2026, 6, 21), np.arange(0, 24, 0.02))
    assert altitudes.max() == pytest.approx(90 - 46.6 + 23.44, abs=0.05)
    assert azimuths[int(altitudes.argmax())] == pytest.approx(180, abs=0.8)


def test_polar_night_has_no_sunrise():
    assert sun.rise_and_set(78.0, 15.0, "UTC", date(2026, 12, 21)) == (None, None)


@pytest.mark.parametrize("year", [1899, 2101])
def test_years_outside_the_model_are_refused(year):
    with pytest.raises(InputError, match="1900 to 2100"):
        sun.position(0, 0, datetime(year, 6, 1, tzinfo=UTC))


def test_naive_moments_and_far_places_are_refused():
    with pytest.raises(InputError, match="time zone"):
        sun.position(0, 0, datetime(2026, 6, 1))
    with pytest.raises(InputError, match="latitude"):
        sun.position(91, 0, datetime(2026, 6, 1, tzinfo=UTC))


def test_air_mass_of_kasten_and_young():
    """Applied Optics 28 (1989), table II: 1.0 at 90, 1.994 at 30, 5.58 at 10, 37.9 at 0 degrees."""
    for altitude, expected in ((90, 1.0), (30, 1.994), (10, 5.58), (0, 37.92)):
        assert air_mass(altitude) == pytest.approx(expected, rel=2e-3)


def test_direct_normal_illuminance_is_that_of_a_clear_day():
    """IES Lighting Handbook, clear-sky extinction: E = 127.5 klx exp(-0.21 m) (about 100 klx at 60 degrees)."""
    for altitude in (60, 40, 25):
        handbook = 127_500 * np.exp(-0.21 * air_mass(altitude))
        assert sun.clear_sunlight(altitude, 2.5).normal_illuminance_lx == pytest.approx(handbook, rel=0.12)


def test_a_low_sun_is_weaker_and_warmer():
    lights = [sun.clear_sunlight(h, 2.5) for h in (60, 30, 10, 4)]
    levels = [x.normal_illuminance_lx for x in lights]
    kelvins = [rgb_to_kelvin(x.unit_rgb) for x in lights]
    assert levels == sorted(levels, reverse=True)
    assert kelvins == sorted(kelvins, reverse=True)
    assert 5000 < kelvins[0] < 5900  # common practice: about 5500 K at high sun
    assert 2000 < kelvins[-1] < 3200
    assert sun.clear_sunlight(-1.0).normal_illuminance_lx == 0


def test_direction_points_clockwise_from_north():
    assert sun.direction(90, 0) == pytest.approx([1, 0, 0], abs=1e-12)
    assert sun.direction(180, 30) == pytest.approx([0, -np.cos(np.pi / 6), 0.5], abs=1e-12)


@pytest.mark.parametrize(
    ("latitude", "longitude", "zone"),
    [
        (46.6, 9.8, "Europe/Zurich"),
        (-33.9, 151.2, "Australia/Sydney"),
        (69.6, 18.9, "Europe/Oslo"),
        (-89.0, 0.0, "UTC"),
    ],
)
def test_a_year_at_once_is_its_days_one_by_one(latitude, longitude, zone):
    """Over changes of the clock, the midnight sun and the polar night as well; ephem's risings hold the single days."""
    days = [date(2026, 1, 1) + timedelta(days=k) for k in range(0, 365, 7)]
    hours = np.arange(10.0, 16.0, 0.25)
    together = sun.rises_and_sets(latitude, longitude, zone, days)
    apart = [sun.rise_and_set(latitude, longitude, zone, d) for d in days]
    for one, other in zip(together, apart, strict=True):
        assert [v is None for v in one] == [v is None for v in other]
        assert [v for v in one if v is not None] == pytest.approx([v for v in other if v is not None], abs=1e-4)
    top = [sun.positions_of_day(latitude, longitude, zone, d, hours)[1].max() for d in days]
    assert sun.highest(latitude, longitude, zone, days, hours) == pytest.approx(top, abs=1e-6)
