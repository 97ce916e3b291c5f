"""Measures of a stage: plans, illuminance and what a ray meets."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import ArrayLike, NDArray

from valleylight.core.errors import InputError

if TYPE_CHECKING:
    from valleylight.core.project.archive import LoadedProject
    from valleylight.core.project.description import Occasion
    from valleylight.core.trace.scene.compiler import Compiler


def illuminance(
    project: LoadedProject,
    occasion: str | Occasion,
    points: ArrayLike,
    normals: ArrayLike,
    samples: int = 256,
    compiler: Compiler | None = None,
) -> NDArray[np.float64]:
    """Illuminance in lx (N,) on points (N, 3) in metres of the stage that face along normals (N, 3), at an occasion by key, name or
    object: all light, straight from sun, sky, fixtures and shining surfaces and by way of others, at the occasion's levels.

    Each point is asked with `samples` paths. Light is worked out for the very place; only what lies within a millimetre of it (and a
    millionth of its coordinates) casts no shadow there, so that a point may lie on a surface. Raises NotFoundError for an unknown
    occasion, InputError for points and normals that do not fit each other or are no finite numbers.
    """
    from valleylight.core.measure.incident import incident
    from valleylight.core.project.description import View
    from valleylight.core.trace.scene.compiler import Compiler
    from valleylight.core.trace.scene.quality import TRUE

    place, facing = np.atleast_2d(np.asarray(points, np.float64)), np.atleast_2d(np.asarray(normals, np.float64))
    if place.ndim != 2 or place.shape[1:] != (3,) or place.shape != facing.shape:
        raise InputError(f"points {place.shape} and normals {facing.shape} do not fit", "points", "Give both as (N, 3)")
    length = np.linalg.norm(facing, axis=1, keepdims=True)
    if not (np.isfinite(place).all() and np.isfinite(facing).all() and (length > 1e-9).all()):
        raise InputError("a point or a normal is no finite number, or a normal has no length", "normals", "Mend it")
    when = project.description.occasion(occasion) if isinstance(occasion, str) else occasion
    anywhere = View(key="anywhere", name="anywhere", position=(0, 0, 0), target=(1, 0, 0))
    view = project.description.views[0] if project.description.views else anywhere
    scene = (compiler or Compiler()).scene(project, view, when, 16, 16, 1, TRUE)
    return incident(scene, place, facing / length, samples).lux(when.light_levels())
