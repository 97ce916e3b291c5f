"""Which families may stand in a picture as cut-outs, and which of their sides is seen."""

from __future__ import annotations

import math

from valleylight.core.errors import InputError
from valleylight.core.objects import family_of
from valleylight.core.objects.family import Family
from valleylight.core.project.placement import Made

#: Sides that are told apart, all around.
SIDES = 16
#: Groups of families that stand by themselves in a picture.
STANDING = ("People", "Trees and shrubs", "Plants", "Seats", "Outdoors")


def side_of(turn_deg: float, towards: tuple[float, float]) -> int:
    """Which side of a cut-out that faces `turn_deg` (anticlockwise from -Y) is seen from a direction in plan: 0 its face, then
    anticlockwise in SIDES steps."""
    seen_from = math.degrees(math.atan2(towards[1], towards[0])) + 90.0
    return round((seen_from - turn_deg) / (360 / SIDES)) % SIDES


def drawn_from(family: str, side: int) -> int:
    """The side a member of a family is drawn from: what grows all around alike shows the same one to everybody."""
    return 0 if family_of(family).grows else side % SIDES


def standing_family(what: Made) -> Family:
    """The family that a made cut-out is a member of. Raises NotFoundError where there is none, InputError for one that does not stand in
    pictures, or numbers out of their limits."""
    family = family_of(what.family)
    if family.group not in STANDING:
        raise InputError(f"{family.name} is no cut-out", "family", f"Choose one of: {', '.join(STANDING).lower()}")
    family.values(what.parameters)
    return family
