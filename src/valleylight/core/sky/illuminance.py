"""Absolute horizontal illuminance of the sky, and how far its clouds dim the sun.

Sources: IES RP-21-84 / IES Lighting Handbook, daylight availability: E = A + B sin(h)^C in klx for clear, partly
cloudy and cloudy skies, and direct extinction exp(-c m) with c = 0.21 clear and 0.80 partly cloudy. Twilight by
the natural illuminance table of the RCA Electro-Optics Handbook, 1974, figure 6-1 (from memory).
"""

from __future__ import annotations

import numpy as np

from valleylight.core.sun.sunlight import air_mass

#: A, B (klx) and C of the horizontal sky illuminance.
_AVAILABILITY = {"clear": (0.8, 15.5, 0.5), "partly": (0.3, 45.0, 1.0), "cloudy": (0.3, 21.0, 1.0)}
_EXTINCTION = {"clear": 0.21, "partly": 0.80}
#: Sun altitude in degrees and illuminance in lx from the whole sky, moonless.
_TWILIGHT_DEG = np.array([-18.0, -12.0, -6.0, -0.8])
_TWILIGHT_LX = np.array([6.51e-4, 8.31e-3, 3.40, 400.0])
#: The sun outside the air on a plane facing it, in lx (CIE luminous solar constant).
SOLAR_LX = 133_800.0
#: Airglow and stars alone, in lx.
NIGHT_LX = 6.0e-4


def cover(sky_type: int) -> str:
    """clear, partly or cloudy: the availability class of a CIE sky type."""
    return "cloudy" if sky_type <= 5 else "partly" if sky_type <= 10 else "clear"


def cloud_share(sky_type: int) -> float:
    """How much of the sky's colour is that of cloud: 1 overcast, 0.55 partly cloudy, 0 clear (common practice)."""
    return {"cloudy": 1.0, "partly": 0.55, "clear": 0.0}[cover(sky_type)]


def sky_horizontal_lx(altitude_deg: float, sky_type: int) -> float:
    """Horizontal illuminance in lx from the sky without the sun, for any altitude of the sun."""
    a, b, c = _AVAILABILITY[cover(sky_type)]
    if altitude_deg >= 0:
        return 1000.0 * (a + b * float(np.sin(np.radians(altitude_deg))) ** c)
    dim = 0.35 if cover(sky_type) == "cloudy" else 1.0
    at_horizon = 1000.0 * a
    angles = np.append(_TWILIGHT_DEG, 0.0)
    levels = np.append(_TWILIGHT_LX * dim, at_horizon)
    if altitude_deg <= angles[0]:
        return NIGHT_LX * dim
    return float(np.exp(np.interp(altitude_deg, angles, np.log(levels))))


def sun_share_through_cloud(altitude_deg: float, sky_type: int) -> float:
    """Factor on the clear-sky direct sun: 1 clear, exp(-(0.80 - 0.21) m) partly cloudy, 0 overcast."""
    kind = cover(sky_type)
    if kind == "cloudy":
        return 0.0
    return float(np.exp(-(_EXTINCTION[kind] - _EXTINCTION["clear"]) * min(air_mass(altitude_deg), 8.0)))
