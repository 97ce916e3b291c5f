"""Compile every kernel once, by doing a tiny piece of each kind of work; later runs load them from disk."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from datetime import datetime

import numpy as np

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Fixture, FixtureKind, Look, Occasion, Project, View
from valleylight.core.project.sky import CloudLayer, Clouds, Sky


def compile_kernels() -> Iterator[tuple[int, int, str]]:
    """Yields (number, total, what) before each step."""
    steps: list[tuple[str, Callable[[], object]]] = [("path integrator", _trace), ("finishing", _finish)]
    for number, (what, step) in enumerate(steps, 1):
        yield number, len(steps), what
        step()


def _tiny_project() -> LoadedProject:
    text = "IES\nTILT=NONE\n1 -1 1 2 1 1 2 0 0 0\n1 1 1\n0 90\n0\n100 50\n"
    sky = Sky(clouds=Clouds(layers=(CloudLayer(kind="sheet", cover=0.5),)))
    return LoadedProject(
        Project(
            name="warm-up",
            views=(View(key="v", name="v", position=(0, 0, 1), target=(0, 1, 1)),),
            occasions=(Occasion(key="o", name="o", when=datetime(2026, 6, 21, 12), sky=sky),),
            kinds=(FixtureKind(key="k", name="k", profile="0" * 64, body="downlight"),),
            fixtures=(Fixture(key="f", kind="k", position=(0, 2, 2), aim=(0, 2, 0)),),
        ),
        lambda sha256: text.encode(),
    )


def _trace() -> None:
    from valleylight.core.measure import illuminance, incident, pick, sunhours
    from valleylight.core.trace.render import SKETCH, Compiler, new_film, trace_tiles

    project, compiler = _tiny_project(), Compiler()
    view, occasion = project.description.views[0], project.description.occasions[0]
    scene = compiler.scene(project, view, occasion, 16, 9, 1, SKETCH)
    from concurrent.futures import ThreadPoolExecutor

    with ThreadPoolExecutor(1) as pool:
        trace_tiles(scene, new_film(scene, view, occasion, 16, 9), [(0, 0, 16, 9)], 0, 1, pool)
    illuminance.on_level(scene, {}, np.array([0.0]), np.array([0.0]), 0.0)
    incident.incident(scene, np.zeros((1, 3)), np.array([[0.0, 0.0, 1.0]]), 1)
    pick.through_picture(scene, 0.5, 0.5)
    sunhours.open_sky(scene, (0.0, 0.0, 1.0), np.array([[0.0, 0.0, 1.0]]))


def _finish() -> None:
    from valleylight.core.finish.look import apply
    from valleylight.core.project.description import Bloom

    picture = np.ones((64, 64, 3), np.float32) * LUMINANCE.astype(np.float32)
    look = Look()
    lively = tuple(t.model_copy(update={"on": True}) if isinstance(t, Bloom) else t for t in look.treatments)
    apply(picture, look.model_copy(update={"treatments": lively}))
