"""The sequence: a view whose lens, sun, season or lamps change over some seconds."""

from __future__ import annotations

from datetime import date
from typing import Annotated, Literal

from pydantic import AfterValidator, Field, model_validator

from valleylight.core.project.basics import Key, Name, Part, Point
from valleylight.core.sun.position import FIRST_YEAR, LAST_YEAR

#: A sequence of more frames is refused: it would be made for days.
MOST_FRAMES = 3000
Hour = Annotated[float, Field(ge=0, le=24, allow_inf_nan=False)]
Drift = Annotated[float, Field(ge=-50_000, le=50_000, allow_inf_nan=False)]
Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]


class Station(Part):
    """A place of the lens on its path, where it may rest."""

    position: Point
    target: Point
    focal_mm: float = Field(24.0, ge=4, le=1200)
    rest_s: float = Field(0.0, ge=0, le=60, description="The lens rests here for so long, in s")

    @model_validator(mode="after")
    def _looks_somewhere(self) -> Station:
        if sum((a - b) ** 2 for a, b in zip(self.position, self.target, strict=True)) < 1e-6:
            raise ValueError("position and target are the same point; move one of them")
        return self


class LightCue(Part):
    """A scene of the lighting control that is reached at a share of the sequence."""

    at: Share
    scene: Key


def _in_order(cues: tuple[LightCue, ...]) -> tuple[LightCue, ...]:
    return tuple(sorted(cues, key=lambda cue: cue.at))


class Sequence(Part):
    """A view at an occasion over some seconds. What is not named stays as the view and the occasion have it."""

    key: Key
    name: Name
    view: Key
    occasion: Key
    seconds: float = Field(6.0, ge=0.2, le=600)
    rate: int = Field(24, ge=1, le=60, description="Frames in a second")
    stations: tuple[Station, ...] = Field(
        (), max_length=60, description="Path of the lens; none: it stands as the view does"
    )
    ease: float = Field(
        0.25, ge=0, le=0.5, description="Share of a way over which the lens gathers speed, and loses it"
    )
    hours: tuple[Hour, Hour] | None = Field(None, description="The sun moves from the first hour to the second")
    drift_m: tuple[Drift, Drift] = Field(
        (0.0, 0.0), description="How far the clouds go over the whole of it, east and north, in m"
    )
    days: tuple[date, date] | None = Field(
        None, description="The day goes from the first to the second; the hour stays"
    )
    follows: Share = Field(
        0.0, description="Share of the change of daylight, in stops, that the exposure makes up for; 0: it is held"
    )
    cues: Annotated[tuple[LightCue, ...], AfterValidator(_in_order)] = Field((), max_length=60)
    shutter_deg: float = Field(
        180.0, ge=0, le=360, description="How much of a frame's time the shutter is open; 360 is all"
    )
    width: int = Field(
        1280, ge=160, le=3840, description="Pixels across of a picture of 16 to 9; others have as many in all"
    )
    quality: Literal["sketch", "proof", "press"] = Field("proof", description="Of the final version")

    @property
    def frames(self) -> int:
        """How many frames the whole of it has, at least 2."""
        return max(round(self.seconds * self.rate), 2)

    @model_validator(mode="after")
    def _can_be_made(self) -> Sequence:
        if self.frames > MOST_FRAMES:
            raise ValueError(
                f"{self.frames} frames are more than {MOST_FRAMES}; make it shorter, or choose a lower rate"
            )
        rests = sum(station.rest_s for station in self.stations)
        if rests > self.seconds or (rests == self.seconds and len(self.stations) > 1):
            raise ValueError(f"the lens rests for {rests:g} s of {self.seconds:g} s; shorten the rests")
        if self.days is not None and not all(FIRST_YEAR <= day.year <= LAST_YEAR for day in self.days):
            raise ValueError(f"a day is outside the sun model's range; choose the years {FIRST_YEAR} to {LAST_YEAR}")
        if self.days is not None and self.days[0] == self.days[1]:
            raise ValueError("the first and the last day are the same; choose another last day")
        if self.hours is not None and self.hours[0] == self.hours[1]:
            raise ValueError("the first and the last hour are the same; choose another last hour")
        return self
