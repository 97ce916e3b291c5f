"""Values of the air offered from the scene's size, so that fog is neither unseen nor milk."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.project.air import Air
from valleylight.core.project.description import View
from valleylight.core.stage.model import StageData

#: Mean free path over the length seen: what each strength of fog amounts to (common practice).
STRENGTHS = (("haze", 12.0), ("mist", 3.0), ("fog", 1.0))
#: Fog that lies: how far above the ground its even part ends and over what height it falls to 1/e, in m; mean free path over the length
#: seen (common practice).
LYING = (("ground mist", 0.2, 0.6, 0.5), ("valley mist", 2.5, 4.0, 1.5))
ROOM_M, EYE_M = 3.0, 1.6


@dataclass(frozen=True)
class AirOffer:
    """A strength of fog, the length it is made for, and the settings."""

    name: str
    length_m: float
    air: Air


def offers(view: View, stage: StageData, low: NDArray[np.float64], high: NDArray[np.float64]) -> tuple[AirOffer, ...]:
    """Haze, mist and fog for a view: by the distance from the lens to its target, in a box about the part of the stage
    seen, falling with height by a quarter of that box; then mist that lies on the ground, and that fills a valley."""
    position, target = np.array(view.position), np.array(view.target)
    length = max(float(np.linalg.norm(target - position)), ROOM_M)
    least, most = np.minimum(position, target) - length, np.maximum(position, target) + length
    a, b = np.maximum(least, low), np.minimum(most, high)
    b = np.maximum(b, a + 0.5)
    made = []
    for name, times in STRENGTHS:
        fall = float(max((b - a)[2] / 4, 0.5)) if name != "haze" else None
        air = Air(
            on=True, extent="everywhere" if name == "haze" else "box", low=_point(a), high=_point(b),
            free_path_m=round(length * times, 1), base_height_m=round(float(a[2]), 2), fall_m=fall,
        )  # fmt: skip
        made.append(AirOffer(name, round(length, 2), air))
    ground = float(min(position[2] - EYE_M, target[2]))
    for name, base, fall, times in LYING:
        air = Air(
            on=True, free_path_m=round(length * times, 1), base_height_m=round(ground + base, 2), fall_m=fall, low=_point(a), high=_point(b),
        )  # fmt: skip
        made.append(AirOffer(name, round(length, 2), air))
    return tuple(made)


def _point(v: NDArray[np.float64]) -> tuple[float, float, float]:
    return round(float(v[0]), 2), round(float(v[1]), 2), round(float(v[2]), 2)
