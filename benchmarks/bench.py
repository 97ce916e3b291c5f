"""`./valleylight bench`: figures on the demo's reading room and exterior, taken in one run.

These machines are noisy: compare ratios, and figures of the same run.
"""

from __future__ import annotations

import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import timedelta
from typing import Any

from benchmarks.ray_rate import raw_rate
from valleylight.core import finish
from valleylight.core.film import remove_noise
from valleylight.core.film.denoise import clean_picture
from valleylight.core.finish.exposure import saturation_luminance
from valleylight.core.project import LoadedProject
from valleylight.core.trace.render import PROOF, SKETCH, Compiler, new_film, trace
from valleylight.demo import tarn_mill

ROOM, EXTERIOR, OCCASION = "long-view", "from-the-pond", "june-morning"
#: key: (what, limit, whether more is better)
LIMITS: dict[str, tuple[str, float, bool]] = {
    "ray_rate_ratio": ("rays inside path tracing over Embree's raw rate, reading room", 0.45, True),
    "ray_rate_ratio_exterior": ("the same, exterior", 0.45, True),
    "first_picture_s": ("sun change to a clean 480 x 270 picture, s", 1.0, False),
    "finish_s": ("look change at 1280 x 720, s", 0.15, False),
    "balance_s": ("light level change at 1280 x 720, s", 0.15, False),
    "proof_s": ("1280 x 720 proof of the room, 16 samples, s", 40.0, False),
    "proof_exterior_s": ("1280 x 720 proof of the exterior, 16 samples, s", 40.0, False),
    "cold_compile_s": ("kernels compiled from nothing, s", 60.0, False),
}


def measure(say: Callable[[str], None]) -> dict[str, float]:
    """All figures. Takes a few minutes."""
    figures: dict[str, float] = {}
    say("Compiling the kernels from nothing")
    figures["cold_compile_s"] = _cold_compile()
    say("Building the demo project")
    project, compiler = tarn_mill.create(), Compiler()
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        for view, suffix in ((ROOM, ""), (EXTERIOR, "_exterior")):
            say(f"Ray rates: {view}")
            figures["ray_rate" + suffix], figures["raw_ray_rate" + suffix], figures["ray_rate_ratio" + suffix] = (
                _ray_rates(project, compiler, view, pool)
            )
        say("First picture after a sun change")
        figures["first_picture_s"] = _first_picture(project, compiler, pool)
        for view, key in ((ROOM, "proof_s"), (EXTERIOR, "proof_exterior_s")):
            say(f"Proof: {view}")
            figures[key] = _proof(project, compiler, view, pool, figures)
    figures["peak_rss_mb"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    return figures


def table(figures: dict[str, float]) -> str:
    """The figures as text, with the limit of each that has one."""
    lines = [f"{'figure':<26}{'got':>12}{'limit':>12}   what"]
    for key, value in figures.items():
        what, limit, more = LIMITS.get(key, ("", float("nan"), False))
        bound = "" if key not in LIMITS else f"{'>=' if more else '<='} {limit:g}"
        lines.append(f"{key:<26}{value:>12.4g}{bound:>12}   {what}")
    return "\n".join(lines)


def _cold_compile() -> float:
    """Seconds to compile every kernel into an empty cache, less the imports of a run with a full one."""
    with tempfile.TemporaryDirectory() as cache:
        environment = {**os.environ, "NUMBA_CACHE_DIR": cache}
        command = [sys.executable, "-m", "valleylight", "compile"]
        times = []
        for _ in range(2):
            start = time.perf_counter()
            subprocess.run(command, env=environment, check=True, stdout=subprocess.DEVNULL)
            times.append(time.perf_counter() - start)
    return times[0] - times[1]


def _parts(project: LoadedProject, view: str) -> tuple[Any, Any]:
    return project.description.view(view), project.description.occasion(OCCASION)


def _ray_rates(
    project: LoadedProject, compiler: Compiler, view_key: str, pool: ThreadPoolExecutor
) -> tuple[float, float, float]:
    """Rays a second in path tracing and raw, and the median ratio of pairs taken one after the other."""
    view, occasion = _parts(project, view_key)
    scene = compiler.scene(project, view, occasion, 480, 270, 1, PROOF)
    traced, raw = [], []
    for _ in range(5):
        film = new_film(scene, view, occasion, 480, 270)
        start = time.perf_counter()
        rays = trace(scene, film, 0, 4, pool)
        traced.append((rays or 0) / (time.perf_counter() - start))
        raw.append(raw_rate(scene, 480, 270))
    ratio = statistics.median(a / b for a, b in zip(traced, raw, strict=True))
    return statistics.median(traced), statistics.median(raw), ratio


def _first_picture(project: LoadedProject, compiler: Compiler, pool: ThreadPoolExecutor) -> float:
    """Median seconds from a new hour to a finished picture; kernels and ray structure warm."""
    view, occasion = _parts(project, ROOM)
    times = []
    for number in range(7):
        moved = occasion.model_copy(update={"when": occasion.when + timedelta(minutes=7 * number)})
        start = time.perf_counter()
        scene = compiler.scene(project, view, moved, SKETCH.width, 270, 1, SKETCH)
        film = new_film(scene, view, moved, SKETCH.width, 270)
        trace(scene, film, 0, 2, pool)
        passes = film.passes
        linear = clean_picture(film.balanced(moved.light_levels()), passes["surface_colour"], passes["normal"], "fast")
        finish.apply(
            linear, project.description.look_for(view, moved), saturation_cd_m2=saturation_luminance(view.lens)
        )
        times.append(time.perf_counter() - start)
    return statistics.median(times[1:])


def _proof(
    project: LoadedProject, compiler: Compiler, view_key: str, pool: ThreadPoolExecutor, figures: dict[str, float]
) -> float:
    """Seconds of a whole proof: compile, trace, noise removal, finish. Measures finish and balance on its film."""
    view, occasion = _parts(project, view_key)
    look = project.description.look_for(view, occasion)
    start = time.perf_counter()
    scene = compiler.scene(project, view, occasion, 1280, 720, 1, replace(PROOF, width=1280))
    film = new_film(scene, view, occasion, 1280, 720)
    trace(scene, film, 0, 16, pool)
    remove_noise(film, "balanced")
    finish.apply(film, look, occasion.light_levels())
    seconds = time.perf_counter() - start
    if view_key == ROOM:
        linear, white = film.balanced(), film.settings["saturation_cd_m2"]
        figures["finish_s"] = _median(lambda: finish.apply(linear, look, saturation_cd_m2=white))
        figures["balance_s"] = _median(lambda: finish.apply(film, look, {"sun": 0.5, "sky": 1.5}))
    return seconds


def _median(work: Callable[[], object]) -> float:
    times = []
    for _ in range(7):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return statistics.median(times)
