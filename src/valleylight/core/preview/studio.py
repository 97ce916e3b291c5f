"""Small scenes given outright, without files: a stage, a view and perhaps a fixture, by night."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import datetime
from typing import Any

import numpy as np
from numpy.typing import NDArray

from valleylight.core.errors import StoppedError
from valleylight.core.film.denoise import clean_picture
from valleylight.core.finish.exposure import saturation_luminance
from valleylight.core.finish.look import apply
from valleylight.core.photometry.model import Photometry
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Fixture, FixtureKind, Look, Occasion, Project, Site, Stage, Sun, View
from valleylight.core.project.sky import Sky
from valleylight.core.stage.model import Mesh, StageData
from valleylight.core.trace.render import new_film, trace
from valleylight.core.trace.scene.compiler import Compiler, RenderScene
from valleylight.core.trace.scene.quality import Quality

Corner = tuple[float, float, float]
NIGHT = Sun(true_to_place=False, altitude_deg=-30.0)


def studio(
    stage: StageData, view: View, fixtures: Iterable[Fixture] = (), kinds: Iterable[FixtureKind] = (),
    profile: Photometry | None = None, settings: Stage | None = None, site: Site | None = None, **occasion: Any,
) -> tuple[LoadedProject, Compiler]:  # fmt: skip
    """A project whose stage, and the profile of all its fixtures, are given outright, and a compiler that knows them. Without
    more, it is night. Its view and its occasion are the only ones."""
    wanted = {"sun": NIGHT, "sky": Sky(cie_type=12), **occasion}
    wanted["sky"] = wanted["sky"].model_copy(update={"haze": False})
    description = Project(
        name="studio", site=site or Site(), stage=settings or Stage(), views=(view,), kinds=tuple(kinds), fixtures=tuple(fixtures),
        occasions=(Occasion(key="o", name="o", when=datetime(2026, 6, 21, 12), **wanted),),
    )  # fmt: skip
    return LoadedProject(description, lambda sha: b""), Compiler(stage, profile)


def quad(corners: list[Corner], material: int) -> Mesh:
    """One flat quadrangle."""
    p = np.array(corners, np.float32)
    n = np.cross(p[1] - p[0], p[2] - p[0])
    n = np.tile(n / np.linalg.norm(n), (4, 1)).astype(np.float32)
    triangles = np.array([[0, 1, 2], [0, 2, 3]], np.uint32)
    uv = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], np.float32)
    return Mesh(p, n, uv, triangles, np.full(2, material, np.int32))


def in_surround(scene: RenderScene, luminance_cd_m2: float) -> RenderScene:
    """The scene under an even neutral sky and ground of a luminance; 0 for darkness."""
    a = scene.arrays
    even = {name: np.full_like(getattr(a, name), luminance_cd_m2) for name in ("dome", "backdrop")}
    return replace(scene, arrays=a._replace(**even))


def small_picture(
    project: LoadedProject, compiler: Compiler, size: tuple[int, int], quality: Quality, samples: int, surround_cd_m2: float,
    stop: Callable[[], bool] = lambda: False,
) -> NDArray[np.uint8]:  # fmt: skip
    """Picture (H, W, 3) uint8 of a studio's view in an even surround, cleaned, at the exposure of its lens. Raises StoppedError once
    `stop` says so."""
    view, occasion = project.description.views[0], project.description.occasions[0]
    scene = in_surround(compiler.scene(project, view, occasion, *size, 1, quality), surround_cd_m2)
    film = new_film(scene, view, occasion, *size)
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        if trace(scene, film, 0, samples, pool, stop) is None:
            raise StoppedError
    linear = clean_picture(film.balanced(), *film.guides, "balanced")
    return apply(linear, Look(), saturation_cd_m2=saturation_luminance(view.lens))
