"""Thirds of a stop: the settings at which f-numbers, shutters and ISO speeds click, and what is usual.

A third of a stop multiplies the light by 2^(1/3): f-numbers by 2^(1/6), shutter and speed by 2^(1/3). What is written on a lens is
rounded (ISO 517:2008 for f-numbers, ISO 12232:2019 for speeds; shutters are common practice); computed is the exact value.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

Ring = Literal["f_number", "shutter_s", "iso"]
#: As written, from the widest; the first is 2^(-3 / 6).
_F = ("0.7 0.8 0.9 1 1.1 1.2 1.4 1.6 1.8 2 2.2 2.5 2.8 3.2 3.5 4 4.5 5 5.6 6.3 7.1 8 9 10 11 13 14 16 18 20 22 25 29 32 36 40 45 51 57 64 "
      "72 80 90")  # fmt: skip
#: As written, from the longest (30 s = 2^5) to 1/8000 s (2^-13).
_SHUTTER = ("30 25 20 15 13 10 8 6 5 4 3.2 2.5 2 1.6 1.3 1 0.8 0.6 0.5 0.4 0.3 1/4 1/5 1/6 1/8 1/10 1/13 1/15 1/20 1/25 1/30 1/40 1/50 1/60 "
            "1/80 1/100 1/125 1/160 1/200 1/250 1/320 1/400 1/500 1/640 1/800 1/1000 1/1250 1/1600 1/2000 1/2500 1/3200 1/4000 1/5000 "
            "1/6400 1/8000")  # fmt: skip
#: As written, from 25 = 100 * 2^-2.
_ISO = ("25 32 40 50 64 80 100 125 160 200 250 320 400 500 640 800 1000 1250 1600 2000 2500 3200 4000 5000 6400 8000 10000 12800 16000 20000 "
        "25600")  # fmt: skip
#: A value so near to a click, or to what is engraved there, is told as that.
NEAR_STOPS = 0.03


@dataclass(frozen=True)
class Click:
    """A setting at which a ring clicks: its exact value, and how it is written."""

    value: float
    label: str

    @property
    def engraved(self) -> float:
        """The number as it is written."""
        top, _, bottom = self.label.removeprefix("f/").removeprefix("ISO ").removesuffix(" s").partition("/")
        return float(top) / float(bottom or 1)


#: Every ring brings more light from its first setting to its last: wider, longer, faster would be one way; here each runs as it is
#: engraved, and `LIGHT` says which way that is.
RINGS: dict[Ring, tuple[Click, ...]] = {
    "f_number": tuple(Click(2.0 ** ((k - 3) / 6), f"f/{t}") for k, t in enumerate(_F.split())),
    "shutter_s": tuple(Click(2.0 ** (5 - k / 3), f"{t} s") for k, t in enumerate(_SHUTTER.split())),
    "iso": tuple(Click(100 * 2.0 ** (k / 3 - 2), f"ISO {t}") for k, t in enumerate(_ISO.split())),
}
#: Stops of light that a step along each ring brings.
LIGHT: dict[Ring, float] = {"f_number": -1 / 3, "shutter_s": -1 / 3, "iso": 1 / 3}


def stops_between(ring: Ring, a: float, b: float) -> float:
    """Stops from one setting of a ring to another, more light positive."""
    return {"f_number": 2 * math.log2(a / b), "shutter_s": math.log2(b / a), "iso": math.log2(b / a)}[ring]


def nearest(ring: Ring, value: float) -> int:
    """Number of the click nearest to a value, by stops."""
    clicks = RINGS[ring]
    return min(range(len(clicks)), key=lambda k: abs(stops_between(ring, clicks[k].value, value)))


def written(ring: Ring, value: float) -> str:
    """A setting as people write it: that of the click where it stands on one, else its own number."""
    click = RINGS[ring][nearest(ring, value)]
    if min(abs(stops_between(ring, known, value)) for known in (click.value, click.engraved)) <= NEAR_STOPS:
        return click.label
    if ring == "f_number":
        return f"f/{value:.3g}"
    if ring == "iso":
        return f"ISO {value:.0f}"
    return f"1/{1 / value:.0f} s" if value < 0.3 else f"{value:.3g} s"


@dataclass(frozen=True)
class Usual:
    """Light that is met again and again, as an exposure value at ISO 100."""

    ev100: float
    name: str


#: Full sun by the rule of sixteen: f/16 at 1/ISO s is EV 8 + log2(100) = 14.6 (common practice); the others from memory, as tables of
#: exposure values give them.
USUAL: tuple[Usual, ...] = (
    Usual(-3.0, "full moon"), Usual(3.0, "lit street"), Usual(5.0, "lit room, evening"), Usual(8.0, "room by day"),
    Usual(10.0, "dusk, sun just set"), Usual(12.0, "overcast"), Usual(8 + math.log2(100), "full sun"),
)  # fmt: skip
