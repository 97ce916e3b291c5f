"""Where a lens stands: how high over the ground, and how far from what is about it."""

from __future__ import annotations

import math
from dataclasses import dataclass

from valleylight.core.measure import pick
from valleylight.core.project.description import View
from valleylight.core.trace.scene.compiler import RenderScene


@dataclass(frozen=True)
class Standing:
    """Distances in m from the lens to the first surface; None where there is none. `ahead` is along the level part of the lens's axis;
    `subject` is what is met in the middle of the picture; `ground_z` the height of the ground in the stage's own coordinates."""

    ground_z: float | None
    floor: float | None
    ceiling: float | None
    ahead: float | None
    behind: float | None
    left: float | None
    right: float | None
    subject: float | None


def standing(scene: RenderScene, view: View) -> Standing:
    """What is about the lens of a view. The scene may be of any picture of that view."""
    x, y = (view.target[k] - view.position[k] for k in (0, 1))
    length = math.hypot(x, y)
    x, y = (x / length, y / length) if length > 1e-9 else (0.0, 1.0)

    def to(dx: float, dy: float, dz: float) -> float | None:
        met = pick.along(scene, view.position, (dx, dy, dz))
        return None if met is None else met.distance_m

    middle = pick.through_picture(scene, 0.5, 0.5)
    floor = to(0, 0, -1)
    return Standing(
        ground_z=None if floor is None else view.position[2] - floor, floor=floor, ceiling=to(0, 0, 1), ahead=to(x, y, 0), behind=to(-x, -y, 0), left=to(-y, x, 0),
        right=to(y, -x, 0), subject=None if middle is None else middle.distance_m,
    )  # fmt: skip
