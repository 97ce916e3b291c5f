"""The lens as the API sends and takes it: its rings, what it shows sharp, its frame, where it stands."""

from __future__ import annotations

from pydantic import BaseModel, Field

from valleylight.core.project.description import Format, View
from valleylight.server.web.schemas.asked import Asked


class RingClick(BaseModel):
    """A setting at which a ring clicks, and how it is written."""

    value: float
    label: str


class LensRing(BaseModel):
    """The third stops of a ring in the order in which they stand on it."""

    stops_of_light: float = Field(description="Stops of light that a step along it brings")
    clicks: list[RingClick]


class UsualLight(BaseModel):
    """Light that is met again and again."""

    ev100: float
    name: str


class LensScales(BaseModel):
    """What stands on the scales of every lens."""

    f_number: LensRing
    shutter_s: LensRing
    iso: LensRing
    usual: list[UsualLight]
    eye_heights_m: dict[str, float]


class LensWanted(Asked):
    """A view as it is, or as it is being tried, at an occasion."""

    view: View
    occasion: str = Field("", max_length=80)


class RingStands(BaseModel):
    """Where a ring stands: the click nearest, and how the setting is written."""

    click: int
    label: str


class LensReading(BaseModel):
    """What a lens does. Distances in m along its axis; tangents from it; the horizon from the top of the picture, 0 to 1 within."""

    ev100: float
    f_number: RingStands
    shutter_s: RingStands
    iso: RingStands
    circle_mm: float
    hyperfocal_m: float
    near_m: float
    far_m: float | None = Field(description="None: sharp without end")
    across_deg: float
    upright_deg: float
    focal_on_36_mm: float = Field(description="The focal length that frames as much across 36 mm of film")
    left: float = Field(description="Tangent of the left edge")
    right: float
    top: float
    bottom: float
    horizon: float


class CropWanted(LensWanted):
    """A part of the picture: edges from the left and the top, 0 to 1 within the picture."""

    left: float
    top: float
    right: float
    bottom: float
    format: Format | None = Field(None, description="Fit the part to it, about its middle; None as it was drawn")


class HorizonWanted(LensWanted):
    """Where the horizon is to lie, from the top of the picture."""

    at: float = Field(ge=-5, le=6)


class FocusWanted(Asked):
    """A place of the picture that is to be sharp: 0 to 1 from the left and the top."""

    occasion: str
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)


class FocusFound(BaseModel):
    """The distance along the axis at which it is sharp; None where the sky is seen."""

    focus_m: float | None
    object: str | None = None


class LensStands(BaseModel):
    """Distances in m from the lens to what is about it; None where nothing is."""

    ground_z: float | None = Field(description="Height of the ground under it, in the stage's own coordinates")
    floor: float | None
    ceiling: float | None
    ahead: float | None
    behind: float | None
    left: float | None
    right: float | None
    subject: float | None


class LensSection(BaseModel):
    """The stage cut upright along the lens's axis: segments as a0, z0, a1, z1, with a in m from the lens."""

    low: tuple[float, float]
    high: tuple[float, float]
    segments: list[float]
