"""Figures computed from a luminous intensity distribution: flux and angles.

Sources: luminous flux as the integral of intensity over solid angle (CIE 84, section 3); beam angle to 50 percent and
field angle to 10 percent of the peak (ANSI/IES LS-1 definitions).
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from valleylight.core.photometry.model import Photometry


def zone_weights(vertical_deg: NDArray[np.float64]) -> NDArray[np.float64]:
    """Weights w with sum(w * I) = integral of I(gamma) sin(gamma) dgamma for I linear between the angles.

    On each interval [a, b]: integral of sin = cos a - cos b; integral of gamma sin = [sin - gamma cos]. Shape (G,).
    """
    g = np.radians(vertical_deg)
    a, b = g[:-1], g[1:]
    whole = np.cos(a) - np.cos(b)
    first = (np.sin(b) - b * np.cos(b)) - (np.sin(a) - a * np.cos(a))
    rising = (first - a * whole) / (b - a)
    weights = np.zeros_like(g)
    weights[1:] += rising
    weights[:-1] += whole - rising
    return weights


def flux_lm(profile: Photometry) -> float:
    """Luminous flux in lm: trapezoid over C (exact for linear interpolation), closed form over gamma."""
    per_plane = profile.candela @ zone_weights(profile.vertical_deg)
    if profile.is_rotational:
        return float(2 * np.pi * per_plane[0])
    return float(np.trapezoid(per_plane, np.radians(profile.horizontal_deg)))


def widths_deg(profile: Photometry, share: float) -> tuple[float, float]:
    """Full angle between the outermost directions holding `share` of the peak, for C0-C180 and C90-C270."""
    return _width_in_plane(profile, 0.0, share), _width_in_plane(profile, 90.0, share)


def _width_in_plane(profile: Photometry, c_deg: float, share: float) -> float:
    """Full angle in one vertical plane; 360 when the intensity never falls below the share."""
    theta = np.linspace(-180.0, 180.0, 7201)
    values = profile.intensity(np.where(theta >= 0, c_deg, c_deg + 180.0), np.abs(theta))
    level = share * values.max()
    if level <= 0:
        return 0.0
    above = values >= level
    if above.all():
        return 360.0
    # Up-lights: measure about the zenith when the peak of this plane lies in the upper half.
    if abs(theta[int(values.argmax())]) > 90.0:
        theta = np.where(theta < 0, theta + 180.0, theta - 180.0)
        order = np.argsort(theta, kind="stable")
        theta, values, above = theta[order], values[order], above[order]
    inside = np.flatnonzero(above)
    return _crossing(theta, values, level, inside[-1], 1) - _crossing(theta, values, level, inside[0], -1)


def _crossing(theta: NDArray[np.float64], values: NDArray[np.float64], level: float, index: int, step: int) -> float:
    """Angle at which the profile falls through `level` beyond `index`, by linear interpolation."""
    beyond = index + step
    if not 0 <= beyond < len(theta):
        return float(theta[index])
    share = (values[index] - level) / max(values[index] - values[beyond], 1e-300)
    return float(theta[index] + share * (theta[beyond] - theta[index]))
