"""What the API sends and takes, beyond the core's own description models."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from valleylight.core.project.air import Air
from valleylight.core.project.description import FixtureKind, Look, Project
from valleylight.core.project.surface import Surface
from valleylight.server.plate_state import Step


class Problem(BaseModel):
    """An error, as application/problem+json (RFC 9457)."""

    type: str = "about:blank"
    title: str = Field(description="What is wrong")
    status: int
    detail: str = Field(description="The whole message: what, where and what to do")
    where: str = Field("", description="File, line or field at fault")
    remedy: str = ""
    errors: list[dict[str, str]] = Field(default_factory=list, description="Every field at fault")


class NewProject(BaseModel):
    name: str


class ProjectLine(BaseModel):
    """A project in the list."""

    slug: str
    name: str
    views: int
    occasions: int
    plates: int


class ProjectState(BaseModel):
    """A project as the browser holds it."""

    slug: str
    revision: int
    description: Project
    undo: str | None = Field(description="What undo would take back")
    redo: str | None = Field(description="What redo would do again")


class KindFigures(BaseModel):
    """A fixture kind with the figures of its profile."""

    kind: FixtureKind
    source_format: str
    lumens: float
    stated_lumens: float | None
    watts: float
    beam_deg: tuple[float, float]
    field_deg: tuple[float, float]
    peak_cd: float
    opening: str
    opening_m: tuple[float, float, float]
    warnings: list[str]
    gamma_deg: list[float]
    across_cd: list[float] = Field(description="Intensity in C0 (positive gamma) and C180 (negative)")
    along_cd: list[float] = Field(description="Intensity in C90 (positive gamma) and C270 (negative)")


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
    quality: str
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


class NewPlate(BaseModel):
    view: str
    occasion: str
    quality: Literal["sketch", "proof", "press"] = "proof"


class PlateEstimate(BaseModel):
    """Expected seconds of a plate by quality, from plates made on this machine."""

    sketch: float
    proof: float
    press: float


class Finishing(BaseModel):
    """A look and light levels for a plate."""

    look: Look
    levels: dict[str, float] = Field(default_factory=dict)


class StageFigures(BaseModel):
    objects: int
    triangles: int
    materials: list[str]
    layers: list[str]
    size_m: tuple[float, float, float]
    notes: list[str]


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


class Spot(BaseModel):
    """Where to look: a place of a view's picture, 0 to 1 from the left and top, or a place of the plan in metres."""

    view: str
    occasion: str
    picture: tuple[float, float] | None = None
    plan: tuple[float, float, float] | None = Field(None, description="x, y and the height from which to look down")


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


class PlanDrawing(BaseModel):
    """The plan cut at a height: segments as x0, y0, x1, y1 one after the other, in metres."""

    height_m: float
    low: tuple[float, float]
    high: tuple[float, float]
    segments: list[float]


class LuxGrid(BaseModel):
    """Direct illuminance on a level grid, row by row from the south."""

    height_m: float
    x0: float
    y0: float
    step_m: float
    columns: int
    rows: int
    lux: list[float]


class SunTrack(BaseModel):
    """The sun over one day: each 10 minutes."""

    date: str
    hours: list[float]
    azimuth_deg: list[float]
    altitude_deg: list[float]
    sunrise: float | None
    sunset: float | None


class SunDay(BaseModel):
    """A day for the dayline and the sun-path diagram."""

    day: SunTrack
    colours: list[str] = Field(description="Colour of the sky at each hour of the track, #rrggbb")
    year: list[SunTrack] = Field(description="21 December, 21 March and 21 June, for the diagram")


class SkyType(BaseModel):
    number: int
    name: str
