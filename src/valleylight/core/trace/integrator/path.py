"""The path integrator: from the lens into the stage, and at every surface towards the light.

Unidirectional path tracing with next-event estimation, combined by multiple importance sampling (E. Veach, Robust Monte
Carlo Methods for Light Transport Simulation, 1997). At every vertex one ray goes to the sun, one to the sky, one to a
fixture and one to an emitting surface, where there are any; thin panes are passed straight and tint the light; solid
glass and water bend it, and what they gather comes from photons (photons.py) inside the region chosen for it.
The film adds luminance-scaled RGB in cd/m2 per light group.

Paths go on together, wave by wave: the rays of all of them are traced, one after the other; then each takes a step at what it
has met and leaves its questions towards light; then these are answered (S. Laine, T. Karras, T. Aila, Megakernels Considered
Harmful, 2013). So the code and the data of rays, surfaces and lights each stay in the processor's caches while they are used. A
path that waits is a row of `work.paths` (see layout), and nothing it does depends on the others.
"""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.film import columns
from valleylight.core.jit.compiled import kernel, part
from valleylight.core.jit.held import held
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.records import Vertex
from valleylight.core.trace.bsdf.paint import BY_GLOSS, MATT, draw, paint_at, sharply
from valleylight.core.trace.integrator.glass import at_pane, at_solid, carry, move, scattered_at, turn
from valleylight.core.trace.integrator.shafts import beams, through_air
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.intersect.vertex import camera_ray, fetch_record, meet
from valleylight.core.trace.lights import daylight
from valleylight.core.trace.media import air
from valleylight.core.trace.nextevent.direct import (
    add,
    answer,
    ask_fixture,
    ask_onwards,
    ask_sky,
    ask_sun,
    ask_surface,
    from_beyond,
    given_off,
    note_place,
    shade_all,
    share_unshaded,
)
from valleylight.core.trace.nextevent.passage import BLOCKS, FAR, MAX_PANES, PASSES, cut_out
from valleylight.core.trace.nextevent.sunlit import ask_sunlit, choose_place, fetch_places, links
from valleylight.core.trace.photonmap import photons
from valleylight.core.trace.sampling.dimensions import (
    APERTURE,
    BRANCH_FATE,
    CATCH,
    CHOICE,
    DIRECTION,
    DROP,
    DROP_FATE,
    FILM,
    FIXTURE,
    MOMENT,
    PLACES,
    SKY,
    SUN,
    SURFACE,
    TURN_OF_PLACES,
    TURN_OF_SUN,
    of_sample,
    of_step,
    seed_of_step,
)
from valleylight.core.trace.sampling.sobol import hash32

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
def begin_sample(work, row, y, x):
    """Begin a sample of a pixel in a row."""
    own = work.samples
    own[row, 0], own[row, 1] = y, x
    for k in range(layout.SAMPLE_LIGHT, layout.SAMPLE_WIDTH):
        own[row, k] = 0.0


@part
def begin_path(work, row, sample, number, pixel, ox, oy, oz, dx, dy, dz):
    """Begin a path of a sample at the lens."""
    p = work.paths
    for k in range(layout.SCATTERED, layout.PATH_WIDTH):
        p[row, k] = 0.0
    move(p, row, ox, oy, oz)
    turn(p, row, dx, dy, dz)
    carry(p, row, 1.0, 1.0, 1.0)
    scattered_at(p, row, ox, oy, oz, 0.0)
    p[row, layout.MASK], p[row, layout.NUMBER], p[row, layout.PIXEL] = rays.BY_LENS, number, pixel
    p[row, layout.BRANCHES], p[row, layout.SAMPLE] = 1.0, sample
    p[row, layout.MEDIUM], p[row, layout.MIRRORED] = -1.0, 1.0


