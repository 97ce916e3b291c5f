"""Read and write IES LM-63 files, editions 1986, 1991, 1995, 2002 and 2019.

Source: ANSI/IES LM-63-19, Approved Method: IES Standard File Format for the Electronic Transfer of Photometric Data.
The value section is free-format: numbers may break over lines anywhere, so tokens keep their line for messages.
"""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import NDArray

from valleylight.core.photometry.errors import PhotometryError
from valleylight.core.photometry.model import LuminousOpening, Photometry
from valleylight.core.photometry.symmetry import mirror, tidy

FOOT_M = 0.3048
_EDITIONS = {
    "IESNA91": "LM-63-1991",
    "IESNA:LM-63-1995": "LM-63-1995",
    "IESNA:LM-63-2002": "LM-63-2002",
    "IES:LM-63-2019": "LM-63-2019",
}
_LIMIT_VALUES = 4_000_000


class _Numbers:
    """Reads the value section number by number and knows the line of each."""

    def __init__(self, lines: list[str], first_line: int, file: str) -> None:
        self._tokens = [
            (token, first_line + offset + 1)
            for offset, line in enumerate(lines)
            for token in re.split(r"[\s,]+", line.strip())
            if token and token != "\x1a"
        ]
        self._next = 0
        self._file = file
        self._last_line = first_line + len(lines)

    def where(self) -> str:
        line = self._tokens[self._next][1] if self._next < len(self._tokens) else self._last_line
        return f"{self._file}, line {line}"

    def number(self, meaning: str) -> float:
        if self._next >= len(self._tokens):
            raise PhotometryError(
                f"the file ends where {meaning} was expected", self.where(), "Get a complete copy of the file."
            )
        token, line = self._tokens[self._next]
        try:
            value = float(token)
        except ValueError:
            raise PhotometryError(
                f"expected {meaning} as a number, found {token[:40]!r}",
                f"{self._file}, line {line}",
                "Correct that value or get a fresh copy of the file.",
            ) from None
        if not np.isfinite(value):
            raise PhotometryError(f"{meaning} is not a finite number", f"{self._file}, line {line}", "Correct it.")
        self._next += 1
        return value

    def integer(self, meaning: str, low: int, high: int) -> int:
        where = self.where()
        value = self.number(meaning)
        if value != int(value) or not low <= value <= high:
            raise PhotometryError(
                f"{meaning} must be a whole number from {low} to {high}, found {value:g}", where, "Correct it."
            )
        return int(value)

    def array(self, count: int, meaning: str) -> NDArray[np.float64]:
        return np.array([self.number(f"{meaning} {k + 1} of {count}") for k in range(count)])

    def rest(self) -> int:
        return len(self._tokens) - self._next


