"""Next-event estimation: one ray from a vertex to the sun, the sky, a fixture or an emitting surface; and what a path
finds of them by itself.

Functions that ask write a ray and the light it would bring among the questions of the workbench, and return how many there
are; `shade_all` weighs those of a vertex by its surface, `answer` traces those of many vertices, one after the other."""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.film import columns
from valleylight.core.jit.compiled import kernel, part
from valleylight.core.lamps import record
from valleylight.core.sky.cloudshadow import through_cloud
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.records import Light, ShadowRay
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.intersect.vertex import record_of
from valleylight.core.trace.lights import daylight, lamplight
from valleylight.core.trace.media import air
from valleylight.core.trace.nextevent.passage import BLOCKS, CLEAR, FAR, shade, short_of, through_glass
from valleylight.core.trace.sampling.sobol import hash32, power_heuristic
from valleylight.core.trace.textures.lookup import lookup

U32, I64, F64 = np.uint32, np.int64, np.float64


@part
def add(work, sample, group, r, g, b, limit):
    """Add a contribution of a sample to the film and to its own sum; above `limit` (cd/m2, 0 for none) it is scaled down, and what
    exceeds that is left to the pixel's surroundings (film/spread.py)."""
    own = work.samples
    y, x, reflected = int(own[sample, 0]), int(own[sample, 1]), own[sample, layout.REFLECTS]
    if limit > 0.0:
        lum = 0.2126 * r + 0.7152 * g + 0.0722 * b
        if lum > limit:
            s = limit / lum
            k = min(1.0 - s, columns.SPILL_MOST * s)
            i, j = y // columns.SPILL_CELL, x // columns.SPILL_CELL
            work.spill[i, j, group, 0] += r * k
            work.spill[i, j, group, 1] += g * k
            work.spill[i, j, group, 2] += b * k
            r, g, b = r * s, g * s, b * s
    work.film[y, x, group, 0] += r
    work.film[y, x, group, 1] += g
    work.film[y, x, group, 2] += b
    own[sample, layout.SAMPLE_LIGHT] += r
    own[sample, layout.SAMPLE_LIGHT + 1] += g
    own[sample, layout.SAMPLE_LIGHT + 2] += b
    own[sample, layout.SAMPLE_REFLECTED] += r * reflected
    own[sample, layout.SAMPLE_REFLECTED + 1] += g * reflected
    own[sample, layout.SAMPLE_REFLECTED + 2] += b * reflected


@part
def luck_of(u, v):
    """A seed for the walk through uneven air, from the random pair at hand."""
    return hash32(U32(U32(u * 65535.0) * U32(65521) + U32(v * 65535.0)))


#: Stands for the length of a ray that something blocks.
SHUT = -1.0
#: Stands for the group of a ray whose light is looked up by its direction: the sky.
BY_DIRECTION = -1.0
#: Least share of its luminous area with which a face is seen at a glancing angle.
LEAST_FACE = 0.15


@part
def ask(work, asked, vertex, paint, ray, light, group, own):
    """Write a question: is the way of a shadow ray free, and what does the light from there do? `own` is the density of asking there.
    Returns the number of questions now.

    Light that the face and the tilted normal place on different sides would leak; there is none of it.
    """
    side = vertex.gx * ray.dx + vertex.gy * ray.dy + vertex.gz * ray.dz
    cosine = vertex.nx * ray.dx + vertex.ny * ray.dy + vertex.nz * ray.dz
    if side * cosine < 0.0 or (cosine <= 0.0 and paint.through <= 0.0):
        return asked
    q = work.questions
    e = vertex.lift if side > 0.0 else -vertex.lift
    q[asked, layout.ASK_ORIGIN], q[asked, layout.ASK_ORIGIN + 1], q[asked, layout.ASK_ORIGIN + 2] = (
        vertex.x + vertex.gx * e,
        vertex.y + vertex.gy * e,
        vertex.z + vertex.gz * e,
    )
    q[asked, layout.ASK_TOWARDS], q[asked, layout.ASK_TOWARDS + 1], q[asked, layout.ASK_TOWARDS + 2] = (
        ray.dx,
        ray.dy,
        ray.dz,
    )
    q[asked, layout.ASK_LENGTH], q[asked, layout.ASK_MASK] = ray.length, ray.mask
    q[asked, layout.ASK_SOLIDS], q[asked, layout.ASK_WALK] = ray.solids, ray.walk
    q[asked, layout.ASK_LIGHT], q[asked, layout.ASK_LIGHT + 1], q[asked, layout.ASK_LIGHT + 2] = (
        light.red,
        light.green,
        light.blue,
    )
    q[asked, layout.ASK_GROUP], q[asked, layout.ASK_DENSITY], q[asked, layout.ASK_TRIANGLE] = group, own, -1.0
    return asked + 1


