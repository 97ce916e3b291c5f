"""What a ray through the picture, or along any line, meets."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.trace.arrays import layout
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.intersect.vertex import camera_ray
from valleylight.core.trace.nextevent.passage import FAR
from valleylight.core.trace.scene.compiler import RenderScene

Point = tuple[float, float, float]


@dataclass(frozen=True)
class Meeting:
    """A point of the stage in metres, the unit normal towards the viewer, the distance in m, whose it is, and whether the front of
    its face was met."""

    point: Point
    normal: Point
    distance_m: float
    object: str = ""
    material: str = ""
    front: bool = True


def through_picture(scene: RenderScene, x: float, y: float) -> Meeting | None:
    """The surface at a film position, 0 to 1 from the left and from the top; None where the sky is seen."""
    ray = camera_ray(scene.camera, x, y, 1.0, 1.0, 0.5, 0.5, 0.0)
    x, y, z = np.array(ray[:3]) + scene.origin
    return along(scene, (float(x), float(y), float(z)), ray[3:], rays.BY_LENS)


def along(scene: RenderScene, origin: Point, direction: Point, mask: int = rays.EVERYTHING) -> Meeting | None:
    """The first surface from a point along a direction; None where there is none."""
    o, d = np.array(origin, float) - scene.origin, np.array(direction, float)
    d /= np.linalg.norm(d)
    ray = rays.new_ray()
    word = ray.view(np.uint32)
    a, gone = scene.arrays, 0.0
    while True:  # past drops and flakes, which are there for a moment
        x, y, z, dx, dy, dz = (float(v) for v in (*(o + gone * d), *d))
        if not rays.closest(a.handle, ray, word, x, y, z, dx, dy, dz, FAR, mask):
            return None
        record, geometry = _record(scene, word)
        if a.materials[int(record[layout.TRIANGLE_MATERIAL]), layout.SCARCE] <= 0.0:
            break
        gone += float(ray[rays.FAR]) + 1e-4
    distance = gone + float(ray[rays.FAR])
    normal = np.array(ray[rays.HIT_NORMAL : rays.HIT_NORMAL + 3], float)
    normal /= np.linalg.norm(normal) or 1.0
    turn = int(a.geometry_transform[geometry])
    body = int(record[layout.TRIANGLE_OBJECT]) if turn < 0 else int(a.geometry_object[geometry])
    if turn >= 0:
        normal = a.transforms[turn, layout.TRANSFORM_NORMALS : layout.TRANSFORM_NORMALS + 9].reshape(3, 3) @ normal
        normal /= np.linalg.norm(normal) or 1.0
    front = float(normal @ d) <= 0
    if not front:
        normal = -normal
    p = scene.origin + o + distance * d
    return Meeting(
        (float(p[0]), float(p[1]), float(p[2])), (float(normal[0]), float(normal[1]), float(normal[2])), distance,
        scene.geometry.objects[body], scene.materials[int(record[layout.TRIANGLE_MATERIAL])].name, front,
    )  # fmt: skip


def _record(scene: RenderScene, word: NDArray[np.uint32]) -> tuple[NDArray[np.float32], int]:
    """The triangle's record under a hit, and the number of its geometry."""
    instance = int(word[rays.HIT_INSTANCE])
    geometry = int(word[rays.HIT_GEOMETRY]) if instance == rays.NOTHING else instance
    a = scene.arrays
    return a.triangles[a.geometry_first[geometry] + int(word[rays.HIT_PRIMITIVE])], geometry
