"""What the clear atmosphere is made of, in coefficients at eleven wavelengths, and how a spectrum becomes cd/m2.

Sources: air: A. Bucholtz, Rayleigh-scattering calculations for the terrestrial atmosphere, Applied Optics 34, 1995
(1.16e-5 per m at 550 nm, exponent 4.09). Aerosol: Angstrom's law with exponent 1.14; single scattering albedo 0.92 and
asymmetry 0.76 of rural aerosol (E. Shettle, R. Fenn, AFGL-TR-79-0214, 1979, rounded). Ozone: Chappuis band, from memory;
300 Dobson units. Sun outside the atmosphere: ASTM G173-03, as shipped with pvlib.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from pvlib.spectrum import get_reference_spectra

from valleylight.core.colour.observer import LUMINOUS_EFFICACY, matching_functions
from valleylight.core.colour.rgb import XYZ_TO_RGB
from valleylight.core.sun.sunlight import ANGSTROM_EXPONENT, aerosol_depth_500

WAVELENGTHS_NM = np.arange(400.0, 701.0, 30.0)
EARTH_M, TOP_M = 6.371e6, 6.371e6 + 80e3
#: Density of air over that at the ground, every AIR_STEP_M, log-linear between (US Standard Atmosphere 1976, from memory).
AIR_STEP_M = 5e3
AIR_DENSITY = np.array([
    1.0, 0.6012, 0.3376, 0.1590, 0.07258, 0.03272, 0.01503, 6.916e-3, 3.262e-3, 1.605e-3, 8.383e-4, 4.642e-4, 2.528e-4,
    1.334e-4, 6.762e-5, 3.256e-5, 1.507e-5,
])  # fmt: skip
LOG_AIR = np.log(AIR_DENSITY)
#: Heights over which air near the ground and aerosol thin out by e.
AIR_HEIGHT_M, AEROSOL_HEIGHT_M = 8.4e3, 1.2e3
RAYLEIGH_PER_M = 1.16e-5 * (550.0 / WAVELENGTHS_NM) ** 4.09
OZONE_COLUMN_PER_M2 = 8.07e22
OZONE_PEAK_M, OZONE_HALF_M = 25e3, 15e3
#: Absorption in m2 a molecule at WAVELENGTHS_NM.
OZONE_M2 = np.array([0.0, 0.07, 0.25, 0.75, 1.6, 3.4, 4.6, 4.6, 2.9, 1.6, 0.85]) * 1e-25
AEROSOL_ALBEDO, ASYMMETRY = 0.92, 0.76


def aerosol_per_m(turbidity: float) -> NDArray[np.float64]:
    """Extinction of aerosol at the ground per m at WAVELENGTHS_NM."""
    depth = aerosol_depth_500(turbidity) * (500.0 / WAVELENGTHS_NM) ** ANGSTROM_EXPONENT
    return np.asarray(depth / AEROSOL_HEIGHT_M)


def ozone_per_m() -> NDArray[np.float64]:
    """Absorption at the ozone layer's peak per m at WAVELENGTHS_NM: a triangle that holds the whole column."""
    return np.asarray(OZONE_M2 * OZONE_COLUMN_PER_M2 / OZONE_HALF_M)


def _hats(fine: NDArray[np.float64]) -> NDArray[np.float64]:
    """Weight of each wavelength at fine steps, linear between and constant beyond the ends; shape (fine, 11)."""
    return np.stack([np.interp(fine, WAVELENGTHS_NM, row) for row in np.eye(len(WAVELENGTHS_NM))], -1)


@lru_cache(maxsize=1)
def spectrum_to_rgb() -> NDArray[np.float64]:
    """(11, 3): a spectrum in W per nm at WAVELENGTHS_NM to luminance-scaled linear RGB (lm or cd for W)."""
    fine = np.arange(380.0, 781.0, 1.0)
    xyz = LUMINOUS_EFFICACY * np.einsum("fw,fc->wc", _hats(fine), matching_functions(fine))
    return np.asarray(xyz @ XYZ_TO_RGB.T)


@lru_cache(maxsize=1)
def solar_irradiance() -> NDArray[np.float64]:
    """Irradiance outside the atmosphere in W / (m2 nm) at WAVELENGTHS_NM, means over the steps."""
    fine = np.arange(400.0, 701.0, 1.0)
    table = get_reference_spectra(wavelengths=fine)["extraterrestrial"].to_numpy()
    weights = _hats(fine)
    return np.asarray((weights * table[:, None]).sum(0) / weights.sum(0))
