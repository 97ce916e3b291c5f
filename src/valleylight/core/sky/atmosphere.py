"""The clear sky computed from what the air is made of, from high sun to the end of astronomical twilight."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from valleylight.core.sky import scatter
from valleylight.core.sky.columns import column_table
from valleylight.core.sky.constituents import (
    AEROSOL_ALBEDO,
    ASYMMETRY,
    RAYLEIGH_PER_M,
    WAVELENGTHS_NM,
    aerosol_per_m,
    ozone_per_m,
    solar_irradiance,
    spectrum_to_rgb,
)

Array = NDArray[np.float64]
#: Table of mean radiance: heights, sun altitudes, directions, steps of a ray, orders of scattering.
HEIGHTS, NODES, COSINES, TURNS, STEPS, ORDERS = 14, 48, 14, 8, 18, 4
#: Grid of the sky's fields, and where they are seen from.
FIELD_ALTITUDES, FIELD_TURNS, FIELD_STEPS, EYE_M = 32, 24, 40, 10.0
WAVES = len(WAVELENGTHS_NM)


@dataclass(frozen=True)
class Atmosphere:
    """Clear air of a turbidity over ground of an albedo, tabulated for every height and sun.

    `extinct` (3, W) per m of air, aerosol, ozone for the direct sun, `transport` the same for scattered light,
    `scattering` (2, W) of air and aerosol for scattered light, `full` (W,) the aerosol's whole scattering;
    `mean` (HEIGHTS, NODES, W) mean radiance of scattered light in W/(m2 sr nm).
    """

    extinct: Array
    transport: Array
    scattering: Array
    full: Array
    mean: Array

    def direct_rgb_lx(self, sun_altitude_deg: float, height_m: float = EYE_M) -> Array:
        """Illuminance by the direct sun of a plane facing it, as luminance-scaled linear RGB in lx; shape (3,)."""
        air, aerosol, ozone, seen = scatter.sun_columns(
            column_table(), height_m, float(np.sin(np.radians(sun_altitude_deg)))
        )
        depth = air * self.extinct[0] + aerosol * self.extinct[1] + ozone * self.extinct[2]
        return np.asarray(seen * (solar_irradiance() * np.exp(-depth)) @ spectrum_to_rgb())

    def extinction_rgb_per_m(self) -> Array:
        """Extinction at the ground in the three primaries, for what is seen through the air; shape (3,)."""
        total = self.transport[0] + self.transport[1]
        light = solar_irradiance()[:, None] * np.maximum(spectrum_to_rgb(), 0.0)
        return np.asarray((light * total[:, None]).sum(0) / light.sum(0))


@lru_cache(maxsize=12)
def atmosphere(turbidity: float, albedo: float) -> Atmosphere:
    """The tables of an atmosphere; about half a second, then kept."""
    aerosol, ozone = aerosol_per_m(turbidity), ozone_per_m()
    full = aerosol * AEROSOL_ALBEDO
    turned = full * (1 - ASYMMETRY)
    extinct = np.stack([RAYLEIGH_PER_M, aerosol, ozone])
    transport = np.stack([RAYLEIGH_PER_M, aerosol - full + turned, ozone])
    scattering = np.stack([RAYLEIGH_PER_M, turned])
    # Where light is scattered for the first time the whole of the aerosol's scattering counts.
    at_first = np.stack([RAYLEIGH_PER_M, full])
    x = np.arange(NODES) / (NODES - 1)
    below = scatter.LOWEST * (1 - x / scatter.SPLIT) ** 2
    altitudes = np.where(x < scatter.SPLIT, below, np.pi / 2 * ((x - scatter.SPLIT) / (1 - scatter.SPLIT)) ** 2)
    # Directions crowd at the horizon, where the glow of twilight lies: cos Z = x |x|.
    x, weights = np.polynomial.legendre.leggauss(COSINES)
    cosines, weights = x * np.abs(x), weights * 2 * np.abs(x)
    turns = (np.arange(TURNS) + 0.5) / TURNS * np.pi
    directions = scatter.Directions(altitudes, cosines, weights / 2, turns)
    total, before = np.zeros((HEIGHTS, NODES, WAVES)), np.zeros((HEIGHTS, NODES, WAVES))
    ground = np.zeros((NODES, WAVES))
    with ThreadPoolExecutor(2) as pool:
        for order in range(ORDERS):
            mean, lit = np.zeros_like(total), np.zeros_like(ground)
            first = order == 0

            def rows(low: int, high: int, first: bool = first, before: Array = before, ground: Array = ground,
                     mean: Array = mean, lit: Array = lit) -> None:  # fmt: skip
                medium = scatter.Medium(column_table(), extinct, transport, at_first if first else scattering)
                scratch = np.zeros((STEPS, 6 + WAVES))
                scatter.next_order(
                    medium,
                    solar_irradiance(),
                    float(albedo),
                    first,
                    before,
                    ground,
                    directions,
                    low,
                    high,
                    scratch,
                    mean,
                    lit,
                )

            list(pool.map(lambda k: rows(k, k + 2), range(0, HEIGHTS, 2)))
            total, before, ground = total + mean, mean, lit
    return Atmosphere(extinct, transport, scattering, full, total)


@lru_cache(maxsize=64)
def sky_fields(turbidity: float, albedo: float, sun_altitude_deg: float) -> NDArray[np.float64]:
    """Fields of the sky before the phase functions; shape (FIELD_ALTITUDES, FIELD_TURNS, 3, 3), see `scatter.gather_fields`.

    Rows run with the square from horizon to zenith, columns from the sun's azimuth to 180 degrees from it.
    """
    air = atmosphere(turbidity, albedo)
    altitude = np.pi / 2 * np.maximum(np.arange(FIELD_ALTITUDES) / (FIELD_ALTITUDES - 1), 0.01) ** 2
    turns = np.linspace(0, np.pi, FIELD_TURNS)
    out = np.zeros((FIELD_ALTITUDES, FIELD_TURNS, 3, 3))
    scatter.gather_fields(
        scatter.Medium(column_table(), air.extinct, air.transport, air.scattering), air.full, solar_irradiance(), air.mean, EYE_M,
        altitude, turns, float(np.radians(sun_altitude_deg)), FIELD_STEPS, spectrum_to_rgb(), out,
    )  # fmt: skip
    return out
