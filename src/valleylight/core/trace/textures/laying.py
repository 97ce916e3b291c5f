"""How pictures and layouts are laid on a surface: where a point of it lies in them, in metres and in turns of the picture.

By the model's own uv, by box (the plane of the axis the surface looks along most), in plan, or from three sides, blended by the normal
(triplanar mapping). A picture stands upright on a wall and reads from left to right from outside.
"""

from __future__ import annotations

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.layout import LAID, LAY_COS, LAY_SHIFT, LAY_SIN, TILE, UV_M, ZERO_AT

#: Ways of laying.
NOT, OWN_UV, BOX, PLAN, SIDES = range(5)


@part
def side_of(way, nx, ny, nz):
    """The axis that a surface of normal n is laid along."""
    ax, ay, az = abs(nx), abs(ny), abs(nz)
    if way == PLAN or (az >= ax and az >= ay):
        return 2
    return 0 if ax > ay else 1


@part
def turned(t, m, s, p):
    """Metres along and up a layout, which is turned anticlockwise, of plane coordinates (s, p); LAY_SIN is minus the sine."""
    c, n = float(t[m, LAY_COS]), float(t[m, LAY_SIN])
    return c * s - n * p + t[m, LAY_SHIFT], n * s + c * p + t[m, LAY_SHIFT + 1]


@kernel
def on_side(t, m, side, x, y, z, nx, ny, nz):
    """Metres (along, up) of a layout that is laid along an axis, at a point."""
    x, y, z = x + t[m, ZERO_AT], y + t[m, ZERO_AT + 1], z + t[m, ZERO_AT + 2]
    if side == 0:
        return turned(t, m, y if nx >= 0.0 else -y, z)
    if side == 1:
        return turned(t, m, -x if ny >= 0.0 else x, z)
    return turned(t, m, x if nz >= 0.0 else -x, y)


@kernel
def lay(t, m, u, v, x, y, z, nx, ny, nz):
    """The place (u, v) in the picture, v downwards, of a point of material m, which is laid; own uv knows no point."""
    way = int(t[m, LAID])
    if way == OWN_UV:
        a, b = turned(t, m, u * t[m, UV_M], -v * t[m, UV_M])
    else:
        a, b = on_side(t, m, side_of(way, nx, ny, nz), x, y, z, nx, ny, nz)
    return a / t[m, TILE], -b / t[m, TILE + 1]


@part
def metres(t, m, u, v):
    """Metres (along, up) of a layout at (u, v) of its picture."""
    return u * t[m, TILE], -v * t[m, TILE + 1]


@kernel
def axes(t, m, side, nx, ny, nz):
    """Directions along and up a layout that is laid along an axis."""
    c, n = float(t[m, LAY_COS]), float(t[m, LAY_SIN])
    if side == 0:
        s = 1.0 if nx >= 0.0 else -1.0
        return 0.0, c * s, -n, 0.0, n * s, c
    if side == 1:
        s = -1.0 if ny >= 0.0 else 1.0
        return c * s, 0.0, -n, n * s, 0.0, c
    s = 1.0 if nz >= 0.0 else -1.0
    return c * s, -n, 0.0, n * s, c, 0.0


@part
def shares_of_sides(nx, ny, nz):
    """How much each of three sides counts on a surface of normal n."""
    wx, wy, wz = nx * nx, ny * ny, nz * nz
    wx, wy, wz = wx * wx, wy * wy, wz * wz
    total = wx + wy + wz
    return wx / total, wy / total, wz / total


__all__ = [
    "BOX",
    "LAID",
    "NOT",
    "OWN_UV",
    "PLAN",
    "SIDES",
    "axes",
    "lay",
    "layout",
    "metres",
    "on_side",
    "shares_of_sides",
    "side_of",
]
