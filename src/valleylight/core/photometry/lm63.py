"""Read and write IES LM-63 files, editions 1986, 1991, 1995, 2002 and 2019.

Source: ANSI/IES LM-63-19, Approved Method: IES Standard File Format for the Electronic Transfer of Photometric Data.
The value section is free-format: numbers may break over lines anywhere, so tokens keep their line for messages.
"""

from __future__ import annotations

import re
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from valleylight.core.photometry.errors import PhotometryError
from valleylight.core.photometry.model import LuminousOpening, Photometry
from valleylight.core.photometry.planes import to_type_c
from valleylight.core.photometry.symmetry import mirror, tidy

FOOT_M = 0.3048
_EDITIONS = {
    "IESNA91": "LM-63-1991",
    "IESNA:LM-63-1995": "LM-63-1995",
    "IESNA:LM-63-2002": "LM-63-2002",
    "IES:LM-63-2019": "LM-63-2019",
}
_LIMIT_VALUES = 4_000_000
_TILT = re.compile(r"\s*TILT\s*=\s*(.*?)\s*$", re.IGNORECASE)
#: Share of the lamps' flux that a fixture gives at least and at most before its file is doubted (common practice).
LEAST_EFFICIENCY, MOST_EFFICIENCY = 0.75, 1.03
Beside = Callable[[str], str | None]


class _Numbers:
    """Reads the value section number by number and knows the line of each."""

    def __init__(self, lines: list[str], first_line: int, file: str) -> None:
        words = [line.replace(",", " ").replace("\x1a", " ").split() for line in lines]
        self._tokens = [word for line in words for word in line]
        self._ends = np.cumsum([len(line) for line in words])
        self._first_line = first_line
        self._next = 0
        self._file = file

    def where(self, token: int | None = None) -> str:
        """File and line of a token, by default the next one."""
        at = self._next if token is None else token
        line = min(int(np.searchsorted(self._ends, at, side="right")), max(len(self._ends) - 1, 0))
        return f"{self._file}, line {self._first_line + line + 1}"

    def number(self, meaning: str) -> float:
        if self._next >= len(self._tokens):
            raise PhotometryError(
                f"the file ends where {meaning} was expected", self.where(), "Get a complete copy of the file."
            )
        token = self._tokens[self._next]
        try:
            value = float(token)
        except ValueError:
            raise PhotometryError(
                f"expected {meaning} as a number, found {token[:40]!r}", self.where(),
                "Correct that value or get a fresh copy of the file.",
            ) from None  # fmt: skip
        if not np.isfinite(value):
            raise PhotometryError(f"{meaning} is not a finite number", self.where(), "Correct it.")
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
        words = self._tokens[self._next : self._next + count]
        if len(words) == count:
            try:
                values = np.array(words, np.float64)
            except ValueError:
                values = np.array([np.nan])
            if np.isfinite(values).all():
                self._next += count
                return values
        # Something is wrong with one of them: find it and name its line.
        return np.array([self.number(f"{meaning} {k + 1} of {count}") for k in range(count)])

    def rest(self) -> int:
        return len(self._tokens) - self._next


