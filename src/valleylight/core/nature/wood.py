"""Trunk and branches as tubes that taper along a skeleton, with the roots' flare at the foot."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.making.shapes import Shape, join, tube
from valleylight.core.nature.growth import Skeleton

Array = NDArray[np.float64]


def bark(
    skeleton: Skeleton,
    radius: Array,
    sides: tuple[int, int, int] = (14, 7, 4),
    thinnest: float = 0.0,
    flare: float = 0.6,
) -> Shape:
    """Tubes along the branches: so many sides for the stem, for branches and for twigs. What is thinner than `thinnest` (m) is left
    out. `flare` widens the foot. uv: metres around and along."""
    heir = skeleton.heirs(radius)
    thinnest = min(thinnest, 0.9 * float(radius[heir[0]]))  # something of it always stands
    starts = [0] + [k for k in range(1, len(radius)) if heir[skeleton.parent[k]] != k and radius[k] >= thinnest]
    parts = []
    for start in starts:
        chain = [skeleton.parent[start], start] if start else [0]
        while heir[chain[-1]] >= 0 and radius[heir[chain[-1]]] >= thinnest:
            chain.append(heir[chain[-1]])
        if len(chain) < 2:
            continue
        p, r = skeleton.points[chain], radius[chain].copy()
        if start:
            r[0] = min(r[0], 1.15 * r[1])  # a branch leaves its bough at its own thickness
        n = sides[0] if not start else sides[1] if r[0] > 0.25 * radius[0] else sides[2]
        parts.append(tube(p, r if start else _flared(p, r, n, flare), n))
    return join(parts)


def _flared(p: Array, r: Array, sides: int, flare: float) -> Array:
    """Radii of a stem (P, sides + 1) that widens into its roots, further where one runs out."""
    a = np.linspace(0, 2 * np.pi, sides + 1)
    foot = np.exp(-np.maximum(p[:, 2] - p[0, 2], 0) / (1.6 * r[0]))[:, None]
    return np.asarray(r[:, None] * (1 + flare * foot * (0.6 + 0.4 * np.cos(5 * a + 1.0)[None])))
