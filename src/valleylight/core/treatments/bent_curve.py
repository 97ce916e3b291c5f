"""A curve bent by points, over the scale of the display: piecewise cubic through them that never turns back between two.

Source: F. N. Fritsch, R. E. Carlson, Monotone Piecewise Cubic Interpolation, SIAM J. Numer. Anal. 17, 1980 (scipy's Pchip).
"""

from __future__ import annotations

from functools import lru_cache
from itertools import pairwise
from typing import Annotated, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, field_validator

from valleylight.core.errors import InputError
from valleylight.core.treatments.base import CURVE_STEPS, Operation, Pointwise, curve

_Share = Annotated[float, Field(ge=0, le=1)]
#: Codes stand for light by this power, near enough to sRGB for a scale to bend on.
GAMMA = 2.2
NARROWEST = 0.005


class BentCurve(Pointwise):
    """From dark to light as the points lie: right is what comes in, up what goes out."""

    TITLE: ClassVar[str] = "Curve by points"
    PLACE: ClassVar[int] = 44
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["bent_curve"] = "bent_curve"
    points: tuple[tuple[_Share, _Share], ...] = Field(
        ((0.0, 0.0), (0.25, 0.22), (0.75, 0.78), (1.0, 1.0)), min_length=2, max_length=16,
        description="In and out on the display's scale, 0 black to 1 white",
    )  # fmt: skip

    @field_validator("points")
    @classmethod
    def _one_after_the_other(cls, points: tuple[tuple[float, float], ...]) -> tuple[tuple[float, float], ...]:
        if any(b[0] - a[0] < NARROWEST for a, b in pairwise(points)):
            raise ValueError("its points must stand one right of the other; move or take away those that do not")
        return points

    def handles(self) -> list[tuple[str, str, float]]:
        """None: its points are taken hold of themselves."""
        return []

    def bent(self, field: str, stops: float, value: float) -> BentCurve:
        raise InputError(f"the curve has no handle {field!r}", "field", "Move its points")

    def operation(self) -> Operation:
        return curve(through(self.points))


@lru_cache(maxsize=64)
def through(points: tuple[tuple[float, float], ...]) -> NDArray[np.float64]:
    """Values over the square root of what comes in (CURVE_STEPS + 1,); level beyond the outermost points."""
    from scipy.interpolate import PchipInterpolator

    at, to = np.array(points).T
    codes = np.linspace(0, 1, CURVE_STEPS + 1) ** (2 / GAMMA)
    return np.asarray(np.clip(PchipInterpolator(at, to)(np.clip(codes, at[0], at[-1])), 0, 1) ** GAMMA)
