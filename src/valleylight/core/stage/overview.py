"""A first look at a stage: where to stand so that all of it is seen."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

#: Eye of someone standing (common practice), and half the angle of a 24 mm lens on 36 mm of film, with a little room.
EYE_M = 1.6
HALF_ANGLE = math.atan(18 / 24) * 0.85
#: Where one stands, as seen from the middle: to the south-east, three quarters on.
_FROM = np.array([0.62, -0.78])

#: Ground is as wide as so much of the whole along two axes, and as flat as so much of its width. Room is left about the rest.
BROAD, FLAT, ROOM = 0.85, 0.1, 0.12

Point = tuple[float, float, float]


def frame_of(lows: NDArray[np.float64], highs: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Low and high corner (3,) of what is looked at of boxes (P, 3): all but flat things nearly as wide as the whole, where the rest is
    much smaller than that."""
    low, high = lows.min(0), highs.max(0)
    size, whole = highs - lows, high - low
    broad = np.sort(size / np.maximum(whole, 1e-300), axis=1)[:, 1] > BROAD
    rest = ~(broad & (size.min(1) < FLAT * size.max(1)))
    if rest.any():
        a, b = lows[rest].min(0), highs[rest].max(0)
        if (b - a).max() < BROAD * whole.max() / 2:
            room = ROOM * (b - a).max()
            return np.maximum(low, a - room), np.minimum(high, b + room)
    return low, high


def overview(low: NDArray[np.float64], high: NDArray[np.float64]) -> tuple[Point, Point]:
    """Position and target (m) of a view that sees a box (low and high corner, 3) whole from eye height above its foot.

    Small things are looked at from above, for an eye at standing height would look over them.
    """
    centre, half = (low + high) / 2, np.maximum((high - low) / 2, 0.05)
    reach = float(np.linalg.norm(half[:2]))
    distance = reach + max(reach, float(half[2])) / math.tan(HALF_ANGLE)
    x, y = centre[:2] + _FROM * distance
    eye = low[2] + min(EYE_M, distance * 0.35)
    position, target = (x, y, eye), centre
    return tuple(round(float(v), 3) for v in position), tuple(round(float(v), 3) for v in target)  # type: ignore[return-value]
