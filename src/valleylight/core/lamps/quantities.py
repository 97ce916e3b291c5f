"""One flux, told in whichever quantity is at hand."""

from __future__ import annotations

from typing import Literal

from valleylight.core.errors import InputError
from valleylight.core.photometry.model import Photometry

Quantity = Literal["lm", "cd", "lx", "W"]


def flux_of(
    value: float, quantity: Quantity, profile: Photometry, distance_m: float = 1.0, efficacy_lm_w: float = 100.0
) -> float:
    """Flux in lm that gives `value`: lm; cd at the peak; lx at a distance on the peak's axis (E = I / d2); W at an efficacy.

    Raises InputError for a value, distance or efficacy that is not above zero.
    """
    for number, field in ((value, "value"), (distance_m, "distance_m"), (efficacy_lm_w, "efficacy_lm_w")):
        if not number > 0:
            raise InputError(f"{number:g} is not above zero", field, "Choose a greater value")
    match quantity:
        case "lm":
            return value
        case "W":
            return value * efficacy_lm_w
        case "cd":
            return value / profile.peak_cd * profile.lumens
        case "lx":
            return value * distance_m**2 / profile.peak_cd * profile.lumens
