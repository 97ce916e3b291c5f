"""Sampling of fixtures with a candela distribution, and of emitting triangles.

A fixture gives E = I(C, gamma) cos(theta) / d^2 (inverse-square cosine law). Which fixture a point asks is drawn from
the cell of a coarse grid: each cell holds the cumulated share of every fixture by the greatest intensity it sends
towards the cell over the squared distance, so that hundreds of fixtures cost a binary search. Fixtures weigh each by itself:
one that moves changes its own column and no other.
"""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.jit.fast import arccos, sincos_turns, turns_of
from valleylight.core.lamps import record
from valleylight.core.lamps.record import (
    C_STEPS,
    GAMMA_STEPS,
    MESH,
    POINT,
    RECTANGLE,
    SPHERE,
)
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.sampling.sobol import basis, disk, search_row

F64 = np.float64
#: How far a point of an emitting mesh stands off its surface.
OFF_MESH_M = 0.002
#: Within so little of a point source its illuminance grows no further, in metres: it would be endless at the source.
NEAREST_M = 1e-5
#: How far from a fixture its beam is still looked for in clear air.
BEAM_REACH_M = 60.0


@kernel
def intensity(lamps, profiles, k, dx, dy, dz):
    """Candela of fixture k, before its colour and level, along the unit direction d away from it."""
    up = dx * lamps[k, record.AXIS_Z] + dy * lamps[k, record.AXIS_Z + 1] + dz * lamps[k, record.AXIS_Z + 2]
    gamma = arccos(min(max(-up, -1.0), 1.0)) * (GAMMA_STEPS / math.pi)
    j = min(int(gamma), GAMMA_STEPS - 1)
    t = gamma - j
    p = int(lamps[k, record.PROFILE])
    x = dx * lamps[k, record.AXIS_X] + dy * lamps[k, record.AXIS_X + 1] + dz * lamps[k, record.AXIS_X + 2]
    y = dx * lamps[k, record.AXIS_Y] + dy * lamps[k, record.AXIS_Y + 1] + dz * lamps[k, record.AXIS_Y + 2]
    c = turns_of(y, x) * C_STEPS
    i = min(int(c), C_STEPS - 1)
    s = c - i
    return (1 - s) * ((1 - t) * profiles[p, i, j] + t * profiles[p, i, j + 1]) + s * (
        (1 - t) * profiles[p, i + 1, j] + t * profiles[p, i + 1, j + 1]
    )


@kernel
def point_on_lamp(lamps, points, k, px, py, pz, u, v):
    """A point of fixture k's luminous shape, as seen from p; `points` (M, 6) are points and normals of emitting meshes."""
    x, y, z = lamps[k, record.PLACE], lamps[k, record.PLACE + 1], lamps[k, record.PLACE + 2]
    shape = int(lamps[k, record.SHAPE])
    if shape == POINT:
        return x, y, z
    if shape == MESH:  # SIZE_U is its first point, SIZE_V their number; one that looks away stands for its opposite
        i = int(lamps[k, record.SIZE_U]) + min(int(u * lamps[k, record.SIZE_V]), int(lamps[k, record.SIZE_V]) - 1)
        mx, my, mz = points[i, layout.LAMP_POINT], points[i, layout.LAMP_POINT + 1], points[i, layout.LAMP_POINT + 2]
        nx, ny, nz = (
            OFF_MESH_M * points[i, layout.LAMP_NORMAL],
            OFF_MESH_M * points[i, layout.LAMP_NORMAL + 1],
            OFF_MESH_M * points[i, layout.LAMP_NORMAL + 2],
        )
        if nx * (px - mx) + ny * (py - my) + nz * (pz - mz) < 0.0:
            return 2.0 * x - mx - nx, 2.0 * y - my - ny, 2.0 * z - mz - nz
        return mx + nx, my + ny, mz + nz
    if shape == RECTANGLE:
        a, b = (2 * u - 1) * lamps[k, record.SIZE_U], (2 * v - 1) * lamps[k, record.SIZE_V]
    else:
        a, b = disk(u, v)
        a, b = a * lamps[k, record.SIZE_U], b * lamps[k, record.SIZE_U]
    if shape == SPHERE:
        # A disc that faces p stands for the sphere: same softness, no waste on the far half.
        dx, dy, dz = px - x, py - y, pz - z
        s = 1.0 / math.sqrt(dx * dx + dy * dy + dz * dz + 1e-12)
        dx, dy, dz = dx * s, dy * s, dz * s
        sign = math.copysign(1.0, dz)
        m = -1.0 / (sign + dz)
        n = dx * dy * m
        return (
            x + a * (1.0 + sign * dx * dx * m) + b * n,
            y + a * sign * n + b * (sign + dy * dy * m),
            z - a * sign * dx - b * dy,
        )
    return (
        x + a * lamps[k, record.AXIS_X] + b * lamps[k, record.AXIS_Y],
        y + a * lamps[k, record.AXIS_X + 1] + b * lamps[k, record.AXIS_Y + 1],
        z + a * lamps[k, record.AXIS_X + 2] + b * lamps[k, record.AXIS_Y + 2],
    )


