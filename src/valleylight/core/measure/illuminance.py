"""Direct illuminance of fixtures on a level plane: E = sum of I(C, gamma) cos(theta) / d^2 over what is not in shade.

Source: inverse-square cosine law (CIE 018, section 4).
"""

from __future__ import annotations

import math
import os
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numpy.typing import NDArray

from valleylight.core.trace import lamplight, rays
from valleylight.core.trace.compiled import kernel
from valleylight.core.trace.held import held
from valleylight.core.trace.passage import PASSES, through_glass
from valleylight.core.trace.render import Scene


@kernel
def _direct(arrays, workbench, points, weights, result, first, last):
    """Illuminance (lx) on upward-facing points (N, 3); `weights` (L,) are levels of the fixtures."""
    scene, work = held(arrays), held(workbench)
    for k in range(first, last):
        total = 0.0
        for lamp in range(scene.lamps.shape[0]):
            if weights[lamp] <= 0.0:
                continue
            x = scene.lamps[lamp, 0] - points[k, 0]
            y = scene.lamps[lamp, 1] - points[k, 1]
            z = scene.lamps[lamp, 2] - points[k, 2]
            if z <= 1e-3:
                continue
            d2 = x * x + y * y + z * z
            d = math.sqrt(d2)
            x, y, z = x / d, y / d, z / d
            light = lamplight.intensity(scene.lamps, scene.profiles, lamp, -x, -y, -z)
            light *= (
                weights[lamp]
                * z
                / d2
                * (
                    0.2126390 * scene.lamps[lamp, 12]
                    + 0.7151687 * scene.lamps[lamp, 13]
                    + 0.0721923 * scene.lamps[lamp, 14]
                )
            )
            if light < 1e-3:
                continue
            if rays.blocked(
                scene.handle,
                work.ray,
                work.word,
                points[k, 0],
                points[k, 1],
                points[k, 2] + 1e-3,
                x,
                y,
                z,
                d - 2e-3,
                rays.OPAQUE,
            ):
                continue
            r, g, b, _ = through_glass(
                scene, work, points[k, 0], points[k, 1], points[k, 2] + 1e-3, x, y, z, d - 2e-3, PASSES
            )
            total += light * (0.2126390 * r + 0.7151687 * g + 0.0721923 * b)
        result[k] = total


def on_level(
    scene: Scene, levels: dict[str, float], xs: NDArray[np.float64], ys: NDArray[np.float64], height_m: float
) -> NDArray[np.float32]:
    """Direct illuminance in lx of the fixtures on the grid ys x xs at a height; shape (len(ys), len(xs))."""
    gx, gy = np.meshgrid(xs, ys)
    points = np.column_stack([gx.ravel(), gy.ravel(), np.full(gx.size, height_m)])
    result = np.zeros(len(points), np.float32)
    weights = np.array([levels.get(f.group, 1.0) for f in scene.lamps.fixtures], float)
    if len(weights):
        threads = os.cpu_count() or 1
        bounds = np.linspace(0, len(points), 4 * threads + 1).astype(int)
        with ThreadPoolExecutor(threads) as pool:
            for job in [
                pool.submit(
                    _direct, scene.arrays, rays.new_work(scene.settings), points, weights, result, int(a), int(b)
                )
                for a, b in zip(bounds, bounds[1:], strict=False)
            ]:
                job.result()
    return result.reshape(gx.shape)
