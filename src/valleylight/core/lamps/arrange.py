"""Where fixtures go: rows, arrays, curves and mirror images, with half a spacing to the walls.

The half-spacing rule: fixtures of a row stand one spacing apart and half a spacing from the walls, so that the light of
each field is alike (common practice).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.project.description import Fixture, FixtureKind, Project

Array = NDArray[np.float64]
Place = tuple[float, float]
MOST = 500
#: No description reaches further down.
LOWEST_M = -1e7
HANG_M = {"ceiling": 2.6, "wall": 2.0, "table": 1.15, "pole": 3.1}


def count_for(length_m: float, spacing_m: float) -> int:
    """How many fixtures fit a length at no more than a spacing. Raises InputError for a spacing that is not above zero."""
    if not spacing_m > 0:
        raise InputError(f"a spacing of {spacing_m:g} m is impossible", "spacing_m", "Choose a spacing above zero")
    return max(int(np.ceil(length_m / spacing_m - 1e-9)), 1)


def row(start: Place, end: Place, count: int, half_ends: bool = True) -> list[Place]:
    """Places along a line: with half spacings at its ends, or from end to end."""
    a, b = np.array(start, float), np.array(end, float)
    n = _checked(count)
    share = (np.arange(n) + 0.5) / n if half_ends or n == 1 else np.linspace(0, 1, n)
    return [_place(a + s * (b - a)) for s in share]


def array(corner: Place, opposite: Place, columns: int, rows: int, half_ends: bool = True) -> list[Place]:
    """Places over a rectangle, row by row."""
    _checked(columns * rows)
    xs = [p[0] for p in row((corner[0], 0), (opposite[0], 0), columns, half_ends)]
    ys = [p[0] for p in row((corner[1], 0), (opposite[1], 0), rows, half_ends)]
    return [_place(np.array([x, y])) for y in ys for x in xs]


def curve(points: Sequence[Place], count: int, half_ends: bool = False) -> list[Place]:
    """Places at equal lengths along a smooth curve through points (centripetal Catmull-Rom; E. Catmull and R. Rom, 1974)."""
    n = _checked(count)
    fixed = np.array(points, float)
    if len(fixed) < 2:
        raise InputError("a curve needs two points", "points", "Point at two places or more")
    if len(fixed) == 2:
        return row(points[0], points[1], n, half_ends)
    ends = np.vstack([2 * fixed[0] - fixed[1], fixed, 2 * fixed[-1] - fixed[-2]])
    t = np.linspace(0, 1, 40, endpoint=False)[:, None]
    line = np.concatenate([
        0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2 + (3 * b - a - 3 * c + d) * t**3)
        for a, b, c, d in zip(ends, ends[1:], ends[2:], ends[3:], strict=False)
    ] + [fixed[-1:]])  # fmt: skip
    length = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(line, axis=0), axis=1))])
    share = (np.arange(n) + 0.5) / n if half_ends or n == 1 else np.linspace(0, 1, n)
    return [_place(np.array([np.interp(s * length[-1], length, line[:, k]) for k in range(2)])) for s in share]


def mirror_images(project: Project, keys: Sequence[str], through: Place, axis: str) -> list[Fixture]:
    """Copies of fixtures mirrored about an upright plane through a point: `axis` x changes x, y changes y."""
    which = 0 if axis == "x" else 1
    chosen = [f for f in project.fixtures if f.key in set(keys)]
    taken = {f.key for f in project.fixtures}

    def flip(p: tuple[float, float, float]) -> tuple[float, float, float]:
        out = list(p)
        out[which] = round(2 * through[which] - p[which], 4)
        return out[0], out[1], out[2]

    made = []
    for f in chosen:
        turn = -f.turn_deg if which == 1 else 180.0 - f.turn_deg
        key = _free(f.kind, taken)
        made.append(f.model_copy(update={
            "key": key, "position": flip(f.position), "aim": flip(f.aim), "turn_deg": (turn + 180.0) % 360.0 - 180.0,
        }))  # fmt: skip
    return made


def placed(
    project: Project, kind: FixtureKind, places: Sequence[tuple[float, float, float]], group: str | None = None
) -> list[Fixture]:
    """New fixtures of a kind that shine straight down, in the group of the nearest of their kind."""
    taken = {f.key for f in project.fixtures}
    like = [f for f in project.fixtures if f.kind == kind.key]
    made = []
    for x, y, z in places:
        near = min(like, key=lambda f: (f.position[0] - x) ** 2 + (f.position[1] - y) ** 2, default=None)
        made.append(Fixture(
            key=_free(kind.key, taken), kind=kind.key, group=group or (near.group if near else kind.name),
            position=(round(x, 4), round(y, 4), round(z, 4)), aim=(round(x, 4), round(y, 4), _below(round(z, 4))),
            turn_deg=near.turn_deg if near else 0.0,
        ))  # fmt: skip
    return made


def height_of_new(project: Project, kind: FixtureKind, x: float, y: float) -> float | None:
    """How high in metres one more of a kind hangs: as its nearest neighbour of that kind, else as its mounting is usual. None for
    the first on a ceiling, which is to be looked for."""
    like = [f for f in project.fixtures if f.kind == kind.key]
    near = min(like, key=lambda f: (f.position[0] - x) ** 2 + (f.position[1] - y) ** 2, default=None)
    if near is not None:
        return near.position[2]
    return None if kind.mounting == "ceiling" else HANG_M[kind.mounting]


def _below(z: float) -> float:
    """The ground under a height, or a metre below what lies under it; above where the world ends."""
    lower = round(min(0.0, z - 1), 4)
    return lower if lower >= LOWEST_M else z + 1


def _free(kind: str, taken: set[str]) -> str:
    key = next(k for k in (f"{kind[:56]}-{n}" for n in range(1, 100_000)) if k not in taken)
    taken.add(key)
    return key


def _checked(count: int) -> int:
    if not 1 <= count <= MOST:
        raise InputError(f"{count} fixtures at once are impossible", "count", f"Choose 1 to {MOST}")
    return count


def _place(p: Array) -> Place:
    return round(float(p[0]), 4), round(float(p[1]), 4)
