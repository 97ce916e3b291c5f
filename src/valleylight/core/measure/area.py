"""Illuminance over a level or upright area, with the figures by which it is judged (EN 12464-1: mean and uniformity)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.measure.direct import direct_lux
from valleylight.core.measure.incident import incident
from valleylight.core.trace.scene.compiler import RenderScene

MOST_POINTS = 5000


@dataclass(frozen=True)
class AreaLux:
    """Illuminance in lx, rows by columns, with mean, least and uniformity (least over mean)."""

    lux: NDArray[np.float64]
    spacing_m: float
    mean_lx: float
    least_lx: float
    greatest_lx: float
    uniformity: float


def over_area(
    scene: RenderScene, levels: dict[str, float], corner: tuple[float, float, float], u: tuple[float, float, float],
    v: tuple[float, float, float], normal: tuple[float, float, float], spacing_m: float, samples: int = 64,
    direct_only: bool = False,
) -> AreaLux:  # fmt: skip
    """Illuminance on the parallelogram from `corner` along edges `u` (columns) and `v` (rows), facing `normal`.

    Points lie in the middle of equal fields about `spacing_m` wide. Raises InputError for an area without size, a normal
    that is not square to it, or more than 5000 points.
    """
    a, b, n = np.array(u, float), np.array(v, float), np.array(normal, float)
    width, height, length = float(np.linalg.norm(a)), float(np.linalg.norm(b)), float(np.linalg.norm(n))
    if min(width, height, length) < 1e-3:
        raise InputError("the area has no size", "area", "Draw it larger")
    n /= length
    if abs(n @ a) > 0.02 * width or abs(n @ b) > 0.02 * height:
        raise InputError("the normal does not stand square to the area", "normal", "Give the direction it faces")
    columns, rows = max(round(width / spacing_m), 1), max(round(height / spacing_m), 1)
    if columns * rows > MOST_POINTS:
        raise InputError(
            f"{columns * rows} points are too many", "spacing_m", f"Choose a spacing for up to {MOST_POINTS}"
        )
    s, t = (np.arange(columns) + 0.5) / columns, (np.arange(rows) + 0.5) / rows
    gs, gt = np.meshgrid(s, t)
    points = np.array(corner, float) + gs.reshape(-1, 1) * a + gt.reshape(-1, 1) * b
    normals = np.tile(n, (len(points), 1))
    found = (
        np.asarray(direct_lux(scene, levels, points, normals), np.float64)
        if direct_only else incident(scene, points, normals, samples).lux(levels)
    )  # fmt: skip
    mean = float(found.mean())
    return AreaLux(
        found.reshape(rows, columns), width / columns, mean, float(found.min()), float(found.max()),
        float(found.min()) / mean if mean > 0 else 0.0,
    )  # fmt: skip
