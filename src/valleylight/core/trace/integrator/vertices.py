"""What a path does at a vertex: asks for light, keeps what the passes show, forks, and goes on by the BSDF or the phase function."""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.film import columns
from valleylight.core.jit.compiled import kernel, part
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.records import Light
from valleylight.core.trace.bsdf.paint import BY_GLOSS, MATT, draw, sharply
from valleylight.core.trace.integrator.glass import carry, move, scattered_at, set_direction
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.lights import daylight
from valleylight.core.trace.media import air
from valleylight.core.trace.nextevent.direct import (
    ask_fixture,
    ask_onwards,
    ask_sky,
    ask_sun,
    ask_surface,
    note_place,
    shade_all,
)
from valleylight.core.trace.nextevent.passage import BLOCKS, PASSES
from valleylight.core.trace.nextevent.sunlit import ask_sunlit, choose_place, fetch_places, links
from valleylight.core.trace.photonmap import photons
from valleylight.core.trace.sampling.dimensions import (
    BRANCH_FATE,
    CHOICE,
    DIRECTION,
    DROP,
    DROP_FATE,
    FIXTURE,
    PLACES,
    SKY,
    SUN,
    SURFACE,
    TURN_OF_PLACES,
    TURN_OF_SUN,
    of_step,
    seed_of_step,
)

U32, I64, F64 = np.uint32, np.int64, np.float64
#: While a path takes its step, what the one so many places after it has met is fetched.
AHEAD = 2
#: Pixels are taken block by block: what their paths meet lies near together.
BLOCK_WIDTH, BLOCK_HEIGHT = 8, 4


@part
def note_mask(ids, y, x, which, number):
    """Count a sample for object or material `number` (from 1) among the ranks of a pixel."""
    for rank in range(ids.shape[3]):
        if ids[y, x, which, rank, 0] == number or ids[y, x, which, rank, 0] == 0.0:
            ids[y, x, which, rank, 0] = number
            ids[y, x, which, rank, 1] += 1.0
            return


@part
def draw_branches(scene, work, asked, index, pixel, vertex, paint, step, bounce, choice):
    """Draw the directions of the other branches of a path that forks at its first matt surface. Returns their number.

    The way from the lens and the direct light cost more rays than a bounce and bring less noise; splitting there takes the
    ratio towards its best (J. Arvo, D. Kirk, Particle Transport and Image Synthesis, 1990).
    """
    splits = int(work.settings[layout.SPLITS])
    for branch in range(1, splits):
        u, v = of_step(index * splits + branch, pixel, step, bounce, DIRECTION)
        dx, dy, dz, _lobe, drawn = draw(scene, vertex, paint, choice, u, v)
        ask_onwards(work, asked + branch - 1, dx, dy, dz, drawn)
    return splits - 1


@kernel
def keep_branches(scene, work, asked, row, used, number, vertex, bounce, tr, tg, tb):
    """Keep those branches that go on, each with its share of the light, in the rows after `used`, like the path in a row but
    for what follows from their directions. Returns the rows used."""
    p, q, splits, worth = work.paths, work.questions, work.settings[layout.SPLITS], 1.0
    if p[row, layout.MEDIUM] >= 0.0:
        worth = F64(scene.materials[int(p[row, layout.MEDIUM]), layout.INDEX]) ** 2
    for branch in range(1, int(splits)):
        k, own = asked + branch - 1, number * int(splits) + branch
        density = q[k, layout.ASK_DENSITY]
        if density <= 1e-9:
            continue
        r, g, b = (
            tr * q[k, layout.ASK_LIGHT] / density,
            tg * q[k, layout.ASK_LIGHT + 1] / density,
            tb * q[k, layout.ASK_LIGHT + 2] / density,
        )
        survive = min(worth * max(max(r, g), b), 0.95)
        if survive < 0.95:
            if of_step(own, U32(p[row, layout.PIXEL]), int(p[row, layout.STEP]), bounce, BRANCH_FATE)[1] >= survive:
                continue
            r, g, b = r / survive, g / survive, b / survive
        for c in range(layout.PATH_WIDTH):
            p[used, c] = p[row, c]
        dx, dy, dz = q[k, layout.ASK_TOWARDS], q[k, layout.ASK_TOWARDS + 1], q[k, layout.ASK_TOWARDS + 2]
        e = vertex.lift if vertex.gx * dx + vertex.gy * dy + vertex.gz * dz > 0.0 else -vertex.lift
        move(p, used, vertex.x + e * vertex.gx, vertex.y + e * vertex.gy, vertex.z + e * vertex.gz)
        set_direction(p, used, dx, dy, dz)
        carry(p, used, r / splits, g / splits, b / splits)
        p[used, layout.DENSITY], p[used, layout.NUMBER] = density, own
        used += 1
    return used


