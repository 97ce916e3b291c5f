"""What the API sends and takes, beyond the core's own description models."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any, Literal

from pydantic import BaseModel, Field

from valleylight.core.project.air import Air
from valleylight.core.project.description import FixtureKind, Look, Project
from valleylight.core.project.sky import Sky
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
    lumens_per: dict[str, float] = Field(description="Lumens that one cd at the peak, lx at 2 m or W at 100 lm/W stand for")


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
    when: datetime | None = Field(None, description="Another moment than the occasion's, for a series of hours")


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
    up: bool = Field(False, description="From the place of the plan look up, to the ceiling")


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


class FaceWanted(BaseModel):
    """A face that should be in sun or in shade."""

    name: str = ""
    point: tuple[float, float, float]
    normal: tuple[float, float, float]
    reach_m: float = Field(1.0, ge=0.05, le=50)
    lit: bool = True


class HourQuestion(BaseModel):
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


class SunHoursQuestion(BaseModel):
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


class ProfileSearch(BaseModel):
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
    offset: int = Field(0, ge=0)
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


class PlainSpot(BaseModel):
    """A cone where no measured pattern will be seen."""

    name: str = Field(min_length=1, max_length=60)
    beam_deg: float
    field_deg: float
    softness: float = Field(0.5, ge=0, le=1)
    lumens: float = Field(gt=0, le=10_000_000)


class DrawnProfile(BaseModel):
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


class KindFromProfile(BaseModel):
    """A profile of the catalogue or a template, to become a fixture kind of the project."""

    profile: str | None = Field(None, pattern="^[0-9a-f]{64}$")
    template: str | None = None


class MeterWanted(BaseModel):
    """A spot of the live picture: 0 to 1 from the left and the top; the radius in picture widths, 0 for a pixel."""

    view: str
    occasion: str
    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)
    radius: float = Field(0.0, ge=0, le=0.5)


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


class AreaWanted(BaseModel):
    """A parallelogram to measure: a corner, its two edges and the direction it faces, in metres."""

    occasion: str
    corner: tuple[float, float, float]
    u: tuple[float, float, float]
    v: tuple[float, float, float]
    normal: tuple[float, float, float] = (0.0, 0.0, 1.0)
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


class GoniometerWanted(BaseModel):
    """What to measure: a placed fixture, or objects of the stage by name."""

    fixture: str | None = None
    objects: list[str] = Field([], max_length=50)
    name: str = Field("Measured", min_length=1, max_length=60)


class LuxWanted(BaseModel):
    """Direct illuminance on a level plane, with changes not saved yet."""

    occasion: str
    height_m: float = Field(0.75, ge=-1000, le=10_000)
    draft: list[Any] = []


class ObjectLine(BaseModel):
    """An object of the stage: its name and box in metres."""

    name: str
    low: tuple[float, float, float]
    high: tuple[float, float, float]


class SectionDrawing(BaseModel):
    """The stage cut by an upright plane: segments as a0, z0, a1, z1; a is y where x is cut, else x."""

    axis: Literal["x", "y"]
    place_m: float
    low: tuple[float, float]
    high: tuple[float, float]
    segments: list[float]


class ArrangeWanted(BaseModel):
    """Many fixtures at once: a row, an array or a curve of a kind, one under each object of a name, or mirror images."""

    how: Literal["row", "array", "curve", "objects", "mirror"]
    kind: str | None = None
    points: list[tuple[float, float]] = Field([], max_length=60, description="Ends, corners, or points of the curve")
    count: int | None = Field(None, ge=1, le=500, description="Fixtures along the line, or across an array")
    rows: int | None = Field(None, ge=1, le=500)
    spacing_m: float | None = Field(None, gt=0, le=100, description="Greatest spacing, in place of counts")
    half_ends: bool = Field(True, description="Half a spacing to the ends, as from walls")
    height_m: float | None = Field(None, ge=-1000, le=10_000, description="None hangs them on the ceiling above")
    objects: str = Field("", max_length=80, description="How the names of the objects begin")
    fixtures: list[str] = Field([], max_length=500)
    axis: Literal["x", "y"] = "x"
    group: str | None = Field(None, min_length=1, max_length=80)
