"""What the renderer is asked: everything that needs the compiled core, or a stage in memory."""

from __future__ import annotations

from datetime import date, datetime
from typing import ClassVar, Literal

from valleylight.core.film.caption import Caption
from valleylight.core.film.exports import Form
from valleylight.core.project.description import Look, Made, Project, Sequence, UpAxis
from valleylight.core.project.surface import Surface
from valleylight.server.messages.message import Message

Point = tuple[float, float, float]


class Question(Message):
    """`patient`: a page asks it by itself, by the dozen or after every edit, so the live picture goes first."""

    patient: ClassVar[bool] = False


class OfProject(Question):
    """A question about a project as it is described."""

    project: Project


class KeepLive(OfProject):
    """Keep the live picture as a plate; answered with the plate's number."""

    slug: str
    view: str
    occasion: str


class Meter(Question):
    """Read the live picture at (x, y), 0 to 1, over a disc of a radius in picture widths."""

    slug: str
    view: str
    occasion: str
    x: float
    y: float
    radius: float


class TryLooks(Question):
    """The live picture under looks, so wide, as JPEG files."""

    slug: str
    view: str
    occasion: str
    looks: tuple[Look, ...]
    width: int
    patient: ClassVar[bool] = True


class MarkLimit(Question):
    """Where in the live picture the limit of a look's treatment holds, as PNG."""

    slug: str
    view: str
    occasion: str
    look: Look
    number: int
    width: int
    patient: ClassVar[bool] = True


class LiveScopes(Question):
    """What instruments read of the live picture."""

    slug: str
    view: str
    occasion: str
    patient: ClassVar[bool] = True


class Finish(Question):
    """A kept film under a look, light levels and colours of light, as PNG or, for looking at, as JPEG."""

    film: str
    look: Look
    levels: dict[str, float]
    colours: dict[str, float] = {}
    jpeg: bool = False


class LightsOfFilm(Question):
    """The lights of a kept film: what each gives at level 1, and its colour."""

    film: str


class Kept(Message):
    """A kept film with the look, levels and colours that it is shown with."""

    film: str
    look: Look
    levels: dict[str, float]
    colours: dict[str, float]


class Between(Question):
    """The picture at a share of the way from one kept film to another, under the look of the nearer, as JPEG."""

    first: Kept
    second: Kept
    share: float


class Export(Question):
    """Write a kept film, finished, as a file of the scratch folder under a name; answered with its bytes."""

    film: str
    look: Look
    levels: dict[str, float]
    colours: dict[str, float] = {}
    form: Form
    size: tuple[int, int]
    dpi: float
    caption: Caption
    name: str


class SurfaceSample(Question):
    """A surface of the catalogue, as PNG."""

    surface: Surface
    patient: ClassVar[bool] = True


class MaterialSample(OfProject):
    """A material of the stage, with its pictures, as PNG."""

    material: str
    patient: ClassVar[bool] = True


class Portrait(Question):
    """Make and keep a picture of a profile; answered with the exposure value it was developed at."""

    profile: str
    kelvin: float | None
    side: Literal["wall", "floor"]
    ev100: float | None
    patient: ClassVar[bool] = True


class SkyOfCatalogue(Question):
    """A sky of the catalogue under a sun: its round picture and its illuminances."""

    key: str
    azimuth_deg: float
    altitude_deg: float
    patient: ClassVar[bool] = True


class ThingPicture(Question):
    """A member of a family of objects, as PNG."""

    family: str
    parameters: dict[str, float]
    patient: ClassVar[bool] = True


class CutOutPicture(Question):
    """A cut-out that is made, from one of its sides, or a picture's, as PNG with alpha; so many pixels high at most."""

    made: Made | None
    picture: str | None
    side: int
    rows: int
    patient: ClassVar[bool] = True


class CutOutsStanding(OfProject):
    """Where the cut-outs of a view are seen at an occasion, and what does not fit their light."""

    view: str
    occasion: str
    patient: ClassVar[bool] = True


class OwnPicture(Question):
    """An object of one's own, as PNG: its file, the metres of its unit, the axis that points up."""

    name: str
    asset: str
    scale: float
    up: UpAxis
    patient: ClassVar[bool] = True


class Things(OfProject):
    """Every thing that is placed, with its box in its own frame and how often it stands."""

    patient: ClassVar[bool] = True


class StageFigures(OfProject):
    """Objects, triangles, materials, layers, size."""

    patient: ClassVar[bool] = True


class Objects(OfProject):
    """Every named object with its box."""


class Mesh(OfProject):
    """The working view's triangles, as bytes; with an occasion, without the layers it hides."""

    occasion: str = ""


