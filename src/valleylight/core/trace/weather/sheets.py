"""Snow as a body: its upper side a sheet over each surface, drawn along the true edges and rounded down to them.

A sheet is laid over the cells of a grid whose nodes hold the surface (marching squares); where it ends between two nodes,
the end is found by halving with rays, so that eaves and sills keep their line.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.stage.model import Mesh
from valleylight.core.trace.arrays.scene import SceneArrays
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.weather.layers import LAYERS, NONE, Grid, Layers, Links, evened

I64, F32 = np.int64, np.float32
HALVINGS = 6
#: The sheet sinks this far below what it is told, so that it ends where it is thin.
SUNK_M = 0.004
#: Height of the rim over that of the sheet, and how far it leans out, in depths of snow.
RIM, LEANS = 0.6, 0.12


@part
def _next(side):
    """Step in columns and rows to the right, left, onward, back."""
    if side == 0:
        return 1, 0
    if side == 1:
        return -1, 0
    return (0, 1) if side == 2 else (0, -1)


@kernel
def _ends(scene, work, z, normal, number, linked, at, ends):
    """How far each surface that ends goes on towards the next node: metres along each of four sides, -1 where it does not end."""
    nodes, cell = z.shape[0], at[2]
    for j in range(nodes):
        for i in range(nodes):
            for level in range(LAYERS):
                if number[j, i, level] < 0:
                    continue
                for side in range(4):
                    if linked[side, j, i, level] >= 0:
                        continue
                    dx, dy = _next(side)
                    x, y, low, high = at[0] + i * cell, at[1] + j * cell, 0.0, cell
                    slope = (normal[j, i, level, 0] * dx + normal[j, i, level, 1] * dy) / normal[j, i, level, 2]
                    if i + dx < 0 or j + dy < 0 or i + dx >= nodes or j + dy >= nodes:
                        high = 0.0
                    for _ in range(HALVINGS):
                        middle = 0.5 * (low + high)
                        there = z[j, i, level] - slope * middle
                        if rays.closest(
                            scene.handle, work.ray, work.word, x + dx * middle, y + dy * middle, there + 0.05 + 0.3 * cell, 0.0, 0.0,
                            -1.0, 0.1 + 0.6 * cell, rays.OPAQUE,
                        ):  # fmt: skip
                            low = middle
                        else:
                            high = middle
                    ends[j, i, level, side] = low


@kernel
def _distance(linked, number, far):
    """Cells from each surface to where it ends, up to four."""
    nodes = number.shape[0]
    for _ in range(4):
        for j in range(nodes):
            for i in range(nodes):
                for level in range(LAYERS):
                    if number[j, i, level] < 0:
                        continue
                    least = far[j, i, level]
                    for side in range(4):
                        dx, dy = _next(side)
                        q = linked[side, j, i, level]
                        if q < 0 or number[j + dy, i + dx, q] < 0:
                            least = min(least, 0.5)
                        else:
                            least = min(least, far[j + dy, i + dx, q] + 1.0)
                    far[j, i, level] = least


@kernel
def _lay(number, linked, top, ends, z, normal, depth, at, points, normals, triangles, rim, leaves):
    """Write points, normals and triangles of all sheets; returns how many points and triangles. `rim`, `leaves` (12,) are room to
    work: the corners and ends about a cell in turn, and which of them leave it."""
    nodes, cell = number.shape[0], at[2]
    used, made = I64(0), I64(0)
    for j in range(nodes):
        for i in range(nodes):
            for level in range(LAYERS):
                if number[j, i, level] < 0:
                    continue
                number[j, i, level] = used
                points[used, 0], points[used, 1], points[used, 2] = at[0] + i * cell, at[1] + j * cell, top[j, i, level]
                east, north = 0.0, 0.0
                for side in range(4):
                    dx, dy = _next(side)
                    q = linked[side, j, i, level]
                    rise = -(normal[j, i, level, 0] * dx + normal[j, i, level, 1] * dy) / normal[j, i, level, 2] * cell
                    if q >= 0 and number[j + dy, i + dx, q] >= 0:
                        rise = top[j + dy, i + dx, q] - top[j, i, level]
                    east += 0.5 * dx * rise / cell
                    north += 0.5 * dy * rise / cell
                s = 1.0 / math.sqrt(1.0 + east * east + north * north)
                normals[used, 0], normals[used, 1], normals[used, 2] = -east * s, -north * s, s
                used += 1
    for j in range(nodes - 1):
        for i in range(nodes - 1):
            for start in range(4):
                for first in range(LAYERS):
                    # The corners of a cell in turn: here, to the right, across, onward.
                    own = _group(number, linked, j, i, start, first)
                    if own[4] != start:
                        continue
                    count, held = 0, I64(0)
                    for corner in range(4):
                        held += own[corner] >= 0
                    if held == 4:
                        a, b, c, d = (
                            number[j, i, own[0]],
                            number[j, i + 1, own[1]],
                            number[j + 1, i + 1, own[2]],
                            number[j + 1, i, own[3]],
                        )
                        triangles[made, 0], triangles[made, 1], triangles[made, 2] = a, b, c
                        triangles[made + 1, 0], triangles[made + 1, 1], triangles[made + 1, 2] = a, c, d
                        made += 2
                        continue
                    for corner in range(4):
                        if own[corner] < 0:
                            continue
                        level, v, u = own[corner], j + (corner >= 2), i + (corner == 1 or corner == 2)
                        for turn in range(3):  # the end before it, the corner itself, the end after it
                            if turn == 1:
                                rim[count], leaves[count], count = number[v, u, level], False, count + 1
                                continue
                            other = (corner + 3 + turn) % 4
                            if own[other] >= 0:
                                continue
                            side = _side(corner, other)
                            dx, dy = _next(side)
                            way, d = max(ends[v, u, level, side], 0.0), depth[v, u, level]
                            slope = (normal[v, u, level, 0] * dx + normal[v, u, level, 1] * dy) / normal[v, u, level, 2]
                            x, y = at[0] + u * cell + dx * way, at[1] + v * cell + dy * way
                            low = z[v, u, level] - slope * way - SUNK_M
                            points[used, 0], points[used, 1], points[used, 2] = (
                                x + dx * LEANS * d,
                                y + dy * LEANS * d,
                                low + RIM * d,
                            )
                            normals[used, 0], normals[used, 1], normals[used, 2] = 0.75 * dx, 0.75 * dy, 0.66
                            points[used + 1, 0], points[used + 1, 1], points[used + 1, 2] = x, y, low
                            normals[used + 1, 0], normals[used + 1, 1], normals[used + 1, 2] = dx, dy, 0.0
                            rim[count], leaves[count], count, used = used, turn == 2, count + 1, used + 2
                    for k in range(1, count - 1):
                        triangles[made, 0], triangles[made, 1], triangles[made, 2] = rim[0], rim[k], rim[k + 1]
                        made += 1
                    for k in range(count):
                        if leaves[k]:  # down from the rim, as far as the next end
                            a, b = rim[k], rim[(k + 1) % count]
                            triangles[made, 0], triangles[made, 1], triangles[made, 2] = a, a + 1, b + 1
                            triangles[made + 1, 0], triangles[made + 1, 1], triangles[made + 1, 2] = a, b + 1, b
                            made += 2
    return used, made


@part
def _side(corner, other):
    """The side by which a cell's corner leads to another."""
    if corner == 0:
        return 0 if other == 1 else 2
    if corner == 1:
        return 1 if other == 0 else 2
    if corner == 2:
        return 1 if other == 3 else 3
    return 0 if other == 2 else 3


