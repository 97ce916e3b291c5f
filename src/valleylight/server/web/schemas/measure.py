"""The meter, areas, readings and the goniometer, as the API sends and takes them."""

from __future__ import annotations

from pydantic import BaseModel, Field

from valleylight.core.project.description import Point
from valleylight.server.web.schemas.asked import Asked


class MeterWanted(Asked):
    """A spot of the live picture: 0 to 1 from the left and the top; the radius in picture widths, 0 for a pixel."""

    view: str
    occasion: str
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)
    radius: float = Field(0.0, ge=0, le=0.5)


class GreyPoint(BaseModel):
    """A setting of the white balance."""

    kelvin: float
    tint: float


class MeterReading(BaseModel):
    """What a meter reads there; nothing of a surface where the sky is seen."""

    luminance_cd_m2: float
    least_cd_m2: float
    greatest_cd_m2: float
    stops: float | None = Field(description="Stops above middle grey at the lens's exposure")
    kelvin: float | None = Field(description="Colour temperature of what is seen")
    lux: float | None = Field(description="All the light on the surface, direct and after every bounce")
    light_kelvin: float | None = Field(description="Colour temperature of that light")
    lux_by_group: dict[str, float]
    object: str | None
    material: str | None
    point: tuple[float, float, float] | None
    normal: tuple[float, float, float] | None
    distance_m: float | None
    grey: GreyPoint | None = Field(None, description="The white balance under which what is seen would be grey")


class AreaWanted(Asked):
    """A parallelogram to measure: a corner, its two edges and the direction it faces, in metres."""

    occasion: str
    corner: Point
    u: Point
    v: Point
    normal: Point = (0.0, 0.0, 1.0)
    spacing_m: float = Field(0.5, ge=0.02, le=20)
    direct_only: bool = False


class AreaReading(BaseModel):
    """Illuminance over an area in lx, row by row, and the figures by which it is judged."""

    rows: int
    columns: int
    lux: list[float]
    spacing_m: float
    mean_lx: float
    least_lx: float
    greatest_lx: float
    uniformity: float


class TargetLine(BaseModel):
    """A value to hold an area against (from memory, in the style of EN 12464-1)."""

    name: str
    mean_lx: float
    uniformity: float


class FixtureReadings(BaseModel):
    """Contact, cone and bounce of a fixture where it is aimed."""

    point: tuple[float, float, float] | None
    distance_m: float | None
    contact_lx: float | None
    half_value_m: float | None
    after_bounce: float
    nearest_m: float | None
    advice: str | None


class GoniometerWanted(Asked):
    """What to measure: a placed fixture, or objects of the stage by name."""

    fixture: str | None = None
    objects: list[str] = Field([], max_length=50)
    name: str = Field("Measured", min_length=1, max_length=60)
