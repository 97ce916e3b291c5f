"""Bricks, boards and tiles laid one by one: which unit of a layout a point lies in, and how far from its edge.

Bonds as the trade names them (common practice): stack, running (half), third, English, Flemish, random, herringbone, hexagon.
Coordinates are metres in the plane of the surface, a along the courses and b up. A unit is `length` by `height`, its joint lies about it.
"""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.trace.arrays.records import Unit
from valleylight.core.trace.sampling.sobol import hash32

U32 = np.uint32
BONDS = ("none", "stack", "running", "third", "english", "flemish", "random", "herringbone", "hexagon")
_ROOT_3 = math.sqrt(3.0)


@part
def chance(i, j, salt):
    """A number 0 to 1 that belongs to a unit's address."""
    h = hash32(U32(U32(i) * U32(0x8DA6B343) + U32(j) * U32(0xD8163841) + U32(salt) * U32(0xCB1AB31F)))
    return (h >> U32(8)) * (1.0 / 16777216.0)


@kernel
def shift_of(at):
    """Where in a picture a unit's own piece begins (u, v), 0 to 1: no two units show the same piece."""
    return chance(at.column, at.row, 3), chance(at.column, at.row, 5)


@part
def _inside(along, across, pitch, rise, joint):
    """Distance to the edge of a unit in the middle of a field of pitch by rise, below zero in the joint."""
    return min(min(along, pitch - along), min(across, rise - across)) - 0.5 * joint


@kernel
def unit_at(bond, a, b, length, height, joint):
    """The unit of a layout at (a, b): its address, the place from its middle along and across it, the distance to its edge (below zero
    in the joint), and whether it stands upright."""
    pitch, rise = length + joint, height + joint
    if bond == 8:
        return _hexagon(a, b, rise, joint)
    if bond == 7:
        return _herringbone(a, b, pitch, rise, joint)
    row = math.floor(b / rise)
    across = b - row * rise
    odd = row - 2.0 * math.floor(0.5 * row)
    if bond == 2:
        a -= 0.5 * pitch * odd
    elif bond == 3:
        a -= pitch / 3.0 * (row - 3.0 * math.floor(row / 3.0))
    elif bond == 4 and odd > 0.0:  # a course of headers
        a, pitch = a - 0.25 * pitch, 0.5 * pitch
    elif bond == 6:
        a -= pitch * chance(np.int64(row), np.int64(0), 17)
    elif bond == 5:  # stretcher and header by turns
        a -= 0.75 * pitch * odd
        pair = math.floor(a / (1.5 * pitch))
        along = a - pair * 1.5 * pitch
        if along >= pitch:
            along, pitch = along - pitch, 0.5 * pitch
            return Unit(
                np.int64(2 * pair + 1), np.int64(row), along - 0.5 * pitch, across - 0.5 * rise,
                _inside(along, across, pitch, rise, joint), 0.0,
            )  # fmt: skip
        return Unit(
            np.int64(2 * pair), np.int64(row), along - 0.5 * pitch, across - 0.5 * rise, _inside(along, across, pitch, rise, joint), 0.0,
        )  # fmt: skip
    column = math.floor(a / pitch)
    along = a - column * pitch
    return Unit(
        np.int64(column), np.int64(row), along - 0.5 * pitch, across - 0.5 * rise, _inside(along, across, pitch, rise, joint), 0.0,
    )  # fmt: skip


@kernel
def _herringbone(a, b, pitch, rise, joint):
    """Units so many squares long, lying and standing: the square (i, j) is number (i - j) mod 2 n of a lying and a standing one."""
    n = max(np.int64(2), np.int64(round(pitch / rise)))
    i, j = np.int64(math.floor(a / rise)), np.int64(math.floor(b / rise))
    k = (i - j) % (2 * n)
    if k < n:
        along, across, standing = a - (i - k) * rise, b - j * rise, 0.0
        i = i - k
    else:
        j -= 2 * n - 1 - k
        along, across, standing = b - j * rise, a - i * rise, 1.0
    return Unit(
        i, j, along - 0.5 * n * rise, across - 0.5 * rise, _inside(along, across, n * rise, rise, joint), standing,
    )  # fmt: skip


@kernel
def _hexagon(a, b, rise, joint):
    """Hexagons `rise` from flat to flat: the nearer of two rectangular grids of middles."""
    wide = _ROOT_3 * rise
    i0, j0 = math.floor(a / wide + 0.5), math.floor(b / rise + 0.5)
    i1, j1 = math.floor(a / wide), math.floor(b / rise)
    x0, y0 = a - i0 * wide, b - j0 * rise
    x1, y1 = a - (i1 + 0.5) * wide, b - (j1 + 0.5) * rise
    i, j, x, y = np.int64(2 * i0), np.int64(2 * j0), x0, y0
    if x1 * x1 + y1 * y1 < x0 * x0 + y0 * y0:
        i, j, x, y = np.int64(2 * i1 + 1), np.int64(2 * j1 + 1), x1, y1
    flat = max(abs(y), 0.5 * abs(y) + 0.5 * _ROOT_3 * abs(x))
    return Unit(i, j, x, y, 0.5 * rise - flat - 0.5 * joint, 0.0)
