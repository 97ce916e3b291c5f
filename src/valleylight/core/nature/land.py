"""Land about a building: heights on a grid, mountains that erosion has shaped, a mesh that is finer towards the lens, and what covers it.

What covers land follows its slope, height, wetness and curvature: rock where it is steep, scree at the foot of rock, heath above the
trees, grass where water stays (common practice in mapping vegetation; the measures are those of `erosion`).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.ndimage import gaussian_filter, map_coordinates, spline_filter, zoom

from valleylight.core.errors import InputError
from valleylight.core.making.shapes import Shape, rings
from valleylight.core.making.textures import coloured, noise, relief, to_bytes
from valleylight.core.nature.erosion import curvature, eroded, slope, wetness

Array = NDArray[np.float64]
#: Angle at which scree comes to rest (common practice: 33 to 38 degrees), and that of sound rock.
SCREE_DEG, ROCK_DEG = 35.0, 52.0
#: Reach of the fine noise that roughens a mesh, in m.
ROUGH_TILE_M = 620.0


@dataclass(frozen=True)
class Land:
    """Heights (R, C) in m over a square grid: row 0 lies at `y0`, column 0 at `x0`, so many metres from one to the next."""

    height: Array
    x0: float
    y0: float
    cell_m: float

    def __post_init__(self) -> None:
        if self.height.ndim != 2 or min(self.height.shape) < 4:
            raise InputError(f"heights {self.height.shape}", "height", "Give a grid of 4 x 4 heights at least")
        if not np.isfinite(self.height).all() or not self.cell_m > 0:
            raise InputError("heights that are not numbers", "height", "Fill the gaps, and give cells above 0 m")

    @cached_property
    def _spline(self) -> Array:
        return np.asarray(spline_filter(self.height, order=3, mode="nearest"))

    def at(self, x: ArrayLike, y: ArrayLike) -> Array:
        """Height at places, by cubic splines; beyond its edge that of the edge."""
        return self._read(self._spline, x, y, 3)

    def of(self, table: Array, x: ArrayLike, y: ArrayLike) -> Array:
        """A table of the same grid (R, C) at places, between its cells."""
        return self._read(table, x, y, 1)

    def _read(self, table: Array, x: ArrayLike, y: ArrayLike, order: int) -> Array:
        px, py = np.broadcast_arrays(np.asarray(x, float), np.asarray(y, float))
        rows = np.stack([(py.ravel() - self.y0) / self.cell_m, (px.ravel() - self.x0) / self.cell_m])
        return np.asarray(map_coordinates(table, rows, order=order, mode="nearest", prefilter=False)).reshape(px.shape)

    def window(self, size_m: float, cells: int) -> Land:
        """A square of it about zero, on a finer grid."""
        axis = (np.arange(cells) + 0.5) / cells * size_m - size_m / 2
        return Land(self.at(*np.meshgrid(axis, axis)), float(axis[0]), float(axis[0]), size_m / cells)

    @cached_property
    def steepness(self) -> Array:
        return slope(self.height, self.cell_m)

    @cached_property
    def wet(self) -> Array:
        return wetness(self.height, self.cell_m)

    @cached_property
    def hollow(self) -> Array:
        return curvature(gaussian_filter(self.height, 1.0, mode="nearest"), self.cell_m)


def _grid_xy(cells: int, size_m: float) -> tuple[Array, Array]:
    axis = (np.arange(cells) + 0.5) / cells * size_m - size_m / 2
    x, y = np.meshgrid(axis, axis)
    return x, y


@lru_cache(maxsize=4)
def mountains(
    seed: int = 1, size_m: float = 9000.0, cells: int = 512, height_m: float = 900.0, floor_m: float = 60.0, foot_m: float = 1500.0,
    skew: float = -0.1, mouth: float = 0.0,
) -> Land:  # fmt: skip
    """A valley along X between mountains `height_m` high: its floor `floor_m` wide to each side of the line y = skew x, rising over
    `foot_m`. `mouth` above 0 opens its ends towards the horizon. Carved coarsely, then at full fineness."""
    if not (64 <= cells <= 4096 and size_m > 0 and height_m > 0 and foot_m > 0 and floor_m >= 0):
        raise InputError("land out of its limits", "cells", "Choose 64 to 4096 cells, and lengths above 0")
    coarse = cells // 4
    z = _carved(seed, coarse, size_m, floor_m, foot_m, skew, mouth, None, 90)
    fine = zoom(z, cells / coarse, order=3, mode="nearest")[:cells, :cells]
    fine += (
        0.012
        * np.ptp(fine)
        * noise((cells, cells), (24, 24), seed + 3, 5, 0.55)
        * np.clip(fine / (0.25 * np.ptp(fine)), 0, 1)
    )
    z = _carved(seed, cells, size_m, floor_m, foot_m, skew, mouth, fine, 8)
    z *= height_m / np.percentile(z, 99.7)
    return Land(np.asarray(z), -size_m / 2 + size_m / cells / 2, -size_m / 2 + size_m / cells / 2, size_m / cells)


def _carved(
    seed: int,
    cells: int,
    size_m: float,
    floor_m: float,
    foot_m: float,
    skew: float,
    mouth: float,
    start: Array | None,
    steps: int,
) -> Array:
    """Uplift beside a valley, with rivers at work; heights in no unit of their own."""
    x, y = _grid_xy(cells, size_m)
    wander = 0.04 * size_m * np.sin(x / size_m * 5.0 + seed) * np.clip(np.abs(x) / (0.2 * size_m) - 0.2, 0, 1)
    across = np.abs(y - skew * x - wander)
    rise = np.clip((across - floor_m) / foot_m, 0, 1)
    rise = rise * rise * (3 - 2 * rise)
    if mouth < 1:  # the valley's ends are closed by mountains of their own
        ends = np.clip((np.abs(x) - 0.18 * size_m) / (0.25 * size_m), 0, 1) * (1 - mouth)
        rise = np.maximum(rise, 0.9 * ends * ends)
    broad = noise((cells, cells), (5, 5), seed, 3, 0.5)
    # Rock is not alike from place to place; without that, water would follow the grid.
    patchy = np.random.default_rng([seed, cells]).uniform(0.5, 1.5, (cells, cells))
    uplift = rise * np.clip(0.75 + 0.6 * broad, 0.1, 1.7) * patchy * 12.0
    floor = rise < 0.002
    z = (
        start
        if start is not None
        else 14.0 * noise((cells, cells), (16, 16), seed + 1, 5, 0.7) * rise + 0.05 * across / max(floor_m, 1.0)
    )
    cell = size_m / cells
    # At full fineness a few steps sharpen what the coarse ones have shaped.
    share, strength = (1.0, 0.10) if start is None else (0.05, 0.02)
    return eroded(z, share * uplift, cell, steps, strength, 38.0 if start is None else ROCK_DEG, floor)


def mesh(height: Callable[[Array, Array], Array], radii: Array, angles: Array) -> Shape:
    """Ground over `rings` about zero, finer near, coarser far, as the lens sees it; `height` gives metres at places x, y."""
    return rings(radii, angles, height(radii[:, None] * np.cos(angles), radii[:, None] * np.sin(angles)))


@lru_cache(maxsize=2)
def _rough_table(seed: int) -> Array:
    ridged = 1 - np.abs(noise((512, 512), (6, 6), seed, 7, 0.58))
    return np.asarray(ridged - ridged.mean())


def roughness(land: Land, x: Array, y: Array, most_m: float, seed: int = 5) -> Array:
    """What a grid of heights is too coarse for: ledges and ribs of rock, the more the steeper it is; in m."""
    table = _rough_table(seed)
    rows = np.stack([np.mod(np.ravel(y) / ROUGH_TILE_M, 1) * 512, np.mod(np.ravel(x) / ROUGH_TILE_M, 1) * 512])
    fine = map_coordinates(table, rows, order=1, mode="grid-wrap").reshape(np.shape(x))
    steep = np.clip(land.of(land.steepness, x, y) / 1.1, 0.0, 1.0)
    return np.asarray(most_m * fine * steep**1.5)


@dataclass(frozen=True)
class Cover:
    """What lies on the land at its cells, shares from 0 to 1 (R, C): rock, scree, heath, trees; the rest is grass."""

    rock: Array
    scree: Array
    heath: Array
    trees: Array

    @property
    def bare(self) -> Array:
        """Share that is rock or scree (R, C)."""
        return np.clip(self.rock + self.scree, 0, 1)


def _step(value: Array, low: float, high: float) -> Array:
    t = np.clip((value - low) / (high - low), 0.0, 1.0)
    return t * t * (3 - 2 * t)


def cover(land: Land, tree_line_m: float, seed: int = 1) -> Cover:
    """What covers the land, by slope, height, wetness and curvature, with the unevenness of chance."""
    shape = land.height.shape
    chance = noise(shape, (12, 12), seed + 20, 6, 0.6)
    high = land.height + 90 * chance
    tangent = land.steepness + 0.16 * chance
    rock = _step(tangent, 0.78, 1.05) + 0.75 * _step(high, 1.25 * tree_line_m, 2.1 * tree_line_m) * _step(
        -land.hollow, 0.0, 0.01
    )
    rock = np.clip(rock, 0, 1)
    # Scree gathers below rock, at its angle of repose, and in gullies.
    below = gaussian_filter(rock, 3.0, mode="nearest")
    repose = np.tan(np.radians(SCREE_DEG))
    scree = (
        _step(below, 0.12, 0.45)
        * _step(tangent, 0.75 * repose, repose)
        * (1 - rock)
        * _step(high, 0.55 * tree_line_m, tree_line_m)
    )
    heath = (
        _step(high, 0.8 * tree_line_m, 1.15 * tree_line_m)
        * (1 - rock)
        * (1 - scree)
        * (0.7 + 0.3 * _step(-land.wet, -9, -6))
    )
    clear = noise(shape, (30, 30), seed + 21, 4, 0.5)
    trees = (
        _step(-high, -1.05 * tree_line_m, -0.8 * tree_line_m)
        * (1 - _step(tangent, 0.95, 1.25))
        * _step(land.height, 3.0, 16.0)
    )
    trees = trees * _step(clear, -0.42, -0.1) * (1 - scree)
    return Cover(rock, scree, heath, np.clip(trees, 0, 1))


def pictures(
    land: Land, covered: Cover, seed: int = 1, strata_m: float = 26.0, rough_m: float = 0.0
) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """Colours of the land, and its relief, (R, C, 3) each, seen from above with row 0 to the north (largest y). The relief is that of
    `roughness` of at most `rough_m`."""
    shape = land.height.shape
    a, b = noise(shape, (20, 20), seed + 30, 7, 0.62), noise(shape, (90, 90), seed + 31, 4, 0.7)
    v = np.clip(0.5 + 0.3 * a + 0.22 * b + 0.04 * (land.wet - 8), 0, 1)
    grass = coloured(v, [(0, (66, 76, 34)), (0.5, (92, 106, 48)), (1, (128, 132, 70))])
    heath = coloured(v, [(0, (70, 66, 44)), (0.5, (98, 88, 58)), (1, (132, 118, 84))])
    wood = coloured(v, [(0, (30, 42, 22)), (1, (64, 80, 38))])
    green = grass * (1 - covered.heath[..., None]) + heath * covered.heath[..., None]
    green = green * (1 - 0.75 * covered.trees[..., None]) + wood * 0.75 * covered.trees[..., None]
    # Beds of rock lie one on another, a little tilted; each has a tone of its own, and water has drawn streaks down them.
    x, y = np.meshgrid(land.x0 + np.arange(shape[1]) * land.cell_m, land.y0 + np.arange(shape[0]) * land.cell_m)
    bed = (land.height + 0.12 * x + 0.05 * y + 14 * a) / strata_m
    rng = np.random.default_rng(seed + 32)
    tones = gaussian_filter(rng.uniform(0, 1, 4096), 0.6)
    lie = np.interp(np.mod(bed * 8, 4096), np.arange(4096), tones)
    t = np.clip(0.15 + 0.6 * lie + 0.18 * b + 0.1 * a, 0, 1)
    stone = coloured(t, [(0, (62, 59, 56)), (0.5, (98, 94, 88)), (1, (134, 128, 119))])
    lichen = np.clip(0.25 + 0.5 * a - 0.25 * land.steepness, 0, 0.5)[..., None]
    stone = stone * (1 - lichen) + np.array([104, 106, 74.0]) * lichen
    rubble = coloured(np.clip(0.5 + 0.35 * b + 0.15 * a, 0, 1), [(0, (92, 88, 83)), (1, (142, 137, 128))])
    share = (covered.scree / np.maximum(covered.scree + covered.rock, 1e-6))[..., None]
    bare = stone * (1 - share) + rubble * share
    # Tufts and cushions hold on in rock wherever it is less steep, and rock shows through turf.
    tufts = np.clip(0.9 * (0.62 - land.steepness) + 0.8 * a + 0.5 * b, 0, 0.6)[..., None]
    bare = bare * (1 - tufts) + heath * tufts
    mixed = covered.bare[..., None]
    together = green * (1 - mixed) + bare * mixed
    fine = roughness(land, x, y, rough_m) + 0.35 * rough_m * land.cell_m / 9.0 * b
    return to_bytes(together[::-1]), relief(fine[::-1], 1.0 / land.cell_m)


def parted(shape: Shape, share: Array, seed: int = 9) -> tuple[Shape, Shape]:
    """A mesh in two, by the share (T,) of each triangle that belongs to the second; where both are mixed the seam frays by chance."""
    second = share > np.random.default_rng(seed).uniform(0.3, 0.7, len(share))
    return shape.of(~second), shape.of(second)


def middles(shape: Shape) -> Array:
    """Middles of the triangles (T, 3)."""
    return np.asarray(shape.points[shape.triangles].mean(1))
