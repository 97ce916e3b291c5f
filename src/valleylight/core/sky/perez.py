"""The all-weather sky: luminance distribution from direct and diffuse light.

Source: R. Perez, R. Seals, J. Michalsky, All-weather model for sky luminance distribution, Solar Energy 50 (3), 1993;
coefficients of table 1 from memory. Sky clearness and brightness from illuminances in place of irradiances, with the
luminous solar constant of 133 800 lx (CIE; the model's bins hold for ratios, in which efficacies nearly cancel).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from valleylight.core.sky.illuminance import SOLAR_LX

#: Upper bounds of the bins of sky clearness.
CLEARNESS = np.array([1.065, 1.23, 1.5, 1.95, 2.8, 4.5, 6.2])
#: For each bin the coefficients of a, b, c, d, e, four each.
TABLE = np.array([
    [1.3525, -0.2576, -0.2690, -1.4366, -0.7670, 0.0007, 1.2734, -0.1233, 2.8000, 0.6004, 1.2375, 1.0000, 1.8734, 0.6297, 0.9738, 0.2809, 0.0356, -0.1246, -0.5718, 0.9938],
    [-1.2219, -0.7730, 1.4148, 1.1016, -0.2054, 0.0367, -3.9128, 0.9156, 6.9750, 0.1774, 6.4477, -0.1239, -1.5798, -0.5081, -1.7812, 0.1080, 0.2624, 0.0672, -0.2190, -0.4285],
    [-1.1000, -0.2515, 0.8952, 0.0156, 0.2782, -0.1812, -4.5000, 1.1766, 24.7219, -13.0812, -37.7000, 34.8438, -5.0000, 1.5218, 3.9229, -2.6204, -0.0156, 0.1597, 0.4199, -0.5562],
    [-0.5484, -0.6654, -0.2672, 0.7117, 0.7234, -0.6219, -5.6812, 2.6297, 33.3389, -18.3000, -62.2500, 52.0781, -3.5000, 0.0016, 1.1477, 0.1062, 0.4659, -0.3296, -0.0876, -0.0329],
    [-0.6000, -0.3566, -2.5000, 2.3250, 0.2937, 0.0496, -5.6812, 1.8415, 21.0000, -4.7656, -21.5906, 7.2492, -3.5000, -0.1554, 1.4062, 0.3988, 0.0032, 0.0766, -0.0656, -0.1294],
    [-1.0156, -0.3670, 1.0078, 1.4051, 0.2875, -0.5328, -3.8500, 3.3750, 14.0000, -0.9999, -7.1406, 7.5469, -3.4000, -0.1078, -1.0750, 1.5702, -0.0672, 0.4016, 0.3017, -0.4844],
    [-1.0000, 0.0211, 0.5025, -0.5119, -0.3000, 0.1922, 0.7023, -1.6317, 19.0000, -5.0000, 1.2438, -1.9094, -4.0000, 0.0250, 0.3844, 0.2656, 1.0468, -0.3788, -2.4517, 1.4656],
    [-1.0500, 0.0289, 0.4260, 0.3590, -0.3250, 0.1156, 0.7781, 0.0025, 31.0625, -14.5000, -46.1148, 55.3750, -7.2312, 0.4050, 13.3500, 0.6234, 1.5000, -0.6426, 1.8564, 0.5636],
])  # fmt: skip


def clearness(direct_normal_lx: float, diffuse_horizontal_lx: float, sun_zenith_rad: float) -> float:
    """Sky clearness epsilon (Perez 1993, equation 1), 1 for an overcast sky."""
    k = 1.041 * sun_zenith_rad**3
    return ((diffuse_horizontal_lx + direct_normal_lx) / diffuse_horizontal_lx + k) / (1 + k)


def brightness(diffuse_horizontal_lx: float, air_mass: float) -> float:
    """Sky brightness Delta (equation 2)."""
    return diffuse_horizontal_lx * air_mass / SOLAR_LX


def coefficients(epsilon: float, delta: float, sun_zenith_rad: float) -> NDArray[np.float64]:
    """a, b, c, d, e of the distribution (equations 6 to 8)."""
    number = int(np.searchsorted(CLEARNESS, epsilon, side="right"))
    x = TABLE[number].reshape(5, 4)
    if number == 0:
        delta = max(delta, 0.01)
    out = x[:, 0] + x[:, 1] * sun_zenith_rad + delta * (x[:, 2] + x[:, 3] * sun_zenith_rad)
    if number == 0:
        c, d = x[2], x[3]
        out[2] = np.exp((delta * (c[0] + c[1] * sun_zenith_rad)) ** c[2]) - c[3]
        out[3] = -np.exp(delta * (d[0] + d[1] * sun_zenith_rad)) + d[2] + delta * d[3]
    return np.asarray(out)


def relative_luminance(
    zenith_angle_rad: ArrayLike, angle_from_sun_rad: ArrayLike, values: NDArray[np.float64]
) -> NDArray[np.float64]:
    """(1 + a exp(b / cos Z)) (1 + c exp(d chi) + e cos^2 chi), never below zero (equation 5)."""
    a, b, c, d, e = values
    cosine = np.maximum(np.cos(np.asarray(zenith_angle_rad, float)), 0.01)
    chi = np.asarray(angle_from_sun_rad, float)
    return np.maximum((1 + a * np.exp(b / cosine)) * (1 + c * np.exp(d * chi) + e * np.cos(chi) ** 2), 0.0)
