"""Places to start from: invented ones, and plain latitudes. Coordinates may always be typed instead."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Place:
    """A place: degrees north and east, height in m, IANA time zone."""

    name: str
    latitude_deg: float
    longitude_deg: float
    elevation_m: float
    time_zone: str


PLACES: tuple[Place, ...] = (
    Place("Tarn valley (invented)", 46.6, 9.84, 1180, "Europe/Zurich"),
    Place("Saltmarsh quay (invented)", 53.9, 8.6, 3, "Europe/Berlin"),
    Place("Long fjord (invented)", 68.4, 17.1, 20, "Europe/Oslo"),
    Place("Olive terraces (invented)", 38.2, 15.4, 240, "Europe/Rome"),
    Place("Red dune (invented)", 24.3, 54.6, 60, "Asia/Dubai"),
    Place("Lagoon (invented)", 1.2, 103.6, 5, "Asia/Singapore"),
    Place("Cedar ridge (invented)", 47.7, -121.9, 410, "America/Los_Angeles"),
    Place("Wind harbour (invented)", -41.2, 174.9, 12, "Pacific/Auckland"),
    *(
        Place(f"{abs(lat)} degrees {'north' if lat > 0 else 'south' if lat < 0 else '(equator)'}".strip(), float(lat), 0.0, 0, "UTC")
        for lat in (70, 60, 50, 40, 30, 20, 10, 0, -10, -20, -30, -40, -50)
    ),
)  # fmt: skip
