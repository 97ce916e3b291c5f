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


class WhiteBalance(Pointwise):
    """Light of this colour temperature is taken for white."""

    TITLE: ClassVar[str] = "White balance"
    PLACE: ClassVar[int] = 30

    kind: Literal["white_balance"] = "white_balance"
    kelvin: Annotated[float, Field(allow_inf_nan=False)] = number(
        6500.0, 1000, 25_000, "White", 50, "K", shown=(2000, 12000)
    )
    tint: float = number(0.0, -1, 1, "Tint", 0.02, description="Towards magenta above zero, green below")

    def operation(self) -> Operation:
        return matrix(white_balance_matrix(self.kelvin, self.tint))


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
    d = -2 * x + 12 * y + 3
    u, v = 4 * x / d, 6 * y / d + 0.02 * tint
    d = 2 * u - 8 * v + 4
    source, target = BRADFORD @ xyz(3 * u / d, 2 * v / d), BRADFORD @ xyz(*_D65_XY)
    adapt = np.linalg.inv(BRADFORD) @ np.diag(target / source) @ BRADFORD
    return np.asarray(XYZ_TO_RGB @ adapt @ RGB_TO_XYZ)
