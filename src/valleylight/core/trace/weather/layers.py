"""Where snow and rain come to lie: at every node of a grid in plan, the surfaces that look up, and how open each is.

Rays go straight down through all that stands; from each surface met that looks up, rays go back within the cone that the
weather falls from. What share gets through is its openness: one on an open field, less under a tree or at a wall, none
under a roof. Leaves shelter, but nothing lies on them here.
"""

from __future__ import annotations

import math
import os
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from valleylight.core.jit.compiled import kernel
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.scene import SceneArrays
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.intersect.vertex import record_of
from valleylight.core.trace.nextevent.passage import may_let_by, normal_of
from valleylight.core.trace.sampling.sobol import basis, hash32

U32, I64, F64 = np.uint32, np.int64, np.float64
#: Surfaces kept at a node: the highest and the lowest of those that are open at all.
LAYERS = 4
#: So many things one above the other are looked through.
MOST_MET = 96
#: What is steeper holds nothing: cosine of 70 degrees.
STEEPEST = 0.34
#: So far beside an upright edge, in cells, the surface is asked instead.
ASIDE = 0.2
#: Height of a node's surface where there is none.
NONE = -1.0e9
#: So many kinds of leaves are told apart where they have fallen.
KINDS = 6
NO_LEAVES = np.zeros(0, np.int64)


class Grid(NamedTuple):
    """Where the nodes stand: the first of them and the distance between, in metres about the stage's origin, and nodes along a side."""

    x: float
    y: float
    cell_m: float
    nodes: int

    def covers(self, x: float, y: float) -> bool:
        far = self.cell_m * (self.nodes - 1)
        return self.x <= x <= self.x + far and self.y <= y <= self.y + far


class Layers(NamedTuple):
    """Surfaces at nodes, each (N, N, LAYERS): height in m (NONE for none), unit normal (.., 3), roughness, openness 0 to 1 to what
    falls, the share of the sun's rays of the day that reach them, by the cosine; and leaves that stand over them, by their kind (..,
    KINDS)."""

    z: NDArray[np.float64]
    normal: NDArray[np.float64]
    rough: NDArray[np.float64]
    open: NDArray[np.float64]
    sunned: NDArray[np.float64]
    leaves: NDArray[np.float32]


@kernel
def _openness(scene, work, x, y, z, off, axis, cosine, number, seed):
    """Share of `number` directions within the cone about `axis` that are free from a place."""
    ax, ay, az = axis[0], axis[1], axis[2]
    t1x, t1y, t1z, t2x, t2y, t2z = basis(ax, ay, az)
    turn = (hash32(U32(seed)) >> U32(8)) / 16777216.0
    free = 0
    for k in range(number):
        c = 1.0 - (1.0 - cosine) * (k + 0.5) / number
        s = math.sqrt(max(1.0 - c * c, 0.0))
        p = 6.283185307179586 * (turn + 0.6180339887498949 * k)
        u, v = s * math.cos(p), s * math.sin(p)
        dx, dy, dz = u * t1x + v * t2x + c * ax, u * t1y + v * t2y + c * ay, u * t1z + v * t2z + c * az
        if dz <= 0.01:
            continue
        if not rays.blocked(
            scene.handle, work.shadow, work.shadow_word, x, y, z + off, dx, dy, dz, 1e5, rays.OPAQUE | rays.PASSES
        ):
            free += 1
    return free / number


@kernel
def _met(scene, work):
    """The triangle record under the hit in the buffer, and its unit normal."""
    geometry, k = record_of(work.word, scene.geometry_first)
    gx, gy, gz = normal_of(scene, k, scene.geometry_transform[geometry])
    s = 1.0 / math.sqrt(gx * gx + gy * gy + gz * gz + 1e-30)
    return I64(k), F64(gx * s), F64(gy * s), F64(gz * s)