@kernel
def first_surface(scene, work, row, k, m, body, vertex, paint):
    """Add what the passes keep of the first surface a sample meets: colour, normal, and unless it is seen in a mirror distance,
    place and masks."""
    p, camera = work.paths, work.camera
    sample = int(p[row, layout.SAMPLE])
    y, x = int(work.samples[sample, 0]), int(work.samples[sample, 1])
    gloss = paint.gloss * paint.refraction
    colour, normal = (paint.red, paint.green, paint.blue), (vertex.nx, vertex.ny, vertex.nz)
    for c in range(3):
        work.passes[y, x, columns.PASS_COLOUR + c] += p[row, layout.LIGHT + c] * min(colour[c] + gloss, 1.0)
        work.passes[y, x, columns.PASS_NORMAL + c] += normal[c]
    if p[row, layout.BOUNCE] == 0.0:
        qx, qy, qz = vertex.x, vertex.y, vertex.z
        work.passes[y, x, columns.PASS_DEPTH] += math.sqrt(
            (qx - camera[layout.CAMERA_PLACE]) ** 2
            + (qy - camera[layout.CAMERA_PLACE + 1]) ** 2
            + (qz - camera[layout.CAMERA_PLACE + 2]) ** 2
        )
        work.passes[y, x, columns.PASS_HITS] += 1.0
        place = (qx, qy, qz)
        for c in range(3):
            work.passes[y, x, columns.PASS_POSITION + c] += place[c]
        if work.ids.shape[0] > 0:
            note_mask(work.ids, y, x, I64(0), body + 1.0)
            note_mask(work.ids, y, x, I64(1), m + 1.0)


@kernel
def off_drop(scene, work, row, t):
    """Let the path in a row go on from a drop of the air, t metres along its ray. Returns whether it does."""
    p = work.paths
    index, pixel, bounce = int(p[row, layout.NUMBER]), U32(p[row, layout.PIXEL]), int(p[row, layout.BOUNCE])
    if bounce >= work.settings[layout.MAX_BOUNCES]:
        return False
    dx, dy, dz = p[row, layout.TOWARDS], p[row, layout.TOWARDS + 1], p[row, layout.TOWARDS + 2]
    o = layout.ORIGIN
    ox, oy, oz = p[row, o] + t * dx, p[row, o + 1] + t * dy, p[row, o + 2] + t * dz
    step = int(p[row, layout.STEP])
    a, b = of_step(index, pixel, step, bounce, DROP)
    dx, dy, dz = air.sample_phase(scene.air, dx, dy, dz, a, b)
    k = layout.LIGHT
    tr, tg, tb = (
        p[row, k] * scene.air[layout.AIR_ALBEDO],
        p[row, k + 1] * scene.air[layout.AIR_ALBEDO + 1],
        p[row, k + 2] * scene.air[layout.AIR_ALBEDO + 2],
    )
    bounce += 1
    if bounce >= 2:
        survive = min(p[row, layout.BRANCHES] * max(max(tr, tg), tb), 0.95)
        if of_step(index, pixel, step, bounce, DROP_FATE)[1] >= survive:
            return False
        tr, tg, tb = tr / survive, tg / survive, tb / survive
    move(p, row, ox, oy, oz)
    set_direction(p, row, dx, dy, dz)
    carry(p, row, tr, tg, tb)
    scattered_at(p, row, ox, oy, oz, 0.0)
    p[row, layout.BOUNCE], p[row, layout.MASK] = bounce, rays.BY_BOUNCE
    p[row, layout.MIRRORED], p[row, layout.BENT] = 0.0, 0.0
    p[row, layout.DRIFTING], p[row, layout.ROUGHENED] = 1.0, 1.0
    return True


