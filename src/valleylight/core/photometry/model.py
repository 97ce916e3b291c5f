"""A measured luminous intensity distribution, in absolute candela, whatever file it came from.

Directions follow CIE 121 and LM-63 type C: the vertical angle gamma is 0 degrees straight down (nadir) and
180 degrees up; the horizontal angle C turns counter-clockwise seen from above, from the fixture's own +X axis.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike, NDArray

from valleylight.core.photometry import measures


@dataclass(frozen=True)
class LuminousOpening:
    """The luminous part of the fixture. Lengths in metres; `shape` is point, rectangle, disc, sphere or box."""

    shape: str = "point"
    width_m: float = 0.0
    length_m: float = 0.0
    height_m: float = 0.0


@dataclass(frozen=True)
class LampSet:
    """A set of lamps a fixture was measured with or may hold: number, type, flux of all in lm, power of all in W."""

    count: float
    kind: str
    lumens: float
    watts: float
    colour: str = ""
    rendering: str = ""


@dataclass(frozen=True)
class Photometry:
    """A luminous intensity distribution over the whole sphere.

    `horizontal_deg` has shape (C,), rising from 0 to 360 inclusive (or just 0 for a rotational distribution);
    `vertical_deg` has shape (G,), rising within 0 to 180; `candela` has shape (C, G) and is in cd.
    Outside the measured vertical range the intensity is zero (LM-63).
    """

    horizontal_deg: NDArray[np.float64]
    vertical_deg: NDArray[np.float64]
    candela: NDArray[np.float64]
    name: str = ""
    source_format: str = ""
    stated_lumens: float | None = None
    watts: float = 0.0
    opening: LuminousOpening = field(default_factory=LuminousOpening)
    keywords: dict[str, str] = field(default_factory=dict)
    warnings: tuple[str, ...] = ()
    tilt_angles_deg: tuple[float, ...] = ()
    tilt_factors: tuple[float, ...] = ()
    lamp_sets: tuple[LampSet, ...] = ()

    def tilt_factor(self, angle_deg: float) -> float:
        """Share of the flux that is left when the lamp is tilted from its measured position (LM-63 TILT), linear between
        the stated angles; 1 where nothing is stated."""
        if not self.tilt_angles_deg:
            return 1.0
        return float(np.interp(abs(angle_deg), self.tilt_angles_deg, self.tilt_factors))

    @property
    def is_rotational(self) -> bool:
        """True when every C-plane is the same."""
        return len(self.horizontal_deg) == 1

    def intensity(self, horizontal_deg: ArrayLike, vertical_deg: ArrayLike) -> NDArray[np.float64]:
        """Luminous intensity in cd at C and gamma in degrees (arrays broadcast), linear between measured angles."""
        c, g = np.broadcast_arrays(
            np.mod(np.asarray(horizontal_deg, np.float64), 360.0), np.asarray(vertical_deg, np.float64)
        )
        gamma = self.vertical_deg
        inside = (g >= gamma[0] - 1e-9) & (g <= gamma[-1] + 1e-9)
        j = np.clip(np.searchsorted(gamma, g, side="right") - 1, 0, len(gamma) - 2)
        v = np.clip((g - gamma[j]) / (gamma[j + 1] - gamma[j]), 0.0, 1.0)
        if self.is_rotational:
            low = high = np.zeros(c.shape, int)
            u = np.zeros(c.shape)
        else:
            angles = self.horizontal_deg
            low = np.clip(np.searchsorted(angles, c, side="right") - 1, 0, len(angles) - 2)
            high = low + 1
            u = (c - angles[low]) / (angles[high] - angles[low])
        table = self.candela
        value = (1 - u) * ((1 - v) * table[low, j] + v * table[low, j + 1]) + u * (
            (1 - v) * table[high, j] + v * table[high, j + 1]
        )
        return np.where(inside, value, 0.0)

    @cached_property
    def lumens(self) -> float:
        """Luminous flux in lm, the exact integral of the interpolated distribution."""
        return measures.flux_lm(self)

    @cached_property
    def peak_cd(self) -> float:
        """Greatest intensity in cd."""
        return float(self.candela.max())

    @cached_property
    def beam_angles_deg(self) -> tuple[float, float]:
        """Full angle to half of the peak, in the C0-C180 and in the C90-C270 plane."""
        return measures.widths_deg(self, 0.5)

    @cached_property
    def field_angles_deg(self) -> tuple[float, float]:
        """Full angle to a tenth of the peak, in the C0-C180 and in the C90-C270 plane."""
        return measures.widths_deg(self, 0.1)

    @property
    def beam_angle_deg(self) -> float:
        """Full angle to half of the peak, mean of the two principal planes."""
        return sum(self.beam_angles_deg) / 2

    @property
    def field_angle_deg(self) -> float:
        """Full angle to a tenth of the peak, mean of the two principal planes."""
        return sum(self.field_angles_deg) / 2
