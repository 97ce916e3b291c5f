"""Grass by blades: patches of sward to be laid side by side, tufts, reeds, wild flowers and ferns.

A blade is a kite bent over by its weight. Heights, widths and numbers of blades to the square metre are those of meadows (common
practice: 2 000 to 20 000 shoots; fewer stand here, each as wide as several).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.making.shapes import Shape, join

Array = NDArray[np.float64]


def blades(rng: np.random.Generator, root: Array, height: Array, wide: Array, lean: float = 0.5) -> Shape:
    """Blades at `root` (N, 3), so high and so wide (N,) at most in m. Two bent halves each, that share a fold across; `lean` is how far tips
    stray, over the height."""
    n = len(root)
    turn = rng.uniform(0, 2 * np.pi, n)
    out = np.stack([np.cos(turn), np.sin(turn), 0 * turn], 1)
    side = np.stack([-out[:, 1], out[:, 0], 0 * turn], 1) * 0.5 * wide[:, None]
    stray = lean * rng.uniform(0.2, 1.3, n)
    h = height[:, None]
    knee = root + out * (0.3 * stray[:, None] * h) + [0, 0, 1] * (0.62 * h)
    tip = root + out * (stray[:, None] * h) + [0, 0, 1] * (h * (1 - 0.25 * np.minimum(stray, 1.2)[:, None]))
    p = np.stack([root - 0.7 * side, root + 0.7 * side, knee + side, knee - side, tip], 1)
    # Blades are shaded as the sward they are part of, a little by their own lean.
    normal = np.stack([0.35 * out + [0, 0, 1.0]] * 5, 1) + 0.5 * np.stack(
        [-side, side, side, -side, 0 * side], 1
    ) / np.maximum(wide[:, None, None], 1e-6)
    normal /= np.linalg.norm(normal, axis=2, keepdims=True)
    tone = rng.random(n)
    uv = np.repeat(np.stack([tone, 0 * tone], 1)[:, None], 5, 1)
    k = np.arange(n)[:, None] * 5
    triangles = np.concatenate([k + [0, 1, 2], k + [0, 2, 3], k + [3, 2, 4]])
    return Shape(p.reshape(-1, 3), normal.reshape(-1, 3), uv.reshape(-1, 2), triangles)


def sward(rng: np.random.Generator, across_m: float, per_m2: float, height_m: float, wide_m: float = 0.005) -> Shape:
    """A square patch of grass about zero, in clumps of different height, that runs over its edges so that patches close up."""
    n = max(int(per_m2 * across_m**2), 1)
    clumps = rng.uniform(-0.5, 0.5, (max(n // 14, 1), 2)) * across_m
    root = clumps[rng.integers(len(clumps), size=n)] + rng.normal(0, 0.035, (n, 2))
    loose = rng.random(n) < 0.45
    root[loose] = rng.uniform(-0.53, 0.53, (int(loose.sum()), 2)) * across_m
    tall = 0.75 + 0.5 * np.sin(9.0 * root[:, 0] / across_m) * np.cos(7.0 * root[:, 1] / across_m) ** 2
    height = height_m * tall * rng.lognormal(0, 0.28, n)
    return blades(rng, np.column_stack([root, np.full(n, -0.01)]), height, wide_m * rng.uniform(0.6, 1.3, n), 0.75)


def tuft(rng: np.random.Generator, count: int, height_m: float, across_m: float = 0.22, wide_m: float = 0.008) -> Shape:
    """A tuft of long grass whose blades lean out from its middle."""
    root = np.column_stack([rng.normal(0, across_m / 4, (count, 2)), np.full(count, -0.01)])
    return blades(rng, root, height_m * rng.uniform(0.5, 1.2, count), wide_m * rng.uniform(0.6, 1.2, count), 0.7)


def reeds(rng: np.random.Generator, count: int, height_m: float, across_m: float) -> Shape:
    """Reeds: upright stems, and blades that bend over at the tip."""
    root = np.column_stack([rng.uniform(-0.5, 0.5, (count, 2)) * across_m, np.full(count, -0.1)])
    h = height_m * rng.uniform(0.6, 1.15, count)
    return join(
        [blades(rng, root, h, np.full(count, 0.012), 0.16), blades(rng, root, 0.8 * h, np.full(count, 0.02), 0.55)]
    )


def flowers(
    rng: np.random.Generator, count: int, height_m: float, across_m: float, petal_m: float = 0.011
) -> tuple[Shape, Shape]:
    """Wild flowers on their stems: green, and petals."""
    spots = rng.uniform(-0.5, 0.5, (count, 2)) * across_m
    h = height_m * rng.uniform(0.7, 1.2, count)
    root = np.column_stack([spots, np.zeros(count)])
    stems = blades(rng, root, h, np.full(count, 0.004), 0.12)
    heads = np.repeat(stems.points.reshape(count, 5, 3)[:, 4], 6, 0)
    a = np.tile(np.arange(6) * np.pi / 3, count) + np.repeat(rng.uniform(0, 6, count), 6)
    out = np.stack([np.cos(a), np.sin(a), 0.35 + 0 * a], 1)
    side = np.stack([-np.sin(a), np.cos(a), 0 * a], 1)
    s = petal_m * rng.uniform(0.7, 1.3, (count, 1)).repeat(6, 0)
    p = np.stack(
        [heads, heads + 0.6 * s * out + 0.35 * s * side, heads + s * out, heads + 0.6 * s * out - 0.35 * s * side], 1
    )
    normal = np.repeat(0.4 * out + [0, 0, 0.8], 4, 0)
    normal /= np.linalg.norm(normal, axis=1, keepdims=True)
    k = np.arange(len(heads))[:, None] * 4
    uv = np.repeat(np.stack([rng.random(len(heads)), np.zeros(len(heads))], 1), 4, 0)
    return stems, Shape(p.reshape(-1, 3), normal, uv, np.concatenate([k + [0, 1, 2], k + [0, 2, 3]]))


def fern(rng: np.random.Generator, fronds: int, height_m: float) -> Shape:
    """A fern: fronds that arch out of one place, with leaflets that shorten to the tip."""
    parts = []
    for k in range(fronds):
        a = 2 * np.pi * k / fronds + rng.normal(0, 0.2)
        out, side = np.array([np.cos(a), np.sin(a), 0]), np.array([-np.sin(a), np.cos(a), 0])
        long = height_m * rng.uniform(0.85, 1.25)
        t = np.linspace(0.02, 1, 16)
        rib = np.outer(t - 0.25 * t**2, 0.9 * long * out) + np.outer(1.5 * t - 1.1 * t**2, long * np.array([0, 0, 1.0]))
        ahead = np.gradient(rib, axis=0)
        ahead /= np.linalg.norm(ahead, axis=1, keepdims=True)
        for s in (-1.0, 1.0):
            reach = 0.24 * long * np.sin(np.pi * np.clip(0.08 + 0.92 * t, 0, 1)) ** 0.8 + 0.004
            go = s * side + 0.35 * ahead - [0, 0, 0.15]
            tip = rib + reach[:, None] * go
            width = 0.05 * long * ahead * (0.35 + 0.65 * np.sin(np.pi * t))[:, None]
            middle = rib + 0.4 * reach[:, None] * go
            p = np.stack([rib, middle + 0.5 * width, tip, middle - 0.5 * width], 1)
            normal = np.cross(go, s * ahead)
            normal /= np.linalg.norm(normal, axis=1, keepdims=True)
            q = np.arange(len(t))[:, None] * 4
            parts.append(Shape(p.reshape(-1, 3), np.repeat(normal, 4, 0), np.full((4 * len(t), 2), rng.random()),
                               np.concatenate([q + [0, 1, 2], q + [0, 2, 3]])))  # fmt: skip
    return join(parts)
