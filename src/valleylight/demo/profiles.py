"""Invented luminaires with distributions of our own making, written as legal IES and EULUMDAT files."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.photometry import LuminousOpening, Photometry, write_eulumdat, write_lm63
from valleylight.core.project.description import Body

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Luminaire:
    """One luminaire of the demo catalogue."""

    key: str
    name: str
    body: Body
    mounting: str
    kelvin: float
    lumens: float
    watts: float
    opening: LuminousOpening
    shape: Callable[[Array, Array], Array]  # relative intensity of C and gamma in degrees
    rotational: bool = True
    file_format: str = "ies"


def _spot(beam_deg: float, spill: float = 0.02) -> Callable[[Array, Array], Array]:
    """A reflector: a bell of the given beam angle with a soft skirt and a cut-off at the rim."""

    def shape(c: Array, g: Array) -> Array:
        bell = np.exp(-np.log(2) * (2 * g / beam_deg) ** 2)
        skirt = spill * np.cos(np.radians(np.minimum(g, 90))) ** 2
        return (bell + skirt) * np.clip((78 - g) / 14, 0, 1)

    return shape


def _washer(c: Array, g: Array) -> Array:
    """An asymmetric reflector that throws light towards C = 90 degrees, 35 degrees up from the nadir."""
    towards = np.sin(np.radians(c)) * np.sin(np.radians(g))
    axial = np.cos(np.radians(c)) * np.sin(np.radians(g))
    angle = np.degrees(np.arcsin(np.clip(towards, -1, 1)))
    return np.exp(-(((angle - 34) / 20) ** 2)) * np.exp(-((axial / 0.55) ** 2)) * (g < 90) + 0.03 * np.cos(
        np.radians(np.minimum(g, 90))
    )


def _globe(c: Array, g: Array) -> Array:
    """An opal glass ball, a little weaker upwards where the cap sits."""
    return (1 - 0.55 * np.clip((g - 120) / 60, 0, 1) ** 1.5) * (0.94 + 0.06 * np.cos(np.radians(g)))


def _line(c: Array, g: Array) -> Array:
    """A shelf profile 1 m long: wide along its length, leaning 20 degrees towards C = 90 across it."""
    across = np.degrees(np.arctan2(np.sin(np.radians(c)) * np.sin(np.radians(g)), np.cos(np.radians(g))))
    along = np.cos(np.radians(c)) * np.sin(np.radians(g))
    return np.exp(-(((across - 20) / 32) ** 2)) * np.sqrt(np.maximum(1 - along**2, 0)) * (g < 90)


def _shade(c: Array, g: Array) -> Array:
    """A cloth shade, open at both ends: two cones and the glow of the cloth between."""
    down = 1 / (1 + np.exp((g - 52) / 3.5))
    up = 0.8 / (1 + np.exp((148 - g) / 3.5))
    return down + up + 0.16 * np.sin(np.radians(g))


def _lantern(c: Array, g: Array) -> Array:
    """A lane lantern: most light thrown wide under the horizontal, a little glow above."""
    return np.exp(-(((g - 62) / 21) ** 2)) + 0.34 * np.exp(-((g / 42) ** 2)) + 0.05 * np.clip((150 - g) / 60, 0, 1)


def _up_down(c: Array, g: Array) -> Array:
    return np.exp(-np.log(2) * (2 * g / 28) ** 2) + np.exp(-np.log(2) * (2 * (180 - g) / 28) ** 2)


CATALOGUE = [
    Luminaire("downlight-narrow", "Downlight 15", "downlight", "ceiling", 3000, 620, 8, LuminousOpening("disc", 0.06, 0.06), _spot(15)),
    Luminaire("downlight-medium", "Downlight 36", "downlight", "ceiling", 3000, 1100, 13, LuminousOpening("disc", 0.09, 0.09), _spot(36)),
    Luminaire("downlight-wide", "Downlight 70", "downlight", "ceiling", 3000, 1600, 18, LuminousOpening("disc", 0.14, 0.14), _spot(70, 0.06)),
    Luminaire("wall-washer", "Wall washer", "washer", "ceiling", 3000, 1450, 17, LuminousOpening("rectangle", 0.12, 0.16), _washer, False),
    Luminaire("globe-pendant", "Globe pendant", "pendant", "ceiling", 2900, 980, 11, LuminousOpening("sphere", 0.24, 0.24, 0.24), _globe),
    Luminaire("shelf-line", "Shelf line 1 m", "line", "ceiling", 2900, 840, 10, LuminousOpening("rectangle", 0.94, 0.02), _line, False, "ldt"),
    Luminaire("table-lamp", "Reading lamp", "table", "table", 2700, 520, 6, LuminousOpening("sphere", 0.12, 0.12, 0.12), _shade),
    Luminaire("lane-lantern", "Lane lantern", "lantern", "pole", 2300, 2600, 30, LuminousOpening("sphere", 0.16, 0.16, 0.16), _lantern),
    Luminaire("up-and-down", "Up and down 28", "none", "wall", 2900, 900, 11, LuminousOpening("disc", 0.08, 0.08), _up_down),
]  # fmt: skip


def photometry(luminaire: Luminaire) -> Photometry:
    """The luminaire's distribution at its flux."""
    gamma = np.unique(
        np.concatenate([np.arange(0, 90, 1.0 if luminaire.body == "downlight" else 2.5), np.arange(90, 180.1, 5.0)])
    )
    c = np.zeros(1) if luminaire.rotational else np.arange(0, 360.1, 10.0)
    table = np.asarray(luminaire.shape(c[:, None], gamma[None, :]) * np.ones((len(c), len(gamma))), float)
    table[-1] = table[0]
    unit = Photometry(c, gamma, table)
    return Photometry(
        c, gamma, np.round(table * luminaire.lumens / unit.lumens, 3), luminaire.name, "", luminaire.lumens,
        luminaire.watts, luminaire.opening, {"MANUFAC": "Tarn Mill demo", "LUMCAT": luminaire.key},
    )  # fmt: skip


def profile_file(luminaire: Luminaire) -> bytes:
    """The profile as a file: LM-63 or EULUMDAT."""
    made = photometry(luminaire)
    text = write_eulumdat(made) if luminaire.file_format == "ldt" else write_lm63(made)
    return text.encode("ascii")
