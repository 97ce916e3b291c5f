"""Where trees stand on land: by what covers it, spaced apart, old ones among young ones, and how fine each has to be."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.making.glb import place
from valleylight.core.making.shapes import Shape, join
from valleylight.core.nature.trees import FAR, MIDDLE, NEAR

Array = NDArray[np.float64]
Field = Callable[[Array, Array], Array]


@dataclass(frozen=True)
class Stand:
    """Trees on land: where each stands (N, 3), how high it is over the common height (N,), its turn in degrees (N,), and a number of its
    own from 0 to 1 (N,) by which kinds are drawn."""

    places: Array
    size: Array
    turn_deg: Array
    chance: Array

    def matrices(self, which: NDArray[np.bool_] | NDArray[np.int64], height_m: float = 1.0) -> list[Array]:
        """Matrices of some of them; `height_m` is the height of what is placed over that of one of size 1."""
        return [
            place((float(p[0]), float(p[1]), float(p[2])), float(t), float(s * height_m))
            for p, t, s in zip(self.places[which], self.turn_deg[which], self.size[which], strict=True)
        ]


def stand(
    rng: np.random.Generator,
    height: Field,
    density: Field,
    spacing_m: float,
    within: tuple[float, float],
    young: float = 0.55,
) -> Stand:
    """Trees between two distances from zero (m), one to a square of `spacing_m` at most, where chance is below `density` (0 to 1 at x, y).
    `height` is that of the ground. `young` is the size of the youngest over the oldest; at the edges of the wood they are lower."""
    near, far = within
    count = int(2 * far / spacing_m)
    i, j = np.meshgrid(np.arange(count), np.arange(count))
    x = ((i + rng.uniform(0.08, 0.92, i.shape)) * spacing_m - far).ravel()
    y = ((j + rng.uniform(0.08, 0.92, j.shape)) * spacing_m - far).ravel()
    d = np.hypot(x, y)
    kept = (d >= near) & (d < far)
    x, y = x[kept], y[kept]
    wood = density(x, y)
    kept = rng.random(len(x)) < wood
    x, y, wood = x[kept], y[kept], wood[kept]
    # Ages of a wood that renews itself: many young, few old.
    age = rng.beta(2.2, 1.8, len(x))
    size = (young + (1 - young) * age) * (0.72 + 0.28 * wood)
    return Stand(np.stack([x, y, height(x, y)], 1), size, rng.uniform(0, 360, len(x)), rng.random(len(x)))


def level_for(distance_m: Array, height_m: float, pixels_a_radian: float = 930.0) -> NDArray[np.int64]:
    """Level of detail by how high a tree stands in the picture: near above 140 pixels, middle above 36. `pixels_a_radian` is that of the picture
    in mind (1280 pixels under a lens of 26 mm)."""
    pixels = height_m / np.maximum(distance_m, 1e-3) * pixels_a_radian
    return np.where(pixels > 140, NEAR, np.where(pixels > 36, MIDDLE, FAR))


def grove(rng: np.random.Generator, trees: list[Shape], count: int, across_m: float) -> Shape:
    """Several far trees as one, for slopes that are farther still: shapes drawn by chance over a square."""
    parts = []
    side = int(np.ceil(np.sqrt(count)))
    for k in range(count):
        made = trees[int(rng.integers(len(trees)))]
        x, y = (k % side + rng.uniform(0.1, 0.9)) / side - 0.5, (k // side + rng.uniform(0.1, 0.9)) / side - 0.5
        size = rng.uniform(0.6, 1.05)
        parts.append(made.scaled(size).turned(float(rng.uniform(0, 360))).moved([x * across_m, y * across_m, 0.0]))
    return join(parts)
