"""A cut-out as a card that faces someone: its record for the kernels, and its sprite from there."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.compose import kernels
from valleylight.core.compose.light import LightThere
from valleylight.core.compose.sprite import Sprite
from valleylight.core.project.cutout import CutOut

#: Which sprite a cut-out shows to someone in a direction in plan.
Looks = Callable[[CutOut, tuple[float, float]], Sprite]


@dataclass(frozen=True)
class Card:
    """A cut-out with the light about it; `feet` (3,) in m about the traced zero."""

    cutout: CutOut
    light: LightThere
    feet: NDArray[np.float64]
    looks: Looks

    def towards(self, point: NDArray[np.float64]) -> tuple[NDArray[np.float64], Sprite]:
        """The card record and sprite that face a point in plan."""
        return self.facing(point - self.feet)

    def facing(self, way: NDArray[np.float64]) -> tuple[NDArray[np.float64], Sprite]:
        """The card record and sprite that face a direction in plan; -Y where that has no length."""
        level = np.array([way[0], way[1], 0.0])
        length = float(np.linalg.norm(level))
        level = level / length if length > 1e-9 else np.array([0.0, -1.0, 0.0])
        sprite = self.looks(self.cutout, (float(level[0]), float(level[1])))
        card = np.zeros(kernels.CARD)
        card[kernels.FEET : kernels.FEET + 3] = self.feet
        card[kernels.ACROSS : kernels.ACROSS + 3] = -level[1], level[0], 0.0
        card[kernels.FACES : kernels.FACES + 3] = level
        card[kernels.ROW_M] = self.cutout.height_m / sprite.size[0]
        card[kernels.ROWS], card[kernels.MIDDLE] = sprite.size[0], sprite.middle
        card[kernels.MIRRORED] = self.cutout.mirrored
        return card, sprite
