"""The description of a project: everything a picture depends on, in plain checked numbers.

Lengths in metres, Z up, X east and Y north before the project's own north; angles in degrees; azimuth clockwise
from north. A description never holds binaries: models and profiles are named by the SHA-256 of their content.
"""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal, TypeVar
from zoneinfo import ZoneInfo

from pydantic import AfterValidator, Field, field_validator, model_validator

from valleylight.core.errors import NotFoundError
from valleylight.core.project.air import Air, LightNet
from valleylight.core.project.basics import GivenName as GivenName
from valleylight.core.project.basics import Kelvin, Name, Part, Percent, Stops
from valleylight.core.project.basics import Key as Key
from valleylight.core.project.basics import Metres as Metres
from valleylight.core.project.basics import Point as Point
from valleylight.core.project.basics import Sha256 as Sha256
from valleylight.core.project.cutout import CutOut as CutOut
from valleylight.core.project.placement import Layer as Layer
from valleylight.core.project.placement import Made as Made
from valleylight.core.project.placement import Placement as Placement
from valleylight.core.project.placement import UpAxis as UpAxis
from valleylight.core.project.planting import Planting
from valleylight.core.project.sequence import Sequence as Sequence
from valleylight.core.project.sky import Sky
from valleylight.core.project.surface import Apart, ObjectFlags, Surface
from valleylight.core.project.view import MOST_ASPECT as MOST_ASPECT
from valleylight.core.project.view import Format as Format
from valleylight.core.project.view import Lens as Lens
from valleylight.core.project.view import View as View
from valleylight.core.project.weather import Weather
from valleylight.core.sun.gazetteer import time_zones
from valleylight.core.sun.position import FIRST_YEAR, LAST_YEAR
from valleylight.core.treatments import AnyTreatment, at_first
from valleylight.core.treatments.table import Table

T = TypeVar("T")
#: Light groups of the film that are not fixture groups.
DAYLIGHT_GROUPS = ("sun", "sky")
#: Those of a picture that stands in for the sky: what it lights, and how it is seen itself.
PICTURE_GROUPS = ("sun", "sky picture", "backdrop")
SURFACE_GROUP = "surfaces"
RESERVED_GROUPS = (*DAYLIGHT_GROUPS, *PICTURE_GROUPS[1:], SURFACE_GROUP)


def _group_name(value: str) -> str:
    if value.lower() in RESERVED_GROUPS:
        raise ValueError(f"{value!r} is the name of a light group of its own; choose another group name")
    return value


GroupName = Annotated[Name, AfterValidator(_group_name)]


class Site(Part):
    """Where the building stands."""

    place: Name = "Unnamed place"
    latitude_deg: float = Field(0.0, ge=-90, le=90)
    longitude_deg: float = Field(0.0, ge=-180, le=180)
    elevation_m: float = Field(0.0, ge=-500, le=9000)
    time_zone: str = "UTC"
    north_deg: float = Field(0.0, ge=-360, le=360, description="Azimuth of the model's +Y axis, clockwise from north")

    @field_validator("time_zone")
    @classmethod
    def _known_zone(cls, value: str) -> str:
        if value not in time_zones():
            raise ValueError(f"{value!r} is not an IANA time zone such as Europe/Zurich")
        return value


class Opening(Part):
    """A window or door that guides the sampling of daylight: centre, half edges and the direction into the room."""

    centre: Point
    half_u: Point
    half_v: Point
    inward: Point

    @model_validator(mode="after")
    def _has_a_size(self) -> Opening:
        (a, b, c), (x, y, z) = self.half_u, self.half_v
        area = sum(v * v for v in (b * z - c * y, c * x - a * z, a * y - b * x)) ** 0.5
        if area < 1e-6:
            raise ValueError("the opening has no area; its two half edges must span one")
        if sum(v * v for v in self.inward) < 1e-12:
            raise ValueError("the opening has no direction into the room")
        return self


