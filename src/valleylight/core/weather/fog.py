"""What hangs in the air: kinds of drops and dust by how they scatter, and how far one sees.

Asymmetry grows with the size of a particle over the wavelength: cloud drops scatter far forward, smoke hardly more forward
than back (values after E. McCartney, Optics of the Atmosphere, 1976; from memory). Sight: a dark thing against fog keeps
a contrast of exp(-distance / free path); two percent is the least that is seen (H. Koschmieder, 1924).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

#: Mean free paths to the end of sight.
SIGHT = math.log(50.0)


@dataclass(frozen=True)
class KindOfAir:
    """Particles of a size: asymmetry of their forward and back part, share of the back part, single-scattering albedo."""

    key: str
    name: str
    radius_um: float
    forward: float
    back: float
    back_share: float
    colour: tuple[float, float, float]


KINDS = (
    KindOfAir("mist", "Mist", 8.0, 0.85, 0.3, 0.06, (0.995, 0.995, 0.995)),
    KindOfAir("haze", "Haze", 0.6, 0.65, 0.2, 0.10, (0.95, 0.96, 0.97)),
    KindOfAir("dust", "Dust", 2.0, 0.72, 0.25, 0.12, (0.93, 0.89, 0.82)),
    KindOfAir("smoke", "Smoke", 0.15, 0.45, 0.2, 0.20, (0.86, 0.87, 0.90)),
)


def sight_m(free_path_m: float) -> float:
    """Distance at which a dark thing fades into fog of a mean free path."""
    return SIGHT * free_path_m


def share_left(free_path_m: float, length_m: float) -> float:
    """Share of the light that comes through straight on, by the law of Beer and Lambert."""
    return math.exp(-length_m / free_path_m)