@kernel
def from_lens(work, row, y, x, index, pixel):
    """Begin sample `index` of a pixel in a row, with a path from the lens."""
    width, camera = F64(work.film.shape[1]), work.camera
    height, down = work.settings[layout.FRAME_HEIGHT], work.settings[layout.FRAME_Y]
    fu, fv = of_sample(index, pixel, FILM)
    lu, lv = of_sample(index, pixel, APERTURE) if camera[layout.CAMERA_LENS_RADIUS] > 0.0 else (0.0, 0.0)
    moves = (
        camera[layout.CAMERA_MOVES] != 0.0
        or camera[layout.CAMERA_MOVES + 1] != 0.0
        or camera[layout.CAMERA_MOVES + 2] != 0.0
    )
    moment = of_sample(index, pixel, MOMENT)[0] if moves else 0.0
    ox, oy, oz, dx, dy, dz = camera_ray(camera, x + fu, y + down + fv, width, height, lu, lv, moment)
    begin_sample(work, row, y, x)
    begin_path(work, row, row, index, pixel, ox, oy, oz, dx, dy, dz)
    work.paths[row, layout.MEDIUM] = work.settings[layout.LENS_IN]


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
        turn(p, used, dx, dy, dz)
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
    turn(p, row, dx, dy, dz)
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
    splits, first, start = int(work.settings[layout.SPLITS]), bounce == 0, asked
    limit = 0.0 if mirrored else work.settings[layout.CLAMP]
    ox, oy, oz = qx + gx * eps, qy + gy * eps, qz + gz * eps

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
        asked = ask_sun(
            scene, work, asked, vertex, paint, a, b, tr * by_sun, tg * by_sun, tb * by_sun, solids, density, known
        )
    ask_of_place, by_place = linked, 1.0
    if linked and ask_of_sky and bounce >= 1:  # one ray serves sky and places
        ask_of_place = seed_of_step(index, pixel, step, TURN_OF_PLACES) < U32(0x80000000)
        ask_of_sky, by_place, by_sky = not ask_of_place, 2.0, 2.0 * by_sky
    place = choose_place(scene, vertex, paint, first_lot, second_lot) if ask_of_place else (zero, 0.0, 0.0, 1.0)
    if ask_of_sky:
        a, b = of_step(index, pixel, step, bounce, SKY)
        asked = ask_sky(
            scene, work, asked, ox, oy, oz, total, vertex, paint, a, b, tr * by_sky, tg * by_sky, tb * by_sky
        )
    if ask_of_place:
        asked = ask_sunlit(scene, work, asked, vertex, paint, place, tr * by_place, tg * by_place, tb * by_place)
    if scene.lamps.shape[0] > 0:
        a, b = of_step(index, pixel, step, bounce, FIXTURE)
        stands = abs(int(scene.triangles[k, layout.TRIANGLE_FIXTURE])) - 1
        own = scene.lamp_of[stands] if stands >= 0 else zero - 1
        asked = ask_fixture(scene, work, asked, ox, oy, oz, vertex, paint, body, own, a, b, tr, tg, tb, solids)
    if scene.emitters.shape[0] > 0:
        a, b = of_step(index, pixel, step, bounce, SURFACE)
        asked = ask_surface(scene, work, asked, ox, oy, oz, vertex, paint, a, b, tr, tg, tb)
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
    shade_all(scene, work, start, onwards + branching, vertex, paint)
    note_place(work, start, asked, sample, limit, F64(first), ox, oy, oz, total)
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
    turn(p, row, dx, dy, dz)
    carry(p, row, tr, tg, tb)
    return True, asked, used


