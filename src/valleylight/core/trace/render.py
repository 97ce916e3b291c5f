"""Trace a project's view at an occasion into a film."""

from __future__ import annotations

import hashlib
import os
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.film.film import Film
from valleylight.core.finish.exposure import saturation_luminance
from valleylight.core.lamps.bodies import MATERIALS as BODY_MATERIALS
from valleylight.core.lamps.bodies import build_bodies
from valleylight.core.lamps.compile import Lamps, compile_lamps, lit_records, standing_lamps, tinting_levels
from valleylight.core.lamps.emitting import objects_of
from valleylight.core.photometry import Photometry
from valleylight.core.photometry import read as read_photometry
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import SURFACE_GROUP, Occasion, Opening, Project, View
from valleylight.core.project.sky import PictureSky
from valleylight.core.sky.picture import Surroundings, read_picture
from valleylight.core.stage import Material, StageData, merge, read_glb
from valleylight.core.trace import daylight, lamplight, layout, path, rays
from valleylight.core.trace.camera import camera_array
from valleylight.core.trace.geometry import Geometry, StageGeometry, build_geometry, with_bodies
from valleylight.core.trace.glass import lens_in
from valleylight.core.trace.lighting import DRAFT_ROWS, FINEST_ROWS, SKETCH_ROWS, Daylight, daylight_of
from valleylight.core.trace.materials import dressed, emitters, kind_of, material_table, pictures
from valleylight.core.trace.net import net_arrays, sees
from valleylight.core.trace.openings import find_openings
from valleylight.core.trace.origin import described_about, frame_about, origin_of, stage_about
from valleylight.core.trace.rooms import SELDOM, is_shut, with_rooms
from valleylight.core.trace.scene import (
    NO_NET,
    LampGrid,
    SceneArrays,
    air_array,
    lamp_grid,
    opening_array,
    sky_arrays,
    sun_array,
)
from valleylight.core.trace.sunlit import NOWHERE, sunlit_places

TILE = 32
#: Where a trace may be stopped, it is asked for after so many rows of a tile and every sample.
STOP_ROWS = 16
BATCH = 4
LARGEST_SIDE = 8192
KEPT_STAGES, KEPT_GEOMETRIES = 2, 4
#: Measuring points start their rays so far off, and in small stages by this share of the stage.
MOST_LIFT_M, LIFT_SHARE = 1e-3, 1e-4
#: Below so many samples nothing is known of a pixel's noise.
LEAST_SAMPLES = 8


@dataclass(frozen=True)
class Quality:
    """How far a picture is taken. `clamp_stops`: single contributions after a rough surface are held to so many stops above the
    lens's saturation, against fireflies (0 leaves them as they are), and what exceeds that is spread over the surfaces about; `soften`: roughness (alpha) given to mirrors seen
    after a rough bounce, against caustic noise; `net_fineness` divides the radius of
    gathered photons (0 gathers none and lets light straight through water); `splits`: branches of a path at its first matt
    surface; `sunlit`: rays of the sun sent into a room for the places its surfaces ask (0: none, see sunlit.py); `masks`:
    object and material masks are kept; `noise`: a tile is left alone once it has fallen below this (0: never, see `noisy_tiles`);
    `sky_rows`: height of the sky as it is seen."""

    name: str
    width: int
    samples: int
    max_bounces: int = 8
    clamp_stops: float = 4.5
    soften: float = 0.15
    net_fineness: float = 1.0
    splits: int = 1
    sunlit: int = 32768
    masks: bool = False
    noise: float = 0.0
    sky_rows: int = 512


SKETCH = Quality("sketch", 480, 2, max_bounces=16, clamp_stops=3.0, net_fineness=0.0, splits=2, sunlit=2048, sky_rows=SKETCH_ROWS)
#: What follows a drag: as little as still reads.
DRAFT = replace(SKETCH, name="draft", sunlit=1024, sky_rows=DRAFT_ROWS)
PROOF = Quality("proof", 1280, 10, max_bounces=32, splits=2, sunlit=8192, masks=True, sky_rows=768)
PRESS = Quality(
    "press",
    1920,
    96,
    max_bounces=64,
    clamp_stops=6.5,
    soften=0.1,
    net_fineness=2.5,
    splits=2,
    masks=True,
    noise=0.012,
    sky_rows=FINEST_ROWS,
)
QUALITIES = {q.name: q for q in (SKETCH, PROOF, PRESS)}
#: Unbiased: for checks against closed forms.
TRUE = Quality("true", 0, 0, max_bounces=64, clamp_stops=0.0, soften=0.0)


