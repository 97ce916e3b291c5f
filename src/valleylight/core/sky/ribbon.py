"""The colour of the sky over a day as one display colour an hour, for the dayline."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import LUMINANCE, srgb_encode
from valleylight.core.sky import clear
from valleylight.core.sky.atmosphere import sky_fields
from valleylight.core.sky.build import REGION_ALBEDO
from valleylight.core.sky.frames import whole
from valleylight.core.sky.illuminance import NIGHT_LX

#: Sun altitudes (degrees) at which the colour is computed; between them it is interpolated.
_KNOTS = np.array([-18.0, -14, -11, -9, -7.5, -6, -5, -4, -3, -2, -1, 0, 1, 2, 4, 7, 10, 15, 20, 28, 35, 45, 60, 75])
_ROWS = 24
#: The darkest night in the ribbon, and the range of the eye from night to day, in decades.
_FLOOR, _DECADES = 0.006, 7.4


@lru_cache(maxsize=16)
def _knot_colours(turbidity: float) -> NDArray[np.float64]:
    """Linear display RGB at the knots: the sky of a band from horizon to half height towards and aside of the sun, its luminance
    compressed to what paper can show."""
    rows = []
    for altitude in _KNOTS:
        out = np.zeros((_ROWS, 2 * _ROWS, 3))
        clear.lay_clear(
            sky_fields(turbidity, REGION_ALBEDO, float(altitude)), 0.0, float(np.radians(altitude)), 0.0, 1.0, whole(_ROWS), 0, _ROWS,
            out,
        )  # fmt: skip
        band = (
            out[_ROWS // 2 + 1 : _ROWS // 2 + 7, 4 : _ROWS + 1].mean((0, 1))
            + np.array([1.0, 1.0, 1.25]) * NIGHT_LX / np.pi
        )
        luminance = float(band @ LUMINANCE)
        bright = np.clip((np.log10(luminance) + 3.7) / _DECADES, 0, 1)
        rows.append(band / luminance * (_FLOOR + 0.5 * bright**3.2))
    return np.array(rows)


def sky_colours(altitude_deg: NDArray[np.float64], turbidity: float) -> list[str]:
    """#rrggbb for each altitude of the sun (N,)."""
    knots = _knot_colours(round(turbidity, 1))
    rgb = np.stack([np.interp(altitude_deg, _KNOTS, knots[:, c]) for c in range(3)], -1)
    code = np.round(srgb_encode(np.clip(rgb, 0.0, 1.0)) * 255).astype(int)
    return ["#%02x%02x%02x" % tuple(row) for row in code]
