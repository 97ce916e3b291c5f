"""What drawn treatments share: smooth noise that is the same on every run, paper with its height, pictures moved by a hand's unrest."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Plane = NDArray[np.float32]


@lru_cache(maxsize=16)
def noise(size: tuple[int, int], wave_px: float, seed: int, octaves: int = 3) -> Plane:
    """Smooth noise (H, W) of mean 0 and deviation 1 whose largest swells are about `wave_px` apart: value noise, each octave half as
    wide and strong as the one before (K. Perlin, An Image Synthesizer, SIGGRAPH 1985)."""
    from scipy.ndimage import zoom

    rng = np.random.default_rng(seed)
    total = np.zeros(size, np.float32)
    for k in range(octaves):
        step = max(wave_px / 2**k, 1.0)
        shape = [int(n / step) + 4 for n in size]
        grid = rng.standard_normal(shape).astype(np.float32)
        fine = zoom(grid, min(step, 64.0), order=3 if step > 1 else 0, grid_mode=True, mode="nearest")
        if step > 64:
            fine = zoom(fine, step / 64, order=1, grid_mode=True, mode="nearest")
        total += fine[: size[0], : size[1]] * np.float32(0.5**k)
    return np.asarray((total - total.mean()) / max(float(total.std()), 1e-9), np.float32)


def paper(size: tuple[int, int], seed: int = 11) -> Plane:
    """Height of a cold-pressed paper (H, W), mean 0 and deviation 1: tooth of about a four-hundredth of the picture's width."""
    tooth = max(size[1] / 420, 1.4)
    return np.asarray(0.75 * noise(size, tooth, seed, 2) + 0.35 * noise(size, 5 * tooth, seed + 1, 2), np.float32)


def unsteady(plane: NDArray[np.float32], amount_px: float, wave_px: float, seed: int) -> NDArray[np.float32]:
    """A plane (H, W) drawn by an unsteady hand: moved about by so many pixels, over swells so far apart."""
    from scipy.ndimage import map_coordinates

    if amount_px <= 0:
        return plane
    size = (plane.shape[0], plane.shape[1])
    by = [np.float32(amount_px) * noise(size, wave_px, seed + k, 2) for k in (0, 1)]
    rows, columns = np.indices(size, np.float32) + np.stack(by)
    return np.asarray(map_coordinates(plane, [rows, columns], order=1, mode="nearest"), np.float32)


def inside(size: tuple[int, int], margin_percent: float) -> Plane:
    """The share of each pixel (H, W) that lies within a margin of the picture's width, whose edge is uneven; alike for all that is drawn."""
    wide, margin = size[1], np.float32(margin_percent / 100 * size[1])
    edge = _from_edge(size) - margin + 0.2 * margin * noise(size, wide / 14, 51, 4)
    return np.asarray(np.clip(edge / max(wide / 500, 1) + 0.5, 0, 1), np.float32)


def drops_beyond(size: tuple[int, int], margin_percent: float) -> Plane:
    """Drops of a brush beyond that margin (H, W), fewer towards the paper's edge."""
    margin = max(margin_percent / 100 * size[1], 1.0)
    out = np.clip((margin - _from_edge(size)) / np.float32(margin), 0, 1)
    return np.asarray((noise(size, size[1] / 90, 61, 2) > 2.6 + 1.6 * out) * np.float32(0.8), np.float32)


def _from_edge(size: tuple[int, int]) -> Plane:
    """Pixels to the nearest edge of the picture (H, W)."""
    rows, columns = (np.minimum(np.arange(n), n - 1 - np.arange(n)).astype(np.float32) for n in size)
    return np.asarray(np.minimum(rows[:, None], columns[None]), np.float32)