@dataclass(frozen=True)
class Scene:
    """A view at an occasion, ready to trace. Keeps alive what the kernels point at.

    All that kernels read is given about `origin` (3,), the stage's own, in metres of the model; see origin.py."""

    arrays: SceneArrays
    camera: NDArray[np.float64]
    settings: NDArray[np.float64]
    group_names: tuple[str, ...]
    daylight: Daylight
    lamps: Lamps
    geometry: Geometry
    materials: tuple[Material, ...]
    origin: NDArray[np.float64]


class Compiler:
    """Compiles project descriptions to scenes and keeps the costly parts by the hash of what they depend on."""

    def __init__(self) -> None:
        self._stages: OrderedDict[Any, StageData] = OrderedDict()
        self._stages_about: OrderedDict[Any, tuple[NDArray[np.float64], StageData]] = OrderedDict()
        self._geometries: OrderedDict[Any, Geometry] = OrderedDict()
        self._profiles: dict[str, Photometry] = {}
        self._lamps: OrderedDict[Any, tuple[Lamps, LampGrid]] = OrderedDict()
        self._pictures: OrderedDict[Any, dict[str, object]] = OrderedDict()
        self._stages_built: OrderedDict[Any, StageGeometry] = OrderedDict()
        self._openings: OrderedDict[Any, NDArray[np.float64]] = OrderedDict()
        self._emitters: OrderedDict[Any, tuple[NDArray[np.float32], NDArray[np.int64], NDArray[np.float64], float]] = OrderedDict()
        self._surroundings: OrderedDict[Any, Surroundings] = OrderedDict()
        self._nets: OrderedDict[Any, dict[str, object]] = OrderedDict()

    def stage(self, project: LoadedProject) -> StageData:
        """The imported stage of a project."""
        models = project.description.stage.models
        key = tuple(m.asset for m in models)
        return _kept(
            self._stages, key, KEPT_STAGES, lambda: merge([read_glb(project.asset(m.asset), m.name) for m in models])
            if models else StageData(),
        )  # fmt: skip

    def has_read(self, project: LoadedProject) -> bool:
        """Whether the models of a project have been read: the first reading of large ones takes seconds."""
        models = project.description.stage.models
        return not models or tuple(m.asset for m in models) in self._stages

    def profile(self, project: LoadedProject, sha256: str) -> Photometry:
        """A measured profile by the SHA-256 of its file."""
        if sha256 not in self._profiles:
            self._profiles[sha256] = read_photometry(project.asset(sha256))
        return self._profiles[sha256]

    def picture(self, project: LoadedProject, sky: PictureSky) -> Surroundings:
        """A picture of surroundings, read once."""
        return _kept(
            self._surroundings,
            sky.asset,
            KEPT_STAGES,
            lambda: read_picture(project.asset(sky.asset), sky.name or "picture"),
        )

    def scene(
        self,
        project: LoadedProject,
        view: View,
        occasion: Occasion,
        width: int,
        height: int,
        seed: int,
        quality: Quality,
    ) -> Scene:
        """Everything a trace of the view needs. Raises InputError for sizes outside 8 to 8192."""
        if not (8 <= width <= LARGEST_SIDE and 8 <= height <= LARGEST_SIDE):
            raise InputError(
                f"a picture of {width} x {height} is outside the range", "size", f"Choose 8 to {LARGEST_SIDE} pixels"
            )
        stage = self.stage(project)
        models = tuple(m.asset for m in project.description.stage.models) or id(stage)
        origin, stage = self._about_origin(project, view, stage, models)
        description, view, occasion = described_about(project.description, view, occasion, origin)
        lit_groups = {f.group for f in description.fixtures if f.on and f.percent > 0}
        shut = frozenset(g for g in description.groups() if occasion.levels.get(g, 100.0) <= 0 or g not in lit_groups)
        open_groups = tuple(g for g in description.groups() if g not in shut)
        wanted = description.stage
        materials = dressed(stage.materials or (Material(),), wanted.surfaces, wanted.white_card)
        emits = (SURFACE_GROUP,) if any(m.emits for m in materials) else ()
        daylight_groups = occasion.daylight_groups()
        names = (*daylight_groups, *emits, *open_groups)
        numbers = {name: k for k, name in enumerate(names)}
        levels = tinting_levels(description, occasion)
        lamp_key = digest(description.fixtures, description.kinds, sorted(shut), names, sorted(levels.items()))

        def make_lamps() -> tuple[Lamps, LampGrid]:
            made = compile_lamps(description, lambda sha: self.profile(project, sha), numbers, shut, levels, lambda name: objects_of(stage, name))
            before = next(reversed(self._lamps.values()), None)
            return made, lamp_grid(made.records, made.profiles, before[1] if before else None)

        lamps, grid = _kept(self._lamps, lamp_key, 8, make_lamps)
        hidden = frozenset(occasion.hidden_layers)
        # Bodies stand whether they are lit or not: only moving a fixture makes the uppermost ray structure anew.
        stand = digest(
            [(f.kind, f.position, f.aim, f.turn_deg) for f in description.fixtures],
            [(k.key, k.profile, k.body, k.seen, k.emits_from) for k in description.kinds],
        )
        # A white card keeps the shapes: nothing but colours changes, and no ray structure is built anew.
        shapes = dressed(stage.materials or (Material(),), wanted.surfaces, False) if wanted.white_card else materials
        stage_key = (models, origin.tobytes(), tuple(m.structure for m in shapes), digest(sorted(wanted.objects.items())), hidden)
        geometry_key = (*stage_key, stand)

        def make_geometry() -> Geometry:
            whole = _kept(
                self._stages_built, stage_key, KEPT_GEOMETRIES, lambda: build_geometry(stage, shapes, hidden, wanted.objects)
            )
            lamps_standing = standing_lamps(description, lambda sha: self.profile(project, sha))
            return with_bodies(whole, build_bodies(lamps_standing), len(materials))

        geometry = _kept(self._geometries, geometry_key, KEPT_GEOMETRIES, make_geometry)
        day = daylight_of(description.site, occasion, quality.sky_rows, lambda p: self.picture(project, p))
        sky = sky_arrays(day.sky)
        sky["cloud_frame"] = frame_about(day.sky.shadow_frame, origin)
        table = material_table((*materials, *BODY_MATERIALS, CARD))
        triangles: NDArray[np.float32] = geometry.arrays["triangles"]  # type: ignore[assignment]
        lit, lit_triangle, lit_cdf, emitted_total = _kept(
            self._emitters, (stage_key, table.tobytes()), KEPT_GEOMETRIES, lambda: emitters(triangles[: geometry.world], table)
        )
        only, inclusion = inclusion_lists(lamps, geometry.objects)
        records = lamps.records
        if only.any():
            records = records.copy()
            records[:, lamplight.INCLUSION] = only
        openings = self._openings_of(description, stage, geometry, geometry_key, materials)
        arrays = SceneArrays(
            **geometry.arrays,  # type: ignore[arg-type]
            **sky,  # type: ignore[arg-type]
            **_kept(self._pictures, models, KEPT_STAGES, lambda: pictures(stage)),
            materials=table,
            emitters=lit,
            emitter_triangle=lit_triangle,
            emitter_cdf=lit_cdf,
            sun=sun_array(day.direction, day.radius_deg, day.sun_rgb_lx),
            openings=openings,
            sun_ways=daylight.ways_of_sun(openings, day.direction),
            lamps=records,
            lamp_of=lit_records(description, lamps),
            profiles=lamps.profiles,
            lamp_points=lamps.points,
            inclusion=inclusion,
            beam_lamps=np.flatnonzero(lamps.records[:, lamplight.BEAM] > 0).astype(np.int64),
            air=air_array(occasion.air, geometry.low, geometry.high),
            **grid.arrays,  # type: ignore[arg-type]
            **NO_NET,  # type: ignore[arg-type]
            **NOWHERE,  # type: ignore[arg-type]
        )
        lens = view.lens_for(occasion.key)
        settings = np.zeros(layout.SETTINGS_WIDTH)
        settings[layout.MAX_BOUNCES] = quality.max_bounces
        if quality.clamp_stops > 0:
            settings[layout.CLAMP] = saturation_luminance(lens) * 2.0**quality.clamp_stops
        settings[layout.SEED] = seed & 0xFFFFFFFF
        settings[layout.GROUP_SUN], settings[layout.GROUP_SKY] = 0, 1
        settings[layout.GROUP_BACKDROP] = len(daylight_groups) - 1
        settings[layout.GROUP_SURFACES] = len(daylight_groups)
        settings[layout.SUN_ON], settings[layout.SKY_ON] = float(day.sun_up), 1.0
        settings[layout.EMITTED_TOTAL] = emitted_total
        settings[layout.SOFTEN] = quality.soften
        settings[layout.SPLITS] = quality.splits
        settings[layout.LIFT] = min(MOST_LIFT_M, LIFT_SHARE * float((geometry.high - geometry.low).max()))
        settings[layout.ZERO : layout.ZERO + 3] = -origin
        settings[layout.FRAME_HEIGHT] = height
        settings[layout.AIR_ON] = float(occasion.air.on)
        settings[layout.BEAMS] = len(arrays.beam_lamps)
        settings[layout.SKY_LUX] = day.dome.horizontal_illuminance_lx
        settings[layout.DISC_ON] = float(occasion.sun.disc)
        by_picture = occasion.sky.picture if occasion.sky.model == "picture" else None
        settings[layout.HAZE_ON] = float(occasion.sky.haze and by_picture is None)
        if by_picture is not None and by_picture.projected:
            settings[layout.PROJECT_HEIGHT] = by_picture.height_m
            settings[layout.PROJECT_RADIUS] = by_picture.radius_m
        camera = camera_array(view, lens.f_number, width / height)
        settings[layout.DOME_SHARE], settings[layout.SELDOM] = daylight.DOME_SHARE, 1.0
        settings[layout.LENS_IN] = lens_in(arrays, settings, camera)
        indoors = is_shut(arrays, settings, camera)
        if indoors:
            settings[layout.DOME_SHARE], settings[layout.SELDOM] = daylight.DOME_SHARE_SHUT, SELDOM
        gathers = wanted.light_net.on and len(geometry.casters) > 0 and quality.net_fineness > 0
        if gathers and sees(arrays, camera, wanted.light_net):
            net_key = (
                geometry_key, digest(wanted.surfaces, wanted.light_net, description.site, occasion.when, occasion.sun,
                                     occasion.sky, occasion.air), quality.net_fineness, seed,
            )  # fmt: skip
            net = _kept(
                self._nets, net_key, 2,
                lambda: net_arrays(
                    arrays._replace(sun=_under_clouds(arrays.sun, day.sky.sun_share)), settings, wanted.light_net, geometry.casters, quality.net_fineness, seed, os.cpu_count() or 1
                ),
            )  # fmt: skip
            arrays = arrays._replace(**net)
            settings[layout.NET_ON] = float(net is not NO_NET)
        if indoors and day.sun_up and not (day.by_moon or occasion.air.on or settings[layout.NET_ON]):
            places, settings[layout.SUNLIT_DENSITY] = sunlit_places(arrays, settings, quality.sunlit)
            arrays = arrays._replace(**places)  # type: ignore[arg-type]
            if len(arrays.sunlit):
                settings[layout.SPLITS] = 1  # a bounce is calmer then, and a second would cost more than it brings
        return Scene(arrays, camera, settings, names, day, lamps, geometry, (*materials, *BODY_MATERIALS, CARD), origin)

    def _about_origin(
        self, project: LoadedProject, view: View, stage: StageData, models: object
    ) -> tuple[NDArray[np.float64], StageData]:
        """The stage's own origin, and the stage about it."""

        def make() -> tuple[NDArray[np.float64], StageData]:
            origin = origin_of(stage, project.description, view)
            return origin, stage_about(stage, origin)

        return _kept(self._stages_about, models, KEPT_STAGES, make) if stage.placements else make()  # type: ignore[no-any-return]

    def _openings_of(
        self, description: Project, stage: StageData, geometry: Geometry, key: object, materials: tuple[Material, ...]
    ) -> NDArray[np.float64]:
        """Openings the models mark and the artist adds; where there are none, those their glass shows; with their rooms."""
        marked = (*stage.openings, *description.stage.openings)

        def find() -> tuple[Opening, ...]:
            triangles: NDArray[np.float32] = geometry.arrays["triangles"]  # type: ignore[assignment]
            world = triangles[: geometry.world]
            pane = np.array([kind_of(m) in (layout.PANE, layout.FROSTED) for m in materials])
            return find_openings(geometry.scene.handle, world[pane[world[:, layout.TRIANGLE_MATERIAL].astype(int)]])

        def make() -> NDArray[np.float64]:
            found = marked if marked or not description.stage.find_openings else find()
            return with_rooms(opening_array(found), geometry.scene.handle)

        return _kept(self._openings, (key, digest(marked, description.stage.find_openings)), KEPT_GEOMETRIES, make)


