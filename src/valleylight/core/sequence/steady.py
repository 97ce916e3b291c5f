"""Frames held steady: what was known of a place in the frames before goes on counting where it is seen again.

Each pixel's place on the stage is worked out from its distance, and looked up in the frame before (reverse reprojection: D. Nehab et al.,
Accelerating real-time shading with reverse reprojection caching, Graphics Hardware 2007). What is found is averaged in by how many frames it
holds, as an exponential moving average does (C. Schied et al., Spatiotemporal variance-guided filtering, HPG 2017), but no further from what
is seen now than its neighbours' mean and deviation and the noise of the trace allow (M. Salvi, variance clipping, GDC 2016), so that
reflections, moving shadows and what comes out from behind something do not drag a trail.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter

from valleylight.core.film import columns
from valleylight.core.film.film import Film
from valleylight.core.sequence.kernels import steady_rows
from valleylight.core.treatments.run import in_bands

Picture = NDArray[np.float32]
#: Frames that count at most, while the light stands and while it changes.
MOST_FRAMES, MOST_IN_CHANGING_LIGHT = 10.0, 4.0
#: Pixels over which the noise of a trace is averaged before it is trusted.
NOISE_BOX = 15


@dataclass(frozen=True)
class Remembered:
    """What of a frame the next one is held steady by: its picture (H, W, 3) in cd/m2, how far things are along each sight (H, W) in m
    (infinite where nothing is), how many frames each pixel holds (H, W), and the lens (26,) in the model's coordinates."""

    picture: Picture
    depth: Picture
    frames: Picture
    camera: NDArray[np.float64]


def noise_share(film: Film) -> Picture:
    """Standard error of the luminance (H, W) over the luminance itself, averaged over the pixels about."""
    noise = film.noise
    known = np.isfinite(noise)
    if not known.any():
        return np.ones(noise.shape, np.float32)
    counts = np.maximum(film.counts, 1)
    light = film.auxiliary[..., columns.PASS_LUMINANCE] / counts
    top = uniform_filter(np.where(known, noise, light).astype(np.float32), NOISE_BOX, mode="nearest")
    below = uniform_filter(light.astype(np.float32), NOISE_BOX, mode="nearest")
    return np.asarray(np.clip(top / np.maximum(below, 1e-9), 0.0, 1.0), np.float32)


def steadied(
    picture: Picture, depth: Picture, noise: Picture, camera: NDArray[np.float64], before: Remembered | None, most: float = MOST_FRAMES
) -> Remembered:  # fmt: skip
    """A frame (H, W, 3) with what was known before averaged in. `depth` (H, W) in m along the sight, `noise` (H, W) as `noise_share` has it,
    `camera` (26,) in the model's coordinates."""
    now = np.ascontiguousarray(picture, np.float32)
    far = np.ascontiguousarray(depth, np.float32)
    if before is None or before.picture.shape != now.shape:
        return Remembered(now, far, np.ones(far.shape, np.float32), camera)
    out, frames = np.empty_like(now), np.empty_like(far)
    in_bands(
        steady_rows, len(now), now, far, np.ascontiguousarray(noise, np.float32), camera, before.picture, before.depth,
        before.frames, before.camera, float(most), out, frames, np.empty((len(now), 6)),
    )  # fmt: skip
    return Remembered(out, far, frames, camera)
