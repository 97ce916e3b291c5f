"""Which hour, and hours of sun, against closed forms."""

from __future__ import annotations

from datetime import date

import numpy as np
import pytest

from valleylight.core import sun
from valleylight.core.errors import InputError
from valleylight.core.measure import byhand, sunhours
from valleylight.core.project.description import Site
from valleylight.validation import stages

SITE = Site(latitude_deg=46.6, longitude_deg=0.0, time_zone="UTC")
UP, SOUTH, NORTH = (0.0, 0.0, 1.0), (0.0, -1.0, 0.0), (0.0, 1.0, 0.0)


@pytest.fixture(scope="module")
def courtyard():
    """A matt floor of 8 x 8 m within walls 4 m high, open above."""
    h, r = 4.0, 4.0
    walls = [stages.quad([(-r, y, 0), (r, y, 0), (r, y, h), (-r, y, h)], 0) for y in (-r, r)] + [
        stages.quad([(x, -r, 0), (x, r, 0), (x, r, h), (x, -r, h)], 0) for x in (-r, r)
    ]
    floor = stages.quad([(-r, -r, 0), (r, -r, 0), (r, r, 0), (-r, r, 0)], 0)
    view = stages.looking_at((0, 0, 0), (0.3, 0.2, 1.0))
    project, compiler = stages.project_of([floor, *walls], [stages.MATT], view, site=SITE)
    return stages.scene_of(project, compiler)


def expected_hours(day: date) -> float:
    """The middle of the floor is lit while the sun clears the walls: tan(h) > 4 / d, d being the way to the wall in its
    direction; and to neither side of a corner."""
    hours = np.arange(0, 24, 1 / 120)
    azimuth, altitude = sun.positions_of_day(SITE.latitude_deg, SITE.longitude_deg, "UTC", day, hours)
    a = np.radians(azimuth)
    way = 4.0 / np.maximum(np.maximum(np.abs(np.sin(a)), np.abs(np.cos(a))), 1e-9)
    return float((np.tan(np.radians(altitude)) > 4.0 / way).sum() / 120)


@pytest.mark.parametrize("day", [date(2026, 3, 21), date(2026, 6, 21), date(2026, 12, 21)])
def test_hours_of_sun_in_a_courtyard(courtyard, day):
    """Box courtyard in closed form."""
    spot = sunhours.Face((0.0, 0.0, 0.0), UP, 0.05)
    got = sunhours.hours_of_sun(courtyard, SITE, [spot], day)
    assert got.hours[0] == pytest.approx(expected_hours(day), abs=0.15)
    spans = sum(b - a for a, b in got.stretches[0])
    assert spans == pytest.approx(got.hours[0], abs=0.1)


def test_the_year_finds_when_one_wall_is_lit_and_the_other_in_shade(courtyard):
    """The wall that looks south is lit about noon, the one that looks north then in shade; never the other way at noon."""
    lit = sunhours.Face((0.0, 4.0, 3.0), SOUTH, 0.3)
    shaded = sunhours.Face((0.0, -4.0, 3.0), NORTH, 0.3)
    year = sunhours.over_year(courtyard, SITE, [lit, shaded], 2026)
    scores = sunhours.score(year, [0], [1])
    assert scores.shape == (365, 96)
    noon = scores[:, 48]
    assert noon[79] == pytest.approx(1.0) and noon[171] == pytest.approx(1.0)
    assert scores[:, :16].max() == 0  # night
    found = sunhours.windows(year, scores)
    assert found[0].score == pytest.approx(1.0)
    assert 90 < found[0].azimuth_deg < 270
    assert found[0].first_hour < 12 < found[0].last_hour
    assert found[0].shares[0] > 0.99 and found[0].shares[1] < 0.01
    assert sunhours.windows(year, np.zeros_like(scores)) == []


def test_rounding_directions_leaves_hours_true(courtyard):
    """The year's table against the exact hours of one day."""
    spot = sunhours.Face((0.0, 0.0, 0.0), UP, 0.05)
    year = sunhours.over_year(courtyard, SITE, [spot], 2026)
    assert year.shares[0, 171].sum() / 4 == pytest.approx(expected_hours(date(2026, 6, 21)), abs=0.35)


def test_a_face_without_surface_is_refused(courtyard):
    with pytest.raises(InputError, match="no surface"):
        sunhours.hours_of_sun(courtyard, SITE, [sunhours.Face((0, 0, 30), UP)], date(2026, 6, 21))
    with pytest.raises(InputError, match="1 to"):
        sunhours.hours_of_sun(courtyard, SITE, [], date(2026, 6, 21))


def test_the_open_sky_of_a_courtyard(courtyard):
    """From the middle of the floor the walls hide all below 45 degrees towards their middles."""
    towards = np.array([[0, np.cos(np.radians(h)), np.sin(np.radians(h))] for h in (30, 44, 46, 80)])
    assert sunhours.open_sky(courtyard, (0.0, 0.0, 0.001), towards) == pytest.approx([0, 0, 1, 1])


def test_the_sun_by_hand_on_one_side():
    found = byhand.by_hand(SITE, 0.0, "left", 2.0, 2026)
    assert found.azimuth_deg == pytest.approx(285)
    assert found.altitude_deg == pytest.approx(26.57, abs=0.01)
    # In the north-west at 27 degrees the sun stands on a summer evening.
    assert found.nearest.month in (5, 6, 7) and 15 < found.nearest.hour < 19
    assert found.misses_by_deg < 7
    with pytest.raises(InputError, match="side"):
        byhand.by_hand(SITE, 0.0, "above", 2.0, 2026)
    with pytest.raises(InputError, match="shadow"):
        byhand.by_hand(SITE, 0.0, "left", 0.0, 2026)