#: The white matt card of a light meter; the last material of every scene.
CARD = Material(name="meter", base=(1.0, 1.0, 1.0), roughness=1.0, specular=0.0)


def _under_clouds(sun: NDArray[np.float64], share: float) -> NDArray[np.float64]:
    """The sun's record with the share of its light that reaches the site."""
    dimmed = sun.copy()
    dimmed[4:7] *= share
    return dimmed


def inclusion_lists(lamps: Lamps, objects: tuple[str, ...]) -> tuple[NDArray[np.float32], NDArray[np.uint8]]:
    """For each fixture the row of its list in the second table (S, O), 0 for none; 1 there means the object is lit."""
    rows = [np.zeros(len(objects), np.uint8)]
    only = np.zeros(len(lamps.fixtures), np.float32)
    known: dict[tuple[str, ...], int] = {}
    for k, fixture in enumerate(lamps.fixtures):
        if fixture.lights_only:
            if fixture.lights_only not in known:
                known[fixture.lights_only] = len(rows)
                rows.append(np.isin(objects, fixture.lights_only).astype(np.uint8))
            only[k] = known[fixture.lights_only]
    return only, np.stack(rows)


def new_film(scene: Scene, view: View, occasion: Occasion, width: int, height: int, masks: bool = False) -> Film:
    """An empty film that knows the white of its lens."""
    film = Film.empty(width, height, scene.group_names, masks)
    film.settings["saturation_cd_m2"] = saturation_luminance(view.lens_for(occasion.key))
    film.settings["origin_m"] = scene.origin.tolist()
    film.mask_names = (scene.geometry.objects, tuple(m.name for m in scene.materials))
    return film


