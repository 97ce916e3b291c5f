"""The colours that light groups are traced with, so that they can be changed afterwards (see finish/balance.py)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.lamps import record
from valleylight.core.lamps.compile import Lamps
from valleylight.core.project.description import SURFACE_GROUP
from valleylight.core.stage import Material
from valleylight.core.trace.scene.lighting import Daylight

#: Of darker light no colour is told.
DARKEST = 1e-12


def light_colours(
    groups: tuple[str, ...], day: Daylight, lamps: Lamps, materials: tuple[Material, ...]
) -> dict[str, list[float]]:
    """RGB at luminance 1 of each light group that shines: of the sun above the clouds, of the sky's upper half by its mean, of a group
    of fixtures by their flux, of what shines by itself by its luminance."""
    sky = day.dome.rgb[len(day.dome.rgb) // 2 :]
    sums: dict[str, NDArray[np.float64]] = {"sun": day.sun_rgb_lx}
    for name in ("sky", "sky picture", "backdrop"):
        sums[name] = sky.mean((0, 1))
    shining = [np.array(m.emission) for m in materials if m.emits]
    sums[SURFACE_GROUP] = np.sum(shining, axis=0) if shining else np.zeros(3)
    for row in lamps.records:
        name = groups[int(row[record.GROUP])]
        # The colour's factor is of the profile's own flux: the mean intensity times 4 pi.
        sums[name] = sums.get(name, np.zeros(3)) + row[record.three(record.COLOUR)].astype(float) * float(
            row[record.MEAN]
        )
    made = {}
    for name in groups:
        luminance = float(sums.get(name, np.zeros(3)) @ LUMINANCE)
        if luminance > DARKEST:
            made[name] = [float(v) for v in sums[name] / luminance]
    return made
