"""Cut-outs: figures and planting that stand in a picture as cards, placed on its true ground."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from valleylight.core.project.basics import Key, Name, Part, Point, Sha256, Stops
from valleylight.core.project.placement import Made

#: How a cut-out is drawn: in its colours under the light of its place, as a dark shape, as a wash of one tone.
Manner = Literal["lit", "silhouette", "wash"]


class CutOut(Part):
    """Someone or something that stands in the picture of one view. It is `made` by a family of objects or is a `picture` with alpha;
    it turns its face to the lens, and its feet stand at `place`."""

    key: Key
    name: Name
    view: Key
    made: Made | None = Field(None, description="The family and numbers it is made by; None for a picture")
    picture: Sha256 | None = Field(None, description="Its picture with alpha; None for one that is made")
    place: Point
    height_m: float = Field(1.7, gt=0.01, le=80, description="From the feet to the top of the picture")
    turn_deg: float = Field(
        0.0, ge=-360, le=360, description="Which way it faces, anticlockwise from -Y, if it is made"
    )
    mirrored: bool = False
    manner: Manner = "lit"
    tone: str = Field("#4a4640", pattern="^#[0-9a-fA-F]{6}$", description="Colour of a wash")
    opacity: float = Field(1.0, ge=0.05, le=1)
    level_stops: Stops = Field(0.0, description="Brighter or darker than the light of its place makes it")
    cast: float = Field(1.0, ge=0, le=1, description="Strength of the cast shadow; 1 is what its light says")
    contact: float = Field(0.7, ge=0, le=1, description="Strength of the dark under its feet; 0.7 by common practice")
    hidden: bool = False
    hidden_at: tuple[Key, ...] = Field((), max_length=500, description="Occasions at which it is not there")
    locked: bool = Field(False, description="Kept from being moved by hand")
    group: Key | None = Field(None, description="Those of one group are taken in hand together")

    @model_validator(mode="after")
    def _is_one_thing(self) -> CutOut:
        if (self.made is None) == (self.picture is None):
            raise ValueError("a cut-out is either made or a picture; give one of the two")
        return self

    def stands_at(self, view: str, occasion: str) -> bool:
        """Whether it is seen in the picture of a view at an occasion."""
        return self.view == view and not self.hidden and occasion not in self.hidden_at