def tiles(width: int, height: int, size: int = TILE) -> list[tuple[int, int, int, int]]:
    """Tiles (x0, y0, x1, y1) that cover a picture, row by row."""
    return [
        (x, y, min(x + size, width), min(y + size, height))
        for y in range(0, height, size)
        for x in range(0, width, size)
    ]


def trace(
    scene: Scene, film: Film, first: int, last: int, pool: ThreadPoolExecutor, stop: Callable[[], bool] | None = None
) -> int | None:
    """Add samples first to last to every pixel. Returns the rays traced, or None when `stop` said so midway
    (the film then holds uneven samples and must be thrown away or traced again from its last saved state)."""
    counts = trace_tiles(scene, film, tiles(*film.size), first, last, pool, stop)
    if any(count is None for count in counts):
        return None
    film.samples += last - first
    return sum(count or 0 for count in counts)


def trace_tiles(
    scene: Scene, film: Film, which: list[tuple[int, int, int, int]], first: int, last: int, pool: ThreadPoolExecutor,
    stop: Callable[[], bool] | None = None,
) -> list[int | None]:  # fmt: skip
    """Add samples first to last to the pixels of some tiles; `film.samples` is left to the caller. `stop` is asked every
    few milliseconds."""
    return [job.result() for job in [pool.submit(_tile, scene, film, t, first, last, stop) for t in which]]