class Stage(Part):
    """What holds for all that stands in front of the lens."""

    white_card: bool = Field(False, description="Every surface matt grey, to judge light alone")
    surfaces: dict[GivenName, Surface] = Field(
        default_factory=dict, description="Surfaces set by hand, by the name of the model's material"
    )
    apart: tuple[Apart, ...] = Field((), max_length=2000, description="Objects whose material has a name of its own")
    objects: dict[GivenName, ObjectFlags] = Field(default_factory=dict, description="Flags of objects, by name")
    boxed: tuple[GivenName, ...] = Field(
        (),
        max_length=2000,
        description="Layers whose things stand as boxes in the live picture, by key or name in models",
    )
    openings: tuple[Opening, ...] = Field((), description="Openings marked by hand, beside those of the models")
    find_openings: bool = Field(True, description="Look for openings in the glass of models that mark none")
    light_net: LightNet = LightNet()

    @model_validator(mode="after")
    def _names_apart(self) -> Stage:
        names = [a.name for a in self.apart]
        if len(set(names)) < len(names) or len({(a.object, a.material) for a in self.apart}) < len(names):
            raise ValueError("two surfaces that stand apart have the same name, or are of the same object; keep one")
        return self


class Sun(Part):
    """The sun of an occasion. With `true_to_place` its position follows place and time, else the two angles."""

    true_to_place: bool = True
    azimuth_deg: float = Field(180.0, ge=-360, le=720)
    altitude_deg: float = Field(35.0, ge=-30, le=90)
    size: float = Field(1.0, ge=0.1, le=40, description="Apparent diameter over the true one")
    level_stops: Stops = 0.0
    kelvin: Kelvin | None = Field(None, description="Colour set by hand, None for the true one")
    disc: bool = Field(True, description="The disc itself is seen by the lens")


class Occasion(Part):
    """When and in what weather."""

    key: Key
    name: Name
    when: datetime = Field(description="Civil date and time at the site, without zone")
    sun: Sun = Sun()
    sky: Sky = Sky()
    air: Air = Air()
    weather: Weather = Weather()
    planting: Planting = Planting()
    season: Literal["summer", "autumn", "winter"] = "summer"
    hidden_layers: tuple[GivenName, ...] = Field(
        (), description="Keys of layers; names as models have them, where the project lists no such layer"
    )
    levels: dict[GroupName, Percent] = Field(default_factory=dict, description="Level of each fixture group in percent")
    surfaces_stops: Stops = Field(0.0, description="Level of the surfaces that shine by themselves")
    colours: dict[Name, Kelvin] = Field(
        default_factory=dict, description="Colour temperature that a light group is given after it was traced"
    )

    @field_validator("when")
    @classmethod
    def _in_range(cls, value: datetime) -> datetime:
        if not FIRST_YEAR <= value.year <= LAST_YEAR:
            raise ValueError(
                f"the year {value.year} is outside the sun model's range; choose {FIRST_YEAR} to {LAST_YEAR}"
            )
        return value.replace(tzinfo=None, microsecond=0)

    def light_levels(self) -> dict[str, float]:
        """Factor of each light group: percent of fixture groups, stops of sun and sky."""
        levels = {name: percent / 100.0 for name, percent in self.levels.items()}
        sky, picture = self.sky.level_stops, self.sky.picture
        seen = sky + (picture.background_stops if picture else 0.0)
        return {
            **levels, SURFACE_GROUP: 2.0**self.surfaces_stops, "sun": 2.0**self.sun.level_stops, "sky": 2.0**sky, "sky picture": 2.0**sky, "backdrop": 2.0**seen
        }  # fmt: skip

    def daylight_groups(self) -> tuple[str, ...]:
        """Names of the light groups of sun and sky."""
        return PICTURE_GROUPS if self.sky.model == "picture" else DAYLIGHT_GROUPS

    def moment(self, site: Site) -> datetime:
        """The aware datetime at the site."""
        return self.when.replace(tzinfo=ZoneInfo(site.time_zone))


