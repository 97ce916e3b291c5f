"""Black and white limits and gamma: v' = ((v - black) / (white - black))^(1 / gamma) of v = x^(1 / 2.2), black and white put to
`out_black` and `out_white` (common practice)."""

from __future__ import annotations

from functools import lru_cache
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import model_validator

from valleylight.core.treatments.base import CURVE_STEPS, Operation, Pointwise, curve, number

GAMMA = 2.2


class Limits(Pointwise):
    """What becomes black, what becomes white, and where the middle lies."""

    TITLE: ClassVar[str] = "Black, white and gamma"
    PLACE: ClassVar[int] = 47
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["limits"] = "limits"
    black_percent: float = number(0.0, 0, 95, "Black from", 0.5, "%", shown=(0, 30))
    white_percent: float = number(100.0, 5, 100, "White to", 0.5, "%", shown=(70, 100))
    gamma: float = number(1.0, 0.2, 5, "Gamma", 0.02, shown=(0.5, 2))
    out_black_percent: float = number(0.0, 0, 95, "Black becomes", 0.5, "%", shown=(0, 20))
    out_white_percent: float = number(100.0, 5, 100, "White becomes", 0.5, "%", shown=(80, 100))

    @model_validator(mode="after")
    def _black_lies_below_white(self) -> Limits:
        if self.white_percent - self.black_percent < 1 or self.out_white_percent < self.out_black_percent:
            raise ValueError("black must lie below white; move one of them")
        return self

    def operation(self) -> Operation:
        return curve(limited(
            self.black_percent, self.white_percent, self.gamma, self.out_black_percent, self.out_white_percent
        ))  # fmt: skip


@lru_cache(maxsize=64)
def limited(black: float, white: float, gamma: float, out_black: float, out_white: float) -> NDArray[np.float64]:
    """Values over the square root of what comes in (CURVE_STEPS + 1,); all but gamma in percent."""
    v = np.linspace(0, 1, CURVE_STEPS + 1) ** (2 / GAMMA)
    v = np.clip((v - black / 100) / ((white - black) / 100), 0, 1) ** (1 / gamma)
    return np.asarray((out_black / 100 + v * (out_white - out_black) / 100) ** GAMMA)
