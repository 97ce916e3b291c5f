"""What a sequence costs over its frames made alone, and how still it is, on the demo's reading room."""

from __future__ import annotations

import time
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from valleylight.core.compose.composer import Composer
from valleylight.core.compose.sprites import Sprites
from valleylight.core.film.denoise import remove_noise
from valleylight.core.finish.look import apply
from valleylight.core.project.archive import LoadedProject
from valleylight.core.sequence.frame import Frame, FrameMaker, made_one_by_one
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import SKETCH

FRAMES, SIZE = 10, (480, 270)


def figures(project: LoadedProject, compiler: Compiler, pool: ThreadPoolExecutor) -> dict[str, float]:
    """`sequence_overhead`: frames of the walk through the room in a row, over the same moments made as pictures by themselves;
    `sequence_flicker`: of the walk stood still, the change from frame to frame over the noise of one frame traced alone."""
    walk = project.description.sequence("through-the-room").model_copy(update={"seconds": FRAMES / 24})
    maker = FrameMaker(compiler, Composer(Sprites(project.asset)), pool, project, walk, SIZE, "sketch")
    course = maker.course
    maker.make(0)
    start = time.perf_counter()
    made_one_by_one(maker, lambda number, frame: None)
    in_a_row = time.perf_counter() - start
    start = time.perf_counter()
    for number in course.frames():
        second = course.second_of(number)
        view, occasion = course.view(second), course.occasion(second)
        film = render(project, view, occasion, *SIZE, SKETCH.samples, number + 1, SKETCH, compiler=compiler)
        apply(remove_noise(film, "balanced"), project.description.look_for(view, occasion), occasion.light_levels())
    alone = time.perf_counter() - start
    # Stood still: the two stations so near each other that no pixel moves.
    first = walk.stations[0]
    near = first.model_copy(update={"position": (first.position[0] + 1e-5, *first.position[1:])})
    still = walk.model_copy(update={"stations": (first, near)})
    shown: list[Frame] = []
    made_one_by_one(
        FrameMaker(compiler, Composer(Sprites(project.asset)), pool, project, still, SIZE, "sketch"),
        lambda n, f: shown.append(f),
    )
    row = np.array([f.kept.picture.mean(-1) for f in shown[4:]])
    flicker = np.abs(np.diff(row, axis=0)).mean() / np.sqrt(2)
    view, occasion = course.view(0), course.occasion(0)
    two = [
        render(project, view, occasion, *SIZE, 3, seed, SKETCH, compiler=compiler)
        .balanced(occasion.light_levels())
        .mean(-1)
        for seed in (1, 2)
    ]
    return {
        "sequence_overhead": in_a_row / alone,
        "sequence_flicker": float(flicker / (np.abs(two[0] - two[1]).mean() / np.sqrt(2))),
    }
