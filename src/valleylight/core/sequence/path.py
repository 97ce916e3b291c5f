"""A smooth path through points, and how a lens gathers and loses speed on it."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
#: Places of a piece of the path by which its length is measured.
FINE = 96


class Path:
    """A centripetal Catmull-Rom curve through points (N, D), walked by its length.

    Source: P. J. Barry, R. N. Goldman, A recursive evaluation algorithm for a class of Catmull-Rom splines, SIGGRAPH 1988; with knots
    by the square root of the chords the curve has no loop or cusp within a piece (C. Yuksel, S. Schaefer, J. Keyser, Parameterization
    and applications of Catmull-Rom curves, Computer-Aided Design 43, 2011).
    """

    def __init__(self, points: Floats) -> None:
        given = np.asarray(points, float)
        apart = np.linalg.norm(np.diff(given, axis=0), axis=1)
        keep = np.r_[True, apart > 1e-9]
        self._points = given[keep]
        #: Which of the kept points each given one is: those that coincide with the one before are it.
        kept = np.cumsum(keep) - 1
        places, lengths = self._measured()
        self._places, self._lengths = places, lengths
        #: How far along the path, in its own metres, each given point lies.
        self.reached = lengths[kept * FINE] if len(lengths) > 1 else np.zeros(len(given))

    @property
    def length(self) -> float:
        return float(self._lengths[-1])

    def at(self, length: float) -> Floats:
        """The point (D,) so far along the path."""
        if len(self._places) == 1:
            return np.array(self._places[0])
        return np.array([np.interp(length, self._lengths, column) for column in self._places.T])

    def _measured(self) -> tuple[Floats, Floats]:
        """Places along the curve (M, D) and the length up to each (M,)."""
        p = self._points
        if len(p) == 1:
            return p, np.zeros(1)
        whole = np.vstack([2 * p[0] - p[1], p, 2 * p[-1] - p[-2]])
        places = [whole[1][None]]
        for k in range(len(p) - 1):
            places.append(_piece(whole[k : k + 4])[1:])
        every = np.vstack(places)
        return every, np.r_[0.0, np.cumsum(np.linalg.norm(np.diff(every, axis=0), axis=1))]


def _piece(four: Floats) -> Floats:
    """The curve between the two middle ones of four points, (FINE + 1, D), by Barry and Goldman's pyramid."""
    t0, t1, t2, t3 = np.r_[0.0, np.cumsum(np.sqrt(np.linalg.norm(np.diff(four, axis=0), axis=1)))]
    t = np.linspace(t1, t2, FINE + 1)[:, None]

    def mixed(a: Floats, b: Floats, begin: float, end: float) -> Floats:
        return ((end - t) * a + (t - begin) * b) / (end - begin)

    a1, a2, a3 = mixed(four[0], four[1], t0, t1), mixed(four[1], four[2], t1, t2), mixed(four[2], four[3], t2, t3)
    return mixed(mixed(a1, a2, t0, t2), mixed(a2, a3, t1, t3), t1, t2)


def eased(share: float, ramp: float) -> float:
    """Share of a way that is done at a share of its time, when speed is gathered and lost over `ramp` (0 to 0.5) of the time each.

    The speed follows a raised cosine: v(t) = (1 - cos(pi t / r)) / 2 of the full one, which is 1 / (1 - r); the integral of that stands here.
    """
    share = min(max(share, 0.0), 1.0)
    if ramp <= 0:
        return share
    if share > 0.5:
        return 1 - eased(1 - share, ramp)
    full = 1 / (1 - ramp)
    if share < ramp:
        return full * (share / 2 - ramp / (2 * math.pi) * math.sin(math.pi * share / ramp))
    return full * (share - ramp / 2)


def uneased(done: float, ramp: float) -> float:
    """Share of the time at which a share of the way is done: what `eased` is undone by."""
    if done <= 1e-12 or done >= 1 - 1e-12:
        return round(done)  # where the speed is none, halving finds no more than half the digits
    low, high = 0.0, 1.0
    for _ in range(50):
        middle = (low + high) / 2
        low, high = (middle, high) if eased(middle, ramp) < done else (low, middle)
    return high