class Plan(OfProject):
    """The stage cut by a level plane."""

    height_m: float


class Section(OfProject):
    """The stage cut by an upright plane."""

    axis: Literal["x", "y"]
    place_m: float


class Ceilings(OfProject):
    """Height in metres of what hangs over each place."""

    places: tuple[Point, ...]


class Illuminance(OfProject):
    """Direct light of the fixtures on a working plane."""

    occasion: str
    height_m: float


class Surfaces(OfProject):
    """The materials of the stage, the doubtful ones first; with a view and an occasion, how much of that picture each is."""

    view: str = ""
    occasion: str = ""
    patient: ClassVar[bool] = True


class Pick(OfProject):
    """What stands at a place of the picture (0 to 1) or of the plan, upwards from there or downwards."""

    view: str
    occasion: str
    picture: tuple[float, float] | None
    plan: Point | None
    up: bool = False
    without: str | None = None
    as_seen: bool = False


class LensStanding(OfProject):
    """How far what is about a lens is from it."""

    view: str
    occasion: str
    patient: ClassVar[bool] = True


class LensSection(OfProject):
    """The stage cut upright along a lens's axis, so many metres ahead."""

    view: str
    reach_m: float
    patient: ClassVar[bool] = True


class Foretell(OfProject):
    """How long a plate of a size would take, by a short run; with `parts`, what parts of the scene add to it."""

    view: str
    occasion: str
    quality: Literal["sketch", "proof", "press"]
    size: tuple[int, int]
    parts: bool


class OnTheWay(OfProject):
    """What the lens of a sequence runs into on its path."""

    patient: ClassVar[bool] = True
    sequence: Sequence


class AirOffers(OfProject):
    """Haze, mist and fog for a view."""

    view: str


class Recipes(OfProject):
    """Weather to start from, for a view at an occasion."""

    patient: ClassVar[bool] = True
    view: str
    occasion: str


class YearOfLeaves(OfProject):
    """The year of each kind of leaf on the stage, at an occasion."""

    patient: ClassVar[bool] = True
    occasion: str


class Area(OfProject):
    """Illuminance over an area spanned by `u` and `v` from a corner."""

    occasion: str
    corner: Point
    u: Point
    v: Point
    normal: Point
    spacing_m: float
    direct_only: bool


class Readings(OfProject):
    """What a fixture does where it is aimed."""

    fixture: str
    occasion: str
    patient: ClassVar[bool] = True


class Goniometer(OfProject):
    """The distribution of a fixture, or of objects of the stage, as an LM-63 file."""

    fixture: str | None
    objects: tuple[str, ...]
    name: str


class SkyFile(OfProject):
    """An occasion's sky as a picture of light."""

    occasion: str
    suffix: Literal["exr", "hdr"]
    fine: bool


class SkyMeter(OfProject):
    """What falls on open ground."""

    occasion: str
    patient: ClassVar[bool] = True


class Horizon(OfProject):
    """What the stage hides of the sky from a view's point."""

    view: str
    occasion: str
    patient: ClassVar[bool] = True


class Face(Message):
    """A face that is to be in sun or in shade."""

    point: Point
    normal: Point
    reach_m: float
    name: str = ""
    lit: bool = True


class FindHours(OfProject):
    """The hours of a year at which some faces are in sun and others in shade."""

    occasion: str
    year: int
    faces: tuple[Face, ...]


class SunHours(OfProject):
    """Hours of sun on faces on some days."""

    occasion: str
    faces: tuple[Face, ...]
    days: tuple[date, ...]


class LeafShadow(OfProject):
    """Places for trees that dapple a patch at an occasion's hour."""

    occasion: str
    point: Point
    normal: Point
    reach_m: float


class Glimpse(OfProject):
    """A small quick picture of a view at another moment, as JPEG."""

    view: str
    occasion: str
    when: datetime
    cloudless: bool


AnyQuestion = (
    KeepLive | Meter | TryLooks | MarkLimit | LiveScopes | Finish | LightsOfFilm | Between | Export | SurfaceSample | MaterialSample | Portrait | SkyOfCatalogue | ThingPicture | OwnPicture | CutOutPicture | CutOutsStanding | Things | StageFigures | Objects | Mesh
    | Plan | Section | LensSection | LensStanding | Foretell | OnTheWay | Ceilings | Illuminance | Surfaces | Pick | AirOffers | Recipes | YearOfLeaves | Area | Readings | Goniometer | SkyFile | SkyMeter
    | Horizon | FindHours | SunHours | LeafShadow | Glimpse
)  # fmt: skip