#: How the colour of a source follows its level (see core.lamps.dimming).
Dimming = Literal["steady", "incandescent", "warm"]
Body = Literal["none", "downlight", "pendant", "line", "table", "lantern", "washer", "bulb"]


class EmittingShape(Part):
    """What a fixture's light comes from near by; its profile holds from afar. A line lies along the fixture's Y; a mesh is
    the nearest object of the stage whose name begins so."""

    shape: Literal["point", "line", "rectangle", "disc", "sphere", "mesh"] = "point"
    width_m: float = Field(0.1, ge=0, le=20, description="Width along the fixture's X, or diameter")
    length_m: float = Field(0.1, ge=0, le=20, description="Length along the fixture's Y")
    object: str = Field("", max_length=200, description="How the name of the object begins, for a mesh")


class FixtureKind(Part):
    """A luminaire of the project. All fixtures of a kind follow it, but for what each sets for itself."""

    key: Key
    name: Name
    profile: Sha256
    body: Body = "none"
    kelvin: Kelvin = 3000.0
    mounting: Literal["ceiling", "wall", "table", "pole"] = "ceiling"
    lumens: float | None = Field(None, gt=0, le=10_000_000, description="Flux, None for the profile's own")
    duv: float = Field(0.0, ge=-0.05, le=0.05, description="Distance of the colour from the locus, above it positive")
    rgb: str | None = Field(None, pattern="^#[0-9a-fA-F]{6}$", description="Colour in sRGB, in place of a temperature")
    dimming: Dimming = Field("steady", description="How its colour follows its level")
    depreciation: float = Field(1.0, ge=0.05, le=1, description="Share of the flux left by age and dirt")
    emits_from: EmittingShape | None = Field(None, description="None for the luminous opening the profile states")
    seen: bool = Field(True, description="Its body is seen by lens and reflections")


class Fixture(Part):
    """One luminaire in its place. The profile's nadir points at `aim`; `turn_deg` turns it about that axis."""

    key: Key
    kind: Key
    group: GroupName = "Fixtures"
    position: Point
    aim: Point
    turn_deg: float = Field(0.0, ge=-360, le=360)
    lumens: float | None = Field(None, gt=0, le=10_000_000, description="Flux, None for the kind's own")
    percent: Percent = 100.0
    kelvin: Kelvin | None = Field(None, description="Colour temperature, None for the kind's own")
    on: bool = True
    beam: float = Field(
        0.0, ge=0, le=1, description="Air seen in the beam: scattering per metre, without fog elsewhere"
    )
    lights_only: tuple[GivenName, ...] = Field((), description="Names of the only objects it lights; none for all")

    @model_validator(mode="after")
    def _aims_somewhere(self) -> Fixture:
        if sum((a - b) ** 2 for a, b in zip(self.position, self.aim, strict=True)) < 1e-6:
            raise ValueError("the aim lies on the fixture itself; move the aim")
        return self


class Look(Part):
    """The finishing: treatments in the order they are applied."""

    key: Key = "plain"
    name: Name = "Plain"
    treatments: tuple[AnyTreatment, ...] = Field(at_first(), max_length=60)

    @property
    def files(self) -> frozenset[str]:
        """SHA-256 of the files that its treatments name: lookup tables."""
        return frozenset(t.file for t in self.treatments if isinstance(t, Table) and t.file)


class Scene(Part):
    """A setting of the lighting control: levels of fixture groups, recalled for any occasion."""

    key: Key
    name: Name
    levels: dict[GroupName, Percent] = Field(default_factory=dict, description="Groups not named are at 100 percent")
    sun_stops: Stops | None = Field(None, description="None leaves the sun as it is")
    sky_stops: Stops | None = Field(None, description="None leaves the sky as it is")
    surfaces_stops: Stops | None = Field(None, description="None leaves what shines by itself as it is")
    colours: dict[Name, Kelvin] | None = Field(
        None, description="Colours of light groups; None leaves them as they are"
    )


