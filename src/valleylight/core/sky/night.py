"""What lights the night sky: the moon's sky, airglow, stars, the glow of a town.

Sources: moon: ephem (position, phase); its brightness by K. Krisciunas, B. Schaefer, A model of the brightness of
moonlight, PASP 103, 1991, V = -12.73 + 0.026 |a| + 4e-9 a^4; illuminance of a magnitude: 10^(-0.4 (m + 14.18)) lx (C. Allen,
Astrophysical Quantities). Natural night sky about 22 mag per square arcsecond, 1.7e-4 cd/m2 (common practice). Number
of stars brighter than magnitude m about 10^(0.51 m + 0.63) (from memory).
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from functools import lru_cache

import ephem
import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.temperature import kelvin_to_unit_rgb
from valleylight.core.project.sky import Glow
from valleylight.core.sky.dome import cell_angles, solid_angles
from valleylight.core.sky.illuminance import SOLAR_LX
from valleylight.core.sun.sunlight import air_mass

Array = NDArray[np.float64]
AIRGLOW_CD_M2 = 1.7e-4
FAINTEST, STAR_EXTINCTION = 6.5, 0.25
MOON_RADIUS_DEG = 0.259
#: Height to which a town's glow reaches, in degrees (common practice).
GLOW_DEG = 14.0


@dataclass(frozen=True)
class Moon:
    """Where the moon stands (degrees, with refraction), the share of its disc that is lit, its age in days from new moon, and
    its illuminance in lx on a plane facing it outside the air."""

    azimuth_deg: float
    altitude_deg: float
    lit: float
    phase_angle_deg: float
    waxing: bool
    normal_lx: float


def moon_at(latitude_deg: float, longitude_deg: float, when: datetime, elevation_m: float = 0.0) -> Moon:
    """The moon at an aware datetime."""
    here = ephem.Observer()
    here.lat, here.lon, here.elevation = str(latitude_deg), str(longitude_deg), max(elevation_m, 0.0)
    here.date = ephem.Date(when.astimezone(UTC).replace(tzinfo=None))
    moon, sun = ephem.Moon(here), ephem.Sun(here)
    lit = float(moon.phase) / 100.0
    angle = float(np.degrees(np.arccos(np.clip(2 * lit - 1, -1, 1))))
    ahead = (float(ephem.Ecliptic(moon).lon) - float(ephem.Ecliptic(sun).lon)) % (2 * np.pi)
    magnitude = -12.73 + 0.026 * angle + 4e-9 * angle**4
    return Moon(
        float(np.degrees(float(moon.az))), float(np.degrees(float(moon.alt))), lit, angle, ahead < np.pi,
        float(10 ** (-0.4 * (magnitude + 14.18))),
    )  # fmt: skip


def sidereal_rad(longitude_deg: float, when: datetime) -> float:
    """Local sidereal time as an angle."""
    here = ephem.Observer()
    here.lon, here.date = str(longitude_deg), ephem.Date(when.astimezone(UTC).replace(tzinfo=None))
    return float(here.sidereal_time())


def add_airglow(out: Array) -> None:
    """Light of the night sky itself, a little brighter low down (van Rhijn's layer at 100 km)."""
    altitude, _ = cell_angles(len(out))
    h = np.maximum(altitude, 0.0)
    layer = 1 / np.sqrt(1 - (6371.0 / 6471.0 * np.cos(h)) ** 2)
    strength = (
        AIRGLOW_CD_M2 * layer * 10 ** (-0.4 * STAR_EXTINCTION * np.minimum([air_mass(np.degrees(x)) for x in h], 12))
    )
    out += np.where(altitude > 0, strength, 0)[:, None, None] * kelvin_to_unit_rgb(4600.0)


def add_glow(out: Array, glow: Glow, north_rad: float) -> None:
    """The glow of a town: warm, low over the horizon, in one direction."""
    altitude, azimuth = cell_angles(len(out))
    aside = azimuth + north_rad - np.radians(glow.azimuth_deg)
    towards = 0.25 + 0.75 * ((1 + np.cos(aside)) / 2) ** 3
    fall = np.where(altitude > 0, np.exp(-np.degrees(np.maximum(altitude, 0)) / GLOW_DEG), 0.0)
    out += glow.luminance * fall[:, None, None] * towards[None, :, None] * kelvin_to_unit_rgb(2900.0)


@lru_cache(maxsize=1)
def _stars() -> tuple[Array, Array, Array]:
    """Invented stars, evenly spread: unit vectors in the frame of the celestial pole (N, 3), lx, and RGB at luminance 1."""
    rng = np.random.default_rng(20)
    count = int(10 ** (0.51 * FAINTEST + 0.63))
    direction = rng.standard_normal((count, 3))
    direction /= np.linalg.norm(direction, axis=1, keepdims=True)
    magnitude = np.maximum(FAINTEST + np.log10(rng.uniform(0, 1, count)) / 0.51, -1.5)
    colours = np.stack([kelvin_to_unit_rgb(float(k)) for k in np.linspace(3500, 14_000, 16)])
    return direction, 10 ** (-0.4 * (magnitude + 14.18)), colours[rng.integers(0, 16, count)]


def add_stars(out: Array, latitude_deg: float, sidereal: float, north_rad: float) -> None:
    """Stars as single cells, turned with the hour about the pole; dimmed by the air."""
    direction, lux, colour = _stars()
    turn = np.arctan2(direction[:, 1], direction[:, 0]) - sidereal
    flat = np.hypot(direction[:, 0], direction[:, 1])
    x, y, z = flat * np.cos(turn), flat * np.sin(turn), direction[:, 2]
    p = np.radians(latitude_deg)
    # Hour angle system to horizon: south component, east component, up.
    up = np.sin(p) * z + np.cos(p) * x
    north = np.cos(p) * z - np.sin(p) * x
    azimuth = np.mod(np.arctan2(y, north) - north_rad, 2 * np.pi)
    seen = up > 0.01
    rows = len(out)
    altitude = np.arcsin(np.clip(up[seen], 0, 1))
    row = np.minimum(((altitude / np.pi + 0.5) * rows).astype(int), rows - 1)
    column = np.minimum((azimuth[seen] / (2 * np.pi) * 2 * rows).astype(int), 2 * rows - 1)
    mass = np.array([air_mass(float(np.degrees(a))) for a in altitude])
    arriving = lux[seen] * 10 ** (-0.4 * STAR_EXTINCTION * mass)
    np.add.at(out, (row, column), (arriving / solid_angles(rows)[row])[:, None] * colour[seen])


def moon_ratio(moon: Moon) -> float:
    """The moon's light over the sun's outside the air."""
    return moon.normal_lx / SOLAR_LX
