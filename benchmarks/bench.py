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
from typing import Any

import numpy as np

from benchmarks import compose, daylight, fixtures, latency, many, nature, reference, sequence, stage, weather
from benchmarks.ray_rate import raw_rate
from valleylight.core import finish
from valleylight.core.film import remove_noise
from valleylight.core.project import LoadedProject, Look
from valleylight.core.trace.foretell import foretell
from valleylight.core.trace.render import new_film, render, trace
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.offers import offers
from valleylight.core.trace.scene.quality import PRESS, PROOF
from valleylight.core.treatments import KINDS
from valleylight.demo import tarn_mill

ROOM, EXTERIOR, OCCASION = "long-view", "from-the-pond", "june-morning"
#: key: (what, limit, whether more is better)
LIMITS: dict[str, tuple[str, float, bool]] = {
    "ray_rate_ratio": ("rays inside path tracing over Embree's raw rate, reading room", 0.55, True),
    "ray_rate_ratio_exterior": ("the same, exterior", 0.55, True),
    "threads_2_over_1": ("rays a second with two threads over one", 1.8, True),
    "lights_500_over_20": ("time to equal noise, hall with 500 fixtures over 20", 1.6, False),
    "groups_24_over_1": ("time of a pass with 24 light groups over one", 1.15, False),
    "fog_over_clear": ("time to equal noise, reading room with fog over without", 2.0, False),
    "snow_build_s": ("snow laid on the exterior of the demo for a proof, s", 3.0, False),
    "rain_over_dry": ("time to equal noise, exterior wet in rain over dry", 1.3, False),
    "falling_over_clear": ("time to equal noise, exterior with flakes in the air over without", 1.3, False),
    "season_change_s": ("another day for the leaves to a clean 480 x 270 picture, s", 1.2, False),
    "proof_rmse_60s": ("error of 60 s of tracing, in whites of the lens, as traced", float("inf"), False),
    "proof_rmse_60s_clean": ("the same after noise removal", float("inf"), False),
    "first_picture_s": ("sun change to a clean 480 x 270 picture, s", 1.0, False),
    "first_picture_exterior_s": ("the same for the exterior under clouds, s", 1.2, False),
    "hour_change_s": ("new hour to a computed sky ready for tracing, s", 0.3, False),
    "hour_change_clouds_s": ("the same with two layers of cloud, s", 0.3, False),
    "tree_s": ("a tree of the catalogue near at hand, s (the slowest kind)", 2.0, False),
    "stone_wall_s": ("a wall of 40 m2 laid stone by stone, s", 5.0, False),
    "land_s": ("mountains of 512 x 512 carved, with what covers them, s", 10.0, False),
    "hour_finder_s": ("four faces over a year at quarter hours, exterior, s", 20.0, False),
    "sky_table_mb": ("memory of the finest sky, MB", 64.0, False),
    "profile_read_ms": ("reading a profile of 100 KB, ms", 20.0, False),
    "catalogue_500_min": ("500 profiles with figures and pictures, min", 8.0, False),
    "contours_100_s": ("direct lux of 100 fixtures on 5000 points, s", 0.2, False),
    "fixture_move_s": ("a fixture moved among 300 to a scene ready for tracing, s", float("inf"), False),
    "import_1m_s": ("a file of a million triangles and ten 2k pictures to a first picture, s", 12.0, False),
    "import_rss_ratio": ("memory of its check over the size of the file", 12.0, False),
    "objects_10k_s": ("ten thousand strewn trees to a first picture, s", 4.0, False),
    "objects_ratio": ("rays a second with them over without", 0.5, True),
    "move_object_s": ("an armchair of the demo moved to the next clean 480 x 270 picture, s", 0.6, False),
    "finish_s": ("look change at 1280 x 720, s", 0.10, False),
    "finish_all_s": ("every treatment on at 1280 x 720, s", 0.6, False),
    "finish_4k_s": ("look change at 3840 x 2160, s", 1.5, False),
    "balance_s": ("light level change at 1280 x 720, s", 0.05, False),
    "compose_s": ("20 cut-outs with both shadows at 1280 x 720, s", 0.4, False),
    "compose_drag_s": ("one of them carried, s", 0.1, False),
    "drawn_s": ("a drawn look at 1280 x 720, s", 1.5, False),
    "sequence_overhead": ("time of frames of a sequence over the same made alone", 0.85, False),
    "sequence_flicker": ("change from frame to frame of a still scene over the noise of one frame", 1.0, False),
    "proof_s": ("1280 x 720 proof of the room, s", 40.0, False),
    "proof_exterior_s": ("1280 x 720 proof of the exterior, s", 40.0, False),
    "press_prediction_error": (
        "time of a 480 x 270 press foretold, share off (the worse of room and exterior)",
        0.25,
        False,
    ),
    "press_1080p_s": ("1920 x 1080 press, room or exterior, whichever takes longer, s", 420.0, False),
    "press_4k_8_groups_gb": ("peak memory of a 3840 x 2160 press with 8 groups, GB", 6.0, False),
    **{
        f"latency_{name}_ms": (f"browser's event to its frame: {what}, ms", limit, False)
        for name, what, limit in (
            ("hour_inside", "new hour, reading room", 600.0),
            ("hour_outside", "new hour, exterior", 600.0),
            ("look", "white of the look", 150.0),
            ("f_number", "f-number", 150.0),
            ("level", "level of a group", 150.0),
            ("fixture", "fixture moved", 600.0),
            ("surface", "roughness of a surface", 700.0),
            ("white_card", "white card", 700.0),
            ("sky", "another sky", 900.0),
        )
    },
    "drag_pictures_per_s": ("pictures a second while the ribbon is dragged", 4.0, True),
    "cold_compile_s": ("kernels compiled from nothing, s", 120.0, False),
    "warm_compile_s": ("kernels from the cache, s", 5.0, False),
}