@kernel
def step(scene, work, row, asked, used):
    """Take the path in a row on from what its ray has met. Returns whether it goes on, the questions now, the rows used, and rays
    spent on the way."""
    p, spent, zero = work.paths, I64(0), I64(0)
    p[row, layout.STEP] += 1.0
    number = int(p[row, layout.STEP])
    sample, index, pixel = int(p[row, layout.SAMPLE]), int(p[row, layout.NUMBER]), U32(p[row, layout.PIXEL])
    bounce, medium = int(p[row, layout.BOUNCE]), int(p[row, layout.MEDIUM])
    mirrored, drifting, rough = (
        p[row, layout.MIRRORED] > 0.0,
        p[row, layout.DRIFTING] > 0.0,
        p[row, layout.ROUGHENED] > 0.0,
    )
    ox, oy, oz = p[row, layout.ORIGIN], p[row, layout.ORIGIN + 1], p[row, layout.ORIGIN + 2]
    dx, dy, dz = p[row, layout.TOWARDS], p[row, layout.TOWARDS + 1], p[row, layout.TOWARDS + 2]
    px, py, pz = p[row, layout.SCATTERED], p[row, layout.SCATTERED + 1], p[row, layout.SCATTERED + 2]
    tr, tg, tb = p[row, layout.LIGHT], p[row, layout.LIGHT + 1], p[row, layout.LIGHT + 2]
    # What the lens sees in mirrors and through glass is as bright as it is; chance finds are those after a rough surface.
    limit = 0.0 if mirrored else work.settings[layout.CLAMP]
    work.samples[sample, layout.REFLECTS] = work.samples[sample, layout.WILL_REFLECT]
    met = rays.recall(work, row)
    way = F64(work.ray[rays.FAR]) if met else FAR
    k, m, body, u, v, facing, eps, edge = zero, zero, zero, 0.0, 0.0, 0.0, 0.0, 1e9
    qx, qy, qz, gx, gy, gz, nx, ny, nz = 0.0, 0.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 1.0
    if met:
        k, m, body, u, v, qx, qy, qz, gx, gy, gz, nx, ny, nz, facing, eps, edge = meet(scene, work, dx, dy, dz, rough)
        if scene.materials[m, layout.ALPHA_TEXTURE] >= 0.0 and cut_out(
            scene, k, m, F64(work.ray[rays.HIT_U]), F64(work.ray[rays.HIT_V])
        ):
            p[row, layout.SKIPPED] += 1.0
            p[row, layout.LINKED] = 0.0
            move(p, row, qx - gx * eps, qy - gy * eps, qz - gz * eps)
            return p[row, layout.SKIPPED] <= 4 * MAX_PANES, asked, used, spent

    if work.settings[layout.BEAMS] > 0.0 and mirrored:
        spent += beams(scene, work, sample, ox, oy, oz, dx, dy, dz, way, tr, tg, tb, index, pixel, number)
    if work.settings[layout.AIR_ON] > 0.0 and medium < 0:
        more, t, share = through_air(
            scene, work, asked, sample, ox, oy, oz, dx, dy, dz, way, tr, tg, tb, number, bounce, limit, index, pixel
        )
        spent += more
        if t >= 0.0:  # light goes on from a drop
            return off_drop(scene, work, row, t), asked, used, spent
        tr, tg, tb = tr * share, tg * share, tb * share

    if not met:
        if not drifting:
            from_beyond(
                scene, work, sample, px, py, pz, p[row, layout.OPEN], dx, dy, dz, p[row, layout.DENSITY], tr, tg, tb, limit,
                p[row, layout.BENT] > 0.0 and not mirrored, mirrored,
            )  # fmt: skip
        if p[row, layout.SEEN] <= 0.0:
            y, x = int(work.samples[sample, 0]), int(work.samples[sample, 1])
            work.passes[y, x, columns.PASS_COLOUR] += min(tr, 1.0)
            work.passes[y, x, columns.PASS_COLOUR + 1] += min(tg, 1.0)
            work.passes[y, x, columns.PASS_COLOUR + 2] += min(tb, 1.0)
            if bounce == 0 and not drifting and p[row, layout.BENT] <= 0.0:  # straight on, through panes at most
                work.passes[y, x, columns.PASS_BEYOND] += (tr + tg + tb) / 3.0
        return False, asked, used, spent

    kind = int(scene.materials[m, layout.KIND])
    vertex = Vertex(qx, qy, qz, gx, gy, gz, nx, ny, nz, -dx, -dy, -dz, eps)
    if kind == layout.PANE:
        carry(p, row, tr, tg, tb)
        return at_pane(scene, work, row, m, vertex), asked, used, spent
    if medium >= 0:
        e = layout.ABSORB
        tr *= math.exp(-way * scene.materials[medium, e])
        tg *= math.exp(-way * scene.materials[medium, e + 1])
        tb *= math.exp(-way * scene.materials[medium, e + 2])
    if bounce == 0 and work.settings[layout.HAZE_ON] > 0.0 and p[row, layout.HAZED] <= 0.0:
        # Once, on the way from the lens: what stands far off is seen through the same air as the sky.
        p[row, layout.HAZED] = 1.0
        hr, hg, hb, ar, ag, ab = daylight.haze_at(
            scene.haze, dx, dy, math.sqrt((qx - px) ** 2 + (qy - py) ** 2 + (qz - pz) ** 2)
        )
        add(work, sample, int(work.settings[layout.GROUP_SKY]), tr * ar, tg * ag, tb * ab, 0.0)
        tr, tg, tb = tr * hr, tg * hg, tb * hb
    carry(p, row, tr, tg, tb)
    if kind == layout.SOLID:
        return at_solid(scene, work, row, m, vertex, facing < 0.0), asked, used, spent

    density = p[row, layout.DENSITY]
    if scene.materials[m, layout.LIT] > 0.0 and not (drifting and density == 0.0):
        given_off(
            scene,
            work,
            sample,
            k,
            m,
            px,
            py,
            pz,
            qx,
            qy,
            qz,
            dx,
            dy,
            dz,
            abs(facing),
            density,
            mirrored,
            tr,
            tg,
            tb,
            limit,
        )
    p[row, layout.DRIFTING] = 0.0
    paint = paint_at(
        scene,
        m,
        u,
        v,
        vertex,
        edge,
        work.settings[layout.GROUND],
        work.settings[layout.SOFTEN] if rough else 0.0,
        rough,
    )
    if scene.objects[body, 1] > 0.0 and mirrored:  # shows only the shadow on it
        more, w = share_unshaded(scene, work, vertex, seed_of_step(index, pixel, number, CATCH))
        carry(p, row, tr * w, tg * w, tb * w)
        p[row, layout.PANES] += 1.0
        move(p, row, qx - gx * eps, qy - gy * eps, qz - gz * eps)
        return p[row, layout.PANES] <= MAX_PANES and w > 0.0, asked, used, spent + more
    if p[row, layout.SEEN] <= 0.0:
        p[row, layout.SEEN] = 1.0
        first_surface(scene, work, row, k, m, body, vertex, paint)
    goes_on, asked, used = at_surface(scene, work, row, asked, used, k, m, body, vertex, paint, facing)
    return goes_on, asked, used, spent


