"""Light scattered towards the viewer by the air along a ray: shafts of sun through openings, cones of fixtures.

At one place of the ray the light of sun, sky, fixtures and emitting surfaces is asked for; places are drawn by free
flight within the segment (for daylight) and, for a fixture, also by the angle from it, the two weighed by the balance
heuristic (C. Kulla, M. Fajardo, 2012). What the air scatters on goes its own way in path.py and is not asked twice.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.lamps import record
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.records import Light, Paint, Vertex
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.lights import daylight, lamplight
from valleylight.core.trace.media import air
from valleylight.core.trace.nextevent.direct import (
    add,
    answer,
    ask_lamp,
    ask_sky,
    ask_sun,
    ask_surface,
    lights,
    note_place,
    shade_all,
)
from valleylight.core.trace.nextevent.passage import PASSES, short_of, through_glass
from valleylight.core.trace.sampling.dimensions import (
    AIR_ASK,
    AIR_CHOICE,
    AIR_FIXTURE,
    AIR_FLIGHT,
    AIR_LEFT,
    AIR_PLACE,
    AIR_POINT,
    AIR_SKY,
    AIR_SUN,
    AIR_SURFACE,
    BEAM,
    of_step,
    seed_of_step,
)

I64 = np.int64
#: Behind the first bounce a segment is asked with this many times the share of light it scatters.
KEEN = 3.0


class Within(NamedTuple):
    """The part of a segment that lies in the air: from and to in metres along it, the share of light that the air takes there, the
    weight of asking there at all, and the seed of walks through uneven air."""

    begin: float
    end: float
    thick: float
    weight: float
    luck: int


@part
def drop(scene, x, y, z, dx, dy, dz):
    """Vertex and paint of a place in the air seen along d, for the functions of direct.py."""
    a = scene.air
    vertex = Vertex(x, y, z, -dx, -dy, -dz, -dx, -dy, -dz, -dx, -dy, -dz, 0.0)
    paint = Paint(
        a[layout.AIR_ALBEDO],
        a[layout.AIR_ALBEDO + 1],
        a[layout.AIR_ALBEDO + 2],
        1.0,
        0.0,
        0.0,
        0.0,
        1.0,
        0.0,
        1.0,
        0.0,
        -3.0,
        0.0,
        0.0,
    )
    return vertex, paint


@kernel
def through_air(scene, work, asked, sample, segment, limit, address):
    """Add the light scattered along a segment once; `asked` questions wait that are not ours. Returns the rays spent, where light goes on from a drop (-1: it gets
    through), and the factor of what gets through."""
    a = scene.air
    ox, oy, oz, dx, dy, dz, far, _, _, _ = segment
    index, pixel, step, bounce = address
    t0, t1 = air.clip(a, ox, oy, oz, dx, dy, dz, far)
    tau = air.depth(a, oz, dz, t0, t1)
    if tau <= 1e-7:
        return np.int64(0), -1.0, 1.0
    luck = seed_of_step(index, pixel, step, AIR_LEFT)
    thick = 1.0 - math.exp(-tau)
    spent = np.int64(0)
    only = a[layout.AIR_BEAMS_ONLY] > 0.0
    if only and bounce > 0:
        return spent, -1.0, 1.0
    ask = 1.0 if bounce == 0 else min(max(KEEN * thick, 0.05), 1.0)
    if seed_of_step(index, pixel, step, AIR_ASK) / 4294967296.0 < ask:
        k = 1.0 / ask
        within = Within(t0, t1, thick, k, luck)
        spent = scattered_once(scene, work, asked, sample, segment, within, limit, address)
    if only:
        return spent, -1.0, 1.0
    if a[layout.AIR_MULTIPLE] > 0.0:
        flight = seed_of_step(index, pixel, step, AIR_FLIGHT)
        return spent, air.free_flight(a, ox, oy, oz, dx, dy, dz, t0, t1, flight), 1.0
    return spent, -1.0, air.transmittance(a, ox, oy, oz, dx, dy, dz, far, luck)


@part
def weight_at(a, ox, oy, oz, dx, dy, dz, t0, t, luck):
    """Scattering times transmittance at t, over those of the mean density: extinction e^-tau (swing included)."""
    z = oz + t * dz
    density = air.local(a, z)
    if a[layout.AIR_UNEVEN] > 0.0:
        density *= 1.0 + a[layout.AIR_UNEVEN] * air.swing(a, ox + t * dx, oy + t * dy, z)
    if a[layout.AIR_BEAMS_ONLY] > 0.0:
        return density
    if a[layout.AIR_UNEVEN] > 0.0:
        return density * air.transmittance(a, ox, oy, oz, dx, dy, dz, t, luck)
    return density * math.exp(-air.depth(a, oz, dz, t0, t))


@kernel
def scattered_once(scene, work, first, sample, segment, within, limit, address):
    """Ask for the light at places of the air along a segment. Returns the rays spent."""
    a = scene.air
    ox, oy, oz, dx, dy, dz, _, tr, tg, tb = segment
    t0, t1, thick, weight, luck = within
    tr, tg, tb = tr * weight, tg * weight, tb * weight
    index, pixel, step, bounce = address
    spent = np.int64(0)
    sun_on = work.settings[layout.SUN_ON] > 0.0
    sky_on = work.settings[layout.SKY_ON] > 0.0 and a[layout.AIR_BEAMS_ONLY] <= 0.0
    lit = scene.emitters.shape[0] > 0
    kinds = int(sun_on) + int(sky_on) + int(lit)
    u, v = of_step(index, pixel, step, bounce, AIR_PLACE)
    t = air.reach(a, oz, dz, t0, t1, -math.log(1.0 - u * thick))
    if kinds > 0:
        mean = air.local(a, oz + t * dz) * math.exp(-air.depth(a, oz, dz, t0, t)) / thick
        w = weight_at(a, ox, oy, oz, dx, dy, dz, t0, t, luck) / max(mean, 1e-30)
        px, py, pz = ox + t * dx, oy + t * dy, oz + t * dz
        vertex, paint = drop(scene, px, py, pz, dx, dy, dz)
        place = (px, py, pz)
        # Behind the first segment one of the lights is asked in turn for all.
        only = np.int64(-1)
        if bounce > 0 and kinds > 1:
            only = min(int(v * kinds), kinds - 1)
            w *= kinds
        number, asked, total = np.int64(0), first, 0.0
        if sun_on:
            if only < 0 or only == number:
                p, q = of_step(index, pixel, step, bounce, AIR_SUN)
                asked = ask_sun(
                    scene, work, asked, vertex, paint, p, q, Light(tr * w, tg * w, tb * w), PASSES, 0.0, 0.0
                )
            number += 1
        if sky_on:
            if only < 0 or only == number:
                p, q = of_step(index, pixel, step, bounce, AIR_SKY)
                total = daylight.openings_total(scene.openings, work.weights, px, py, pz)
                asked = ask_sky(scene, work, asked, place, vertex, paint, total, p, q, Light(tr * w, tg * w, tb * w))
            number += 1
        if lit and (only < 0 or only == number):
            p, q = of_step(index, pixel, step, bounce, AIR_SURFACE)
            asked = ask_surface(scene, work, asked, place, vertex, paint, p, q, Light(tr * w, tg * w, tb * w))
        shade_all(scene, work, first, asked, vertex, paint)
        note_place(work, first, asked, sample, limit, 0.0, px, py, pz, total)
        spent += answer(scene, work, first, asked)
    if scene.lamps.shape[0] > 0:
        spent += lamp_in_air(scene, work, first, sample, segment, within, limit, address)
    return spent


@part
def lamp_chance(scene, ox, oy, oz, dx, dy, dz, t, lamp):
    """Chance of a fixture in the grid cell at place t of the ray."""
    cell = lamplight.grid_cell(scene.grid_box, scene.grid_counts, ox + t * dx, oy + t * dy, oz + t * dz)
    return scene.grid_cdf[cell, lamp + 1] - scene.grid_cdf[cell, lamp]


@kernel
def lamp_in_air(scene, work, first, sample, segment, within, limit, address):
    """One fixture at one place of the air. Half of the time the place comes first (free flight) and the fixture from its
    cell, half of the time the fixture (from the cell of an independent place) and then the place by the angle from it."""
    a = scene.air
    ox, oy, oz, dx, dy, dz, _, tr, tg, tb = segment
    t0, t1, thick, weight, luck = within
    tr, tg, tb = tr * weight, tg * weight, tb * weight
    index, pixel, step, bounce = address
    p, q = of_step(index, pixel, step, bounce, AIR_FIXTURE)
    choice, aux = of_step(index, pixel, step, bounce, AIR_CHOICE)
    other = air.reach(a, oz, dz, t0, t1, -math.log(1.0 - aux * thick))
    by_flight = choice < 0.5
    choice = 2.0 * choice if by_flight else 2.0 * choice - 1.0
    if by_flight:
        t = air.reach(a, oz, dz, t0, t1, -math.log(1.0 - q * thick))
    else:
        t = other
    cell = lamplight.grid_cell(scene.grid_box, scene.grid_counts, ox + t * dx, oy + t * dy, oz + t * dz)
    lamp, chance = lamplight.choose_lamp(scene.grid_cdf, cell, p)
    if chance <= 0.0 or not lights(scene, lamp, I64(0)):
        return 0
    c = scene.lamps
    if not by_flight:
        t, _ = air.equiangular(
            float(c[lamp, record.PLACE]),
            float(c[lamp, record.PLACE + 1]),
            float(c[lamp, record.PLACE + 2]),
            ox,
            oy,
            oz,
            dx,
            dy,
            dz,
            t0,
            t1,
            q,
        )
    flight = air.local(a, oz + t * dz) * math.exp(-air.depth(a, oz, dz, t0, t)) / thick
    angle = air.equiangular_density(
        float(c[lamp, record.PLACE]),
        float(c[lamp, record.PLACE + 1]),
        float(c[lamp, record.PLACE + 2]),
        ox,
        oy,
        oz,
        dx,
        dy,
        dz,
        t0,
        t1,
        t,
    )
    both = 0.5 * flight * lamp_chance(scene, ox, oy, oz, dx, dy, dz, t, lamp)
    both += 0.5 * angle * lamp_chance(scene, ox, oy, oz, dx, dy, dz, other, lamp)
    if both <= 0.0:
        return 0
    w = weight_at(a, ox, oy, oz, dx, dy, dz, t0, t, luck)
    px, py, pz = ox + t * dx, oy + t * dy, oz + t * dz
    vertex, paint = drop(scene, px, py, pz, dx, dy, dz)
    p, q = of_step(index, pixel, step, bounce, AIR_POINT)
    light = Light(tr * w, tg * w, tb * w)
    asked = ask_lamp(scene, work, first, (px, py, pz), vertex, paint, lamp, both, p, q, light, PASSES)
    shade_all(scene, work, first, asked, vertex, paint)
    note_place(work, first, asked, sample, limit, 0.0, px, py, pz, 0.0)
    return answer(scene, work, first, asked)


@kernel
def beams(scene, work, sample, segment, address):
    """Cones of the fixtures whose beams show in otherwise clear air: even scattering of `BEAM` per metre, seen once and
    from the lens only. Returns the rays spent."""
    ox, oy, oz, dx, dy, dz, far, tr, tg, tb = segment
    n = int(work.settings[layout.BEAMS])
    u, v = of_step(address.number, address.pixel, address.step, I64(0), BEAM)
    which = min(int(u * n), n - 1)
    lamp = int(scene.beam_lamps[which])
    u = u * n - which
    c = scene.lamps
    lx, ly, lz = float(c[lamp, record.PLACE]), float(c[lamp, record.PLACE + 1]), float(c[lamp, record.PLACE + 2])
    t1 = min(far, lamplight.BEAM_REACH_M + math.sqrt((lx - ox) ** 2 + (ly - oy) ** 2 + (lz - oz) ** 2))
    t, density = air.equiangular(lx, ly, lz, ox, oy, oz, dx, dy, dz, 0.0, t1, v)
    px, py, pz = ox + t * dx, oy + t * dy, oz + t * dz
    vx, vy, vz = lx - px, ly - py, lz - pz
    d2 = vx * vx + vy * vy + vz * vz
    d = math.sqrt(d2) + 1e-9
    vx, vy, vz = vx / d, vy / d, vz / d
    e = lamplight.intensity(c, scene.profiles, lamp, -vx, -vy, -vz)
    if e <= 0.0:
        return 0
    free = short_of(d, 2e-6 * max(max(abs(px), abs(py)), abs(pz)))
    if rays.blocked(scene.handle, work.shadow, work.shadow_word, px, py, pz, vx, vy, vz, free, rays.OPAQUE):
        return 1
    r, g, b, _ = through_glass(scene, work, px, py, pz, vx, vy, vz, free, PASSES)
    k = n * c[lamp, record.BEAM] * air.INV_4PI * e / (density * max(d2, lamplight.NEAREST_M * lamplight.NEAREST_M))
    group = int(c[lamp, record.GROUP])
    add(
        work,
        sample,
        group,
        tr * r * k * c[lamp, record.COLOUR],
        tg * g * k * c[lamp, record.COLOUR + 1],
        tb * b * k * c[lamp, record.COLOUR + 2],
        0.0,
    )
    return 1
