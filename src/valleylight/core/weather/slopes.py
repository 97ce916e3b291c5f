"""How steep the waves of open water are in wind.

Mean square slope 0.003 + 0.00512 U, U in m/s at about ten metres (C. Cox, W. Munk, J. Opt. Soc. Am. 44, 1954). Ponds
behind banks and trees feel a part of the wind alone (common practice).
"""

from __future__ import annotations

import numpy as np

SHELTERED = 0.35


def mean_square_slope(wind_m_s: float) -> float:
    """Variance of the slope, both directions together, of water under a steady wind; calm water has next to none."""
    return 0.003 * min(wind_m_s, 1.0) + 0.00512 * wind_m_s


def drop_tilt_deg(wind_m_s: float, fall_m_s: float) -> float:
    """How far from upright what falls comes in."""
    return float(np.degrees(np.arctan2(wind_m_s, max(fall_m_s, 1e-6))))
