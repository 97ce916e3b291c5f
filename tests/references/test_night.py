"""Moon, stars and twilight times against published figures and another library's."""

from __future__ import annotations

from datetime import UTC, date, datetime
from zoneinfo import ZoneInfo

import numpy as np
import pytest

from valleylight.core import sky, sun
from valleylight.core.project.description import Occasion, Site
from valleylight.core.project.sky import Glow, Sky
from valleylight.core.sky.night import moon_at
from valleylight.core.sun.twilight import parts_of_day
from valleylight.core.trace.scene.lighting import daylight_of


def test_full_and_new_moon():
    """Full moon 2026-05-31 08:45 UTC, new moon 2026-05-16 20:01 UTC (published almanac, from memory); a full moon gives 0.1 to
    0.3 lx (common practice)."""
    full, new = (moon_at(46.6, 9.84, datetime(2026, 5, *at, tzinfo=UTC)) for at in ((31, 8, 45), (16, 20, 1)))
    assert full.lit > 0.995 and new.lit < 0.01
    assert 0.2 < full.normal_lx < 0.33
    assert new.normal_lx < 0.01 * full.normal_lx
    assert moon_at(46.6, 9.84, datetime(2026, 5, 24, tzinfo=UTC)).waxing


def test_half_a_moon_gives_a_tenth_of_the_light():
    """Half moon about a tenth of the full one (Krisciunas and Schaefer 1991: magnitude 2.7 fainter)."""
    half = moon_at(46.6, 9.84, datetime(2026, 5, 23, 11, 11, tzinfo=UTC))
    assert half.lit == pytest.approx(0.5, abs=0.02)
    assert half.normal_lx / 0.26 == pytest.approx(0.09, rel=0.25)


def test_at_night_the_moon_is_the_direct_light():
    site = Site(latitude_deg=46.6, longitude_deg=9.84, time_zone="Europe/Zurich")
    night = Occasion(key="o", name="o", when=datetime(2026, 5, 31, 1, 30), sky=Sky())
    day = daylight_of(site, night)
    assert day.by_moon and day.altitude_deg > 5
    assert 0.02 < day.sun_normal_lx < 0.3
    without = daylight_of(site, night.model_copy(update={"sky": Sky(moon=False)}))
    assert not without.by_moon and without.sun_normal_lx == 0
    assert without.dome.horizontal_illuminance_lx < 0.05 * (day.sun_horizontal_lx + day.dome.horizontal_illuminance_lx)


def test_stars_are_faint_and_turn_with_the_hour():
    """All stars together give about 2e-4 to 3e-4 lx on level ground (C. Allen, Astrophysical Quantities, from memory: as much as
    a tenth of the airglow's or more); here those to magnitude 6.5."""
    body = sky.CelestialBody(0.0, -30.0)
    dark = sky.sky_light(Sky(stars=False), body, None, 0.0, 0.0, 256)
    starry = sky.sky_light(Sky(), body, None, 0.0, 0.0, 256, 46.6, 0.0)
    extra = starry.dome.horizontal_illuminance_lx - dark.dome.horizontal_illuminance_lx
    assert 1e-5 < extra < 3e-4
    later = sky.sky_light(Sky(), body, None, 0.0, 0.0, 256, 46.6, 0.4)
    assert (later.backdrop != starry.backdrop).any()


def test_a_town_glows_low_and_on_its_side():
    body = sky.CelestialBody(0.0, -30.0)
    made = sky.sky_light(Sky(stars=False, glow=Glow(luminance=0.1, azimuth_deg=90)), body, None, 0.0, 0.0, 128).dome
    low = made.luminance[68]
    assert low[64] > 2 * low[192] > 0
    assert made.luminance[-1].mean() < 0.1 * low[64]


@pytest.mark.parametrize(("latitude", "longitude", "zone", "day"), [
    (46.6, 9.84, "Europe/Zurich", date(2026, 6, 21)), (46.6, 9.84, "Europe/Zurich", date(2026, 12, 21)),
    (-33.9, 151.2, "Australia/Sydney", date(2026, 3, 3)), (59.3, 18.1, "Europe/Stockholm", date(2026, 9, 30)),
])  # fmt: skip
def test_sunrise_and_twilight_as_another_library_has_them(latitude, longitude, zone, day):
    """ephem's risings and settings: the centre 6, 12, 18 degrees under the horizon; for sunrise the upper limb at -0:34."""
    import ephem

    made = parts_of_day(latitude, longitude, zone, day)

    def theirs(horizon: str, centre: bool, rising: bool) -> float:
        here = ephem.Observer()
        here.lat, here.lon, here.horizon, here.pressure = str(latitude), str(longitude), horizon, 0
        noon = datetime(day.year, day.month, day.day, 12, tzinfo=ZoneInfo(zone))
        here.date = ephem.Date(noon.astimezone(UTC).replace(tzinfo=None))
        found = (here.previous_rising if rising else here.next_setting)(ephem.Sun(), use_center=centre)
        local = found.datetime().replace(tzinfo=UTC).astimezone(ZoneInfo(zone))
        return local.hour + local.minute / 60 + local.second / 3600

    rise, fall = sun.rise_and_set(latitude, longitude, zone, day)
    assert rise == pytest.approx(theirs("-0:34", False, True), abs=0.02)
    assert fall == pytest.approx(theirs("-0:34", False, False), abs=0.02)
    civil = [p for p in made.parts if p.name == "civil twilight"]
    assert civil[0].start == pytest.approx(theirs("-6", True, True), abs=0.02)
    assert civil[-1].end == pytest.approx(theirs("-6", True, False), abs=0.02)
    assert [p.name for p in made.parts].count("blue hour") == 2
    assert made.noon_altitude_deg == pytest.approx(
        float(sun.positions_of_day(latitude, longitude, zone, day, np.arange(9, 15, 0.01))[1].max()), abs=0.02
    )
