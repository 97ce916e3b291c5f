"""The balance: levels and colours of light after tracing are what a full render with them would be; from day to night."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from tests import small
from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.colour.temperature import kelvin_to_unit_rgb
from valleylight.core.errors import InputError
from valleylight.core.film.film import Film
from valleylight.core.finish.balance import Balance, balance_of, colour_of, kelvin_of
from valleylight.core.finish.between import Side, between
from valleylight.core.project import Occasion, Project
from valleylight.core.project.archive import LoadedProject
from valleylight.core.trace.render import new_film, trace
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import TRUE

SIZE, SAMPLES = (32, 18), 48


def traced(project: LoadedProject, occasion: str = "night") -> Film:
    view, moment = project.description.view("inside"), project.description.occasion(occasion)
    scene = Compiler().scene(project, view, moment, *SIZE, 3, TRUE)
    film = new_film(scene, view, moment, *SIZE)
    with ThreadPoolExecutor(2) as pool:
        trace(scene, film, 0, SAMPLES, pool)
    return film


def with_kelvin(project: LoadedProject, kelvin: float) -> LoadedProject:
    """The room with pendants of another colour; all else as it was."""
    d = project.description
    kinds = tuple(k.model_copy(update={"kelvin": kelvin}) if k.key == "globe-pendant" else k for k in d.kinds)
    return LoadedProject(d.model_copy(update={"kinds": kinds}), project.asset)


@pytest.fixture(scope="module")
def film() -> Film:
    return traced(small.project())


def occasion(**more) -> Occasion:
    return Occasion(key="o", name="o", when="2026-01-12T22:00", **more)


@pytest.mark.parametrize("kelvin", [2200.0, 4000.0, 6500.0])
def test_another_colour_of_a_light_is_what_a_render_with_it_shows(film, kelvin):
    """Nearly the same paths are traced, so the two agree far within the noise of either."""
    own = small.project().description.kind("globe-pendant").kelvin
    assert kelvin_of(film, "Pendants") == pytest.approx(own, rel=0.02)
    balanced = film.balanced(Balance(colours={"Pendants": kelvin}).gains(film))
    rendered = traced(with_kelvin(small.project(), kelvin)).balanced()
    assert balanced.mean((0, 1)) == pytest.approx(rendered.mean((0, 1)), rel=2e-3)
    off = np.abs(balanced - rendered) / rendered.mean((0, 1))
    assert np.quantile(off, 0.95) < 0.02


def test_levels_are_what_a_render_with_dimmed_fixtures_shows(film):
    d = small.project().description
    fixtures = tuple(f.model_copy(update={"percent": 35.0}) if f.group == "Pendants" else f for f in d.fixtures)
    dimmed = traced(LoadedProject(d.model_copy(update={"fixtures": fixtures}), small.project().asset)).balanced()
    assert film.balanced({"Pendants": 0.35}).mean() == pytest.approx(dimmed.mean(), rel=0.02)


def test_a_light_keeps_its_luminance_in_another_colour(film):
    """Its own light falls as strongly; what a coloured wall makes of it is another matter."""
    gains = Balance(colours={"Pendants": 2000.0}).gains(film)["Pendants"]
    own = np.array(colour_of(film, "Pendants"))
    assert float(own * gains @ LUMINANCE) == pytest.approx(1.0)
    assert own * gains == pytest.approx(kelvin_to_unit_rgb(2000.0))


def test_what_an_occasion_asks_for_is_balanced_by_name(film):
    moment = occasion(
        levels={"Pendants": 50.0}, surfaces_stops=1.0, colours={"Pendants": 3000.0, "no such light": 5000.0}
    )
    gains = balance_of(moment).gains(film)
    assert set(gains) == set(film.group_names)
    assert gains["Ceiling"] == 1.0
    assert np.mean(gains["Pendants"]) == pytest.approx(0.5, rel=0.2)
    assert moment.light_levels()["surfaces"] == 2.0


def test_a_film_that_tells_no_colours_takes_light_for_white():
    film = Film.empty(4, 3, ("sky",))
    film.light[:], film.counts[:] = 2.0, 1
    assert Balance(colours={"sky": 2000.0}).gains(film)["sky"] == pytest.approx(
        tuple(kelvin_to_unit_rgb(2000.0).clip(0))
    )


def sheet(size: tuple[int, int], **groups: float) -> Film:
    film = Film.empty(*size, tuple(groups))
    film.counts[:] = 1
    for k, value in enumerate(groups.values()):
        film.light[:, :, k] = value
    return film


def test_between_day_and_night_daylight_falls_by_even_stops_and_lamps_come_on():
    day = Side(sheet((32, 18), sun=600.0, sky=400.0, Lamps=0.0), {}, 4000.0)
    night = Side(sheet((32, 18), sky=0.1, Lamps=5.0), {}, 10.0)
    bright, whites = [], []
    for share in (0.0, 0.25, 0.5, 0.75, 1.0):
        picture, white = between(day, night, share)
        assert picture == pytest.approx(np.full((18, 32, 3), picture.mean()), rel=1e-5)
        bright.append(float(picture.mean()))
        whites.append(white)
    assert bright == pytest.approx([1000.0, 100.0, 10.0 + 2.5, 1.0 + 5.0, 5.1], rel=1e-4)
    assert np.diff(np.log2(whites)) == pytest.approx(np.full(4, np.log2(10 / 4000) / 4))


def test_between_films_of_two_sizes_is_as_large_as_the_first_and_of_two_shapes_refused():
    day, night = Side(sheet((32, 18), sky=9.0), {}, 1.0), Side(sheet((96, 54), sky=9.0), {}, 1.0)
    for share in (0.3, 1.0):
        assert between(day, night, share)[0] == pytest.approx(np.full((18, 32, 3), 9.0), rel=1e-5)
        assert between(night, day, share)[0] == pytest.approx(np.full((54, 96, 3), 9.0), rel=1e-5)
    with pytest.raises(InputError, match="no common shape"):
        between(day, Side(sheet((18, 18), sky=1.0), {}, 1.0), 0.5)


def test_gains_of_both_sides_hold_between():
    side = Side(sheet((8, 6), sky=4.0, Lamps=2.0), {"sky": 0.5, "Lamps": (1.0, 0.5, 0.0)}, 1.0)
    picture, _ = between(side, side, 0.5)
    assert picture[0, 0] == pytest.approx([4.0, 3.0, 2.0])


def test_colours_are_checked_and_come_back_with_a_project():
    project = small.project().description
    night = project.occasion("night").model_copy(update={"colours": {"sun": 5000.0, "Pendants": 2700.0}})
    kept = Project.model_validate_json(project.model_copy(update={"occasions": (night,)}).model_dump_json())
    assert kept.occasion("night").colours == night.colours
    with pytest.raises(ValueError, match="colours"):
        occasion(colours={"sun": 500.0})
