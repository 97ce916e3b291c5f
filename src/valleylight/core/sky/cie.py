"""Relative luminance of the fifteen CIE standard general skies.

Source: ISO 15469:2004 / CIE S 011/E:2003, Spatial distribution of daylight, CIE standard general sky: gradation
phi(Z) = 1 + a exp(b / cos Z), indicatrix f(chi) = 1 + c (exp(d chi) - exp(d pi/2)) + e cos^2 chi.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

#: Parameters a, b, c, d, e of types 1 to 15 (CIE S 011, table 1).
PARAMETERS = {
    1: (4.0, -0.70, 0.0, -1.0, 0.00),
    2: (4.0, -0.70, 2.0, -1.5, 0.15),
    3: (1.1, -0.80, 0.0, -1.0, 0.00),
    4: (1.1, -0.80, 2.0, -1.5, 0.15),
    5: (0.0, -1.00, 0.0, -1.0, 0.00),
    6: (0.0, -1.00, 2.0, -1.5, 0.15),
    7: (0.0, -1.00, 5.0, -2.5, 0.30),
    8: (0.0, -1.00, 10.0, -3.0, 0.45),
    9: (-1.0, -0.55, 2.0, -1.5, 0.15),
    10: (-1.0, -0.55, 5.0, -2.5, 0.30),
    11: (-1.0, -0.55, 10.0, -3.0, 0.45),
    12: (-1.0, -0.32, 10.0, -3.0, 0.45),
    13: (-1.0, -0.32, 16.0, -3.0, 0.30),
    14: (-1.0, -0.15, 16.0, -3.0, 0.30),
    15: (-1.0, -0.15, 24.0, -2.8, 0.15),
}

#: The standard's own descriptions, shortened.
NAMES = {
    1: "Overcast, steep gradation",
    2: "Overcast, steep, brighter towards the sun",
    3: "Overcast, moderate gradation",
    4: "Overcast, moderate, brighter towards the sun",
    5: "Uniform",
    6: "Partly cloudy, no gradation, brighter towards the sun",
    7: "Partly cloudy, no gradation, brighter circumsolar region",
    8: "Partly cloudy, no gradation, distinct corona",
    9: "Partly cloudy, obscured sun",
    10: "Partly cloudy, brighter circumsolar region",
    11: "White-blue sky, distinct corona",
    12: "Clear, low turbidity",
    13: "Clear, polluted air",
    14: "Cloudless turbid, broad corona",
    15: "White-blue turbid, broad corona",
}


def gradation(zenith_angle_rad: ArrayLike, sky_type: int) -> NDArray[np.float64]:
    """phi(Z); at the horizon the limit 1 is taken."""
    a, b, *_ = PARAMETERS[sky_type]
    cosine = np.cos(np.asarray(zenith_angle_rad, float))
    return np.where(cosine > 1e-4, 1 + a * np.exp(b / np.maximum(cosine, 1e-4)), 1.0)


def indicatrix(angle_from_sun_rad: ArrayLike, sky_type: int) -> NDArray[np.float64]:
    """f(chi)."""
    *_, c, d, e = PARAMETERS[sky_type]
    chi = np.asarray(angle_from_sun_rad, float)
    return 1 + c * (np.exp(d * chi) - np.exp(d * np.pi / 2)) + e * np.cos(chi) ** 2


def relative_luminance(
    zenith_angle_rad: ArrayLike, angle_from_sun_rad: ArrayLike, sun_zenith_rad: float, sky_type: int
) -> NDArray[np.float64]:
    """L / L_zenith = f(chi) phi(Z) / (f(Z_sun) phi(0)) (CIE S 011, equation 1)."""
    return np.asarray(
        indicatrix(angle_from_sun_rad, sky_type)
        * gradation(zenith_angle_rad, sky_type)
        / (indicatrix(sun_zenith_rad, sky_type) * gradation(0.0, sky_type))
    )
