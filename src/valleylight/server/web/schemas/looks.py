"""Looks, as the API tells of them and tries them."""

from __future__ import annotations

from pydantic import BaseModel, Field

from valleylight.core.project.description import Look
from valleylight.server.web.schemas.asked import Asked

#: So many looks are tried at once, so large.
MOST_TRIED, LARGEST_WIDTH = 16, 640


class LookFound(BaseModel):
    """A lookup table that was brought in."""

    file: str = Field(description="SHA-256, which a treatment names it by")
    name: str
    size: int
    solid: bool = Field(description="A table of three dimensions; else a curve for each channel")


class LooksWanted(Asked):
    """Looks to be tried on the live picture of a view and an occasion."""

    view: str
    occasion: str
    looks: list[Look] = Field(min_length=1, max_length=MOST_TRIED)
    width: int = Field(240, ge=32, le=LARGEST_WIDTH)


class LooksTried(BaseModel):
    """The pictures, in the order of the looks: JPEG files in base64."""

    pictures: list[str]


class LimitWanted(Asked):
    """A treatment of a look, by its number, whose limit is to be shown on the live picture."""

    view: str
    occasion: str
    look: Look
    number: int = Field(ge=0, le=100)
    width: int = Field(640, ge=32, le=LARGEST_WIDTH)
