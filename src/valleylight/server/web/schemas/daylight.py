"""Sun, sky, pictures of surroundings, and which hour, as the API sends and takes them."""

from __future__ import annotations

from datetime import date, datetime

from pydantic import BaseModel, Field

from valleylight.core.project.description import Point
from valleylight.core.project.sky import Sky
from valleylight.server.web.schemas.asked import Asked


class SunTrack(BaseModel):
    """The sun over one day: each 10 minutes."""

    date: str
    hours: list[float]
    azimuth_deg: list[float]
    altitude_deg: list[float]
    sunrise: float | None
    sunset: float | None


class DayPart(BaseModel):
    """A stretch of a day by the sun's altitude: twilights, golden and blue hour."""

    name: str
    start: float
    end: float


class SunDay(BaseModel):
    """A day for the dayline and the sun-path diagram."""

    day: SunTrack
    colours: list[str] = Field(description="Colour of the sky at each hour of the track, #rrggbb")
    year: list[SunTrack] = Field(description="The 21st of December to June, for the diagram")
    parts: list[DayPart]
    noon: float = Field(description="Civil hour at which the sun is highest")
    noon_altitude_deg: float


class SunAt(BaseModel):
    """Where the sun stands, in degrees."""

    azimuth_deg: float
    altitude_deg: float


class YearDay(BaseModel):
    """A day of the yearline."""

    date: str
    sunrise: float | None
    sunset: float | None
    noon_altitude_deg: float
    colour: str = Field(description="Colour of the sky at noon, #rrggbb")


class SkyLine(BaseModel):
    """A sky of the catalogue."""

    key: str
    name: str
    sky: Sky


class SkyFigures(BaseModel):
    """A sky of the catalogue under a sun."""

    key: str
    name: str
    picture: str = Field(description="Round picture looking up, as a data URL")
    horizontal_lx: float
    vertical_lx: float = Field(description="Mean of four upright planes, with the far ground")
    sun_share: float = Field(description="Share of the sun that passes the clouds")
    sun_horizontal_lx: float


class PictureSun(BaseModel):
    """The brightest spot of a picture: azimuth from its left edge."""

    azimuth_deg: float
    altitude_deg: float
    size_deg: float
    share: float
    is_sun: bool


class PictureFigures(BaseModel):
    """A picture of surroundings."""

    asset: str
    name: str
    width: int
    height: int
    horizontal_lx: float
    sun: PictureSun
    note: str
    picture: str


class MoonFigures(BaseModel):
    azimuth_deg: float
    altitude_deg: float
    lit: float = Field(description="Share of the disc that is lit")
    waxing: bool
    normal_lx: float = Field(description="Illuminance of a plane facing it, outside the air")


class SkyMeter(BaseModel):
    """What falls on open ground, and the luminance of the sky in cd/m2 on a grid from the horizon up, clockwise from north."""

    direct_lx: float
    diffuse_lx: float
    direct_normal_lx: float
    vertical_lx: float
    sky_kelvin: float | None
    sun_kelvin: float | None
    sun_share: float
    by_moon: bool
    moon: MoonFigures | None
    rows: int
    columns: int
    luminance: list[float]


class HorizonMask(BaseModel):
    """What the stage hides of the sky: rows from the horizon up, columns clockwise from north, 1 where hidden."""

    azimuths: int
    altitudes: int
    hidden: str


class FaceWanted(Asked):
    """A face that should be in sun or in shade."""

    name: str = ""
    point: Point
    normal: Point
    reach_m: float = Field(1.0, ge=0.05, le=50)
    lit: bool = True


class HourQuestion(Asked):
    """Faces to be lit or in shade, over a year."""

    occasion: str
    faces: list[FaceWanted] = Field(min_length=1, max_length=12)
    year: int = Field(ge=1900, le=2100)


class HourWindow(BaseModel):
    """A stretch of the year in which they are."""

    best: datetime
    score: float
    azimuth_deg: float
    altitude_deg: float
    first_day: date
    last_day: date
    first_hour: float
    last_hour: float
    shares: list[float] = Field(description="Sunlit share of each face at the best moment")


class HourAnswer(BaseModel):
    """How well each quarter hour fits: bytes in base64, days by slots, 0 to 254, and 255 where the sun is down."""

    year: int
    days: int
    slots: int
    best: float
    levels: str
    windows: list[HourWindow]


class SunHoursQuestion(Asked):
    occasion: str
    faces: list[FaceWanted] = Field(min_length=1, max_length=12)
    days: list[date] = Field(min_length=1, max_length=24)


class SunHoursOfDay(BaseModel):
    """Hours of sun on each face on a day, and the stretches in which at least half of it is lit."""

    day: date
    hours: list[float]
    stretches: list[list[tuple[float, float]]]


class SunByHand(BaseModel):
    """A sun set by hand, and the moment of the year whose sun comes nearest."""

    azimuth_deg: float
    altitude_deg: float
    shadow_over_height: float
    nearest: datetime
    misses_by_deg: float


class PlaceLine(BaseModel):
    name: str
    latitude_deg: float
    longitude_deg: float
    elevation_m: float
    time_zone: str


class SkyType(BaseModel):
    number: int
    name: str
