"""The path integrator: from the lens into the stage, and at every surface towards the light.

Unidirectional path tracing with next-event estimation, combined by multiple importance sampling (E. Veach, Robust Monte
Carlo Methods for Light Transport Simulation, 1997). At every vertex one ray goes to the sun, one to the sky, one to a
fixture and one to an emitting surface, where there are any; thin panes are passed straight and tint the light.
The film adds luminance-scaled RGB in cd/m2 per light group.
"""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.trace import albedo, daylight, lamplight, layout, rays, surface
from valleylight.core.trace.compiled import kernel, part
from valleylight.core.trace.passage import FAR, MAX_PANES, arriving, mirror, tint
from valleylight.core.trace.sampling import (
    basis,
    disk,
    hash32,
    power_heuristic,
    scatter_square,
    square,
)
from valleylight.core.trace.texture import lookup
from valleylight.core.trace.vertex import camera_ray, meet

U32 = np.uint32
STRATIFIED_BOUNCES = 3
#: Dimension pairs of a bounce: sun, sky, fixture, emitting surface, choice of lobe and roulette, direction.
SUN, SKY, FIXTURE, SURFACE, CHOICE, DIRECTION = range(6)


@part
def random_pair(index, pixel, bounce, use):
    """Point (u, v) for one use at one bounce: stratified for the first bounces, plain for the deep ones."""
    dimension = 2 + 6 * bounce + use
    if bounce < STRATIFIED_BOUNCES:
        return square(index, pixel, dimension)
    return scatter_square(index, pixel, dimension)


@part
def add(film, y, x, group, r, g, b, limit):
    """Add a contribution to the film; above `limit` (cd/m2, 0 for none) it is scaled down to it."""
    if limit > 0.0:
        lum = 0.2126 * r + 0.7152 * g + 0.0722 * b
        if lum > limit:
            s = limit / lum
            r, g, b = r * s, g * s, b * s
    film[y, x, group, 0] += r
    film[y, x, group, 1] += g
    film[y, x, group, 2] += b


@part
def from_beyond(scene, settings, film, y, x, px, py, pz, dx, dy, dz, density, tr, tg, tb, limit):
    """A ray that meets nothing sees the sky, and the sun's disc if it points there."""
    if settings[layout.SKY_ON] > 0.0:
        r, g, b, own = daylight.dome_seen(scene.dome, scene.dome_density, dx, dy, dz)
        w = 1.0
        if density > 0.0:
            total = daylight.openings_total(scene.openings, px, py, pz)
            own = daylight.sky_density(own, total, scene.openings, px, py, pz, dx, dy, dz)
            w = power_heuristic(density, own)
        add(film, y, x, int(settings[layout.GROUP_SKY]), tr * r * w, tg * g * w, tb * b * w, limit)
    sun = scene.sun
    if settings[layout.SUN_ON] > 0.0 and dx * sun[0] + dy * sun[1] + dz * sun[2] > sun[3]:
        w = power_heuristic(density, sun[7]) if density > 0.0 else 1.0
        add(film, y, x, int(settings[layout.GROUP_SUN]), tr * sun[4] * w, tg * sun[5] * w, tb * sun[6] * w, limit)


@kernel
def given_off(scene, settings, film, y, x, k, m, px, py, pz, qx, qy, qz, dx, dy, dz, facing, density, mirrored,
              tr, tg, tb, limit):  # fmt: skip
    """Light that a surface gives off itself, towards the viewer."""
    lamp = int(scene.triangles[k, layout.TRIANGLE_FIXTURE]) - 1
    if lamp >= 0:
        # A fixture's face: seen by the lens and in mirrors; rooms are lit by the fixture itself.
        if mirrored and scene.lamps[lamp, lamplight.FACE_AREA] > 0.0:
            e = lamplight.intensity(scene.lamps, scene.profiles, lamp, -dx, -dy, -dz)
            e /= scene.lamps[lamp, lamplight.FACE_AREA] * max(facing, 0.15)
            c = scene.lamps
            add(
                film,
                y,
                x,
                int(c[lamp, lamplight.GROUP]),
                tr * e * c[lamp, 12],
                tg * e * c[lamp, 13],
                tb * e * c[lamp, 14],
                0.0,
            )
        return
    t, e = scene.materials, layout.EMISSION
    w = 1.0
    if density > 0.0 and scene.emitters.shape[0] > 0:
        lum = 0.2126 * t[m, e] + 0.7152 * t[m, e + 1] + 0.0722 * t[m, e + 2]
        ex, ey, ez = qx - px, qy - py, qz - pz
        d2 = ex * ex + ey * ey + ez * ez
        w = power_heuristic(density, lum / settings[layout.EMITTED_TOTAL] * d2 / max(facing, 1e-6))
    add(
        film, y, x, int(settings[layout.GROUP_SURFACES]), tr * w * t[m, e], tg * w * t[m, e + 1], tb * w * t[m, e + 2],
        limit,
    )  # fmt: skip


