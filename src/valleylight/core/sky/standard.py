"""Skies given by a formula of luminance: the CIE standard general skies, and measured weather after Perez."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.colour.temperature import kelvin_to_unit_rgb
from valleylight.core.project.sky import MeasuredSky
from valleylight.core.sky import cie, perez
from valleylight.core.sky.dome import cell_angles, solid_angles
from valleylight.core.sky.illuminance import cloud_share, sky_horizontal_lx
from valleylight.core.sun.sunlight import air_mass

Array = NDArray[np.float64]
#: Colour temperature of a daytime overcast sky (common practice).
CLOUD_KELVIN = 6500.0


def cie_sky(sky_type: int, sun_azimuth_rad: float, sun_altitude_deg: float, clear: Array) -> Array:
    """A CIE standard general sky above the horizon, (R, 2 R, 3) in cd/m2, scaled to the daylight availability of its
    class (illuminance.py). `clear` is the clear sky of the hour, which gives the colour; cloud is white to the same share
    as in the availability classes."""
    altitude, chi = _angles(clear, sun_azimuth_rad, sun_altitude_deg)
    sun_zenith = np.pi / 2 - np.radians(sun_altitude_deg)
    relative = cie.relative_luminance(np.pi / 2 - altitude, chi, sun_zenith, sky_type)
    return _coloured(
        relative, sky_horizontal_lx(sun_altitude_deg, sky_type), cloud_share(sky_type), sun_altitude_deg, clear
    )


def measured_sky(measured: MeasuredSky, sun_azimuth_rad: float, sun_altitude_deg: float, clear: Array) -> Array:
    """The sky of measured illuminances after Perez 1993, (R, 2 R, 3) in cd/m2."""
    altitude, chi = _angles(clear, sun_azimuth_rad, sun_altitude_deg)
    zenith = float(np.pi / 2 - np.radians(max(sun_altitude_deg, 1.0)))
    epsilon = perez.clearness(measured.direct_normal_lx, measured.diffuse_horizontal_lx, zenith)
    delta = perez.brightness(measured.diffuse_horizontal_lx, air_mass(max(sun_altitude_deg, 1.0)))
    relative = perez.relative_luminance(np.pi / 2 - altitude, chi, perez.coefficients(epsilon, delta, zenith))
    white = float(np.clip(1.2 - (epsilon - 1) / 4, 0, 1))
    return _coloured(relative, measured.diffuse_horizontal_lx, white, sun_altitude_deg, clear)


def _angles(clear: Array, sun_azimuth_rad: float, sun_altitude_deg: float) -> tuple[Array, Array]:
    """Altitude of each cell (not below the horizon) and its angle from the sun in radians."""
    altitude, azimuth = cell_angles(len(clear))
    h, a = np.meshgrid(np.maximum(altitude, 0.0), azimuth, indexing="ij")
    sun = np.radians(sun_altitude_deg)
    cosine = np.sin(h) * np.sin(sun) + np.cos(h) * np.cos(sun) * np.cos(a - sun_azimuth_rad)
    return h, np.arccos(np.clip(cosine, -1, 1))


def _coloured(relative: Array, target_lx: float, white: float, sun_altitude_deg: float, clear: Array) -> Array:
    rows = len(clear)
    altitude, _ = cell_angles(rows)
    above = altitude > 0
    relative = np.where(above[:, None], relative, 0.0)
    omega = solid_angles(rows)
    luminance = relative * target_lx / np.einsum("rc,r->", relative, np.sin(np.maximum(altitude, 0)) * omega)
    bright = np.maximum(clear @ LUMINANCE, 1e-12)
    blue = clear / bright[..., None]
    cloud = kelvin_to_unit_rgb(CLOUD_KELVIN)
    if sun_altitude_deg < 8:  # low clouds take the colour of the whole sky
        share = min((8 - sun_altitude_deg) / 10, 1.0)
        weights = luminance * omega[:, None]
        cloud = (1 - share) * cloud + share * np.einsum("rct,rc->t", blue, weights) / weights.sum()
    mixed = (1 - white) * blue + white * cloud
    return np.asarray(np.where(above[:, None, None], mixed * luminance[..., None], 0.0))
