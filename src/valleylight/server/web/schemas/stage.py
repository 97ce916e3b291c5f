"""The stage, its surfaces and objects, and what is met where one points, as the API sends and takes them."""

from __future__ import annotations

from pydantic import BaseModel, Field

from valleylight.core.project.air import Air
from valleylight.core.project.surface import Surface
from valleylight.server.web.schemas.asked import Asked


class Overview(BaseModel):
    """Where to stand and look so that the whole stage is seen."""

    position: tuple[float, float, float]
    target: tuple[float, float, float]


class StageFigures(BaseModel):
    objects: int
    triangles: int
    materials: list[str]
    layers: list[str]
    size_m: tuple[float, float, float]
    notes: list[str]
    overview: Overview


class StageSurface(BaseModel):
    """A material of the stage: as it is now, as it came, and what is doubtful about it."""

    name: str
    surface: Surface
    came_as: Surface
    changed: bool
    has_picture: bool
    doubt: str | None
    version: str = Field(description="Changes whenever its sample picture does")


class CatalogueSurface(BaseModel):
    """A surface to start from."""

    key: str
    name: str
    family: str
    surface: Surface


class Spot(Asked):
    """Where to look: a place of a view's picture, 0 to 1 from the left and top, or a place of the plan in metres."""

    view: str
    occasion: str
    picture: tuple[float, float] | None = None
    plan: tuple[float, float, float] | None = Field(None, description="x, y and the height from which to look down")
    up: bool = Field(False, description="From the place of the plan look up, to the ceiling")


class Picked(BaseModel):
    """What was met there."""

    object: str
    material: str
    point: tuple[float, float, float]
    normal: tuple[float, float, float]
    distance_m: float


class AirValues(BaseModel):
    """A strength of fog offered from the scene's size."""

    name: str
    length_m: float
    air: Air


class ObjectLine(BaseModel):
    """An object of the stage: its name and box in metres."""

    name: str
    low: tuple[float, float, float]
    high: tuple[float, float, float]
