"""What laying cut-outs asks of a film: where what is seen lies, how far the sun shines on it, and the level mirror in it."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.compose import kernels
from valleylight.core.compose.light import Sunlight
from valleylight.core.film.film import Film
from valleylight.core.trace.arrays import layout

Array = NDArray[np.floating[Any]]
#: A level surface counts as a mirror where its normal is as upright and as much of its light is reflected, over a few pixels.
UPRIGHT, MIRRORS = 0.93, 0.2
#: Below so many samples of a pixel what is worked out from its light is taken from its surroundings.
FEW = 24
LUMA = LUMINANCE.astype(np.float32)


@dataclass(frozen=True)
class SeenOfFilm:
    """What laying asks of a film, worked out once: passes, places (H, W, 3) about `origin` (3,), the record of its lens, how far the
    sun shines on what is seen (H, W), the level mirror, and the balls (N, 4) about what is seen in each tile (N, 2)."""

    film: Film
    passes: dict[str, Array]
    place: Array
    depth: Array
    normal: Array
    camera: NDArray[np.float64]
    origin: NDArray[np.float64]
    sunlit: Array | None
    mirror: tuple[float, Array] | None
    tiles: NDArray[np.int64]
    balls: Array

    @property
    def lens(self) -> NDArray[np.float64]:
        return np.asarray(self.camera[layout.three(layout.CAMERA_PLACE)])


def seen_of_film(
    film: Film, camera: NDArray[np.float64], origin: NDArray[np.float64], sun: Sunlight | None
) -> SeenOfFilm:
    """What laying asks of a film. `camera` is the record of its lens about `origin` (3,)."""
    passes = film.passes
    place = np.ascontiguousarray(passes["position"] - origin.astype(np.float32))
    depth, normal = np.ascontiguousarray(passes["depth"]), np.ascontiguousarray(passes["normal"])
    sunlit = _sunlit(film, passes, sun) if sun is not None and "sun" in film.group_names else None
    return SeenOfFilm(
        film, passes, place, depth, normal, camera, origin, sunlit, _mirror(passes, film), *_balls(place, depth)
    )


def _balls(place: Array, depth: Array) -> tuple[NDArray[np.int64], Array]:
    """Left and top of each tile in which something is met (N, 2), and the ball about its places (N, 4: middle, radius)."""
    size = kernels.TILE
    rows, across = -(-depth.shape[0] // size), -(-depth.shape[1] // size)
    pad = ((0, rows * size - depth.shape[0]), (0, across * size - depth.shape[1]))
    met = np.pad(np.isfinite(depth), pad)
    at = np.pad(place, (*pad, (0, 0)))

    def by_tile(values: Array, of: Callable[..., Array]) -> Array:
        return of(values.reshape(rows, size, across, size, 3), axis=(1, 3)).reshape(-1, 3)

    low = by_tile(np.where(met[..., None], at, np.inf), np.min)
    high = by_tile(np.where(met[..., None], at, -np.inf), np.max)
    some = np.isfinite(low[:, 0])
    j, i = np.meshgrid(np.arange(rows) * size, np.arange(across) * size, indexing="ij")
    tiles = np.column_stack([i.ravel(), j.ravel()])[some].astype(np.int64)
    middle = (low[some] + high[some]) / 2
    return tiles, np.column_stack([middle, np.linalg.norm(high[some] - middle, axis=1)]).astype(np.float32)


def _sunlit(film: Film, passes: dict[str, Array], sun: Sunlight) -> Array:
    """The share (H, W) of the sun's disc that shines on what is seen: its light there over what a surface of that colour, turned like
    that, would have of it in the open. Half of it is taken for full light and a quarter for shade, for what is around lights both."""
    colour = passes["surface_colour"] @ LUMA
    normal = passes["normal"]
    length = np.maximum(np.linalg.norm(normal, axis=-1), 1e-3)
    facing = np.clip(normal @ sun.towards.astype(np.float32) / length, 0.02, 1)
    light = film.groups["sun"] @ LUMA
    if film.samples < FEW:
        light, colour = uniform_filter(light, 5), uniform_filter(colour, 5)
    open_sun = colour * facing * float(sun.normal_lx @ LUMINANCE) / math.pi
    ratio = light / np.maximum(open_sun, 1e-6)
    return np.asarray(np.clip((ratio - 0.25) / 0.5, 0, 1), np.float32)


def _mirror(passes: dict[str, Array], film: Film) -> tuple[float, Array] | None:
    """Height about the traced zero of the level mirror that fills most of the picture, and the share (H, W) of its light that is reflected;
    None where there is none."""
    whole = np.maximum(sum(film.groups.values()) @ LUMA, 1e-6)  # type: ignore[operator]
    # Ripples turn single normals, and few samples leave the share of the mirror in specks: both are taken over a few pixels.
    share = np.clip(uniform_filter(passes["reflection"] @ LUMA, 9) / uniform_filter(whole, 9), 0, 1)
    upright = (uniform_filter(passes["normal"][..., 2], 9) > UPRIGHT) & np.isfinite(passes["depth"])
    found = upright & (share > MIRRORS)
    if found.mean() < 0.003:
        return None
    height = float(np.median(passes["position"][found][:, 2]))
    near = upright & (np.abs(passes["position"][..., 2] - height) < 0.05)
    return height, np.where(near, share, 0).astype(np.float32)
