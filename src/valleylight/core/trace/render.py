"""Trace a project's view at an occasion into a film."""

from __future__ import annotations

import hashlib
import os
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.film.film import Film
from valleylight.core.finish.exposure import saturation_luminance
from valleylight.core.lamps.bodies import build_bodies
from valleylight.core.lamps.compile import Lamps, compile_lamps
from valleylight.core.photometry import Photometry
from valleylight.core.photometry import read as read_photometry
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import DAYLIGHT_GROUPS, SURFACE_GROUP, Occasion, View
from valleylight.core.stage import StageData, merge, read_glb
from valleylight.core.trace import layout, path, rays
from valleylight.core.trace.camera import camera_array
from valleylight.core.trace.lighting import Daylight, daylight_of
from valleylight.core.trace.scene import (
    Geometry,
    SceneArrays,
    build_geometry,
    dome_arrays,
    lamp_grid,
    opening_array,
    sun_array,
)

TILE = 32
LARGEST_SIDE = 8192
KEPT_STAGES, KEPT_GEOMETRIES = 2, 4


@dataclass(frozen=True)
class Quality:
    """How far a picture is taken. `clamp_stops`: single indirect contributions are held to so many stops above the
    lens's saturation, against fireflies (0 leaves them as they are); `soften`: roughness (alpha) given to mirrors seen
    after a rough bounce, against caustic noise."""

    name: str
    width: int
    samples: int
    max_bounces: int = 8
    clamp_stops: float = 1.5
    soften: float = 0.25


SKETCH = Quality("sketch", 480, 2, max_bounces=3)
PROOF = Quality("proof", 1280, 16, max_bounces=6)
PRESS = Quality("press", 1920, 128, max_bounces=12, clamp_stops=3.0, soften=0.1)
QUALITIES = {q.name: q for q in (SKETCH, PROOF, PRESS)}
#: Unbiased: for checks against closed forms.
TRUE = Quality("true", 0, 0, max_bounces=64, clamp_stops=0.0, soften=0.0)


@dataclass(frozen=True)
class Scene:
    """A view at an occasion, ready to trace. Keeps alive what the kernels point at."""

    arrays: SceneArrays
    camera: NDArray[np.float64]
    settings: NDArray[np.float64]
    group_names: tuple[str, ...]
    daylight: Daylight
    lamps: Lamps
    geometry: Geometry


class Compiler:
    """Compiles project descriptions to scenes and keeps the costly parts by the hash of what they depend on."""

    def __init__(self) -> None:
        self._stages: OrderedDict[Any, StageData] = OrderedDict()
        self._geometries: OrderedDict[Any, Geometry] = OrderedDict()
        self._profiles: dict[str, Photometry] = {}
        self._lamps: OrderedDict[Any, tuple[Lamps, dict[str, object]]] = OrderedDict()

    def stage(self, project: LoadedProject) -> StageData:
        """The imported stage of a project."""
        models = project.description.stage.models
        key = tuple(m.asset for m in models)
        return _kept(
            self._stages, key, KEPT_STAGES, lambda: merge([read_glb(project.asset(m.asset), m.name) for m in models])
            if models else StageData(),
        )  # fmt: skip

    def profile(self, project: LoadedProject, sha256: str) -> Photometry:
        """A measured profile by the SHA-256 of its file."""
        if sha256 not in self._profiles:
            self._profiles[sha256] = read_photometry(project.asset(sha256))
        return self._profiles[sha256]

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
        description = project.description
        lit_groups = {f.group for f in description.fixtures if f.on and f.percent > 0}
        shut = frozenset(g for g in description.groups() if occasion.levels.get(g, 100.0) <= 0 or g not in lit_groups)
        open_groups = tuple(g for g in description.groups() if g not in shut)
        stage = self.stage(project)
        emits = (SURFACE_GROUP,) if any(m.emits for m in stage.materials) else ()
        names = (*DAYLIGHT_GROUPS, *emits, *open_groups)
        numbers = {name: k for k, name in enumerate(names)}
        lamp_key = digest(description.fixtures, description.kinds, sorted(shut), names)

        def make_lamps() -> tuple[Lamps, dict[str, object]]:
            made = compile_lamps(description, lambda sha: self.profile(project, sha), numbers, shut)
            return made, lamp_grid(made.records, made.profiles)

        lamps, grid = _kept(self._lamps, lamp_key, 8, make_lamps)
        hidden = frozenset(occasion.hidden_layers)
        geometry = _kept(
            self._geometries,
            (digest(description.stage), hidden, lamp_key),
            KEPT_GEOMETRIES,
            lambda: build_geometry(stage, hidden, build_bodies(lamps), description.stage.white_card),
        )
        day = daylight_of(description.site, occasion)
        arrays = SceneArrays(
            **geometry.arrays,  # type: ignore[arg-type]
            **dome_arrays(day.dome),  # type: ignore[arg-type]
            sun=sun_array(day.direction, day.radius_deg, day.sun_rgb_lx),
            openings=opening_array(stage.openings),
            lamps=lamps.records,
            profiles=lamps.profiles,
            **grid,  # type: ignore[arg-type]
        )
        lens = view.lens_for(occasion.key)
        settings = np.zeros(layout.SETTINGS_WIDTH)
        settings[layout.MAX_BOUNCES] = quality.max_bounces
        if quality.clamp_stops > 0:
            settings[layout.CLAMP] = saturation_luminance(lens) * 2.0**quality.clamp_stops
        settings[layout.SEED] = seed & 0xFFFFFFFF
        settings[layout.GROUP_SUN], settings[layout.GROUP_SKY], settings[layout.GROUP_SURFACES] = 0, 1, 2
        settings[layout.SUN_ON], settings[layout.SKY_ON] = float(day.sun_up), 1.0
        settings[layout.EMITTED_TOTAL] = geometry.emitted_total
        settings[layout.SOFTEN] = quality.soften
        camera = camera_array(view, lens.f_number, width / height)
        return Scene(arrays, camera, settings, names, day, lamps, geometry)


