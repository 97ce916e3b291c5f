"""All the light that falls on a point: direct and after every bounce, per light group, by the tracer itself.

A white matt card lies at the point: its luminance L gives the illuminance E = pi L (Lambert's law). The card sends one ray
to each kind of source and one on by the cosine, as every surface of a picture does; it stands in nobody's way.
"""

from __future__ import annotations

import os
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.film import columns
from valleylight.core.film.film import Level, rgb_of
from valleylight.core.jit.compiled import kernel
from valleylight.core.jit.held import held
from valleylight.core.measure.shadow import lifted
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.records import Light, Vertex
from valleylight.core.trace.bsdf.paint import draw, paint_at
from valleylight.core.trace.integrator.glass import carry, medium_at, scattered_at
from valleylight.core.trace.integrator.path import begin_path, begin_sample, follow_paths
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.lights import daylight
from valleylight.core.trace.nextevent.direct import (
    answer,
    ask_fixture,
    ask_onwards,
    ask_sky,
    ask_sun,
    ask_surface,
    note_place,
    shade_all,
)
from valleylight.core.trace.nextevent.passage import PASSES
from valleylight.core.trace.nextevent.sunlit import ask_sunlit, choose_place, links
from valleylight.core.trace.sampling.dimensions import CHOICE, DIRECTION, FIXTURE, PLACES, SKY, SUN, SURFACE, of_step
from valleylight.core.trace.sampling.sobol import hash32
from valleylight.core.trace.scene.compiler import RenderScene

U32 = np.uint32
SEED = 0x51ED270B


@dataclass(frozen=True)
class Incident:
    """Illuminance by light group: RGB (N, G, 3) in lx at the film's own levels, and the names of the groups."""

    rgb_lx: NDArray[np.float64]
    group_names: tuple[str, ...]

    def lux(self, levels: Mapping[str, Level]) -> NDArray[np.float64]:
        """Illuminance in lx (N,) under levels of the groups (1 where not named)."""
        return self.rgb(levels) @ LUMINANCE

    def rgb(self, levels: Mapping[str, Level]) -> NDArray[np.float64]:
        """Illuminance as RGB (N, 3) in lx under levels of the groups."""
        weights = np.array([rgb_of(levels.get(name, 1.0)) for name in self.group_names]).reshape(-1, 3)
        return np.einsum("ngc,gc->nc", self.rgb_lx, weights)


