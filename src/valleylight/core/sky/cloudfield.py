"""The shape of a cloud layer: a periodic field of density, drawn by spectral synthesis from a seed.

A field of random phases with a chosen spectrum (D. Peachey, Texturing and Modeling, chapter on spectral synthesis; the
exponent -11/6 of amplitude is Kolmogorov's for turbulent air) is ranked, so that the cover is exactly the share asked for.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from valleylight.core.project.sky import CloudLayer

#: The field repeats after so many metres; cells and levels of its grid.
TILE_M, CELLS, LEVELS = 32_000.0, 256, 12
#: Edge of the small block of noise that tears the edges, in cells.
BLOCK = 48
#: Asymmetry of scattering by droplets (from memory: 0.85 for water cloud in visible light).
DROPLET_ASYMMETRY = 0.85


@dataclass(frozen=True)
class Field:
    """Density of a layer relative to its extinction; shape (CELLS, CELLS, LEVELS), x, y, level."""

    layer: CloudLayer
    density: NDArray[np.float32]


def _spectral(rng: np.random.Generator, shape: tuple[int, ...], weight: NDArray[np.float64]) -> NDArray[np.float64]:
    """Periodic Gaussian noise with an amplitude spectrum, mean 0 and deviation 1."""
    white = np.fft.fftn(rng.standard_normal(shape))
    made = np.fft.ifftn(white * weight).real
    return np.asarray((made - made.mean()) / made.std())


def _wave_numbers(cells: int, dimensions: int) -> list[NDArray[np.float64]]:
    axis = np.fft.fftfreq(cells, 1.0 / cells)
    return list(np.meshgrid(*([axis] * dimensions), indexing="ij"))


def _ranked(values: NDArray[np.float64]) -> NDArray[np.float64]:
    """Each value replaced by the share of values below it."""
    order = np.empty(values.size)
    order[np.argsort(values, axis=None)] = (np.arange(values.size) + 0.5) / values.size
    return order.reshape(values.shape)


def _map(layer: CloudLayer, rng: np.random.Generator) -> NDArray[np.float64]:
    """Where clouds stand, 0 to 1 in plan; shape (CELLS, CELLS)."""
    kx, ky = _wave_numbers(CELLS, 2)
    k0 = TILE_M / layer.size_m
    if layer.kind == "streaks":
        k = np.hypot(kx * 4.5, ky * 0.7) + 1e-9
        noise = _spectral(rng, (CELLS, CELLS), (1 + (k / k0) ** 2) ** (-11 / 12) * (k > 0.5))
        return _ranked(noise)
    k = np.hypot(kx, ky) + 1e-9
    if layer.kind == "cells":
        band = np.exp(-(((k - k0) / (0.22 * k0)) ** 2)) + 0.05 * (k > 2 * k0) * (k / k0) ** (-11 / 6)
        patches = _spectral(rng, (CELLS, CELLS), (1 + (k / (k0 / 7)) ** 2) ** -1.2 * (k > 0.5))
        return _ranked(_spectral(rng, (CELLS, CELLS), band) + 1.1 * patches)
    weight = (1 + (k / k0) ** 2) ** (-11 / 12 - 0.15) * (k > 0.5) * np.minimum(k / k0, 1.0) ** 0.6
    return _ranked(_spectral(rng, (CELLS, CELLS), weight))


@lru_cache(maxsize=8)
def block_of_noise(seed: int) -> NDArray[np.float32]:
    """Periodic billows 0 to 1 that tear edges, (BLOCK, BLOCK, BLOCK): one less the distance to the nearest of points strewn in cells
    (S. Worley, A Cellular Texture Basis Function, SIGGRAPH 1996), in three octaves."""
    rng = np.random.default_rng(seed + 77)
    axis = np.arange(BLOCK) / BLOCK
    grid = np.stack(np.meshgrid(axis, axis, axis, indexing="ij"), -1).reshape(-1, 3)
    total = np.zeros(len(grid))
    for cells, share in ((3, 0.58), (6, 0.28), (12, 0.14)):
        corner = np.stack(np.meshgrid(*[np.arange(cells)] * 3, indexing="ij"), -1).reshape(-1, 3)
        points = (corner + rng.random(corner.shape)) / cells
        distance = cKDTree(np.mod(points, 1.0), boxsize=1.0).query(grid, workers=-1)[0]
        total += share * (1 - np.clip(distance * cells / 0.95, 0, 1))
    return np.clip(total * 1.25, 0, 1).astype(np.float32).reshape((BLOCK,) * 3)


@lru_cache(maxsize=12)
def field_of(layer: CloudLayer, seed: int) -> Field:
    """The density field of a layer; a fraction of a second, then kept."""
    rng = np.random.default_rng([seed, int(layer.base_m)])
    plan = _map(layer, rng)
    inside = np.clip((plan - (1 - layer.cover)) / max(layer.cover, 1e-3), 0, 1)[..., None]
    u = ((np.arange(LEVELS) + 0.5) / LEVELS)[None, None]
    block = block_of_noise(seed)
    # The block repeats every BLOCK cells of the grid in plan; vertically its cells are as large as they are in plan.
    cell_m = TILE_M / CELLS
    level = np.mod((u * layer.depth_m / cell_m).astype(int), BLOCK)
    i = np.arange(CELLS)
    rough = block[np.mod(i, BLOCK)[:, None, None], np.mod(i, BLOCK)[None, :, None], level]
    if layer.kind == "heaped":
        top = 0.22 + 0.78 * inside**0.65
        body = np.minimum(inside * 2.2, 1.0) * (1 - (u / top) ** 2) - layer.ragged * 0.25 * (1 - rough) * (
            inside < 0.98
        )
        density = np.clip(body * 1.4, 0, 1) * np.clip(u * 9, 0.3, 1)
    elif layer.kind in ("sheet", "cells"):
        middle = 1 - np.abs(2 * u - 1) ** 3
        swell = 1.0 if layer.kind == "sheet" and layer.cover >= 0.999 else np.clip(inside * 1.3, 0, 1) ** 1.6
        density = middle * swell * (1 - layer.ragged * 0.8 * (1 - rough) * (0.5 + 0.5 * (1 - inside)))
        if layer.kind == "sheet":
            density = density * (0.45 + 1.1 * plan[..., None] ** (0.5 + layer.ragged))
    else:  # veil and streaks: thin, and alike from top to bottom
        density = (1 - np.abs(2 * u - 1) ** 2) * inside ** (1.4 if layer.kind == "streaks" else 0.3)
    return Field(layer, np.ascontiguousarray(np.clip(density, 0, 1.6), np.float32))