@kernel
def ask_sun(scene, work, asked, vertex, paint, u, v, light, solids, found, known):
    """A ray to the sun's disc; `light` carries the weight of asking. A bounce `found` the vertex with a density per sr; asking
    sunlit places would have with `known`, for each opening and times the cosine of the sun (0 where it does not)."""
    sun = scene.sun
    if (
        vertex.gx * sun[layout.SUN_TOWARDS]
        + vertex.gy * sun[layout.SUN_TOWARDS + 1]
        + vertex.gz * sun[layout.SUN_TOWARDS + 2]
        <= 0.0
        and paint.through <= 0.0
    ):
        return asked
    lx, ly, lz = daylight.sample_cone(sun, u, v)
    w = through_cloud(scene.cloud_shadow, scene.cloud_frame, vertex.x, vertex.y, vertex.z) / sun[layout.SUN_DENSITY]
    if known > 0.0:
        known *= abs(vertex.gx * lx + vertex.gy * ly + vertex.gz * lz)
        known *= daylight.openings_along(scene.openings, vertex.x, vertex.y, vertex.z, lx, ly, lz)
        w *= power_heuristic(found, known)
    ray = ShadowRay(lx, ly, lz, FAR, rays.OPAQUE | rays.BODY, solids, luck_of(u, v))
    found_there = Light(
        light.red * sun[layout.SUN_LUMINANCE] * w, light.green * sun[layout.SUN_LUMINANCE + 1] * w,
        light.blue * sun[layout.SUN_LUMINANCE + 2] * w,
    )  # fmt: skip
    return ask(work, asked, vertex, paint, ray, found_there, work.settings[layout.GROUP_SUN], sun[layout.SUN_DENSITY])


@kernel
def ask_sky(scene, work, asked, place, vertex, paint, total, u, v, light):
    """A ray from a place to the sky, through an opening where it lies behind one (`total` weighs those there are)."""
    ox, oy, oz = place
    lx, ly, lz = daylight.sample_sky(
        scene.dome_marginal, scene.dome_conditional, work.settings[layout.DOME_SHARE], total, scene.openings, work.weights,
        ox, oy, oz, u, v,
    )  # fmt: skip
    ray = ShadowRay(lx, ly, lz, FAR, rays.OPAQUE | rays.BODY, BLOCKS, luck_of(u, v))
    return ask(work, asked, vertex, paint, ray, light, BY_DIRECTION, 0.0)


@part
def lights(scene, lamp, body):
    """Whether a fixture lights an object: some light only those that they are meant for."""
    only = int(scene.lamps[lamp, record.INCLUSION])
    return only <= 0 or scene.inclusion[only, body] != 0


@part
def ask_fixture(scene, work, asked, place, vertex, paint, body, own, u, v, light, solids):
    """A ray from a place to a fixture drawn from the grid cell: I / d^2 over its chance. A fixture does not light its `own` body: its
    profile was measured with it."""
    cell = lamplight.grid_cell(scene.grid_box, scene.grid_counts, vertex.x, vertex.y, vertex.z)
    lamp, chance = lamplight.choose_lamp(scene.grid_cdf, cell, u)
    if chance <= 0.0 or lamp == own or not lights(scene, lamp, body):
        return asked
    u = min(max((u - scene.grid_cdf[cell, lamp]) / chance, 0.0), 0.999999)
    return ask_lamp(scene, work, asked, place, vertex, paint, lamp, F64(chance), u, v, light, solids)


