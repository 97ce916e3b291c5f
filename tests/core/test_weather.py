"""Snow, rain and wind as the trade and the field know them, against published figures and other ways to the same number."""

from __future__ import annotations

from datetime import datetime

import numpy as np
import pytest
from pydantic import ValidationError
from scipy import ndimage
from scipy.integrate import quad

from valleylight.core.history.differences import State, differences
from valleylight.core.project.changes import Change, changed
from valleylight.core.project.description import Occasion, Project, Site, View
from valleylight.core.project.weather import Rain, Snow, Weather, Wind
from valleylight.core.stage import StageData
from valleylight.core.trace.scene.offers import offers
from valleylight.core.weather import drops, fog, slopes, snow
from valleylight.core.weather.flooding import filled, water_m
from valleylight.core.weather.recipes import recipes
from valleylight.core.weather.wet import drinks, under_water


@pytest.mark.parametrize("mm_h", [1.0, 5.0, 25.0])
def test_drops_of_marshall_and_palmer_carry_the_rain_they_stand_for(mm_h):
    """The rain rate got back from sizes and speeds: pi/6 D^3 v(D) n(D) summed over all drops; the 1948 fit holds it within a fifth."""
    slope = drops.rain_slope_per_mm(mm_h)

    def carried(d: float) -> float:
        return np.pi / 6 * d**3 * float(drops.fall_m_s(np.array([d]))[0]) * 8000.0 * np.exp(-slope * d)

    mm_per_hour = quad(carried, 0.0, 8.0)[0] * 1e-6 * 3600  # mm3/m2/s is 1e-6 mm/s
    assert mm_per_hour == pytest.approx(mm_h, rel=0.2)


def test_drops_that_are_drawn_follow_their_own_number():
    u = (np.arange(20_000) + 0.5) / 20_000
    sizes = drops.drop_sizes_mm(10.0, 0.8, u)
    assert sizes.min() >= 0.8
    for least in (1.0, 1.5, 2.0):
        wanted = drops.drops_per_m3(10.0, least) / drops.drops_per_m3(10.0, 0.8)
        assert (sizes > least).mean() == pytest.approx(wanted, abs=0.003)


@pytest.mark.parametrize(("mm", "m_s"), [(1.0, 4.03), (2.0, 6.49), (3.0, 8.06), (4.0, 8.83), (5.0, 9.09)])
def test_drops_fall_as_measured(mm, m_s):
    """R. Gunn, G. Kinzer, The Terminal Velocity of Fall for Water Droplets, J. Meteorology 6, 1949, table 2 (from memory)."""
    assert drops.fall_m_s(np.array([mm]))[0] == pytest.approx(m_s, rel=0.03)


def test_a_streak_is_as_long_as_its_drop_falls_and_hides_as_much_as_the_drop():
    way = drops.streak_m(np.array([0.0, 8.0]), 1 / 60)
    assert way == pytest.approx([0.0, 8.0 / 60])
    # A streak of length w + d and cover d / (w + d) hides as much of what lies behind as a drop of length d.
    assert drops.cover(np.array([0.002, 0.002]), way) * (way + 0.002) == pytest.approx(0.002)


@pytest.mark.parametrize("grain_mm", [0.1, 0.3, 1.0])
def test_snow_is_as_bright_as_two_streams_make_it(grain_mm):
    """Semi-infinite snow by H. van de Hulst's relation (Multiple Light Scattering, 1980): (1 - 0.139 s)(1 - s) / (1 + 1.17 s) with
    s^2 = (1 - w) / (1 - w g). Spheres of radius r absorb Q = 4/3 k r (n^3 - (n^2 - 1)^1.5) / n (C. Bohren, D. Huffman, Absorption
    and Scattering of Light by Small Particles, 1983) of an extinction of 2; g 0.89 (W. Wiscombe, S. Warren, J. Atmos. Sci. 37, 1980)."""
    nm, n = np.array([450.0, 550.0, 650.0]), 1.31
    lost = 0.5 * (4 / 3) * snow.absorption_per_m(nm) * grain_mm * 1e-3 * (n**3 - (n**2 - 1) ** 1.5) / n
    s = np.sqrt(lost / (1 - (1 - lost) * 0.89))
    two_streams = (1 - 0.139 * s) * (1 - s) / (1 + 1.17 * s)
    assert snow.albedo(nm, grain_mm) == pytest.approx(two_streams, abs=0.02)