@part
def from_sun(scene, settings, ray, word, film, y, x, vertex, paint, u, v, tr, tg, tb, limit):
    """One ray to the sun's disc; `tr, tg, tb` carry the weight of asking. Returns the rays spent."""
    sun = scene.sun
    if vertex[3] * sun[0] + vertex[4] * sun[1] + vertex[5] * sun[2] <= 0.0 and paint[7] <= 0.0:
        return 0
    lx, ly, lz = daylight.sample_cone(sun, u, v)
    r, g, b, density, spent = arriving(scene, ray, word, vertex, paint, lx, ly, lz, FAR, rays.OPAQUE | rays.BODY)
    if r + g + b > 0.0:
        w = power_heuristic(sun[7], density) / sun[7]
        group = int(settings[layout.GROUP_SUN])
        add(film, y, x, group, tr * r * sun[4] * w, tg * g * sun[5] * w, tb * b * sun[6] * w, limit)
    return spent


@part
def from_sky(scene, settings, ray, word, film, y, x, ox, oy, oz, vertex, paint, u, v, tr, tg, tb, limit):
    """One ray to the sky, through an opening where the point lies behind one. Returns the rays spent."""
    total = daylight.openings_total(scene.openings, ox, oy, oz)
    lx, ly, lz = daylight.sample_sky(
        scene.dome_marginal, scene.dome_conditional, total, scene.openings, ox, oy, oz, u, v
    )
    r, g, b, density, spent = arriving(scene, ray, word, vertex, paint, lx, ly, lz, FAR, rays.OPAQUE | rays.BODY)
    if r + g + b > 0.0:
        er, eg, eb, own = daylight.dome_seen(scene.dome, scene.dome_density, lx, ly, lz)
        own = daylight.sky_density(own, total, scene.openings, ox, oy, oz, lx, ly, lz)
        if own > 0.0:
            w = power_heuristic(own, density) / own
            group = int(settings[layout.GROUP_SKY])
            add(film, y, x, group, tr * r * er * w, tg * g * eg * w, tb * b * eb * w, limit)
    return spent


@part
def from_fixture(scene, ray, word, film, y, x, ox, oy, oz, vertex, paint, u, v, tr, tg, tb, limit):
    """One ray to a fixture drawn from the grid cell: I / d^2 over its chance. Returns the rays spent."""
    cell = lamplight.grid_cell(scene.grid_box, scene.grid_counts, vertex[0], vertex[1], vertex[2])
    lamp, chance = lamplight.choose_lamp(scene.grid_cdf, cell, u)
    if chance <= 0.0:
        return 0
    u = min(max((u - scene.grid_cdf[cell, lamp]) / chance, 0.0), 0.999999)
    ax, ay, az = lamplight.point_on_lamp(scene.lamps, lamp, vertex[0], vertex[1], vertex[2], u, v)
    lx, ly, lz = ax - ox, ay - oy, az - oz
    d2 = lx * lx + ly * ly + lz * lz
    d = math.sqrt(d2) + 1e-12
    lx, ly, lz = lx / d, ly / d, lz / d
    e = lamplight.intensity(scene.lamps, scene.profiles, lamp, -lx, -ly, -lz)
    if e <= 0.0:
        return 0
    r, g, b, _, spent = arriving(scene, ray, word, vertex, paint, lx, ly, lz, d - 1e-3, rays.OPAQUE)
    if r + g + b > 0.0:
        e /= chance * max(d2, 1e-4)
        c = scene.lamps
        add(
            film,
            y,
            x,
            int(c[lamp, lamplight.GROUP]),
            tr * r * e * c[lamp, 12],
            tg * g * e * c[lamp, 13],
            tb * b * e * c[lamp, 14],
            limit,
        )
    return spent


