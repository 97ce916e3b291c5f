"""Plates and their making, as the API sends and takes them."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, Field

from valleylight.core.project.description import Look
from valleylight.server.web.plate_state import Step
from valleylight.server.web.schemas.asked import Asked


class Job(BaseModel):
    """The making of a plate."""

    id: int
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
    """A look and light levels for a plate."""

    look: Look
    levels: dict[str, float] = Field(default_factory=dict)
