"""Where the sun of an occasion stands."""

from __future__ import annotations

from valleylight.core.project.description import Occasion, Site
from valleylight.core.sun.position import position


def place_of_sun(site: Site, occasion: Occasion) -> tuple[float, float]:
    """Azimuth and altitude of the sun in degrees, by place and time or as set by hand."""
    sun = occasion.sun
    if not sun.true_to_place:
        return sun.azimuth_deg % 360, sun.altitude_deg
    where = position(site.latitude_deg, site.longitude_deg, occasion.moment(site), site.elevation_m)
    return where.azimuth_deg % 360, where.altitude_deg
