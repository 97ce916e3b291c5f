"""Sine, cosine and their inverses by short polynomials, in place of calls of the C library.

Sources: M. Abramowitz, I. Stegun, Handbook of Mathematical Functions, 1964: 4.4.46 (arcsine) and 4.4.49 (arctangent),
both within 2e-8; sine and cosine by their series on an eighth of a turn, within 2e-9. A cell of the finest sky is 2e-3 wide.
"""

from __future__ import annotations

import math

from valleylight.core.jit.compiled import part

HALF_PI = 0.5 * math.pi


@part
def small_sincos(x):
    """Sine and cosine of |x| <= pi / 4 in radians."""
    z = x * x
    sine = x * (1.0 + z * (-1 / 6 + z * (1 / 120 + z * (-1 / 5040 + z / 362880))))
    cosine = 1.0 + z * (-0.5 + z * (1 / 24 + z * (-1 / 720 + z * (1 / 40320 - z / 3628800))))
    return sine, cosine


@part
def sincos_turns(turns):
    """Sine and cosine of an angle given in whole turns."""
    quarter = math.floor(4.0 * turns + 0.5)
    s, c = small_sincos((4.0 * turns - quarter) * HALF_PI)
    side = int(quarter) & 3
    if side == 0:
        return s, c
    if side == 1:
        return c, -s
    if side == 2:
        return -s, -c
    return -c, s


@part
def arccos(x):
    """Arc cosine in radians of -1 <= x <= 1."""
    a = abs(x)
    p = 1.5707963050 + a * (-0.2145988016 + a * (0.0889789874 + a * (-0.0501743046 + a * (
        0.0308918810 + a * (-0.0170881256 + a * (0.0066700901 - a * 0.0012624911))))))  # fmt: skip
    p *= math.sqrt(max(1.0 - a, 0.0))
    return p if x >= 0.0 else math.pi - p


@part
def turns_of(y, x):
    """Angle of the point (x, y) from the x axis in turns, 0 to 1."""
    a, b = abs(x), abs(y)
    low, high = min(a, b), max(a, b)
    t = low / high if high > 0.0 else 0.0
    z = t * t
    p = t * (1.0 + z * (-0.3333314528 + z * (0.1999355085 + z * (-0.1420889944 + z * (0.1065626393 + z * (
        -0.0752896400 + z * (0.0429096138 + z * (-0.0161657367 + z * 0.0028662257))))))))  # fmt: skip
    p *= 0.5 / math.pi
    if b > a:
        p = 0.25 - p
    if x < 0.0:
        p = 0.5 - p
    if y < 0.0:
        p = 1.0 - p
    return p
