"""How bright snow is, by the size of its grains.

Deep snow under diffuse light, asymptotic solution of radiative transfer for weakly absorbing grains:
r = exp(-sqrt(13 D g)), g = 4 pi k / wavelength, D the optical diameter (A. Kokhanovsky, E. Zege, Scattering optics of
snow, Applied Optics 43, 2004; the factor 13 as in A. Kokhanovsky et al., The Cryosphere 12, 2018). k is the imaginary
part of the refractive index of ice (S. Warren, R. Brandt, J. Geophys. Res. 113, 2008; values from memory).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

#: Wavelength in nm, imaginary part of the index of ice.
ICE = np.array([
    (400, 2.365e-11), (450, 9.239e-11), (500, 5.889e-10), (550, 2.289e-9), (600, 5.73e-9), (650, 1.39e-8), (700, 2.9e-8),
])  # fmt: skip
#: Wavelengths in nm that stand for red, green and blue.
RGB_NM = (612.0, 549.0, 465.0)


def absorption_per_m(wavelength_nm: NDArray[np.float64]) -> NDArray[np.float64]:
    """Absorption coefficient of ice in 1/m at wavelengths (N,) of 400 to 700 nm; log-linear between the table's."""
    k = np.exp(np.interp(wavelength_nm, ICE[:, 0], np.log(ICE[:, 1])))
    return 4 * np.pi * k / (np.asarray(wavelength_nm) * 1e-9)


def albedo(wavelength_nm: NDArray[np.float64], grain_mm: float) -> NDArray[np.float64]:
    """Reflectance (N,) of deep snow with grains of an optical radius in mm, under diffuse light."""
    diameter_m = 2e-3 * grain_mm
    return np.exp(-np.sqrt(13 * diameter_m * absorption_per_m(wavelength_nm)))


def colour(grain_mm: float) -> tuple[float, float, float]:
    """Reflectance in linear RGB. Dust that all snow holds takes four percent of it (common practice)."""
    r, g, b = 0.96 * albedo(np.array(RGB_NM), grain_mm)
    return float(r), float(g), float(b)
