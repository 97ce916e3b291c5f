"""A goniometer for what shines in the stage: the stand-in for the photometric laboratory.

The object is taken out of the stage and looked at by the tracer from far away in every direction; its luminous intensity
there is the luminance summed over the projected area, I = sum L dA (CIE 121-1996, section on far-field photometry: the
distance is many times the size). Light from within, as of a lamp in its shade, is traced on its way out.
"""

from __future__ import annotations

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.errors import InputError
from valleylight.core.film.film import Film
from valleylight.core.photometry.model import LuminousOpening, Photometry
from valleylight.core.preview.studio import in_surround, studio
from valleylight.core.project.description import Fixture, FixtureKind, View
from valleylight.core.stage.model import StageData
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.render import trace_tiles
from valleylight.core.trace.scene.compiler import RenderScene
from valleylight.core.trace.scene.quality import Quality

Array = NDArray[np.float64]
#: Distance of the look over the object's size, pixels across the object, and samples of each.
FAR, PIXELS, SAMPLES = 60.0, 32, 16
C_DEG, GAMMA_DEG = np.arange(0.0, 360.0, 15.0), np.arange(0.0, 180.1, 5.0)
#: Least spread over C, as a share of the peak, for which planes are kept apart.
ROUND_SHARE = 0.02
_VIEW = View(key="v", name="v", position=(0, -1, 0), target=(0, 0, 0))  # its lens is turned to each direction in turn
_QUALITY = Quality("goniometer", 0, 0, max_bounces=12, sky_rows=32)


def measure_object(
    stage: StageData, names: frozenset[str], c_deg: Array = C_DEG, gamma_deg: Array = GAMMA_DEG, name: str = "Measured"
) -> Photometry:
    """The distribution of the objects of these names, by themselves. Raises InputError when none of them shines."""
    kept = tuple(p for p in stage.instances if p.name in names)
    if not kept:
        raise InputError(
            f"there is no object {', '.join(sorted(names))!r}", "objects", "Point at an object of the stage"
        )
    alone = replace(stage, instances=kept, openings=())
    low, high = alone.bounds()
    return _measure(alone, (), (), low, high, c_deg, gamma_deg, name)


def measure_fixture(
    fixture: Fixture, kind: FixtureKind, profile: Photometry, c_deg: Array = C_DEG, gamma_deg: Array = GAMMA_DEG
) -> Photometry:
    """The distribution of a placed fixture's own body, as the lens sees it shine."""
    upright = fixture.model_copy(update={
        "position": (0.0, 0.0, 0.0), "aim": (0.0, 0.0, -1.0), "turn_deg": 0.0, "percent": 100.0, "on": True,
    })  # fmt: skip
    o = profile.opening
    half = max(o.width_m, o.length_m, 0.1) * 0.75 + 0.05
    return _measure(
        StageData(), (upright,), (kind,), np.full(3, -half), np.full(3, half), c_deg, gamma_deg, kind.name, profile
    )


def _measure(
    stage: StageData, fixtures: tuple[Fixture, ...], kinds: tuple[FixtureKind, ...], low: Array, high: Array, c_deg: Array,
    gamma_deg: Array, name: str, profile: Photometry | None = None,
) -> Photometry:  # fmt: skip
    centre, size = (low + high) / 2, float(np.linalg.norm(high - low))
    project, compiler = studio(stage, _VIEW, fixtures, kinds, profile)
    night = project.description.occasions[0]
    scene = in_surround(compiler.scene(project, _VIEW, night, PIXELS, PIXELS, 1, _QUALITY), 0.0)
    half = size / 2 * 1.05
    distance = FAR * size
    area = (2 * half / PIXELS) ** 2
    table = np.zeros((len(c_deg), len(gamma_deg)))
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        for j, gamma in enumerate(gamma_deg):
            # Every plane shares its poles. The pixels lie on a plane through the centre, square to the look.
            planes = c_deg[:1] if gamma in (0.0, 180.0) else c_deg
            table[:, j] = [
                area * _luminance(scene, centre, float(c), float(gamma), distance, half, pool) for c in planes
            ]
    if table.max() <= 0:
        raise InputError(
            "it gives no light", "objects", "Point at something that shines, or give it an emitting surface"
        )
    extent = high - low
    opening = LuminousOpening("box", float(extent[0]), float(extent[1]), float(extent[2]))
    if np.ptp(table, axis=0).max() <= ROUND_SHARE * table.max():
        return Photometry(np.zeros(1), gamma_deg, table.mean(0)[None], name, "", None, 0.0, opening)
    whole = np.concatenate([c_deg, [360.0]])
    return Photometry(whole, gamma_deg, np.vstack([table, table[:1]]), name, "", None, 0.0, opening)


def _luminance(
    scene: RenderScene,
    centre: Array,
    c_deg: float,
    gamma_deg: float,
    distance: float,
    half: float,
    pool: ThreadPoolExecutor,
) -> float:
    """Sum over the pixels of the luminance in cd/m2 seen from a direction."""
    c, g = np.radians(c_deg), np.radians(gamma_deg)
    out = np.array([np.sin(g) * np.cos(c), np.sin(g) * np.sin(c), -np.cos(g)])
    aside = np.array([-np.sin(c), np.cos(c), 0.0])
    camera = np.zeros(layout.CAMERA_WIDTH)
    (
        camera[layout.three(layout.CAMERA_PLACE)],
        camera[layout.three(layout.CAMERA_FORWARD)],
        camera[layout.three(layout.CAMERA_RIGHT)],
        camera[layout.three(layout.CAMERA_UP)],
    ) = centre + distance * out, -out, aside, np.cross(aside, -out)
    camera[layout.CAMERA_HALF_WIDTH] = camera[layout.CAMERA_HALF_HEIGHT] = half / distance
    camera[layout.CAMERA_FOCUS], camera[layout.three(layout.CAMERA_FOCUS_NORMAL)] = distance, -out
    looked = replace(scene, camera=camera)
    film = Film.empty(PIXELS, PIXELS, scene.group_names)
    side = PIXELS // 2
    quarters = [(x, y, x + side, y + side) for x in (0, side) for y in (0, side)]
    trace_tiles(looked, film, quarters, 0, SAMPLES, pool)
    film.samples = SAMPLES
    return float((film.balanced() @ LUMINANCE.astype(np.float32)).sum())
