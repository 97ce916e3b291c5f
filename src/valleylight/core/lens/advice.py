"""Exposure values that a picture's own luminances advise; nothing is set by them.

A reflected-light meter takes what it looks at for middle grey: EV = log2(100 L / K) (ISO 2720:1974). Highlights are kept where the
brightest part of the picture just reaches the lens's white, L_sat = 78 / 0.65 / 100 x 2^EV (ISO 12232:2019).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.finish.exposure import LENS_Q, SATURATION, metered_ev100

#: The centre counts by a bell whose standard deviation is this share of the picture's height (common practice: a circle of about
#: 12 mm of 24 mm of film counts most).
CENTRE = 0.25
#: Part of the picture that may lie above the lens's white where highlights are kept.
LOST = 0.005


@dataclass(frozen=True)
class Advised:
    """Exposure values at ISO 100 by the mean of the picture, by its centre, and with the highlights kept."""

    average: float
    centre: float
    highlights: float


def advised(luminance: NDArray[np.floating]) -> Advised | None:
    """What a picture (H, W) in cd/m2 advises; None where it is black."""
    height, width = luminance.shape
    mean = float(luminance.mean())
    if not mean > 0:
        return None
    rows, columns = (np.exp(-0.5 * ((np.arange(n) + 0.5 - n / 2) / (CENTRE * height)) ** 2) for n in (height, width))
    centre = float(rows @ luminance @ columns / (rows.sum() * columns.sum()))
    kept = float(np.quantile(luminance, 1 - LOST))
    white = math.log2(max(kept, 1e-9) * 100 * LENS_Q / SATURATION)
    return Advised(metered_ev100(mean), metered_ev100(centre), white)
