"""Colour of the clear sky and of twilight by single scattering in a spherical atmosphere.

Light of the sun is scattered once towards the eye by air (Rayleigh) and aerosol (Henyey-Greenstein) and absorbed by
ozone on both legs; the light scattered again is approximated by the sky's mean added to every direction.
Sources: A. Bucholtz, Rayleigh-scattering calculations for the terrestrial atmosphere, Applied Optics 34, 1995 (air);
A. Angstrom's law with exponent 1.14 (aerosol); ozone cross sections of the Chappuis band and constants of the layer
from memory. Only the colour is used; luminance comes from the CIE standard sky.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.observer import matching_functions
from valleylight.core.colour.rgb import xyz_to_unit_rgb
from valleylight.core.sun.sunlight import ANGSTROM_EXPONENT, aerosol_depth_500

WAVELENGTHS_NM = np.arange(400.0, 701.0, 30.0)
EARTH_M, TOP_M = 6.371e6, 6.371e6 + 80e3
AIR_HEIGHT_M, AEROSOL_HEIGHT_M = 8.0e3, 1.2e3
RAYLEIGH_PER_M = 1.16e-5 * (550.0 / WAVELENGTHS_NM) ** 4.09
OZONE_COLUMN_PER_M2 = 8.3e22
#: Chappuis band absorption in m2 a molecule at WAVELENGTHS_NM.
OZONE_M2 = np.array([0.0, 0.07, 0.25, 0.75, 1.6, 3.4, 4.6, 4.6, 2.9, 1.6, 0.85]) * 1e-25
OZONE_PEAK_M, OZONE_HALF_M = 25e3, 15e3
ASYMMETRY = 0.76
#: Share of the sky's mean added for light scattered more than once.
MULTIPLE_SHARE = 0.35
ALTITUDES, AZIMUTHS = 18, 15


def _solar_spectrum() -> NDArray[np.float64]:
    """Planck's law at the sun's effective temperature, 5778 K, in relative units."""
    m = WAVELENGTHS_NM * 1e-9
    return np.asarray(m**-5 / np.expm1(1.4388e-2 / (m * 5778.0)) * 1e-31)


def _densities(height_m: NDArray[np.float64]) -> NDArray[np.float64]:
    """Air, aerosol (relative to the ground) and ozone (relative to its peak) at a height; shape (..., 3)."""
    h = np.maximum(height_m, 0.0)
    ozone = np.maximum(1 - np.abs(h - OZONE_PEAK_M) / OZONE_HALF_M, 0.0)
    return np.stack([np.exp(-h / AIR_HEIGHT_M), np.exp(-h / AEROSOL_HEIGHT_M), ozone], -1)


def _distance_to_top(radius: NDArray[np.float64], cosine: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(-radius * cosine + np.sqrt((radius * cosine) ** 2 + TOP_M**2 - radius**2))


def _columns(radius: NDArray[np.float64], cosine: NDArray[np.float64], steps: int) -> NDArray[np.float64]:
    """Density integrals in m towards the top of the air; beyond all light where the ray meets the ground. Shape (..., 3)."""
    length = _distance_to_top(radius, cosine)
    edges = np.linspace(0, 1, steps + 1) ** 2
    t = length[..., None] * (edges[1:] + edges[:-1]) / 2
    r = np.sqrt(radius[..., None] ** 2 + t**2 + 2 * t * (radius * cosine)[..., None])
    total = (_densities(r - EARTH_M) * (np.diff(edges) * length[..., None])[..., None]).sum(-2)
    nearest = radius * np.sqrt(np.maximum(1 - cosine**2, 0.0))
    total[(cosine < 0) & (nearest < EARTH_M)] = 1e12
    return np.asarray(total)


@lru_cache(maxsize=64)
def unit_colour_grid(sun_altitude_deg: float, turbidity: float) -> NDArray[np.float64]:
    """Linear RGB at luminance 1 over the sky; shape (ALTITUDES, AZIMUTHS, 3).

    Rows run from the horizon to the zenith (even steps of the square root of the altitude), columns from the sun's
    azimuth to 180 degrees from it.
    """
    h = np.radians(max(sun_altitude_deg, -17.0))
    sun = np.array([np.cos(h), 0.0, np.sin(h)])
    altitude = np.pi / 2 * np.maximum(np.linspace(0, 1, ALTITUDES), 0.02) ** 2
    azimuth = np.linspace(0, np.pi, AZIMUTHS)
    up = np.sin(altitude)[:, None] * np.ones(AZIMUTHS)
    view = np.stack([np.cos(altitude)[:, None] * np.cos(azimuth), np.cos(altitude)[:, None] * np.sin(azimuth), up], -1)
    radius = np.full(up.shape, EARTH_M + 200.0)
    length = _distance_to_top(radius, up)
    edges = np.linspace(0, 1, 23) ** 2
    t = length[..., None] * (edges[1:] + edges[:-1]) / 2
    step = length[..., None] * np.diff(edges)
    point = view[..., None, :] * t[..., None] + np.array([0.0, 0.0, radius[0, 0]])
    r = np.linalg.norm(point, axis=-1)
    density = _densities(r - EARTH_M)
    along = np.cumsum(density * step[..., None], axis=-2) - density * step[..., None] / 2
    to_sun = _columns(r, (point @ sun) / r, 10)
    aerosol = aerosol_depth_500(turbidity) / AEROSOL_HEIGHT_M * (500.0 / WAVELENGTHS_NM) ** ANGSTROM_EXPONENT
    ozone = OZONE_M2 * OZONE_COLUMN_PER_M2 / OZONE_HALF_M
    extinction = np.stack([RAYLEIGH_PER_M, aerosol * 1.1, ozone])
    transmitted = np.exp(-np.minimum((along + to_sun) @ extinction, 700.0))
    cosine = view @ sun
    rayleigh = 3 / (16 * np.pi) * (1 + cosine**2)
    mie = (1 - ASYMMETRY**2) / (4 * np.pi * (1 + ASYMMETRY**2 - 2 * ASYMMETRY * cosine) ** 1.5)
    source = (
        rayleigh[..., None, None] * density[..., :1] * RAYLEIGH_PER_M
        + mie[..., None, None] * density[..., 1:2] * aerosol
    )
    spectrum = (source * transmitted * step[..., None]).sum(-2) * _solar_spectrum()
    weight = np.cos(altitude)[:, None, None] * np.gradient(altitude)[:, None, None]
    mean = (spectrum * weight).sum((0, 1)) / (weight.sum() * AZIMUTHS)
    # A second scattering favours short waves once more; beyond that the mean's own colour is kept.
    mean_again = mean * (RAYLEIGH_PER_M / RAYLEIGH_PER_M.mean()) ** 0.5
    spectrum = spectrum + MULTIPLE_SHARE * mean_again
    return xyz_to_unit_rgb(spectrum @ matching_functions(WAVELENGTHS_NM))


def unit_colour(
    altitude_rad: NDArray[np.float64],
    azimuth_from_sun_rad: NDArray[np.float64],
    sun_altitude_deg: float,
    turbidity: float,
) -> NDArray[np.float64]:
    """Linear RGB at luminance 1 in the given directions; shape (..., 3). Bilinear in the grid."""
    grid = unit_colour_grid(round(sun_altitude_deg, 2), round(turbidity, 2))
    row = np.sqrt(np.clip(altitude_rad, 0, np.pi / 2) / (np.pi / 2)) * (ALTITUDES - 1)
    turn = np.abs(np.mod(azimuth_from_sun_rad + np.pi, 2 * np.pi) - np.pi)
    column = turn / np.pi * (AZIMUTHS - 1)
    i = np.minimum(row.astype(int), ALTITUDES - 2)
    j = np.minimum(column.astype(int), AZIMUTHS - 2)
    v, u = (row - i)[..., None], (column - j)[..., None]
    return np.asarray(
        (1 - v) * ((1 - u) * grid[i, j] + u * grid[i, j + 1]) + v * ((1 - u) * grid[i + 1, j] + u * grid[i + 1, j + 1])
    )
