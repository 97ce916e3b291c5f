"""Chromaticity of a colour temperature, and back.

Sources: M. Krystek, An algorithm to calculate correlated colour temperature, Color Research and Application 10,
1985 (Planckian locus in CIE 1960 uv); CIE 015:2018 section 4.1.2 (daylight locus); C. S. McCamy, Correlated color
temperature as an explicit function of chromaticity coordinates, Color Research and Application 17, 1992.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import RGB_TO_XYZ, xy_to_unit_rgb
from valleylight.core.errors import InputError

LOWEST_K, HIGHEST_K = 1000.0, 25000.0


def planck_xy(kelvin: float) -> tuple[float, float]:
    """Chromaticity of a black body, 1000 to 15000 K (Krystek 1985)."""
    t = kelvin
    u = (0.860117757 + 1.54118254e-4 * t + 1.28641212e-7 * t * t) / (1 + 8.42420235e-4 * t + 7.08145163e-7 * t * t)
    v = (0.317398726 + 4.22806245e-5 * t + 4.20481691e-8 * t * t) / (1 - 2.89741816e-5 * t + 1.61456053e-7 * t * t)
    d = 2 * u - 8 * v + 4
    return 3 * u / d, 2 * v / d


def daylight_xy(kelvin: float) -> tuple[float, float]:
    """Chromaticity of CIE daylight, 4000 to 25000 K (CIE 015:2018, equations 4.7 to 4.9)."""
    t = kelvin
    if t <= 7000:
        x = -4.6070e9 / t**3 + 2.9678e6 / t**2 + 0.09911e3 / t + 0.244063
    else:
        x = -2.0064e9 / t**3 + 1.9018e6 / t**2 + 0.24748e3 / t + 0.237040
    return x, -3.0 * x * x + 2.87 * x - 0.275


def kelvin_xy(kelvin: float) -> tuple[float, float]:
    """Standard locus: black body below 4000 K, daylight above 5000 K, blended between (common practice)."""
    if not LOWEST_K <= kelvin <= HIGHEST_K:
        raise InputError(
            f"a colour temperature of {kelvin:g} K is outside the model",
            "kelvin",
            f"Choose {LOWEST_K:g} to {HIGHEST_K:g} K",
        )
    if kelvin < 4000:
        return planck_xy(kelvin)
    share = min((kelvin - 4000) / 1000, 1.0)
    (xp, yp), (xd, yd) = planck_xy(min(kelvin, 15000)), daylight_xy(kelvin)
    return xp + share * (xd - xp), yp + share * (yd - yp)


def kelvin_to_unit_rgb(kelvin: float) -> NDArray[np.float64]:
    """Linear Rec. 709 RGB of a colour temperature at luminance 1; shape (3,)."""
    return xy_to_unit_rgb(*kelvin_xy(kelvin))


def rgb_to_kelvin(rgb: NDArray[np.floating]) -> float:
    """Correlated colour temperature in K of linear RGB (3,) (McCamy 1992); nan for black."""
    xyz = RGB_TO_XYZ @ np.asarray(rgb, float)
    total = xyz.sum()
    if total <= 0:
        return float("nan")
    x, y = xyz[0] / total, xyz[1] / total
    n = (x - 0.3320) / (0.1858 - y)
    return float(449.0 * n**3 + 3525.0 * n**2 + 6823.3 * n + 5520.33)


def shifted_xy(kelvin: float, duv: float) -> tuple[float, float]:
    """Chromaticity at a distance `duv` from the locus in CIE 1960 uv, above it (towards green) when positive
    (ANSI C78.377 sign)."""
    x, y = kelvin_xy(kelvin)
    if duv == 0:
        return x, y
    low, high = max(kelvin - 1, LOWEST_K), min(kelvin + 1, HIGHEST_K)
    (u0, v0), (u1, v1), (u, v) = _uv(*kelvin_xy(low)), _uv(*kelvin_xy(high)), _uv(x, y)
    along = np.hypot(u1 - u0, v1 - v0)
    # The locus runs towards smaller u with rising temperature; the normal with growing v lies above it.
    nu, nv = (v1 - v0) / along, -(u1 - u0) / along
    if nv < 0:
        nu, nv = -nu, -nv
    u, v = u + duv * nu, v + duv * nv
    d = 2 * u - 8 * v + 4
    return 3 * u / d, 2 * v / d


def _uv(x: float, y: float) -> tuple[float, float]:
    """CIE 1960 uv of xy."""
    d = -2 * x + 12 * y + 3
    return 4 * x / d, 6 * y / d
