"""Some thirty more invented luminaires for the demo's catalogue, so that there is something to choose from."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from valleylight.core.photometry import LuminousOpening, Photometry, write_eulumdat, write_lm63
from valleylight.core.photometry.invent import at_flux

Array = NDArray[np.float64]
Law = Callable[[Array, Array], Array]
_C, _G = np.arange(0.0, 360.1, 10.0), np.concatenate([np.arange(0.0, 90.0, 2.0), np.arange(90.0, 180.1, 5.0)])


def _bell(beam: float, spill: float) -> Law:
    return lambda c, g: (
        (np.exp(-np.log(2) * (2 * g / beam) ** 2) + spill * np.cos(np.radians(np.minimum(g, 90))) ** 2)
        * np.clip((80 - g) / 12, 0, 1)
    )


def _oval(narrow: float, wide: float) -> Law:
    def law(c: Array, g: Array) -> Array:
        x, y = (
            np.degrees(np.arctan2(np.sin(np.radians(g)) * np.cos(np.radians(c)), np.cos(np.radians(g)))),
            np.degrees(np.arctan2(np.sin(np.radians(g)) * np.sin(np.radians(c)), np.cos(np.radians(g)))),
        )
        return np.exp(-np.log(2) * ((2 * x / narrow) ** 2 + (2 * y / wide) ** 2)) * (g < 88)

    return law


def _wings(at: float, width: float) -> Law:
    return lambda c, g: (
        (
            (0.25 + np.abs(np.cos(np.radians(c)))) * np.exp(-(((g - at) / width) ** 2))
            + 0.45 * np.cos(np.radians(np.minimum(g, 90)))
        )
        * np.clip((86 - g) / 8, 0, 1)
    )


def _wash(lean: float, spread: float) -> Law:
    def law(c: Array, g: Array) -> Array:
        towards = np.degrees(np.arctan2(np.sin(np.radians(c)) * np.sin(np.radians(g)), np.cos(np.radians(g))))
        along = np.cos(np.radians(c)) * np.sin(np.radians(g))
        return np.exp(-(((towards - lean) / spread) ** 2)) * (1 - 0.8 * along**2) * (g < 88)

    return law


def _both(up: float) -> Law:
    return lambda c, g: (
        np.cos(np.radians(np.minimum(g, 90))) ** 2 + up * np.cos(np.radians(np.minimum(180 - g, 90))) ** 1.5
    )


def _ring(c: Array, g: Array) -> Array:
    return np.sin(np.radians(g)) ** 1.5 * (1 + 0.2 * np.cos(np.radians(g)))


def _step(c: Array, g: Array) -> Array:
    return (
        np.exp(-(((g - 52) / 16) ** 2))
        * (np.cos(np.radians(c)) > -0.2)
        * (0.35 + 0.65 * np.clip(np.cos(np.radians(c)), 0, 1))
    )


_ROUND, _SQUARE = LuminousOpening("disc", 0.075, 0.075), LuminousOpening("rectangle", 0.6, 0.6)
_LONG, _SLOT, _BALL = (
    LuminousOpening("rectangle", 0.06, 1.2), LuminousOpening("rectangle", 0.12, 0.14), LuminousOpening("sphere", 0.2, 0.2, 0.2)
)  # fmt: skip

_LIST: tuple[tuple[str, float, float, float, LuminousOpening, Law], ...] = (
    *((f"Spot {b}", 420 + 14 * b, 6 + b / 6, k, _ROUND, _bell(b, 0.015)) for b, k in ((8, 2700), (12, 3000), (18, 3000), (24, 4000), (30, 2700))),
    *((f"Downlight {b}", 900 + 9 * b, 9 + b / 8, k, _ROUND, _bell(b, 0.05)) for b, k in ((40, 3000), (55, 4000), (65, 2700), (85, 3500))),
    *((f"Oval {a} by {b}", 1150, 13, 3000, _ROUND, _oval(a, b)) for a, b in ((12, 40), (18, 60), (28, 75))),
    *((f"Wall washer {a}", 1300 + 12 * a, 16, k, _SLOT, _wash(a, 19)) for a, k in ((24, 3000), (30, 4000), (38, 2700))),
    ("Wings 38", 4200, 36, 4000, _LONG, _wings(38, 15)),
    ("Wings 50", 5200, 44, 4000, _LONG, _wings(50, 14)),
    ("Panel, opal", 3300, 29, 3500, _SQUARE, lambda c, g: np.cos(np.radians(np.minimum(g, 90)))),
    ("Panel, low glare", 3000, 28, 4000, _SQUARE, _bell(78, 0.03)),
    ("Line, opal", 2400, 22, 3000, _LONG, lambda c, g: np.cos(np.radians(np.minimum(g, 90))) ** 1.1),
    ("Line, narrow", 2100, 22, 3000, _LONG, _oval(34, 110)),
    ("Line, up and down", 3600, 34, 3000, _LONG, _both(0.7)),
    ("Cylinder, up and down", 1500, 18, 2700, _ROUND, _both(1.0)),
    ("Uplight bowl", 2600, 26, 3000, LuminousOpening("disc", 0.3, 0.3), _both(40.0)),
    ("Opal ball", 1250, 13, 2700, _BALL, lambda c, g: 1 - 0.4 * np.clip((g - 130) / 50, 0, 1)),
    ("Ring pendant", 1800, 20, 2700, LuminousOpening("disc", 0.7, 0.7), _ring),
    ("Step light", 160, 2.4, 2700, LuminousOpening("rectangle", 0.03, 0.12), _step),
    ("Path bollard", 520, 7, 2200, LuminousOpening("disc", 0.14, 0.14), lambda c, g: np.exp(-(((g - 68) / 13) ** 2))),
    ("Facade grazer", 2900, 30, 3000, LuminousOpening("rectangle", 0.05, 1.0), _oval(10, 60)),
)  # fmt: skip


def files() -> list[tuple[str, bytes]]:
    """File name and content of each profile; every third one is EULUMDAT."""
    made = []
    for number, (name, lumens, watts, kelvin, opening, law) in enumerate(_LIST):
        table = np.asarray(law(_C[:, None], _G[None, :]) * np.ones((len(_C), len(_G))), float)
        table[:, 0], table[:, -1], table[-1] = table[:, 0].mean(), table[:, -1].mean(), table[0]
        one = len(np.unique(np.round(table, 9), axis=0)) == 1
        shape = Photometry(_C[:1] if one else _C, _G, table[:1] if one else table)
        p = at_flux(shape, lumens)
        words = {"MANUFAC": "Tarn Mill demo", "LUMCAT": f"TM-{number + 20}", "COLORTEMP": f"{kelvin} K"}
        profile = Photometry(
            p.horizontal_deg, p.vertical_deg, np.round(p.candela, 3), name, "", lumens, watts, opening, words
        )
        suffix = "ldt" if number % 3 == 2 else "ies"
        text = write_eulumdat(profile) if suffix == "ldt" else write_lm63(profile)
        made.append((f"{name.lower().replace(', ', '-').replace(' ', '-')}.{suffix}", text.encode("ascii")))
    return made