@kernel
def _on_card(arrays, workbench, points, normals, card, first, last, samples):
    """Add the luminance of a white card at points first to last to the film (1, N, G, 3)."""
    scene, work = held(arrays), held(workbench)
    sun_on, sky_on = work.settings[layout.SUN_ON] > 0.0, work.settings[layout.SKY_ON] > 0.0
    zero = np.int64(0)
    for k in range(first, last):
        pixel = hash32(U32(k * 9781 + 17) ^ U32(SEED))
        px, py, pz = points[k, 0], points[k, 1], points[k, 2]
        nx, ny, nz = normals[k, 0], normals[k, 1], normals[k, 2]
        lift = lifted(work, px, py, pz)
        vertex = Vertex(px, py, pz, nx, ny, nz, nx, ny, nz, nx, ny, nz, lift)
        ox, oy, oz = px + nx * lift, py + ny * lift, pz + nz * lift
        here, white = (px, py, pz), Light(1.0, 1.0, 1.0)
        total = 0.0
        paint = paint_at(scene, zero + card, 0.0, 0.0, vertex, 1e9, work.settings[layout.GROUND], 0.0, samples > 0)
        solids = zero + PASSES
        begun, asked, walking = zero, zero, zero
        medium = medium_at(scene, work, ox, oy, oz) if scene.glass != 0 else zero - 1
        for index in range(samples):
            if begun == 0 and sky_on:  # paths that were followed have left the weights of their own places on the bench
                total = daylight.openings_total(scene.openings, work.weights, px, py, pz)
            begin_sample(work, begun, zero, k)
            start = asked
            if sun_on:
                a, b = of_step(index, pixel, zero, zero, SUN)
                asked = ask_sun(scene, work, asked, vertex, paint, a, b, white, solids, 0.0, 0.0)
            if sky_on:
                a, b = of_step(index, pixel, zero, zero, SKY)
                asked = ask_sky(scene, work, asked, here, vertex, paint, total, a, b, white)
            if sun_on and links(scene, total):
                a, b = of_step(index, pixel, zero, zero, PLACES)
                place = choose_place(scene, vertex, paint, a, b)
                asked = ask_sunlit(scene, work, asked, vertex, paint, place, white)
            if scene.lamps.shape[0] > 0:
                a, b = of_step(index, pixel, zero, zero, FIXTURE)
                asked = ask_fixture(scene, work, asked, here, vertex, paint, zero, zero - 1, a, b, white, solids)
            if scene.emitters.shape[0] > 0:
                a, b = of_step(index, pixel, zero, zero, SURFACE)
                asked = ask_surface(scene, work, asked, here, vertex, paint, a, b, white)
            choice, _ = of_step(index, pixel, zero, zero, CHOICE)
            a, b = of_step(index, pixel, zero, zero, DIRECTION)
            dx, dy, dz, _, drawn = draw(scene, vertex, paint, choice, a, b)
            ask_onwards(work, asked, dx, dy, dz, drawn)
            shade_all(scene, work, start, asked + 1, vertex, paint)
            note_place(work, start, asked, begun, 0.0, 0.0, px, py, pz, total)
            q, p = work.questions, work.paths
            density = q[asked, layout.ASK_DENSITY]
            if density > 0.0:
                begin_path(work, walking, begun, index, pixel, ox, oy, oz, dx, dy, dz)
                carry(
                    p,
                    walking,
                    q[asked, layout.ASK_LIGHT] / density,
                    q[asked, layout.ASK_LIGHT + 1] / density,
                    q[asked, layout.ASK_LIGHT + 2] / density,
                )
                scattered_at(p, walking, px, py, pz, density)
                p[walking, layout.BOUNCE], p[walking, layout.OPEN], p[walking, layout.MASK] = 1.0, total, rays.BY_BOUNCE
                p[walking, layout.SEEN], p[walking, layout.ROUGHENED], p[walking, layout.MIRRORED] = 1.0, 1.0, 0.0
                p[walking, layout.MEDIUM] = medium
                p[walking, layout.LINKED] = 1.0 if sun_on and links(scene, total) else 0.0
                walking += 1
            begun += 1
            if begun == layout.WAVE or index == samples - 1:
                answer(scene, work, zero, asked)
                follow_paths(scene, work, walking)
                begun, asked, walking = zero, zero, zero


def incident(
    scene: RenderScene, points: NDArray[np.float64], normals: NDArray[np.float64], samples: int = 64
) -> Incident:
    """Illuminance on points (N, 3) in metres that face along unit normals (N, 3), with `samples` paths for each."""
    count = len(points)
    film = np.zeros((1, count, len(scene.group_names), 3), np.float32)
    passes = np.zeros((1, count, columns.PASS_WIDTH), np.float32)
    ids = np.zeros((0, 0, 2, 1, 2), np.float32)
    settings = scene.settings.copy()
    settings[layout.CLAMP] = 0.0
    card, places = len(scene.materials) - 1, points - scene.origin
    threads = os.cpu_count() or 1
    bounds = np.linspace(0, count, min(8 * threads, count) + 1).astype(int)

    def some(low: int, high: int) -> None:
        work = rays.new_work(settings, scene.camera, film, passes, ids)
        _on_card(scene.arrays, work, places, normals, card, low, high, samples)

    with ThreadPoolExecutor(threads) as pool:
        for job in [pool.submit(some, int(a), int(b)) for a, b in zip(bounds, bounds[1:], strict=False)]:
            job.result()
    return Incident(np.pi * film[0].astype(np.float64) / samples, scene.group_names)