@kernel
def follow(scene, work, begun):
    """Follow the paths in the first rows, so many as have `begun`, and their branches to their ends. Returns the rays traced."""
    turn, alive, used, count = work.turn, begun, begun, I64(0)
    for k in range(begun):
        turn[k] = k
    while alive > 0:
        for k in range(alive):
            rays.look(scene.handle, work, turn[k], FAR)
        count += alive
        left, asked, before = I64(0), I64(0), used
        for k in range(alive):
            if k + AHEAD < alive:
                fetch_record(scene, work, turn[k + AHEAD])
            goes_on, asked, used, spent = step(scene, work, turn[k], asked, used)
            count += spent
            if goes_on:
                turn[left] = turn[k]
                left += 1
        for row in range(before, used):
            turn[left] = row
            left += 1
        count += answer(scene, work, I64(0), asked)
        alive = left
    return count


@kernel
def end_samples(work, begun):
    """Add what the passes keep of the samples in the first rows, all of whose paths have ended."""
    own, passes = work.samples, work.passes
    for row in range(begun):
        y, x, c = int(own[row, 0]), int(own[row, 1]), layout.SAMPLE_LIGHT
        luminance = 0.2126 * own[row, c] + 0.7152 * own[row, c + 1] + 0.0722 * own[row, c + 2]
        passes[y, x, columns.PASS_LUMINANCE] += luminance
        passes[y, x, columns.PASS_SQUARES] += luminance * luminance
        for k in range(3):
            passes[y, x, columns.PASS_REFLECTED + k] += own[row, layout.SAMPLE_REFLECTED + k]


@kernel
def render_tile(arrays, workbench, x0, y0, x1, y1, first_sample, last_sample):
    """Add samples first to last of the pixels of a tile. Returns the number of rays traced.

    `arrays` is a `SceneArrays`, `workbench` a `rays.Work` of this thread with the film to add to.
    """
    scene, work = held(arrays), held(workbench)
    width = workbench.film.shape[1]
    seed, down = hash32(U32(workbench.settings[layout.SEED])), int(workbench.settings[layout.FRAME_Y])
    count, begun = I64(0), I64(0)
    across, rows = (x1 - x0 + BLOCK_WIDTH - 1) // BLOCK_WIDTH, (y1 - y0 + BLOCK_HEIGHT - 1) // BLOCK_HEIGHT
    for block in range(across * rows):
        top, left = y0 + block // across * BLOCK_HEIGHT, x0 + block % across * BLOCK_WIDTH
        for y in range(top, min(top + BLOCK_HEIGHT, y1)):
            for x in range(left, min(left + BLOCK_WIDTH, x1)):
                pixel = hash32(U32(U32((y + down) * width + x) ^ seed))
                for index in range(first_sample, last_sample):
                    from_lens(work, begun, y, x, index, pixel)
                    begun += 1
                    if begun == layout.WAVE:
                        count += follow(scene, work, begun)
                        end_samples(work, begun)
                        begun = I64(0)
    if begun > 0:
        count += follow(scene, work, begun)
        end_samples(work, begun)
    return count
