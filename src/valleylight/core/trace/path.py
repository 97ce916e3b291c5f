"""The path integrator: from the lens into the stage, and at every surface towards the light.

Unidirectional path tracing with next-event estimation, combined by multiple importance sampling (E. Veach, Robust Monte
Carlo Methods for Light Transport Simulation, 1997). At every vertex one ray goes to the sun, one to the sky, one to a
fixture and one to an emitting surface, where there are any; thin panes are passed straight and tint the light; solid
glass and water bend it, and what they gather comes from photons (photons.py) inside the region chosen for it.
The film adds luminance-scaled RGB in cd/m2 per light group.
"""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.trace import air, daylight, layout, photons, rays, surface
from valleylight.core.trace.compiled import kernel, part
from valleylight.core.trace.direct import (
    CHOICE,
    DIRECTION,
    FIXTURE,
    SKY,
    SUN,
    SURFACE,
    add,
    answer,
    ask_fixture,
    ask_onwards,
    ask_sky,
    ask_sun,
    ask_surface,
    from_beyond,
    given_off,
    random_pair,
    shade_all,
    share_unshaded,
)
from valleylight.core.trace.held import held
from valleylight.core.trace.paint import draw, paint_at
from valleylight.core.trace.passage import BLOCKS, FAR, MAX_PANES, PASSES, cut_out, facet, mirror, tint
from valleylight.core.trace.sampling import hash32, square
from valleylight.core.trace.shafts import beams, through_air
from valleylight.core.trace.sunlit import ask_sunlit, links
from valleylight.core.trace.vertex import camera_ray, fetch_record, meet

U32, I64, F64 = np.uint32, np.int64, np.float64


@part
def note_mask(ids, y, x, which, number):
    """Count a sample for object or material `number` (from 1) among the ranks of a pixel."""
    for rank in range(ids.shape[3]):
        if ids[y, x, which, rank, 0] == number or ids[y, x, which, rank, 0] == 0.0:
            ids[y, x, which, rank, 0] = number
            ids[y, x, which, rank, 1] += 1.0
            return


@kernel
def trace_path(scene, work, y, x, index, pixel):
    """One sample of one pixel. Returns the rays traced."""
    width, camera = F64(work.film.shape[1]), work.camera
    height, down = work.settings[layout.FRAME_HEIGHT], work.settings[layout.FRAME_Y]
    fu, fv = square(index, pixel, I64(0))
    lu, lv = square(index, pixel, I64(1)) if camera[16] > 0.0 else (0.0, 0.0)
    moves = camera[21] != 0.0 or camera[22] != 0.0 or camera[23] != 0.0
    moment = square(index, pixel, I64(60))[0] if moves else 0.0
    ox, oy, oz, dx, dy, dz = camera_ray(camera, x + fu, y + down + fv, width, height, lu, lv, moment)
    b = work.fork
    b[0, 0] = 0.0
    count = follow(scene, work, y, x, index, pixel, ox, oy, oz, dx, dy, dz, np.int64(0), 0.0, 1.0, 1.0, 1.0, 1.0)
    for k in range(1, int(b[0, 0]) + 1):
        count += follow(
            scene, work, y, x, int(b[k, 10]), pixel, b[k, 0], b[k, 1], b[k, 2], b[k, 3], b[k, 4], b[k, 5], int(b[0, 1]),
            b[k, 6], b[k, 7], b[k, 8], b[k, 9], work.settings[layout.SPLITS],
        )  # fmt: skip
    return count


@part
def draw_branches(scene, work, asked, index, pixel, vertex, paint, bounce, choice):
    """Draw the directions of the other branches of a path that forks at its first matt surface. Returns their number.

    The way from the lens and the direct light cost more rays than a bounce and bring less noise; splitting there takes the
    ratio towards its best (J. Arvo, D. Kirk, Particle Transport and Image Synthesis, 1990).
    """
    splits = int(work.settings[layout.SPLITS])
    for branch in range(1, splits):
        u, v = random_pair(index * splits + branch, pixel, bounce, DIRECTION)
        dx, dy, dz, _, drawn = draw(scene, vertex, paint, choice, u, v)
        ask_onwards(work, asked + branch - 1, dx, dy, dz, drawn)
    return splits - 1


