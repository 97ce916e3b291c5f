"""The path integrator: from the lens into the stage, and at every surface towards the light.

Unidirectional path tracing with next-event estimation, combined by multiple importance sampling (E. Veach, Robust Monte
Carlo Methods for Light Transport Simulation, 1997). At every vertex one ray goes to the sun, one to the sky, one to a
fixture and one to an emitting surface, where there are any; thin panes are passed straight and tint the light.
The film adds luminance-scaled RGB in cd/m2 per light group.
"""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.trace import albedo, daylight, lamplight, rays, surface
from valleylight.core.trace.compiled import kernel
from valleylight.core.trace.sampling import (
    basis,
    disk,
    hash32,
    power_heuristic,
    scatter_square,
    square,
)
from valleylight.core.trace.texture import lookup

U32 = np.uint32
# Columns of a triangle record.
TRIANGLE_WIDTH = 28
# Columns of a material record.
(BASE, ROUGH, METAL, COAT, INDEX, THIN, TINT, EMISSION, BASE_TEXTURE, RELIEF_TEXTURE, RELIEF, THROUGH, F0, LIT) = (
    0, 3, 4, 5, 6, 7, 8, 11, 14, 15, 16, 17, 18, 19
)  # fmt: skip
MATERIAL_WIDTH = 20
# Settings of a trace.
MAX_BOUNCES, CLAMP, SEED, GROUP_SUN, GROUP_SKY, GROUP_SURFACES, SUN_ON, SKY_ON, EMITTED_TOTAL, SOFTEN = range(10)
SETTINGS_WIDTH = 10
# The camera: position, forward, right, up, half width, half height, shift x, shift y, lens radius, focus distance.
CAMERA_WIDTH = 18
STRATIFIED_BOUNCES = 3
FAR = 1e7
MAX_PANES = 24


@kernel
def camera_ray(camera, x, y, width, height, lens_u, lens_v):
    """Origin and unit direction of the ray through film position (x, y) in pixels."""
    a = (2.0 * x / width - 1.0) * camera[12] + camera[14]
    b = (1.0 - 2.0 * y / height) * camera[13] + camera[15]
    dx = camera[3] + a * camera[6] + b * camera[9]
    dy = camera[4] + a * camera[7] + b * camera[10]
    dz = camera[5] + a * camera[8] + b * camera[11]
    ox, oy, oz = camera[0], camera[1], camera[2]
    if camera[16] > 0.0:
        p, q = disk(lens_u, lens_v)
        p, q = p * camera[16], q * camera[16]
        lx = p * camera[6] + q * camera[9]
        ly = p * camera[7] + q * camera[10]
        lz = p * camera[8] + q * camera[11]
        focus = camera[17]
        dx, dy, dz = dx * focus - lx, dy * focus - ly, dz * focus - lz
        ox, oy, oz = ox + lx, oy + ly, oz + lz
    s = 1.0 / math.sqrt(dx * dx + dy * dy + dz * dz)
    return ox, oy, oz, dx * s, dy * s, dz * s


@kernel
def face_normal(t, k):
    """Cross product of the edges of triangle record k: its normal, twice its area long."""
    return (
        t[k, 4] * t[k, 8] - t[k, 5] * t[k, 7],
        t[k, 5] * t[k, 6] - t[k, 3] * t[k, 8],
        t[k, 3] * t[k, 7] - t[k, 4] * t[k, 6],
    )


