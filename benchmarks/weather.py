"""How quickly weather comes over the demo's exterior, and what it costs to trace."""

from __future__ import annotations

import statistics
import time
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

from benchmarks import many
from valleylight.core.film.denoise import clean_picture
from valleylight.core.project import LoadedProject, Occasion, View
from valleylight.core.project.planting import Planting
from valleylight.core.project.weather import Rain, Snow, Weather
from valleylight.core.trace.render import new_film, trace
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import PROOF, SKETCH

RAIN = Weather(rain=Rain(wet=1.0, puddles=0.7, mm_h=8.0))
FLAKES = Weather(snow=Snow(flakes_mm_h=1.5))
RUNS = 4


def figures(
    project: LoadedProject, compiler: Compiler, view: View, occasion: Occasion, pool: ThreadPoolExecutor
) -> dict[str, float]:
    """All of them; kernels warm."""

    def under(weather: Weather) -> Occasion:
        return occasion.model_copy(update={"weather": weather})

    def cost(weather: Weather) -> float:
        at = under(weather)
        return many.cost(compiler.scene(project, view, at, 320, 180, 1, PROOF), view, at, pool)

    dry = cost(Weather())
    rain, flakes = cost(RAIN), cost(FLAKES)
    built = []
    for depth in range(RUNS):
        start = time.perf_counter()
        compiler.scene(project, view, under(Weather(snow=Snow(depth_cm=15 + depth))), 1280, 720, 1, PROOF)
        built.append(time.perf_counter() - start)
    return {
        "snow_build_s": statistics.median(built[1:]), "rain_over_dry": rain / dry, "falling_over_clear": flakes / dry,
        "season_change_s": _season_change(project, compiler, view, occasion, pool),
    }  # fmt: skip


def _season_change(
    project: LoadedProject, compiler: Compiler, view: View, occasion: Occasion, pool: ThreadPoolExecutor
) -> float:
    """Median seconds from another day, with leaves by the date, to a clean picture of 480 x 270; the first of them, which gives the
    leaves their own ray structure, is left out."""
    times = []
    for number in range(RUNS + 1):
        moved = occasion.model_copy(
            update={"when": occasion.when + timedelta(days=108 + 5 * number), "planting": Planting(by_date=True)}
        )
        start = time.perf_counter()
        scene = compiler.scene(project, view, moved, 480, 270, 1, SKETCH)
        film = new_film(scene, view, moved, 480, 270)
        trace(scene, film, 0, 1, pool)
        passes = film.passes
        clean_picture(film.balanced(moved.light_levels()), passes["surface_colour"], passes["normal"], "fast")
        times.append(time.perf_counter() - start)
    return statistics.median(times[1:])
