"""From day to night: a picture between two films of one view, each light going by itself.

Daylight fades by the logarithm of its luminance, as it does at dusk (a twilight table falls by even stops in even times: common
practice), while its colour and its shape pass from one film's to the other's. Lamps are switched: they come on, or go out, in the middle
part of the way, when the sky has become as dark as they are bright.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.errors import InputError
from valleylight.core.film.film import Film, Level
from valleylight.core.project.description import RESERVED_GROUPS, SURFACE_GROUP
from valleylight.core.treatments.reach import enlarged, shrunk

Picture = NDArray[np.float32]
#: Part of the way over which lamps come on.
SWITCHED = (0.35, 0.65)
_LUMA = LUMINANCE.astype(np.float32)
_LEAST = 1e-9


@dataclass(frozen=True)
class Side:
    """A film with the gains it is shown at, and the luminance in cd/m2 that its lens takes as white."""

    film: Film
    gains: dict[str, Level]
    white_cd_m2: float


def between(first: Side, second: Side, share: float) -> tuple[Picture, float]:
    """The linear picture (H, W, 3) in cd/m2 at a share of the way (0: the first, 1: the second), as large as the first film, and the
    luminance that is white there. Raises InputError for films of other shapes."""
    (w, h), (v, k) = first.film.size, second.film.size
    if abs(w * k / (h * v) - 1) > 0.02:
        raise InputError(
            f"pictures of {w} x {h} and {v} x {k} have no common shape",
            "second",
            "Choose plates of one view and format",
        )
    t = min(max(share, 0.0), 1.0)
    if t == 0.0:
        return first.film.balanced(first.gains), first.white_cd_m2
    white = first.white_cd_m2 ** (1 - t) * second.white_cd_m2**t
    day = [_part(side, daylight=True) for side in (first, second)]
    lamps = [_part(side, daylight=False) for side in (first, second)]
    day[1], lamps[1] = (enlarged(shrunk(p[1], w), (h, w)) for p in (day, lamps))
    if t == 1.0:
        return day[1] + lamps[1], white
    switched = _smooth((t - SWITCHED[0]) / (SWITCHED[1] - SWITCHED[0]))
    return _faded(day[0], day[1], t) + (1 - switched) * lamps[0] + switched * lamps[1], white


def _part(side: Side, daylight: bool) -> Picture:
    """The light of sun, sky and what stands in for it, or of all else."""
    names = set(RESERVED_GROUPS) - {SURFACE_GROUP}
    gains: dict[str, Level] = {
        n: side.gains.get(n, 1.0) if (n in names) == daylight else 0.0 for n in side.film.group_names
    }
    return side.film.balanced(gains)


def _faded(a: Picture, b: Picture, t: float) -> Picture:
    """Between two pictures: the mean luminance by its logarithm, the rest in shares."""
    bright = [max(float((p @ _LUMA).mean()), _LEAST) for p in (a, b)]
    mean = bright[0] ** (1 - t) * bright[1] ** t
    mixed = np.float32((1 - t) * mean / bright[0]) * a + np.float32(t * mean / bright[1]) * b
    return np.asarray(mixed, np.float32)


def _smooth(x: float) -> np.float32:
    x = min(max(x, 0.0), 1.0)
    return np.float32(x * x * (3 - 2 * x))
