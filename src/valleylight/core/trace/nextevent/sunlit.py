"""Sunlit places in rooms: points where the sun falls through an opening, for the surfaces around to look at.

A patch of sun on a floor lights a room more than the sky does, but a bounce seldom finds it. So places are scattered over
what the sun reaches through the openings, once for a scene, and every surface in a room asks one of them; the bounce that
finds the patch by itself is weighed against that (multiple importance sampling; the connection of a path of two vertices from
the light, E. Veach, Robust Monte Carlo Methods for Light Transport Simulation, 1997, chapter 10; many such points at once,
A. Keller, Instant Radiosity, 1997). One of a few places is chosen by what it would bring with nothing in the way (J. Talbot et
al., Importance Resampling for Global Illumination, 2005). The places of a scene are the same for every sample: with thousands of
them the error they share lies far below a picture's noise.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.jit.held import held, prefetch
from valleylight.core.sky.cloudshadow import through_cloud
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.records import Light, Paint, ShadowRay, Vertex
from valleylight.core.trace.arrays.scene import SceneArrays
from valleylight.core.trace.bsdf import albedo
from valleylight.core.trace.bsdf.paint import paint_at
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.intersect.vertex import meet
from valleylight.core.trace.lights import daylight
from valleylight.core.trace.nextevent.direct import ask
from valleylight.core.trace.nextevent.passage import CLEAR, FAR, PASSES, cut_out, may_let_by, shade, through_glass
from valleylight.core.trace.sampling.sobol import power_heuristic, square

F32, F64, I64, U32 = np.float32, np.float64, np.int64, np.uint32
#: Fewer places than this share of those tried are not worth asking.
LEAST_SHARE = 0.002
#: A surface chooses among so many places.
CHOICES = np.int64(4)
#: What stops a ray to a place is what a bounce would meet, panes too: light that passes some is left to the bounce.
IN_THE_WAY = rays.BY_BOUNCE
#: Panes and cut-outs that a ray passes on its way in, at most.
PASSED = 16


@kernel
def scatter_places(arrays, workbench, chances, places, number):
    """Send `number` rays of the sun in through the openings, chosen by their cumulated `chances` (P + 1,), and fill `places` (number, 32)
    with what they meet where the sun truly shines; returns how many those are.

    A point drawn evenly on an opening of area A, seen from the sun under the cosine c, lands with the density cos / (A c) per m2 on a
    surface under the cosine cos."""
    scene, work = held(arrays), held(workbench)
    sun, openings, found = scene.sun, scene.openings, 0
    for index in range(number):
        u, v = square(index, U32(0x51A7), I64(0))
        k = 0
        while k < openings.shape[0] - 1 and chances[k + 1] <= u:
            k += 1
        u = (u - chances[k]) / (chances[k + 1] - chances[k])
        a, b = square(index, U32(0x51A7), I64(1))
        lx, ly, lz = daylight.sample_cone(sun, a, b)
        facing = -(
            lx * openings[k, layout.OPENING_INWARD]
            + ly * openings[k, layout.OPENING_INWARD + 1]
            + lz * openings[k, layout.OPENING_INWARD + 2]
        )
        if facing <= 1e-5:
            continue
        s, t, start = 2.0 * u - 1.0, 2.0 * v - 1.0, daylight.ENTERED_M / facing
        ox = (
            openings[k, layout.OPENING_CENTRE]
            + s * openings[k, layout.OPENING_HALF_U]
            + t * openings[k, layout.OPENING_HALF_V]
            - start * lx
        )
        oy = (
            openings[k, layout.OPENING_CENTRE + 1]
            + s * openings[k, layout.OPENING_HALF_U + 1]
            + t * openings[k, layout.OPENING_HALF_V + 1]
            - start * ly
        )
        oz = (
            openings[k, layout.OPENING_CENTRE + 2]
            + s * openings[k, layout.OPENING_HALF_U + 2]
            + t * openings[k, layout.OPENING_HALF_V + 2]
            - start * lz
        )
        arrived = False
        for _ in range(PASSED):
            if not rays.closest(scene.handle, work.ray, work.word, ox, oy, oz, -lx, -ly, -lz, FAR, rays.BY_BOUNCE):
                break
            k_met, m, _body, tu, tv, qx, qy, qz, gx, gy, gz, nx, ny, nz, _facing, eps, edge = meet(
                scene, work, -lx, -ly, -lz, number > 0
            )
            kind = int(scene.materials[m, layout.KIND])
            passed = kind == layout.PANE or kind == layout.SOLID
            if not passed and may_let_by(scene, m):
                passed = cut_out(scene, k_met, m, tu, tv)
            if not passed:
                arrived = True
                break
            ox, oy, oz = qx - gx * eps, qy - gy * eps, qz - gz * eps
        if not arrived:
            continue
        px, py, pz = qx + gx * eps, qy + gy * eps, qz + gz * eps
        if rays.blocked(scene.handle, work.ray, work.word, px, py, pz, lx, ly, lz, FAR, rays.OPAQUE | rays.BODY):
            continue
        r, g, b, _ = through_glass(scene, work, px, py, pz, lx, ly, lz, FAR, PASSES)
        w = through_cloud(scene.cloud_shadow, scene.cloud_frame, qx, qy, qz) / sun[layout.SUN_DENSITY]
        chance = 0.0
        for j in range(openings.shape[0]):
            side = -(
                lx * openings[j, layout.OPENING_INWARD]
                + ly * openings[j, layout.OPENING_INWARD + 1]
                + lz * openings[j, layout.OPENING_INWARD + 2]
            )
            if side <= 1e-5:
                continue
            if daylight.way_to_opening(openings, j, qx, qy, qz, lx, ly, lz, side, 1.0) * side > daylight.ENTERED_M:
                chance += (chances[j + 1] - chances[j]) / (side * openings[j, layout.OPENING_AREA])
        chance *= gx * lx + gy * ly + gz * lz
        if chance <= 0.0 or (r + g + b) * w <= 0.0:
            continue
        vertex = Vertex(qx, qy, qz, gx, gy, gz, nx, ny, nz, lx, ly, lz, eps)
        paint = paint_at(
            scene, m, tu, tv, vertex, edge, work.settings[layout.GROUND], work.settings[layout.SOFTEN], number > 0
        )
        for c in range(len(vertex)):
            places[found, layout.PLACE_VERTEX + c] = vertex[c]
        for c in range(len(paint)):
            places[found, layout.PLACE_PAINT + c] = paint[c]
        w /= chance
        places[found, layout.PLACE_SUN], places[found, layout.PLACE_SUN + 1], places[found, layout.PLACE_SUN + 2] = (
            r * sun[layout.SUN_LUMINANCE] * w,
            g * sun[layout.SUN_LUMINANCE + 1] * w,
            b * sun[layout.SUN_LUMINANCE + 2] * w,
        )
        places[found, layout.PLACE_DENSITY] = daylight.openings_along(openings, qx, qy, qz, lx, ly, lz) * (
            gx * lx + gy * ly + gz * lz
        )
        strongest = max(
            max(places[found, layout.PLACE_SUN], places[found, layout.PLACE_SUN + 1]),
            places[found, layout.PLACE_SUN + 2],
        )  # coloured glass may leave one channel
        places[found, layout.PLACE_WORTH] = (0.1 + max(max(paint.red, paint.green), paint.blue)) * strongest
        found += 1
    return found


NOWHERE: dict[str, object] = {
    "sunlit": np.zeros((0, layout.PLACE_WIDTH), F32),
    "sunlit_brief": np.zeros((0, layout.BRIEF_WIDTH), F32),
}


def sunlit_places(arrays: SceneArrays, settings: NDArray[np.float64], number: int) -> tuple[dict[str, object], float]:
    """Places that the sun reaches through the openings, of `number` tried: arrays `sunlit` (M, 32) and `sunlit_brief` (M, 8); and
    their density per m2 across the sun's rays. None where hardly any are."""
    openings, sun = arrays.openings, arrays.sun
    if not number or not len(arrays.sun_ways):
        return NOWHERE, 0.0
    across = (
        np.maximum(-(openings[:, layout.three(layout.OPENING_INWARD)] @ sun[: layout.SUN_TOWARDS + 3]), 0.0)
        * openings[:, layout.OPENING_AREA]
    )
    chances = np.concatenate([[0.0], np.cumsum(across) / across.sum()])
    chances[-1] = 1.0
    places = np.zeros((number, layout.PLACE_WIDTH), F32)
    found = scatter_places(arrays, rays.new_work(settings), chances, places, number)
    if found < LEAST_SHARE * number:
        return NOWHERE, 0.0
    density = number / (found * float(across.sum()))
    places = places[:found]
    # What follows from `number` tries of which `found` arrived, when one of these is drawn.
    places[:, layout.three(layout.PLACE_SUN)] *= found / number
    places[:, layout.PLACE_WORTH] *= found / number
    places[:, layout.PLACE_DENSITY] *= density
    places = places[_along_a_curve(places[:, : layout.PLACE_VERTEX + 3])]
    brief = np.ascontiguousarray(places[:, [0, 1, 2, 3, 4, 5, 31, 20]])
    return {"sunlit": layout.in_lines(places), "sunlit_brief": brief}, density