def measure(say: Callable[[str], None]) -> dict[str, float]:
    """All figures. Takes a few minutes."""
    figures: dict[str, float] = {}
    say("Compiling the kernels from nothing")
    figures["cold_compile_s"], figures["warm_compile_s"] = _compile_times()
    say("Building the demo project")
    project, compiler = tarn_mill.create(), Compiler()
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        for view, suffix in ((ROOM, ""), (EXTERIOR, "_exterior")):
            say(f"Ray rates: {view}")
            figures["ray_rate" + suffix], figures["raw_ray_rate" + suffix], figures["ray_rate_ratio" + suffix] = (
                _ray_rates(project, compiler, view, pool)
            )
        say("Threads, fixtures, groups, fog")
        figures["threads_2_over_1"] = _threads(project, compiler)
        figures["lights_500_over_20"] = many.lights_500_over_20(pool)
        figures["groups_24_over_1"] = many.groups_24_over_1(pool)
        figures["fog_over_clear"] = _fog(project, compiler, pool)
        say("Snow, rain and leaves on the exterior")
        figures.update(weather.figures(project, compiler, *_parts(project, EXTERIOR), pool))
        figures.update(nature.figures())
        say("Cut-outs and drawn looks")
        figures.update(compose.figures(project, compiler, *_parts(project, EXTERIOR)))
        say("A sequence through the reading room")
        figures.update(sequence.figures(project, compiler, pool))
        say("A minute of tracing against the long reference")
        figures["proof_rmse_60s"], figures["proof_rmse_60s_clean"] = _rmse(project, compiler, pool)
        say("First picture after a sun change")
        figures["first_picture_s"] = daylight.first_picture_s(project, compiler, *_parts(project, ROOM), pool)
        figures["first_picture_exterior_s"] = daylight.first_picture_s(
            project, compiler, *_parts(project, EXTERIOR), pool
        )
        say("Daylight")
        occasion = _parts(project, EXTERIOR)[1]
        figures["hour_change_s"] = daylight.hour_change_s(project, occasion, clouds=False)
        figures["hour_change_clouds_s"] = daylight.hour_change_s(project, occasion, clouds=True)
        figures["hour_finder_s"] = daylight.hour_finder_s(project, compiler, *_parts(project, EXTERIOR))
        figures["sky_table_mb"] = daylight.sky_table_mb(project, compiler, *_parts(project, EXTERIOR))
        say("Fixtures")
        figures["profile_read_ms"] = fixtures.profile_read_ms()
        figures["catalogue_500_min"] = fixtures.catalogue_minutes()
        figures["contours_100_s"] = fixtures.contours_s(project, compiler)
        figures["fixture_move_s"] = fixtures.fixture_move_s(project, compiler)
        say("Stage: a large model, many trees, a chair moved")
        figures["import_1m_s"], figures["import_rss_ratio"] = stage.import_figures()
        figures["objects_10k_s"], figures["objects_ratio"] = stage.strewn_figures(pool)
        figures["move_object_s"] = stage.move_object_s(project, compiler, *_parts(project, ROOM), pool)
        for view, key in ((ROOM, "proof_s"), (EXTERIOR, "proof_exterior_s")):
            say(f"Proof: {view}")
            figures[key] = _proof(project, compiler, view, pool, figures)
    say("Time of a press foretold")
    figures["press_prediction_error"] = _prediction_error(project, compiler)
    say("Press at 1920 x 1080")
    figures["press_1080p_s"] = max(_press(project, view) for view in (ROOM, EXTERIOR))
    say("Memory of a large press")
    figures["press_4k_8_groups_gb"] = _press_memory()
    figures["peak_rss_mb"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    figures |= latency.latencies(project, say)
    return figures


def table(figures: dict[str, float]) -> str:
    """The figures as text, with the limit of each that has one."""
    lines = [f"{'figure':<26}{'got':>12}{'limit':>12}   what"]
    for key, value in figures.items():
        what, limit, more = LIMITS.get(key, ("", float("nan"), False))
        bound = "" if key not in LIMITS else f"{'>=' if more else '<='} {limit:g}"
        lines.append(f"{key:<26}{value:>12.4g}{bound:>12}   {what}")
    return "\n".join(lines)


def _compile_times() -> tuple[float, float]:
    """Seconds to compile every kernel into an empty cache, and to load them from a full one."""
    with tempfile.TemporaryDirectory() as cache:
        environment = {**os.environ, "NUMBA_CACHE_DIR": cache}
        command = [sys.executable, "-m", "valleylight", "compile"]
        times = []
        for _ in range(2):
            done = subprocess.run(command, env=environment, check=True, capture_output=True, text=True)
            shown = done.stdout + done.stderr
            times.append(float(shown.rsplit("after", 1)[1].split()[0]))
    return times[0], times[1]


def _threads(project: LoadedProject, compiler: Compiler) -> float:
    """Rays a second of two threads over those of one, median of pairs."""
    view, occasion = _parts(project, ROOM)
    scene = compiler.scene(project, view, occasion, 480, 270, 1, PROOF)
    ratios = []
    with ThreadPoolExecutor(1) as one, ThreadPoolExecutor(2) as two:
        for _ in range(5):
            times = []
            for pool in (one, two):
                film = new_film(scene, view, occasion, 480, 270)
                start = time.perf_counter()
                trace(scene, film, 0, 2, pool)
                times.append(time.perf_counter() - start)
            ratios.append(times[0] / times[1])
    return statistics.median(ratios)


def _fog(project: LoadedProject, compiler: Compiler, pool: ThreadPoolExecutor) -> float:
    """Mist offered for the reading room: time to the noise of the clear picture."""
    view, occasion = _parts(project, ROOM)
    stage = compiler.stage(project)
    mist = offers(view, stage, *stage.bounds())[1].air
    clear = many.cost(compiler.scene(project, view, occasion, 320, 180, 1, PROOF), view, occasion, pool)
    misty = occasion.model_copy(update={"air": mist})
    fog = many.cost(compiler.scene(project, view, misty, 320, 180, 1, PROOF), view, misty, pool)
    return fog / clear


def _rmse(project: LoadedProject, compiler: Compiler, pool: ThreadPoolExecutor) -> tuple[float, float]:
    """Error of a minute of tracing at 1280 x 720, before and after noise removal."""
    view, occasion = _parts(project, ROOM)
    scene = compiler.scene(project, view, occasion, 1280, 720, 5, PROOF)
    film = new_film(scene, view, occasion, 1280, 720)
    start = time.perf_counter()
    while time.perf_counter() - start < 60:
        trace(scene, film, film.samples, film.samples + 1, pool)
    white = film.settings["saturation_cd_m2"]
    noisy = reference.error(film.balanced(), white)
    remove_noise(film, "high")
    return noisy, reference.error(film.balanced(), white)


def _press_memory() -> float:
    """Peak memory in GB of a process that makes a 3840 x 2160 press of a hall with eight light groups, with masks,
    noise removal and its EXR; few samples, for memory does not depend on them."""
    code = "from benchmarks.many import press; press()"
    shown = subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, text=True).stdout
    return float(shown.split()[-1])


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


