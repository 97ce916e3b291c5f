"""What a model's file knows beside its surfaces: lenses, lights, where it stands on the earth. Offered, and taken only when wanted.

Lengths in metres of the file's own frame (Z up), angles in degrees.
"""

from __future__ import annotations

from dataclasses import dataclass, field

Point = tuple[float, float, float]


@dataclass(frozen=True)
class CameraOffer:
    """A lens as the file has it; `height_deg` is the angle of view across its height, `aspect` its width over its height."""

    name: str
    position: Point
    ahead: Point
    height_deg: float
    aspect: float | None = None


@dataclass(frozen=True)
class LightOffer:
    """A light as the file has it, for a plain cone. `candela` along its axis; a point shines all round; a place whose light the file
    does not tell has neither. `inner_deg` and `outer_deg` are half angles of the cone. Distant lights give `lux`."""

    name: str
    kind: str  # point, spot, distant, place
    position: Point
    ahead: Point
    candela: float | None = None
    lux: float | None = None
    rgb: tuple[float, float, float] = (1.0, 1.0, 1.0)
    inner_deg: float = 0.0
    outer_deg: float = 45.0


@dataclass(frozen=True)
class SiteOffer:
    """Where on the earth the file says that it stands; None for what it does not say."""

    place: str = ""
    latitude_deg: float | None = None
    longitude_deg: float | None = None
    elevation_m: float | None = None
    north_deg: float | None = None


@dataclass(frozen=True)
class Offers:
    """All that one file offers."""

    cameras: tuple[CameraOffer, ...] = ()
    lights: tuple[LightOffer, ...] = ()
    site: SiteOffer | None = field(default=None)
