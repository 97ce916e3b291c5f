"""How much air, aerosol and ozone lies between a point of the atmosphere and the sun.

Columns are in metres of the density at the ground (of ozone: at its peak), so they hold for every turbidity.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from valleylight.core.sky.constituents import (
    AEROSOL_HEIGHT_M,
    AIR_STEP_M,
    EARTH_M,
    LOG_AIR,
    OZONE_HALF_M,
    OZONE_PEAK_M,
    TOP_M,
)

HEIGHTS, ANGLES, STEPS = 48, 96, 160


@lru_cache(maxsize=1)
def column_table() -> NDArray[np.float64]:
    """Logarithm of the columns; shape (HEIGHTS, ANGLES, 3).

    Heights go with the square from ground to top, angles with the square from the local horizon (which sinks with the
    height) to the zenith.
    """
    height = (TOP_M - EARTH_M) * (np.arange(HEIGHTS) / (HEIGHTS - 1)) ** 2
    radius = EARTH_M + np.minimum(height, TOP_M - EARTH_M - 1.0)
    dip = np.arccos(EARTH_M / radius)
    share = (np.arange(ANGLES) / (ANGLES - 1)) ** 2
    altitude = -dip[:, None] + share * (np.pi / 2 + dip)[:, None]
    r = radius[:, None]
    cosine = np.sin(altitude)
    length = -r * cosine + np.sqrt(np.maximum((r * cosine) ** 2 + TOP_M**2 - r**2, 0.0))
    # Sum from both sides of the point nearest to the ground, where the density changes fastest.
    nearest = np.clip(-r * cosine, 0.0, length)
    total = np.zeros((HEIGHTS, ANGLES, 3))
    edges = np.linspace(0.0, 1.0, STEPS + 1) ** 2
    for start, reach in ((nearest, nearest), (nearest, nearest - length)):
        t = start[..., None] - reach[..., None] * (edges[1:] + edges[:-1]) / 2
        step = np.abs(reach)[..., None] * np.diff(edges)
        h = np.maximum(np.sqrt(r[..., None] ** 2 + t**2 + 2 * t * (r * cosine)[..., None]) - EARTH_M, 0.0)
        ozone = np.maximum(1 - np.abs(h - OZONE_PEAK_M) / OZONE_HALF_M, 0.0)
        total[..., 0] += (np.exp(np.interp(h / AIR_STEP_M, np.arange(len(LOG_AIR)), LOG_AIR)) * step).sum(-1)
        total[..., 1] += (np.exp(-h / AEROSOL_HEIGHT_M) * step).sum(-1)
        total[..., 2] += (ozone * step).sum(-1)
    return np.log(total + 1e-3)
