"""Sources to begin with, where no measured profile is at hand: their flux, power, colour, size and a plain distribution.

Figures are the usual ones of their kind for 230 V (common practice); 1 cd of a candle stands for 12.6 lm.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.lamps.dimming import Dimming
from valleylight.core.photometry.invent import at_flux, plain_spot
from valleylight.core.photometry.model import LuminousOpening, Photometry

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Template:
    """A source: flux in lm, power in W, colour temperature in K, and how it dims."""

    key: str
    name: str
    lumens: float
    watts: float
    kelvin: float
    dimming: Dimming
    body: str
    mounting: str
    make: Callable[[], Photometry]

    def profile(self) -> Photometry:
        """The distribution at the template's flux and power."""
        p = at_flux(self.make(), self.lumens)
        return Photometry(
            p.horizontal_deg, p.vertical_deg, p.candela, self.name, "", self.lumens, self.watts, p.opening,
            {"MANUFAC": "Valleylight template", "LUMCAT": self.key},
        )  # fmt: skip


def _turned(shape: Callable[[Array], Array], opening: LuminousOpening) -> Callable[[], Photometry]:
    """A rotational distribution from its relative intensity over the angle from the nadir in degrees."""

    def make() -> Photometry:
        gamma = np.arange(0.0, 180.5, 1.0)
        return Photometry(np.zeros(1), gamma, np.maximum(shape(gamma), 0.0)[None], "", "", None, 0.0, opening)

    return make


def _cosine(width_m: float, length_m: float) -> Callable[[], Photometry]:
    return _turned(lambda g: np.cos(np.radians(np.minimum(g, 90))), LuminousOpening("rectangle", width_m, length_m))


def _bulb(size_m: float) -> Callable[[], Photometry]:
    # All round, but for the shadow of the cap above.
    return _turned(lambda g: 1 - np.clip((g - 140) / 40, 0, 1) ** 2, LuminousOpening("sphere", size_m, size_m, size_m))


def _tube() -> Photometry:
    """A bare tube along the fixture's Y: I ~ the sine of the angle from its axis."""
    c, gamma = np.arange(0.0, 361.0, 10.0), np.arange(0.0, 180.5, 2.0)
    axial = np.sin(np.radians(gamma))[None, :] * np.sin(np.radians(c))[:, None]
    return Photometry(c, gamma, np.sqrt(1 - axial**2), "", "", None, 0.0, LuminousOpening("rectangle", 0.026, 1.15))


def _spot(beam: float, field: float, size_m: float) -> Callable[[], Photometry]:
    return lambda: plain_spot(beam, field, 0.5, 1000.0, opening=LuminousOpening("disc", size_m, size_m))


def _flame(g: Array) -> Array:
    return 0.55 + 0.45 * np.sin(np.radians(g))


def _lantern(g: Array) -> Array:
    return np.exp(-(((g - 62) / 22) ** 2)) + 0.35 * np.exp(-((g / 45) ** 2)) + 0.04 * (g < 120)


def _hearth(g: Array) -> Array:
    return np.cos(np.radians(np.minimum(g, 90))) ** 1.2


TEMPLATES = (
    Template("incandescent-40", "Incandescent 40 W", 415, 40, 2650, "incandescent", "none", "ceiling", _bulb(0.06)),
    Template("incandescent-60", "Incandescent 60 W", 710, 60, 2700, "incandescent", "none", "ceiling", _bulb(0.06)),
    Template("incandescent-75", "Incandescent 75 W", 935, 75, 2750, "incandescent", "none", "ceiling", _bulb(0.06)),
    Template("incandescent-100", "Incandescent 100 W", 1340, 100, 2800, "incandescent", "none", "ceiling", _bulb(0.06)),
    Template("halogen-reflector", "Halogen reflector 50 W, 36°", 600, 50, 3000, "incandescent", "downlight", "ceiling", _spot(36, 66, 0.05)),
    Template("fluorescent-tube", "Fluorescent tube 1.15 m", 2600, 28, 4000, "steady", "line", "ceiling", _tube),
    Template("led-panel", "LED panel 0.6 m square", 3600, 32, 4000, "steady", "none", "ceiling", _cosine(0.6, 0.6)),
    Template("led-strip", "LED strip 1 m", 1100, 12, 3000, "warm", "line", "ceiling", _cosine(0.012, 1.0)),
    Template("candle", "Candle", 12.6, 0, 1930, "steady", "none", "table", _turned(_flame, LuminousOpening("sphere", 0.02, 0.02, 0.02))),
    Template("street-lantern", "Street lantern, warm orange", 5600, 75, 2000, "steady", "lantern", "pole",
             _turned(_lantern, LuminousOpening("sphere", 0.2, 0.2, 0.2))),
    Template("flood", "Flood 60°", 12000, 110, 4000, "steady", "none", "wall", _spot(60, 105, 0.25)),
    Template("fireplace", "Fireplace", 900, 0, 1800, "steady", "none", "wall", _turned(_hearth, LuminousOpening("rectangle", 0.7, 0.4))),
)  # fmt: skip


def find(key: str) -> Template | None:
    """The template with a key."""
    return next((t for t in TEMPLATES if t.key == key), None)
