"""The sky as a round picture looking up: north at the top, east on the left, as one sees it lying on the back."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import LUMINANCE, srgb_encode
from valleylight.core.sky.dome import Dome

#: Share of the picture's cells that is brighter than its white: the glow about the sun.
_BURNT = 0.06


def dome_picture(dome: NDArray[np.float32], size: int = 160, ground: float = 0.42) -> NDArray[np.uint8]:
    """Equidistant projection (size, size, 3) uint8 of the upper half of a sky (R, 2 R, 3), exposed for itself."""
    rows = len(dome)
    n = size * 2
    y, x = np.mgrid[0:n, 0:n]
    right, up = (x + 0.5) / n * 2 - 1, 1 - (y + 0.5) / n * 2
    away = np.hypot(right, up)
    altitude, azimuth = np.pi / 2 * (1 - away), np.arctan2(-right, up)
    row = np.clip(((altitude / np.pi + 0.5) * rows).astype(int), rows // 2, rows - 1)
    column = ((azimuth / (2 * np.pi)) % 1.0 * 2 * rows).astype(int) % (2 * rows)
    seen = dome[row, column].astype(float)
    inside = away < 0.985
    white = max(float(np.quantile(seen[inside] @ LUMINANCE, 1 - _BURNT)), 1e-9)
    shown = 1 - np.exp(-1.5 * seen / white)
    shown[~inside] = ground
    shown = shown.reshape(size, 2, size, 2, 3).mean((1, 3))
    return np.asarray(np.round(srgb_encode(shown) * 255), np.uint8)


def illuminances(dome: Dome) -> tuple[float, float]:
    """Illuminance in lx of level ground, and the mean of the four upright planes that face the quarters."""
    upright = [dome.vertical_illuminance_lx(a) for a in np.arange(4) * np.pi / 2]
    return dome.horizontal_illuminance_lx, float(np.mean(upright))
