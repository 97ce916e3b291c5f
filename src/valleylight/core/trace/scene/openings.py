"""Find the windows of a model by its glass: panes in one plane make an opening, and the side that sees less sky is
inside."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.project.description import Opening
from valleylight.core.trace.intersect import rays

SMALLEST_M2, MOST = 0.04, 64
NEAR_M, SAME_PLANE_M = 0.35, 0.08
DIRECTIONS = 96
NARROWEST_M = 0.05
#: The sky seen from inside is at most this share of that seen from outside.
SHUT = 0.6


def find_openings(handle: int, panes: NDArray[np.float32]) -> tuple[Opening, ...]:
    """Openings from the triangle records (G, 32) of thin panes; `handle` is the Embree scene they
    stand in. The largest ones first."""
    if not len(panes):
        return ()
    corner = np.stack([panes[:, 0:3], panes[:, 0:3] + panes[:, 3:6], panes[:, 0:3] + panes[:, 6:9]], 1).astype(float)
    normal = np.cross(panes[:, 3:6], panes[:, 6:9]).astype(float)
    area = np.linalg.norm(normal, axis=1) / 2
    normal /= np.maximum(2 * area[:, None], 1e-20)
    lead = normal[np.arange(len(normal)), np.abs(normal).argmax(1)]
    normal *= np.sign(np.where(lead == 0, 1, lead))[:, None]
    found: list[tuple[float, Opening]] = []
    for group in _clusters(corner, normal):
        total = float(area[group].sum())
        if total < SMALLEST_M2:
            continue
        n = (normal[group] * area[group, None]).sum(0)
        n /= np.linalg.norm(n)
        up = np.array([0.0, 0.0, 1.0]) if abs(n[2]) < 0.9 else np.array([0.0, 1.0, 0.0])
        u = np.cross(up, n)
        u /= np.linalg.norm(u)
        v = np.cross(n, u)
        points = corner[group].reshape(-1, 3)
        a, b, depth = points @ u, points @ v, float((points @ n).mean())
        if min(np.ptp(a), np.ptp(b)) < NARROWEST_M:
            continue  # the edge of a pane
        centre = (a.min() + a.max()) / 2 * u + (b.min() + b.max()) / 2 * v + depth * n
        ahead, behind = _sky_share(handle, centre + 0.25 * n, n), _sky_share(handle, centre - 0.25 * n, -n)
        if min(ahead, behind) > SHUT * max(ahead, behind):
            continue  # glass in the open, or between two rooms
        inward = n if ahead < behind else -n
        found.append((total, Opening(
            centre=_point(centre), half_u=_point(u * (a.max() - a.min()) / 2), half_v=_point(v * (b.max() - b.min()) / 2),
            inward=_point(inward),
        )))  # fmt: skip
    found.sort(key=lambda f: -f[0])
    return tuple(opening for _, opening in found[:MOST])


def _point(v: NDArray[np.float64]) -> tuple[float, float, float]:
    return float(v[0]), float(v[1]), float(v[2])


def _clusters(corner: NDArray[np.float64], normal: NDArray[np.float64]) -> list[NDArray[np.int64]]:
    """Numbers of the triangles that lie in one plane and near each other."""
    low, high = corner.min(1) - NEAR_M / 2, corner.max(1) + NEAR_M / 2
    middle = corner.mean(1)
    left = np.arange(len(corner))
    out = []
    while len(left):
        group, grown = left[:1], True
        left = left[1:]
        while grown and len(left):
            a, b = low[group].min(0), high[group].max(0)
            n, at = normal[group[0]], middle[group[0]]
            near = ((low[left] <= b) & (high[left] >= a)).all(1)
            near &= (normal[left] @ n > 0.99) & (np.abs((middle[left] - at) @ n) < SAME_PLANE_M)
            grown = bool(near.any())
            group, left = np.concatenate([group, left[near]]), left[~near]
        out.append(group)
    return out


def _sky_share(handle: int, point: NDArray[np.float64], towards: NDArray[np.float64]) -> float:
    """Share of directions above the horizon, on one side of a pane, that meet nothing opaque."""
    k = np.arange(DIRECTIONS) + 0.5
    z = k / DIRECTIONS
    phi = np.pi * (1 + 5**0.5) * k
    d = np.stack([np.sqrt(1 - z * z) * np.cos(phi), np.sqrt(1 - z * z) * np.sin(phi), z], 1)
    d = d[d @ towards > 0.05]
    if not len(d):
        return 0.0
    ray = rays.new_ray()
    word = ray.view(np.uint32)
    px, py, pz = (float(v) for v in point)
    free = [
        not rays.blocked(handle, ray, word, px, py, pz, float(v[0]), float(v[1]), float(v[2]), 1e6, rays.OPAQUE)
        for v in d
    ]
    return float(np.mean(free))
