"""Contrast about the middle of the display scale: v^p / (v^p + (1 - v)^p) of v = x^(1/2.2)."""

from __future__ import annotations

from functools import lru_cache
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from valleylight.core.treatments.base import CURVE_STEPS, Operation, Pointwise, curve, number


class Contrast(Pointwise):
    """Darks darker and lights lighter; black, middle and white stay."""

    TITLE: ClassVar[str] = "Contrast"
    PLACE: ClassVar[int] = 50

    kind: Literal["contrast"] = "contrast"
    amount: float = number(0.0, -1, 1, "Amount", 0.02)

    def operation(self) -> Operation:
        return curve(contrast_curve(2.0 ** (0.8 * self.amount)))


@lru_cache(maxsize=64)
def contrast_curve(power: float) -> NDArray[np.float64]:
    """The S-curve over the square root of x."""
    v = np.linspace(0, 1, CURVE_STEPS + 1) ** (2 / 2.2)
    a, b = v**power, (1 - v) ** power
    return np.asarray((a / (a + b)) ** 2.2)
