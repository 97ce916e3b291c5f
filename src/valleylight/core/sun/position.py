"""Where the sun stands.

Source: I. Reda, A. Andreas, Solar Position Algorithm for Solar Radiation Applications, NREL/TP-560-34302, rev. 2008,
as implemented by pvlib (`pvlib.spa`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray
from pvlib import spa

from valleylight.core.errors import InputError

FIRST_YEAR, LAST_YEAR = 1900, 2100
STANDARD_PRESSURE_HPA = 1013.25
STANDARD_TEMPERATURE_C = 12.0
#: Refraction at the horizon in degrees, used by SPA to decide when the sun has set.
HORIZON_REFRACTION_DEG = 0.5667


@dataclass(frozen=True)
class SunPosition:
    """Azimuth clockwise from true north and altitude above the horizon with refraction, both in degrees."""

    azimuth_deg: float
    altitude_deg: float


def position(
    latitude_deg: float,
    longitude_deg: float,
    when: datetime,
    elevation_m: float = 0.0,
    pressure_hpa: float = STANDARD_PRESSURE_HPA,
    temperature_c: float = STANDARD_TEMPERATURE_C,
) -> SunPosition:
    """Topocentric position of the sun at an aware datetime.

    Raises InputError for a naive datetime, a year outside 1900 to 2100, or coordinates off the globe.
    """
    if when.tzinfo is None:
        raise InputError("the moment has no time zone", "when", "Give a datetime with tzinfo")
    check_year(when.year)
    check_place(latitude_deg, longitude_deg)
    azimuth, altitude = _spa(
        latitude_deg, longitude_deg, np.array([when.timestamp()]), elevation_m, pressure_hpa, temperature_c, when.year
    )
    return SunPosition(float(azimuth[0]), float(altitude[0]))


def positions_of_day(
    latitude_deg: float, longitude_deg: float, zone: str, day: date, hours: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Azimuths and altitudes in degrees at civil hours (N,) of one day in an IANA time zone."""
    check_year(day.year)
    midnight = datetime(day.year, day.month, day.day, tzinfo=ZoneInfo(zone)).timestamp()
    return _spa(
        latitude_deg, longitude_deg, midnight + np.asarray(hours) * 3600.0, 0.0, STANDARD_PRESSURE_HPA,
        STANDARD_TEMPERATURE_C, day.year,
    )  # fmt: skip


def positions_at(
    latitude_deg: float, longitude_deg: float, unix_s: NDArray[np.float64], year: int
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Azimuths and altitudes in degrees at moments (N,) in seconds since 1970 (UTC)."""
    check_year(year)
    return _spa(
        latitude_deg, longitude_deg, np.asarray(unix_s, float), 0.0, STANDARD_PRESSURE_HPA, STANDARD_TEMPERATURE_C, year
    )


def rise_and_set(latitude_deg: float, longitude_deg: float, zone: str, day: date) -> tuple[float | None, float | None]:
    """Civil hours of sunrise and sunset (0 to 24), or None where the sun does not cross the horizon that day."""
    return rises_and_sets(latitude_deg, longitude_deg, zone, [day])[0]


def rises_and_sets(
    latitude_deg: float, longitude_deg: float, zone: str, days: Sequence[date]
) -> list[tuple[float | None, float | None]]:
    """As `rise_and_set`, of many days of one year at once."""
    check_year(days[0].year)
    utc_midnights = np.array([datetime(d.year, d.month, d.day, tzinfo=UTC).timestamp() for d in days])
    delta_t = float(spa.calculate_deltat(days[0].year, days[0].month if len(days) == 1 else 6))
    _, rises, falls = spa.transit_sunrise_sunset(utc_midnights, latitude_deg, longitude_deg, delta_t, 1)

    def hour(moment: float, midnight: float) -> float | None:
        return None if not np.isfinite(moment) else float((moment - midnight) / 3600.0 % 24.0)

    return [
        (hour(float(rise), midnight), hour(float(fall), midnight))
        for rise, fall, midnight in zip(rises, falls, _midnights(zone, days), strict=True)
    ]


def highest(
    latitude_deg: float, longitude_deg: float, zone: str, days: Sequence[date], hours: NDArray[np.float64]
) -> NDArray[np.float64]:
    """Greatest altitude in degrees among civil hours (N,) on each of many days of one year."""
    check_year(days[0].year)
    moments = np.array(_midnights(zone, days))[:, None] + np.asarray(hours) * 3600.0
    altitudes = positions_at(latitude_deg, longitude_deg, moments.ravel(), days[0].year)[1]
    return np.asarray(altitudes.reshape(moments.shape).max(1))


def _midnights(zone: str, days: Sequence[date]) -> list[float]:
    """The moments at which civil days begin, in seconds since 1970."""
    place = ZoneInfo(zone)
    return [datetime(d.year, d.month, d.day, tzinfo=place).timestamp() for d in days]


def check_year(year: int) -> None:
    """Raise InputError for a year outside the model's range."""
    if not FIRST_YEAR <= year <= LAST_YEAR:
        raise InputError(
            f"the year {year} is outside the sun model's range", "date", f"Choose {FIRST_YEAR} to {LAST_YEAR}"
        )


def check_place(latitude_deg: float, longitude_deg: float) -> None:
    """Raise InputError for coordinates off the globe."""
    if not -90 <= latitude_deg <= 90:
        raise InputError(f"latitude {latitude_deg:g} is off the globe", "latitude_deg", "Choose -90 to 90")
    if not -180 <= longitude_deg <= 180:
        raise InputError(f"longitude {longitude_deg:g} is off the globe", "longitude_deg", "Choose -180 to 180")


def _spa(
    latitude: float, longitude: float, unix: NDArray[np.float64], elevation: float, pressure: float,
    temperature: float, year: int,
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:  # fmt: skip
    delta_t = float(spa.calculate_deltat(year, 6))
    result = spa.solar_position_numpy(
        unix, latitude, longitude, elevation, pressure, temperature, delta_t, HORIZON_REFRACTION_DEG, 1
    )
    return np.asarray(result[4]), np.asarray(result[2])