def read_lm63(text: str, file: str = "profile") -> Photometry:
    """Read LM-63 text. Raises PhotometryError with the line and what was expected there."""
    lines = text.splitlines()
    tilt_line = next((k for k, line in enumerate(lines) if line.strip().upper().startswith("TILT=")), None)
    if tilt_line is None:
        raise PhotometryError(
            "no line starts with TILT=", f"{file}, line {len(lines)}", "This does not look like a complete LM-63 file."
        )
    edition = _EDITIONS.get(lines[0].strip().upper(), "LM-63-1986")
    keywords = _keywords(lines[:tilt_line])
    warnings: list[str] = []
    numbers = _Numbers(lines[tilt_line + 1 :], tilt_line + 1, file)
    tilt_angles, tilt_factors = _tilt(lines[tilt_line], tilt_line + 1, numbers, file, warnings)

    lamps = numbers.integer("the number of lamps", 1, 100_000)
    lamp_lumens = numbers.number("the lumens per lamp (or -1)")
    multiplier = numbers.number("the candela multiplier")
    n_vertical = numbers.integer("the number of vertical angles", 2, 100_000)
    n_horizontal = numbers.integer("the number of horizontal angles", 1, 100_000)
    if n_vertical * n_horizontal > _LIMIT_VALUES:
        raise PhotometryError(
            f"{n_vertical} x {n_horizontal} candela values are announced", numbers.where(), "Correct the two counts."
        )
    where_type = numbers.where()
    kind = numbers.integer("the photometric type (1 for C, 2 for B, 3 for A)", 1, 3)
    if kind != 1:
        raise PhotometryError(
            f"the file is of photometric type {'?CBA'[kind]}; only type C is read so far",
            where_type,
            "Ask the maker for a type C file or an EULUMDAT file.",
        )
    units = numbers.integer("the units of length (1 feet, 2 metres)", 1, 2)
    width, length, height = (numbers.number(f"the luminous opening's {name}") for name in ("width", "length", "height"))
    ballast = numbers.number("the ballast factor")
    lamp_ballast = numbers.number("the ballast-lamp factor (or file generation type)")
    watts = numbers.number("the input watts")
    if multiplier <= 0 or ballast <= 0:
        raise PhotometryError(
            "the candela multiplier and the ballast factor must be above zero", where_type, "Correct them."
        )
    # In the 2019 edition this place holds the file generation type, a code such as 1.10000, not a factor.
    factor = multiplier * ballast * (lamp_ballast if edition != "LM-63-2019" and lamp_ballast > 0 else 1.0)
    where_vertical = numbers.where()
    vertical = numbers.array(n_vertical, "vertical angle")
    _check_vertical(vertical, where_vertical)
    where_horizontal = numbers.where()
    horizontal = numbers.array(n_horizontal, "horizontal angle")
    where_candela = numbers.where()
    table = numbers.array(n_vertical * n_horizontal, "candela value").reshape(n_horizontal, n_vertical) * factor
    if (table < 0).any():
        warnings.append(f"{int((table < 0).sum())} negative candela values were read as zero.")
        table = np.maximum(table, 0.0)
    if table.max() <= 0:
        raise PhotometryError("every candela value is zero", where_candela, "Get a fresh copy of the file.")
    if numbers.rest():
        warnings.append(f"{numbers.rest()} values after the last candela value were left out.")
    horizontal, table = _unfold(horizontal, table, where_horizontal)
    scale = FOOT_M if units == 1 else 1.0
    stated = lamps * lamp_lumens if lamp_lumens > 0 else None
    profile = Photometry(
        horizontal_deg=horizontal,
        vertical_deg=vertical,
        candela=table,
        name=" ".join(filter(None, (keywords.get("LUMINAIRE"), keywords.get("LUMCAT")))) or keywords.get("TEST", ""),
        source_format=edition,
        stated_lumens=stated,
        watts=watts,
        opening=_opening(width * scale, length * scale, height * scale),
        keywords=keywords,
        tilt_angles_deg=tilt_angles,
        tilt_factors=tilt_factors,
    )
    if stated is not None and profile.lumens > 1.03 * stated:
        warnings.append(f"The lamps give {stated:.0f} lm but the candela values add up to {profile.lumens:.0f} lm.")
    object.__setattr__(profile, "warnings", tuple(warnings))
    return profile


def _keywords(lines: list[str]) -> dict[str, str]:
    """`[KEY] value` lines; [MORE] continues the one before."""
    found: dict[str, str] = {}
    last = ""
    for line in lines:
        match = re.match(r"\s*\[([^\]]+)\]\s*(.*)", line)
        if not match:
            continue
        key, value = match[1].strip().upper(), match[2].strip()
        if key == "MORE" and last:
            found[last] += " " + value
        else:
            found[key] = value
            last = key
    return found


def _tilt(
    line: str, line_number: int, numbers: _Numbers, file: str, warnings: list[str]
) -> tuple[tuple[float, ...], tuple[float, ...]]:
    value = line.strip()[5:].strip()
    if value.upper() == "NONE":
        return (), ()
    if value.upper() != "INCLUDE":
        warnings.append(f"Line {line_number}: the tilt file {value[:60]!r} is not at hand; taken as TILT=NONE.")
        return (), ()
    numbers.integer("the lamp-to-luminaire geometry (1 to 3)", 1, 3)
    count = numbers.integer("the number of tilt pairs", 1, 10_000)
    angles = numbers.array(count, "tilt angle")
    factors = numbers.array(count, "tilt multiplier")
    return tuple(angles), tuple(factors)


