"""Small plants to be built of: branching wood with the tips that carry leaves, and sprays on cards about them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.making.shapes import Shape, join, tube

Array = NDArray[np.float64]


def cards(rng: np.random.Generator, tips: Array, each: int, spread: float, size: float) -> Shape:
    """Feathered leaves as cards about the tips of branches, hanging a little; the picture on them cuts their shape out."""
    n = len(tips) * each
    root = np.repeat(tips, each, 0) + rng.normal(0, spread, (n, 3))
    turn = rng.uniform(0, 2 * np.pi, n)
    along = np.column_stack([np.cos(turn), np.sin(turn), rng.uniform(-0.7, 0.25, n)])
    along /= np.linalg.norm(along, axis=1, keepdims=True)
    across = np.cross(along, [0, 0, 1.0] + rng.normal(0, 0.35, (n, 3)))
    across /= np.linalg.norm(across, axis=1, keepdims=True)
    s = size * rng.uniform(0.75, 1.25, (n, 1))
    side = across * s * 0.5
    p = np.stack([root - side, root + side, root + side + along * s, root - side + along * s], 1)
    normal = np.cross(across, along)
    uv = np.tile([[0.0, 1.0], [1.0, 1.0], [1.0, 0.0], [0.0, 0.0]], (n, 1))
    k = np.arange(n)[:, None] * 4
    triangles = np.concatenate([k + [0, 1, 2], k + [0, 2, 3]])
    return Shape(p.reshape(-1, 3), np.repeat(normal, 4, 0), uv, triangles)


def tree(
    rng: np.random.Generator, height: float, trunk: float, rise: float, spread: float, levels: int
) -> tuple[Shape, Array]:
    """Trunk and branches as tubes, and the tips that carry leaves."""
    parts: list[Shape] = []
    tips: list[Array] = []

    def grow(start: Array, direction: Array, length: float, radius: float, level: int) -> None:
        count = 5
        points, d = [start], direction
        for _ in range(count):
            d = d + rng.normal(0, 0.10 + 0.05 * level, 3) + [0, 0, 0.05 * rise]
            d /= np.linalg.norm(d)
            points.append(points[-1] + d * length / count)
        path = np.array(points)
        parts.append(
            tube(path, np.linspace(radius, radius * 0.45, len(path)), 8 if level == 0 else 5 if level == 1 else 4)
        )
        if level >= levels:
            tips.extend(path[2:])
            return
        first = 1 if level else 2
        children = 7 if level == 0 else 5
        for k in range(children):
            t = first + (count - first) * (k + rng.uniform(0.2, 0.8)) / children
            i = min(int(t), count - 1)
            base = path[i] + (path[i + 1] - path[i]) * (t - i)
            turn = 2.4 * k + rng.uniform(0, 0.8)
            side = np.array([np.cos(turn), np.sin(turn), rng.uniform(0.1, 0.7) * rise])
            out = side * spread + d * 0.5
            grow(base, out / np.linalg.norm(out), length * rng.uniform(0.42, 0.62), radius * 0.42, level + 1)
        tips.append(path[-1])

    grow(np.zeros(3), np.array([0, 0, 1.0]), height * 0.72, trunk, 0)
    return join(parts), np.array(tips)
