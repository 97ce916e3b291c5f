"""Lookup tables as .cube files: read and written.

Source: Cube LUT Specification, version 1.0 (2013): keywords TITLE, DOMAIN_MIN, DOMAIN_MAX, LUT_1D_SIZE (2 to 65536) or LUT_3D_SIZE
(2 to 256; here 65 at most), then rows of red, green, blue, in a 3D table with red changing fastest; lines that begin with # are comments.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.errors import InputError

LARGEST_1D, LARGEST_3D = 65_536, 65
#: A file of a table of the largest size holds less.
LARGEST_BYTES = 32 * 1024 * 1024
REMEDY = "Export the table anew as .cube"


@dataclass(frozen=True, eq=False)
class Cube:
    """`values` (N, 3) of a curve to each channel, or (N, N, N, 3) by blue, green, red; over `low` to `high` of each channel."""

    values: NDArray[np.float32]
    low: tuple[float, float, float] = (0.0, 0.0, 0.0)
    high: tuple[float, float, float] = (1.0, 1.0, 1.0)
    title: str = ""

    @property
    def is_solid(self) -> bool:
        """Whether it is a table of three dimensions."""
        return self.values.ndim == 4


def read_cube(data: bytes, name: str = "table.cube") -> Cube:
    """A lookup table. Raises InputError that names the line for what the specification does not allow."""
    if len(data) > LARGEST_BYTES:
        raise InputError("the file is too large for a lookup table", name, REMEDY)
    text = data.decode("utf-8", "replace").lstrip("\ufeff")
    title, size, solid = "", 0, False
    domain = {"DOMAIN_MIN": (0.0, 0.0, 0.0), "DOMAIN_MAX": (1.0, 1.0, 1.0)}
    rows: list[list[float]] = []
    for number, line in enumerate(text.splitlines(), 1):
        words = line.split()
        if not words or words[0].startswith("#"):
            continue
        where = f"{name}, line {number}"
        word = words[0].upper()
        if word == "TITLE":
            title = line.split(None, 1)[1].strip().strip('"')[:80] if len(words) > 1 else ""
        elif word in domain:
            low, mid, high = _three(words[1:], where)
            domain[word] = (low, mid, high)
        elif word in ("LUT_1D_SIZE", "LUT_3D_SIZE"):
            if size:
                raise InputError("its size is said twice", where, REMEDY)
            solid = word == "LUT_3D_SIZE"
            size = _size(words[1:], LARGEST_3D if solid else LARGEST_1D, where)
        elif word in ("LUT_1D_INPUT_RANGE", "LUT_3D_INPUT_RANGE"):  # written by many, not in the specification
            ends = _numbers(words[1:], 2, where)
            domain["DOMAIN_MIN"], domain["DOMAIN_MAX"] = (ends[0],) * 3, (ends[1],) * 3
        elif word[0].isalpha() and word not in ("INF", "NAN"):
            raise InputError(f"the word {words[0][:40]!r} is none of a lookup table's", where, REMEDY)
        else:
            if not size:
                raise InputError("numbers stand before the size of the table", where, REMEDY)
            rows.append(_three(words, where))
            if len(rows) > (size**3 if solid else size):
                raise InputError(f"it holds more rows than its size of {size} says", where, REMEDY)
    wanted = size**3 if solid else size
    if not size:
        raise InputError("it says no size: LUT_1D_SIZE or LUT_3D_SIZE", name, REMEDY)
    if len(rows) != wanted:
        raise InputError(f"it holds {len(rows)} rows; its size of {size} asks for {wanted}", name, REMEDY)
    if any(a >= b for a, b in zip(domain["DOMAIN_MIN"], domain["DOMAIN_MAX"], strict=True)):
        raise InputError("its domain ends before it begins", name, REMEDY)
    values = np.array(rows, np.float32)
    shaped = values.reshape(size, size, size, 3) if solid else values
    return Cube(shaped, domain["DOMAIN_MIN"], domain["DOMAIN_MAX"], title)


def write_cube(cube: Cube) -> str:
    """The text of a table, to six places."""
    title = "".join(c for c in cube.title if c.isprintable() and c != '"')
    head = [f'TITLE "{title}"'] if title else []
    head.append(f"LUT_{3 if cube.is_solid else 1}D_SIZE {len(cube.values)}")
    for word, ends in (("DOMAIN_MIN", cube.low), ("DOMAIN_MAX", cube.high)):
        head.append(" ".join([word, *(f"{v:g}" for v in ends)]))
    rows = [f"{r:.6f} {g:.6f} {b:.6f}" for r, g, b in cube.values.reshape(-1, 3).tolist()]
    return "\n".join([*head, *rows]) + "\n"


def _size(words: list[str], most: int, where: str) -> int:
    if len(words) != 1 or not words[0].isdigit() or not 2 <= int(words[0]) <= most:
        raise InputError(f"its size must be a whole number from 2 to {most}", where, REMEDY)
    return int(words[0])


def _three(words: list[str], where: str) -> list[float]:
    return _numbers(words, 3, where)


def _numbers(words: list[str], count: int, where: str) -> list[float]:
    try:
        values = [float(word) for word in words]
    except ValueError:
        values = []
    if len(values) != count or not all(math.isfinite(v) and abs(v) < 1e6 for v in values):
        raise InputError(f"there must be {count} numbers", where, REMEDY)
    return values
