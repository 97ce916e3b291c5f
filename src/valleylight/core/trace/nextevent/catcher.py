"""Surfaces that show nothing but the shadow on them: a model's ground, laid into a photograph."""

from __future__ import annotations

import numpy as np

from valleylight.core.jit.compiled import kernel
from valleylight.core.sky.cloudshadow import through_cloud
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.lights import daylight
from valleylight.core.trace.nextevent.passage import FAR, PASSES, through_glass
from valleylight.core.trace.sampling.sobol import bits, scatter_square

I64 = np.int64


@kernel
def share_unshaded(scene, work, vertex, seed):
    """Share of the daylight on a matt surface at a vertex that nothing shades: rays spent, and one sample of it (0 or 1).

    Sun or sky is chosen by what it gives there and a direction of the sky by what it gives to the surface (drawn by
    luminance, accepted by its cosine), so that the mean of the samples is the light with what stands around over the
    light without it. `seed` begins the numbers that it draws.
    """
    sun = scene.sun
    gx, gy, gz = vertex.gx, vertex.gy, vertex.gz
    facing = gx * sun[layout.SUN_TOWARDS] + gy * sun[layout.SUN_TOWARDS + 1] + gz * sun[layout.SUN_TOWARDS + 2]
    by_sun = 0.0
    if work.settings[layout.SUN_ON] > 0.0 and facing > 0.0:
        by_sun = sun[layout.SUN_LUMINANCE + 1] / sun[layout.SUN_DENSITY] * facing
        by_sun *= through_cloud(scene.cloud_shadow, scene.cloud_frame, vertex.x, vertex.y, vertex.z)
    by_sky = work.settings[layout.SKY_LUX] * 0.5 * (1.0 + gz)
    if by_sun + by_sky <= 0.0:
        return 0, 1.0
    if bits(I64(0), seed, I64(0)) / 4294967296.0 * (by_sun + by_sky) < by_sun:
        a, b = scatter_square(I64(0), seed, I64(1))
        lx, ly, lz = daylight.sample_cone(sun, a, b)
    else:
        lx, ly, lz = 0.0, 0.0, 1.0
        for attempt in range(32):
            a, b = scatter_square(I64(attempt), seed, I64(2))
            lx, ly, lz = daylight.sample_sky(
                scene.dome_marginal, scene.dome_conditional, 1.0, 0.0, scene.openings, work.weights, 0.0, 0.0, 0.0, a, b
            )
            if scatter_square(I64(attempt), seed, I64(3))[0] < gx * lx + gy * ly + gz * lz and lz > 0.0:
                break
    e = vertex.lift
    ox, oy, oz = vertex.x + gx * e, vertex.y + gy * e, vertex.z + gz * e
    if gx * lx + gy * ly + gz * lz <= 0.0:
        return 0, 1.0
    if rays.blocked(scene.handle, work.shadow, work.shadow_word, ox, oy, oz, lx, ly, lz, FAR, rays.OPAQUE | rays.BODY):
        return 1, 0.0
    r, g, b, _ = through_glass(scene, work, ox, oy, oz, lx, ly, lz, FAR, PASSES)
    return 1, 0.2126 * r + 0.7152 * g + 0.0722 * b
