"""What a leaf reflects and lets through, from the pigments in it.

A leaf is a pile of N absorbing plates with rough faces (W. Allen et al., J. Opt. Soc. Am. 59, 1969; S. Jacquemoud, F. Baret,
Remote Sensing of Environment 34, 1990): one plate passes t = (1 - k) exp(-k) + k^2 E1(k) of diffuse light, its faces let in
what Fresnel's formulas leave over the hemisphere (F. Stern, Applied Optics 3, 1964), N of them follow from G. Stokes's relations
(1862). k is the sum of pigments by their specific absorption, which here stand for red, green and blue alone (after J.-B. Feret
et al., Remote Sensing of Environment 193, 2017; values from memory).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray
from scipy.integrate import quad
from scipy.special import exp1

#: Plates of a leaf of a broad-leaved tree, and its refractive index.
PLATES, INDEX = 1.5, 1.45
#: Specific absorption at 612, 549 and 465 nm: cm2 to the microgram, brown by its share.
CHLOROPHYLL = np.array([0.0270, 0.0135, 0.0420])
CAROTENOID = np.array([0.0, 0.010, 0.080])
ANTHOCYANIN = np.array([0.006, 0.055, 0.020])
BROWN = np.array([0.28, 0.62, 1.25])


@dataclass(frozen=True)
class Pigments:
    """What is in a leaf: micrograms to the square centimetre, and brown from 0 (living) to 1 (withered)."""

    chlorophyll: float = 45.0
    carotenoid: float = 9.0
    anthocyanin: float = 0.0
    brown: float = 0.0

    def mixed(self, other: Pigments, share: float) -> Pigments:
        """So much of the other in its place."""
        return Pigments(*(a + share * (b - a) for a, b in zip(self._all(), other._all(), strict=True)))

    def _all(self) -> tuple[float, float, float, float]:
        return self.chlorophyll, self.carotenoid, self.anthocyanin, self.brown


def through_plate(k: NDArray[np.float64]) -> NDArray[np.float64]:
    """Share of diffuse light that passes a plate of absorption k without its faces."""
    k = np.maximum(k, 1e-9)
    return np.asarray((1 - k) * np.exp(-k) + k**2 * exp1(k))


@cache
def let_in(index: float) -> float:
    """Share of diffuse light that a face lets in: Fresnel's transmittance for unpolarised light over the hemisphere."""

    def passed(c: float) -> float:
        s2 = (1 - c * c) / index**2
        t = np.sqrt(1 - s2)
        a, b = (c - index * t) / (c + index * t), (index * c - t) / (index * c + t)
        return float((1 - 0.5 * (a * a + b * b)) * 2 * c)

    return float(quad(passed, 0, 1)[0])


def face(index: float) -> float:
    """Share of diffuse light that the outer face sends back: the gloss of a leaf, whatever is in it."""
    return 1 - let_in(index)


def optics(
    pigments: Pigments, plates: float = PLATES, index: float = INDEX
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Reflectance and transmittance (3,) in linear RGB of a leaf under diffuse light."""
    k = (
        pigments.chlorophyll * CHLOROPHYLL + pigments.carotenoid * CAROTENOID + pigments.anthocyanin * ANTHOCYANIN
        + pigments.brown * BROWN
    ) / plates  # fmt: skip
    return pile(through_plate(k), plates, index)


def sward(reflected: NDArray[np.float64], passed: NDArray[np.float64]) -> NDArray[np.float64]:
    """Reflectance of leaves so deep that nothing passes them, R = (1 + r^2 - t^2 - d) / 2 r (Stokes, for a pile without end): what a meadow
    seen as one surface sends back."""
    r, t = np.maximum(reflected, 1e-6), passed
    d = np.sqrt(np.maximum((1 + r + t) * (1 + r - t) * (1 - r + t) * (1 - r - t), 0.0))
    return np.asarray((1 + r**2 - t**2 - d) / (2 * r))


def pile(t: NDArray[np.float64], plates: float, index: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Reflectance and transmittance of so many plates, each of which passes t within."""
    into = let_in(index)
    out = into / index**2  # of what comes up from within (total reflection keeps the rest)
    back = 1 - out
    one_t = into * out * t / (1 - (back * t) ** 2)
    one_r = 1 - into + back * t * one_t
    # Stokes: a and b of a pile, for any number of plates beyond the first.
    d = np.sqrt(np.maximum((1 + one_r + one_t) * (1 + one_r - one_t) * (1 - one_r + one_t) * (1 - one_r - one_t), 0.0))
    a = (1 + one_r**2 - one_t**2 + d) / (2 * one_r)
    b = (1 - one_r**2 + one_t**2 + d) / (2 * one_t)
    n = plates - 1
    lossless = d < 1e-7
    with np.errstate(divide="ignore", invalid="ignore"):
        bn = b**n
        down = a**2 * bn**2 - 1
        rest_r, rest_t = a * (bn**2 - 1) / down, bn * (a**2 - 1) / down
    even = one_t / (one_t + (1 - one_t) * n)
    rest_t, rest_r = np.where(lossless, even, rest_t), np.where(lossless, 1 - even, rest_r)
    share = 1 / (1 - one_r * rest_r)
    return one_r + one_t**2 * rest_r * share, one_t * rest_t * share
