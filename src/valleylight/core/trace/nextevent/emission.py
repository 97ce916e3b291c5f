"""Light that a path finds by itself: the sky beyond the stage, and surfaces that shine, weighed against next-event estimation."""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.jit.compiled import kernel
from valleylight.core.lamps import record
from valleylight.core.sky.cloudshadow import through_cloud
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.lights import daylight, lamplight
from valleylight.core.trace.nextevent.direct import LEAST_FACE, add, pictured
from valleylight.core.trace.sampling.sobol import power_heuristic

F64 = np.float64


@kernel
def from_beyond(scene, work, sample, segment, total, density, limit, gathered, mirrored):
    """A ray that meets nothing sees the sky, and the sun's disc if it points there; `total` weighs the openings at the segment's
    origin, where the path was last scattered. Where the sun's light was `gathered`
    by solid glass it is left to the photons, or to the straight passage that stands in for them. A disc that is not to be seen
    is still a light: only what the lens sees of it, straight or `mirrored`, is left out."""
    px, py, pz, dx, dy, dz, _, tr, tg, tb = segment
    if work.settings[layout.SKY_ON] > 0.0:
        if density > 0.0:
            share = work.settings[layout.DOME_SHARE]
            r, g, b, own = daylight.dome_light(scene.dome, scene.dome_density, dx, dy, dz)
            own = daylight.sky_density(own, share, total, scene.openings, px, py, pz, dx, dy, dz)
            w, group = power_heuristic(density, own), int(work.settings[layout.GROUP_SKY])
        else:  # seen sharply
            r, g, b = daylight.backdrop_seen(
                scene.backdrop, scene.sky_fine, scene.sky_window, work.settings, px, py, pz, dx, dy, dz
            )
            w, group = 1.0, int(work.settings[layout.GROUP_BACKDROP])
        add(work, sample, group, tr * r * w, tg * g * w, tb * b * w, limit)
    sun = scene.sun
    if (
        work.settings[layout.SUN_ON] > 0.0
        and not gathered
        and dx * sun[layout.SUN_TOWARDS] + dy * sun[layout.SUN_TOWARDS + 1] + dz * sun[layout.SUN_TOWARDS + 2]
        > sun[layout.SUN_COS_RADIUS]
    ):
        w = power_heuristic(density, sun[layout.SUN_DENSITY])
        if density <= 0.0:
            w = F64(work.settings[layout.DISC_ON]) if mirrored else 1.0
        w *= through_cloud(scene.cloud_shadow, scene.cloud_frame, px, py, pz)
        add(
            work,
            sample,
            int(work.settings[layout.GROUP_SUN]),
            tr * sun[layout.SUN_LUMINANCE] * w,
            tg * sun[layout.SUN_LUMINANCE + 1] * w,
            tb * sun[layout.SUN_LUMINANCE + 2] * w,
            limit,
        )


@kernel
def given_off(scene, work, sample, k, m, within, segment, vertex, facing, density, mirrored, limit):
    """Light that a surface gives off itself at a vertex, towards the viewer; the segment begins where the path was last scattered.
    `within` are the shares of the second and third corner of its triangle there."""
    px, py, pz, dx, dy, dz, _, tr, tg, tb = segment
    fixture = int(scene.triangles[k, layout.TRIANGLE_FIXTURE]) - 1
    if fixture >= 0:
        lamp = scene.lamp_of[fixture]
        # A fixture's face: seen by the lens and in mirrors; rooms are lit by the fixture itself.
        if mirrored and lamp >= 0 and scene.lamps[lamp, record.FACE_AREA] > 0.0:
            c = scene.lamps
            e = lamplight.intensity(c, scene.profiles, lamp, -dx, -dy, -dz)
            # L = I / A, with A the luminous area seen from there, as of a spheroid.
            along = abs(dx * c[lamp, record.AXIS_Z] + dy * c[lamp, record.AXIS_Z + 1] + dz * c[lamp, record.AXIS_Z + 2])
            area, side = c[lamp, record.FACE_AREA], c[lamp, record.FACE_SIDE]
            e /= max(math.sqrt((area * along) ** 2 + side * side * (1.0 - along * along)), LEAST_FACE * area)
            group = int(c[lamp, record.GROUP])
            add(
                work,
                sample,
                group,
                tr * e * c[lamp, record.COLOUR],
                tg * e * c[lamp, record.COLOUR + 1],
                tb * e * c[lamp, record.COLOUR + 2],
                0.0,
            )
        return
    t, e = scene.materials, layout.EMISSION
    w = 1.0
    if density > 0.0 and scene.emitters.shape[0] > 0:
        lum = 0.2126 * t[m, e] + 0.7152 * t[m, e + 1] + 0.0722 * t[m, e + 2]
        ex, ey, ez = vertex.x - px, vertex.y - py, vertex.z - pz
        d2 = ex * ex + ey * ey + ez * ez
        w = power_heuristic(density, lum / work.settings[layout.EMITTED_TOTAL] * d2 / max(facing, 1e-6))
    group = int(work.settings[layout.GROUP_SURFACES])
    r, g, b = pictured(scene, k, within[0], within[1])
    add(work, sample, group, tr * w * t[m, e] * r, tg * w * t[m, e + 1] * g, tb * w * t[m, e + 2] * b, limit)