@kernel
def _group(number, linked, j, i, start, first):
    """The surfaces at a cell's four corners that are one with `first` at corner `start`, and the lowest corner that has one; -1s where
    there is none."""
    a, b, c, d = I64(-1), I64(-1), I64(-1), I64(-1)
    v, u = j + (start >= 2), i + (start == 1 or start == 2)
    if number[v, u, first] < 0:
        return a, b, c, d, I64(-1)
    if start == 0:
        a = I64(first)
    elif start == 1:
        b = I64(first)
    elif start == 2:
        c = I64(first)
    else:
        d = I64(first)
    for _ in range(2):
        if a >= 0 and b < 0:
            b = _held(number, linked[0, j, i, a], j, i + 1)
        if b >= 0 and c < 0:
            c = _held(number, linked[2, j, i + 1, b], j + 1, i + 1)
        if c >= 0 and d < 0:
            d = _held(number, linked[1, j + 1, i + 1, c], j + 1, i)
        if d >= 0 and a < 0:
            a = _held(number, linked[3, j + 1, i, d], j, i)
        if a >= 0 and d < 0:
            d = _held(number, linked[2, j, i, a], j + 1, i)
        if d >= 0 and c < 0:
            c = _held(number, linked[0, j + 1, i, d], j + 1, i + 1)
        if c >= 0 and b < 0:
            b = _held(number, linked[3, j + 1, i + 1, c], j, i + 1)
        if b >= 0 and a < 0:
            a = _held(number, linked[1, j, i + 1, b], j, i)
    lowest = I64(0) if a >= 0 else (I64(1) if b >= 0 else (I64(2) if c >= 0 else I64(3)))
    return a, b, c, d, lowest


