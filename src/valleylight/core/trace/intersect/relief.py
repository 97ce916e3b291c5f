"""Normals tilted by relief: pictures, layouts of units, patterns taken as heights."""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.layout import BOND, BUMP, LAID, PATTERN, PATTERN_SIZE, RELIEF, RELIEF_TEXTURE
from valleylight.core.trace.textures import laying
from valleylight.core.trace.textures.courses import shift_of, unit_at
from valleylight.core.trace.textures.lookup import lookup
from valleylight.core.trace.textures.pattern import value

F64 = np.float64


@part
def unit(x, y, z):
    """The vector at length 1."""
    s = 1.0 / math.sqrt(x * x + y * y + z * z + 1e-30)
    return x * s, y * s, z * s


@kernel
def relief_normal(scene, k, m, u, v, nx, ny, nz):
    """Shading normal tilted by the material's relief, laid by its own uv (glTF 2.0, section 3.9.3)."""
    t = scene.triangles
    e1u, e1v, e2u, e2v = (
        t[k, layout.TRIANGLE_UV + 2] - t[k, layout.TRIANGLE_UV],
        t[k, layout.TRIANGLE_UV + 3] - t[k, layout.TRIANGLE_UV + 1],
        t[k, layout.TRIANGLE_UV + 4] - t[k, layout.TRIANGLE_UV],
        t[k, layout.TRIANGLE_UV + 5] - t[k, layout.TRIANGLE_UV + 1],
    )
    det = e1u * e2v - e2u * e1v
    if abs(det) < 1e-14:
        return nx, ny, nz
    inv = 1.0 / det
    tx = (t[k, layout.TRIANGLE_EDGE_1] * e2v - t[k, layout.TRIANGLE_EDGE_2] * e1v) * inv
    ty = (t[k, layout.TRIANGLE_EDGE_1 + 1] * e2v - t[k, layout.TRIANGLE_EDGE_2 + 1] * e1v) * inv
    tz = (t[k, layout.TRIANGLE_EDGE_1 + 2] * e2v - t[k, layout.TRIANGLE_EDGE_2 + 2] * e1v) * inv
    d = tx * nx + ty * ny + tz * nz
    tx, ty, tz = unit(tx - d * nx, ty - d * ny, tz - d * nz)
    # glTF: v runs downwards in the picture, and green points up it.
    side = 1.0 if inv < 0.0 else -1.0
    bx, by, bz = side * (ny * tz - nz * ty), side * (nz * tx - nx * tz), side * (nx * ty - ny * tx)
    a, c, e = tilt(scene, m, u, v)
    w = scene.materials
    if w[m, LAID] > 0.0:  # turned in its plane
        a, c = a * w[m, layout.LAY_COS] + c * w[m, layout.LAY_SIN], c * w[m, layout.LAY_COS] - a * w[m, layout.LAY_SIN]
    return unit(a * tx + c * bx + e * nx, a * ty + c * by + e * ny, a * tz + c * bz + e * nz)


@kernel
def tilt(scene, m, u, v):
    """The normal of a relief at (u, v): along the picture, up it, and off the surface."""
    t = scene.materials
    a, c, e = 0.0, 0.0, 1.0
    if t[m, BOND] > 0.0:
        a, c, u, v = of_units(t, m, u, v)
    if t[m, RELIEF_TEXTURE] >= 0.0:
        r, g, b = lookup(scene.pixels, scene.texture_info, scene.linear, int(t[m, RELIEF_TEXTURE]), u, v)
        scale = t[m, RELIEF]
        e = max(2.0 * b - 1.0, 0.05)
        a, c = a * e + (2.0 * r - 1.0) * scale, c * e + (2.0 * g - 1.0) * scale
    return a, c, e


