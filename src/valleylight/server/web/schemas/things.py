"""Objects of the catalogue, and things that are placed, as the API sends and takes them."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, Field

from valleylight.core.project.description import Key, Metres, Point
from valleylight.server.web.schemas.asked import Asked

Parameters = Annotated[dict[Key, Annotated[float, Field(ge=-1e6, le=1e6)]], Field(max_length=20)]


class FamilyParameter(BaseModel):
    """A number of a family; `words` name its whole numbers where it chooses a kind."""

    key: str
    name: str
    unit: str
    least: float
    most: float
    first: float
    step: float
    words: list[str]


class FamilyLine(BaseModel):
    """A family of objects to place; `own` is the number of one that was kept by hand."""

    key: str
    name: str
    group: str
    parameters: list[FamilyParameter]
    grows: bool
    own: int | None = None


class ThingLine(BaseModel):
    """A thing that is placed: its box about its own zero in the file's unit, set upright; how many triangles, and how often it stands."""

    key: str
    low: tuple[float, float, float]
    high: tuple[float, float, float]
    triangles: int
    count: int | None


class ThingWanted(Asked):
    """An object to be placed where something was pointed at; `normal` is that of the surface there."""

    family: Key
    parameters: Parameters = {}
    position: tuple[Metres, Metres, Metres]
    normal: tuple[float, float, float] = (0.0, 0.0, 1.0)
    turn_deg: float | None = Field(None, ge=-360, le=360, description="None lets the surface decide")
    layer: Key | None = None


class LeafWanted(Asked):
    """A patch of floor or wall that is to be dappled at an occasion's hour: a point, the normal on its side, half its width."""

    occasion: str
    point: Point
    normal: Point
    reach_m: float = Field(0.8, ge=0.05, le=10)


class LeafOffer(BaseModel):
    """A tree whose shadow falls there: what it is, where it stands, how far its crown is, how wide the edges of its shadow are, which
    share of the sun it takes, and a picture of the patch as it is lit then."""

    family: str
    name: str
    parameters: dict[str, float]
    height_m: float
    position: tuple[float, float, float]
    distance_m: float
    edge_m: float
    shade: float
    picture: str


class ThingMade(Asked):
    """Another object in the place of one, or the same with other numbers; of its linked copies as well, unless it is to be `alone`."""

    family: Key
    parameters: Parameters = {}
    alone: bool = False
