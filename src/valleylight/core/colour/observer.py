"""CIE 1931 colour matching functions by an analytic fit.

Source: C. Wyman, P.-P. Sloan, P. Shirley, Simple Analytic Approximations to the CIE XYZ Color Matching
Functions, Journal of Computer Graphics Techniques 2 (2), 2013, multi-lobe fit.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

#: Maximum spectral luminous efficacy in lm/W (SI definition of the candela, K_cd).
LUMINOUS_EFFICACY = 683.0


def _lobe(nm: NDArray[np.float64], height: float, centre: float, below: float, above: float) -> NDArray[np.float64]:
    t = (nm - centre) * np.where(nm < centre, below, above)
    return height * np.exp(-0.5 * t * t)


def matching_functions(wavelength_nm: ArrayLike) -> NDArray[np.float64]:
    """x-bar, y-bar, z-bar at wavelengths in nm; shape (..., 3)."""
    nm = np.asarray(wavelength_nm, float)
    x = (
        _lobe(nm, 0.362, 442.0, 0.0624, 0.0374)
        + _lobe(nm, 1.056, 599.8, 0.0264, 0.0323)
        + _lobe(nm, -0.065, 501.1, 0.0490, 0.0382)
    )
    y = _lobe(nm, 0.821, 568.8, 0.0213, 0.0247) + _lobe(nm, 0.286, 530.9, 0.0613, 0.0322)
    z = _lobe(nm, 1.217, 437.0, 0.0845, 0.0278) + _lobe(nm, 0.681, 459.0, 0.0385, 0.0725)
    return np.stack([x, y, z], -1)
