"""Weather to start from: recipes that set hour, sky, air, weather, lamps and look together, line by line.

What belongs together is common practice: fog and overcast cool and low in contrast and saturation, snow at dusk blue
against lit windows, storm light dark above and bright below. Every line is a change of its own, which can be left out or taken back.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

import numpy as np

from valleylight.core.project.air import Air
from valleylight.core.project.description import Look, Occasion, Project, Site, View
from valleylight.core.project.sky import Sky
from valleylight.core.project.weather import Rain, Snow, Weather, Wind
from valleylight.core.sky import catalogue
from valleylight.core.sun import positions_of_day, rise_and_set
from valleylight.core.treatments.contrast import Contrast
from valleylight.core.treatments.saturation import Saturation
from valleylight.core.treatments.white_balance import WhiteBalance


@dataclass(frozen=True)
class Line:
    """A line of a recipe: what it sets in words, and the changes that set it, as `project.changes` takes them."""

    step: str
    says: str
    changes: tuple[dict[str, Any], ...]


@dataclass(frozen=True)
class Recipe:
    key: str
    name: str
    lines: tuple[Line, ...]


def recipes(project: Project, view: View, occasion: Occasion, fogs: Sequence[tuple[str, Air]]) -> tuple[Recipe, ...]:
    """Recipes for a view at an occasion; `fogs` are strengths of fog by name, made for what the view sees (`scene.offers`)."""
    fog = dict(fogs)
    hours = _Hours(project.site, occasion.when)
    lit = {group: 100.0 for group in project.groups()}
    unlit = {group: 0.0 for group in project.groups()}
    clear, no_fog = Weather(), occasion.air.model_copy(update={"on": False})
    fallen = Weather(snow=Snow(depth_cm=16, grain_mm=0.15))

    def made(key: str, name: str, *lines: Line) -> Recipe:
        return Recipe(key, name, tuple(line for line in lines if line.changes))

    def when(at: datetime | None, says: str) -> Line:
        if at is None:
            return Line("daylight", says, ())
        true = {"part": "occasion", "key": occasion.key, "at": ["sun", "true_to_place"], "value": True}
        return Line("daylight", says, (*_of(occasion, "daylight", says, when=at.isoformat()).changes, true))

    def sky(key: str, says: str) -> Line:
        return _of(occasion, "daylight", says, sky=_sky(occasion, key).model_dump(mode="json"))

    def air(name: str | None, says: str) -> Line:
        chosen = no_fog if name is None else fog.get(name, no_fog)
        return _of(occasion, "air", says, air=chosen.model_dump(mode="json"))

    def weather(chosen: Weather, says: str) -> Line:
        return _of(occasion, "air", says, weather=chosen.model_dump(mode="json"))

    def lamps(levels: dict[str, float], says: str) -> Line:
        return _of(occasion, "fixtures", says, levels=levels) if levels else Line("fixtures", says, ())

    def look(key: str, name: str, kelvin: float, contrast: float, saturation: float) -> Line:
        says = f"Look {name!r}: white {kelvin:.0f} K, contrast {contrast:+.2f}, saturation {saturation:+.2f}"
        return _look(project, view, occasion, key, name, says.replace("-", "−"), kelvin, contrast, saturation)

    return (
        made(
            "after-rain", "Overcast after rain", sky("overcast", "Overcast sky"), air("haze", "Haze far off"),
            weather(Weather(rain=Rain(wet=0.9, puddles=0.55)), "Rain has just stopped: wet ground, puddles, no drops"),
            look("after-rain", "After rain", 6100, 0.02, -0.12),
        ),
        made(
            "valley-mist", "Valley mist at sunrise", when(hours.after_sunrise(25), "25 minutes after sunrise"),
            sky("clear", "Clear sky"), air("valley mist", "Mist that fills the valley"), weather(clear, "Neither rain nor snow"),
            look("valley-mist", "Valley mist", 5400, -0.06, -0.08),
        ),
        made(
            "lit-dusk", "Winter dusk, lit windows", when(hours.on(1, 12).after_sunset(20), "12 January, 20 minutes after sunset"),
            sky("sunset-banks", "Banks for a low sun"), air(None, "No fog"), weather(fallen, "16 cm of snow lie"),
            lamps(lit, "All lamps on"), look("lit-dusk", "Lit dusk", 4300, 0.1, 0.04),
        ),
        made(
            "hot-noon", "Hot summer noon", when(hours.on(7, 10).noon(), "10 July, the sun at its highest"),
            sky("haze", "Summer haze"), air(None, "No fog"), weather(clear, "Neither rain nor snow"),
            lamps(unlit, "All lamps off"), look("hot-noon", "Hot noon", 5200, 0.18, 0.02),
        ),
        made(
            "first-snow", "First snow", when(hours.on(11, 20).noon(), "20 November, noon"), sky("thin-overcast", "Thin overcast"),
            air("haze", "Haze far off"),
            weather(Weather(snow=Snow(depth_cm=5, bare=0.25, grain_mm=0.1, flakes_mm_h=1.0)), "5 cm of snow with bare patches, flakes in the air"),
            look("first-snow", "First snow", 6300, 0.0, -0.08),
        ),
        made(
            "storm-light", "Storm light", sky("storm", "Storm coming"), air("haze", "Haze far off"),
            weather(Weather(wind=Wind(speed_m_s=11, from_deg=250)), "Wind of 11 m/s from west-south-west"),
            look("storm-light", "Storm light", 6000, 0.2, 0.02),
        ),
        made(
            "blue-hour", "Blue hour", when(hours.after_sunset(28), "28 minutes after sunset"), sky("clear", "Clear sky"),
            air(None, "No fog"), lamps(lit, "All lamps on"), look("blue-hour", "Blue hour", 4600, 0.08, 0.04),
        ),
    )  # fmt: skip


def _of(occasion: Occasion, step: str, says: str, **fields: Any) -> Line:
    return Line(
        step, says,
        tuple({"part": "occasion", "key": occasion.key, "at": [name], "value": value} for name, value in fields.items()),
    )  # fmt: skip


def _sky(occasion: Occasion, key: str) -> Sky:
    """A sky of the catalogue, over the horizon that the occasion has."""
    entry = catalogue.find(key)
    assert entry is not None
    return entry.sky.model_copy(update={
        "clouds": entry.sky.clouds.model_copy(update={"name": entry.name}), "horizon": occasion.sky.horizon,
    })  # fmt: skip


def _look(
    project: Project, view: View, occasion: Occasion, key: str, name: str, says: str, kelvin: float, contrast: float, saturation: float
) -> Line:  # fmt: skip
    """A look of its own, made of the one in use, laid on this view at this occasion."""
    own = {
        "white_balance": WhiteBalance(kelvin=kelvin), "contrast": Contrast(amount=contrast),
        "saturation": Saturation(amount=saturation),
    }  # fmt: skip
    now = [t for t in project.look_for(view, occasion).treatments if type(t) not in {type(o) for o in own.values()}]
    made = Look(key=f"weather-{key}", name=name, treatments=(*now, *own.values()))
    return Line("finish", says, (
        {"part": "look", "key": made.key, "at": [], "value": made.model_dump(mode="json")},
        {"part": "view", "key": view.key, "at": ["look_at", occasion.key], "value": made.key},
    ))  # fmt: skip


class _Hours:
    """Moments of a day at the site; None where the sun does not rise or set that day."""

    def __init__(self, site: Site, day: datetime) -> None:
        self._site, self._day = site, day

    def on(self, month: int, day: int) -> _Hours:
        return _Hours(self._site, self._day.replace(month=month, day=day))

    def _at(self, hour: float) -> datetime:
        midnight = self._day.replace(hour=0, minute=0, second=0, microsecond=0)
        return midnight + timedelta(minutes=round(60 * hour))

    def _rise_and_set(self) -> tuple[float | None, float | None]:
        site = self._site
        return rise_and_set(site.latitude_deg, site.longitude_deg, site.time_zone, self._day.date())

    def after_sunrise(self, minutes: float) -> datetime | None:
        rise = self._rise_and_set()[0]
        return None if rise is None else self._at(min(rise + minutes / 60, 23.9))

    def after_sunset(self, minutes: float) -> datetime | None:
        down = self._rise_and_set()[1]
        return None if down is None else self._at(min(down + minutes / 60, 23.9))

    def noon(self) -> datetime:
        """The sun at its highest, to five minutes."""
        hours = np.arange(0, 24, 1 / 12)
        site = self._site
        _, altitude = positions_of_day(site.latitude_deg, site.longitude_deg, site.time_zone, self._day.date(), hours)
        return self._at(float(hours[int(np.argmax(altitude))]))