def read_lm63(text: str, file: str = "profile", beside: Beside | None = None) -> Photometry:
    """Read LM-63 text. `beside` gives the text of a tilt file by its name, or None where there is none.

    Raises PhotometryError with the line and what was expected there.
    """
    lines = text.splitlines()
    tilt_line = next((k for k, line in enumerate(lines) if _TILT.match(line)), None)
    if tilt_line is None:
        raise PhotometryError(
            "no line starts with TILT=", f"{file}, line {len(lines)}", "This does not look like a complete LM-63 file."
        )
    edition = _EDITIONS.get(lines[0].strip().upper(), "LM-63-1986")
    keywords = _keywords(lines[:tilt_line])
    warnings: list[str] = []
    numbers = _Numbers(lines[tilt_line + 1 :], tilt_line + 1, file)
    tilt_angles, tilt_factors = _tilt(lines[tilt_line], tilt_line + 1, numbers, file, warnings, beside)

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
    _check_vertical(vertical, kind, where_vertical)
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
    if kind == 1:
        horizontal, table = _unfold(horizontal, table, where_horizontal)
    else:
        _check_across(horizontal, where_horizontal)
        horizontal, vertical, table = to_type_c(kind, horizontal, vertical, table)
        warnings.append(f"Measured as type {'?CBA'[kind]}; turned to planes about the nadir, up towards C 0.")
    scale = FOOT_M if units == 1 else 1.0
    stated = lamps * lamp_lumens if lamp_lumens > 0 else None
    profile = Photometry(
        horizontal_deg=horizontal,
        vertical_deg=vertical,
        candela=table,
        name=keywords.get("LUMINAIRE") or keywords.get("LUMCAT") or keywords.get("TEST", ""),
        source_format=edition,
        stated_lumens=stated,
        watts=watts,
        opening=_opening(width * scale, length * scale, height * scale),
        keywords=keywords,
        tilt_angles_deg=tilt_angles,
        tilt_factors=tilt_factors,
    )
    if stated is not None and not LEAST_EFFICIENCY <= profile.lumens / stated <= MOST_EFFICIENCY:
        warnings.append(f"Flux stated {stated:.0f} lm, integrated {profile.lumens:.0f} lm.")
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
    line: str, line_number: int, numbers: _Numbers, file: str, warnings: list[str], beside: Beside | None
) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Angles and multipliers of the lamp's tilt, from the file itself or one beside it."""
    found = _TILT.match(line)
    value = found[1] if found else ""
    if value.upper() == "NONE":
        return (), ()
    if value.upper() != "INCLUDE":
        text = beside(value) if beside and value else None
        if text is None:
            warnings.append(f"Line {line_number}: the tilt file {value[:60]!r} is not at hand; taken as TILT=NONE.")
            return (), ()
        numbers = _Numbers(text.splitlines(), 0, value)
    numbers.integer("the lamp-to-luminaire geometry (1 to 3)", 1, 3)
    count = numbers.integer("the number of tilt pairs", 1, 10_000)
    where = numbers.where()
    angles = numbers.array(count, "tilt angle")
    factors = numbers.array(count, "tilt multiplier")
    if (np.diff(angles) <= 0).any():
        raise PhotometryError("the tilt angles do not rise", where, "Put them in rising order.")
    return tuple(angles), tuple(factors)


def _check_vertical(vertical: NDArray[np.float64], kind: int, where: str) -> None:
    if (np.diff(vertical) <= 0).any():
        raise PhotometryError("the vertical angles do not rise", where, "Put them in rising order.")
    low, high = (0, 180) if kind == 1 else (-90, 90)
    if vertical[0] < low or vertical[-1] > high:
        raise PhotometryError(
            f"type {'?CBA'[kind]} vertical angles lie within {low} to {high} degrees, found {vertical[0]:g} to {vertical[-1]:g}",
            where,
            "Check the photometric type of the file.",
        )


def _check_across(horizontal: NDArray[np.float64], where: str) -> None:
    """Horizontal angles of types A and B."""
    if (np.diff(horizontal) <= 0).any():
        raise PhotometryError("the horizontal angles do not rise", where, "Put them in rising order.")
    if horizontal[0] < -180 or horizontal[-1] > 180 or not (horizontal[0] == 0 or horizontal[0] < 0 < horizontal[-1]):
        raise PhotometryError(
            f"horizontal angles from {horizontal[0]:g} to {horizontal[-1]:g} fit no symmetry of types A and B", where,
            "They must run from 0 or from a negative angle to a positive one.",
        )  # fmt: skip


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
    lines.append(f"1 1 {max(profile.watts, 0):g}")
    for values, form in ((profile.vertical_deg, "{:g}"), (horizontal, "{:g}"), *((row, "{:.7g}") for row in table)):
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
