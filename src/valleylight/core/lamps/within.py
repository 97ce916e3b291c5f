"""The fixture in a lamp of the catalogue: an opal bulb that shines evenly, where the lamp holds it."""

from __future__ import annotations

import numpy as np

from valleylight.core.photometry.model import LuminousOpening, Photometry
from valleylight.core.project.description import Placement, Point
from valleylight.core.stage.assembly import matrix_of

#: Diameter, flux and colour of a bulb where nothing else is said (common practice).
BULB_M, BULB_LUMENS, BULB_KELVIN = 0.07, 600.0, 2700.0
#: How far below the bulb its aim is put.
_AIM_M = 1.0
_STEP_DEG = 2.5


def bulb_profile() -> Photometry:
    """An opal bulb: flux / 4 pi in every direction, from a sphere of its size."""
    gamma = np.arange(0.0, 180.0 + _STEP_DEG / 2, _STEP_DEG)
    even = np.full((1, len(gamma)), BULB_LUMENS / (4 * np.pi))
    opening = LuminousOpening("sphere", BULB_M, BULB_M, BULB_M)
    return Photometry(np.zeros(1), gamma, even, "Opal bulb", "", None, 0.0, opening)


def place_of_bulb(thing: Placement, held_at: Point) -> tuple[Point, Point]:
    """Place and aim in metres of the stage of a bulb that a thing holds at a point of its own frame."""
    matrix = matrix_of(thing)
    x, y, z = np.array(held_at) if matrix is None else matrix[:3, :3] @ held_at + matrix[:3, 3]
    at = round(float(x), 4), round(float(y), 4), round(float(z), 4)
    return at, (at[0], at[1], round(at[2] - _AIM_M, 4))