def _check_vertical(vertical: NDArray[np.float64], where: str) -> None:
    if (np.diff(vertical) <= 0).any():
        raise PhotometryError("the vertical angles do not rise", where, "Put them in rising order.")
    if vertical[0] < 0 or vertical[-1] > 180:
        raise PhotometryError(
            f"type C vertical angles lie within 0 to 180 degrees, found {vertical[0]:g} to {vertical[-1]:g}",
            where,
            "Check the photometric type of the file.",
        )


def _unfold(
    horizontal: NDArray[np.float64], table: NDArray[np.float64], where: str
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Unfold by the last horizontal angle: 0 rotational, 90 quadrant, 180 bilateral, 360 none; 90 to 270 bilateral."""
    if len(horizontal) == 1:
        return np.zeros(1), table
    if (np.diff(horizontal) <= 0).any():
        raise PhotometryError("the horizontal angles do not rise", where, "Put them in rising order.")
    first, last = float(horizontal[0]), float(horizontal[-1])
    if (first, last) == (0.0, 90.0):
        horizontal, table = mirror(horizontal, table, 90.0)
        return mirror(horizontal[:-1], table[:-1], 0.0)
    if (first, last) == (0.0, 180.0):
        return mirror(horizontal, table, 0.0)
    if (first, last) == (90.0, 270.0):
        return mirror(horizontal, table, 90.0)
    if first == 0.0 and 180.0 < last <= 360.0:
        return tidy(horizontal, table)
    raise PhotometryError(
        f"horizontal angles from {first:g} to {last:g} fit no symmetry of type C",
        where,
        "They must run 0, 0 to 90, 0 to 180, 90 to 270 or 0 to 360 degrees.",
    )


def _opening(width: float, length: float, height: float) -> LuminousOpening:
    """Luminous shape by the signs of its three dimensions (LM-63-02 table 1): negative means round."""
    shape = "point"
    if width < 0 and length < 0:
        shape = "sphere" if height < 0 else "disc"
    elif width < 0 or length < 0:
        shape = "disc"
    elif width > 0 or length > 0:
        shape = "box" if height > 0 else "rectangle"
    return LuminousOpening(shape, abs(width), abs(length) or abs(width), abs(height))


def write_lm63(profile: Photometry) -> str:
    """Write an LM-63-2002 file in absolute photometry, symmetry folded where the planes allow it."""
    horizontal, table = _fold(profile)
    o = profile.opening
    sign = -1.0 if o.shape in ("disc", "sphere") else 1.0
    heights = -o.height_m if o.shape == "sphere" else o.height_m
    keywords = {"TEST": "none", "TESTLAB": "none", "ISSUEDATE": "none", "MANUFAC": "none", "LUMINAIRE": profile.name}
    keywords.update(profile.keywords)
    lines = ["IESNA:LM-63-2002", *(f"[{key}] {value}" for key, value in keywords.items()), "TILT=NONE"]
    lines.append(
        f"1 -1 1 {len(profile.vertical_deg)} {len(horizontal)} 1 2 "
        f"{sign * o.width_m:.4g} {sign * o.length_m:.4g} {heights:.4g}"
    )
    lines.append(f"1 1 {profile.watts:g}")
    for values, form in ((profile.vertical_deg, "{:g}"), (horizontal, "{:g}"), *((row, "{:.2f}") for row in table)):
        words = [form.format(v) for v in values]
        lines.extend(" ".join(words[k : k + 12]) for k in range(0, len(words), 12))
    return "\r\n".join(lines) + "\r\n"


def _fold(profile: Photometry) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The fewest planes that unfold to the same distribution."""
    angles, table = profile.horizontal_deg, profile.candela
    for last in (0.0, 90.0, 180.0):
        keep = angles <= last
        if last not in angles and last:
            continue
        try:
            back, unfolded = _unfold(angles[keep], table[keep], "")
        except PhotometryError:
            continue
        rebuilt = Photometry(back, profile.vertical_deg, unfolded)
        c, g = np.meshgrid(angles, profile.vertical_deg, indexing="ij")
        if np.allclose(rebuilt.intensity(c, g), table, rtol=1e-6, atol=1e-6 * table.max()):
            return angles[keep], table[keep]
    return angles, table