@kernel
def _find(
    scene, work, z, normal, rough, open_to, sunned, leaves, at, axis, cosine, suns, tries, kind_of, over, first, last
):
    """Fill rows `first` to `last` of the tables of a grid at = (x, y, cell, top); `over` (KINDS,) is room to count in."""
    nodes = z.shape[1]
    cell, top = at[2], at[3]
    # Leaves that let light by are counted for those that fall alone.
    mask = rays.OPAQUE | rays.PASSES if kind_of.shape[0] > 0 else rays.OPAQUE
    for j in range(first, last):
        for i in range(nodes):
            x, y, height = at[0] + i * cell, at[1] + j * cell, top
            held = 0
            for c in range(KINDS):
                over[c] = 0.0
            for _ in range(MOST_MET):
                if not rays.closest(scene.handle, work.ray, work.word, x, y, height, 0.0, 0.0, -1.0, 1e6, mask):
                    break
                before = height
                height -= F64(work.ray[rays.FAR])
                k, gx, gy, gz = _met(scene, work)
                # At the upright edge of a slate or board, what lies beside it counts.
                if abs(gz) < STEEPEST and rays.closest(
                    scene.handle, work.ray, work.word, x + ASIDE * cell, y + 0.7 * ASIDE * cell, before, 0.0, 0.0, -1.0, 1e6, rays.OPAQUE
                ):  # fmt: skip
                    there = before - F64(work.ray[rays.FAR])
                    if abs(there - height) < cell:
                        height = there
                        k, gx, gy, gz = _met(scene, work)
                off = 1e-4 + 2e-6 * max(max(abs(x), abs(y)), abs(height))
                m = int(scene.triangles[k, layout.TRIANGLE_MATERIAL])
                here, t = height, scene.materials
                height -= off
                if m < kind_of.shape[0] and kind_of[m] >= 0:
                    over[kind_of[m]] += 1.0
                leafy = t[m, layout.THROUGH] > 0.0 or may_let_by(scene, m)
                if abs(gz) < STEEPEST or leafy or t[m, layout.KIND] != layout.SURFACE:
                    continue
                if gz < 0.0:  # the lower side of a thing, unless the model has its faces turned about
                    gx, gy, gz = -gx, -gy, -gz
                    if rays.blocked(
                        scene.handle, work.shadow, work.shadow_word, x, y, here + off, 0.0, 0.0, 1.0, 0.6, rays.OPAQUE
                    ):
                        continue
                share = _openness(
                    scene, work, x, y, here, 4.0 * off, axis, cosine, tries, U32(j * 7919 + i * 31 + held)
                )
                if share <= 0.0 and held > 0:
                    continue
                if held == LAYERS:  # the highest stays, and the lowest
                    for level in range(1, LAYERS - 1):
                        z[j, i, level], rough[j, i, level], open_to[j, i, level], sunned[j, i, level] = (
                            z[j, i, level + 1],
                            rough[j, i, level + 1],
                            open_to[j, i, level + 1],
                            sunned[j, i, level + 1],
                        )
                        for c in range(3):
                            normal[j, i, level, c] = normal[j, i, level + 1, c]
                        for c in range(KINDS):
                            leaves[j, i, level, c] = leaves[j, i, level + 1, c]
                    held -= 1
                z[j, i, held], open_to[j, i, held], rough[j, i, held] = here, share, F64(t[m, layout.ROUGH])
                for c in range(KINDS):
                    leaves[j, i, held, c] = over[c]
                    over[c] = 0.0  # what lies here falls no further
                normal[j, i, held, 0], normal[j, i, held, 1], normal[j, i, held, 2] = gx, gy, gz
                sun = 0.0
                for k in range(suns.shape[0]):
                    facing = gx * suns[k, 0] + gy * suns[k, 1] + gz * suns[k, 2]
                    if facing > 0.0 and not rays.blocked(
                        scene.handle, work.shadow, work.shadow_word, x, y, here + 4.0 * off, suns[k, 0], suns[k, 1], suns[k, 2], 1e5,
                        rays.OPAQUE | rays.PASSES,
                    ):  # fmt: skip
                        sun += facing / suns.shape[0]
                sunned[j, i, held] = sun
                held += 1


