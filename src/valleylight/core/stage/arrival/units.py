"""The unit of a model that states none, guessed from its size."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

#: Metres of each unit, in the order in which they are tried.
UNITS = {"m": 1.0, "mm": 0.001, "cm": 0.01, "ft": 0.3048, "inch": 0.0254}
#: What buildings with their plots measure across at most and at least, and how high they are at most (common practice).
WIDEST_M, NARROWEST_M, HIGHEST_M = 1500.0, 2.0, 120.0
#: What objects measure across at least and at most, from a cup to a tree (common practice).
SMALLEST_OBJECT_M, LARGEST_OBJECT_M = 0.03, 15.0


@dataclass(frozen=True)
class Guess:
    """A unit, its metres, why it was taken, and whether that is to be looked at."""

    unit: str
    metres: float
    reason: str
    doubtful: bool = True


def guessed_unit(extent: NDArray[np.float64], height: float) -> Guess:
    """The first unit in which the greatest extent (3,) and the height of a model are those of a building; metres where none fits."""
    greatest = float(np.max(extent))
    for unit, metres in UNITS.items():
        if NARROWEST_M <= greatest * metres <= WIDEST_M and height * metres <= HIGHEST_M:
            if unit == "m":
                return Guess("m", 1.0, f"It is {greatest:.4g} across, as a building in metres.", False)
            why = "smaller" if greatest < NARROWEST_M else "larger"
            return Guess(
                unit, metres,
                f"In metres it would be {greatest:.4g} m across and {height:.4g} m high, {why} than buildings are; it was taken as {unit}: {greatest * metres:.4g} m.",
            )  # fmt: skip
    return Guess("m", 1.0, f"It is {greatest:.4g} across, in no unit the size of a building; it was taken as metres.")


def metres_of_object(extent: NDArray[np.float64]) -> float:
    """Metres of the unit of a piece of furniture, a lamp or a tree of a greatest extent (3,): metres where that is the size of one, else
    millimetres, centimetres or inches, whichever is nearest to a metre in ratio."""
    greatest = float(np.max(extent))
    if SMALLEST_OBJECT_M <= greatest <= LARGEST_OBJECT_M or greatest <= 0:
        return UNITS["m"]
    return min((UNITS[u] for u in ("mm", "cm", "inch")), key=lambda metres: abs(np.log(greatest * metres)))
