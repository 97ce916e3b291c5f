"""Light beyond the firefly limit, given back to the neighbourhood it came from.

A rare path that finds something very bright makes one pixel burn. What exceeds the limit is added up by cells of the picture, and
spread over the surfaces about: smoothed over the picture, divided by the surface colour smoothed in the same way, and put on
each pixel by its own colour. The picture keeps its mean luminance and its texture, and nothing burns. Energy that is moved and not
lost: H. Rushmeier, G. Ward, Energy Preserving Non-Linear Filters, SIGGRAPH 1994.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage, sparse

from valleylight.core.film.columns import SPILL_CELL

Array = NDArray[np.floating]
#: Light is spread over this share of the longer side of the picture (standard deviation), and this many cells at least.
REACH, LEAST_CELLS = 0.03, 1.0
#: Black surfaces take this much, so that there is always something to spread over.
LEAST_COLOUR = 1e-3


def light_per_colour(spill: Array, counts: Array, colour: Array) -> Array:
    """What a surface of colour 1 is given, by cell: (h, w, G, 3) in cd/m2.

    `spill` (h, w, G, 3) are sums in cd/m2 of a picture's cells over `counts` (H, W) samples, `colour` (H, W, 3) the reflectance seen in
    each pixel, 0 for the sky.
    """
    height, width = counts.shape
    share = np.maximum(_summed(np.maximum(counts, 1)), 1)[..., None, None]
    pixels = _summed(np.ones((height, width), np.float32))[..., None]
    seen = _summed(colour) / pixels + LEAST_COLOUR
    sigma = max(REACH * max(height, width) / SPILL_CELL, LEAST_CELLS)
    # Cells at the edge hold fewer pixels: what is smoothed is light, and what it is smoothed over.
    light, over = spill / share * pixels[..., None], (seen * pixels)[:, :, None]
    field = _smooth(light, sigma) / np.maximum(_smooth(np.broadcast_to(over, light.shape), sigma), 1e-12)
    lit = np.asarray(spill.any((0, 1, 3)))
    field = np.where(lit[:, None], field, 0).astype(np.float32)
    # Spreading is linear: what the pixels take of a cell's light is summed once, for all groups.
    taken = _gathered(colour + np.float32(LEAST_COLOUR), field.shape[:2])
    given = np.einsum("hwgc,hwc->gc", field, taken)
    meant = light.sum((0, 1))
    return np.asarray(field * np.where(given > 0, meant / np.maximum(given, 1e-30), 0), np.float32)


def spread_over(field: Array, colour: Array, top: int) -> Array:
    """Light (rows, W, 3) in cd/m2 that the surfaces of some rows from `top` are given: `field` (h, w, 3) by colour (rows, W, 3)."""
    rows, width = colour.shape[:2]
    return np.asarray(
        _between(field[:, :, None], width, top, rows)[:, :, 0] * (colour + np.float32(LEAST_COLOUR)), np.float32
    )


def _summed(values: Array) -> Array:
    """Sums of pixels (H, W, ...) by cell."""
    rows, columns = (np.arange(0, n, SPILL_CELL) for n in values.shape[:2])
    return np.asarray(np.add.reduceat(np.add.reduceat(values, rows, axis=0), columns, axis=1))


def _smooth(values: Array, sigma: float) -> Array:
    return np.asarray(ndimage.gaussian_filter(values, (sigma, sigma, 0, 0), mode="constant"))


def _between(field: Array, width: int, top: int, rows: int) -> Array:
    """Values of cells (h, w, ...) at the pixels of some rows, bilinear between the middles of cells."""
    across = _weighed(np.arange(width), field.shape[1])
    down = _weighed(np.arange(top, top + rows), field.shape[0])
    first, second, share = across
    share = share.reshape(1, -1, *[1] * (field.ndim - 2))
    wide = field[:, first] * (1 - share) + field[:, second] * share
    first, second, share = down
    share = share.reshape(-1, *[1] * (field.ndim - 1))
    return np.asarray(wide[first] * (1 - share) + wide[second] * share)


def _gathered(values: Array, cells: tuple[int, ...]) -> Array:
    """What pixels (H, W, C) take of each cell (h, w, C) in float64: the transpose of `_between`."""
    height, width = values.shape[:2]
    rows = _matrix(height, cells[0])
    across = _matrix(width, cells[1])
    wide = np.stack([rows.T @ values[..., c].astype(np.float64) for c in range(values.shape[-1])], axis=-1)
    return np.stack([(across.T @ wide[..., c].T).T for c in range(values.shape[-1])], axis=-1)


def _matrix(pixels: int, cells: int) -> sparse.csr_array:
    """Weights of cells (pixels, cells) that `_between` gives the pixels of a row."""
    first, second, share = _weighed(np.arange(pixels), cells)
    at = np.arange(pixels)
    weights = np.concatenate([1 - share, share])
    return sparse.csr_array((weights, (np.concatenate([at, at]), np.concatenate([first, second]))), (pixels, cells))


def _weighed(pixels: NDArray[np.int64], cells: int) -> tuple[NDArray[np.int64], NDArray[np.int64], Array]:
    place = np.clip((pixels + 0.5) / SPILL_CELL - 0.5, 0, cells - 1)
    first = np.floor(place).astype(np.int64)
    return first, np.minimum(first + 1, cells - 1), (place - first).astype(np.float32)
