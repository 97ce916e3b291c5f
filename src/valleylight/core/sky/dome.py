"""The sky as a picture of luminance: what the tracer samples and the lens sees."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.colour.temperature import kelvin_to_unit_rgb
from valleylight.core.sky.cie import relative_luminance
from valleylight.core.sky.illuminance import cloud_share, sky_horizontal_lx
from valleylight.core.sky.scattering import unit_colour

ROWS, COLUMNS = 128, 256
#: Colour temperature of a daytime overcast sky (common practice).
CLOUD_KELVIN = 6500.0


@dataclass(frozen=True)
class Dome:
    """Luminance-scaled linear RGB in cd/m2 over the whole sphere; shape (ROWS, COLUMNS, 3), float32.

    Rows run from straight down to straight up in even steps of altitude, columns clockwise from north.
    """

    rgb: NDArray[np.float32]
    horizontal_illuminance_lx: float

    @property
    def luminance(self) -> NDArray[np.float64]:
        return np.asarray(self.rgb.astype(float) @ LUMINANCE)


def cell_angles() -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Altitudes (ROWS,) and azimuths (COLUMNS,) of the cell centres in radians."""
    altitude = ((np.arange(ROWS) + 0.5) / ROWS - 0.5) * np.pi
    azimuth = (np.arange(COLUMNS) + 0.5) / COLUMNS * 2 * np.pi
    return altitude, azimuth


def solid_angles() -> NDArray[np.float64]:
    """Solid angle of a cell of each row in sr; shape (ROWS,)."""
    edges = np.linspace(-np.pi / 2, np.pi / 2, ROWS + 1)
    return np.diff(np.sin(edges)) * 2 * np.pi / COLUMNS


@lru_cache(maxsize=32)
def standard_dome(
    sky_type: int, sun_azimuth_deg: float, sun_altitude_deg: float, turbidity: float, ground_albedo: float = 0.15
) -> Dome:
    """A CIE standard general sky scaled to absolute luminance, with colour, over a plain far ground.

    Luminance: CIE S 011 scaled so that the horizontal illuminance equals the daylight availability of its class.
    Colour: single scattering, mixed with that of cloud. Below the horizon lies ground of the stated albedo.
    """
    altitude, azimuth = cell_angles()
    h, a = np.meshgrid(altitude, azimuth, indexing="ij")
    sun_h, sun_a = np.radians(sun_altitude_deg), np.radians(sun_azimuth_deg)
    above = h > 0
    chi = np.arccos(np.clip(np.sin(h) * np.sin(sun_h) + np.cos(h) * np.cos(sun_h) * np.cos(a - sun_a), -1, 1))
    relative = np.where(above, relative_luminance(np.pi / 2 - np.abs(h), chi, np.pi / 2 - sun_h, sky_type), 0.0)
    target = sky_horizontal_lx(sun_altitude_deg, sky_type)
    omega = solid_angles()[:, None]
    luminance = relative * target / (relative * np.sin(np.maximum(h, 0)) * omega).sum()

    clear = unit_colour(np.maximum(h, 0), a - sun_a, sun_altitude_deg, turbidity)
    cloud = kelvin_to_unit_rgb(CLOUD_KELVIN)
    if sun_altitude_deg < 8:  # low clouds take the colour of the whole sky
        share = min((8 - sun_altitude_deg) / 10, 1.0)
        weights = (luminance * omega)[..., None]
        cloud = (1 - share) * cloud + share * (clear * weights).sum((0, 1)) / weights.sum()
    mix = cloud_share(sky_type)
    rgb = ((1 - mix) * clear + mix * cloud) * luminance[..., None]
    ground = ground_albedo / np.pi * (rgb * np.where(above, np.sin(h) * omega, 0.0)[..., None]).sum((0, 1))
    rgb[~above] = ground
    return Dome(rgb.astype(np.float32), target)