def _along_a_curve(points: NDArray[np.float32]) -> NDArray[np.int64]:
    """An order of points (M, 3) in which neighbours lie near each other: G. Morton's curve, so that stratified numbers spread."""
    low, high = points.min(0), points.max(0)
    cells = ((points - low) / np.maximum(high - low, 1e-6).max() * 1023).astype(np.int64)
    code = np.zeros(len(points), np.int64)
    for bit in range(10):
        for axis in range(3):
            code |= (cells[:, axis] >> bit & 1) << (3 * bit + axis)
    return np.argsort(code, kind="stable")


@part
def links(scene, total):
    """Whether a surface asks a sunlit place: it lies behind an opening (which weigh `total` there), and there are any."""
    return total > 1e-4 and scene.sunlit.shape[0] > 0


@part
def candidate(scene, u, c):
    """Number of the place that is candidate c for a random number."""
    at, n = u + c / CHOICES, scene.sunlit.shape[0]
    return min(int((at - math.floor(at)) * n), n - 1)


@part
def fetch_places(scene, u):
    """Have the places among which `choose_place` will choose fetched."""
    for c in range(CHOICES):
        prefetch(scene.sunlit_brief.ctypes.data + candidate(scene, u, c) * (4 * layout.BRIEF_WIDTH))