@kernel
def ask_lamp(scene, work, asked, place, vertex, paint, lamp, chance, u, v, light, solids):
    """A ray from a place to a given fixture, chosen with a given chance."""
    ox, oy, oz = place
    c = scene.lamps
    if c[lamp, record.SHAPE] == record.SPHERE:
        lx, ly, lz, d, share = lamplight.towards_ball(c, lamp, ox, oy, oz, u, v)
    else:
        ax, ay, az = lamplight.point_on_lamp(c, scene.lamp_points, lamp, vertex.x, vertex.y, vertex.z, u, v)
        lx, ly, lz = ax - ox, ay - oy, az - oz
        d2 = lx * lx + ly * ly + lz * lz
        d = math.sqrt(d2) + 1e-12
        lx, ly, lz, share = lx / d, ly / d, lz / d, 1.0 / max(d2, lamplight.NEAREST_M * lamplight.NEAREST_M)
    e = lamplight.intensity(c, scene.profiles, lamp, -lx, -ly, -lz) * share / chance
    if e <= 0.0:
        return asked
    ray = ShadowRay(lx, ly, lz, short_of(d, vertex.lift), rays.OPAQUE, solids, luck_of(u, v))
    found_there = Light(
        light.red * e * c[lamp, record.COLOUR], light.green * e * c[lamp, record.COLOUR + 1],
        light.blue * e * c[lamp, record.COLOUR + 2],
    )  # fmt: skip
    return ask(work, asked, vertex, paint, ray, found_there, F64(c[lamp, record.GROUP]), 0.0)


@kernel
def pictured(scene, k, a, b):
    """What the picture of what shines makes of it within triangle k, at shares a and b of its second and third corner."""
    t = scene.triangles
    number = int(scene.materials[int(t[k, layout.TRIANGLE_MATERIAL]), layout.EMISSION_TEXTURE])
    if number < 0:
        return 1.0, 1.0, 1.0
    c, w = 1.0 - a - b, layout.TRIANGLE_UV
    u = c * t[k, w] + a * t[k, w + 2] + b * t[k, w + 4]
    v = c * t[k, w + 1] + a * t[k, w + 3] + b * t[k, w + 5]
    return lookup(scene.pixels, scene.texture_info, scene.decode, number, u, v)


@kernel
def ask_surface(scene, work, asked, place, vertex, paint, u, v, light):
    """A ray from a place to a point of an emitting triangle, drawn by luminance times area."""
    ox, oy, oz = place
    which, chance = lamplight.choose_lamp(scene.emitter_cdf, I64(0), u)
    u = min(max((u - scene.emitter_cdf[0, which]) / max(chance, 1e-12), 0.0), 0.999999)
    ax, ay, az = lamplight.triangle_point(scene.emitters, which, u, v)
    lx, ly, lz = ax - ox, ay - oy, az - oz
    d2 = lx * lx + ly * ly + lz * lz
    d = math.sqrt(d2) + 1e-12
    lx, ly, lz = lx / d, ly / d, lz / d
    t = scene.emitters
    cosine = abs(
        lx * t[which, layout.EMITTER_NORMAL]
        + ly * t[which, layout.EMITTER_NORMAL + 1]
        + lz * t[which, layout.EMITTER_NORMAL + 2]
    )
    if cosine <= 1e-6:
        return asked
    own = chance / t[which, layout.EMITTER_AREA] * d2 / cosine
    ray = ShadowRay(lx, ly, lz, 0.9999 * d - vertex.lift, rays.OPAQUE | rays.BODY, BLOCKS, luck_of(u, v))
    number = scene.emitter_triangle[which]
    a, b = lamplight.within_triangle(u, v)
    red, green, blue = pictured(scene, number if number >= 0 else -2 - number, a, b)
    found_there = Light(
        light.red * t[which, layout.EMITTER_LIGHT] * red / own, light.green * t[which, layout.EMITTER_LIGHT + 1] * green / own,
        light.blue * t[which, layout.EMITTER_LIGHT + 2] * blue / own,
    )  # fmt: skip
    asks = ask(work, asked, vertex, paint, ray, found_there, work.settings[layout.GROUP_SURFACES], own)
    if asks > asked:
        work.questions[asked, layout.ASK_TRIANGLE] = number
    return asks


