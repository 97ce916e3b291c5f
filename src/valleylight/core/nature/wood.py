"""Trunk and branches as tubes that taper along a skeleton, with the roots' flare at the foot."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.making.shapes import Shape
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
    parts: list[tuple[Array, Array, Array, NDArray[np.int64]]] = []
    count = 0
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
        made = _tube(p, r, n, flare if not start else 0.0)
        parts.append((*made[:3], made[3] + count))
        count += len(made[0])
    return Shape(*(np.concatenate([part[k] for part in parts]) for k in range(4)))  # type: ignore[arg-type]


def _tube(p: Array, r: Array, sides: int, flare: float) -> tuple[Array, Array, Array, NDArray[np.int64]]:
    """Points, normals, uv and triangles of a tube whose rings turn with it, without a twist."""
    t = np.gradient(p, axis=0)
    t /= np.maximum(np.linalg.norm(t, axis=1, keepdims=True), 1e-12)
    u = np.empty_like(p)
    u[0] = np.cross(t[0], [0.0, 1.0, 0.0] if abs(t[0][1]) < 0.9 else [1.0, 0.0, 0.0])
    u[0] /= np.linalg.norm(u[0])
    for k in range(1, len(p)):
        across = u[k - 1] - t[k] * (u[k - 1] @ t[k])
        u[k] = across / max(float(np.sqrt(across @ across)), 1e-12)
    v = np.cross(t, u)
    a = np.linspace(0, 2 * np.pi, sides + 1)
    n = np.cos(a)[None, :, None] * u[:, None] + np.sin(a)[None, :, None] * v[:, None]
    wide = np.broadcast_to(r[:, None], (len(p), sides + 1))
    if flare:
        foot = np.exp(-np.maximum(p[:, 2] - p[0, 2], 0) / (1.6 * r[0]))[:, None]
        wide = wide * (1 + flare * foot * (0.6 + 0.4 * np.cos(5 * a + 1.0)[None]))
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(p, axis=0), axis=1))])
    uv = np.stack(np.broadcast_arrays(a[None] * max(float(r.mean()), 0.01), along[:, None]), -1)
    i = (np.arange(len(p) - 1)[:, None] * (sides + 1) + np.arange(sides)).ravel()
    triangles = np.concatenate([np.stack([i, i + 1, i + sides + 2], 1), np.stack([i, i + sides + 2, i + sides + 1], 1)])
    return (p[:, None] + wide[..., None] * n).reshape(-1, 3), n.reshape(-1, 3), uv.reshape(-1, 2), triangles