class Project(Part):
    """One design."""

    name: Name
    site: Site = Site()
    stage: Stage = Stage()
    placements: tuple[Placement, ...] = ()
    layers: tuple[Layer, ...] = ()
    views: tuple[View, ...] = ()
    occasions: tuple[Occasion, ...] = ()
    kinds: tuple[FixtureKind, ...] = ()
    fixtures: tuple[Fixture, ...] = ()
    looks: tuple[Look, ...] = (Look(),)
    scenes: tuple[Scene, ...] = ()
    cutouts: tuple[CutOut, ...] = Field((), max_length=2000)
    sequences: tuple[Sequence, ...] = Field((), max_length=200)

    def view(self, key: str) -> View:
        return find(self.views, key, "view")

    def occasion(self, key: str) -> Occasion:
        return find(self.occasions, key, "occasion")

    def kind(self, key: str) -> FixtureKind:
        return find(self.kinds, key, "fixture kind")

    def sequence(self, key: str) -> Sequence:
        return find(self.sequences, key, "sequence")

    def look(self, key: str) -> Look:
        return find(self.looks, key, "look")

    def look_for(self, view: View, occasion: Occasion) -> Look:
        """The look chosen for a cell of the wall, else the project's first."""
        chosen = view.look_at.get(occasion.key)
        return next((look for look in self.looks if look.key == chosen), self.looks[0] if self.looks else Look())

    def cutouts_at(self, view: str, occasion: str) -> tuple[CutOut, ...]:
        """The cut-outs in the picture of a view at an occasion."""
        return tuple(c for c in self.cutouts if c.stands_at(view, occasion))

    def groups(self) -> tuple[str, ...]:
        """Names of the fixture groups, in the order of their first fixture."""
        return tuple(dict.fromkeys(fixture.group for fixture in self.fixtures))

    def hidden_at(self, occasion: Occasion) -> frozenset[str]:
        """The layers that an occasion hides: keys of layers, and names in models where no layer of the project has them."""
        return self._layers(occasion.hidden_layers)

    def boxed(self) -> frozenset[str]:
        """The layers whose things stand as boxes while they are tried, named as `hidden_at` names them."""
        return self._layers(self.stage.boxed)

    def _layers(self, names: tuple[str, ...]) -> frozenset[str]:
        own = {layer.key for layer in self.layers}
        keys = {layer.in_models: layer.key for layer in self.layers if layer.in_models}
        return frozenset(name if name in own else keys.get(name, name) for name in names)

    @model_validator(mode="after")
    def _keys_are_unique(self) -> Project:
        for what in (
            "placements",
            "layers",
            "views",
            "occasions",
            "kinds",
            "fixtures",
            "looks",
            "scenes",
            "cutouts",
            "sequences",
        ):
            keys = [item.key for item in getattr(self, what)]
            twice = sorted({key for key in keys if keys.count(key) > 1}) if len(set(keys)) < len(keys) else []
            if twice:
                raise ValueError(f"{what}: the key {twice[0]!r} is used twice; give each its own")
        known = {kind.key for kind in self.kinds}
        for fixture in self.fixtures:
            if fixture.kind not in known:
                raise ValueError(f"fixture {fixture.key!r} is of the unknown kind {fixture.kind!r}")
        layers = {layer.key for layer in self.layers}
        for placement in self.placements:
            if placement.layer is not None and placement.layer not in layers:
                raise ValueError(f"{placement.name!r} stands on the unknown layer {placement.layer!r}")
        return self


def find(items: tuple[T, ...], key: str, what: str) -> T:
    """The item with a key or (for people) a name. Raises NotFoundError that lists the keys there are."""
    for item in items:
        if getattr(item, "key", None) == key or getattr(item, "name", None) == key:
            return item
    known = ", ".join(str(getattr(item, "key", "?")) for item in items) or "none yet"
    raise NotFoundError(f"there is no {what} {key!r}", what, f"Choose one of: {known}")
