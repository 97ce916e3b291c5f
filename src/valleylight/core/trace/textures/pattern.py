"""Patterns without pictures: values between 0 and 1 at a point of the stage, from gradient noise.

Source: K. Perlin, Improving Noise, 2002 (gradient noise with the quintic fade), with hashed gradients.
"""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.trace.sampling.sobol import hash32

U32 = np.uint32
NAMES = ("none", "grain", "veins", "speckle", "weave", "boards", "clouds")


@part
def _corner(ix, iy, iz):
    return hash32(U32(U32(ix) * U32(0x8DA6B343) + U32(iy) * U32(0xD8163841) + U32(iz) * U32(0xCB1AB31F)))


@part
def _slope(h, x, y, z):
    """Dot product with one of twelve edge gradients."""
    k = h & U32(15)
    u = x if k < U32(8) else y
    v = y if k < U32(4) else (x if k == U32(12) or k == U32(14) else z)
    return (u if (k & U32(1)) == U32(0) else -u) + (v if (k & U32(2)) == U32(0) else -v)


@part
def _fade(t):
    return t * t * t * (t * (t * 6.0 - 15.0) + 10.0)


@kernel
def noise(x, y, z):
    """Gradient noise, about -1 to 1, wavelength about 1."""
    fx, fy, fz = math.floor(x), math.floor(y), math.floor(z)
    ix, iy, iz = int(fx), int(fy), int(fz)
    x, y, z = x - fx, y - fy, z - fz
    u, v, w = _fade(x), _fade(y), _fade(z)
    a = _slope(_corner(ix, iy, iz), x, y, z)
    b = _slope(_corner(ix + 1, iy, iz), x - 1, y, z)
    c = _slope(_corner(ix, iy + 1, iz), x, y - 1, z)
    d = _slope(_corner(ix + 1, iy + 1, iz), x - 1, y - 1, z)
    e = _slope(_corner(ix, iy, iz + 1), x, y, z - 1)
    f = _slope(_corner(ix + 1, iy, iz + 1), x - 1, y, z - 1)
    g = _slope(_corner(ix, iy + 1, iz + 1), x, y - 1, z - 1)
    h = _slope(_corner(ix + 1, iy + 1, iz + 1), x - 1, y - 1, z - 1)
    a, c, e, g = a + u * (b - a), c + u * (d - c), e + u * (f - e), g + u * (h - g)
    a, e = a + v * (c - a), e + v * (g - e)
    return a + w * (e - a)


@kernel
def turbulence(x, y, z, octaves):
    """Sum of octaves of noise, about -1 to 1."""
    total, scale = 0.0, 1.0
    for _ in range(octaves):
        total += scale * noise(x, y, z)
        x, y, z, scale = 2.03 * x + 17.1, 2.03 * y + 3.7, 2.03 * z + 9.2, 0.5 * scale
    return total * 0.6


@kernel
def value(kind, x, y, z, nx, ny, nz):
    """The pattern at a point in units of its size, on a surface of normal n: 0 to 1."""
    if kind == 1:  # grain of wood: rings about the x axis, drawn out along it
        wander = turbulence(0.09 * x, 0.7 * y, 0.7 * z, np.int64(3))
        ring = math.sqrt((y + 0.6 * wander) ** 2 + (z + 3.1 + 0.6 * wander) ** 2) * 4.0
        ring -= math.floor(ring)
        fibre = noise(0.8 * x, 24.0 * y, 24.0 * z)
        return min(max(ring * ring * 0.75 + 0.12 + 0.13 * fibre, 0.0), 1.0)
    if kind == 2:  # veins
        t = abs(turbulence(x, y, z, np.int64(5)))
        return 1.0 - min(max((t - 0.01) * 9.0, 0.0), 1.0)
    if kind == 3:  # speckle
        t = noise(3.0 * x, 3.0 * y, 3.0 * z) + 0.5 * noise(8.0 * x, 8.0 * y, 8.0 * z)
        return min(max((t - 0.05) * 4.0, 0.0), 1.0)
    # The next two are drawn in the plane of the surface.
    ax, ay, az = abs(nx), abs(ny), abs(nz)
    u, v = (y, z) if ax > ay and ax > az else ((x, z) if ay > az else (x, y))
    if kind == 4:  # plain weave: threads over and under
        iu, iv = int(math.floor(u)), int(math.floor(v))
        du, dv = u - iu - 0.5, v - iv - 0.5
        across = du if (iu + iv) % 2 == 0 else dv
        along = dv if (iu + iv) % 2 == 0 else du
        return max(1.0 - 3.2 * across * across, 0.0) * (0.65 + 0.35 * math.cos(3.14159265 * along))
    if kind == 5:  # boards: joints every unit across, grain along
        row = int(math.floor(v))
        du = u + 2.7 * row
        joint = min(v - row, 1.0 - (v - row))
        end = du / 9.0 - math.floor(du / 9.0)
        joint = min(joint, 9.0 * min(end, 1.0 - end))
        if joint < 0.02:
            return 1.0
        return min(max(0.35 + 0.3 * noise(0.7 * du, 7.0 * v, 3.7 * row) + 0.1 * noise(17.0 * row, 0.3, 0.1), 0.0), 0.9)
    return min(max(0.5 + 0.5 * turbulence(x, y, z, np.int64(4)), 0.0), 1.0)  # clouds
