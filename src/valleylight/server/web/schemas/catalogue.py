"""Profiles of the catalogue, as the API sends and takes them."""

from __future__ import annotations

from pydantic import BaseModel, Field

from valleylight.server.web.schemas.asked import Asked


class ProfileLine(BaseModel):
    """A profile of the catalogue."""

    sha256: str
    name: str
    file_name: str
    maker: str
    source_format: str
    lumens: float
    watts: float
    peak_cd: float
    beam_deg: tuple[float, float]
    shape: str
    mounting: str
    kelvin: float | None = Field(description="Stated in the file, if at all")
    pictured: bool = Field(description="Its pictures are made")
    warnings: list[str]


class ProfileSearch(Asked):
    """What a profile should be like."""

    text: str = Field("", max_length=120)
    beam_from: float | None = None
    beam_to: float | None = None
    lumens_from: float | None = None
    lumens_to: float | None = None
    kelvin_from: float | None = None
    kelvin_to: float | None = None
    shape: str = ""
    mounting: str = ""
    like: str | None = Field(None, description="SHA-256 of a profile: the most alike come first")
    offset: int = Field(0, ge=0, le=1_000_000)
    limit: int = Field(60, ge=1, le=500)


class ProfilePage(BaseModel):
    """Profiles found, and what the catalogue holds."""

    total: int
    profiles: list[ProfileLine]
    shapes: list[str]
    waiting: int = Field(description="Profiles whose pictures are still to be made")


class GlareFigures(BaseModel):
    """UGR table of CIE 117 at the profile's own flux: rooms by reflectances, seen crosswise and endwise."""

    rooms: list[tuple[int, int]]
    reflectances: list[tuple[float, float, float]]
    crosswise: list[list[float]]
    endwise: list[list[float]]


class ProfileFigures(BaseModel):
    """Everything computed from a profile."""

    line: ProfileLine
    gamma_deg: list[float]
    across_cd: list[float]
    along_cd: list[float]
    field_deg: tuple[float, float]
    stated_lumens: float | None
    opening: str
    opening_m: tuple[float, float, float]
    zones_lm: list[float] = Field(description="0-30, 0-40, 0-60, 60-80, 80-90, 0-90, 90-120, 90-180, 0-180 degrees")
    downward: float
    flux_code: tuple[int, int, int, int, int]
    spacing: tuple[float | None, float | None, float | None]
    symmetry: str
    shape: str
    luminous_area_m2: float
    efficiency: float | None
    efficacy_lm_w: float | None
    glare: GlareFigures | None
    no_glare: str | None = Field(description="Why there is no glare table")
    lamp_sets: list[str]
    keywords: dict[str, str]


class PlainSpot(Asked):
    """A cone where no measured pattern will be seen."""

    name: str = Field(min_length=1, max_length=60)
    beam_deg: float
    field_deg: float
    softness: float = Field(0.5, ge=0, le=1)
    lumens: float = Field(gt=0, le=10_000_000)


class DrawnProfile(Asked):
    """A distribution drawn by hand: one curve when rotational, two for C0 and C90."""

    name: str = Field(min_length=1, max_length=60)
    angles_deg: list[float] = Field(min_length=2, max_length=361)
    across: list[float]
    along: list[float] | None = None
    lumens: float = Field(gt=0, le=10_000_000)


class SourceTemplate(BaseModel):
    """A source to begin with, where no measured profile is at hand."""

    key: str
    name: str
    lumens: float
    watts: float
    kelvin: float
    dimming: str
