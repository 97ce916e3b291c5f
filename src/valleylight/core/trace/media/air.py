"""Air that scatters: extinction along a ray, where light meets a drop, and which way it goes on.

Density is even or falls exponentially with height above a base, everywhere or in a box, so that the optical depth of a
segment and its inverse are closed forms; unevenness multiplies it by 1 + a n(p) with noise n, met by ratio and delta
tracking inside the closed form (J. Novak et al., Monte Carlo Methods for Volumetric Light Transport Simulation, 2018).
Phase: two Henyey-Greenstein lobes, forward and back (L. Henyey, J. Greenstein, 1941). Beer-Lambert law for what is left.
"""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.sampling.sobol import hash32
from valleylight.core.trace.textures.pattern import noise

U32 = np.uint32
INV_4PI = 0.07957747154594767
MOST_STEPS = 200
#: Unbounded air ends here, in metres.
HORIZON = 4.0e4


@part
def _lobe(g, cosine):
    d = 1.0 + g * g - 2.0 * g * cosine
    return (1.0 - g * g) * INV_4PI / (d * math.sqrt(d))


@part
def phase(a, turned):
    """Phase function per steradian; `turned` is the cosine between the directions to the viewer and to the light, -1
    for light that goes straight on."""
    return (1.0 - a[layout.AIR_BACK_SHARE]) * _lobe(a[layout.AIR_FORWARD], -turned) + a[layout.AIR_BACK_SHARE] * _lobe(
        -a[layout.AIR_BACK], -turned
    )


@kernel
def sample_phase(a, dx, dy, dz, u, v):
    """A direction drawn from the phase function for light seen along d."""
    g = a[layout.AIR_FORWARD]
    if u < a[layout.AIR_BACK_SHARE]:
        u, g = u / a[layout.AIR_BACK_SHARE], -a[layout.AIR_BACK]
    else:
        u = (u - a[layout.AIR_BACK_SHARE]) / max(1.0 - a[layout.AIR_BACK_SHARE], 1e-9)
    if abs(g) < 1e-3:
        c = 1.0 - 2.0 * u
    else:
        s = (1.0 - g * g) / (1.0 - g + 2.0 * g * u)
        c = (1.0 + g * g - s * s) / (2.0 * g)
    sine = math.sqrt(max(1.0 - c * c, 0.0))
    p = 6.283185307179586 * v
    sign = math.copysign(1.0, dz)
    k = -1.0 / (sign + dz)
    n = dx * dy * k
    x, y = sine * math.cos(p), sine * math.sin(p)
    return (
        x * (1.0 + sign * dx * dx * k) + y * n + c * dx,
        x * sign * n + y * (sign + dy * dy * k) + c * dy,
        -x * sign * dx - y * dy + c * dz,
    )


@kernel
def clip(a, ox, oy, oz, dx, dy, dz, far):
    """The part of a segment that lies in the air's box: (from, to), to <= from where there is none."""
    t0, t1 = 0.0, min(far, HORIZON)
    for axis in range(3):
        o = ox if axis == 0 else (oy if axis == 1 else oz)
        d = dx if axis == 0 else (dy if axis == 1 else dz)
        if abs(d) < 1e-12:
            if o < a[axis] or o > a[axis + 3]:
                return 0.0, 0.0
        else:
            p, q = (a[axis] - o) / d, (a[axis + 3] - o) / d
            t0, t1 = max(t0, min(p, q)), min(t1, max(p, q))
    return t0, t1


@part
def _rising(k, z, dz, length):
    """Integral of exp(-k z) along a ray that stays above the base, from height z over it."""
    x = k * dz * length
    if abs(x) < 1e-5:
        return math.exp(-k * z) * length * (1.0 - 0.5 * x)
    return math.exp(-k * z) * (1.0 - math.exp(-x)) / (k * dz)


@kernel
def depth(a, oz, dz, t0, t1):
    """Optical depth of the mean density from t0 to t1 of a ray at height oz that climbs dz a metre."""
    if t1 <= t0:
        return 0.0
    k = a[layout.AIR_FALL]
    if k <= 0.0:
        return a[layout.AIR_EXTINCTION] * (t1 - t0)
    z0, z1 = oz + dz * t0 - a[layout.AIR_BASE], oz + dz * t1 - a[layout.AIR_BASE]
    if z0 <= 0.0 and z1 <= 0.0:
        return a[layout.AIR_EXTINCTION] * (t1 - t0)
    if z0 >= 0.0 and z1 >= 0.0:
        return a[layout.AIR_EXTINCTION] * _rising(k, z0, dz, t1 - t0)
    cross = min(max((a[layout.AIR_BASE] - oz) / dz, t0), t1)
    if z0 < 0.0:
        return a[layout.AIR_EXTINCTION] * ((cross - t0) + _rising(k, 0.0, dz, t1 - cross))
    return a[layout.AIR_EXTINCTION] * (_rising(k, z0, dz, cross - t0) + (t1 - cross))


