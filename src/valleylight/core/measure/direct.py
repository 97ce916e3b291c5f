"""Direct illuminance of fixtures on a plane: E = sum of I(C, gamma) cos(theta) / d^2 over what is not in shade.

Source: inverse-square cosine law (CIE 018, section 4).
"""

from __future__ import annotations

import math
import os
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numpy.typing import NDArray

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.jit.held import held
from valleylight.core.lamps import record
from valleylight.core.measure.shadow import lifted
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.lights import lamplight
from valleylight.core.trace.nextevent.passage import PASSES, short_of, through_glass
from valleylight.core.trace.scene.compiler import RenderScene

#: Less than this of one fixture is not looked for, in lx.
LEAST_LX = 1e-2


@part
def _of_lamp(scene, work, lamp, level, px, py, pz, nx, ny, nz, lift):
    """Illuminance (lx) of one fixture at a level on a point that faces along a normal; 0 in its shade."""
    x = scene.lamps[lamp, record.PLACE] - px
    y = scene.lamps[lamp, record.PLACE + 1] - py
    z = scene.lamps[lamp, record.PLACE + 2] - pz
    d2 = x * x + y * y + z * z
    d = math.sqrt(d2) + 1e-9
    x, y, z = x / d, y / d, z / d
    cosine = x * nx + y * ny + z * nz
    if cosine <= 1e-4:
        return 0.0
    light = lamplight.intensity(scene.lamps, scene.profiles, lamp, -x, -y, -z)
    light *= level * cosine / d2
    light *= (
        0.2126390 * scene.lamps[lamp, record.COLOUR]
        + 0.7151687 * scene.lamps[lamp, record.COLOUR + 1]
        + 0.0721923 * scene.lamps[lamp, record.COLOUR + 2]
    )
    if light < LEAST_LX:
        return 0.0
    ox, oy, oz = px + lift * nx, py + lift * ny, pz + lift * nz
    far = short_of(d, lift) - lift
    if rays.blocked(scene.handle, work.ray, work.word, ox, oy, oz, x, y, z, far, rays.OPAQUE):
        return 0.0
    r, g, b, _ = through_glass(scene, work, ox, oy, oz, x, y, z, far, PASSES)
    return light * (0.2126390 * r + 0.7151687 * g + 0.0721923 * b)


@kernel
def _direct(arrays, workbench, points, normals, weights, result, first, last):
    """Illuminance (lx) on points (N, 3) that face along normals (N, 3); `weights` (L,) are levels of the fixtures. `result` (N, 1) takes
    their sum, (N, L) each by itself."""
    scene, work = held(arrays), held(workbench)
    apart = result.shape[1] > 1
    for k in range(first, last):
        px, py, pz = points[k, 0], points[k, 1], points[k, 2]
        lift = lifted(work, px, py, pz)
        for lamp in range(scene.lamps.shape[0]):
            if weights[lamp] > 0.0:
                light = _of_lamp(
                    scene, work, lamp, weights[lamp], px, py, pz, normals[k, 0], normals[k, 1], normals[k, 2], lift
                )
                result[k, lamp if apart else 0] += light


def direct_lux(
    scene: RenderScene, levels: dict[str, float], points: NDArray[np.float64], normals: NDArray[np.float64]
) -> NDArray[np.float32]:
    """Direct illuminance in lx (N,) of the fixtures on points (N, 3) in metres that face along unit normals (N, 3)."""
    return _asked(scene, levels, points, normals, 1)[:, 0]


def lux_by_fixture(
    scene: RenderScene, levels: dict[str, float], points: NDArray[np.float64], normals: NDArray[np.float64]
) -> NDArray[np.float32]:
    """The same for each fixture by itself: (N, L) in the order of the scene's fixtures."""
    return _asked(scene, levels, points, normals, len(scene.lamps.fixtures))


def _asked(
    scene: RenderScene,
    levels: dict[str, float],
    points: NDArray[np.float64],
    normals: NDArray[np.float64],
    columns: int,
) -> NDArray[np.float32]:
    result, places = np.zeros((len(points), columns), np.float32), points - scene.origin
    weights = np.array([levels.get(f.group, 1.0) for f in scene.lamps.fixtures], float)
    if len(weights):
        threads = os.cpu_count() or 1
        bounds = np.linspace(0, len(points), 4 * threads + 1).astype(int)

        def some(low: int, high: int) -> None:
            _direct(scene.arrays, rays.new_work(scene.settings), places, normals, weights, result, low, high)

        with ThreadPoolExecutor(threads) as pool:
            for job in [pool.submit(some, int(a), int(b)) for a, b in zip(bounds, bounds[1:], strict=False)]:
                job.result()
    return result


def on_level(
    scene: RenderScene, levels: dict[str, float], xs: NDArray[np.float64], ys: NDArray[np.float64], height_m: float
) -> NDArray[np.float32]:
    """Direct illuminance in lx of the fixtures on the grid ys x xs at a height; shape (len(ys), len(xs))."""
    gx, gy = np.meshgrid(xs, ys)
    points = np.column_stack([gx.ravel(), gy.ravel(), np.full(gx.size, height_m)])
    normals = np.tile([0.0, 0.0, 1.0], (len(points), 1))
    return direct_lux(scene, levels, points, normals).reshape(gx.shape)
