"""Small files that things are placed with in tests."""

from __future__ import annotations

import numpy as np

from valleylight.core.making.glb import Model, Surface, Thing, write_glb
from valleylight.core.making.shapes import box, polygon


def box_glb(side: float) -> bytes:
    """A box that stands on its own zero, of one plain material."""
    model = Model()
    model.surface(Surface("card", (0.4, 0.35, 0.3)))
    model.put(Thing("box").add("card", box([-side / 2, -side / 2, 0], [side / 2, side / 2, side])))
    return write_glb(model)


def ground_glb(slope_deg: float, path: bool = False) -> bytes:
    """Ground from -10 to 40 m, rising along x by a slope from zero at x = 0; with a path 2 m wide along x = 10 where that is wanted."""
    model = Model()
    model.surface(Surface("earth", (0.2, 0.16, 0.1)))
    rise = np.tan(np.radians(slope_deg))
    model.put(
        Thing("earth").add(
            "earth", polygon([(-10, -10, -10 * rise), (40, -10, 40 * rise), (40, 40, 40 * rise), (-10, 40, -10 * rise)])
        )
    )
    if path:
        model.put(Thing("path").add("earth", polygon([(9, -10, 0.05), (11, -10, 0.05), (11, 40, 0.05), (9, 40, 0.05)])))
    return write_glb(model)