@part
def from_surface(scene, settings, ray, word, film, y, x, ox, oy, oz, vertex, paint, u, v, tr, tg, tb, limit):
    """One ray to a point of an emitting triangle, drawn by luminance times area. Returns the rays spent."""
    which, chance = lamplight.choose_lamp(scene.emitter_cdf, 0, u)
    u = min(max((u - scene.emitter_cdf[0, which]) / max(chance, 1e-12), 0.0), 0.999999)
    ax, ay, az = lamplight.triangle_point(scene.emitters, which, u, v)
    lx, ly, lz = ax - ox, ay - oy, az - oz
    d2 = lx * lx + ly * ly + lz * lz
    d = math.sqrt(d2) + 1e-12
    lx, ly, lz = lx / d, ly / d, lz / d
    t = scene.emitters
    cosine = abs(lx * t[which, 12] + ly * t[which, 13] + lz * t[which, 14])
    if cosine <= 1e-6:
        return 0
    far = d - 2.0 * vertex[12] - 1e-4
    r, g, b, density, spent = arriving(scene, ray, word, vertex, paint, lx, ly, lz, far, rays.OPAQUE | rays.BODY)
    if r + g + b > 0.0:
        own = chance / t[which, 15] * d2 / cosine
        w = power_heuristic(own, density) / own
        group = int(settings[layout.GROUP_SURFACES])
        add(film, y, x, group, tr * r * t[which, 9] * w, tg * g * t[which, 10] * w, tb * b * t[which, 11] * w, limit)
    return spent


@part
def paint_at(scene, m, u, v, cosine, least_alpha):
    """What the surface is made of at (u, v), seen under `cosine`: the arguments of `surface.evaluate`."""
    t = scene.materials
    br, bg, bb = t[m, 0], t[m, 1], t[m, 2]
    if t[m, layout.BASE_TEXTURE] >= 0.0:
        r, g, b = lookup(scene.pixels, scene.texture_info, scene.decode, int(t[m, layout.BASE_TEXTURE]), u, v)
        br, bg, bb = br * r, bg * g, bb * b
    metal, coat, f0 = float(t[m, layout.METAL]), float(t[m, layout.COAT]), float(t[m, layout.F0])
    alpha = float(t[m, layout.ROUGH])
    alpha = max(max(alpha * alpha, 0.002), least_alpha)
    share = surface.specular_share(br, bg, bb, metal, coat, f0, cosine)
    under, lost = albedo.seen_from(alpha, coat, f0, cosine)
    return (
        float(br), float(bg), float(bb), alpha, metal, coat, f0, float(t[m, layout.THROUGH]), float(share),
        float(under), float(lost),
    )  # fmt: skip


@part
def scatter(vertex, paint, choice, u, v):
    """A new direction drawn from the surface: direction, BSDF x cosine (RGB), density; density 0 when it is lost."""
    nx, ny, nz, wx, wy, wz = vertex[6], vertex[7], vertex[8], vertex[9], vertex[10], vertex[11]
    br, bg, bb, alpha, metal, coat, f0, through, share, under, lost = paint
    t1x, t1y, t1z, t2x, t2y, t2z = basis(nx, ny, nz)
    if choice < share:
        hx, hy, hz = surface.sample_visible_normal(
            alpha, wx * t1x + wy * t1y + wz * t1z, wx * t2x + wy * t2y + wz * t2z, nx * wx + ny * wy + nz * wz, u, v
        )
        hx, hy, hz = hx * t1x + hy * t2x + hz * nx, hx * t1y + hy * t2y + hz * ny, hx * t1z + hy * t2z + hz * nz
        d = 2.0 * (wx * hx + wy * hy + wz * hz)
        dx, dy, dz = d * hx - wx, d * hy - wy, d * hz - wz
    else:
        p, q = disk(u, v)
        z = math.sqrt(max(1.0 - p * p - q * q, 1e-9))
        if through > 0.0 and (choice - share) < through * (1.0 - share):
            z = -z
        dx, dy, dz = p * t1x + q * t2x + z * nx, p * t1y + q * t2y + z * ny, p * t1z + q * t2z + z * nz
    r, g, b, density = surface.evaluate(
        br, bg, bb, alpha, metal, coat, f0, through, share, under, lost, nx, ny, nz, wx, wy, wz, dx, dy, dz
    )
    side = vertex[3] * dx + vertex[4] * dy + vertex[5] * dz
    if density <= 1e-9 or side * (nx * dx + ny * dy + nz * dz) <= 0.0:
        density = 0.0
    return dx, dy, dz, r, g, b, density