@kernel
def towards_ball(lamps, k, px, py, pz, u, v):
    """A direction from p to a luminous sphere, even over the solid angle that it fills; the distance to its surface; and what
    intensity is multiplied with for illuminance across the direction, Omega / (pi R^2), as the luminance of a sphere is I / (pi R^2).

    From within, all directions are even (P. Shirley, C. Wang, K. Zimmerman, Monte Carlo Techniques for Direct Lighting
    Calculations, 1996, section 3.2.2).
    """
    x, y, z, radius = (
        F64(lamps[k, record.PLACE]) - px,
        F64(lamps[k, record.PLACE + 1]) - py,
        F64(lamps[k, record.PLACE + 2]) - pz,
        F64(lamps[k, record.SIZE_U]),
    )
    d2 = max(x * x + y * y + z * z, 1e-20)
    d = math.sqrt(d2)
    s2 = radius * radius / d2
    away = 2.0 if s2 >= 1.0 else s2 / (1.0 + math.sqrt(1.0 - s2))  # 1 - cos of the half angle
    back = away * u
    sine = math.sqrt(max(back * (2.0 - back), 0.0))
    a, b = sincos_turns(v)
    t1x, t1y, t1z, t2x, t2y, t2z = basis(x / d, y / d, z / d)
    p, q, w = sine * b, sine * a, 1.0 - back
    lx, ly, lz = p * t1x + q * t2x + w * x / d, p * t1y + q * t2y + w * y / d, p * t1z + q * t2z + w * z / d
    along = d * w
    half = math.sqrt(max(radius * radius - d2 * sine * sine, 0.0))
    return lx, ly, lz, along + half if s2 >= 1.0 else along - half, 2.0 * away / (radius * radius)


@kernel
def grid_cell(box, counts, px, py, pz):
    """Index of the grid cell that holds p, or the nearest one."""
    cell = 0
    for axis, value in ((0, px), (1, py), (2, pz)):
        n = counts[axis]
        k = int(math.floor((value - box[axis]) * box[axis + 3]))
        cell = cell * n + min(max(k, 0), n - 1)
    return cell


@kernel
def choose_lamp(cdf, cell, u):
    """Fixture drawn in a grid cell, and its probability."""
    k = search_row(cdf, cell, cdf.shape[1] - 1, u)
    return k, cdf[cell, k + 1] - cdf[cell, k]


@kernel
def weigh_cells(lamps, profiles, box, counts, which, weights, first, last):
    """Fill what fixtures `which` weigh in cells first to last, in `weights` (cells, fixtures)."""
    sx, sy, sz = 1.0 / box[layout.GRID_PER_M], 1.0 / box[layout.GRID_PER_M + 1], 1.0 / box[layout.GRID_PER_M + 2]
    reach = 0.25 * (sx * sx + sy * sy + sz * sz)
    for cell in range(first, last):
        cz = cell % counts[2]
        cy = cell // counts[2] % counts[1]
        cx = cell // (counts[2] * counts[1])
        mx, my, mz = (
            box[layout.GRID_LOW] + (cx + 0.5) * sx,
            box[layout.GRID_LOW + 1] + (cy + 0.5) * sy,
            box[layout.GRID_LOW + 2] + (cz + 0.5) * sz,
        )
        for k in which:
            x, y, z = mx - lamps[k, record.PLACE], my - lamps[k, record.PLACE + 1], mz - lamps[k, record.PLACE + 2]
            d2 = max(x * x + y * y + z * z, reach)
            greatest = 0.0
            for corner in range(9):
                ux, uy, uz = x, y, z
                if corner < 8:
                    ux += sx * ((corner & 1) - 0.5)
                    uy += sy * ((corner >> 1 & 1) - 0.5)
                    uz += sz * ((corner >> 2 & 1) - 0.5)
                s = 1.0 / math.sqrt(ux * ux + uy * uy + uz * uz + 1e-12)
                greatest = max(greatest, intensity(lamps, profiles, k, ux * s, uy * s, uz * s))
            mean = lamps[k, record.MEAN]
            colour = lamps[k, record.COLOUR] + lamps[k, record.COLOUR + 1] + lamps[k, record.COLOUR + 2]
            weights[cell, k] = colour * (greatest + 0.05 * mean) / d2


@part
def within_triangle(u, v):
    """Shares of the second and third corner of a place uniform in a triangle (J. Arvo, 1995: square-root map)."""
    r = math.sqrt(u)
    return 1.0 - r, v * r


@kernel
def triangle_point(emitters, k, u, v):
    """A point uniform on emitting triangle k."""
    a, b = within_triangle(u, v)
    return (
        emitters[k, layout.EMITTER_CORNER]
        + a * emitters[k, layout.EMITTER_EDGE_1]
        + b * emitters[k, layout.EMITTER_EDGE_2],
        emitters[k, layout.EMITTER_CORNER + 1]
        + a * emitters[k, layout.EMITTER_EDGE_1 + 1]
        + b * emitters[k, layout.EMITTER_EDGE_2 + 1],
        emitters[k, layout.EMITTER_CORNER + 2]
        + a * emitters[k, layout.EMITTER_EDGE_1 + 2]
        + b * emitters[k, layout.EMITTER_EDGE_2 + 2],
    )


NO_EMITTERS = np.zeros((0, layout.EMITTER_WIDTH), np.float32)
