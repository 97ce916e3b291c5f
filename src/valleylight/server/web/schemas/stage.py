"""The stage, its surfaces and objects, and what is met where one points, as the API sends and takes them."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from valleylight.core.project.description import GivenName, Key, UpAxis
from valleylight.core.stage.arrival import ArrivalSheet
from valleylight.server.web.schemas.asked import Asked


class Overview(BaseModel):
    """Where to stand and look so that the whole stage is seen."""

    position: tuple[float, float, float]
    target: tuple[float, float, float]


class LayerWeight(BaseModel):
    """How much stands on a layer: pieces, the triangles they show, and those that are kept for them, each mesh once."""

    layer: str
    pieces: int
    triangles: int
    kept: int


class StageFigures(BaseModel):
    objects: int
    triangles: int
    materials: list[str]
    layers: list[str]
    weights: list[LayerWeight] = Field(description="Of each layer, by its key or, where it has none, its name")
    size_m: tuple[float, float, float]
    notes: list[str]
    overview: Overview


class Arrival(BaseModel):
    """A model that was read, with what was found of it; nothing of the project is changed yet."""

    key: str = Field(description="Names this arrival when it is taken")
    replaces: str | None = Field(description="Key of the thing on the stage it would stand in for")
    sheet: ArrivalSheet
    units: list[tuple[str, float]] = Field(description="Units that models come in, and the metres of each")
    axes: dict[UpAxis, list[list[float]]] = Field(description="Turns (3, 3) that set an axis of the file upright")


class ArrivalProgress(BaseModel):
    """What is being done with a model on its way in, and which share 0 to 1 of that is done."""

    words: str
    share: float


class ArrivalChoices(Asked):
    """How a model is taken, and what of it."""

    metres: float = Field(ge=1e-6, le=1e6, description="Metres of the file's unit")
    up: UpAxis = "z"
    turn_deg: float = Field(0.0, ge=-360, le=360)
    to_middle: bool = Field(True, description="Survey coordinates are taken to the middle of the stage")
    as_before: bool = Field(True, description="In place of another: stand as that one did")
    north_deg: float | None = Field(None, ge=-360, le=360, description="Azimuth of the stage's +Y; null leaves the site's")
    site: bool = Field(False, description="Take place, height and time zone that the file tells")
    cameras: list[Annotated[int, Field(ge=0)]] = Field([], max_length=200, description="Which cameras become views")
    lights: list[Annotated[int, Field(ge=0)]] = Field([], max_length=200, description="Which lights become fixtures")
    renamed: dict[GivenName, GivenName] = Field({}, max_length=2000, description="Materials that go on under another name")


class Spot(Asked):
    """Where to look: a place of a view's picture, 0 to 1 from the left and top, or a place of the plan in metres."""

    view: str
    occasion: str
    picture: tuple[float, float] | None = None
    plan: tuple[float, float, float] | None = Field(None, description="x, y and the height from which to look down")
    up: bool = Field(False, description="From the place of the plan look up, to the ceiling")
    without: Key | None = Field(None, description="As if this thing did not stand")
    as_seen: bool = Field(False, description="Snow that lies counts, as it does in the picture; else what is under it")


class Picked(BaseModel):
    """What was met there."""

    object: str
    thing: str | None = Field(description="Key of the object of the catalogue that it is")
    material: str
    point: tuple[float, float, float]
    normal: tuple[float, float, float]
    distance_m: float


class ObjectLine(BaseModel):
    """An object of the stage: its name and box in metres."""

    name: str
    low: tuple[float, float, float]
    high: tuple[float, float, float]
