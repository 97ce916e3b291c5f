"""What a path does at a vertex: keeps what the passes show, forks, and goes on by the BSDF or the phase function."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from valleylight.core.film import columns
from valleylight.core.jit.compiled import kernel, part
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.records import Address, Light
from valleylight.core.trace.bsdf.paint import BY_GLOSS, MATT, draw, sharply
from valleylight.core.trace.integrator.asking import ask_for_light
from valleylight.core.trace.integrator.glass import carry, move, scattered_at, set_direction
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.media import air
from valleylight.core.trace.nextevent.direct import ask_onwards, note_place, shade_all
from valleylight.core.trace.sampling.dimensions import BRANCH_FATE, CHOICE, DIRECTION, DROP, DROP_FATE, of_step

U32, I64, F64 = np.uint32, np.int64, np.float64


@part
def note_mask(ids, y, x, which, number):
    """Count a sample for object or material `number` (from 1) among the ranks of a pixel."""
    for rank in range(ids.shape[3]):
        if ids[y, x, which, rank, 0] == number or ids[y, x, which, rank, 0] == 0.0:
            ids[y, x, which, rank, 0] = number
            ids[y, x, which, rank, 1] += 1.0
            return


@part
def draw_branches(scene, work, asked, vertex, paint, address, choice):
    """Draw the directions of the other branches of a path that forks at its first matt surface. Returns their number.

    The way from the lens and the direct light cost more rays than a bounce and bring less noise; splitting there takes the
    ratio towards its best (J. Arvo, D. Kirk, Particle Transport and Image Synthesis, 1990).
    """
    splits = int(work.settings[layout.SPLITS])
    for branch in range(1, splits):
        number = address.number * splits + branch
        u, v = of_step(number, address.pixel, address.step, address.bounce, DIRECTION)
        dx, dy, dz, _lobe, drawn = draw(scene, vertex, paint, choice, u, v)
        ask_onwards(work, asked + branch - 1, dx, dy, dz, drawn)
    return splits - 1


@kernel
def keep_branches(scene, work, asked, row, used, address, vertex, light):
    """Keep those branches that go on, each with its share of the light, in the rows after `used`, like the path in a row but
    for what follows from their directions. Returns the rows used."""
    p, q, splits, worth = work.paths, work.questions, work.settings[layout.SPLITS], 1.0
    if p[row, layout.MEDIUM] >= 0.0:
        worth = F64(scene.materials[int(p[row, layout.MEDIUM]), layout.INDEX]) ** 2
    for branch in range(1, int(splits)):
        k, own = asked + branch - 1, address.number * int(splits) + branch
        density = q[k, layout.ASK_DENSITY]
        if density <= 1e-9:
            continue
        r, g, b = (
            light.red * q[k, layout.ASK_LIGHT] / density,
            light.green * q[k, layout.ASK_LIGHT + 1] / density,
            light.blue * q[k, layout.ASK_LIGHT + 2] / density,
        )
        survive = min(worth * max(max(r, g), b), 0.95)
        if survive < 0.95:
            if of_step(own, address.pixel, address.step, address.bounce, BRANCH_FATE)[1] >= survive:
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
    away = (paint.refraction - 1.0) / (paint.refraction + 1.0)
    gloss = paint.gloss * away * away  # what it reflects of light that falls on it straight (Fresnel)
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


class Onward(NamedTuple):
    """How a path goes on: whether it does, the lobe its direction comes from, the number by which roulette decides, and its own number
    between those of its branches."""

    goes_on: bool
    lobe: int
    fate: float
    rank: int


@part
def draw_onwards(scene, work, row, asked, body, vertex, paint, address):
    """Draw the direction in which the path in a row goes on, and those of its branches where it forks; they stand behind the
    questions. Returns how it goes on, and the number of branches."""
    p = work.paths
    index, pixel, step, bounce = address
    splits, mirrored = int(work.settings[layout.SPLITS]), p[row, layout.MIRRORED] > 0.0
    goes_on = bounce < work.settings[layout.MAX_BOUNCES]
    if bounce == 0 and scene.objects[body, layout.OBJECT_RECEIVES] <= 0.0:  # takes no bounced light
        goes_on = False
    lobe, fate, rank, branching = MATT, 0.0, index, I64(0)
    if goes_on:
        choice, fate = of_step(index, pixel, step, bounce, CHOICE)
        rank = index * splits if mirrored else index
        a, b = of_step(rank, pixel, step, bounce, DIRECTION)
        dx, dy, dz, lobe, drawn = draw(scene, vertex, paint, choice, a, b)
        ask_onwards(work, asked, dx, dy, dz, drawn)
        if mirrored and lobe == MATT and splits > 1:
            branching = draw_branches(scene, work, asked + 1, vertex, paint, address, choice)
    return Onward(goes_on, lobe, fate, rank), branching


@part
def reflect_sharply(scene, work, asked, vertex, paint, lobe):
    """Weigh the direction onwards of a perfect mirror, unless it leads into the surface."""
    q = work.questions
    side = (
        vertex.gx * q[asked, layout.ASK_TOWARDS]
        + vertex.gy * q[asked, layout.ASK_TOWARDS + 1]
        + vertex.gz * q[asked, layout.ASK_TOWARDS + 2]
    )
    if side > 0.0:
        q[asked, layout.ASK_LIGHT], q[asked, layout.ASK_LIGHT + 1], q[asked, layout.ASK_LIGHT + 2] = sharply(
            scene, vertex, paint, lobe
        )
        q[asked, layout.ASK_DENSITY] = 1.0


@part
def scattered_on(work, row, asked, paint, onward, place, total, linked):
    """Note in the path's row what its next vertex must know of this one."""
    p, sharp, matt = work.paths, onward.lobe >= BY_GLOSS, onward.lobe == MATT
    density = work.questions[asked, layout.ASK_DENSITY]
    scattered_at(p, row, place[0], place[1], place[2], 0.0 if sharp else density)
    p[row, layout.BOUNCE] += 1.0
    p[row, layout.OPEN], p[row, layout.BENT] = total, 0.0
    p[row, layout.LINKED] = F64(linked and not sharp)
    if not sharp and (matt or paint.alpha > 0.02):
        p[row, layout.NUMBER], p[row, layout.MIRRORED] = onward.rank, 0.0
    if not sharp and (matt or paint.alpha > 0.1):
        p[row, layout.MASK], p[row, layout.ROUGHENED] = rays.BY_BOUNCE, 1.0
    elif p[row, layout.MASK] != rays.BY_BOUNCE:
        p[row, layout.MASK] = rays.BY_MIRROR


