"""What lights an occasion: the sun and the sky as the description asks for them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core import sky as sky_model
from valleylight.core import sun as sun_model
from valleylight.core.colour.temperature import kelvin_to_unit_rgb
from valleylight.core.project.description import Occasion, Site
from valleylight.core.sky.dome import Dome
from valleylight.core.sun.sunlight import SUN_RADIUS_DEG

#: Below this altitude the disc is wholly under the horizon.
SUN_GONE_DEG = -0.6


@dataclass(frozen=True)
class Daylight:
    """Sun and sky of an occasion in the model's frame (Y is the model's north)."""

    azimuth_deg: float
    altitude_deg: float
    direction: NDArray[np.float64]
    radius_deg: float
    sun_normal_lx: float
    sun_rgb_lx: NDArray[np.float64]
    dome: Dome

    @property
    def sun_up(self) -> bool:
        return self.sun_normal_lx > 0

    @property
    def sun_horizontal_lx(self) -> float:
        return self.sun_normal_lx * max(float(np.sin(np.radians(self.altitude_deg))), 0.0)


def daylight_of(site: Site, occasion: Occasion) -> Daylight:
    """Position, strength and colour of sun and sky. Levels (in stops) are left to the balance of the film."""
    sun = occasion.sun
    if sun.true_to_place:
        where = sun_model.position(site.latitude_deg, site.longitude_deg, occasion.moment(site), site.elevation_m)
        azimuth, altitude = where.azimuth_deg, where.altitude_deg
    else:
        azimuth, altitude = sun.azimuth_deg % 360, sun.altitude_deg
    turbidity, kind = occasion.sky.turbidity, occasion.sky.cie_type
    light = sun_model.clear_sunlight(round(altitude, 2), turbidity, occasion.when.timetuple().tm_yday)
    share = sky_model.sun_share_through_cloud(altitude, kind) if altitude > SUN_GONE_DEG else 0.0
    illuminance = light.normal_illuminance_lx * share
    unit = light.unit_rgb if sun.kelvin is None else kelvin_to_unit_rgb(sun.kelvin)
    local = azimuth - site.north_deg
    dome = sky_model.standard_dome(kind, round(local % 360, 2), round(altitude, 2), round(turbidity, 2))
    return Daylight(
        azimuth % 360, altitude, sun_model.direction(local, altitude), SUN_RADIUS_DEG * sun.size, illuminance,
        unit * illuminance, dome,
    )  # fmt: skip
