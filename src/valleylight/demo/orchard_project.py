"""Orchard House as it stands at the end of its road: brought in, dressed, furnished, planted, with land about it."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from typing import Any

from valleylight.core.lamps.within import bulb_profile, place_of_bulb
from valleylight.core.objects import family_of, made
from valleylight.core.photometry import write_lm63
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.build import build, name_of
from valleylight.core.project.description import (
    Fixture,
    FixtureKind,
    Layer,
    Lens,
    Look,
    Made,
    Occasion,
    Placement,
    Site,
    Stage,
    View,
)
from valleylight.core.project.keys import free_name, key_for
from valleylight.core.project.repeats import Strewn
from valleylight.core.project.sky import Sky
from valleylight.core.stage.arrival import arrive, placed, sheet_of
from valleylight.core.stage.catalogue import CATALOGUE
from valleylight.demo.orchard_house import NAME as NAME
from valleylight.demo.orchard_house import make_ifc

#: Surfaces of the catalogue by the materials of the file.
DRESSED = {
    "Outer leaf": "Brick, rust red", "Inner leaf": "Smooth plaster", "Ceiling": "Matt paint", "Floor": "Oak boards",
    "Roof covering": "Split slate", "Paving": "Slate paving", "Ground": "Mown grass", "Frame": "Satin paint, dark green",
}  # fmt: skip
AFTERNOON, MORNING = "june-afternoon", "october-morning"
#: Families with their numbers, where they stand and how they are turned.
_FURNITURE: tuple[tuple[str, dict[str, float], tuple[float, float, float], float], ...] = (
    ("table", {"length": 2.0}, (6.9, 2.2, 0.0), 0.0), ("chair", {}, (6.3, 1.45, 0.0), 180.0), ("chair", {}, (7.5, 1.45, 0.0), 180.0),
    ("chair", {}, (6.3, 2.95, 0.0), 0.0), ("chair", {}, (7.55, 3.0, 0.0), 12.0), ("vase", {}, (6.9, 2.2, 0.74), 0.0),
    ("crockery", {}, (6.35, 2.1, 0.74), 20.0), ("books", {}, (7.5, 2.35, 0.74), 35.0), ("pendant", {"drop": 1.0, "diameter": 0.42}, (6.9, 2.2, 2.7), 0.0),
    ("rug", {}, (2.2, 2.6, 0.0), 90.0), ("sofa", {"length": 2.0}, (0.62, 2.6, 0.0), -90.0), ("round-table", {"diameter": 0.7, "height": 0.45}, (2.0, 2.6, 0.01), 0.0),
    ("armchair", {}, (3.3, 1.4, 0.0), 150.0), ("floor-lamp", {"lumens": 700.0}, (0.55, 1.05, 0.0), 0.0), ("shelves", {"width": 1.4}, (9.35, 5.0, 0.0), 90.0),
    ("bench", {"length": 1.6}, (4.6, -0.55, -0.02), 180.0),
)  # fmt: skip


class _Set:
    """The stage as it is furnished, piece by piece."""

    def __init__(self, first: Placement) -> None:
        self.placements, self.files = [first], list[bytes]()
        self.kinds, self.fixtures = list[FixtureKind](), list[Fixture]()
        self._bulb = write_lm63(bulb_profile()).encode()

    def put(
        self, key: str, numbers: dict[str, float], at: tuple[float, float, float], turn: float = 0.0, **more: Any
    ) -> str:
        """Place a member of a family; its name."""
        family = family_of(key)
        data = made(family, numbers)
        self.files.append(data)
        names = {p.name for p in self.placements}
        name = family.name if family.name not in names else free_name(family.name, names)
        thing = Placement(
            key=key_for(name, {p.key for p in self.placements}, "thing"), name=name, asset=name_of(data), position=at, turn_deg=turn,
            made=Made(family=key, parameters=family.values(numbers)), **more,
        )  # fmt: skip
        if family.lamp is not None:
            thing = self._lit(thing, family.lamp(family.values(numbers)))
        self.placements.append(thing)
        return name

    def _lit(self, thing: Placement, held_at: tuple[float, float, float]) -> Placement:
        if not self.kinds:
            self.files.append(self._bulb)
            self.kinds.append(FixtureKind(
                key="opal-bulb", name="Opal bulb", profile=name_of(self._bulb), body="bulb", kelvin=2700, mounting="table"
            ))  # fmt: skip
        assert thing.made is not None
        position, aim = place_of_bulb(thing, held_at)
        self.fixtures.append(Fixture(
            key=thing.key, kind="opal-bulb", group="Lamps", position=position, aim=aim, lumens=thing.made.parameters["lumens"]
        ))  # fmt: skip
        return thing.model_copy(update={"lamp": thing.key})


def create(progress: Callable[[str], None] = lambda text: None) -> LoadedProject:
    """The whole project with its files in memory."""
    progress("Building the orchard and its house")
    arrived = arrive(make_ifc(), "orchard-house.ifc")
    sheet = sheet_of(arrived.stage, "orchard-house.ifc", arrived.metres)
    house = placed(sheet, "house", name_of(arrived.glb), sheet.unit.metres, sheet.up.up, 0.0, False)
    rooms = _Set(house)
    for family, numbers, at, turn in _FURNITURE:
        rooms.put(family, numbers, at, turn)
    summer, autumn = "summer", "autumn"
    for season, layer in enumerate((summer, autumn)):
        outline = ((-10.0, -17.0), (24.0, -17.0), (24.0, -7.5), (-10.0, -7.5))
        for seed, density in ((3, 0.012), (8, 0.012)):
            rooms.put(
                "apple", {"height": 4.2 + 0.1 * seed, "season": season, "seed": seed}, (0.0, 0.0, 0.0), layer=layer,
                repeat=Strewn(outline=outline, density_m2=density, spacing_m=4.0, seed=seed, size=(0.85, 1.15)),
            )  # fmt: skip
        before = ((4.0, -14.0), (22.0, -14.0), (22.0, -3.2), (4.0, -3.2))
        rooms.put(
            "grass", {"height": 0.07, "season": season}, (0.0, 0.0, 0.0), layer=layer,
            repeat=Strewn(outline=before, density_m2=1.6, spacing_m=0.3, seed=5, on=("Plot",), off=("Terrace",), off_m=0.1),
        )  # fmt: skip
        rooms.put("hedge", {"length": 6.0, "height": 1.4, "season": season}, (-5.5, 2.0, -0.25), 90.0, layer=layer)
        rooms.put(
            "distant-planting",
            {"distance": 110.0, "hills": 26.0, "season": season, "seed": 4},
            (5.0, 3.0, -0.6),
            layer=layer,
        )
    rooms.put("far-ground", {"free": 50.0, "swell": 10.0}, (5.0, 3.0, -0.3))
    catalogue = {entry.name: entry.surface for entry in CATALOGUE}
    site = sheet.site
    assert site is not None and site.latitude_deg is not None and site.longitude_deg is not None
    return build(
        files=[arrived.glb, *rooms.files], name=NAME, placements=tuple(rooms.placements), kinds=tuple(rooms.kinds),
        fixtures=tuple(rooms.fixtures), stage=Stage(surfaces={m: catalogue[s] for m, s in DRESSED.items()}),
        layers=(
            *(Layer(key=key_for(n, (), "layer"), name=n[:80], in_models=n) for n in sheet.layers), Layer(key=summer, name="Summer planting"),
            Layer(key=autumn, name="Autumn planting"),
        ),
        site=Site(
            place=site.place, latitude_deg=site.latitude_deg, longitude_deg=site.longitude_deg, elevation_m=site.elevation_m or 0.0,
            time_zone="Europe/London", north_deg=round(site.north_deg or 0.0, 3),
        ),
        views=_views(), occasions=_occasions(summer, autumn), looks=(Look(key="plain", name="Plain"),),
    )  # fmt: skip


def _lens(ev: float, f_number: float = 8.0, iso: float = 100.0) -> Lens:
    return Lens(f_number=f_number, shutter_s=f_number**2 / 2**ev * 100 / iso, iso=iso)


def _views() -> tuple[View, ...]:
    return (
        View(key="from-the-orchard", name="From the orchard", position=(19.5, -10.5, 1.55), target=(4.8, 2.4, 2.35), focal_mm=30,
             lens=_lens(12.6), lens_at={AFTERNOON: _lens(13.4), MORNING: _lens(13.0)}),
        View(key="living-room", name="Living room", position=(9.2, 5.9, 1.45), target=(2.6, 0.9, 1.05), focal_mm=20,
             lens=_lens(9.0), lens_at={AFTERNOON: _lens(8.7), MORNING: _lens(9.7)}),
    )  # fmt: skip


def _occasions(summer: str, autumn: str) -> tuple[Occasion, ...]:
    return (
        Occasion(key=AFTERNOON, name="June afternoon", when=datetime(2026, 6, 21, 15, 50), sky=Sky(), hidden_layers=(autumn,),
                 levels={"Lamps": 100.0}),
        Occasion(key=MORNING, name="October morning", when=datetime(2026, 10, 12, 10, 10), sky=Sky(), season="autumn",
                 hidden_layers=(summer,), levels={"Lamps": 60.0}),
    )  # fmt: skip
