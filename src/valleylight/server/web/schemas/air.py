"""What is asked and told of air and weather."""

from __future__ import annotations

from pydantic import BaseModel, Field

from valleylight.core.project.air import Air
from valleylight.core.project.changes import Change


class AirValues(BaseModel):
    """A strength of fog offered from the scene's size."""

    name: str
    length_m: float
    sight_m: float = Field(description="Distance at which a dark thing fades into it")
    air: Air


class AirKind(BaseModel):
    """Drops or dust of a size, and how they scatter."""

    key: str
    name: str
    radius_um: float
    forward: float
    back: float
    back_share: float
    colour: tuple[float, float, float]


class AirScales(BaseModel):
    """Kinds of air, and how many mean free paths one sees through it."""

    kinds: list[AirKind]
    sight_over_free_path: float


class LeafYear(BaseModel):
    """A kind of leaf on the stage: the day it stands on, how far it is, and its year in colours with the share on the tree."""

    kind: str
    day: int
    held: bool
    stage: str
    year: list[tuple[str, float]]


class RecipeLine(BaseModel):
    """A line of a recipe: what it sets in words, at which step of work, and the changes that set it."""

    step: str
    says: str
    changes: list[Change]


class RecipeFound(BaseModel):
    """Weather to start from: lines that each can be left out."""

    key: str
    name: str
    lines: list[RecipeLine]
