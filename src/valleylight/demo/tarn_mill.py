"""Tarn Mill: the made-up project that ships with Valleylight."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from datetime import datetime

from valleylight.core.making.glb import Model, write_glb
from valleylight.core.project.air import Air, LightNet
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import (
    Fixture,
    FixtureKind,
    Layer,
    Lens,
    Look,
    Occasion,
    Placement,
    Project,
    Scene,
    Site,
    Stage,
    View,
)
from valleylight.core.project.keys import key_for
from valleylight.core.project.planting import Planting
from valleylight.core.project.sky import Horizon, Sky
from valleylight.core.project.weather import Rain, Snow, Weather
from valleylight.core.sky import catalogue
from valleylight.core.treatments.bloom import Bloom
from valleylight.core.treatments.contrast import Contrast
from valleylight.core.treatments.exposure import Exposure
from valleylight.core.treatments.saturation import Saturation
from valleylight.core.treatments.tone_curve import ToneCurve
from valleylight.core.treatments.white_balance import WhiteBalance
from valleylight.demo import building, furniture, landscape, planting, profiles, surfaces
from valleylight.demo.figures import figures
from valleylight.demo.sequences import sequences

NAME = "Tarn Mill, reading house"


def model_file() -> bytes:
    """The stage as GLB bytes; the same on every run."""
    model = Model(generator="Valleylight demo")
    surfaces.add_surfaces(model)
    building.build(model)
    furniture.build(model)
    landscape.build(model)
    planting.build(model)
    return write_glb(model)


def create(progress: Callable[[str], None] = lambda text: None) -> LoadedProject:
    """The whole demo project with its files in memory."""
    progress("Building the mill, the room and the valley")
    files = {}

    def keep(data: bytes) -> str:
        sha = hashlib.sha256(data).hexdigest()
        files[sha] = data
        return sha

    model = keep(model_file())
    progress("Measuring the invented luminaires")
    kinds = tuple(
        FixtureKind(key=lu.key, name=lu.name, profile=keep(profiles.profile_file(lu)), body=lu.body, kelvin=lu.kelvin,
                    mounting=lu.mounting, dimming="warm" if lu.key in WARM_DIMMING else "steady")  # type: ignore[arg-type]
        for lu in profiles.CATALOGUE
    )  # fmt: skip
    project = Project(
        name=NAME,
        site=Site(place="Tarn valley (invented)", latitude_deg=46.6, longitude_deg=9.84, elevation_m=1180,
                  time_zone="Europe/Zurich", north_deg=-50.0),
        stage=Stage(surfaces=surfaces.finer(), light_net=POND_NET),
        placements=(Placement(key="tarn-mill", name="tarn-mill.glb", asset=model),),
        layers=tuple(Layer(key=key_for(n, (), "layer"), name=n.capitalize(), in_models=n) for n in LAYERS),
        views=_views(), occasions=_occasions(), kinds=kinds, fixtures=_fixtures(), looks=_looks(),
        scenes=_scenes(),
        cutouts=figures(),
        sequences=sequences(),
    )  # fmt: skip
    return LoadedProject(project, files.__getitem__)


#: Layers of the model.
LAYERS = ("planting", "ground", "forest", "winter forest")
#: Luminaires whose light warms as they are dimmed.
WARM_DIMMING = ("globe-pendant", "table-lamp")


def _lens(ev: float, f_number: float = 8.0, iso: float = 100.0) -> Lens:
    """A lens for an exposure value, by the shutter; slow ones by more speed."""
    shutter = f_number**2 / 2**ev * 100 / iso
    return Lens(f_number=f_number, shutter_s=max(shutter, 1 / 64000), iso=iso)


#: Leaves as the date has them.
DATED = Planting(by_date=True)
#: Where the light that the pond gathers is followed.
POND_NET = LightNet(on=True, low=(11.2, -11.0, -1.9), high=(17.2, -5.6, -0.45), fineness_m=0.022, photons=1_500_000)
#: October's rain has just stopped; January's snow is two days old, with patches blown bare.
RAINED = Weather(rain=Rain(wet=0.9, puddles=0.85, hollow_mm=26))
SNOWED = Weather(snow=Snow(depth_cm=15, bare=0.05, patch_m=2.4, grain_mm=0.2))
JUNE, MIST, OCTOBER, WINTER, NIGHT = "june-morning", "september-mist", "october-overcast", "winter-dusk", "july-night"
#: Mist of the pond, that lies in the meadows and thins out at the height of the eaves.
LYING_MIST = Air(
    on=True, outdoors=True, free_path_m=42.0, base_height_m=0.2, fall_m=1.8, forward=0.85, back=0.3, back_share=0.06, colour=(0.995, 0.995, 0.995), unevenness=0.5,
    uneven_size_m=6.0,
)  # fmt: skip


def _views() -> tuple[View, ...]:
    def inside(june: float, mist: float, october: float, winter: float, night: float) -> dict[str, Lens]:
        return {
            JUNE: _lens(june), MIST: _lens(mist), OCTOBER: _lens(october), WINTER: _lens(winter, 5.6, 400), NIGHT: _lens(night, 5.6, 400)
        }  # fmt: skip

    looks = {
        JUNE: "sunlit-room",
        MIST: "overcast-room",
        OCTOBER: "overcast-room",
        WINTER: "lamplit-room",
        NIGHT: "lamplit-room",
    }
    outside = {JUNE: "bright-day", MIST: "misty", OCTOBER: "overcast", WINTER: "dusk", NIGHT: "dusk"}
    return (
        View(key="long-view", name="Reading room, long view", position=(0.75, 3.15, 1.5), target=(15.9, 4.05, 1.72),
             focal_mm=20, lens=_lens(10.5), lens_at=inside(10.0, 7.6, 7.4, 6.3, 6.0), look_at=looks),
        View(key="window-table", name="Window table", position=(9.6, 5.9, 1.4), target=(4.9, 0.4, 1.35), focal_mm=23,
             lens=_lens(10.8), lens_at=inside(10.1, 7.8, 7.7, 6.0, 5.7), look_at=looks),
        View(key="from-the-pond", name="Mill from the pond", position=(24.5, -18.2, 1.15), target=(7.6, 2.0, 3.5),
             focal_mm=27, lens=_lens(14), lens_at=inside(13.8, 12.4, 11.6, 4.4, 4.0), look_at=outside),
        View(key="pond-edge", name="Pond edge", position=(11.9, -6.0, 1.0), target=(15.4, -9.2, -0.75), focal_mm=26,
             lens=_lens(13), lens_at=inside(13.1, 12.1, 10.9, 3.4, 3.0), look_at=outside),
        View(key="from-the-lane", name="Wheel from the lane", position=(-12.6, -7.4, 1.6), target=(2.0, 3.2, 3.3),
             focal_mm=26, lens=_lens(13.8), lens_at=inside(13.7, 12.3, 11.4, 4.0, 3.8), look_at=outside),
    )  # fmt: skip


def _occasions() -> tuple[Occasion, ...]:
    open_wood, snowy_wood = ("winter-forest",), ("forest",)
    off = dict.fromkeys(
        ("Pendants", "Shelf lines", "Shelf scallops", "Downlights", "Stair wall", "Reading lamps", "Lane lanterns"), 0.0
    )
    return (
        Occasion(key=JUNE, name="June morning", when=datetime(2026, 6, 21, 9, 20),
                 sky=_sky("scattered", 2.4, east_m=-400.0, north_m=-3200.0), hidden_layers=open_wood, planting=DATED, levels=off),
        Occasion(key=MIST, name="September, morning mist", when=datetime(2026, 9, 19, 9, 25), sky=_sky("clear", 2.4), air=LYING_MIST,
                 hidden_layers=open_wood, planting=DATED, levels=off),
        Occasion(key=OCTOBER, name="October, after rain", when=datetime(2026, 10, 17, 14, 20), sky=_sky("overcast", 3.2),
                 season="autumn", hidden_layers=open_wood, weather=RAINED, planting=Planting(by_date=True, early_days=-16), levels={**off, "Pendants": 60.0, "Shelf lines": 70.0, "Shelf scallops": 60.0, "Reading lamps": 80.0}),
        Occasion(key=WINTER, name="Winter dusk, snow", when=datetime(2026, 1, 12, 17, 20),
                 sky=_sky("sunset-banks", 2.2, ground=(0.75, 0.77, 0.80)), season="winter", hidden_layers=snowy_wood, weather=SNOWED, planting=DATED,
                 levels=dict.fromkeys(off, 100.0)),
        Occasion(key=NIGHT, name="July night", when=datetime(2026, 7, 24, 21, 36), sky=_sky("streaks", 2.4),
                 hidden_layers=open_wood, planting=DATED, levels={**dict.fromkeys(off, 100.0), "Downlights": 50.0}),
    )  # fmt: skip


def _sky(key: str, turbidity: float, ground: tuple[float, float, float] = (0.14, 0.16, 0.09), **drift: float) -> Sky:
    """A sky of the catalogue over the valley."""
    entry = catalogue.find(key)
    assert entry is not None
    clouds = entry.sky.clouds.model_copy(update={"name": entry.name, **drift})
    return entry.sky.model_copy(
        update={"turbidity": turbidity, "clouds": clouds, "horizon": Horizon(ground=ground, eye_m=12.0)}
    )


def _fixtures() -> tuple[Fixture, ...]:
    made: list[Fixture] = []

    def add(
        kind: str, group: str, position: tuple[float, float, float], aim: tuple[float, float, float], turn: float = 0.0
    ) -> None:
        number = sum(f.kind == kind for f in made) + 1
        made.append(Fixture(key=f"{kind}-{number}", kind=kind, group=group, position=position, aim=aim, turn_deg=turn))

    for x, y in furniture.TABLES:
        for dx in (-0.75, 0.75):
            add("globe-pendant", "Pendants", (x + dx, y, 2.02), (x + dx, y, 0.0))
        add("table-lamp", "Reading lamps", (x + 0.95, y + 0.1, 1.148), (x + 0.95, y + 0.1, 0.0))
    for k in range(furniture.BAYS):
        x = furniture.SHELF_X0 + (k + 0.5) * furniture.BAY
        add("shelf-line", "Shelf lines", (x, 6.47, 2.835), (x, 6.47, 0.0))
    for k in range(0, furniture.BAYS - 1, 2):  # 0.3 m from the wall, so that each cone becomes a scallop on it
        x = furniture.SHELF_X0 + (k + 1.0) * furniture.BAY
        add("downlight-medium", "Shelf scallops", (x, building.WIDTH - 0.3, 4.24), (x, building.WIDTH - 0.3, 0.0))
    for x in (3.42, 6.47, 9.52):
        add("downlight-medium", "Downlights", (x, 4.6, 4.27), (x, 4.6, 0.0))
        add("downlight-wide", "Downlights", (x, 1.2, 4.27), (x, 1.2, 0.0))
    add("downlight-narrow", "Downlights", (12.57, 1.15, 4.27), (12.45, 1.1, 0.4))
    for y in (2.0, 3.5, 5.0):
        add("wall-washer", "Stair wall", (14.35, y, 4.2), (14.35, y, 0.0), -90.0)
    for x, y in ((-5.2, -12.0), (-9.9, 3.4), (-5.2, 9.5), (-9.9, 18.0), (-5.2, 29.0)):
        z = float(landscape.ground_height(x, y)) + 3.1
        add("lane-lantern", "Lane lanterns", (x, y, z), (x, y, z - 3.0))
    for x in (-0.75, 17.9):
        z = 2.75
        add("lane-lantern", "Lane lanterns", (x, -5.0, z), (x, -5.0, 0.0))
    return tuple(made)


def _scenes() -> tuple[Scene, ...]:
    """Settings of the house's lighting control."""

    def scene(key: str, name: str, **levels: float) -> Scene:
        groups = (
            "Pendants",
            "Shelf lines",
            "Shelf scallops",
            "Downlights",
            "Stair wall",
            "Reading lamps",
            "Lane lanterns",
        )
        return Scene(key=key, name=name, levels={g: levels.get(g.lower().replace(" ", "_"), 0.0) for g in groups})

    return (
        scene("fill-by-day", "Fill by day", shelf_lines=70.0, shelf_scallops=60.0, pendants=30.0),
        scene("reading", "Reading", pendants=100.0, shelf_lines=100.0, shelf_scallops=70.0, reading_lamps=100.0, downlights=60.0,
              stair_wall=80.0, lane_lanterns=100.0),
        scene("closing", "Closing", pendants=12.0, shelf_lines=25.0, downlights=15.0, stair_wall=30.0, lane_lanterns=100.0),
        scene("festive", "Festive", pendants=55.0, shelf_lines=60.0, shelf_scallops=100.0, reading_lamps=40.0, stair_wall=100.0,
              lane_lanterns=100.0),
    )  # fmt: skip