@part
def survives(scene, work, row, asked, vertex, onward, forked):
    """Send the path in a row on its way, with its share of the light where it has `forked`. Returns whether it goes on.

    Russian roulette keeps the expected value; what is left of a dark surface is seldom worth a long path. That light spreads on
    leaving water takes nothing from its worth.
    """
    p, q = work.paths, work.questions
    density = q[asked, layout.ASK_DENSITY]
    if density <= 1e-9:
        return False
    tr, tg, tb = p[row, layout.LIGHT], p[row, layout.LIGHT + 1], p[row, layout.LIGHT + 2]
    if forked:
        tr, tg, tb = tr / p[row, layout.BRANCHES], tg / p[row, layout.BRANCHES], tb / p[row, layout.BRANCHES]
    tr, tg, tb = (
        tr * q[asked, layout.ASK_LIGHT] / density,
        tg * q[asked, layout.ASK_LIGHT + 1] / density,
        tb * q[asked, layout.ASK_LIGHT + 2] / density,
    )
    worth, within = p[row, layout.BRANCHES], int(p[row, layout.MEDIUM])
    if within >= 0:
        worth *= F64(scene.materials[within, layout.INDEX]) ** 2
    survive = min(worth * max(max(tr, tg), tb), 0.95)
    if survive < 0.95 or p[row, layout.BOUNCE] >= 2.0:
        if onward.fate >= survive:
            return False
        tr, tg, tb = tr / survive, tg / survive, tb / survive
    dx, dy, dz = q[asked, layout.ASK_TOWARDS], q[asked, layout.ASK_TOWARDS + 1], q[asked, layout.ASK_TOWARDS + 2]
    e = vertex.lift if vertex.gx * dx + vertex.gy * dy + vertex.gz * dz >= 0.0 else -vertex.lift
    move(p, row, vertex.x + vertex.gx * e, vertex.y + vertex.gy * e, vertex.z + vertex.gz * e)
    set_direction(p, row, dx, dy, dz)
    carry(p, row, tr, tg, tb)
    return True


@kernel
def at_surface(scene, work, row, asked, used, k, m, body, vertex, paint, facing):
    """Ask for the light at a surface and let the path in a row go on from it, in branches where it forks. Returns whether it goes
    on, the questions now, and the rows used."""
    p, begun = work.paths, asked
    address = Address(
        int(p[row, layout.NUMBER]), U32(p[row, layout.PIXEL]), int(p[row, layout.STEP]), int(p[row, layout.BOUNCE])
    )
    place = (
        vertex.x + vertex.gx * vertex.lift,
        vertex.y + vertex.gy * vertex.lift,
        vertex.z + vertex.gz * vertex.lift,
    )
    asked, total, linked = ask_for_light(scene, work, row, asked, k, body, vertex, paint, facing, address, place)
    onward, branching = draw_onwards(scene, work, row, asked, body, vertex, paint, address)
    sample, first = int(p[row, layout.SAMPLE]), address.bounce == 0
    limit = 0.0 if p[row, layout.MIRRORED] > 0.0 else work.settings[layout.CLAMP]
    shade_all(scene, work, begun, asked + I64(onward.goes_on) + branching, vertex, paint)
    note_place(work, begun, asked, sample, limit, F64(first), place[0], place[1], place[2], total)
    if not onward.goes_on:
        return False, asked, used
    if first and onward.lobe != MATT:
        work.samples[sample, layout.WILL_REFLECT] = 1.0
    if onward.lobe >= BY_GLOSS:
        reflect_sharply(scene, work, asked, vertex, paint, onward.lobe)
    mirrored = p[row, layout.MIRRORED] > 0.0
    scattered_on(work, row, asked, paint, onward, place, total, linked)
    if branching > 0:
        light = Light(p[row, layout.LIGHT], p[row, layout.LIGHT + 1], p[row, layout.LIGHT + 2])
        p[row, layout.BRANCHES] = work.settings[layout.SPLITS]
        used = keep_branches(scene, work, asked + 1, row, used, address, vertex, light)
    return survives(scene, work, row, asked, vertex, onward, mirrored and onward.lobe == MATT), asked, used
