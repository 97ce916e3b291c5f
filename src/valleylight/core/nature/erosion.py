"""Land shaped by running water and by sliding: a grid of heights that rises and is carved until ridges and gullies stand out.

Rivers carve by the stream power law, dz/dt = u - K A^m S (A. Howard, A detachment-limited model of drainage basin evolution, Water
Resources Research 30, 1994), solved implicitly from the mouths upwards (J. Braun, S. Willett, A very efficient O(n) implicit and
parallel method to solve the stream power equation, Geomorphology 180, 2013); land made of uplift and such rivers: G. Cordonnier
et al., Large scale terrain generation from tectonic uplift and fluvial erosion, Computer Graphics Forum 35, 2016. What is steeper
than the angle of repose slides to its lower neighbours (F. Musgrave, C. Kolb, R. Mace, The synthesis and rendering of eroded
fractal terrains, SIGGRAPH 1989).
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.jit.compiled import kernel

Array = NDArray[np.float64]
#: Exponent of the drained area in the stream power law (common practice: 0.4 to 0.5).
AREA_EXPONENT = 0.45


class Drainage(NamedTuple):
    """Where water goes: cells from high to low (N,), the lower neighbour each drains to (N,; itself at a mouth or in a pit),
    metres to it (N,), and the area that drains through each cell in m2 (N,)."""

    order: NDArray[np.int64]
    receiver: NDArray[np.int64]
    metres: Array
    area_m2: Array


@kernel
def _find_receivers(height, cell_m, receiver, metres):
    """Steepest descent among eight neighbours; edges drain nowhere. Fills `receiver` and `metres` (rows * columns)."""
    rows, columns = height.shape
    for i in range(rows):
        for j in range(columns):
            here = i * columns + j
            receiver[here], metres[here] = here, cell_m
            if i == 0 or j == 0 or i == rows - 1 or j == columns - 1:
                continue
            best = 0.0
            for di in range(-1, 2):
                for dj in range(-1, 2):
                    if di == 0 and dj == 0:
                        continue
                    way = cell_m * (1.4142135623730951 if di != 0 and dj != 0 else 1.0)
                    steep = (height[i, j] - height[i + di, j + dj]) / way
                    if steep > best:
                        best = steep
                        receiver[here], metres[here] = (i + di) * columns + j + dj, way


@kernel
def _gather_area(order, receiver, cell_m2, area):
    """Drained area of every cell, from the highest down. Fills `area`."""
    for k in range(area.shape[0]):
        area[k] = cell_m2
    for k in range(order.shape[0]):
        here = order[k]
        to = receiver[here]
        if to != here:
            area[to] += area[here]


@kernel
def _carve(order, receiver, metres, area, strength, exponent, height):
    """One implicit step, from the mouths up: z' = (z + f z'_r) / (1 + f) with f = K dt A^m / l. `height` (N,) is changed."""
    for k in range(order.shape[0] - 1, -1, -1):
        here = order[k]
        to = receiver[here]
        if to != here:
            f = strength * area[here] ** exponent / metres[here]
            height[here] = (height[here] + f * height[to]) / (1.0 + f)


def drainage(height: Array, cell_m: float) -> Drainage:
    """Where water goes on a grid of heights (R, C)."""
    n = height.size
    receiver, metres, area = np.empty(n, np.int64), np.empty(n), np.empty(n)
    _find_receivers(np.ascontiguousarray(height, float), float(cell_m), receiver, metres)
    order = np.argsort(-height, axis=None, kind="stable")
    _gather_area(order, receiver, float(cell_m) ** 2, area)
    return Drainage(order, receiver, metres, area)


def slid(height: Array, cell_m: float, repose_deg: float, share: float = 0.5) -> Array:
    """One step of sliding: what exceeds the angle of repose goes to the lower neighbours, in the ratio of the excess. The sum of
    heights stays."""
    most = np.tan(np.radians(repose_deg))
    out = height.copy()
    excess = []
    for di, dj, way in ((0, 1, 1.0), (1, 0, 1.0), (1, 1, 1.4142135623730951), (1, -1, 1.4142135623730951)):
        for sign in (1, -1):
            a, b = sign * di, sign * dj
            to = np.full_like(height, np.inf)
            rows, columns = height.shape
            i0, i1, j0, j1 = max(-a, 0), rows - max(a, 0), max(-b, 0), columns - max(b, 0)
            to[i0:i1, j0:j1] = height[i0 + a : i1 + a, j0 + b : j1 + b]
            excess.append((a, b, np.clip(height - to - most * way * cell_m, 0.0, None)))
    total = sum(e for _, _, e in excess)
    largest = np.maximum.reduce([e for _, _, e in excess])
    moved = share * 0.5 * largest
    out -= np.where(total > 0, moved, 0.0)
    for a, b, e in excess:
        part = np.where(total > 0, moved * e / np.where(total > 0, total, 1.0), 0.0)
        rows, columns = height.shape
        i0, i1, j0, j1 = max(-a, 0), rows - max(a, 0), max(-b, 0), columns - max(b, 0)
        out[i0 + a : i1 + a, j0 + b : j1 + b] += part[i0:i1, j0:j1]
    return out


def eroded(
    height: Array, uplift: Array, cell_m: float, steps: int, strength: float, repose_deg: float = 42.0, floor: NDArray[np.bool_] | None = None,
) -> Array:  # fmt: skip
    """Heights (R, C) in m after so many steps of uplift (R, C; m a step), rivers and sliding.

    `strength` is K dt of the stream power law (m^(1 - 2 m) a step). Where `floor` (R, C) is true the land stays as it was: there
    rivers end. Raises InputError for grids that do not match, or heights that are not numbers.
    """
    if height.ndim != 2 or min(height.shape) < 3 or uplift.shape != height.shape:
        raise InputError(
            f"heights {height.shape}, uplift {uplift.shape}", "uplift", "Give two grids of one shape, 3 x 3 at least"
        )
    if not (np.isfinite(height).all() and np.isfinite(uplift).all()):
        raise InputError("heights that are not numbers", "height", "Fill gaps before the land is carved")
    if not (cell_m > 0 and strength >= 0 and steps >= 0 and 0 < repose_deg < 90):
        raise InputError(
            "a cell, strength or angle out of its limits", "cell_m", "Cells above 0 m, angles of 0 to 90 degrees"
        )
    z = np.array(height, float)
    first = z.copy()
    for _ in range(steps):
        z += uplift
        if floor is not None:
            z[floor] = first[floor]
        water = drainage(z, cell_m)
        flat = z.ravel()
        _carve(water.order, water.receiver, water.metres, water.area_m2, float(strength), AREA_EXPONENT, flat)
        z = slid(flat.reshape(z.shape), cell_m, repose_deg)
    if floor is not None:
        z[floor] = first[floor]
    return z


def wetness(height: Array, cell_m: float) -> Array:
    """Topographic wetness index ln(a / tan b), (R, C): a is the drained area per metre of contour, b the slope (K. Beven, M.
    Kirkby, A physically based, variable contributing area model of basin hydrology, Hydrological Sciences Bulletin 24, 1979)."""
    area = drainage(height, cell_m).area_m2.reshape(height.shape)
    return np.log(area / cell_m / np.maximum(slope(height, cell_m), 0.01))


def slope(height: Array, cell_m: float) -> Array:
    """Tangent of the steepest slope, (R, C)."""
    dy, dx = np.gradient(height, cell_m)
    return np.hypot(dx, dy)


def curvature(height: Array, cell_m: float) -> Array:
    """Laplacian in 1/m, (R, C): above 0 in hollows, below 0 on ridges."""
    dy, dx = np.gradient(height, cell_m)
    return np.asarray(np.gradient(dy, cell_m, axis=0) + np.gradient(dx, cell_m, axis=1))