def _tile(
    scene: Scene, film: Film, tile: tuple[int, int, int, int], first: int, last: int, stop: Callable[[], bool] | None
) -> int | None:
    x0, y0, x1, y1 = tile
    work, traced = rays.new_work(scene.settings, scene.camera, film.light, film.auxiliary, film.masks, film.spill), 0
    # Who may have to leave it takes it in small pieces: a whole tile of twenty samples is a wait that a hand feels.
    pieces = [(y0, y1, first, last)] if stop is None else [
        (y, min(y + STOP_ROWS, y1), k, k + 1) for k in range(first, last) for y in range(y0, y1, STOP_ROWS)
    ]  # fmt: skip
    for top, bottom, begin, end in pieces:
        if stop is not None and stop():
            return None
        traced += int(path.render_tile(scene.arrays, work, x0, top, x1, bottom, begin, end))
    film.counts[y0:y1, x0:x1] += last - first
    return traced


def noisy_tiles(film: Film, which: list[tuple[int, int, int, int]], target: float) -> list[tuple[int, int, int, int]]:
    """The tiles whose noise is still above a target.

    The noise of a tile is the 90th percentile over its pixels of the standard error of the luminance, over that luminance
    plus a twentieth of the lens's white: what counts is what will be seen. It is taken from the tile alone, so that the
    choice does not depend on threads or order.
    """
    white = float(film.settings.get("saturation_cd_m2", 1.0))
    left = []
    for tile in which:
        x0, y0, x1, y1 = tile
        a, n = film.auxiliary[y0:y1, x0:x1], film.counts[y0:y1, x0:x1]
        if n.min() < LEAST_SAMPLES:
            left.append(tile)
            continue
        mean = a[..., layout.PASS_LUMINANCE] / n
        error = np.sqrt(np.maximum(a[..., layout.PASS_SQUARES] / n - mean * mean, 0) / (n - 1))
        if np.percentile(error / (mean + 0.05 * white), 90) > target:
            left.append(tile)
    return left


