"""Vignette: the fall of light by cos^4 of the angle to the axis (natural vignetting of a thin lens; M. Reiss, JOSA 35, 1945), and a
free one: 1 + a s(r), s rising smoothly from the radius where it begins to the corners."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from valleylight.core.treatments.base import Picture, Spatial, number
from valleylight.core.treatments.seen import Seen


class Vignette(Spatial):
    """Corners darker, or lighter, than the middle."""

    TITLE: ClassVar[str] = "Vignette"
    PLACE: ClassVar[int] = 16
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["vignette"] = "vignette"
    natural: float = number(
        0.0, -1, 2, "By cos⁴", 0.05, shown=(0, 1), description="1: as the lens gives it; below zero it is taken out"
    )
    stops: float = number(-0.5, -6, 3, "Corners", 0.05, "stops", shown=(-3, 1))
    begins: float = number(0.4, 0, 0.95, "Begins", 0.02, description="Share of the way from the middle to the corners")

    def applied_in(self, picture: Picture, seen: Seen) -> Picture:
        height, width = picture.shape[:2]
        across, up = seen.lens.tangents((height, width))
        # cos of the angle to the axis is 1 / sqrt(1 + x^2 + y^2); all in stops, so that one power is taken.
        stops = np.log2(1 + across[None] ** 2 + up[:, None] ** 2) * np.float32(-2 * self.natural)
        x, y = (((np.arange(n) + 0.5) / n * 2 - 1).astype(np.float32) * np.float32(n) for n in (width, height))
        far = np.hypot(x[None], y[:, None]) / np.float32(np.hypot(width, height))
        t = np.clip((far - np.float32(self.begins)) / np.float32(1 - self.begins), 0, 1)
        stops += np.float32(self.stops) * t * t * (3 - 2 * t)
        return picture * np.exp2(stops)[..., None]
