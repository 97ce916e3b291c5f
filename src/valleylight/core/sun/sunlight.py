"""Strength and colour of the direct sun from its spectrum through clear air.

Source: R. Bird, C. Riordan, Simple Solar Spectral Model for Direct and Diffuse Irradiance (SPCTRL2), SERI/TR-215-2436,
1984, as implemented by pvlib. Air mass: F. Kasten, A. Young, Revised optical air mass tables, Applied Optics 28, 1989.
Turbidity T to the Angstrom coefficient beta = 0.04608 T - 0.04586: A. Preetham, P. Shirley, B. Smits, A Practical
Analytic Model for Daylight, 1999, appendix 1.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from pvlib.spectrum import spectrl2

from valleylight.core.colour.observer import LUMINOUS_EFFICACY, matching_functions
from valleylight.core.colour.rgb import xyz_to_unit_rgb

#: True apparent radius of the sun in degrees (mean of the year).
SUN_RADIUS_DEG = 0.2666
#: Column of precipitable water in cm and of ozone in atm-cm (US Standard Atmosphere 1976, rounded).
WATER_CM, OZONE_ATM_CM = 1.42, 0.31
ANGSTROM_EXPONENT = 1.14


@dataclass(frozen=True)
class Sunlight:
    """Direct sun: illuminance in lx on a plane facing it, and its linear RGB colour at luminance 1, shape (3,)."""

    normal_illuminance_lx: float
    unit_rgb: NDArray[np.float64]


def air_mass(altitude_deg: float) -> float:
    """Relative optical air mass at an apparent altitude (Kasten and Young 1989)."""
    h = max(altitude_deg, 0.0)
    return 1.0 / (np.sin(np.radians(h)) + 0.50572 * (h + 6.07995) ** -1.6364)


def aerosol_depth_500(turbidity: float) -> float:
    """Aerosol optical depth at 500 nm of a turbidity (Preetham 1999 and Angstrom's law, exponent 1.14)."""
    beta = max(0.04608 * turbidity - 0.04586, 0.0)
    return float(beta * 0.5**-ANGSTROM_EXPONENT)


@lru_cache(maxsize=256)
def clear_sunlight(altitude_deg: float, turbidity: float = 2.5, day_of_year: int = 80) -> Sunlight:
    """Direct sun through cloudless air. Below the horizon the disc sinks over its own diameter, then gives nothing."""
    seen = min(max((altitude_deg + 0.6) / 0.6, 0.0), 1.0)
    altitude = max(altitude_deg, 0.05)
    spectrum = spectrl2(
        apparent_zenith=90.0 - altitude, aoi=0.0, surface_tilt=90.0 - altitude, ground_albedo=0.2,
        surface_pressure=101325.0, relative_airmass=air_mass(altitude), precipitable_water=WATER_CM,
        ozone=OZONE_ATM_CM, aerosol_turbidity_500nm=aerosol_depth_500(turbidity), dayofyear=day_of_year,
    )  # fmt: skip
    nm = np.asarray(spectrum["wavelength"], float).ravel()
    watts = np.nan_to_num(np.asarray(spectrum["dni"], float).ravel())
    fine = np.arange(380.0, 781.0, 5.0)
    xyz = np.trapezoid(np.interp(fine, nm, watts)[:, None] * matching_functions(fine), fine, axis=0)
    return Sunlight(float(LUMINOUS_EFFICACY * xyz[1] * seen), xyz_to_unit_rgb(xyz))


def direction(azimuth_deg: float, altitude_deg: float) -> NDArray[np.float64]:
    """Unit vector towards azimuth (clockwise from north) and altitude; X east, Y north, Z up."""
    a, h = np.radians(azimuth_deg), np.radians(altitude_deg)
    return np.array([np.cos(h) * np.sin(a), np.cos(h) * np.cos(a), np.sin(h)])
