"""The raw rate of Embree's single-ray calls on the rays that path tracing asks for.

Rays are recorded by walking paths through the scene the way the integrator does (lens, sun, sky and diffuse bounce), then
traced again in the same order with nothing between the calls. That is what `ray_rate_ratio` compares the integrator to.
"""

from __future__ import annotations

import math
import os
import time
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numpy.typing import NDArray

from valleylight.core.jit.compiled import kernel
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.intersect.vertex import camera_ray
from valleylight.core.trace.lights import daylight
from valleylight.core.trace.nextevent.passage import FAR
from valleylight.core.trace.sampling.sobol import about, scatter_square
from valleylight.core.trace.scene.compiler import RenderScene
from valleylight.core.trace.tiles import tiles

BOUNCES = 6


@kernel
def record(scene, weights, dome_share, camera, ray, record_rays, width, height, x0, y0, x1, y1, first, last):
    """Write rays (origin, direction, 1 for a shadow ray) of the pixels of a tile; returns the number written."""
    word = ray.view(np.uint32)
    count = first
    for y in range(y0, y1):
        for x in range(x0, x1):
            ox, oy, oz, dx, dy, dz = camera_ray(camera, x + 0.5, y + 0.5, width, height, 0.0, 0.0, 0.0)
            for bounce in range(BOUNCES):
                if count + 4 >= last:
                    return count
                record_rays[count, 0], record_rays[count, 1], record_rays[count, 2] = ox, oy, oz
                record_rays[count, 3], record_rays[count, 4], record_rays[count, 5] = dx, dy, dz
                record_rays[count, 6] = 0.0
                count += 1
                if not rays.closest(scene.handle, ray, word, ox, oy, oz, dx, dy, dz, FAR, rays.EVERYTHING):
                    break
                t = ray[rays.FAR]
                nx, ny, nz = ray[12], ray[13], ray[14]
                s = 1.0 / math.sqrt(nx * nx + ny * ny + nz * nz + 1e-30)
                if nx * dx + ny * dy + nz * dz > 0.0:
                    s = -s
                nx, ny, nz = nx * s, ny * s, nz * s
                ox, oy, oz = ox + t * dx + 1e-3 * nx, oy + t * dy + 1e-3 * ny, oz + t * dz + 1e-3 * nz
                u, v = scatter_square(x, y + 1, 3 * bounce)
                total = daylight.openings_total(scene.openings, weights, ox, oy, oz)
                lx, ly, lz = daylight.sample_sky(
                    scene.dome_marginal,
                    scene.dome_conditional,
                    dome_share,
                    total,
                    scene.openings,
                    weights,
                    ox,
                    oy,
                    oz,
                    u,
                    v,
                )
                for k in range(2):
                    if k == 1:
                        lx, ly, lz = scene.sun[0], scene.sun[1], scene.sun[2]
                    if lx * nx + ly * ny + lz * nz > 0.0:
                        record_rays[count, 0], record_rays[count, 1], record_rays[count, 2] = ox, oy, oz
                        record_rays[count, 3], record_rays[count, 4], record_rays[count, 5] = lx, ly, lz
                        record_rays[count, 6] = 1.0
                        count += 1
                u, v = scatter_square(x, y + 1, 3 * bounce + 1)
                dx, dy, dz = about(nx, ny, nz, u, v)
    return count


@kernel
def replay(handle, ray, record_rays, first, last):
    """Trace recorded rays with nothing in between; returns how many met something."""
    word = ray.view(np.uint32)
    met = 0
    for k in range(first, last):
        ox, oy, oz = record_rays[k, 0], record_rays[k, 1], record_rays[k, 2]
        dx, dy, dz = record_rays[k, 3], record_rays[k, 4], record_rays[k, 5]
        if record_rays[k, 6] > 0.0:
            if rays.blocked(handle, ray, word, ox, oy, oz, dx, dy, dz, FAR, rays.OPAQUE | rays.BODY):
                met += 1
        elif rays.closest(handle, ray, word, ox, oy, oz, dx, dy, dz, FAR, rays.EVERYTHING):
            met += 1
    return met


def raw_rate(scene: RenderScene, width: int, height: int) -> float:
    """Rays a second of Embree's single-ray calls on all cores, on rays recorded from the scene."""
    recorded: NDArray[np.float32] = np.zeros((width * height * 16, 7), np.float32)
    ray, count, share = rays.new_ray(), 0, float(scene.settings[layout.DOME_SHARE])
    weights = np.zeros(layout.MOST_OPENINGS)
    for tile in tiles(width, height):
        count = record(
            scene.arrays, weights, share, scene.camera, ray, recorded, width, height, *tile, count, len(recorded)
        )
    threads = os.cpu_count() or 1
    bounds = np.linspace(0, count, 32 * threads + 1).astype(int)
    replay(scene.arrays.handle, rays.new_ray(), recorded, 0, 8)
    with ThreadPoolExecutor(threads) as pool:
        start = time.perf_counter()
        jobs = [
            pool.submit(replay, scene.arrays.handle, rays.new_ray(), recorded, int(a), int(b))
            for a, b in zip(bounds, bounds[1:], strict=False)
        ]
        for job in jobs:
            job.result()
        return count / (time.perf_counter() - start)