def test_coarse_snow_is_darker_and_snow_is_bluish():
    fine, coarse = snow.colour(0.1), snow.colour(1.5)
    assert all(a > b for a, b in zip(fine, coarse, strict=True))
    assert coarse[0] < coarse[1] < coarse[2] < 0.96


@pytest.mark.parametrize("r", [0.0, 0.1, 0.35, 0.8, 1.0])
def test_wet_is_dark_by_what_total_reflection_sends_back(r):
    """The sum of all ways up to the film and down again: 1 / n^2 gets out each time."""
    out = 1 / 1.333**2
    by_ways = sum(out * r * (r * (1 - out)) ** k for k in range(2000))
    assert under_water(r) == pytest.approx(by_ways, abs=2e-3 if r == 1.0 else 1e-9)


def test_polished_stone_drinks_nothing():
    assert [drinks(0.1), drinks(0.9)] == [0.0, 1.0]
    assert 0 < drinks(0.45) < 1


def test_open_water_is_as_steep_as_cox_and_munk_saw_it():
    """0.003 + 0.00512 U, from 1 to 14 m/s."""
    assert slopes.mean_square_slope(14.0) == pytest.approx(0.003 + 0.00512 * 14)
    assert slopes.mean_square_slope(0.0) == 0.0
    assert slopes.drop_tilt_deg(5.0, 5.0) == pytest.approx(45.0)


def test_one_sees_as_far_as_koschmieder_says():
    assert fog.sight_m(100.0) == pytest.approx(391.2, abs=0.05)
    assert fog.share_left(100.0, fog.sight_m(100.0)) == pytest.approx(0.02)


def by_erosion(z):
    """Water over a ground by lowering a flood from above until it rests on its neighbours: scipy's minimum filter, again and again."""
    water = np.full(z.shape, np.nanmax(z) + 1.0)
    edge = np.zeros(z.shape, bool)
    edge[[0, -1]] = edge[:, [0, -1]] = True
    dry = np.isnan(z)
    edge |= ndimage.binary_dilation(dry, ndimage.generate_binary_structure(2, 1))
    ground = np.where(dry, -1e9, z)
    water[edge | dry] = ground[edge | dry]
    while True:
        lower = np.maximum(ground, ndimage.minimum_filter(water, footprint=ndimage.generate_binary_structure(2, 1)))
        lower[edge | dry] = ground[edge | dry]
        if np.array_equal(lower, water):
            return np.where(dry, np.nan, water)
        water = lower


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_hollows_fill_as_a_flood_that_is_lowered_rests(seed):
    z = ndimage.gaussian_filter(np.random.default_rng(seed).normal(0, 1, (60, 47)), 2.0)
    if seed == 3:
        z[20:24, 10:30] = np.nan  # a hole lets the water out
    assert filled(z) == pytest.approx(by_erosion(z), abs=1e-12, nan_ok=True)
    full = np.nan_to_num(by_erosion(z) - z)
    assert water_m(z, 1.0) == pytest.approx(full, abs=1e-12)
    assert (water_m(z, 0.5) > 0).sum() < (full > 0).sum()
    assert water_m(z, 0.0).max() == 0.0


def test_a_bowl_half_full_has_half_its_depth():
    y, x = np.mgrid[-1:1:81j, -1:1:81j]
    bowl = np.minimum(x**2 + y**2, 1.0)
    assert water_m(bowl, 0.5).max() == pytest.approx(0.5 * water_m(bowl, 1.0).max(), rel=1e-6)


