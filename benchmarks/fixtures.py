"""Figures of fixtures: reading a profile, picturing a catalogue, lux contours of a plan."""

from __future__ import annotations

import statistics
import time

import numpy as np

from valleylight.core.measure.direct import on_level
from valleylight.core.photometry import Photometry, read, write_lm63
from valleylight.core.photometry.figures import figures
from valleylight.core.preview.portrait import floor_portrait, wall_portrait
from valleylight.core.project import LoadedProject
from valleylight.core.project.description import Fixture
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import SKETCH
from valleylight.demo.more_profiles import files

FILE_BYTES, CATALOGUE = 100_000, 500


def profile_read_ms() -> float:
    """Milliseconds to read a file of 100 KB."""
    random = np.random.default_rng(3)
    c, gamma = np.arange(0, 361, 2.5), np.arange(0, 180.5, 1.5)
    table = random.uniform(100, 3000, (len(c), len(gamma)))
    table[-1] = table[0]
    data = write_lm63(Photometry(c, gamma, table)).encode()
    times = []
    for _ in range(9):
        start = time.perf_counter()
        read(data)
        times.append(time.perf_counter() - start)
    return 1000 * statistics.median(times) * FILE_BYTES / len(data)


def catalogue_minutes() -> float:
    """Minutes for 500 profiles with their figures and both pictures, from the demo's thirty."""
    wall_portrait(read(files()[0][1]), 3000)
    made = files()
    start = time.perf_counter()
    for _, data in made:
        profile = read(data)
        figures(profile)
        wall_portrait(profile, 3000)
        floor_portrait(profile, 3000)
    return (time.perf_counter() - start) / len(made) * CATALOGUE / 60


def contours_s(project: LoadedProject, compiler: Compiler) -> float:
    """Seconds for the direct lux of 100 fixtures on 5000 points of the reading room."""
    random = np.random.default_rng(1)
    places = random.uniform((0.5, 0.5), (15.0, 6.5), (100, 2))
    many = tuple(
        Fixture(key=f"m{k}", kind="downlight-medium", group="Downlights", position=(x, y, 4.2), aim=(x, y, 0.0))
        for k, (x, y) in enumerate(places.tolist())
    )
    changed = LoadedProject(project.description.model_copy(update={"fixtures": many}), project.asset)
    d = changed.description
    scene = compiler.scene(changed, d.views[0], d.occasion("winter-dusk"), 16, 9, 1, SKETCH)
    xs, ys = np.linspace(0.2, 15.8, 100), np.linspace(0.2, 6.8, 50)
    times = []
    for _ in range(5):
        start = time.perf_counter()
        on_level(scene, {}, xs, ys, 0.75)
        times.append(time.perf_counter() - start)
    return statistics.median(times)


def fixture_move_s(project: LoadedProject, compiler: Compiler) -> float:
    """Seconds from a moved fixture to a scene ready for tracing, with 300 more of them in the reading room."""
    random = np.random.default_rng(2)
    places = random.uniform((0.5, 0.5), (15.0, 6.5), (300, 2)).tolist()
    d = project.description
    times = []
    for shift in range(6):
        many = tuple(
            Fixture(
                key=f"m{k}",
                kind="downlight-medium",
                group="Downlights",
                position=(x + 0.01 * shift * (k == 0), y, 4.2),
                aim=(x, y, 0.0),
            )
            for k, (x, y) in enumerate(places)
        )
        moved = LoadedProject(d.model_copy(update={"fixtures": (*d.fixtures, *many)}), project.asset)
        start = time.perf_counter()
        compiler.scene(moved, d.views[0], d.occasion("winter-dusk"), 480, 270, 1, SKETCH)
        times.append(time.perf_counter() - start)
    return statistics.median(times[1:])
