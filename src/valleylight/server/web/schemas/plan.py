"""Drawings of plan and section, lux on them, and placing many fixtures, as the API sends and takes them."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from valleylight.core.project.changes import Change
from valleylight.core.project.description import Metres
from valleylight.server.web.schemas.asked import Asked


class PlanDrawing(BaseModel):
    """The plan cut at a height: segments as x0, y0, x1, y1 one after the other, in metres."""

    height_m: float
    low: tuple[float, float]
    high: tuple[float, float]
    segments: list[float]


class LuxGrid(BaseModel):
    """Direct illuminance on a level grid, row by row from the south."""

    height_m: float
    x0: float
    y0: float
    step_m: float
    columns: int
    rows: int
    lux: list[float]


class LuxWanted(Asked):
    """Direct illuminance on a level plane, with changes not saved yet."""

    occasion: str
    height_m: Metres = 0.75
    draft: list[Change] = Field([], max_length=2000)


class SectionDrawing(BaseModel):
    """The stage cut by an upright plane: segments as a0, z0, a1, z1; a is y where x is cut, else x."""

    axis: Literal["x", "y"]
    place_m: float
    low: tuple[float, float]
    high: tuple[float, float]
    segments: list[float]


class FixtureWanted(Asked):
    """One more fixture of a kind at a place. What is not said is as with its neighbours of that kind, or as usual for its mounting."""

    kind: str
    at: tuple[Metres, Metres]
    height_m: Metres | None = Field(None, description="None hangs it as its neighbours, or on the ceiling above")
    aim: tuple[Metres, Metres, Metres] | None = Field(None, description="None aims it straight down")


class ArrangeWanted(Asked):
    """Many fixtures at once: a row, an array or a curve of a kind, one under each object of a name, or mirror images."""

    how: Literal["row", "array", "curve", "objects", "mirror"]
    kind: str | None = None
    points: list[tuple[Metres, Metres]] = Field([], max_length=60, description="Ends, corners, or points of the curve")
    count: int | None = Field(None, ge=1, le=500, description="Fixtures along the line, or across an array")
    rows: int | None = Field(None, ge=1, le=500)
    spacing_m: float | None = Field(None, gt=0, le=100, description="Greatest spacing, in place of counts")
    half_ends: bool = Field(True, description="Half a spacing to the ends, as from walls")
    height_m: Metres | None = Field(None, description="None hangs them on the ceiling above")
    objects: str = Field("", max_length=200, description="How the names of the objects begin")
    fixtures: list[str] = Field([], max_length=500)
    axis: Literal["x", "y"] = "x"
    group: str | None = Field(None, min_length=1, max_length=80)
