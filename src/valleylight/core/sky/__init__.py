"""The sky: luminance by the CIE standard general skies, colour by scattering, absolute scale by availability."""

from valleylight.core.sky.cie import NAMES, PARAMETERS, relative_luminance
from valleylight.core.sky.dome import Dome, standard_dome
from valleylight.core.sky.illuminance import sky_horizontal_lx, sun_share_through_cloud

__all__ = [
    "NAMES",
    "PARAMETERS",
    "Dome",
    "relative_luminance",
    "sky_horizontal_lx",
    "standard_dome",
    "sun_share_through_cloud",
]
