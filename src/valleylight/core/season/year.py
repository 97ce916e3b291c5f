"""How far leaves have come by the day of the year: bud, leaf, turning, bare.

Days are those of a mild lowland at 47 degrees north (common practice). Elsewhere spring comes four days later for each
degree towards the pole and each 122 m of height, and autumn as much earlier (A. Hopkins, The Bioclimatic Law, Monthly
Weather Review Supplement 9, 1918). South of the equator the year is turned by half.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import get_args

from valleylight.core.project.surface import LeafKind
from valleylight.core.season.leaf import Pigments

KINDS: tuple[LeafKind, ...] = get_args(LeafKind)
AT_DEG, AT_M, DAYS_A_DEGREE, METRES_A_DEGREE = 47.0, 400.0, 4.0, 122.0
YEAR = 365.25
#: Days after which fallen leaves are all but gone (common practice).
ROTTED_DAYS = 110.0

YOUNG = Pigments(14, 5, 1.0)
GREEN = Pigments()
GOLD = Pigments(1.2, 7.5)
RED = Pigments(1.2, 6.0, 7.0)
RUST = Pigments(1.5, 6.0, 4.0, 0.45)
WITHERED = Pigments(0.5, 2.5, 0.5, 1.0)
STRAW = Pigments(1.0, 3.0, 0.0, 0.35)
NEEDLE = Pigments(52, 12, 0.5, 0.04)
GRASS = Pigments(28, 6, 0.6, 0.06)


@dataclass(frozen=True)
class _Habit:
    """Days of the year: buds open, leaves are grown, the first turn, all are down; what they turn into."""

    opens: float
    grown: float
    turns: float
    bare: float
    into: Pigments


_HABITS: dict[LeafKind, _Habit] = {
    "lime": _Habit(112, 138, 272, 308, GOLD), "maple": _Habit(113, 138, 270, 307, RED), "birch": _Habit(104, 130, 268, 305, GOLD),
    "apple": _Habit(110, 136, 284, 318, RUST), "pear": _Habit(106, 132, 280, 316, RUST), "beech": _Habit(115, 140, 280, 322, RUST),
    "willow": _Habit(98, 126, 288, 322, GOLD), "poplar": _Habit(105, 132, 270, 310, GOLD), "rowan": _Habit(104, 132, 260, 300, RED), "hazel": _Habit(95, 125, 278, 314, GOLD),
    "alder": _Habit(106, 134, 300, 318, GREEN), "larch": _Habit(102, 128, 288, 318, GOLD), "evergreen": _Habit(0, 1, 400, 401, NEEDLE),
    "grass": _Habit(72, 118, 262, 345, STRAW),
}  # fmt: skip


@dataclass(frozen=True)
class Leaves:
    """Leaves of a kind on a day: what is in them, the share of them that is on the tree, a word for it, and the share that lies below."""

    pigments: Pigments
    share: float
    stage: str
    fallen: float = 0.0


def _smooth(t: float) -> float:
    t = min(max(t, 0.0), 1.0)
    return t * t * (3 - 2 * t)


def late_days(latitude_deg: float, height_m: float) -> float:
    """Days by which spring is later, and autumn earlier, than where the table holds."""
    late = DAYS_A_DEGREE * ((abs(latitude_deg) - AT_DEG) + (height_m - AT_M) / METRES_A_DEGREE)
    return min(max(late, -60.0), 45.0)  # beyond, winters are too short or summers too brief for the law


def leaves(
    kind: LeafKind, day: float, latitude_deg: float = AT_DEG, height_m: float = AT_M, early_days: float = 0.0
) -> Leaves:
    """Leaves of a kind on a day of the year (1 to 366); `early_days` for what is ahead of its like."""
    habit, late = _HABITS[kind], late_days(latitude_deg, height_m)
    if kind == "evergreen":
        return Leaves(NEEDLE, 1.0, "green")
    if latitude_deg < 0:
        day += YEAR / 2
    day = (day - 1) % YEAR + 1
    spring, autumn = late - early_days, -late - early_days
    opens, grown, turns, bare = habit.opens + spring, habit.grown + spring, habit.turns + autumn, habit.bare + autumn
    turns = max(turns, grown + 20)
    bare = max(bare, turns + 15)
    growth, turning = (day - opens) / (grown - opens), (day - turns) / (bare - turns)
    if kind == "grass":  # it withers where it stands
        green = _smooth(growth) * (1 - _smooth(turning))
        return Leaves(STRAW.mixed(GRASS, green), 1.0, "green" if green > 0.6 else "straw" if green < 0.3 else "turning")
    if growth <= 0 or turning >= 1:
        since = (day - bare) % YEAR
        # What has fallen is blown away, eaten and rots through the winter.
        lies = max(1.0 - since / ROTTED_DAYS, 0.1)
        return Leaves(habit.into.mixed(WITHERED, min(0.6 + since / 30.0, 1.0)), 0.0, "bare", lies)
    if growth < 1:
        return Leaves(
            YOUNG.mixed(GREEN, _smooth(1.3 * growth - 0.3)),
            _smooth(growth),
            "in bud" if growth < 0.35 else "in young leaf",
        )
    if turning <= 0:
        return Leaves(GREEN, 1.0, "in leaf")
    turned = GREEN.mixed(habit.into, _smooth(turning / 0.55))
    share = 1.0 - _smooth((turning - 0.4) / 0.6)
    return Leaves(turned.mixed(WITHERED, 0.6 * _smooth((turning - 0.5) / 0.5)), share, "turning", 1.0 - share)
