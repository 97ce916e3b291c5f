"""Many fixtures, many groups, large films: a hall made for the purpose."""

from __future__ import annotations

import resource
import statistics
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np

from valleylight.core.film import columns, remove_noise
from valleylight.core.film.exr import write_exr
from valleylight.core.photometry import Photometry
from valleylight.core.project import Fixture, FixtureKind, Occasion, View
from valleylight.core.stage import Material
from valleylight.core.trace.render import new_film, render, trace
from valleylight.core.trace.scene.compiler import RenderScene
from valleylight.core.trace.scene.quality import PRESS, PROOF
from valleylight.validation import stages

HALL = (60.0, 24.0, 5.0)
VIEW = View(key="v", name="v", position=(2, 12, 1.6), target=(40, 12, 1.5), focal_mm=20)
KIND = FixtureKind(key="k", name="k", profile="0" * 64, kelvin=4000)


def hall(count: int, groups: int = 1):  # type: ignore[no-untyped-def]
    """A hall with so many downlights in even rows of one flux in all, in so many light groups."""
    columns = int(np.ceil(np.sqrt(count * HALL[0] / HALL[1])))
    rows = int(np.ceil(count / columns))
    fixtures = []
    for k in range(count):
        x = (k % columns + 0.5) / columns * HALL[0]
        y = (k // columns + 0.5) / rows * HALL[1]
        fixtures.append(
            Fixture(
                key=f"f-{k}",
                kind="k",
                group=f"Row {k % groups + 1}",
                position=(x, y, 4.7),
                aim=(x, y, 0),
                lumens=300_000 / count,
            )
        )
    gamma = np.array([0.0, 10, 20, 30, 40, 50, 60, 90, 180])
    profile = Photometry(np.zeros(1), gamma, np.array([[900.0, 880, 780, 560, 300, 120, 30, 0, 0]]))
    boxes = [stages.box_room((1.0, 0.6, 0.75), 1) for _ in range(3)]
    return stages.project_of(
        [*stages.box_room(HALL, 0), *boxes[0]], [Material(base=(0.6, 0.6, 0.58), roughness=0.8), Material(base=(0.4, 0.3, 0.2))],
        VIEW, fixtures, [KIND], profile,
    )  # fmt: skip


def cost(scene: RenderScene, view: View, occasion: Occasion, pool: ThreadPoolExecutor) -> float:
    """Seconds a sample times its relative variance: what time to equal noise is proportional to.

    The variance is the mean over pixels of the squared standard error over the squared mean luminance, the noisiest
    hundredth left out.
    """
    width, height = 320, 180
    times = []
    for _ in range(3):
        film = new_film(scene, view, occasion, width, height)
        start = time.perf_counter()
        trace(scene, film, 0, 16, pool)
        times.append(time.perf_counter() - start)
    mean = film.auxiliary[..., columns.PASS_LUMINANCE] / film.counts
    relative = (film.noise / np.maximum(mean, 0.05 * mean.mean())) ** 2
    return statistics.median(times) * float(np.mean(relative[relative <= np.percentile(relative, 99)]))


def _cost_of(count: int, pool: ThreadPoolExecutor) -> float:
    project, compiler = hall(count)
    view, occasion = project.description.views[0], project.description.occasions[0]
    return cost(compiler.scene(project, view, occasion, 320, 180, 1, PROOF), view, occasion, pool)


def lights_500_over_20(pool: ThreadPoolExecutor) -> float:
    """Time to equal noise with 500 fixtures over that with 20, of the same flux in all."""
    return _cost_of(500, pool) / _cost_of(20, pool)


def groups_24_over_1(pool: ThreadPoolExecutor) -> float:
    """Time of tracing a hall of 48 fixtures in 24 light groups over that in one."""
    scenes = []
    for groups in (1, 24):
        project, compiler = hall(48, groups)
        view, occasion = project.description.views[0], project.description.occasions[0]
        scenes.append((compiler.scene(project, view, occasion, 320, 180, 1, PROOF), view, occasion))
    ratios = []
    for _ in range(7):
        times = []
        for scene, view, occasion in scenes:
            film = new_film(scene, view, occasion, 320, 180)
            start = time.perf_counter()
            trace(scene, film, 0, 8, pool)
            times.append(time.perf_counter() - start)
        ratios.append(times[1] / times[0])
    return statistics.median(ratios)


def press() -> None:
    """Make a 3840 x 2160 press with eight groups and print the peak memory in GB."""
    project, compiler = hall(48, 6)  # and sun and sky
    film = render(project, "v", "o", 3840, 2160, 2, 1, replace(PRESS, samples=2), compiler=compiler)
    remove_noise(film, "high")
    with tempfile.NamedTemporaryFile(suffix=".exr") as file:
        write_exr(film, file.name)
    print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 2**20)