@kernel
def through_glass(scene, ray, word, ox, oy, oz, dx, dy, dz, far):
    """What thin panes pass along a free segment, straight on: RGB 0 to 1."""
    r, g, b = 1.0, 1.0, 1.0
    if scene.glass == 0:
        return r, g, b
    travelled = 0.0
    for _ in range(MAX_PANES):
        if not rays.closest(
            scene.glass, ray, word, ox + dx * travelled, oy + dy * travelled, oz + dz * travelled, dx, dy, dz,
            far - travelled, rays.GLASS,
        ):  # fmt: skip
            return r, g, b
        k = scene.glass_first + word[rays.HIT_PRIMITIVE]
        gx, gy, gz = face_normal(scene.triangles, k)
        cosine = abs(gx * dx + gy * dy + gz * dz) / math.sqrt(gx * gx + gy * gy + gz * gz + 1e-30)
        m = int(scene.triangles[k, 24])
        reflected, inside = surface.pane(max(cosine, 1e-3), scene.materials[m, INDEX])
        passed = 1.0 - reflected
        length = 1.0 / inside
        r *= passed * scene.materials[m, TINT] ** length
        g *= passed * scene.materials[m, TINT + 1] ** length
        b *= passed * scene.materials[m, TINT + 2] ** length
        travelled += ray[rays.FAR] + 1e-4
        if travelled >= far:
            return r, g, b
    return 0.0, 0.0, 0.0


@kernel
def relief_normal(scene, k, m, u, v, nx, ny, nz):
    """Shading normal tilted by the material's normal map (glTF 2.0, section 3.9.3)."""
    t = scene.triangles
    e1u, e1v, e2u, e2v = t[k, 20] - t[k, 18], t[k, 21] - t[k, 19], t[k, 22] - t[k, 18], t[k, 23] - t[k, 19]
    det = e1u * e2v - e2u * e1v
    if abs(det) < 1e-14:
        return nx, ny, nz
    inv = 1.0 / det
    tx = (t[k, 3] * e2v - t[k, 6] * e1v) * inv
    ty = (t[k, 4] * e2v - t[k, 7] * e1v) * inv
    tz = (t[k, 5] * e2v - t[k, 8] * e1v) * inv
    d = tx * nx + ty * ny + tz * nz
    tx, ty, tz = tx - d * nx, ty - d * ny, tz - d * nz
    s = 1.0 / math.sqrt(tx * tx + ty * ty + tz * tz + 1e-20)
    tx, ty, tz = tx * s, ty * s, tz * s
    # glTF: v runs downwards in the picture, and green points up it.
    side = 1.0 if inv < 0.0 else -1.0
    bx, by, bz = side * (ny * tz - nz * ty), side * (nz * tx - nx * tz), side * (nx * ty - ny * tx)
    r, g, b = lookup(scene.pixels, scene.texture_info, scene.linear, int(scene.materials[m, RELIEF_TEXTURE]), u, v)
    scale = scene.materials[m, RELIEF]
    a, c, e = (2.0 * r - 1.0) * scale, (2.0 * g - 1.0) * scale, max(2.0 * b - 1.0, 0.05)
    x, y, z = a * tx + c * bx + e * nx, a * ty + c * by + e * ny, a * tz + c * bz + e * nz
    s = 1.0 / math.sqrt(x * x + y * y + z * z)
    return x * s, y * s, z * s


@kernel
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