@pytest.mark.parametrize(
    "make",
    [
        lambda: Snow(depth_cm=-1), lambda: Snow(bare=1.2), lambda: Snow(cone_deg=90), lambda: Rain(mm_h=float("nan")),
        lambda: Wind(speed_m_s=200), lambda: Weather(hail=1),
    ],
)  # fmt: skip
def test_weather_that_cannot_be_is_refused(make):
    with pytest.raises(ValidationError):
        make()


VIEW = View(key="v", name="View", position=(0, -10, 1.6), target=(0, 10, 1.6))


def place(latitude: float = 46.8, month: int = 6) -> Project:
    return Project(
        name="A place", site=Site(latitude_deg=latitude, longitude_deg=9.4, time_zone="Europe/Zurich"), views=(VIEW,),
        occasions=(Occasion(key="o", name="O", when=datetime(2026, month, 21, 12)),),
    )  # fmt: skip


def found(project: Project):
    low, high = np.array([-50.0, -50.0, 0.0]), np.array([50.0, 50.0, 12.0])
    fogs = [(o.name, o.air) for o in offers(VIEW, StageData(), low, high)]
    return recipes(project, VIEW, project.occasions[0], fogs)


def test_every_line_of_a_recipe_can_be_set_alone_and_says_something_true():
    project = place()
    for recipe in found(project):
        assert len({line.says for line in recipe.lines}) == len(recipe.lines)
        for line in recipe.lines:
            list_of = [Change.model_validate(c) for c in line.changes]
            after = Project.model_validate(changed(project.model_dump(mode="json"), list_of))
            assert after != project or line.says in ("No fog", "Neither rain nor snow"), (recipe.name, line.says)
        whole = [Change.model_validate(c) for line in recipe.lines for c in line.changes]
        Project.model_validate(changed(project.model_dump(mode="json"), whole))


def test_recipes_set_the_hour_by_the_sun_of_the_place():
    for recipe in found(place()):
        when = {c["value"] for line in recipe.lines for c in line.changes if c["at"] == ["when"]}
        if recipe.key == "valley-mist":  # the sun rises at 5:26 in June
            assert min(when).startswith("2026-06-21T05:5")
        if recipe.key == "hot-noon":  # by daylight saving time, at 9.4 degrees east
            assert min(when) in ("2026-07-10T13:25:00", "2026-07-10T13:30:00")


def test_where_the_sun_does_not_set_no_line_asks_for_the_hour_after():
    blue = next(r for r in found(place(latitude=70.0)) if r.key == "blue-hour")
    assert not any(c["at"] == ["when"] for line in blue.lines for c in line.changes)


def test_a_recipe_laid_twice_changes_its_own_look_and_adds_none():
    project = place()
    for _ in range(2):
        recipe = found(project)[0]
        whole = [Change.model_validate(c) for line in recipe.lines for c in line.changes]
        project = Project.model_validate(changed(project.model_dump(mode="json"), whole))
    assert [look.key for look in project.looks] == ["plain", "weather-after-rain"]
    kinds = [t.kind for t in project.looks[1].treatments]
    assert len(set(kinds)) == len(kinds)


@pytest.mark.parametrize(
    ("weather", "words"),
    [
        (Weather(snow=Snow(depth_cm=12)), "12 cm of snow"), (Weather(rain=Rain(wet=0.8)), "80 % wet"),
        (Weather(rain=Rain(mm_h=5, puddles=0.3)), "rain of 5 mm/h"), (Weather(rain=Rain(puddles=0.3)), "puddles 30 % full"),
        (Weather(wind=Wind(speed_m_s=6)), "wind of 6 m/s"), (Weather(snow=Snow(grain_mm=1.0)), "other snow or rain"),
    ],
)  # fmt: skip
def test_what_of_the_weather_differs_is_said(weather, words):
    was = place()
    now = was.model_copy(update={"occasions": (was.occasions[0].model_copy(update={"weather": weather}),)})
    said = [line.text for line in differences(State(was, "v", "o"), State(now, "v", "o")) if line.step == "air"]
    assert words in said
