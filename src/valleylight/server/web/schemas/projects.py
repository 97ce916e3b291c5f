"""Projects, fixture kinds and errors, as the API sends and takes them."""

from __future__ import annotations

from pydantic import BaseModel, Field

from valleylight.core.project.changes import Change
from valleylight.core.project.copies import Copied
from valleylight.core.project.description import FixtureKind, Project, Site
from valleylight.server.web.schemas.asked import Asked


class Problem(BaseModel):
    """An error, as application/problem+json (RFC 9457)."""

    type: str = "about:blank"
    title: str = Field(description="What is wrong")
    status: int
    detail: str = Field(description="The whole message: what, where and what to do")
    where: str = Field("", description="File, line or field at fault")
    remedy: str = ""
    errors: list[dict[str, str]] = Field(default_factory=list, description="Every field at fault")


class Conflict(Problem):
    """An edit that met another hand's: what stands there now, and on which revision."""

    revision: int
    label: str = Field(description="What the other hand did")
    now: list[Change]


class NewProject(Asked):
    name: str
    site: Site | None = None


class ProjectCopy(Asked):
    name: str | None = Field(None, max_length=80, description="Name of the copy; null for one made from the original's")
    with_plates: bool = False


class ProjectPlace(Asked):
    place: int = Field(ge=0, le=100_000, description="Where it stands in the list, from 0")


class ProjectLine(BaseModel):
    """A project in the list."""

    slug: str
    name: str
    place: str
    views: int
    occasions: int
    plates: int
    picture: int | None = Field(description="Its newest plate")
    bytes: int = Field(description="Size of its models, profiles, pictures and films")
    created: str
    changed: str
    away: str | None = Field(description="When it was put away")


class PartCopy(Asked):
    """A part to be copied, under a name of its own if one is given."""

    part: Copied
    key: str
    name: str | None = Field(None, min_length=1, max_length=80)


class ProjectState(BaseModel):
    """A project as the browser holds it."""

    slug: str
    revision: int
    description: Project
    undo: str | None = Field(description="What undo would take back")
    redo: str | None = Field(description="What redo would do again")


class PartMade(BaseModel):
    """The key of a new part, and the project with it."""

    key: str
    project: ProjectState


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
    lumens_per: dict[str, float] = Field(description="Lumens that one cd at the peak, lx at 2 m or W at 100 lm/W stand for")


class KindFromProfile(Asked):
    """A profile of the catalogue or a template, to become a fixture kind of the project."""

    profile: str | None = Field(None, pattern="^[0-9a-f]{64}$")
    template: str | None = None