@kernel
def of_units(t, m, u, v):
    """Slope of a layout at (u, v): joints lie back, edges are eased, and no two units lie quite in a plane. And the place of the picture
    that lies on the unit there."""
    a, b = laying.metres(t, m, u, v)
    bond, length, height, joint = (
        int(t[m, BOND]),
        F64(t[m, layout.UNIT_LENGTH]),
        F64(t[m, layout.UNIT_HEIGHT]),
        F64(t[m, layout.JOINT]),
    )
    at = unit_at(bond, a, b, length, height, joint)
    du, dv = shift_of(at)
    sa, sb = 0.0, 0.0
    if at.inside > 0.0:
        slope = 0.04 * t[m, layout.UNEVEN]
        sa, sb = slope * (du - 0.5), slope * (dv - 0.5)
    eased, deep = max(0.5 * joint, 2e-4), F64(t[m, layout.RECESS])
    if deep > 0.0 and abs(at.inside) < eased:
        # Height over the distance d to the edge: a cubic step of `deep` from -eased to eased.
        x = 0.5 + 0.5 * at.inside / eased
        steep = deep * 6.0 * x * (1.0 - x) / (2.0 * eased)
        e = 0.02 * eased
        sa -= steep * (unit_at(bond, a + e, b, length, height, joint).inside - at.inside) / e
        sb -= steep * (unit_at(bond, a, b + e, length, height, joint).inside - at.inside) / e
    return sa, sb, u + du, v + dv


@kernel
def laid_normal(scene, m, u, v, px, py, pz, gx, gy, gz, nx, ny, nz):
    """Shading normal tilted by a relief that is laid by box, plan or three sides on a face of normal g."""
    t = scene.materials
    way = int(t[m, LAID])
    if way != laying.SIDES:
        ax, ay, az, bx, by, bz = laying.axes(t, m, laying.side_of(way, gx, gy, gz), gx, gy, gz)
        a, c, e = tilt(scene, m, u, v)
        return _leant(a, c, e, ax, ay, az, bx, by, bz, nx, ny, nz)
    tx, ty, tz = 0.0, 0.0, 0.0
    for side in range(3):
        share = laying.shares_of_sides(gx, gy, gz)[side]
        if share > 0.01:
            along, up = laying.on_side(t, m, side, px, py, pz, gx, gy, gz)
            ax, ay, az, bx, by, bz = laying.axes(t, m, side, gx, gy, gz)
            a, c, e = tilt(scene, m, along / t[m, layout.TILE], -up / t[m, layout.TILE + 1])
            x, y, z = _leant(a, c, e, ax, ay, az, bx, by, bz, nx, ny, nz)
            tx, ty, tz = tx + share * x, ty + share * y, tz + share * z
    return unit(tx, ty, tz)


@part
def _leant(a, c, e, ax, ay, az, bx, by, bz, nx, ny, nz):
    """A normal leant by a and c along two directions, of which the part in the surface counts."""
    x, y, z = a * ax + c * bx, a * ay + c * by, a * az + c * bz
    d = x * nx + y * ny + z * nz
    return unit(x - d * nx + e * nx, y - d * ny + e * ny, z - d * nz + e * nz)


@kernel
def bumped(scene, m, px, py, pz, nx, ny, nz):
    """Normal tilted by the slope of the material's pattern taken as a height (J. Blinn, 1978)."""
    t = scene.materials
    kind, size = int(t[m, PATTERN]), F64(t[m, PATTERN_SIZE])
    x, y, z = px / size, py / size, pz / size
    e = 0.02
    h = value(kind, x, y, z, nx, ny, nz)
    gx = value(kind, x + e, y, z, nx, ny, nz) - h
    gy = value(kind, x, y + e, z, nx, ny, nz) - h
    gz = value(kind, x, y, z + e, nx, ny, nz) - h
    k = F64(t[m, BUMP]) / (e * size)
    along = gx * nx + gy * ny + gz * nz
    return unit(nx - k * (gx - along * nx), ny - k * (gy - along * ny), nz - k * (gz - along * nz))
