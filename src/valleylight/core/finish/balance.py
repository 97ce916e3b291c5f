"""The balance: how much of each light is in a picture, and in which colour, after it was traced.

Light adds up, so a picture is the sum of its groups' pictures, each times a factor. A light whose spectrum is replaced by that of another
colour temperature changes by the ratio of the two colours, channel by channel, at every bounce alike: E' = E c' / c with c and c' the
RGB of both at luminance 1. So a balanced picture is what a full render with that level and colour would be (tested against one).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from valleylight.core.colour.temperature import kelvin_to_unit_rgb, rgb_to_kelvin
from valleylight.core.film.film import Film, Level
from valleylight.core.project.description import Occasion

#: What is taken for the colour of a light of which the film tells nothing: that of an even spectrum.
NEUTRAL = (1.0, 1.0, 1.0)
#: A channel that a light hardly has is not raised beyond so many times.
MOST_GAIN = 30.0


@dataclass(frozen=True)
class Balance:
    """Factors of light groups by name (1 where not named), and the colour temperatures in K that some are given."""

    levels: Mapping[str, float] = field(default_factory=dict)
    colours: Mapping[str, float] = field(default_factory=dict)

    def gains(self, film: Film) -> dict[str, Level]:
        """What each group of a film is multiplied by: one number, or three for RGB."""
        made: dict[str, Level] = {}
        for name in film.group_names:
            level, kelvin = self.levels.get(name, 1.0), self.colours.get(name)
            made[name] = level if kelvin is None else tuple(level * g for g in _tint(colour_of(film, name), kelvin))
        return made


def balance_of(occasion: Occasion) -> Balance:
    """The balance that an occasion asks for."""
    return Balance(occasion.light_levels(), occasion.colours)


def colour_of(film: Film, name: str) -> tuple[float, float, float]:
    """The RGB at luminance 1 that a light group was traced with."""
    known = film.settings.get("light_colours", {}).get(name)
    return NEUTRAL if known is None else (float(known[0]), float(known[1]), float(known[2]))


def kelvin_of(film: Film, name: str) -> float | None:
    """The colour temperature in K that a light group was traced with; None for a colour far from any."""
    found = rgb_to_kelvin(np.array(colour_of(film, name)))
    return round(found) if np.isfinite(found) and 1000 < found < 25_000 else None


def _tint(own: tuple[float, float, float], kelvin: float) -> tuple[float, float, float]:
    r, g, b = (
        float(min(max(wanted, 0.0) / max(was, 1e-4), MOST_GAIN))
        for wanted, was in zip(kelvin_to_unit_rgb(kelvin), own, strict=True)
    )
    return r, g, b
