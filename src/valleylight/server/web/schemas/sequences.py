"""Sequences as the API sends and takes them: their course, their making, their films."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from valleylight.core.project.description import Point, Sequence
from valleylight.server.messages.films import FilmOfPlates
from valleylight.server.web.schemas.asked import Asked
from valleylight.server.web.schemas.live import JobStatus


class CourseWanted(Asked):
    """A sequence, saved or not."""

    sequence: Sequence


class CourseMoment(BaseModel):
    """Lens and hour at one moment."""

    second: float
    position: Point
    target: Point
    focal_mm: float
    speed_m_s: float = Field(description="Of the lens")
    when: str
    altitude_deg: float = Field(description="Of the sun above the horizon")
    azimuth_deg: float
    levels: dict[str, float] = Field(description="Percent of each fixture group")


class CourseReading(BaseModel):
    """The course of a sequence."""

    frames: int
    moments: list[CourseMoment] = Field(description="From the first to the last, at even times")
    arrives: list[float] = Field(description="When the lens comes to each station, in s")
    moves: bool
    light_changes: bool
    quick_s: float = Field(description="Seconds that the quick version would take")
    final_s: float


class MetOnTheWay(BaseModel):
    """Something that the lens runs into."""

    second: float
    object: str
    material: str


class RunWanted(Asked):
    """How a sequence is to be made: `quick` is a sketch of every second frame."""

    version: Literal["quick", "final"]


class FilmWanted(Asked):
    """A film of plates."""

    name: str = Field("", max_length=80)
    film: FilmOfPlates


class FramesWanted(Asked):
    """Frames to be made again."""

    frames: list[int] = Field(min_length=1, max_length=3000)


class Run(BaseModel):
    """A sequence in the making, or made."""

    id: int
    sequence: str = Field(description="Key of the sequence; empty where it is made of plates")
    name: str
    kind: Literal["traced", "fade", "wipe", "push"]
    version: Literal["quick", "final"]
    wanted: dict[str, Any]
    quality: str
    width: int
    height: int
    rate: float = Field(description="Frames in a second")
    step: int = Field(description="Every how many-th frame of the sequence it has")
    takes: int = Field(description="How often frames of it were made again: a frame may be another since")
    numbers: list[int] = Field(description="All its frames, by number")
    made: list[int] = Field(description="Those that are there")
    status: JobStatus
    message: str
    seconds_spent: float
    seconds_left: float | None
    changed: bool = Field(description="The project has changed since in what it is made from")
    created: str


class FilmFileWanted(Asked):
    """A form that the frames made are saved in: `png` and `exr` are zips of frames, `webp` a small film for mail."""

    form: Literal["mp4", "webm", "webp", "png", "exr"] = "mp4"


class FilmFile(BaseModel):
    """A file to be fetched within the hour."""

    file: str
    name: str
    bytes: int
    frames: int