@part
def trace_path(scene, settings, camera, ray, word, film, passes, y, x, index, pixel):
    """One sample of one pixel. Returns the rays traced."""
    height, width = film.shape[0], film.shape[1]
    sun_on, sky_on = settings[layout.SUN_ON] > 0.0, settings[layout.SKY_ON] > 0.0
    fu, fv = square(index, pixel, 0)
    lu, lv = square(index, pixel, 1) if camera[16] > 0.0 else (0.0, 0.0)
    ox, oy, oz, dx, dy, dz = camera_ray(camera, x + fu, y + fv, width, height, lu, lv)
    tr, tg, tb = 1.0, 1.0, 1.0
    mirrored = True  # nothing but mirrors and panes since the lens
    density = 0.0  # of the last scattering; 0 after a mirror
    px, py, pz = ox, oy, oz  # where it happened
    bounce, panes, count = 0, 0, 0
    seen, rough_before = False, False
    while True:
        limit = settings[layout.CLAMP] if bounce > 0 else 0.0
        count += 1
        if not rays.closest(scene.handle, ray, word, ox, oy, oz, dx, dy, dz, FAR, rays.EVERYTHING):
            from_beyond(scene, settings, film, y, x, px, py, pz, dx, dy, dz, density, tr, tg, tb, limit)
            if not seen:
                passes[y, x, 0] += tr
                passes[y, x, 1] += tg
                passes[y, x, 2] += tb
            return count
        distance = ray[rays.FAR]
        k, m, u, v, qx, qy, qz, gx, gy, gz, nx, ny, nz, facing, eps = meet(scene, ray, word, dx, dy, dz)

        if scene.materials[m, layout.THIN] > 0.0:  # a pane: reflect, or pass straight on
            reflected, inside = surface.pane(
                max(-(nx * dx + ny * dy + nz * dz), 1e-3), scene.materials[m, layout.INDEX]
            )
            choice = min(max(reflected, 0.1), 0.95) if bounce == 0 else reflected
            panes += 1
            if panes > MAX_PANES:
                return count
            pick = hash32(U32(pixel + U32(index) * U32(0x9E3779B9) + U32(panes * 7919 + bounce))) / 4294967296.0
            if pick < choice:
                dx, dy, dz = mirror(scene, m, nx, ny, nz, dx, dy, dz, index, pixel, panes)
                bounce += 1
                if dx * gx + dy * gy + dz * gz <= 0.0 or bounce > settings[layout.MAX_BOUNCES]:
                    return count
                w = reflected / choice
                tr, tg, tb = tr * w, tg * w, tb * w
                density = 0.0
                ox, oy, oz = qx + gx * eps, qy + gy * eps, qz + gz * eps
                px, py, pz = ox, oy, oz
            else:
                w = (1.0 - reflected) / (1.0 - choice)
                pr, pg, pb = tint(scene, m, inside)
                tr, tg, tb = tr * w * pr, tg * w * pg, tb * w * pb
                ox, oy, oz = qx - gx * eps, qy - gy * eps, qz - gz * eps
            continue

        if scene.materials[m, layout.LIT] > 0.0:
            given_off(
                scene, settings, film, y, x, k, m, px, py, pz, qx, qy, qz, dx, dy, dz, facing, density, mirrored,
                tr, tg, tb, limit,
            )  # fmt: skip
        cosine = -(nx * dx + ny * dy + nz * dz)
        paint = paint_at(scene, m, u, v, cosine, settings[layout.SOFTEN] if rough_before else 0.0)
        if not seen:
            seen = True
            coat = paint[5] * paint[6]
            passes[y, x, 0] += tr * min(paint[0] + coat, 1.0)
            passes[y, x, 1] += tg * min(paint[1] + coat, 1.0)
            passes[y, x, 2] += tb * min(paint[2] + coat, 1.0)
            passes[y, x, 3] += nx
            passes[y, x, 4] += ny
            passes[y, x, 5] += nz
            passes[y, x, 6] += distance
            passes[y, x, 7] += 1.0
        vertex = (qx, qy, qz, gx, gy, gz, nx, ny, nz, -dx, -dy, -dz, eps)
        ox, oy, oz = qx + gx * eps, qy + gy * eps, qz + gz * eps

        # After the first bounce one ray serves sun and sky, each asked half of the time.
        ask_sun, ask_sky, w = sun_on, sky_on, 1.0
        if bounce >= 1 and sun_on and sky_on:
            ask_sun = (hash32(U32(pixel + U32(index * 31 + bounce))) & U32(1)) == U32(0)
            ask_sky, w = not ask_sun, 2.0
        if ask_sun:
            a, b = random_pair(index, pixel, bounce, SUN)
            count += from_sun(
                scene, settings, ray, word, film, y, x, vertex, paint, a, b, tr * w, tg * w, tb * w, limit
            )
        if ask_sky:
            a, b = random_pair(index, pixel, bounce, SKY)
            count += from_sky(
                scene, settings, ray, word, film, y, x, ox, oy, oz, vertex, paint, a, b, tr * w, tg * w, tb * w, limit
            )
        if scene.lamps.shape[0] > 0:
            a, b = random_pair(index, pixel, bounce, FIXTURE)
            count += from_fixture(scene, ray, word, film, y, x, ox, oy, oz, vertex, paint, a, b, tr, tg, tb, limit)
        if scene.emitters.shape[0] > 0:
            a, b = random_pair(index, pixel, bounce, SURFACE)
            count += from_surface(
                scene, settings, ray, word, film, y, x, ox, oy, oz, vertex, paint, a, b, tr, tg, tb, limit
            )

        if bounce >= settings[layout.MAX_BOUNCES]:
            return count
        choice, fate = random_pair(index, pixel, bounce, CHOICE)
        a, b = random_pair(index, pixel, bounce, DIRECTION)
        dx, dy, dz, r, g, b, density = scatter(vertex, paint, choice, a, b)
        if density <= 0.0:
            return count
        bounce += 1
        tr, tg, tb = tr * r / density, tg * g / density, tb * b / density
        if gx * dx + gy * dy + gz * dz < 0.0:
            ox, oy, oz = qx - gx * eps, qy - gy * eps, qz - gz * eps
        px, py, pz = ox, oy, oz
        diffuse = choice >= paint[8]
        if diffuse or paint[3] > 0.02:
            mirrored = False
        if diffuse or paint[3] > 0.1:
            rough_before = True
        # Russian roulette keeps the expected value; what is left of a dark surface is seldom worth a long path.
        survive = min(max(max(tr, tg), tb), 0.95)
        if survive < 0.95 or bounce >= 2:
            if fate >= survive:
                return count
            tr, tg, tb = tr / survive, tg / survive, tb / survive


@kernel
def render_tile(scene, camera, settings, ray, film, passes, x0, y0, x1, y1, first_sample, last_sample):
    """Add samples first to last of the pixels of a tile. Returns the number of rays traced.

    `film` (H, W, G, 3) float32 sums in cd/m2; `passes` (H, W, 8) float32 sums: surface colour, normal, depth, hits.
    `ray` is a buffer of `rays.new_ray`, one for each thread.
    """
    word = ray.view(np.uint32)  # the same memory as integers
    width = film.shape[1]
    seed = hash32(U32(settings[layout.SEED]))
    count = 0
    for y in range(y0, y1):
        for x in range(x0, x1):
            pixel = hash32(U32(U32(y * width + x) ^ seed))
            for index in range(first_sample, last_sample):
                count += trace_path(scene, settings, camera, ray, word, film, passes, y, x, index, pixel)
    return count
