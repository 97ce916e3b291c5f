"""A sun set by hand: on a side of the view, with shadows of a length, and when the true sun comes nearest to it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from zoneinfo import ZoneInfo

import numpy as np

from valleylight.core.errors import InputError
from valleylight.core.project.description import Site
from valleylight.core.sun.position import positions_at
from valleylight.core.sun.sunlight import direction

#: The true sun is looked up every quarter of an hour.
QUARTERS_A_DAY = 96


@dataclass(frozen=True)
class ByHand:
    """A sun set by hand: true azimuth and altitude in degrees, shadow length over height, and the moment of the year whose sun
    comes nearest, with the angle between them in degrees."""

    azimuth_deg: float
    altitude_deg: float
    shadow_over_height: float
    nearest: datetime
    misses_by_deg: float


#: Sides of a view from which the sun may come: degrees clockwise from the direction in which it looks.
SIDES = {"left": -75.0, "right": 75.0, "from behind": 160.0, "against the lens": 15.0}


def by_hand(site: Site, view_azimuth_deg: float, side: str, shadow: float, year: int) -> ByHand:
    """The sun on a side of the view, as low as throws shadows of a length (over the height of what throws them).

    `view_azimuth_deg` is true. Raises InputError for an unknown side or a shadow that no sun throws.
    """
    if side not in SIDES:
        raise InputError(f"there is no side {side!r}", "side", f"Choose one of: {', '.join(SIDES)}")
    if not 0.1 <= shadow <= 20:
        raise InputError(f"a shadow of {shadow:g} heights", "shadow", "Choose 0.1 to 20")
    azimuth, altitude = (view_azimuth_deg + SIDES[side]) % 360, float(np.degrees(np.arctan(1 / shadow)))
    starts = np.array([datetime(year, 1, 1, tzinfo=ZoneInfo(site.time_zone)).timestamp()])
    unix = np.asarray(starts + np.arange(0, 365 * QUARTERS_A_DAY) * 900.0, np.float64)
    a, h = positions_at(site.latitude_deg, site.longitude_deg, unix, year)
    wanted = direction(azimuth, altitude)
    cosine = (
        np.cos(np.radians(h)) * (np.sin(np.radians(a)) * wanted[0] + np.cos(np.radians(a)) * wanted[1])
        + np.sin(np.radians(h)) * wanted[2]
    )  # fmt: skip
    best = int(cosine.argmax())
    return ByHand(
        azimuth, altitude, shadow, datetime.fromtimestamp(float(unix[best]), ZoneInfo(site.time_zone)).replace(tzinfo=None),
        float(np.degrees(np.arccos(np.clip(cosine[best], -1, 1)))),
    )  # fmt: skip
