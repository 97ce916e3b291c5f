"""How quickly the generators of land, trees and walls work."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np

from valleylight.core.nature import land, masonry, trees


def figures() -> dict[str, float]:
    """All of them; kernels warm."""
    land.mountains(1, 3000.0, 64, 300.0)

    def seconds(work: Callable[[], object]) -> float:
        start = time.perf_counter()
        work()
        return time.perf_counter() - start

    def wall() -> object:
        rng = np.random.default_rng(1)
        return masonry.laid(rng, masonry.stones(rng, 12.5, 3.2))

    def valley() -> object:
        made = land.mountains(7)
        covered = land.cover(made, 330.0)
        return land.pictures(made, covered, rough_m=20.0)

    return {
        "tree_s": max(seconds(lambda k=k: trees.grow(k.key, k.height_m[2], 5)) for k in trees.KINDS.values()),  # type: ignore[misc]
        "stone_wall_s": seconds(wall), "land_s": seconds(valley),
    }  # fmt: skip
