"""Read and write EULUMDAT (.ldt) files.

Source: the EULUMDAT file format as published by A. W. Stockmar (1990): one value a line, intensities in cd per
1000 lm of the bare lamps, five symmetry indicators.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.photometry.errors import PhotometryError
from valleylight.core.photometry.model import LampSet, LuminousOpening, Photometry
from valleylight.core.photometry.symmetry import mirror, tidy

#: Share by which the integrated flux may differ from the stated one before the file is doubted (common practice).
FLUX_DOUBT = 0.05


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
        words = self._lines[self.at : self.at + count]
        if len(words) == count:
            try:
                values = np.array([word.strip().replace(",", ".") or "0" for word in words], np.float64)
            except ValueError:
                values = np.array([np.nan])
            if np.isfinite(values).all():
                self.at += count
                return values
        # Something is wrong with one of them: find it and name its line.
        return np.array([self.number(f"{meaning} {k + 1} of {count}") for k in range(count)])


def read_eulumdat(text: str, file: str = "profile", lamp_set: int = 0) -> Photometry:
    """Read EULUMDAT text for one of its lamp sets. Raises PhotometryError with the line and what was expected there."""
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
    output_percent = lines.number("the light output ratio")
    factor = lines.number("the conversion factor for intensities") or 1.0
    lines.number("the tilt at measurement")
    sets = lines.integer("the number of lamp sets", 1, 20)
    lamp_sets = tuple(_lamp_set(lines, k + 1) for k in range(sets))
    if not 0 <= lamp_set < sets:
        raise PhotometryError(f"there is no lamp set {lamp_set + 1}", lines.where(), f"Choose 1 to {sets}.")
    chosen = lamp_sets[lamp_set]
    if chosen.lumens <= 0:
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
    table = np.maximum(rows, 0.0) * factor * chosen.lumens / 1000.0
    horizontal, table = _unfold(symmetry, c_angles[kept], table)
    if sets > 1:
        warnings.append(
            f"Lamp set {lamp_set + 1} of {sets} is used: {chosen.count:g} x {chosen.kind}, {chosen.lumens:.0f} lm."
        )
    made = Photometry(
        horizontal_deg=horizontal,
        vertical_deg=gamma,
        candela=table,
        name=name or number,
        source_format="EULUMDAT",
        stated_lumens=chosen.lumens,
        watts=chosen.watts,
        opening=_opening(length, width, max(heights)),
        keywords={"MANUFAC": company, "LUMCAT": number},
        lamp_sets=lamp_sets,
    )
    stated = chosen.lumens * output_percent / 100.0
    if stated > 0 and abs(made.lumens / stated - 1.0) > FLUX_DOUBT:
        warnings.append(f"Flux stated {stated:.0f} lm, integrated {made.lumens:.0f} lm.")
    object.__setattr__(made, "warnings", tuple(warnings))
    return made


def _lamp_set(lines: _Lines, number: int) -> LampSet:
    count = abs(lines.number(f"the number of lamps of set {number}"))  # negative marks absolute photometry
    kind = lines.text(f"the lamp type of set {number}")
    lumens = lines.number(f"the lamp flux of set {number}")
    colour = lines.text(f"the colour appearance of set {number}")
    rendering = lines.text(f"the colour rendering of set {number}")
    return LampSet(count, kind, lumens, lines.number(f"the power of set {number}"), colour, rendering)


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
    if symmetry == 3:  # C270 over C0 to C90
        kept = (kept + int(np.argmin(np.abs(c_angles - 270.0)))) % count
    if kept[-1] >= count and count > divisor:
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
    """Write an EULUMDAT file with the symmetry indicator that needs the fewest planes."""
    symmetry, planes, rows = _folded(profile)
    gamma = profile.vertical_deg
    flux = profile.lumens
    per_klm = rows * 1000.0 / flux
    o = profile.opening
    length, width = (o.width_m, 0.0) if o.shape in ("disc", "sphere") else (o.length_m, o.width_m)
    steps = np.diff(planes) if len(planes) > 1 else np.zeros(1)
    gamma_steps = np.diff(gamma)
    values = [
        profile.keywords.get("MANUFAC", "none"), 1 if symmetry == 1 else 3, symmetry, len(planes),
        f"{steps[0]:g}" if np.allclose(steps, steps[0]) else 0, len(gamma),
        f"{gamma_steps[0]:g}" if np.allclose(gamma_steps, gamma_steps[0]) else 0,
        "none", profile.name, profile.keywords.get("LUMCAT", ""), "", "",
        f"{length * 1000:g}", f"{width * 1000:g}", f"{o.height_m * 1000:g}", f"{length * 1000:g}", f"{width * 1000:g}",
        *([f"{o.height_m * 1000:g}"] * 4), f"{_downward_percent(profile):.1f}", 100, 1, 0, 1,
        1, "LED", f"{flux:.3f}", profile.keywords.get("COLORTEMP", ""), "", f"{profile.watts:g}", *([0] * 10),
        *(f"{v:g}" for v in planes), *(f"{v:g}" for v in gamma), *(f"{v:.7g}" for v in per_klm.ravel()),
    ]  # fmt: skip
    return "\r\n".join(str(v) for v in values) + "\r\n"


def _folded(profile: Photometry) -> tuple[int, NDArray[np.float64], NDArray[np.float64]]:
    """Symmetry indicator, all C-planes, and the rows of intensities the file holds for it."""
    if profile.is_rotational:
        return 1, np.zeros(1), profile.candela
    planes, table = profile.horizontal_deg[:-1], profile.candela[:-1]
    for symmetry in (4, 2, 3):
        try:
            kept = _kept_planes(symmetry, planes, "")
        except PhotometryError:
            continue
        if kept.max() >= len(planes):
            continue
        angles, unfolded = _unfold(symmetry, planes[kept], table[kept])
        same_planes = len(angles) == len(planes) + 1 and np.allclose(angles[:-1], planes, atol=1e-6)
        if same_planes and np.allclose(unfolded[:-1], table, rtol=1e-6, atol=1e-6 * table.max()):
            return symmetry, planes, table[kept]
    return 0, planes, table


def _downward_percent(profile: Photometry) -> float:
    """Share of the flux below the horizontal, in percent."""
    gamma = np.unique(np.concatenate([profile.vertical_deg[profile.vertical_deg < 90], [90.0]]))
    if gamma.size < 2:
        return 0.0
    c, g = np.meshgrid(profile.horizontal_deg, gamma, indexing="ij")
    lower = Photometry(profile.horizontal_deg, gamma, profile.intensity(c, g))
    return 100.0 * lower.lumens / profile.lumens
