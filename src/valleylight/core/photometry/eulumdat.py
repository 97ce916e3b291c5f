"""Read and write EULUMDAT (.ldt) files.

Source: the EULUMDAT file format as published by A. W. Stockmar (1990): one value a line, intensities in cd per
1000 lm of the bare lamps, five symmetry indicators.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.photometry.errors import PhotometryError
from valleylight.core.photometry.model import LuminousOpening, Photometry
from valleylight.core.photometry.symmetry import mirror, tidy


class _Lines:
    """Reads one value a line and names the line in every complaint."""

    def __init__(self, text: str, file: str) -> None:
        self._lines = text.splitlines()
        self._file = file
        self.at = 0

    def where(self, back: int = 0) -> str:
        return f"{self._file}, line {self.at + 1 - back}"

    def text(self, meaning: str) -> str:
        if self.at >= len(self._lines):
            raise PhotometryError(
                f"the file ends where {meaning} was expected", self.where(), "Get a complete copy of the file."
            )
        self.at += 1
        return self._lines[self.at - 1].strip()

    def number(self, meaning: str) -> float:
        word = self.text(meaning).replace(",", ".")
        try:
            value = float(word or "0")
        except ValueError:
            raise PhotometryError(
                f"expected {meaning} as a number, found {word[:40]!r}", self.where(1), "Correct that line."
            ) from None
        if not np.isfinite(value):
            raise PhotometryError(f"{meaning} is not a finite number", self.where(1), "Correct that line.")
        return value

    def integer(self, meaning: str, low: int, high: int) -> int:
        value = self.number(meaning)
        if value != int(value) or not low <= value <= high:
            raise PhotometryError(
                f"{meaning} must be a whole number from {low} to {high}, found {value:g}",
                self.where(1),
                "Correct that line.",
            )
        return int(value)

    def array(self, count: int, meaning: str) -> NDArray[np.float64]:
        return np.array([self.number(f"{meaning} {k + 1} of {count}") for k in range(count)])


def read_eulumdat(text: str, file: str = "profile") -> Photometry:
    """Read EULUMDAT text. Raises PhotometryError with the line and what was expected there."""
    lines = _Lines(text, file)
    company = lines.text("the company")
    lines.integer("the type indicator", 0, 3)
    symmetry = lines.integer("the symmetry indicator", 0, 4)
    n_planes = lines.integer("the number of C-planes", 1, 3600)
    lines.number("the distance between C-planes")
    n_gamma = lines.integer("the number of luminous intensities in a plane", 2, 10_000)
    lines.number("the distance between intensities")
    lines.text("the report number")
    name = lines.text("the luminaire name")
    number = lines.text("the luminaire number")
    lines.text("the file name")
    lines.text("the date")
    for part in ("length or diameter", "width", "height"):
        lines.number(f"the luminaire's {part}")
    length = lines.number("the luminous area's length or diameter") / 1000
    width = lines.number("the luminous area's width") / 1000
    heights = [lines.number(f"the luminous area's height at {plane}") / 1000 for plane in ("C0", "C90", "C180", "C270")]
    lines.number("the downward flux fraction")
    lines.number("the light output ratio")
    factor = lines.number("the conversion factor for intensities") or 1.0
    lines.number("the tilt at measurement")
    sets = lines.integer("the number of lamp sets", 1, 20)
    fluxes, watts = [], []
    for k in range(sets):
        lines.number(f"the number of lamps of set {k + 1}")
        lines.text(f"the lamp type of set {k + 1}")
        fluxes.append(lines.number(f"the lamp flux of set {k + 1}"))
        lines.text(f"the colour appearance of set {k + 1}")
        lines.text(f"the colour rendering of set {k + 1}")
        watts.append(lines.number(f"the power of set {k + 1}"))
    if fluxes[0] <= 0:
        raise PhotometryError("the lamp flux must be above zero", lines.where(), "Correct the lamp set.")
    lines.array(10, "direct ratio")
    where = lines.where()
    c_angles = lines.array(n_planes, "C-plane angle")
    gamma = lines.array(n_gamma, "gamma angle")
    if (np.diff(gamma) <= 0).any() or gamma[0] < 0 or gamma[-1] > 180:
        raise PhotometryError("the gamma angles must rise within 0 to 180 degrees", where, "Put them in order.")
    kept = _kept_planes(symmetry, c_angles, where)
    rows = lines.array(len(kept) * n_gamma, "intensity").reshape(len(kept), n_gamma)
    warnings = []
    if (rows < 0).any():
        warnings.append(f"{int((rows < 0).sum())} negative intensities were read as zero.")
    if rows.max() <= 0:
        raise PhotometryError("every intensity is zero", lines.where(), "Get a fresh copy of the file.")
    table = np.maximum(rows, 0.0) * factor * fluxes[0] / 1000.0
    horizontal, table = _unfold(symmetry, c_angles[kept], table)
    if sets > 1:
        warnings.append(f"The first of {sets} lamp sets was used.")
    return Photometry(
        horizontal_deg=horizontal,
        vertical_deg=gamma,
        candela=table,
        name=name or number,
        source_format="EULUMDAT",
        stated_lumens=fluxes[0],
        watts=watts[0],
        opening=_opening(length, width, max(heights)),
        keywords={"MANUFAC": company, "LUMCAT": number},
        warnings=tuple(warnings),
    )


def _kept_planes(symmetry: int, c_angles: NDArray[np.float64], where: str) -> NDArray[np.int64]:
    """Indices of the C-planes whose intensities the file holds for a symmetry indicator."""
    count = len(c_angles)
    if symmetry == 0:
        return np.arange(count)
    if symmetry == 1:
        return np.arange(1)
    divisor = 4 if symmetry == 4 else 2
    if count % divisor:
        raise PhotometryError(
            f"symmetry {symmetry} needs a number of C-planes divisible by {divisor}, found {count}",
            where,
            "Correct the symmetry indicator or the planes.",
        )
    kept = np.arange(count // divisor + 1)
    if symmetry == 3:  # C90 over C180 to C270
        kept = kept + int(np.argmin(np.abs(c_angles - 90.0)))
    if kept[-1] >= count and symmetry != 3 and count > divisor:
        raise PhotometryError("the C-planes do not cover the symmetry", where, "Correct the planes.")
    return kept


def _unfold(
    symmetry: int, angles: NDArray[np.float64], table: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    if symmetry == 1 or len(angles) == 1:
        return np.zeros(1), table[:1]
    if symmetry == 2:
        return mirror(angles, table, 0.0)
    if symmetry == 3:
        return mirror(angles, table, 90.0)
    if symmetry == 4:
        angles, table = mirror(angles, table, 90.0)
        return mirror(angles[:-1], table[:-1], 0.0)
    return tidy(angles, table)


def _opening(length: float, width: float, height: float) -> LuminousOpening:
    if length <= 0:
        return LuminousOpening()
    if width <= 0:
        return LuminousOpening("disc", length, length, height)
    return LuminousOpening("box" if height > 0 else "rectangle", width, length, height)


def write_eulumdat(profile: Photometry) -> str:
    """Write an EULUMDAT file: symmetry 1 when rotational, else 0 on a regular 15-degree or finer set of planes."""
    if profile.is_rotational:
        symmetry, planes = 1, np.zeros(1)
    else:
        symmetry, planes = 0, profile.horizontal_deg[:-1]
    gamma = profile.vertical_deg
    c, g = np.meshgrid(planes, gamma, indexing="ij")
    flux = profile.lumens
    per_klm = profile.intensity(c, g) * 1000.0 / flux
    o = profile.opening
    length, width = (o.width_m, 0.0) if o.shape in ("disc", "sphere") else (o.length_m, o.width_m)
    steps = np.diff(planes) if len(planes) > 1 else np.zeros(1)
    gamma_steps = np.diff(gamma)
    values = [
        profile.keywords.get("MANUFAC", "none"), 3 if symmetry == 0 else 1, symmetry, len(planes),
        f"{steps[0]:g}" if np.allclose(steps, steps[0]) else 0, len(gamma),
        f"{gamma_steps[0]:g}" if np.allclose(gamma_steps, gamma_steps[0]) else 0,
        "none", profile.name, profile.keywords.get("LUMCAT", ""), "", "",
        f"{length * 1000:g}", f"{width * 1000:g}", f"{o.height_m * 1000:g}", f"{length * 1000:g}", f"{width * 1000:g}",
        *([f"{o.height_m * 1000:g}"] * 4), f"{_downward_percent(profile):.1f}", 100, 1, 0, 1,
        1, "LED", f"{flux:.3f}", "", "", f"{profile.watts:g}", *([0] * 10),
        *(f"{v:g}" for v in planes), *(f"{v:g}" for v in gamma), *(f"{v:.4f}" for v in per_klm.ravel()),
    ]  # fmt: skip
    return "\r\n".join(str(v) for v in values) + "\r\n"


def _downward_percent(profile: Photometry) -> float:
    """Share of the flux below the horizontal, in percent."""
    gamma = np.unique(np.concatenate([profile.vertical_deg[profile.vertical_deg < 90], [90.0]]))
    if gamma.size < 2:
        return 0.0
    c, g = np.meshgrid(profile.horizontal_deg, gamma, indexing="ij")
    lower = Photometry(profile.horizontal_deg, gamma, profile.intensity(c, g))
    return 100.0 * lower.lumens / profile.lumens