@kernel
def reach(a, oz, dz, t0, t1, tau):
    """Where from t0 on the optical depth has grown to tau; t1 where it does not."""
    k = a[layout.AIR_FALL]
    if k <= 0.0 or abs(dz) < 1e-9:
        density = (
            a[layout.AIR_EXTINCTION]
            if k <= 0.0
            else a[layout.AIR_EXTINCTION] * math.exp(-k * max(oz + dz * t0 - a[layout.AIR_BASE], 0.0))
        )
        return min(t0 + tau / max(density, 1e-30), t1)
    z0 = oz + dz * t0 - a[layout.AIR_BASE]
    if z0 < 0.0:  # even below the base
        end = t1 if dz <= 0.0 else min((a[layout.AIR_BASE] - oz) / dz, t1)
        if tau <= a[layout.AIR_EXTINCTION] * (end - t0):
            return t0 + tau / a[layout.AIR_EXTINCTION]
        if end >= t1:
            return t1
        tau -= a[layout.AIR_EXTINCTION] * (end - t0)
        t0, z0 = end, 0.0
    elif dz < 0.0 and z0 + dz * (t1 - t0) < 0.0:
        cross = min((a[layout.AIR_BASE] - oz) / dz, t1)
        above = a[layout.AIR_EXTINCTION] * _rising(k, z0, dz, cross - t0)
        if tau > above:
            return min(cross + (tau - above) / a[layout.AIR_EXTINCTION], t1)
    x = 1.0 - tau * k * dz * math.exp(k * z0) / a[layout.AIR_EXTINCTION]
    if x <= 0.0:
        return t1
    return min(t0 - math.log(x) / (k * dz), t1)


@part
def local(a, z):
    """Mean extinction per metre at height z."""
    return (
        a[layout.AIR_EXTINCTION] * math.exp(-a[layout.AIR_FALL] * max(z - a[layout.AIR_BASE], 0.0))
        if a[layout.AIR_FALL] > 0.0
        else a[layout.AIR_EXTINCTION]
    )


@kernel
def swing(a, x, y, z):
    """Unevenness at a point: -1 to 1."""
    s = a[layout.AIR_FINENESS]
    return min(
        max(
            1.6
            * noise(
                (x - a[layout.AIR_DRIFT]) * s, (y - a[layout.AIR_DRIFT + 1]) * s, (z - a[layout.AIR_DRIFT + 2]) * s
            ),
            -1.0,
        ),
        1.0,
    )


@part
def _next(luck):
    luck = hash32(U32(luck + U32(0x9E3779B9)))
    return luck, (luck + 0.5) / 4294967296.0


@kernel
def transmittance(a, ox, oy, oz, dx, dy, dz, far, luck):
    """Share of light left after a segment; exact for even air, an unbiased estimate for uneven."""
    if a[layout.AIR_BEAMS_ONLY] > 0.0:
        return 1.0
    t0, t1 = clip(a, ox, oy, oz, dx, dy, dz, far)
    whole = depth(a, oz, dz, t0, t1)
    if whole <= 0.0:
        return 1.0
    uneven = a[layout.AIR_UNEVEN]
    if uneven <= 0.0:
        return math.exp(-whole)
    left, passed, most = whole, 1.0, 1.0 + uneven
    for _ in range(MOST_STEPS):
        luck, u = _next(luck)
        step = -math.log(u) / most
        if step >= left:
            break
        t = reach(a, oz, dz, t0, t1, step)
        left -= step
        t0 = t
        passed *= 1.0 - (1.0 + uneven * swing(a, ox + t * dx, oy + t * dy, oz + t * dz)) / most
        if passed <= 0.0:
            return 0.0
    return passed


@kernel
def free_flight(a, ox, oy, oz, dx, dy, dz, t0, t1, luck):
    """Where light meets its next drop between t0 and t1; -1 where it gets through (delta tracking)."""
    uneven = a[layout.AIR_UNEVEN]
    most = 1.0 + uneven
    for _ in range(MOST_STEPS):
        luck, u = _next(luck)
        t = reach(a, oz, dz, t0, t1, -math.log(u) / most)
        if t >= t1:
            return -1.0
        if uneven <= 0.0:
            return t
        luck, u = _next(luck)
        if u * most < 1.0 + uneven * swing(a, ox + t * dx, oy + t * dy, oz + t * dz):
            return t
        t0 = t
    return -1.0


@part
def equiangular(px, py, pz, ox, oy, oz, dx, dy, dz, t0, t1, u):
    """A place on a ray between t0 and t1, drawn by the angle under which it is seen from p, and its density per metre
    (C. Kulla, M. Fajardo, Importance Sampling Techniques for Path Tracing in Participating Media, 2012)."""
    delta = (px - ox) * dx + (py - oy) * dy + (pz - oz) * dz
    x, y, z = ox + delta * dx - px, oy + delta * dy - py, oz + delta * dz - pz
    away = max(math.sqrt(x * x + y * y + z * z), 1e-3)
    a, b = math.atan((t0 - delta) / away), math.atan((t1 - delta) / away)
    q = away * math.tan(a + u * (b - a))
    return min(max(delta + q, t0), t1), away / (max(b - a, 1e-9) * (away * away + q * q))


@part
def equiangular_density(px, py, pz, ox, oy, oz, dx, dy, dz, t0, t1, t):
    """Density per metre with which `equiangular` finds t."""
    delta = (px - ox) * dx + (py - oy) * dy + (pz - oz) * dz
    x, y, z = ox + delta * dx - px, oy + delta * dy - py, oz + delta * dz - pz
    away = max(math.sqrt(x * x + y * y + z * z), 1e-3)
    a, b = math.atan((t0 - delta) / away), math.atan((t1 - delta) / away)
    q = t - delta
    return away / (max(b - a, 1e-9) * (away * away + q * q))