@kernel
def choose_place(scene, vertex, paint, u, v):
    """One of a few places: its number, one over its chance (0: none can be seen), the cosine there times the distance, and the
    squared distance. What else is known of it is being fetched afterwards."""
    brief = scene.sunlit_brief
    total, chosen, weight, slant, d2 = 0.0, I64(0), 0.0, 0.0, 1.0
    for c in range(CHOICES):
        i = candidate(scene, u, c)
        x, y, z = (
            brief[i, layout.BRIEF_POINT] - vertex.x,
            brief[i, layout.BRIEF_POINT + 1] - vertex.y,
            brief[i, layout.BRIEF_POINT + 2] - vertex.z,
        )
        square_way = F64(x * x + y * y + z * z) + 1e-9
        here = vertex.gx * x + vertex.gy * y + vertex.gz * z
        there = -F64(
            brief[i, layout.BRIEF_NORMAL] * x
            + brief[i, layout.BRIEF_NORMAL + 1] * y
            + brief[i, layout.BRIEF_NORMAL + 2] * z
        )
        if (here <= 0.0 and paint.through <= 0.0) or (there <= 0.0 and brief[i, layout.BRIEF_THROUGH] <= 0.0):
            continue
        bright = abs(here * there) * brief[i, layout.BRIEF_WORTH] / (square_way * square_way)
        total += bright
        q = bright / total
        if v < q:
            chosen, weight, slant, d2, v = i, bright, abs(there), square_way, v / q
        else:
            v = (v - q) / (1.0 - q)
    if weight <= 0.0:
        return chosen, 0.0, slant, d2
    address = scene.sunlit.ctypes.data + chosen * (4 * layout.PLACE_WIDTH)
    prefetch(address)
    prefetch(address + 64)
    return chosen, total / (CHOICES * weight), slant, d2


