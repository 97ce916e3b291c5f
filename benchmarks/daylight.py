"""Figures of daylight: a new hour, the hour finder, the memory of a sky."""

from __future__ import annotations

import statistics
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import fields
from datetime import timedelta
from typing import Any

import numpy as np

from valleylight.core import finish
from valleylight.core.film.denoise import clean_picture
from valleylight.core.finish.exposure import saturation_luminance
from valleylight.core.measure import pick, sunhours
from valleylight.core.project import LoadedProject
from valleylight.core.project.description import Occasion, View
from valleylight.core.project.sky import Clouds
from valleylight.core.sky import cloudsky
from valleylight.core.sky.atmosphere import atmosphere
from valleylight.core.sky.build import REGION_ALBEDO
from valleylight.core.sky.columns import column_table
from valleylight.core.trace.render import new_film, trace
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.lighting import daylight_of
from valleylight.core.trace.scene.quality import PRESS, SKETCH

HOURS = 7


def hour_change_s(project: LoadedProject, occasion: Occasion, clouds: bool) -> float:
    """Median seconds from a new hour to a sky ready for tracing, with the atmosphere's table made; without clouds or with."""
    sky = occasion.sky if clouds else occasion.sky.model_copy(update={"clouds": Clouds()})
    times = []
    for number in range(HOURS):
        moved = occasion.model_copy(update={"when": occasion.when + timedelta(minutes=11 * number), "sky": sky})
        start = time.perf_counter()
        daylight_of(project.description.site, moved)
        times.append(time.perf_counter() - start)
    return statistics.median(times[1:])


def hour_finder_s(project: LoadedProject, compiler: Compiler, view: View, occasion: Occasion) -> float:
    """Seconds for four faces of the view over a year of quarter hours."""
    scene = compiler.scene(project, view, occasion, 16, 9, 1, SKETCH)
    faces = []
    for x, y in ((0.42, 0.56), (0.36, 0.68), (0.77, 0.55), (0.5, 0.3)):
        met = pick.through_picture(scene, x, y)
        assert met is not None
        faces.append(sunhours.Face(met.point, met.normal))
    start = time.perf_counter()
    year = sunhours.over_year(scene, project.description.site, faces, occasion.when.year)
    sunhours.windows(year, sunhours.score(year, [0, 1, 3], [2]))
    return time.perf_counter() - start


def sky_table_mb(project: LoadedProject, compiler: Compiler, view: View, occasion: Occasion) -> float:
    """Megabytes that the sky of a press of 1920 x 1080 keeps: tables of the air, cloud layers, the sky as it is seen, and the part of it
    that the lens looks at."""
    scene = compiler.scene(project, view, occasion, 1920, 1080, 1, PRESS)
    day = scene.daylight
    arrays: list[Any] = [scene.arrays.sky_fine, day.sky.dome.rgb, day.sky.backdrop, day.sky.shadow, column_table()]
    air = atmosphere(round(occasion.sky.turbidity, 1), REGION_ALBEDO)
    arrays += [getattr(air, f.name) for f in fields(air)]
    clouds = occasion.sky.clouds
    sun = cloudsky._sun_in_field(clouds, float(np.radians(day.azimuth_deg)), float(np.radians(day.altitude_deg)))
    for layer in clouds.layers:
        lit = cloudsky.lit_layer(layer, clouds.seed, sun)
        arrays += [lit.density, lit.to_sun, lit.above]
    return sum(a.nbytes for a in arrays) / 1e6


def first_picture_s(
    project: LoadedProject, compiler: Compiler, view: View, occasion: Occasion, pool: ThreadPoolExecutor
) -> float:
    """Median seconds from a new hour to a finished picture of 480 x 270; kernels and ray structure warm."""
    times = []
    for number in range(HOURS):
        moved = occasion.model_copy(update={"when": occasion.when + timedelta(minutes=7 * number)})
        start = time.perf_counter()
        scene = compiler.scene(project, view, moved, SKETCH.width, 270, 1, SKETCH)
        film = new_film(scene, view, moved, SKETCH.width, 270)
        trace(scene, film, 0, 1, pool)
        passes = film.passes
        linear = clean_picture(film.balanced(moved.light_levels()), passes["surface_colour"], passes["normal"], "fast")
        look = project.description.look_for(view, moved)
        finish.apply(linear, look, saturation_cd_m2=saturation_luminance(view.lens))
        times.append(time.perf_counter() - start)
    return statistics.median(times[1:])