def new_film(scene: Scene, view: View, occasion: Occasion, width: int, height: int) -> Film:
    """An empty film that knows the white of its lens."""
    film = Film.empty(width, height, scene.group_names)
    film.settings["saturation_cd_m2"] = saturation_luminance(view.lens_for(occasion.key))
    return film


def tiles(width: int, height: int, size: int = TILE) -> list[tuple[int, int, int, int]]:
    """Tiles (x0, y0, x1, y1) that cover a picture, row by row."""
    return [
        (x, y, min(x + size, width), min(y + size, height))
        for y in range(0, height, size)
        for x in range(0, width, size)
    ]


def trace(
    scene: Scene, film: Film, first: int, last: int, pool: ThreadPoolExecutor, stop: Callable[[], bool] = lambda: False
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
    stop: Callable[[], bool] = lambda: False,
) -> list[int | None]:  # fmt: skip
    """Add samples first to last to the pixels of some tiles; `film.samples` is left to the caller."""
    return [job.result() for job in [pool.submit(_tile, scene, film, t, first, last, stop) for t in which]]


def _tile(
    scene: Scene, film: Film, tile: tuple[int, int, int, int], first: int, last: int, stop: Callable[[], bool]
) -> int | None:
    if stop():
        return None
    return int(
        path.render_tile(
            scene.arrays, scene.camera, scene.settings, rays.new_ray(), film.light, film.auxiliary, *tile, first, last
        )
    )


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
) -> Film:
    """Trace a view at an occasion. The result depends on the seed, not on the number of threads.

    `view` and `occasion` by key, name or object; `progress(samples_done, film)` may stop the trace by returning False.
    Raises NotFoundError for an unknown view or occasion, InputError for an impossible size.
    """
    description = project.description
    view = description.view(view) if isinstance(view, str) else view
    occasion = description.occasion(occasion) if isinstance(occasion, str) else occasion
    if not 1 <= samples <= 1 << 20:
        raise InputError(f"{samples} samples a pixel cannot be made", "samples", "Choose 1 or more")
    scene = (compiler or Compiler()).scene(project, view, occasion, width, height, seed, quality)
    film = new_film(scene, view, occasion, width, height)
    with ThreadPoolExecutor(threads or os.cpu_count() or 1) as pool:
        for first in range(0, samples, 4):
            trace(scene, film, first, min(first + 4, samples), pool)
            if progress is not None and not progress(film.samples, film):
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