@kernel
def ask_sunlit(scene, work, asked, vertex, paint, place, light):
    """A ray to a sunlit `place`, as `choose_place` gives it."""
    i, k, slant, d2 = place
    p, d = scene.sunlit, math.sqrt(d2)
    if k <= 0.0:
        return asked
    lx, ly, lz = (
        (p[i, layout.PLACE_VERTEX] - vertex.x) / d,
        (p[i, layout.PLACE_VERTEX + 1] - vertex.y) / d,
        (p[i, layout.PLACE_VERTEX + 2] - vertex.z) / d,
    )
    slant /= d
    nx, ny, nz = (
        F64(p[i, layout.PLACE_VERTEX + 6]),
        F64(p[i, layout.PLACE_VERTEX + 7]),
        F64(p[i, layout.PLACE_VERTEX + 8]),
    )
    sx, sy, sz = (
        F64(p[i, layout.PLACE_VERTEX + 9]),
        F64(p[i, layout.PLACE_VERTEX + 10]),
        F64(p[i, layout.PLACE_VERTEX + 11]),
    )
    cosine = -(nx * lx + ny * ly + nz * lz)
    if cosine < 0.0:  # seen through a leaf or a curtain, from behind
        nx, ny, nz, cosine = -nx, -ny, -nz, -cosine
    under, lost = albedo.seen_from(
        F64(p[i, layout.PLACE_PAINT + 3]), F64(p[i, layout.PLACE_PAINT + 5]), F64(p[i, layout.PLACE_PAINT + 6]), cosine
    )
    seen = Paint(
        F64(p[i, layout.PLACE_PAINT]), F64(p[i, layout.PLACE_PAINT + 1]), F64(p[i, layout.PLACE_PAINT + 2]), F64(p[i, layout.PLACE_PAINT + 3]), F64(p[i, layout.PLACE_PAINT + 4]), F64(p[i, layout.PLACE_PAINT + 5]), F64(p[i, layout.PLACE_PAINT + 6]), F64(p[i, layout.PLACE_PAINT + 7]),
        F64(p[i, layout.PLACE_PAINT + 8]), under, lost, F64(p[i, layout.PLACE_PAINT + 11]), F64(p[i, layout.PLACE_PAINT + 12]), F64(p[i, layout.PLACE_PAINT + 13]),
    )  # fmt: skip
    r, g, b, density = shade(scene, seen, nx, ny, nz, -lx, -ly, -lz, sx, sy, sz)
    if r + g + b <= 0.0 or p[i, layout.PLACE_DENSITY] <= 0.0:
        return asked
    own = p[i, layout.PLACE_DENSITY] * d2 / max(slant, 1e-6)
    k *= power_heuristic(scene.sun[layout.SUN_DENSITY], density) * slant / d2
    free = d - vertex.lift - p[i, layout.PLACE_VERTEX + 12] - min(1e-4, 0.01 * d)
    ray = ShadowRay(lx, ly, lz, free, IN_THE_WAY, CLEAR, 0.0)
    found_there = Light(
        light.red * r * p[i, layout.PLACE_SUN] * k, light.green * g * p[i, layout.PLACE_SUN + 1] * k,
        light.blue * b * p[i, layout.PLACE_SUN + 2] * k,
    )  # fmt: skip
    return ask(work, asked, vertex, paint, ray, found_there, work.settings[layout.GROUP_SUN], own)