def _looks() -> tuple[Look, ...]:
    def look(
        key: str,
        name: str,
        kelvin: float,
        stops: float,
        contrast: float,
        saturation: float,
        bloom: float,
        tint: float = 0.0,
    ) -> Look:
        return Look(key=key, name=name, treatments=(
            Bloom(amount=bloom, radius_percent=3.0, on=bloom > 0), Exposure(stops=stops), WhiteBalance(kelvin=kelvin, tint=tint),
            ToneCurve(shoulder=0.8, toe=0.12, stops_above=4.5), Contrast(amount=contrast), Saturation(amount=saturation),
        ))  # fmt: skip

    return (
        look("sunlit-room", "Sunlit room", 6000, 0.3, 0.12, 0.02, 0.05),
        look("bright-day", "Bright day", 5700, 0.2, 0.16, 0.04, 0.03),
        look("misty", "Misty morning", 5300, 0.1, 0.06, -0.3, 0.05),
        look("overcast", "Overcast", 5600, 0.2, 0.10, -0.04, 0.03),
        look("overcast-room", "Overcast, room", 4900, 0.3, 0.10, 0.0, 0.04),
        look("lamplit-room", "Lamplit room", 3500, 0.0, 0.12, 0.02, 0.06),
        look("dusk", "Dusk", 4300, 0.2, 0.12, 0.04, 0.06),
    )