@kernel
def keep_branches(work, asked, index, pixel, vertex, bounce, tr, tg, tb):
    """Keep those branches that go on, each with its share of the light, to be followed once the first has ended."""
    q, kept, splits = work.questions, work.fork, work.settings[layout.SPLITS]
    count = 0
    for branch in range(1, int(splits)):
        k, number = asked + branch - 1, index * int(splits) + branch
        density = q[k, 14]
        if density <= 1e-9:
            continue
        r, g, b = tr * q[k, 10] / density, tg * q[k, 11] / density, tb * q[k, 12] / density
        survive = min(max(max(r, g), b), 0.95)
        if survive < 0.95:
            if random_pair(number, pixel, bounce, CHOICE)[1] >= survive:
                continue
            r, g, b = r / survive, g / survive, b / survive
        count += 1
        dx, dy, dz = q[k, 3], q[k, 4], q[k, 5]
        e = vertex[12] if vertex[3] * dx + vertex[4] * dy + vertex[5] * dz > 0.0 else -vertex[12]
        for axis in range(3):
            kept[count, axis] = vertex[axis] + e * vertex[3 + axis]
        kept[count, 3], kept[count, 4], kept[count, 5], kept[count, 6] = dx, dy, dz, density
        kept[count, 7], kept[count, 8], kept[count, 9] = r / splits, g / splits, b / splits
        kept[count, 10] = number
    kept[0, 0], kept[0, 1] = count, bounce + 1