@part
def ask_onwards(work, asked, dx, dy, dz, drawn):
    """Keep a direction in which light goes on from the surface, to be shaded with the questions; not `drawn`: it is lost."""
    q, w = work.questions, 1.0 if drawn else 0.0
    q[asked, layout.ASK_TOWARDS], q[asked, layout.ASK_TOWARDS + 1], q[asked, layout.ASK_TOWARDS + 2] = dx, dy, dz
    (
        q[asked, layout.ASK_LIGHT],
        q[asked, layout.ASK_LIGHT + 1],
        q[asked, layout.ASK_LIGHT + 2],
        q[asked, layout.ASK_DENSITY],
    ) = w, w, w, 0.0


@kernel
def shade_all(scene, work, first, asked, vertex, paint):
    """Weigh the light of the questions from `first` by what the surface does with it: BSDF times cosine, and the chance that a
    bounce would have found it. Writes light and density."""
    gx, gy, gz, nx, ny, nz = vertex.gx, vertex.gy, vertex.gz, vertex.nx, vertex.ny, vertex.nz
    q = work.questions
    for k in range(first, asked):
        lx, ly, lz, own = (
            q[k, layout.ASK_TOWARDS],
            q[k, layout.ASK_TOWARDS + 1],
            q[k, layout.ASK_TOWARDS + 2],
            q[k, layout.ASK_DENSITY],
        )
        r, g, b, density = 0.0, 0.0, 0.0, 0.0
        if (gx * lx + gy * ly + gz * lz) * (nx * lx + ny * ly + nz * lz) > 0.0 and q[k, layout.ASK_LIGHT] + q[
            k, layout.ASK_LIGHT + 1
        ] + q[k, layout.ASK_LIGHT + 2] > 0.0:
            r, g, b, density = shade(scene, paint, nx, ny, nz, vertex.wx, vertex.wy, vertex.wz, lx, ly, lz)
        w = power_heuristic(own, density) if own > 0.0 else 1.0
        q[k, layout.ASK_LIGHT], q[k, layout.ASK_LIGHT + 1], q[k, layout.ASK_LIGHT + 2], q[k, layout.ASK_DENSITY] = (
            q[k, layout.ASK_LIGHT] * r * w,
            q[k, layout.ASK_LIGHT + 1] * g * w,
            q[k, layout.ASK_LIGHT + 2] * b * w,
            density,
        )


@part
def note_place(work, first, asked, sample, limit, at_first, ox, oy, oz, total):
    """Note with the questions from `first` where they were asked: the sample, the greatest luminance they may bring (0 for any),
    whether its first surface asks, and what the openings weigh at o."""
    q = work.questions
    for k in range(first, asked):
        q[k, layout.ASK_SAMPLE], q[k, layout.ASK_MOST], q[k, layout.ASK_FIRST] = sample, limit, at_first
        q[k, layout.ASK_PLACE], q[k, layout.ASK_PLACE + 1], q[k, layout.ASK_PLACE + 2], q[k, layout.ASK_OPEN] = (
            ox,
            oy,
            oz,
            total,
        )


@kernel
def meets(scene, work, k):
    """Whether the ray of a question meets its emitting triangle first, past what lets light by."""
    q = work.questions
    if not rays.closest(
        scene.handle,
        work.shadow,
        work.shadow_word,
        q[k, layout.ASK_ORIGIN],
        q[k, layout.ASK_ORIGIN + 1],
        q[k, layout.ASK_ORIGIN + 2],
        q[k, layout.ASK_TOWARDS],
        q[k, layout.ASK_TOWARDS + 1],
        q[k, layout.ASK_TOWARDS + 2],
        FAR,
        U32(q[k, layout.ASK_MASK]),
    ):
        return False
    _, triangle = record_of(work.shadow_word, scene.geometry_first)
    return triangle == I64(q[k, layout.ASK_TRIANGLE])


