"""Plates and their making, as the API sends and takes them."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, Field

from valleylight.core.project.description import Kelvin, Look
from valleylight.core.history.steps import Step
from valleylight.server.web.schemas.asked import Asked


class Job(BaseModel):
    """The making of a plate."""

    id: int
    rank: float = Field(description="Its place in the queue")
    status: Literal["waiting", "running", "done", "stopped", "failed"]
    samples_done: int
    message: str
    seconds_spent: float
    seconds_left: float | None


class Plate(BaseModel):
    """A picture made or being made."""

    id: int
    view: str
    occasion: str
    name: str = Field(description="As given by hand; empty where none was")
    rank: float | None = Field(description="Its rank in the strip where set by hand, greater stands before; else its number")
    note: str
    starred: bool = Field(description="Is never thinned")
    quality: Literal["sketch", "proof", "press", "live"] = Field(description="live: the live picture, kept as it was")
    width: int
    height: int
    samples: int
    ev100: float
    true_to_place: bool
    seconds: float
    created: str
    ready: bool
    changed: list[Step] = Field(description="Steps of work whose settings differ from what it was made from")
    look: Look
    levels: dict[str, float] = Field(description="Factor of each light group when it was made")
    colours: dict[str, float] = Field(description="Colour temperatures that light groups were given")
    job: Job | None


class NewPlate(Asked):
    view: str
    occasion: str
    quality: Literal["sketch", "proof", "press"] = "proof"
    when: datetime | None = Field(None, description="Another moment than the occasion's, for a series of hours")


class LivePlate(Asked):
    """The live picture of this view and occasion, to be kept as it is."""

    view: str
    occasion: str


class PlateAgain(Asked):
    """Make a plate again from the settings it keeps, at its own or another quality."""

    quality: Literal["sketch", "proof", "press"] | None = None


class PlateEstimate(BaseModel):
    """Expected seconds of a plate by quality, from plates made on this machine."""

    sketch: float
    proof: float
    press: float


class Finishing(Asked):
    """A look, light levels and colours of light for a plate."""

    look: Look
    levels: dict[str, float] = Field(default_factory=dict, description="Factors of light groups; none at all: its own")
    colours: dict[str, Kelvin] = Field(default_factory=dict, description="Colour temperatures that groups are given")
    form: Literal["png", "jpeg"] = "png"


class PlateLight(BaseModel):
    """A light of a plate's film."""

    name: str
    cd_m2: float = Field(description="Mean luminance it gives to the picture at level 1")
    kelvin: float | None = Field(description="The colour temperature it was traced with, where it has one")
    colour: str


class ForetellWanted(Asked):
    """A plate whose time is asked for."""

    view: str
    occasion: str
    quality: Literal["sketch", "proof", "press"] = "press"
    parts: bool = Field(False, description="Tell what fog, water, blur, lamps and objects add, by runs without each")


class PartAdds(BaseModel):
    """What a part of the scene adds to the time of a plate."""

    name: str
    seconds: float


class PlateForetold(BaseModel):
    """The time of a plate by a short run of its own picture."""

    width: int
    height: int
    seconds: float
    samples: float = Field(description="Mean samples a pixel that it will take")
    parts: list[PartAdds]


class BetweenWanted(Asked):
    """Two plates of one view, and how far one is on the way from the first to the second."""

    first: int
    second: int
    share: float = Field(ge=0, le=1)
