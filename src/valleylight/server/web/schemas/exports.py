"""Plates saved as files for others."""

from __future__ import annotations

from pydantic import BaseModel, Field

from valleylight.core.film.exports import Fit, Form
from valleylight.server.web.schemas.asked import Asked

MOST_PLATES = 60
USUAL_PATTERN = "{project} {view} {occasion} {number}"


class ExportWanted(Asked):
    """Plates to be saved; more than one come in a zip."""

    plates: list[int] = Field(min_length=1, max_length=MOST_PLATES)
    form: Form = "png"
    fit: Fit = Field("made", description="made: as large as they were made; else to fit a screen or a sheet of paper")
    dpi: float = Field(300.0, ge=30, le=1200, description="Dots to the inch on paper")
    pattern: str = Field(
        USUAL_PATTERN, min_length=1, max_length=120,
        description="Name of each file: {project} {view} {occasion} {quality} {width} {height} {date} {number} stand for its own",
    )  # fmt: skip


class ExportMade(BaseModel):
    """A file to be fetched within the hour."""

    file: str = Field(description="What to fetch it by")
    name: str
    bytes: int
    sizes: list[tuple[int, int]] = Field(description="Width and height of each picture in it")
    enlarged: float = Field(description="How far the picture that was enlarged most was, along a side; 1 or less: none was")
