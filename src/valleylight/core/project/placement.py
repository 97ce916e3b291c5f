"""What stands on the stage: layers, objects of the catalogue, and things in their places. Lengths in metres, angles in degrees."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from valleylight.core.project.basics import Key, Name, Part, Point, Sha256
from valleylight.core.project.repeats import Repeat


class Layer(Part):
    """What of the stage is shown or hidden together. Models bring layers of their own, known here by `in_models`."""

    key: Key
    name: Name
    in_models: str | None = Field(None, max_length=200, description="What models call it; None for a layer of ours")


UpAxis = Literal["x", "y", "z", "-x", "-y", "-z"]


class Made(Part):
    """An object of the catalogue: its family and the numbers by which it was made."""

    family: Key
    parameters: dict[Key, Annotated[float, Field(allow_inf_nan=False)]] = Field(default_factory=dict)


class Placement(Part):
    """A thing that stands on the stage: a file, where it stands and how. Its axis `up` is set upright, it is scaled about its own
    zero, turned about the upright line through it, and its zero is then put at `position`."""

    key: Key
    name: Name
    asset: Sha256
    position: Point = (0.0, 0.0, 0.0)
    turn_deg: float = Field(0.0, ge=-360, le=360, description="Anticlockwise, seen from above")
    scale: float = Field(1.0, ge=1e-6, le=1e6)
    up: UpAxis = Field("z", description="The axis of the file, as it was read, that points up")
    mirrored: bool = Field(False, description="Its left is its right")
    layer: Key | None = Field(
        None, description="The layer it stands on as a whole; None leaves it on those of its file"
    )
    made: Made | None = Field(None, description="How it was made, for an object of the catalogue")
    lamp: Key | None = Field(None, description="The fixture within it, which is moved and taken away with it")
    repeat: Repeat | None = Field(None, description="It stands many times")
    group: Key | None = Field(None, description="Those of one group are taken in hand together")
    hidden: bool = False
    locked: bool = Field(False, description="Kept from being moved by hand")
