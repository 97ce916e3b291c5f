"""What a lens on its path would run into, and what is to be drawn of the path."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from valleylight.core.measure.pick import Point, along
from valleylight.core.sequence.course import Course
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.scene.compiler import RenderScene

#: The path is tried in so many pieces, and so many of what it meets are told.
PIECES, MOST_TOLD = 240, 12
#: A lens is no point: it must have so much room about it, in m.
ROOM_M = 0.08


@dataclass(frozen=True)
class Met:
    """What the lens runs into, and when, in s."""

    second: float
    object: str
    material: str


def met_on_the_way(scene: RenderScene, course: Course) -> list[Met]:
    """What stands in the way of the lens, each thing once where it is first met. A lens stands still: none."""
    if not course.moves:
        return []
    seconds = np.linspace(0, course.sequence.seconds, PIECES + 1)
    places = np.array([course.view(float(s)).position for s in seconds])
    found: dict[tuple[str, str], Met] = {}
    for k in range(PIECES):
        way = places[k + 1] - places[k]
        length = float(np.linalg.norm(way))
        if length < 1e-6:
            continue
        hit = along(scene, _point(places[k]), _point(way), rays.BY_LENS)
        if hit is not None and hit.distance_m <= length + ROOM_M:
            found.setdefault((hit.object, hit.material), Met(float(seconds[k]), hit.object, hit.material))
    return list(found.values())[:MOST_TOLD]


def _point(values: np.ndarray[tuple[int], np.dtype[np.float64]]) -> Point:
    return float(values[0]), float(values[1]), float(values[2])
