"""A small picture of an object, made by the tracer: on a grey floor before a paler wall, lit from a window on the left."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from valleylight.core.preview.studio import quad, small_picture, studio
from valleylight.core.project.description import Lens, Stage, View
from valleylight.core.stage.model import Material, MeshInstance, StageData
from valleylight.core.trace.scene.quality import Quality

QUALITY = Quality("thing", 0, 0, max_bounces=6, clamp_stops=2.0, soften=0.2)
SAMPLES = 20
SURROUND_CD_M2 = 420.0
#: Half the angle of view across, and how far from the middle one looks down on an object, in shares of its size.
_HALF_ANGLE, _ABOVE = 0.2, 0.38


def thing_picture(stage: StageData, size: int = 144, stop: Callable[[], bool] = lambda: False) -> NDArray[np.uint8]:
    """Picture (size, size, 3) uint8 of a stage seen from its front, three quarters on. Raises StoppedError once `stop` says so."""
    low, high = stage.bounds()
    middle, reach = (low + high) / 2, float(np.linalg.norm(high - low)) / 2
    first, numbers = len(stage.materials), len(stage.meshes)
    grey = Material(name="floor", base=(0.45, 0.45, 0.44), roughness=0.8, specular=0.2)
    lamp = Material(name="window", base=(0, 0, 0), specular=0.0, emission=(5200.0, 5150.0, 5100.0))
    s, (x, y), z = reach * 12, middle[:2], float(low[2]) - 1e-4 * reach
    floor = quad([(x - s, y - s, z), (x + s, y - s, z), (x + s, y + s, z), (x - s, y + s, z)], first)
    w = reach * 1.5
    at = middle + np.array([-2.6, -1.2, 2.2]) * reach
    window = quad(
        [
            tuple(at + w * np.array(c))
            for c in ((0.45, -0.9, -0.6), (0.45, -0.9, 0.6), (-0.45, 0.9, 0.6), (-0.45, 0.9, -0.6))
        ],
        first + 1,
    )  # type: ignore[misc]
    meshes = (*stage.meshes, floor, window)
    instances = (
        *(replace(i, layer="") for i in stage.instances), MeshInstance(numbers, np.eye(4), name="floor"),
        MeshInstance(numbers + 1, np.eye(4), name="window"),
    )  # fmt: skip
    shown = StageData(meshes, instances, (*stage.materials, grey, lamp), stage.textures)
    ahead = np.array([0.52, -1.0, _ABOVE])
    position = middle + ahead / np.linalg.norm(ahead) * reach * 1.06 / np.tan(_HALF_ANGLE)
    view = View(
        key="v", name="v", position=tuple(position.tolist()), target=tuple(middle.tolist()), format=(1, 1),
        focal_mm=18 / np.tan(_HALF_ANGLE), keep_verticals=False, lens=Lens(f_number=8, shutter_s=1 / 125, iso=1600),
    )  # fmt: skip
    project, compiler = studio(shown, view, settings=Stage(find_openings=False))
    return small_picture(project, compiler, (size, size), QUALITY, SAMPLES, SURROUND_CD_M2, stop)