@kernel
def at_surface(scene, work, row, asked, used, k, m, body, vertex, paint, facing):
    """Ask for the light at a surface and let the path in a row go on from it, in branches where it forks. Returns whether it goes
    on, the questions now, and the rows used."""
    p, zero = work.paths, I64(0)
    qx, qy, qz, gx, gy, gz, _nx, _ny, _nz, _wx, _wy, _wz, eps = vertex
    sun_on, sky_on = work.settings[layout.SUN_ON] > 0.0, work.settings[layout.SKY_ON] > 0.0
    index, pixel, bounce = int(p[row, layout.NUMBER]), U32(p[row, layout.PIXEL]), int(p[row, layout.BOUNCE])
    step = int(p[row, layout.STEP])
    tr, tg, tb = p[row, layout.LIGHT], p[row, layout.LIGHT + 1], p[row, layout.LIGHT + 2]
    sample, density, mirrored = int(p[row, layout.SAMPLE]), p[row, layout.DENSITY], p[row, layout.MIRRORED] > 0.0
    splits, first, begun = int(work.settings[layout.SPLITS]), bounce == 0, asked
    limit = 0.0 if mirrored else work.settings[layout.CLAMP]
    ox, oy, oz = qx + gx * eps, qy + gy * eps, qz + gz * eps
    start = (ox, oy, oz)

    total = daylight.openings_total(scene.openings, work.weights, ox, oy, oz) if sky_on else 0.0
    linked, first_lot, second_lot = sun_on and links(scene, total), 0.0, 0.0
    if linked:
        first_lot, second_lot = of_step(index, pixel, step, bounce, PLACES)
        fetch_places(scene, first_lot)
    ask_of_sun, ask_of_sky, by_sun, by_sky = sun_on, sky_on, 1.0, 1.0
    seldom = work.settings[layout.SELDOM]
    if sun_on and sky_on and (bounce >= 1 or seldom > 1.0):
        luck = seed_of_step(index, pixel, step, TURN_OF_SUN) / 4294967296.0
        if seldom > 1.0 and total > 1e-4:
            # In a room that daylight enters by its openings alone the sun is on a line through one, or behind a wall.
            if not daylight.in_way_of_sun(scene.sun_ways, ox, oy, oz):
                ask_of_sun, by_sun = luck * seldom < 1.0, seldom
        elif bounce >= 1:  # one ray serves sun and sky, each asked half of the time
            ask_of_sun = luck < 0.5
            ask_of_sky, by_sun, by_sky = not ask_of_sun, 2.0, 2.0
    netted = work.settings[layout.NET_ON] > 0.0 and photons.in_region(scene.net, qx, qy, qz)
    solids = BLOCKS if netted else PASSES
    if ask_of_sun:
        known = 0.0
        if p[row, layout.LINKED] > 0.0 and density > 0.0:
            s = layout.SCATTERED
            known = work.settings[layout.SUNLIT_DENSITY] / max(abs(facing), 1e-6)
            known *= (qx - p[row, s]) ** 2 + (qy - p[row, s + 1]) ** 2 + (qz - p[row, s + 2]) ** 2
        a, b = of_step(index, pixel, step, bounce, SUN)
        light = Light(tr * by_sun, tg * by_sun, tb * by_sun)
        asked = ask_sun(scene, work, asked, vertex, paint, a, b, light, solids, density, known)
    ask_of_place, by_place = linked, 1.0
    if linked and ask_of_sky and bounce >= 1:  # one ray serves sky and places
        ask_of_place = seed_of_step(index, pixel, step, TURN_OF_PLACES) < U32(0x80000000)
        ask_of_sky, by_place, by_sky = not ask_of_place, 2.0, 2.0 * by_sky
    place = choose_place(scene, vertex, paint, first_lot, second_lot) if ask_of_place else (zero, 0.0, 0.0, 1.0)
    if ask_of_sky:
        a, b = of_step(index, pixel, step, bounce, SKY)
        light = Light(tr * by_sky, tg * by_sky, tb * by_sky)
        asked = ask_sky(scene, work, asked, start, vertex, paint, total, a, b, light)
    if ask_of_place:
        light = Light(tr * by_place, tg * by_place, tb * by_place)
        asked = ask_sunlit(scene, work, asked, vertex, paint, place, light)
    if scene.lamps.shape[0] > 0:
        a, b = of_step(index, pixel, step, bounce, FIXTURE)
        stands = abs(int(scene.triangles[k, layout.TRIANGLE_FIXTURE])) - 1
        own = scene.lamp_of[stands] if stands >= 0 else zero - 1
        asked = ask_fixture(scene, work, asked, start, vertex, paint, body, own, a, b, Light(tr, tg, tb), solids)
    if scene.emitters.shape[0] > 0:
        a, b = of_step(index, pixel, step, bounce, SURFACE)
        asked = ask_surface(scene, work, asked, start, vertex, paint, a, b, Light(tr, tg, tb))
    if netted:
        photons.gather(scene, vertex, paint, work, sample, tr, tg, tb)

    goes_on = bounce < work.settings[layout.MAX_BOUNCES]
    if first and scene.objects[body, 0] <= 0.0:  # takes no bounced light
        goes_on = False
    lobe, fate, rank, onwards, branching = MATT, 0.0, index, asked, zero
    if goes_on:
        choice, fate = of_step(index, pixel, step, bounce, CHOICE)
        rank = index * splits if mirrored else index  # between those of the branches
        a, b = of_step(rank, pixel, step, bounce, DIRECTION)
        dx, dy, dz, lobe, drawn = draw(scene, vertex, paint, choice, a, b)
        ask_onwards(work, asked, dx, dy, dz, drawn)
        onwards += 1
        if mirrored and lobe == MATT and splits > 1:
            branching = draw_branches(scene, work, onwards, index, pixel, vertex, paint, step, bounce, choice)
    shade_all(scene, work, begun, onwards + branching, vertex, paint)
    note_place(work, begun, asked, sample, limit, F64(first), ox, oy, oz, total)
    matt, sharp = lobe == MATT, lobe >= BY_GLOSS
    if first and goes_on and not matt:
        work.samples[sample, layout.WILL_REFLECT] = 1.0
    if not goes_on:
        return False, asked, used

    q = work.questions
    if (
        sharp
        and vertex.gx * q[asked, layout.ASK_TOWARDS]
        + vertex.gy * q[asked, layout.ASK_TOWARDS + 1]
        + vertex.gz * q[asked, layout.ASK_TOWARDS + 2]
        > 0.0
    ):
        q[asked, layout.ASK_LIGHT], q[asked, layout.ASK_LIGHT + 1], q[asked, layout.ASK_LIGHT + 2] = sharply(
            scene, vertex, paint, lobe
        )
        q[asked, layout.ASK_DENSITY] = 1.0
    density = q[asked, layout.ASK_DENSITY]
    scattered_at(p, row, ox, oy, oz, 0.0 if sharp else density)
    bounce += 1
    p[row, layout.BOUNCE], p[row, layout.OPEN], p[row, layout.BENT] = bounce, total, 0.0
    p[row, layout.LINKED] = F64(linked and not sharp)
    if not sharp and (matt or paint.alpha > 0.02):
        p[row, layout.NUMBER], p[row, layout.MIRRORED] = rank, 0.0
    if not sharp and (matt or paint.alpha > 0.1):
        p[row, layout.MASK], p[row, layout.ROUGHENED] = rays.BY_BOUNCE, 1.0
    elif p[row, layout.MASK] != rays.BY_BOUNCE:
        p[row, layout.MASK] = rays.BY_MIRROR
    if branching > 0:
        p[row, layout.BRANCHES] = splits
        used = keep_branches(scene, work, onwards, row, used, index, vertex, bounce - 1, tr, tg, tb)
    if density <= 1e-9:
        return False, asked, used
    if mirrored and matt:
        tr, tg, tb = tr / p[row, layout.BRANCHES], tg / p[row, layout.BRANCHES], tb / p[row, layout.BRANCHES]
    tr, tg, tb = (
        tr * q[asked, layout.ASK_LIGHT] / density,
        tg * q[asked, layout.ASK_LIGHT + 1] / density,
        tb * q[asked, layout.ASK_LIGHT + 2] / density,
    )
    # Russian roulette keeps the expected value; what is left of a dark surface is seldom worth a long path. That light spreads
    # on leaving water takes nothing from its worth.
    worth, within = p[row, layout.BRANCHES], int(p[row, layout.MEDIUM])
    if within >= 0:
        worth *= F64(scene.materials[within, layout.INDEX]) ** 2
    survive = min(worth * max(max(tr, tg), tb), 0.95)
    if survive < 0.95 or bounce >= 2:
        if fate >= survive:
            return False, asked, used
        tr, tg, tb = tr / survive, tg / survive, tb / survive
    dx, dy, dz = q[asked, layout.ASK_TOWARDS], q[asked, layout.ASK_TOWARDS + 1], q[asked, layout.ASK_TOWARDS + 2]
    if gx * dx + gy * dy + gz * dz < 0.0:
        ox, oy, oz = qx - gx * eps, qy - gy * eps, qz - gz * eps
    move(p, row, ox, oy, oz)
    set_direction(p, row, dx, dy, dz)
    carry(p, row, tr, tg, tb)
    return True, asked, used
