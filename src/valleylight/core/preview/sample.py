"""A small picture of a material, made by the tracer: a ball or a board on a grey table, lit from a window on the left."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from valleylight.core.errors import StoppedError
from valleylight.core.film.denoise import clean_picture
from valleylight.core.finish.exposure import saturation_luminance
from valleylight.core.finish.look import apply
from valleylight.core.preview.studio import in_surround, quad, studio
from valleylight.core.project.description import Lens, Look, Stage, View
from valleylight.core.stage.model import Material, Mesh, MeshInstance, StageData, Texture
from valleylight.core.trace.render import new_film, trace
from valleylight.core.trace.scene.quality import Quality

QUALITY = Quality("sample", 0, 0, max_bounces=8, clamp_stops=2.0, soften=0.2)
SAMPLES = 24
SURROUND_CD_M2 = 500.0
RADIUS_M = 0.12


def sample_picture(
    material: Material, textures: tuple[Texture, ...] = (), shape: str = "ball", size: int = 128,
    stop: Callable[[], bool] = lambda: False,
) -> NDArray[np.uint8]:  # fmt: skip
    """Picture (size, size, 3) uint8 of a material. Patterns keep their true scale on a ball of 24 cm or a board of
    60 cm; water is shown as a ball of its glass. Raises StoppedError once `stop` says so."""
    shown, textures = _with_its_own(replace(material, ripple_m=0.0), textures)
    grey = Material(name="table", base=(0.30, 0.30, 0.30), roughness=0.6, specular=0.3)
    dark = Material(name="mark", base=(0.12, 0.12, 0.12), roughness=0.6, specular=0.3)
    lamp = Material(name="window", base=(0, 0, 0), specular=0.0, emission=(9000.0, 9000.0, 9200.0))
    meshes = [_table(1), *_marks(2), _window(3), _ball(0) if shape == "ball" else _board(0)]
    instances = tuple(MeshInstance(k, np.eye(4), name=f"part {k}") for k in range(len(meshes)))
    stage = StageData(tuple(meshes), instances, (shown, grey, dark, lamp), textures)
    lens = Lens(f_number=8, shutter_s=1 / 125, iso=640)
    view = View(
        key="v", name="v", position=(0, -0.9, 0.42), target=(0, 0, 0.1), focal_mm=95, keep_verticals=False, lens=lens
    )
    # A ball of glass is no window to look for.
    project, compiler = studio(stage, view, settings=Stage(find_openings=False))
    day = project.description.occasions[0]
    scene = in_surround(compiler.scene(project, view, day, size, size, 1, QUALITY), SURROUND_CD_M2)
    film = new_film(scene, view, day, size, size)
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        if trace(scene, film, 0, SAMPLES, pool, stop) is None:
            raise StoppedError
    passes = film.passes
    linear = clean_picture(film.balanced(), passes["surface_colour"], passes["normal"], "balanced")
    return apply(linear, Look(), saturation_cd_m2=saturation_luminance(lens))


def _with_its_own(material: Material, textures: tuple[Texture, ...]) -> tuple[Material, tuple[Texture, ...]]:
    """The material with only those pictures of the stage that it uses: laying out all of them would take longest."""
    base, relief, rough, alpha = old = (
        material.base_texture, material.relief_texture, material.rough_texture, material.alpha_texture
    )  # fmt: skip
    used = sorted(set(old) - {-1})
    new = {-1: -1, **{k: at for at, k in enumerate(used)}}
    own = replace(
        material, base_texture=new[base], relief_texture=new[relief], rough_texture=new[rough], alpha_texture=new[alpha]
    )
    return own, tuple(textures[k] for k in used)


def _mesh(points: NDArray[np.float64], normals: NDArray[np.float64], uv: NDArray[np.float64], triangles: NDArray[np.int64],
          material: int) -> Mesh:  # fmt: skip
    return Mesh(
        points.astype(np.float32), normals.astype(np.float32), uv.astype(np.float32), triangles.astype(np.uint32),
        np.full(len(triangles), material, np.int32),
    )  # fmt: skip


def _table(material: int) -> Mesh:
    return quad([(-3, -2, 0), (3, -2, 0), (3, 3, 0), (-3, 3, 0)], material)


def _marks(material: int) -> list[Mesh]:
    """Strips on the table, so that glass has something to bend."""
    return [
        quad([(x, -0.5, 0.0005), (x + 0.05, -0.5, 0.0005), (x + 0.05, 1.5, 0.0005), (x, 1.5, 0.0005)], material)
        for x in np.arange(-0.75, 0.75, 0.1)
    ]


def _window(material: int) -> Mesh:
    return quad([(-1.3, -0.5, 0.5), (-1.3, 0.3, 0.5), (-0.7, 0.3, 1.25), (-0.7, -0.5, 1.25)], material)


def _ball(material: int) -> Mesh:
    detail = 72
    v, u = np.linspace(-np.pi / 2, np.pi / 2, detail), np.linspace(0, 2 * np.pi, 2 * detail)
    d = np.stack([np.cos(v)[:, None] * np.cos(u), np.cos(v)[:, None] * np.sin(u), np.sin(v)[:, None] + 0 * u], -1)
    i, j = np.meshgrid(np.arange(detail - 1), np.arange(2 * detail - 1), indexing="ij")
    k = (i * 2 * detail + j).ravel()
    t = np.concatenate(
        [np.column_stack([k, k + 1, k + 2 * detail + 1]), np.column_stack([k, k + 2 * detail + 1, k + 2 * detail])]
    )
    n = d.reshape(-1, 3)
    uv = np.stack(np.broadcast_arrays(u[None] / np.pi, 0.5 - v[:, None] / np.pi), -1).reshape(-1, 2)
    return _mesh(n * RADIUS_M + [0, 0, RADIUS_M], n, uv, t, material)


def _board(material: int) -> Mesh:
    """A board that leans back."""
    return quad([(-0.3, 0.0, 0.0), (0.3, 0.0, 0.0), (0.3, 0.2, 0.3), (-0.3, 0.2, 0.3)], material)