@kernel
def answer(scene, work, first, asked):
    """Trace the shaded rays of the questions from `first` and add what arrives to the film. Returns rays spent.

    All that can be shaded is shaded before and all rays are traced one after the other, so that neither the processor's code nor
    its data change at every ray. The sky alone is looked up afterwards, for rays that reach it. At a first surface the
    luminance with nothing in the way is worked out too, for the shadow pass.
    """
    spent, q = I64(0), work.questions
    for k in range(first, asked):
        if q[k, layout.ASK_LIGHT] + q[k, layout.ASK_LIGHT + 1] + q[k, layout.ASK_LIGHT + 2] <= 0.0:
            continue
        spent += 1
        if q[k, layout.ASK_TRIANGLE] >= 0.0:
            # Where faces lie in one place, the one that is met shines, as it does for a bounce: each ray has one answer.
            if not meets(scene, work, k):
                q[k, layout.ASK_LENGTH] = SHUT
        elif rays.blocked(
            scene.handle, work.shadow, work.shadow_word, q[k, layout.ASK_ORIGIN], q[k, layout.ASK_ORIGIN + 1], q[k, layout.ASK_ORIGIN + 2], q[k, layout.ASK_TOWARDS], q[k, layout.ASK_TOWARDS + 1], q[k, layout.ASK_TOWARDS + 2], q[k, layout.ASK_LENGTH],
            U32(q[k, layout.ASK_MASK]),
        ):  # fmt: skip
            q[k, layout.ASK_LENGTH] = SHUT
    for k in range(first, asked):
        r, g, b, group, far, whole = (
            q[k, layout.ASK_LIGHT],
            q[k, layout.ASK_LIGHT + 1],
            q[k, layout.ASK_LIGHT + 2],
            int(q[k, layout.ASK_GROUP]),
            q[k, layout.ASK_LENGTH],
            1.0,
        )
        at_first, sample = q[k, layout.ASK_FIRST] > 0.0, int(q[k, layout.ASK_SAMPLE])
        if r + g + b <= 0.0 or (far == SHUT and not at_first):
            continue
        lx, ly, lz = q[k, layout.ASK_TOWARDS], q[k, layout.ASK_TOWARDS + 1], q[k, layout.ASK_TOWARDS + 2]
        if group < 0:
            er, eg, eb, own = daylight.dome_light(scene.dome, scene.dome_density, lx, ly, lz)
            own = daylight.sky_density(
                own,
                work.settings[layout.DOME_SHARE],
                q[k, layout.ASK_OPEN],
                scene.openings,
                q[k, layout.ASK_PLACE],
                q[k, layout.ASK_PLACE + 1],
                q[k, layout.ASK_PLACE + 2],
                lx,
                ly,
                lz,
            )
            if own <= 0.0:
                continue
            w = power_heuristic(own, q[k, layout.ASK_DENSITY])
            whole = 1.0 / max(w, 1e-9)  # the share left to bounces counts as asked here
            w /= own
            r, g, b, group = r * er * w, g * eg * w, b * eb * w, int(work.settings[layout.GROUP_SKY])
        y, x = int(work.samples[sample, 0]), int(work.samples[sample, 1])
        if at_first:
            work.passes[y, x, columns.PASS_FREE] += (0.2126 * r + 0.7152 * g + 0.0722 * b) * whole
            if far == SHUT:
                continue
        sx, sy, sz, pr, pg, pb = (
            q[k, layout.ASK_ORIGIN],
            q[k, layout.ASK_ORIGIN + 1],
            q[k, layout.ASK_ORIGIN + 2],
            1.0,
            1.0,
            1.0,
        )
        if q[k, layout.ASK_SOLIDS] != CLEAR:
            pr, pg, pb, panes = through_glass(scene, work, sx, sy, sz, lx, ly, lz, far, I64(q[k, layout.ASK_SOLIDS]))
            spent += panes
        if work.settings[layout.AIR_ON] > 0.0:
            t = air.transmittance(scene.air, sx, sy, sz, lx, ly, lz, far, U32(q[k, layout.ASK_WALK]))
            pr, pg, pb = pr * t, pg * t, pb * t
        r, g, b = r * pr, g * pg, b * pb
        if r + g + b > 0.0:
            if at_first:
                work.passes[y, x, columns.PASS_SHADED] += (0.2126 * r + 0.7152 * g + 0.0722 * b) * whole
            add(work, sample, group, r, g, b, q[k, layout.ASK_MOST])
    return spent