@kernel
def follow(scene, work, y, x, index, pixel, ox, oy, oz, dx, dy, dz, bounce, density, tr, tg, tb, branched):
    """Follow a path from a ray that carries `tr, tg, tb`: from the lens (`bounce` 0), or on from a matt surface that sent it
    with a `density` per sr, as one of so many branches (`branched`) of its path. Returns the rays traced."""
    camera = work.camera
    sun_on, sky_on = work.settings[layout.SUN_ON] > 0.0, work.settings[layout.SKY_ON] > 0.0
    foggy = work.settings[layout.AIR_ON] > 0.0
    no = index < 0  # typed, not literal: else callees are compiled for both
    zero = np.int64(0)
    mirrored = bounce == 0  # nothing but mirrors and panes since the lens
    # `density` is that of the last scattering, 0 after a mirror; p is where it happened.
    px, py, pz, total = ox, oy, oz, 0.0
    if bounce > 0 and sky_on:
        total = daylight.openings_total(scene.openings, work.weights, ox, oy, oz)
    panes, count, skipped = zero, zero, zero
    seen, rough_before = bounce > 0, bounce > 0
    splits = int(work.settings[layout.SPLITS])
    linked = bounce > 0 and sun_on and links(scene, total)  # a sunlit place has been asked where it was last scattered
    bent = no  # through or off solid glass since the last rough surface
    hazed = no  # seen through the clear air before it
    drifting = no  # scattered by the air since the last surface
    medium = zero - 1  # the solid glass we are in
    mask = zero + (rays.BY_LENS if bounce == 0 else rays.BY_BOUNCE)
    traced, met = no, no  # the ray at hand has been traced, and met something
    while True:
        limit = work.settings[layout.CLAMP] if bounce > 0 else 0.0
        if not traced:
            count += 1
            met = rays.closest(scene.handle, work.ray, work.word, ox, oy, oz, dx, dy, dz, FAR, mask)
        traced = no
        way = F64(work.ray[rays.FAR]) if met else FAR
        k, m, body, u, v = zero, zero, zero, 0.0, 0.0
        qx, qy, qz, gx, gy, gz, nx, ny, nz, facing, eps, edge = (
            0.0,
            0.0,
            0.0,
            0.0,
            0.0,
            1.0,
            0.0,
            0.0,
            1.0,
            0.0,
            0.0,
            1e9,
        )
        if met:
            k, m, body, u, v, qx, qy, qz, gx, gy, gz, nx, ny, nz, facing, eps, edge = meet(
                scene, work, dx, dy, dz, rough_before
            )
            if scene.materials[m, layout.ALPHA_TEXTURE] >= 0.0 and cut_out(
                scene, k, m, F64(work.ray[rays.HIT_U]), F64(work.ray[rays.HIT_V])
            ):
                skipped, linked = skipped + 1, no
                if skipped > 4 * MAX_PANES:
                    return count
                ox, oy, oz = qx - gx * eps, qy - gy * eps, qz - gz * eps
                continue

        if work.settings[layout.BEAMS] > 0.0 and mirrored:
            count += beams(scene, work, y, x, ox, oy, oz, dx, dy, dz, way, tr, tg, tb, index,
                           pixel, panes)  # fmt: skip
        if foggy and medium < 0:
            spent, t, share = through_air(
                scene, work, y, x, ox, oy, oz, dx, dy, dz, way, tr, tg, tb, bounce, limit, index,
                pixel,
            )  # fmt: skip
            count += spent
            if t >= 0.0:  # light goes on from a drop
                if bounce >= work.settings[layout.MAX_BOUNCES]:
                    return count
                ox, oy, oz = ox + t * dx, oy + t * dy, oz + t * dz
                a, b = random_pair(index, pixel, bounce, DIRECTION)
                dx, dy, dz = air.sample_phase(scene.air, dx, dy, dz, a, b)
                tr, tg, tb = tr * scene.air[9], tg * scene.air[10], tb * scene.air[11]
                bounce += 1
                mirrored, drifting, rough_before, bent = False, True, True, False
                px, py, pz, density, mask = ox, oy, oz, 0.0, rays.BY_BOUNCE
                survive = min(branched * max(max(tr, tg), tb), 0.95)
                if bounce >= 2:
                    if random_pair(index, pixel, bounce, CHOICE)[1] >= survive:
                        return count
                    tr, tg, tb = tr / survive, tg / survive, tb / survive
                continue
            tr, tg, tb = tr * share, tg * share, tb * share

        if not met:
            if not drifting:
                from_beyond(
                    scene, work, y, x, px, py, pz, total, dx, dy, dz, density, tr, tg, tb, limit,
                    bent and not mirrored,
                )  # fmt: skip
            if not seen:
                work.passes[y, x, 0] += tr
                work.passes[y, x, 1] += tg
                work.passes[y, x, 2] += tb
            return count

        kind = int(scene.materials[m, layout.KIND])
        if kind == layout.PANE:  # reflect, or pass straight on
            reflected, inside = surface.pane(
                max(-(nx * dx + ny * dy + nz * dz), 1e-3), F64(scene.materials[m, layout.INDEX])
            )
            choice = min(max(reflected, 0.1), 0.95) if bounce == 0 else reflected
            panes += 1
            if panes > MAX_PANES:
                return count
            pick = hash32(U32(pixel + U32(index) * U32(0x9E3779B9) + U32(panes * 7919 + bounce))) / 4294967296.0
            if pick < choice:
                dx, dy, dz = mirror(scene, m, nx, ny, nz, dx, dy, dz, index, pixel, panes)
                if bounce == 0:
                    work.ray[27], work.ray[28], work.ray[29], work.ray[30] = (
                        1.0,
                        work.ray[24],
                        work.ray[25],
                        work.ray[26],
                    )
                bounce += 1
                if dx * gx + dy * gy + dz * gz <= 0.0 or bounce > work.settings[layout.MAX_BOUNCES]:
                    return count
                w = reflected / choice
                tr, tg, tb = tr * w, tg * w, tb * w
                density, drifting = 0.0, False
                if mirrored:
                    mask = rays.BY_MIRROR
                ox, oy, oz = qx + gx * eps, qy + gy * eps, qz + gz * eps
                px, py, pz = ox, oy, oz
            else:
                linked = no  # places are asked for past nothing
                w = (1.0 - reflected) / (1.0 - choice)
                pr, pg, pb = tint(scene, m, inside)
                tr, tg, tb = tr * w * pr, tg * w * pg, tb * w * pb
                ox, oy, oz = qx - gx * eps, qy - gy * eps, qz - gz * eps
            continue

        if medium >= 0:
            e = layout.ABSORB
            tr *= math.exp(-way * scene.materials[medium, e])
            tg *= math.exp(-way * scene.materials[medium, e + 1])
            tb *= math.exp(-way * scene.materials[medium, e + 2])

        if not hazed and bounce == 0 and work.settings[layout.HAZE_ON] > 0.0:
            # Once, on the way from the lens: what stands far off is seen through the same air as the sky.
            hazed = True
            hr, hg, hb, ar, ag, ab = daylight.haze_at(
                scene.haze, dx, dy, math.sqrt((qx - px) ** 2 + (qy - py) ** 2 + (qz - pz) ** 2)
            )
            add(work, y, x, int(work.settings[layout.GROUP_SKY]), tr * ar, tg * ag, tb * ab, 0.0)
            tr, tg, tb = tr * hr, tg * hg, tb * hb

        if kind == layout.SOLID:
            panes += 1
            if panes > MAX_PANES or bounce > work.settings[layout.MAX_BOUNCES]:
                return count
            hx, hy, hz = facet(scene, m, nx, ny, nz, dx, dy, dz, index, pixel, panes)
            n, inner = F64(scene.materials[m, layout.INDEX]), facing < 0.0
            cosine = min(max(-(dx * hx + dy * hy + dz * hz), 1e-4), 1.0)
            reflected = photons.reflectance(cosine, n, inner)
            choice = min(max(reflected, 0.1), 0.9) if bounce == 0 and reflected < 1.0 else reflected
            pick = hash32(U32(pixel + U32(index) * U32(0x9E3779B9) + U32(panes * 7919 + bounce))) / 4294967296.0
            if pick < choice:
                w = reflected / choice
                c = 2.0 * (dx * hx + dy * hy + dz * hz)
                dx, dy, dz = dx - c * hx, dy - c * hy, dz - c * hz
                if dx * gx + dy * gy + dz * gz <= 0.0:
                    return count
                if bounce == 0 and not inner:
                    work.ray[27], work.ray[28], work.ray[29], work.ray[30] = (
                        1.0,
                        work.ray[24],
                        work.ray[25],
                        work.ray[26],
                    )
                if not inner:
                    bounce += 1
                ox, oy, oz = qx + gx * eps, qy + gy * eps, qz + gz * eps
                if mirrored:
                    mask = rays.BY_MIRROR
            else:
                w = (1.0 - reflected) / (1.0 - choice)
                dx, dy, dz = photons.bend(dx, dy, dz, hx, hy, hz, n if inner else 1.0 / n)
                if dx * gx + dy * gy + dz * gz >= 0.0:
                    return count
                medium = -1 if inner else m
                ox, oy, oz = qx - gx * eps, qy - gy * eps, qz - gz * eps
            tr, tg, tb = tr * w, tg * w, tb * w
            density, bent, drifting = 0.0, True, False
            px, py, pz = ox, oy, oz
            continue

        if scene.materials[m, layout.LIT] > 0.0 and not (drifting and density == 0.0):
            given_off(
                scene, work, y, x, k, m, px, py, pz, qx, qy, qz, dx, dy, dz, abs(facing), density,
                mirrored, tr, tg, tb, limit,
            )  # fmt: skip
        drifting = False
        vertex = (qx, qy, qz, gx, gy, gz, nx, ny, nz, -dx, -dy, -dz, eps)
        paint = paint_at(
            scene,
            m,
            u,
            v,
            vertex,
            edge,
            work.settings[layout.GROUND],
            work.settings[layout.SOFTEN] if rough_before else 0.0,
            rough_before,
        )
        if scene.objects[body, 1] > 0.0 and mirrored:  # shows only the shadow on it
            spent, w = share_unshaded(scene, work, vertex, index, pixel)
            count += spent
            tr, tg, tb = tr * w, tg * w, tb * w
            panes += 1
            if panes > MAX_PANES or w <= 0.0:
                return count
            ox, oy, oz = qx - gx * eps, qy - gy * eps, qz - gz * eps
            continue
        if not seen:
            seen = True
            gloss = paint[5] * paint[6]
            work.passes[y, x, 0] += tr * min(paint[0] + gloss, 1.0)
            work.passes[y, x, 1] += tg * min(paint[1] + gloss, 1.0)
            work.passes[y, x, 2] += tb * min(paint[2] + gloss, 1.0)
            work.passes[y, x, 3] += nx
            work.passes[y, x, 4] += ny
            work.passes[y, x, 5] += nz
            if bounce == 0:
                work.passes[y, x, 6] += math.sqrt((qx - camera[0]) ** 2 + (qy - camera[1]) ** 2 + (qz - camera[2]) ** 2)
                work.passes[y, x, 7] += 1.0
                work.passes[y, x, 8] += qx
                work.passes[y, x, 9] += qy
                work.passes[y, x, 10] += qz
                if work.ids.shape[0] > 0:
                    note_mask(work.ids, y, x, I64(0), body + 1.0)
                    note_mask(work.ids, y, x, I64(1), m + 1.0)
        first = bounce == 0
        ox, oy, oz = qx + gx * eps, qy + gy * eps, qz + gz * eps

        total = daylight.openings_total(scene.openings, work.weights, ox, oy, oz) if sky_on else 0.0
        ask_of_sun, ask_of_sky, by_sun, by_sky = sun_on, sky_on, 1.0, 1.0
        seldom = work.settings[layout.SELDOM]
        if sun_on and sky_on and (bounce >= 1 or seldom > 1.0):
            luck = hash32(U32(pixel + U32(index * 31 + bounce))) / 4294967296.0
            if seldom > 1.0 and total > 1e-4:
                # In a room that daylight enters by its openings alone the sun is on a line through one, or behind a wall.
                if not daylight.in_way_of_sun(scene.sun_ways, ox, oy, oz):
                    ask_of_sun, by_sun = luck * seldom < 1.0, seldom
            elif bounce >= 1:  # one ray serves sun and sky, each asked half of the time
                ask_of_sun = luck < 0.5
                ask_of_sky, by_sun, by_sky = not ask_of_sun, 2.0, 2.0
        netted = work.settings[layout.NET_ON] > 0.0 and photons.in_region(scene.net, qx, qy, qz)
        solids, asked = BLOCKS if netted else PASSES, zero
        if ask_of_sun:
            known = 0.0
            if linked and density > 0.0:
                known = work.settings[layout.SUNLIT_DENSITY] * ((qx - px) ** 2 + (qy - py) ** 2 + (qz - pz) ** 2)
                known /= max(abs(facing), 1e-6)
            a, b = random_pair(index, pixel, bounce, SUN)
            asked = ask_sun(
                scene, work, asked, vertex, paint, a, b, tr * by_sun, tg * by_sun, tb * by_sun, solids, density, known
            )
        if ask_of_sky:
            a, b = random_pair(index, pixel, bounce, SKY)
            asked = ask_sky(
                scene, work, asked, ox, oy, oz, total, vertex, paint, a, b, tr * by_sky, tg * by_sky, tb * by_sky
            )
        linked = sun_on and links(scene, total)
        if linked:
            a, b = square(index, pixel, 800 + bounce)
            asked = ask_sunlit(scene, work, asked, vertex, paint, a, b, tr, tg, tb)
        if scene.lamps.shape[0] > 0:
            a, b = random_pair(index, pixel, bounce, FIXTURE)
            stands = abs(int(scene.triangles[k, layout.TRIANGLE_FIXTURE])) - 1
            own = scene.lamp_of[stands] if stands >= 0 else zero - 1
            asked = ask_fixture(scene, work, asked, ox, oy, oz, vertex, paint, body, own, a, b, tr, tg, tb, solids)
        if scene.emitters.shape[0] > 0:
            a, b = random_pair(index, pixel, bounce, SURFACE)
            asked = ask_surface(scene, work, asked, ox, oy, oz, vertex, paint, a, b, tr, tg, tb)
        if netted:
            photons.gather(scene, vertex, paint, work, y, x, tr, tg, tb)

        goes_on = bounce < work.settings[layout.MAX_BOUNCES]
        if first and scene.objects[body, 0] <= 0.0:  # takes no bounced light
            goes_on = False
        matt, fate, rank, onwards, branching = no, 0.0, index, asked, zero
        if goes_on:
            choice, fate = random_pair(index, pixel, bounce, CHOICE)
            rank = index * splits if mirrored else index  # between those of the branches
            a, b = random_pair(rank, pixel, bounce, DIRECTION)
            dx, dy, dz, matt, drawn = draw(scene, vertex, paint, choice, a, b)
            ask_onwards(work, asked, dx, dy, dz, drawn)
            onwards += 1
            if mirrored and matt and splits > 1:
                branching = draw_branches(scene, work, onwards, index, pixel, vertex, paint, bounce, choice)
        shade_all(scene, work, onwards + branching, vertex, paint)
        if branching > 0:
            keep_branches(work, onwards, index, pixel, vertex, bounce, tr, tg, tb)
            branched = F64(splits)
        q = work.questions
        r, g, b, density = q[asked, 10], q[asked, 11], q[asked, 12], q[asked, 14]
        goes_on = goes_on and density > 1e-9
        px, py, pz = ox, oy, oz
        if goes_on:
            if mirrored and matt:
                tr, tg, tb = tr / branched, tg / branched, tb / branched
            bounce += 1
            bent = False
            tr, tg, tb = tr * r / density, tg * g / density, tb * b / density
            if gx * dx + gy * dy + gz * dz < 0.0:
                ox, oy, oz = qx - gx * eps, qy - gy * eps, qz - gz * eps
            if matt or paint[3] > 0.02:
                index, mirrored = rank, False
            mask = rays.BY_BOUNCE if matt or paint[3] > 0.1 else (rays.BY_MIRROR if mask != rays.BY_BOUNCE else mask)
            if matt or paint[3] > 0.1:
                rough_before = True
            # Russian roulette keeps the expected value; what is left of a dark surface is seldom worth a long path.
            survive = min(branched * max(max(tr, tg), tb), 0.95)
            if survive < 0.95 or bounce >= 2:
                goes_on = fate < survive
                tr, tg, tb = tr / survive, tg / survive, tb / survive
        if goes_on:  # before the rays towards light, which give time to fetch what it meets
            count += 1
            met = rays.closest(scene.handle, work.ray, work.word, ox, oy, oz, dx, dy, dz, FAR, mask)
            traced = True
            if met:
                fetch_record(scene, work)
        s, free, got = answer(scene, work, y, x, asked, px, py, pz, total, limit, first)
        count += s
        if first:
            work.passes[y, x, layout.PASS_FREE] += free
            work.passes[y, x, layout.PASS_SHADED] += got
            if not matt:
                work.ray[27], work.ray[28], work.ray[29], work.ray[30] = 1.0, work.ray[24], work.ray[25], work.ray[26]
        if not goes_on:
            return count


