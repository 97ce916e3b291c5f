"""The sky: computed air with clouds, CIE standard general skies, measured weather, night, and pictures that stand in."""

from valleylight.core.sky.build import CelestialBody, SkyLight, sky_light
from valleylight.core.sky.cie import NAMES, PARAMETERS, relative_luminance
from valleylight.core.sky.dome import Dome
from valleylight.core.sky.illuminance import sky_horizontal_lx, sun_share_through_cloud

__all__ = [
    "NAMES",
    "PARAMETERS",
    "CelestialBody",
    "Dome",
    "SkyLight",
    "relative_luminance",
    "sky_horizontal_lx",
    "sky_light",
    "sun_share_through_cloud",
]