@part
def _held(number, layer, v, u):
    return I64(layer) if layer >= 0 and number[v, u, layer] >= 0 else I64(-1)


class Sheet(NamedTuple):
    """Snow as a mesh about the stage's origin, and the height of its upper side over the layers (N, N, LAYERS) in m."""

    mesh: Mesh
    top: NDArray[np.float64]


def snow_sheets(
    scene: SceneArrays, settings: NDArray[np.float64], grid: Grid, layers: Layers, links: Links, depth_m: NDArray[np.float64],
    material: int, least_m: float = 0.006,
) -> Sheet:  # fmt: skip
    """The body of snow of some depth (N, N, LAYERS) over the layers of a grid; what is thinner than `least_m` is left to the colour
    of the surface."""
    linked = np.stack([links.right, links.left, links.onward, links.back])
    at = np.array([grid.x, grid.y, grid.cell_m])
    held = (layers.z > NONE) & (evened(depth_m, links, 1) > least_m)
    number = np.where(held & ((linked >= 0).sum(0) >= 2), 0, -1).astype(np.int64)
    far = np.full(number.shape, 4.0)
    _distance(linked, number, far)
    round_cells = np.maximum(0.8 * depth_m / grid.cell_m, 1.0)
    inward = np.clip(far / round_cells, 0, 1)
    profile = RIM + (1 - RIM) * np.sqrt(np.maximum(1 - (1 - inward) ** 2, 0.0))
    bed = np.where(layers.z > NONE, layers.z, 0.0)
    # Snow bridges what is finer than it is deep: its upper side is the evened ground's.
    softness = depth_m / (depth_m + 0.03)
    soft = evened(bed, links, 4)
    top = np.maximum((1 - softness) * bed + softness * soft, bed - 0.5 * depth_m) + depth_m * profile - SUNK_M
    ends = np.full((*number.shape, 4), -1.0)
    _ends(scene, rays.new_work(settings), layers.z, layers.normal, number, linked, at, ends)
    most = int((number >= 0).sum())
    points, normals = np.empty((most * 18 + 16, 3)), np.empty((most * 18 + 16, 3))
    triangles = np.empty((most * 24 + 16, 3), np.int64)
    room = (np.empty(12, np.int64), np.empty(12, np.bool_))
    used, made = _lay(
        number, linked, top, ends, layers.z, layers.normal, depth_m, at, points, normals, triangles, *room
    )
    mesh = Mesh(
        points[:used].astype(F32), normals[:used].astype(F32), points[:used, :2].astype(F32),
        triangles[:made].astype(np.uint32), np.full(made, material, np.int32),
    )  # fmt: skip
    return Sheet(mesh, top)
