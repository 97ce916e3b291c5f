"""Grain: noise of a film by its speed and the size of its grain, strongest in the middle tones (own; granularity grows with the square
root of the speed, common practice). The same on every run, and of the same size on prints of any size."""

from __future__ import annotations

from functools import lru_cache
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from valleylight.core.treatments.base import Picture, Spatial, number
from valleylight.core.treatments.seen import Seen

GAMMA = 2.2
#: Standard deviation on the display's scale at ISO 100, and the width of a grain there in thousandths of the picture's width.
AT_ISO_100, GRAIN_SHARE = 0.006, 1.0


class Grain(Spatial):
    """The texture of a film."""

    TITLE: ClassVar[str] = "Grain"
    PLACE: ClassVar[int] = 90
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["grain"] = "grain"
    iso: float = number(400.0, 25, 25_600, "Speed", 25, "ISO", shown=(50, 3200))
    size: float = number(
        1.0, 0.2, 10, "Size", 0.1, "‰", shown=(0.3, 4), description="Thousandths of the picture's width"
    )
    coloured: float = number(0.2, 0, 1, "Coloured", 0.05)

    def applied_in(self, picture: Picture, seen: Seen) -> Picture:
        height, width = picture.shape[:2]
        noise = _noise(height, width, self.size * GRAIN_SHARE / 1000 * width, self.coloured, seen.seed)
        v = np.clip(picture, 0, 1) ** np.float32(1 / GAMMA)
        middle = 4 * v * (1 - v)
        deviation = np.float32(AT_ISO_100 * (self.iso / 100) ** 0.5)
        return np.asarray(
            np.clip(v + deviation * (0.25 + 0.75 * middle) * noise, 0, None) ** np.float32(GAMMA), np.float32
        )


@lru_cache(maxsize=2)
def _noise(height: int, width: int, grain_px: float, coloured: float, seed: int) -> NDArray[np.float32]:
    """Noise (H, W, 3) of unit deviation in each channel, alike in all but for the share that is coloured."""
    from scipy.ndimage import gaussian_filter

    def layer(number: int) -> NDArray[np.float32]:
        white = np.random.default_rng((seed, number)).standard_normal((height, width), np.float32)
        sigma = grain_px / 2
        soft = gaussian_filter(white, sigma, mode="wrap", truncate=3.0) if sigma > 0.3 else white
        return np.asarray(soft / max(float(soft.std()), 1e-6), np.float32)

    grey = layer(0)[..., None]
    if coloured <= 0:
        return np.broadcast_to(grey, (height, width, 3))
    colour = np.stack([layer(k) for k in (1, 2, 3)], axis=-1)
    both = np.sqrt(1 - coloured**2) * grey + coloured * colour
    return np.asarray(both, np.float32)
