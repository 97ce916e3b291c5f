"""The colour of the sky over a day as one display colour an hour, for the dayline."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import LUMINANCE, srgb_encode
from valleylight.core.sky.illuminance import sky_horizontal_lx
from valleylight.core.sky.scattering import unit_colour_grid

#: Sun altitudes (degrees) at which the colour is computed; between them it is interpolated.
_KNOTS = np.array([-17.0, -12, -9, -6, -4, -2, 0, 2, 5, 10, 20, 35, 60])


@lru_cache(maxsize=16)
def _knot_colours(turbidity: float) -> NDArray[np.float64]:
    """Linear display RGB at the knots: low sky and zenith mixed, luminance compressed to the eye's range."""
    rows = []
    for altitude in _KNOTS:
        # Below -8 degrees the single-scattered light is too faint to carry the colour of the sky.
        grid = unit_colour_grid(float(max(altitude, -8.0)), turbidity)
        low = 0.6 * np.exp(-(((altitude + 1.0) / 5.0) ** 2))  # the glow on the horizon belongs to a low sun
        unit = low * grid[3, ::4].mean(0) + (1 - low) * 0.5 * (grid[10, 7] + grid[-1, 0])
        unit = unit / (unit @ LUMINANCE)
        lux = sky_horizontal_lx(float(altitude), 12)
        bright = np.clip((np.log10(lux) + 1.8) / (np.log10(12_000) + 1.8), 0.0, 1.0)
        rows.append(unit * (0.004 + 0.42 * bright**2.6))
    return np.array(rows)


def sky_colours(altitude_deg: NDArray[np.float64], turbidity: float) -> list[str]:
    """#rrggbb for each altitude of the sun (N,)."""
    knots = _knot_colours(round(turbidity, 1))
    rgb = np.stack([np.interp(altitude_deg, _KNOTS, knots[:, c]) for c in range(3)], -1)
    code = np.round(srgb_encode(np.minimum(rgb, 1.0)) * 255).astype(int)
    return ["#%02x%02x%02x" % tuple(row) for row in code]