def _press(project: LoadedProject, view_key: str) -> float:
    """Seconds of a whole press of 1920 x 1080 as a plate is made: traced until it is as quiet as a press has to be, cleaned, finished."""
    view, occasion = _parts(project, view_key)
    start = time.perf_counter()
    film = render(project, view, occasion, 1920, 1080, PRESS.samples, 1, PRESS, noise=PRESS.noise)
    remove_noise(film)
    finish.apply(film, project.description.look_for(view, occasion), occasion.light_levels())
    return time.perf_counter() - start


def _proof(
    project: LoadedProject, compiler: Compiler, view_key: str, pool: ThreadPoolExecutor, figures: dict[str, float]
) -> float:
    """Seconds of a whole proof: compile, trace, noise removal, finish. Measures finish and balance on its film.

    Its samples hold the noise of sixteen of a plainer tracer, see "Forks" and "Sunlit places" in docs/architecture.md.
    """
    view, occasion = _parts(project, view_key)
    look = project.description.look_for(view, occasion)
    start = time.perf_counter()
    scene = compiler.scene(project, view, occasion, 1280, 720, 1, replace(PROOF, width=1280))
    film = new_film(scene, view, occasion, 1280, 720)
    trace(scene, film, 0, PROOF.samples, pool)
    remove_noise(film, "balanced")
    finish.apply(film, look, occasion.light_levels())
    seconds = time.perf_counter() - start
    if view_key == ROOM:
        linear, white = film.balanced(), film.settings["saturation_cd_m2"]
        figures["finish_s"] = _median(lambda: finish.apply(linear, look, saturation_cd_m2=white))
        every = Look(treatments=tuple(kind(on=True) for kind in KINDS))
        seen = finish.seen_of(film)
        figures["finish_all_s"] = _median(lambda: finish.apply(linear, every, saturation_cd_m2=white, seen=seen))
        large = np.repeat(np.repeat(linear, 3, axis=0), 3, axis=1)
        figures["finish_4k_s"] = _median(lambda: finish.apply(large, look, saturation_cd_m2=white))
        figures["balance_s"] = _median(lambda: finish.apply(film, look, {"sun": 0.5, "sky": 1.5}))
    return seconds


def _prediction_error(project: LoadedProject, compiler: Compiler) -> float:
    """How far the foretold time of a small press is off, as a share of the time it takes: the worse of room and exterior."""
    off = []
    for key in (ROOM, EXTERIOR):
        view, occasion = _parts(project, key)
        told = foretell(compiler, project, view, occasion, (480, 270), PRESS)
        start = time.perf_counter()
        film = render(project, view, occasion, 480, 270, PRESS.samples, 1, PRESS, compiler=compiler, noise=PRESS.noise)
        remove_noise(film, "high")
        taken = time.perf_counter() - start
        off.append(abs(told.seconds - taken) / taken)
    return max(off)


def _median(work: Callable[[], object]) -> float:
    times = []
    for _ in range(7):
        start = time.perf_counter()
        work()
        times.append(time.perf_counter() - start)
    return statistics.median(times)
