"""Trace a project's view at an occasion into a film."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

from valleylight.core.errors import InputError
from valleylight.core.film.film import Film
from valleylight.core.finish.exposure import saturation_luminance
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Occasion, View
from valleylight.core.trace.arrays.camera import lens_of, project_direction
from valleylight.core.trace.integrator import path
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.scene.colours import light_colours
from valleylight.core.trace.scene.compiler import Compiler, RenderScene
from valleylight.core.trace.scene.quality import TRUE, Quality
from valleylight.core.trace.tiles import Tile, noisy_tiles, tiles, tiles_in

#: Where a trace may be stopped, it is asked for after so many rows of a tile and every sample.
STOP_ROWS = 16
BATCH = 4


def new_film(scene: RenderScene, view: View, occasion: Occasion, width: int, height: int, masks: bool = False) -> Film:
    """An empty film that knows the white of its lens."""
    film = Film.empty(width, height, scene.group_names, masks)
    film.settings["saturation_cd_m2"] = saturation_luminance(view.lens_for(occasion.key))
    film.settings["origin_m"] = scene.origin.tolist()
    film.settings["light_colours"] = light_colours(scene.group_names, scene.daylight, scene.lamps, scene.materials)
    film.settings["lens"] = lens_of(view, scene.camera)
    film.settings["camera"] = scene.camera.tolist()
    if scene.daylight.sun_up:
        film.settings["sun_at"] = project_direction(scene.camera, scene.daylight.direction)
    film.mask_names = (scene.geometry.objects, tuple(m.name for m in scene.materials))
    return film


def trace(
    scene: RenderScene,
    film: Film,
    first: int,
    last: int,
    pool: ThreadPoolExecutor,
    stop: Callable[[], bool] | None = None,
) -> int | None:
    """Add samples first to last to every pixel. Returns the rays traced, or None when `stop` said so midway
    (the film then holds uneven samples and must be thrown away or traced again from its last saved state)."""
    counts = trace_tiles(scene, film, tiles(*film.size), first, last, pool, stop)
    if any(count is None for count in counts):
        return None
    film.samples += last - first
    return sum(count or 0 for count in counts)


def trace_tiles(
    scene: RenderScene, film: Film, which: list[Tile], first: int, last: int, pool: ThreadPoolExecutor,
    stop: Callable[[], bool] | None = None,
) -> list[int | None]:  # fmt: skip
    """Add samples first to last to the pixels of some tiles; `film.samples` is left to the caller. `stop` is asked every
    few milliseconds."""
    return [job.result() for job in [pool.submit(add_samples, scene, film, t, first, last, stop) for t in which]]


def add_samples(
    scene: RenderScene, film: Film, tile: Tile, first: int, last: int, stop: Callable[[], bool] | None = None
) -> int | None:
    """Add samples first to last to the pixels of one tile, on the thread that asks; None where `stop` said so midway."""
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
