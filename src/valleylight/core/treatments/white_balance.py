"""White balance: the colour that is to be grey.

Source: von Kries adaptation in Bradford cone responses (ICC.1:2010, annex E); the locus of daylight and lamps by `colour.temperature`;
the tint moves along CIE 1960 v.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from valleylight.core.colour.rgb import RGB_TO_XYZ, XYZ_TO_RGB
from valleylight.core.colour.temperature import kelvin_xy
from valleylight.core.treatments.base import Operation, Pointwise, matrix, number

#: Cone responses of the Bradford transform.
BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
_D65_XY = (0.3127, 0.3290)
#: What a tint of 1 moves v by, and the range of temperatures.
TINT_V, WITHIN_K = 0.02, (1000.0, 25_000.0)


class WhiteBalance(Pointwise):
    """Light of this colour temperature is taken for white."""

    TITLE: ClassVar[str] = "White balance"
    PLACE: ClassVar[int] = 30

    kind: Literal["white_balance"] = "white_balance"
    kelvin: Annotated[float, Field(allow_inf_nan=False)] = number(
        6500.0, *WITHIN_K, "White", 50, "K", shown=(2000, 12000)
    )
    tint: float = number(0.0, -1, 1, "Tint", 0.02, description="Towards magenta above zero, green below")

    def operation(self) -> Operation:
        return matrix(white_balance_matrix(self.kelvin, self.tint))


def for_grey(rgb: NDArray[np.floating]) -> WhiteBalance | None:
    """The setting under which a linear colour (3,) becomes grey, as nearly as its range allows; None for black."""
    x, y, z = RGB_TO_XYZ @ np.asarray(rgb, float)
    total = x + y + z
    if not np.isfinite(total) or total <= 0 or y <= 0:
        return None
    wanted_u, wanted_v = _uv(x / total, y / total)
    low, high = WITHIN_K
    for _ in range(60):  # u falls as the temperature rises
        middle = (low * high) ** 0.5
        low, high = (middle, high) if _uv(*kelvin_xy(middle))[0] > wanted_u else (low, middle)
    kelvin = float(round(middle))
    tint = (wanted_v - _uv(*kelvin_xy(kelvin))[1]) / TINT_V
    return WhiteBalance(kelvin=float(np.clip(kelvin, *WITHIN_K)), tint=round(float(np.clip(tint, -1, 1)), 3))


def _uv(x: float, y: float) -> tuple[float, float]:
    """CIE 1960 u, v."""
    d = -2 * x + 12 * y + 3
    return 4 * x / d, 6 * y / d


@lru_cache(maxsize=64)
def white_balance_matrix(kelvin: float, tint: float = 0.0) -> NDArray[np.float64]:
    """Linear RGB matrix that takes a white of this colour temperature to D65 (von Kries in Bradford responses).

    The tint moves the assumed white along CIE 1960 v by 0.02 at most, as lamps off the locus do.
    """

    def xyz(x: float, y: float) -> NDArray[np.float64]:
        return np.array([x / y, 1.0, (1 - x - y) / y])

    x, y = kelvin_xy(kelvin)
    if kelvin == 6500.0:
        x, y = _D65_XY  # the neutral setting leaves the picture as it is
    u, v = _uv(x, y)
    v += TINT_V * tint
    d = 2 * u - 8 * v + 4
    source, target = BRADFORD @ xyz(3 * u / d, 2 * v / d), BRADFORD @ xyz(*_D65_XY)
    adapt = np.linalg.inv(BRADFORD) @ np.diag(target / source) @ BRADFORD
    return np.asarray(XYZ_TO_RGB @ adapt @ RGB_TO_XYZ)
