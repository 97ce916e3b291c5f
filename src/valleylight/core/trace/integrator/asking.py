"""What a path asks for at a surface: which lights, by one ray each, and with what weight where one ray serves two."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from valleylight.core.jit.compiled import part
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.records import Light
from valleylight.core.trace.lights import daylight
from valleylight.core.trace.nextevent.direct import ask_fixture, ask_sky, ask_sun, ask_surface
from valleylight.core.trace.nextevent.passage import BLOCKS, PASSES
from valleylight.core.trace.nextevent.sunlit import ask_sunlit, choose_place, fetch_places, links
from valleylight.core.trace.photonmap import photons
from valleylight.core.trace.sampling.dimensions import (
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

U32, I64 = np.uint32, np.int64


class Turns(NamedTuple):
    """Which of sun, sky and sunlit places are asked, and what the light of each is weighed by for those times it is not."""

    sun: bool
    sky: bool
    place: bool
    by_sun: float
    by_sky: float
    by_place: float


@part
def turns_of(scene, work, address, place, total, linked):
    """Whose turn it is at a place; `total` weighs the openings there, `linked` tells whether sunlit places may be asked."""
    index, pixel, step, bounce = address
    sun, sky = work.settings[layout.SUN_ON] > 0.0, work.settings[layout.SKY_ON] > 0.0
    by_sun, by_sky, by_place, ask_place = 1.0, 1.0, 1.0, linked
    seldom = work.settings[layout.SELDOM]
    if sun and sky and (bounce >= 1 or seldom > 1.0):
        luck = seed_of_step(index, pixel, step, TURN_OF_SUN) / 4294967296.0
        if seldom > 1.0 and total > 1e-4:
            # In a room that daylight enters by its openings alone the sun is on a line through one, or behind a wall.
            if not daylight.in_way_of_sun(scene.sun_ways, place[0], place[1], place[2]):
                sun, by_sun = luck * seldom < 1.0, seldom
        elif bounce >= 1:  # one ray serves sun and sky, each asked half of the time
            sun = luck < 0.5
            sky, by_sun, by_sky = not sun, 2.0, 2.0
    if linked and sky and bounce >= 1:  # one ray serves sky and places
        ask_place = seed_of_step(index, pixel, step, TURN_OF_PLACES) < U32(0x80000000)
        sky, by_place, by_sky = not ask_place, 2.0, 2.0 * by_sky
    return Turns(sun, sky, ask_place, by_sun, by_sky, by_place)


@part
def known_to_places(work, row, vertex, facing):
    """The density with which sunlit places would have been asked from where the path was last scattered, for each opening and times
    the cosine of the sun; 0 where they were not."""
    p, s = work.paths, layout.SCATTERED
    if p[row, layout.LINKED] <= 0.0 or p[row, layout.DENSITY] <= 0.0:
        return 0.0
    known = work.settings[layout.SUNLIT_DENSITY] / max(abs(facing), 1e-6)
    known *= (vertex.x - p[row, s]) ** 2 + (vertex.y - p[row, s + 1]) ** 2 + (vertex.z - p[row, s + 2]) ** 2
    return known


@part
def ask_for_light(scene, work, row, asked, k, body, vertex, paint, facing, address, place):
    """Ask for all light at a surface, from a place just off it. Returns the questions now, what the openings weigh there, and whether
    sunlit places may be asked."""
    p, zero = work.paths, I64(0)
    index, pixel, step, bounce = address
    tr, tg, tb = p[row, layout.LIGHT], p[row, layout.LIGHT + 1], p[row, layout.LIGHT + 2]
    sun_on, sky_on = work.settings[layout.SUN_ON] > 0.0, work.settings[layout.SKY_ON] > 0.0
    total = daylight.openings_total(scene.openings, work.weights, place[0], place[1], place[2]) if sky_on else 0.0
    linked, first_lot, second_lot = sun_on and links(scene, total), 0.0, 0.0
    if linked:
        first_lot, second_lot = of_step(index, pixel, step, bounce, PLACES)
        fetch_places(scene, first_lot)
    turns = turns_of(scene, work, address, place, total, linked)
    netted = work.settings[layout.NET_ON] > 0.0 and photons.in_region(scene.net, vertex.x, vertex.y, vertex.z)
    solids = BLOCKS if netted else PASSES
    if turns.sun:
        known = known_to_places(work, row, vertex, facing)
        a, b = of_step(index, pixel, step, bounce, SUN)
        light = Light(tr * turns.by_sun, tg * turns.by_sun, tb * turns.by_sun)
        asked = ask_sun(scene, work, asked, vertex, paint, a, b, light, solids, p[row, layout.DENSITY], known)
    chosen = choose_place(scene, vertex, paint, first_lot, second_lot) if turns.place else (zero, 0.0, 0.0, 1.0)
    if turns.sky:
        a, b = of_step(index, pixel, step, bounce, SKY)
        light = Light(tr * turns.by_sky, tg * turns.by_sky, tb * turns.by_sky)
        asked = ask_sky(scene, work, asked, place, vertex, paint, total, a, b, light)
    if turns.place:
        light = Light(tr * turns.by_place, tg * turns.by_place, tb * turns.by_place)
        asked = ask_sunlit(scene, work, asked, vertex, paint, chosen, light)
    if scene.lamps.shape[0] > 0:
        a, b = of_step(index, pixel, step, bounce, FIXTURE)
        stands = abs(int(scene.triangles[k, layout.TRIANGLE_FIXTURE])) - 1
        own = scene.lamp_of[stands] if stands >= 0 else zero - 1
        asked = ask_fixture(scene, work, asked, place, vertex, paint, body, own, a, b, Light(tr, tg, tb), solids)
    if scene.emitters.shape[0] > 0:
        a, b = of_step(index, pixel, step, bounce, SURFACE)
        asked = ask_surface(scene, work, asked, place, vertex, paint, a, b, Light(tr, tg, tb))
    if netted:
        photons.gather(scene, vertex, paint, work, int(p[row, layout.SAMPLE]), tr, tg, tb)
    return asked, total, linked
