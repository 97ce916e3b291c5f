"""Surfaces of the stage and of the catalogue, as the API sends and takes them."""

from __future__ import annotations

from pydantic import BaseModel, Field

from valleylight.core.project.description import Name
from valleylight.core.project.surface import Surface
from valleylight.server.web.schemas.asked import Asked


class StageSurface(BaseModel):
    """A material of the stage: as it is now, as it came, and what is doubtful about it."""

    name: str
    surface: Surface
    came_as: Surface
    changed: bool
    has_picture: bool
    doubt: str | None
    placeholder: bool = Field(description="Nobody has chosen it yet")
    seen: float | None = Field(description="Share of the view's picture, where one was asked about")
    sample_m: float = Field(description="True size of its sample")
    version: str = Field(description="Changes whenever its sample picture does")


class CatalogueSurface(BaseModel):
    """A surface to start from; `own` is the number of one that was kept by hand."""

    key: str
    name: str
    family: str
    surface: Surface
    sample_m: float
    own: int | None = None
    words: list[str] = Field([], description="What was left out when it was brought in")


class SurfaceKept(Asked):
    """A surface to keep in the catalogue."""

    name: Name
    surface: Surface


class Renamed(Asked):
    """Another name."""

    name: Name


class SurfacePicture(BaseModel):
    """A picture of a channel that was brought in, by the SHA-256 of its file."""

    asset: str
    width: int
    height: int
    words: list[str]