@kernel
def render_tile(scene, camera, settings, ray, film, passes, x0, y0, x1, y1, first_sample, last_sample):
    """Add samples first to last of the pixels of a tile. Returns the number of rays traced.

    `film` (H, W, G, 3) float32 sums in cd/m2; `passes` (H, W, 8) float32 sums: surface colour, normal, depth, hits.
    `ray` is a buffer of `rays.new_ray`, one for each thread.
    """
    height, width = film.shape[0], film.shape[1]
    word = ray.view(np.uint32)  # the same memory as integers
    count = 0
    limit0 = settings[CLAMP]
    soften = settings[SOFTEN]
    max_bounces = int(settings[MAX_BOUNCES])
    group_sun, group_sky = int(settings[GROUP_SUN]), int(settings[GROUP_SKY])
    group_surfaces = int(settings[GROUP_SURFACES])
    sun_on, sky_on = settings[SUN_ON] > 0.0, settings[SKY_ON] > 0.0
    n_lamps, n_emitters = scene.lamps.shape[0], scene.emitters.shape[0]
    sun = scene.sun
    for y in range(y0, y1):
        for x in range(x0, x1):
            pixel = hash32(U32(U32(y * width + x) ^ hash32(U32(settings[SEED]))))
            for index in range(first_sample, last_sample):
                fu, fv = square(index, pixel, 0)
                lu, lv = square(index, pixel, 1) if camera[16] > 0.0 else (0.0, 0.0)
                ox, oy, oz, dx, dy, dz = camera_ray(camera, x + fu, y + fv, width, height, lu, lv)
                tr, tg, tb = 1.0, 1.0, 1.0
                mirrored = True  # nothing but mirrors and panes since the lens
                density = 0.0  # of the last scattering; 0 after a mirror
                px, py, pz = ox, oy, oz  # where it happened
                bounce, panes = 0, 0
                seen = False
                rough_before = False
                while True:
                    limit = limit0 if bounce > 0 else 0.0
                    met = rays.closest(scene.handle, ray, word, ox, oy, oz, dx, dy, dz, FAR, rays.EVERYTHING)
                    count += 1
                    if not met:
                        if sky_on:
                            r, g, b = daylight.dome_luminance(scene.dome, dx, dy, dz)
                            w = 1.0
                            if density > 0.0:
                                w = power_heuristic(
                                    density,
                                    daylight.sky_density(scene.dome_density, scene.openings, px, py, pz, dx, dy, dz),
                                )
                            add(film, y, x, group_sky, tr * r * w, tg * g * w, tb * b * w, limit)
                        if sun_on and dx * sun[0] + dy * sun[1] + dz * sun[2] > sun[3]:
                            w = 1.0
                            if density > 0.0:
                                w = power_heuristic(density, sun[7])
                            if bounce == 0 or w > 0.0:
                                add(film, y, x, group_sun, tr * sun[4] * w, tg * sun[5] * w, tb * sun[6] * w, limit)
                        if not seen:
                            passes[y, x, 0] += tr
                            passes[y, x, 1] += tg
                            passes[y, x, 2] += tb
                        break

                    # --- the surface
                    geometry = word[rays.HIT_INSTANCE]
                    if geometry == U32(rays.NOTHING):
                        geometry = word[rays.HIT_GEOMETRY]
                    k = scene.geometry_first[geometry] + word[rays.HIT_PRIMITIVE]
                    distance = ray[rays.FAR]
                    t = scene.triangles
                    a, b2 = ray[rays.HIT_U], ray[rays.HIT_V]
                    c = 1.0 - a - b2
                    qx = t[k, 0] + a * t[k, 3] + b2 * t[k, 6]
                    qy = t[k, 1] + a * t[k, 4] + b2 * t[k, 7]
                    qz = t[k, 2] + a * t[k, 5] + b2 * t[k, 8]
                    gx, gy, gz = face_normal(t, k)
                    nx = c * t[k, 9] + a * t[k, 12] + b2 * t[k, 15]
                    ny = c * t[k, 10] + a * t[k, 13] + b2 * t[k, 16]
                    nz = c * t[k, 11] + a * t[k, 14] + b2 * t[k, 17]
                    turn = scene.geometry_transform[geometry]
                    m = int(t[k, 24])
                    u = c * t[k, 18] + a * t[k, 20] + b2 * t[k, 22]
                    v = c * t[k, 19] + a * t[k, 21] + b2 * t[k, 23]
                    s = 1.0 / math.sqrt(nx * nx + ny * ny + nz * nz + 1e-30)
                    nx, ny, nz = nx * s, ny * s, nz * s
                    if scene.materials[m, RELIEF_TEXTURE] >= 0.0 and scene.materials[m, THIN] == 0.0:
                        nx, ny, nz = relief_normal(scene, k, m, u, v, nx, ny, nz)
                    if turn >= 0:
                        w9 = scene.transforms
                        qx, qy, qz = (
                            w9[turn, 0] * qx + w9[turn, 1] * qy + w9[turn, 2] * qz + w9[turn, 3],
                            w9[turn, 4] * qx + w9[turn, 5] * qy + w9[turn, 6] * qz + w9[turn, 7],
                            w9[turn, 8] * qx + w9[turn, 9] * qy + w9[turn, 10] * qz + w9[turn, 11],
                        )
                        gx, gy, gz = (
                            w9[turn, 12] * gx + w9[turn, 13] * gy + w9[turn, 14] * gz,
                            w9[turn, 15] * gx + w9[turn, 16] * gy + w9[turn, 17] * gz,
                            w9[turn, 18] * gx + w9[turn, 19] * gy + w9[turn, 20] * gz,
                        )
                        nx, ny, nz = (
                            w9[turn, 12] * nx + w9[turn, 13] * ny + w9[turn, 14] * nz,
                            w9[turn, 15] * nx + w9[turn, 16] * ny + w9[turn, 17] * nz,
                            w9[turn, 18] * nx + w9[turn, 19] * ny + w9[turn, 20] * nz,
                        )
                        s = 1.0 / math.sqrt(nx * nx + ny * ny + nz * nz + 1e-30)
                        nx, ny, nz = nx * s, ny * s, nz * s
                    s = math.sqrt(gx * gx + gy * gy + gz * gz)
                    s = 1.0 / (s + 1e-30)
                    gx, gy, gz = gx * s, gy * s, gz * s
                    facing = -(gx * dx + gy * dy + gz * dz)
                    front = facing >= 0.0
                    if not front:
                        gx, gy, gz, facing = -gx, -gy, -gz, -facing
                        nx, ny, nz = -nx, -ny, -nz
                    if -(nx * dx + ny * dy + nz * dz) < 1e-3:  # a tilted normal must not look away
                        nx, ny, nz = gx, gy, gz
                    eps = 1e-4 + 2e-6 * max(max(abs(qx), abs(qy)), abs(qz))

                    # --- thin glass: reflect or pass straight on
                    if scene.materials[m, THIN] > 0.0:
                        if scene.materials[m, RELIEF_TEXTURE] >= 0.0:
                            nx, ny, nz = relief_normal(scene, k, m, u, v, nx, ny, nz)
                        ci = max(-(nx * dx + ny * dy + nz * dz), 1e-3)
                        reflected, inside = surface.pane(ci, scene.materials[m, INDEX])
                        choice = min(max(reflected, 0.1), 0.95) if bounce == 0 else reflected
                        panes += 1
                        if panes > MAX_PANES:
                            break
                        pick = (
                            hash32(U32(pixel + U32(index) * U32(0x9E3779B9) + U32(panes * 7919 + bounce)))
                            / 4294967296.0
                        )
                        if pick < choice:
                            w = reflected / choice
                            alpha = scene.materials[m, ROUGH]
                            alpha = alpha * alpha
                            hx, hy, hz = nx, ny, nz
                            if alpha > 1e-4:
                                t1x, t1y, t1z, t2x, t2y, t2z = basis(nx, ny, nz)
                                ru, rv = scatter_square(index, pixel, 500 + panes)
                                lx, ly, lz = surface.sample_visible_normal(
                                    alpha,
                                    -(dx * t1x + dy * t1y + dz * t1z),
                                    -(dx * t2x + dy * t2y + dz * t2z),
                                    ci,
                                    ru,
                                    rv,
                                )
                                hx = lx * t1x + ly * t2x + lz * nx
                                hy = lx * t1y + ly * t2y + lz * ny
                                hz = lx * t1z + ly * t2z + lz * nz
                            d = 2.0 * (dx * hx + dy * hy + dz * hz)
                            dx, dy, dz = dx - d * hx, dy - d * hy, dz - d * hz
                            if dx * gx + dy * gy + dz * gz <= 0.0:
                                break
                            tr, tg, tb = tr * w, tg * w, tb * w
                            density = 0.0
                            bounce += 1
                            if bounce > max_bounces:
                                break
                            ox, oy, oz = qx + gx * eps, qy + gy * eps, qz + gz * eps
                            px, py, pz = ox, oy, oz
                        else:
                            w = (1.0 - reflected) / (1.0 - choice)
                            length = 1.0 / inside
                            tr *= w * scene.materials[m, TINT] ** length
                            tg *= w * scene.materials[m, TINT + 1] ** length
                            tb *= w * scene.materials[m, TINT + 2] ** length
                            ox, oy, oz = qx - gx * eps, qy - gy * eps, qz - gz * eps
                        continue

                    # --- light given off
                    if scene.materials[m, LIT] > 0.0:
                        lamp = int(t[k, 25])
                        if lamp > 0:
                            # A fixture's face: seen by the lens and in mirrors; rooms are lit by the fixture itself.
                            if mirrored and scene.lamps[lamp - 1, 20] > 0.0:
                                e = lamplight.intensity(scene.lamps, scene.profiles, lamp - 1, -dx, -dy, -dz)
                                e /= scene.lamps[lamp - 1, 20] * max(facing, 0.15)
                                add(
                                    film, y, x, int(scene.lamps[lamp - 1, 19]), tr * e * scene.lamps[lamp - 1, 12],
                                    tg * e * scene.lamps[lamp - 1, 13], tb * e * scene.lamps[lamp - 1, 14], 0.0,
                                )  # fmt: skip
                        else:
                            w = 1.0
                            if density > 0.0 and n_emitters > 0:
                                er, eg, eb = (
                                    scene.materials[m, EMISSION], scene.materials[m, EMISSION + 1],
                                    scene.materials[m, EMISSION + 2],
                                )  # fmt: skip
                                lum = 0.2126 * er + 0.7152 * eg + 0.0722 * eb
                                ex, ey, ez = qx - px, qy - py, qz - pz
                                d2 = ex * ex + ey * ey + ez * ez
                                w = power_heuristic(density, lum / settings[EMITTED_TOTAL] * d2 / max(facing, 1e-6))
                            add(
                                film, y, x, group_surfaces, tr * w * scene.materials[m, EMISSION],
                                tg * w * scene.materials[m, EMISSION + 1], tb * w * scene.materials[m, EMISSION + 2],
                                limit,
                            )  # fmt: skip

                    # --- what the surface is made of
                    br, bg, bb = scene.materials[m, 0], scene.materials[m, 1], scene.materials[m, 2]
                    if scene.materials[m, BASE_TEXTURE] >= 0.0:
                        r, g, b = lookup(
                            scene.pixels, scene.texture_info, scene.decode, int(scene.materials[m, BASE_TEXTURE]), u, v
                        )
                        br, bg, bb = br * r, bg * g, bb * b
                    metal, coat, f0 = scene.materials[m, METAL], scene.materials[m, COAT], scene.materials[m, F0]
                    through = scene.materials[m, THROUGH]
                    alpha = scene.materials[m, ROUGH]
                    alpha = max(alpha * alpha, 0.002)
                    if rough_before and alpha < soften:
                        alpha = soften
                    wx, wy, wz = -dx, -dy, -dz
                    co = nx * wx + ny * wy + nz * wz
                    share = surface.specular_share(br, bg, bb, metal, coat, f0, co)
                    under, lost = albedo.seen_from(alpha, coat, f0, co)
                    if not seen:
                        seen = True
                        passes[y, x, 0] += tr * min(br + coat * f0, 1.0)
                        passes[y, x, 1] += tg * min(bg + coat * f0, 1.0)
                        passes[y, x, 2] += tb * min(bb + coat * f0, 1.0)
                        passes[y, x, 3] += nx
                        passes[y, x, 4] += ny
                        passes[y, x, 5] += nz
                        passes[y, x, 6] += distance
                        passes[y, x, 7] += 1.0
                    ox, oy, oz = qx + gx * eps, qy + gy * eps, qz + gz * eps
                    dimension = 2 + 6 * bounce
                    stratified = bounce < STRATIFIED_BOUNCES

                    # --- after the first bounce one ray serves sun and sky, each asked half of the time
                    ask_sun, ask_sky, twice = sun_on, sky_on, 1.0
                    if bounce >= 1 and sun_on and sky_on:
                        ask_sun = (hash32(U32(pixel + U32(index * 31 + bounce))) & U32(1)) == U32(0)
                        ask_sky, twice = not ask_sun, 2.0

                    # --- the sun
                    if ask_sun:
                        cs = gx * sun[0] + gy * sun[1] + gz * sun[2]
                        if cs > 0.0 or through > 0.0:
                            su, sv = (
                                square(index, pixel, dimension)
                                if stratified
                                else scatter_square(index, pixel, dimension)
                            )
                            lx, ly, lz = daylight.sample_cone(sun, su, sv)
                            cs = gx * lx + gy * ly + gz * lz
                            r, g, b, pdf = surface.evaluate(
                                br,
                                bg,
                                bb,
                                alpha,
                                metal,
                                coat,
                                f0,
                                through,
                                share,
                                under,
                                lost,
                                nx,
                                ny,
                                nz,
                                wx,
                                wy,
                                wz,
                                lx,
                                ly,
                                lz,
                            )
                            if r + g + b > 0.0 and cs * (nx * lx + ny * ly + nz * lz) > 0.0:
                                e = eps if cs > 0.0 else -eps
                                sx, sy, sz = qx + gx * e, qy + gy * e, qz + gz * e
                                count += 1
                                if not rays.blocked(
                                    scene.handle, ray, word, sx, sy, sz, lx, ly, lz, FAR, rays.OPAQUE | rays.BODY
                                ):
                                    pr, pg, pb = through_glass(scene, ray, word, sx, sy, sz, lx, ly, lz, FAR)
                                    w = twice * power_heuristic(sun[7], pdf) / sun[7]
                                    add(
                                        film, y, x, group_sun, tr * r * pr * sun[4] * w, tg * g * pg * sun[5] * w,
                                        tb * b * pb * sun[6] * w, limit,
                                    )  # fmt: skip

                    # --- the sky
                    if ask_sky:
                        if stratified:
                            su, sv = square(index, pixel, dimension + 1)
                        else:
                            su, sv = scatter_square(index, pixel, dimension + 1)
                        lx, ly, lz = daylight.sample_sky(
                            scene.dome_marginal, scene.dome_conditional, scene.openings, ox, oy, oz, su, sv
                        )
                        cs = gx * lx + gy * ly + gz * lz
                        r, g, b, pdf = surface.evaluate(
                            br,
                            bg,
                            bb,
                            alpha,
                            metal,
                            coat,
                            f0,
                            through,
                            share,
                            under,
                            lost,
                            nx,
                            ny,
                            nz,
                            wx,
                            wy,
                            wz,
                            lx,
                            ly,
                            lz,
                        )
                        if r + g + b > 0.0 and cs * (nx * lx + ny * ly + nz * lz) > 0.0:
                            e = eps if cs > 0.0 else -eps
                            sx, sy, sz = qx + gx * e, qy + gy * e, qz + gz * e
                            count += 1
                            if not rays.blocked(
                                scene.handle, ray, word, sx, sy, sz, lx, ly, lz, FAR, rays.OPAQUE | rays.BODY
                            ):
                                own = daylight.sky_density(scene.dome_density, scene.openings, ox, oy, oz, lx, ly, lz)
                                if own > 0.0:
                                    pr, pg, pb = through_glass(scene, ray, word, sx, sy, sz, lx, ly, lz, FAR)
                                    er, eg, eb = daylight.dome_luminance(scene.dome, lx, ly, lz)
                                    w = twice * power_heuristic(own, pdf) / own
                                    add(
                                        film, y, x, group_sky, tr * r * pr * er * w, tg * g * pg * eg * w,
                                        tb * b * pb * eb * w, limit,
                                    )  # fmt: skip

                    # --- a fixture
                    if n_lamps > 0:
                        su, sv = (
                            square(index, pixel, dimension + 2)
                            if stratified
                            else scatter_square(index, pixel, dimension + 2)
                        )
                        cell = lamplight.grid_cell(scene.grid_box, scene.grid_counts, qx, qy, qz)
                        lamp, chance = lamplight.choose_lamp(scene.grid_cdf, cell, su)
                        if chance > 0.0:
                            su = min(max((su - scene.grid_cdf[cell, lamp]) / chance, 0.0), 0.999999)
                            ax, ay, az = lamplight.point_on_lamp(scene.lamps, lamp, qx, qy, qz, su, sv)
                            lx, ly, lz = ax - ox, ay - oy, az - oz
                            d2 = lx * lx + ly * ly + lz * lz
                            d = math.sqrt(d2) + 1e-12
                            lx, ly, lz = lx / d, ly / d, lz / d
                            cs = gx * lx + gy * ly + gz * lz
                            r, g, b, pdf = surface.evaluate(
                                br,
                                bg,
                                bb,
                                alpha,
                                metal,
                                coat,
                                f0,
                                through,
                                share,
                                under,
                                lost,
                                nx,
                                ny,
                                nz,
                                wx,
                                wy,
                                wz,
                                lx,
                                ly,
                                lz,
                            )
                            if r + g + b > 0.0 and cs * (nx * lx + ny * ly + nz * lz) > 0.0:
                                e = lamplight.intensity(scene.lamps, scene.profiles, lamp, -lx, -ly, -lz)
                                if e > 0.0:
                                    off = eps if cs > 0.0 else -eps
                                    sx, sy, sz = qx + gx * off, qy + gy * off, qz + gz * off
                                    count += 1
                                    if not rays.blocked(
                                        scene.handle, ray, word, sx, sy, sz, lx, ly, lz, d - 1e-3, rays.OPAQUE
                                    ):
                                        pr, pg, pb = through_glass(scene, ray, word, sx, sy, sz, lx, ly, lz, d - 1e-3)
                                        e /= chance * max(d2, 1e-4)
                                        add(
                                            film, y, x, int(scene.lamps[lamp, 19]),
                                            tr * r * pr * e * scene.lamps[lamp, 12],
                                            tg * g * pg * e * scene.lamps[lamp, 13],
                                            tb * b * pb * e * scene.lamps[lamp, 14], limit,
                                        )  # fmt: skip

                    # --- an emitting surface
                    if n_emitters > 0:
                        su, sv = (
                            square(index, pixel, dimension + 3)
                            if stratified
                            else scatter_square(index, pixel, dimension + 3)
                        )
                        which, chance = lamplight.choose_lamp(scene.emitter_cdf, 0, su)
                        su = min(max((su - scene.emitter_cdf[0, which]) / max(chance, 1e-12), 0.0), 0.999999)
                        ax, ay, az = lamplight.triangle_point(scene.emitters, which, su, sv)
                        lx, ly, lz = ax - ox, ay - oy, az - oz
                        d2 = lx * lx + ly * ly + lz * lz
                        d = math.sqrt(d2) + 1e-12
                        lx, ly, lz = lx / d, ly / d, lz / d
                        emit = scene.emitters
                        ce = abs(lx * emit[which, 12] + ly * emit[which, 13] + lz * emit[which, 14])
                        cs = gx * lx + gy * ly + gz * lz
                        r, g, b, pdf = surface.evaluate(
                            br,
                            bg,
                            bb,
                            alpha,
                            metal,
                            coat,
                            f0,
                            through,
                            share,
                            under,
                            lost,
                            nx,
                            ny,
                            nz,
                            wx,
                            wy,
                            wz,
                            lx,
                            ly,
                            lz,
                        )
                        if ce > 1e-6 and r + g + b > 0.0 and cs * (nx * lx + ny * ly + nz * lz) > 0.0:
                            off = eps if cs > 0.0 else -eps
                            sx, sy, sz = qx + gx * off, qy + gy * off, qz + gz * off
                            count += 1
                            if not rays.blocked(
                                scene.handle,
                                ray,
                                word,
                                sx,
                                sy,
                                sz,
                                lx,
                                ly,
                                lz,
                                d - 2 * eps - 1e-4,
                                rays.OPAQUE | rays.BODY,
                            ):
                                pr, pg, pb = through_glass(scene, ray, word, sx, sy, sz, lx, ly, lz, d - 1e-3)
                                own = chance / emit[which, 15] * d2 / ce
                                w = power_heuristic(own, pdf) / own
                                add(
                                    film, y, x, group_surfaces, tr * r * pr * emit[which, 9] * w, tg * g * pg * emit[which, 10] * w,
                                    tb * b * pb * emit[which, 11] * w, limit,
                                )  # fmt: skip

                    # --- go on
                    bounce += 1
                    if bounce > max_bounces:
                        break
                    if stratified:
                        cu, cv = square(index, pixel, dimension + 4)
                        su, sv = square(index, pixel, dimension + 5)
                    else:
                        cu, cv = scatter_square(index, pixel, dimension + 4)
                        su, sv = scatter_square(index, pixel, dimension + 5)
                    t1x, t1y, t1z, t2x, t2y, t2z = basis(nx, ny, nz)
                    if cu < share:
                        hx, hy, hz = surface.sample_visible_normal(
                            alpha, wx * t1x + wy * t1y + wz * t1z, wx * t2x + wy * t2y + wz * t2z, co, su, sv
                        )
                        hx, hy, hz = (
                            hx * t1x + hy * t2x + hz * nx,
                            hx * t1y + hy * t2y + hz * ny,
                            hx * t1z + hy * t2z + hz * nz,
                        )
                        d = 2.0 * (wx * hx + wy * hy + wz * hz)
                        dx, dy, dz = d * hx - wx, d * hy - wy, d * hz - wz
                    else:
                        p, q = disk(su, sv)
                        z = math.sqrt(max(1.0 - p * p - q * q, 1e-9))
                        if through > 0.0 and (cu - share) < through * (1.0 - share):
                            z = -z
                        dx, dy, dz = p * t1x + q * t2x + z * nx, p * t1y + q * t2y + z * ny, p * t1z + q * t2z + z * nz
                    r, g, b, density = surface.evaluate(
                        br,
                        bg,
                        bb,
                        alpha,
                        metal,
                        coat,
                        f0,
                        through,
                        share,
                        under,
                        lost,
                        nx,
                        ny,
                        nz,
                        wx,
                        wy,
                        wz,
                        dx,
                        dy,
                        dz,
                    )
                    cs = gx * dx + gy * dy + gz * dz
                    if density <= 1e-9 or cs * (nx * dx + ny * dy + nz * dz) <= 0.0:
                        break
                    tr, tg, tb = tr * r / density, tg * g / density, tb * b / density
                    if cs < 0.0:
                        ox, oy, oz = qx - gx * eps, qy - gy * eps, qz - gz * eps
                    px, py, pz = ox, oy, oz
                    if alpha > 0.02 or cu >= share:
                        mirrored = False
                    if alpha > 0.1 or cu >= share:
                        rough_before = True
                    if bounce >= 2:  # Russian roulette keeps the expected value
                        survive = min(max(max(tr, tg), tb), 0.9)
                        if cv >= survive:
                            break
                        s = 1.0 / survive
                        tr, tg, tb = tr * s, tg * s, tb * s
    return count
