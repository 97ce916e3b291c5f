"""Places on the earth and on its maps: metres to a degree, and the transverse Mercator grid of UTM.

WGS 84; series of L. Krueger (Konforme Abbildung des Erdellipsoids in der Ebene, 1912) to the third order in the third flattening,
as in the IOGP Guidance Note 7-2, method 9807: within a millimetre in a zone.
"""

from __future__ import annotations

import math

#: Half axis in m and flattening of WGS 84; scale on the central meridian and false coordinates of UTM.
AXIS_M, FLATTENING = 6_378_137.0, 1 / 298.257223563
SCALE, EAST_M, SOUTH_M = 0.9996, 500_000.0, 10_000_000.0
_N = FLATTENING / (2 - FLATTENING)
_E = math.sqrt(FLATTENING * (2 - FLATTENING))


def metres_to_a_degree(latitude_deg: float) -> tuple[float, float]:
    """Metres to a degree of longitude and of latitude, by the radii of curvature of the ellipsoid."""
    s = math.sin(math.radians(latitude_deg))
    w = 1 - (_E * s) ** 2
    across, along = AXIS_M / math.sqrt(w), AXIS_M * (1 - _E**2) / w**1.5
    return math.radians(1) * across * math.cos(math.radians(latitude_deg)), math.radians(1) * along


def utm(latitude_deg: float, longitude_deg: float, zone: int, south: bool) -> tuple[float, float]:
    """Easting and northing in m of a place in a zone (1 to 60) of the UTM grid."""
    lat = math.radians(latitude_deg)
    off = math.radians((longitude_deg - (6 * zone - 183) + 180) % 360 - 180)
    if abs(math.sin(lat)) == 1.0:  # a pole, where all meridians meet
        xi, eta = math.copysign(0.5 * math.pi, lat), 0.0
    else:
        t = math.sinh(math.atanh(math.sin(lat)) - _E * math.atanh(_E * math.sin(lat)))
        xi, eta = math.atan2(t, math.cos(off)), math.asinh(math.sin(off) / math.hypot(t, math.cos(off)))
    a = AXIS_M / (1 + _N) * (1 + _N**2 / 4 + _N**4 / 64)
    terms = (_N / 2 - 2 * _N**2 / 3 + 5 * _N**3 / 16, 13 * _N**2 / 48 - 3 * _N**3 / 5, 61 * _N**3 / 240)
    north = xi + sum(c * math.sin(2 * k * xi) * math.cosh(2 * k * eta) for k, c in enumerate(terms, 1))
    east = eta + sum(c * math.cos(2 * k * xi) * math.sinh(2 * k * eta) for k, c in enumerate(terms, 1))
    return EAST_M + SCALE * a * east, SCALE * a * north + (SOUTH_M if south else 0.0)