@kernel
def render_tile(arrays, workbench, x0, y0, x1, y1, first_sample, last_sample):
    """Add samples first to last of the pixels of a tile. Returns the number of rays traced.

    `arrays` is a `SceneArrays`, `workbench` a `rays.Work` of this thread with the film to add to.
    """
    scene, work = held(arrays), held(workbench)
    width, ray, passes = workbench.film.shape[1], workbench.ray, workbench.passes
    seed, down = hash32(U32(workbench.settings[layout.SEED])), int(workbench.settings[layout.FRAME_Y])
    count = 0
    for y in range(y0, y1):
        for x in range(x0, x1):
            pixel = hash32(U32(U32((y + down) * width + x) ^ seed))
            for index in range(first_sample, last_sample):
                # Words 24 to 30 of the buffer: this sample's light, and what of it was there before a reflection.
                ray[24], ray[25], ray[26], ray[27] = 0.0, 0.0, 0.0, 0.0
                count += trace_path(scene, work, y, x, index, pixel)
                luminance = 0.2126 * ray[24] + 0.7152 * ray[25] + 0.0722 * ray[26]
                passes[y, x, layout.PASS_LUMINANCE] += luminance
                passes[y, x, layout.PASS_SQUARES] += luminance * luminance
                if ray[27] > 0.0:
                    for c in range(3):
                        passes[y, x, layout.PASS_REFLECTED + c] += ray[24 + c] - ray[28 + c]
    return count
