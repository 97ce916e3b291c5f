"""Drops and flakes in the air: how many of which size, how fast they fall, how long a streak they draw.

Rain: n(D) = N0 exp(-L D), N0 = 8000 /(m3 mm), L = 4.1 R^-0.21 /mm (J. Marshall, W. Palmer, J. Meteorology 5, 1948).
Fall speed of drops: v = 9.65 - 10.3 exp(-0.6 D) m/s (D. Atlas et al., Rev. Geophys. 11, 1973). Snow: n(D) of melted
diameters N0 = 3800 R^-0.87 /(m3 mm), L = 2.55 R^-0.48 /mm (K. Gunn, J. Marshall, J. Meteorology 15, 1958); flakes fall
at about 1 m/s whatever their size (common practice).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

FLAKE_M_S = 1.0


def rain_slope_per_mm(mm_h: float) -> float:
    """L of the Marshall-Palmer distribution."""
    return 4.1 * mm_h**-0.21


def drops_per_m3(mm_h: float, least_mm: float) -> float:
    """Drops wider than `least_mm` in a cubic metre of rain."""
    slope = rain_slope_per_mm(mm_h)
    return float(8000.0 / slope * np.exp(-slope * least_mm))


def drop_sizes_mm(mm_h: float, least_mm: float, u: NDArray[np.float64]) -> NDArray[np.float64]:
    """Diameters (N,) of drops wider than `least_mm`, drawn by numbers u of 0 to 1; none is wider than 6 mm, where drops break."""
    return np.minimum(least_mm - np.log1p(-u) / rain_slope_per_mm(mm_h), 6.0)


def fall_m_s(diameter_mm: NDArray[np.float64]) -> NDArray[np.float64]:
    """Speed (N,) at which drops fall through still air; not below zero."""
    return np.maximum(9.65 - 10.3 * np.exp(-0.6 * np.asarray(diameter_mm)), 0.0)


def flakes_per_m3(mm_h: float, least_mm: float = 0.3) -> float:
    """Flakes in a cubic metre whose melted diameter exceeds `least_mm`."""
    slope = 2.55 * mm_h**-0.48
    return float(3800.0 * mm_h**-0.87 / slope * np.exp(-slope * least_mm))


def streak_m(speed_m_s: NDArray[np.float64], shutter_s: float) -> NDArray[np.float64]:
    """Length of the way that is drawn while the shutter is open."""
    return np.asarray(speed_m_s) * shutter_s


def cover(diameter_m: NDArray[np.float64], streak_length_m: NDArray[np.float64]) -> NDArray[np.float64]:
    """Share of the shutter's time that a place on a streak is covered: the diameter over the whole way drawn, 1 for what stands still."""
    d = np.asarray(diameter_m)
    return d / (d + streak_length_m)
