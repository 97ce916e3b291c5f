"""What a ray through the picture, or along any line, meets."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from valleylight.core.trace import rays
from valleylight.core.trace.render import Scene
from valleylight.core.trace.vertex import camera_ray


@dataclass(frozen=True)
class Meeting:
    """A point of the stage in metres, the unit normal towards the viewer, the distance in m."""

    point: tuple[float, float, float]
    normal: tuple[float, float, float]
    distance_m: float


def through_picture(scene: Scene, x: float, y: float) -> Meeting | None:
    """The surface at a film position, 0 to 1 from the left and from the top; None where the sky is seen."""
    ox, oy, oz, dx, dy, dz = camera_ray(scene.camera, x, y, 1.0, 1.0, 0.5, 0.5, 0.0)
    ray = rays.new_ray()
    origin, direction = np.array([ox, oy, oz]), np.array([dx, dy, dz])
    if not rays.closest(
        scene.arrays.handle, ray, ray.view(np.uint32), ox, oy, oz, dx, dy, dz, 1e6, rays.BY_LENS
    ):
        return None
    distance = float(ray[rays.FAR])
    normal = np.array(ray[12:15], float)
    normal /= np.linalg.norm(normal) or 1.0
    if normal @ direction > 0:
        normal = -normal
    p = origin + distance * direction
    return Meeting(
        (float(p[0]), float(p[1]), float(p[2])), (float(normal[0]), float(normal[1]), float(normal[2])), distance
    )