def find_layers(
    scene: SceneArrays, settings: NDArray[np.float64], grid: Grid, top_m: float, axis: NDArray[np.float64], cone_deg: float,
    tries: int, suns: NDArray[np.float64], kind_of: NDArray[np.int64] = NO_LEAVES,
) -> Layers:  # fmt: skip
    """The layers of a stage at the nodes of a grid. `axis` (3,) points to where it falls from; `suns` (S, 3) towards the sun at
    hours of the day; `kind_of` (M,) says which of KINDS kinds of leaf a material is, -1 for none; all about the stage's origin, rays from `top_m` down."""
    n = grid.nodes
    made = Layers(
        np.full((n, n, LAYERS), NONE), np.zeros((n, n, LAYERS, 3)), np.ones((n, n, LAYERS)), np.zeros((n, n, LAYERS)),
        np.zeros((n, n, LAYERS)), np.zeros((n, n, LAYERS, KINDS), np.float32),
    )  # fmt: skip
    at = np.array([grid.x, grid.y, grid.cell_m, top_m])
    cosine = math.cos(math.radians(cone_deg))

    def rows(first: int) -> None:
        _find(
            scene, rays.new_work(settings), *made, at, axis, cosine, np.ascontiguousarray(suns).reshape(-1, 3), tries, kind_of,
            np.zeros(KINDS), first, min(first + 16, n),
        )  # fmt: skip

    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        list(pool.map(rows, range(0, n, 16)))
    return made


@kernel
def _link(z, normal, cell, right, left, onward, back):
    nodes = z.shape[0]
    for j in range(nodes):
        for i in range(nodes):
            for level in range(LAYERS):
                if z[j, i, level] <= NONE:
                    continue
                for side in range(2):
                    v, u = (j, i + 1) if side == 0 else (j + 1, i)
                    if v >= nodes or u >= nodes:
                        continue
                    there = z[j, i, level] - cell * normal[j, i, level, side] / normal[j, i, level, 2]
                    best, which = 1e9, I64(-1)
                    for q in range(LAYERS):
                        if z[v, u, q] <= NONE:
                            continue
                        here = z[v, u, q] + cell * normal[v, u, q, side] / normal[v, u, q, 2]
                        apart = min(abs(z[v, u, q] - there), abs(here - z[j, i, level]))
                        if apart < best:
                            best, which = apart, I64(q)
                    if which >= 0 and best <= 0.03 + 0.4 * cell:
                        if side == 0 and left[v, u, which] < 0:
                            right[j, i, level], left[v, u, which] = which, level
                        elif side == 1 and back[v, u, which] < 0:
                            onward[j, i, level], back[v, u, which] = which, level


class Links(NamedTuple):
    """For each surface the number of the one it goes on in at the next node, -1 where it ends; each (N, N, LAYERS) int8."""

    right: NDArray[np.int8]
    left: NDArray[np.int8]
    onward: NDArray[np.int8]
    back: NDArray[np.int8]


def links_of(layers: Layers, cell_m: float) -> Links:
    """Which surfaces of neighbouring nodes are one: those whose planes meet within a few centimetres."""
    links = Links(*(np.full(layers.z.shape, -1, np.int8) for _ in range(4)))
    _link(layers.z, layers.normal, cell_m, *links)
    return links


@kernel
def _evened(value, out, right, left, onward, back):
    nodes = value.shape[0]
    for j in range(nodes):
        for i in range(nodes):
            for level in range(LAYERS):
                total, count = 2.0 * value[j, i, level], 2.0
                if right[j, i, level] >= 0:
                    total, count = total + value[j, i + 1, right[j, i, level]], count + 1.0
                if left[j, i, level] >= 0:
                    total, count = total + value[j, i - 1, left[j, i, level]], count + 1.0
                if onward[j, i, level] >= 0:
                    total, count = total + value[j + 1, i, onward[j, i, level]], count + 1.0
                if back[j, i, level] >= 0:
                    total, count = total + value[j - 1, i, back[j, i, level]], count + 1.0
                out[j, i, level] = total / count


def evened(value: NDArray[np.float64], links: Links, times: int) -> NDArray[np.float64]:
    """A quantity of the layers, each place the mean of itself and of those it goes on in, so many times over."""
    for _ in range(times):
        out = np.empty_like(value)
        _evened(value, out, *links)
        value = out
    return value
