"""The parts of a day by the sun's altitude.

Civil, nautical and astronomical twilight end where the sun's centre stands 6, 12 and 18 degrees below the horizon
(Explanatory Supplement to the Astronomical Almanac). Golden hour: 6 degrees above to 4 below; blue hour: 4 to 6 below (both
common practice among photographers).
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

import numpy as np

from valleylight.core.sun.position import positions_of_day

#: Name, lower and upper altitude in degrees of each part of a day.
PARTS: tuple[tuple[str, float, float], ...] = (
    ("astronomical twilight", -18.0, -12.0), ("nautical twilight", -12.0, -6.0), ("civil twilight", -6.0, -0.833),
    ("blue hour", -6.0, -4.0), ("golden hour", -4.0, 6.0),
)  # fmt: skip


@dataclass(frozen=True)
class DayPart:
    """A stretch of a day in civil hours."""

    name: str
    start: float
    end: float


@dataclass(frozen=True)
class Parts:
    """The parts of a civil day, in the order of their beginning, and the hour and altitude of true noon."""

    parts: tuple[DayPart, ...]
    noon: float
    noon_altitude_deg: float


def parts_of_day(latitude_deg: float, longitude_deg: float, zone: str, day: date) -> Parts:
    """Twilights, golden and blue hours of a civil day (0 to 24), to about ten seconds."""
    hours = np.arange(0.0, 24.0001, 1 / 60)
    _, altitude = positions_of_day(latitude_deg, longitude_deg, zone, day, hours)
    found = []
    for name, low, high in PARTS:
        inside = (altitude >= low) & (altitude < high)
        edges = np.flatnonzero(np.diff(np.concatenate([[False], inside, [False]]).astype(int)))
        for first, last in zip(edges[::2], edges[1::2], strict=True):
            found.append(
                DayPart(name, _cross(hours, altitude, first, low, high), _cross(hours, altitude, last, low, high))
            )
    top = int(altitude.argmax())
    return Parts(tuple(sorted(found, key=lambda p: p.start)), float(hours[top]), float(altitude[top]))


def _cross(hours: np.ndarray, altitude: np.ndarray, k: int, low: float, high: float) -> float:
    """The hour between steps k - 1 and k at which the altitude passes one of two bounds."""
    if k == 0 or k >= len(hours):
        return float(hours[min(k, len(hours) - 1)])
    a, b = altitude[k - 1], altitude[k]
    bound = low if (a - low) * (b - low) <= 0 else high
    return float(hours[k - 1] + (bound - a) / (b - a) * (hours[k] - hours[k - 1])) if a != b else float(hours[k])
