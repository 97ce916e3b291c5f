"""The tiles a picture is traced in, and which of them need more."""

from __future__ import annotations

import numpy as np

from valleylight.core.errors import InputError
from valleylight.core.film import columns
from valleylight.core.film.film import Film

Tile = tuple[int, int, int, int]
TILE = 32
#: Below so many samples nothing is known of a pixel's noise.
LEAST_SAMPLES = 8


def tiles(width: int, height: int, size: int = TILE) -> list[Tile]:
    """Tiles (x0, y0, x1, y1) that cover a picture, row by row."""
    return [
        (x, y, min(x + size, width), min(y + size, height))
        for y in range(0, height, size)
        for x in range(0, width, size)
    ]


def noisy_tiles(film: Film, which: list[Tile], target: float) -> list[Tile]:
    """The tiles whose noise is still above a target.

    The noise of a tile is the 90th percentile over its pixels of the standard error of the luminance, over that luminance
    plus a twentieth of the lens's white: what counts is what will be seen. It is taken from the tile alone, so that the
    choice does not depend on threads or order.
    """
    return [tile for tile in which if not _is_known(film, tile) or noise_of(film, tile) > target]


def noise_of(film: Film, tile: Tile) -> float:
    """The noise of a tile of two samples a pixel or more, see `noisy_tiles`."""
    x0, y0, x1, y1 = tile
    white = float(film.settings.get("saturation_cd_m2", 1.0))
    a, n = film.auxiliary[y0:y1, x0:x1], film.counts[y0:y1, x0:x1]
    mean = a[..., columns.PASS_LUMINANCE] / n
    error = np.sqrt(np.maximum(a[..., columns.PASS_SQUARES] / n - mean * mean, 0) / (n - 1))
    return float(np.percentile(error / (mean + 0.05 * white), 90))


def _is_known(film: Film, tile: Tile) -> bool:
    x0, y0, x1, y1 = tile
    return bool(film.counts[y0:y1, x0:x1].min() >= LEAST_SAMPLES)


def tiles_in(region: tuple[float, float, float, float], width: int, height: int) -> list[Tile]:
    """The tiles that touch a region of interest, given as shares (left, top, right, bottom) of the picture.

    Raises InputError for an empty region or one outside the picture.
    """
    left, top, right, bottom = region
    if not (0 <= left < right <= 1 and 0 <= top < bottom <= 1):
        raise InputError(
            f"the region {region} is empty or reaches outside the picture", "region",
            "Give left, top, right, bottom as shares between 0 and 1",
        )  # fmt: skip
    return [
        (x0, y0, x1, y1)
        for x0, y0, x1, y1 in tiles(width, height)
        if x0 < right * width and x1 > left * width and y0 < bottom * height and y1 > top * height
    ]