def tiles_in(region: tuple[float, float, float, float], width: int, height: int) -> list[tuple[int, int, int, int]]:
    """The tiles that touch a region of interest, given as shares (left, top, right, bottom) of the picture.

    Raises InputError for an empty region or one outside the picture.
    """
    left, top, right, bottom = region
    if not (0 <= left < right <= 1 and 0 <= top < bottom <= 1):
        raise InputError(
            f"the region {region} is empty or reaches outside the picture", "region",
            "Give left, top, right, bottom as shares between 0 and 1",
        )  # fmt: skip
    return [
        (x0, y0, x1, y1)
        for x0, y0, x1, y1 in tiles(width, height)
        if x0 < right * width and x1 > left * width and y0 < bottom * height and y1 > top * height
    ]


def render(
    project: LoadedProject,
    view: str | View,
    occasion: str | Occasion,
    width: int = 1280,
    height: int = 720,
    samples: int = 16,
    seed: int = 1,
    quality: Quality = TRUE,
    threads: int | None = None,
    compiler: Compiler | None = None,
    progress: Callable[[int, Film], bool] | None = None,
    noise: float = 0.0,
    region: tuple[float, float, float, float] | None = None,
    film: Film | None = None,
) -> Film:
    """Trace a view at an occasion. The result depends on the seed, not on the number of threads.

    `view` and `occasion` by key, name or object; `progress(samples_done, film)` may stop the trace by returning False.
    `noise` above zero leaves a tile alone once its noise has fallen below it (see `noisy_tiles`); `region` traces only
    the tiles that touch it; `film` goes on from a film traced before, at its samples.
    Raises NotFoundError for an unknown view or occasion, InputError for an impossible size, region or film.
    """
    description = project.description
    view = description.view(view) if isinstance(view, str) else view
    occasion = description.occasion(occasion) if isinstance(occasion, str) else occasion
    if not 1 <= samples <= 1 << 20:
        raise InputError(f"{samples} samples a pixel cannot be made", "samples", "Choose 1 or more")
    which = tiles_in(region, width, height) if region is not None else tiles(width, height)
    scene = (compiler or Compiler()).scene(project, view, occasion, width, height, seed, quality)
    if film is None:
        film = new_film(scene, view, occasion, width, height, quality.masks)
    elif film.size != (width, height) or film.group_names != scene.group_names:
        raise InputError(
            "the film is of another size or has other lights", "film", "Go on with the film's own view, size and lights"
        )
    with ThreadPoolExecutor(threads or os.cpu_count() or 1) as pool:
        for first in range(film.samples, samples, BATCH):
            last = min(first + BATCH, samples)
            trace_tiles(scene, film, which, first, last, pool)
            film.samples = last
            if noise > 0:
                which = noisy_tiles(film, which, noise)
            if (progress is not None and not progress(film.samples, film)) or not which:
                break
    return film


def digest(*parts: object) -> str:
    """A hash of description parts, for keeping what was computed from them."""
    text = "|".join(
        p.model_dump_json() if hasattr(p, "model_dump_json")
        else repr([q.model_dump_json() if hasattr(q, "model_dump_json") else q for q in p])
        if isinstance(p, (tuple, list)) else repr(p)
        for p in parts
    )  # fmt: skip
    return hashlib.sha256(text.encode()).hexdigest()


def _kept(store: OrderedDict[Any, Any], key: Any, most: int, make: Callable[[], Any]) -> Any:
    """The value kept under a key, made when missing; the least recently used one is dropped beyond `most`."""
    if key in store:
        store.move_to_end(key)
        return store[key]
    value = make()
    store[key] = value
    while len(store) > most:
        store.popitem(last=False)
    return value
