"""What treatments that look around share: pictures made smaller and laid back, luminance, an edge-keeping filter."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from valleylight.core.treatments.base import Picture, row_kernel

LUMA = np.array([0.2126, 0.7152, 0.0722], np.float32)
Plane = NDArray[np.float32]


def luminance(picture: Picture) -> Plane:
    """ITU-R BT.709 weights (H, W)."""
    return np.asarray(picture @ LUMA, np.float32)


def shrunk(picture: NDArray[np.float32], width: int) -> NDArray[np.float32]:
    """A picture (H, W) or (H, W, C) made smaller by whole blocks until it is about so wide."""
    from valleylight.core.film.blocks import block_means

    f = max(1, min(round(picture.shape[1] / width), min(picture.shape[:2])))
    return picture if f == 1 else np.asarray(block_means(picture if picture.ndim == 3 else picture[..., None], f)).reshape(
        picture.shape[0] // f, picture.shape[1] // f, *picture.shape[2:]
    )  # fmt: skip


def enlarged(small: NDArray[np.float32], size: tuple[int, int]) -> NDArray[np.float32]:
    """A picture (h, w) or (h, w, C) at a greater size (H, W), linear between the middles of its pixels."""
    from valleylight.core.treatments.run import enlarge_rows, in_bands

    if small.shape[:2] == size:
        return small
    planes = np.ascontiguousarray(small if small.ndim == 3 else small[..., None], np.float32)
    result = np.empty((*size, planes.shape[2]), np.float32)
    in_bands(enlarge_rows, size[0], planes, result)
    return result if small.ndim == 3 else result[..., 0]


def base_of(guide: Plane, radius_share: float, edge: float) -> Plane:
    """What is left of a plane (H, W) without detail: smooth within `radius_share` of its width, sharp where it steps by more than
    `edge`. The coefficients are found on a smaller copy.

    Source: K. He, J. Sun, X. Tang, Guided Image Filtering, ECCV 2010 (guided by itself); K. He, J. Sun, Fast Guided Filter, 2015.
    """
    from scipy.ndimage import uniform_filter

    height, width = guide.shape
    wide = max(2 * round(radius_share * width), 1) + 1
    small = shrunk(guide, max(round(width / max(wide / 8, 1)), 16))
    window = max(2 * round(radius_share * small.shape[1]), 1) + 1
    mean = uniform_filter(small, window, mode="nearest")
    variance = np.maximum(uniform_filter(small * small, window, mode="nearest") - mean * mean, 0)
    a = variance / (variance + edge * edge)
    b = mean * (1 - a)
    a, b = (enlarged(uniform_filter(c.astype(np.float32), window, mode="nearest"), (height, width)) for c in (a, b))
    return np.asarray(a * guide + b, np.float32)


def bright(picture: Picture, white: float, width: int) -> Picture:
    """What of a picture lies above a luminance, in its own colour, made smaller by whole blocks until it is about so wide."""
    from valleylight.core.treatments.run import in_bands

    f = max(1, min(round(picture.shape[1] / width), min(picture.shape[:2])))
    result = np.empty((picture.shape[0] // f, picture.shape[1] // f, 3), np.float32)
    in_bands(bright_rows, len(result), picture, float(white), f, result)
    return result


@row_kernel
def bright_rows(source: Any, white: float, f: int, result: Any, first: int, last: int) -> None:
    """Means over f x f pixels of what lies above a luminance (ITU-R BT.709), for rows first to last of the smaller picture."""
    for y in range(first, last):
        for x in range(result.shape[1]):
            r, g, b = 0.0, 0.0, 0.0
            for j in range(y * f, y * f + f):
                for i in range(x * f, x * f + f):
                    luma = 0.2126 * source[j, i, 0] + 0.7152 * source[j, i, 1] + 0.0722 * source[j, i, 2]
                    if luma > white:
                        share = 1.0 - white / luma
                        r += share * source[j, i, 0]
                        g += share * source[j, i, 1]
                        b += share * source[j, i, 2]
            result[y, x, 0], result[y, x, 1], result[y, x, 2] = r / (f * f), g / (f * f), b / (f * f)


def spread(picture: Picture, pattern_f: NDArray[np.complexfloating], size: tuple[int, int]) -> Picture:
    """A picture (h, w, 3) convolved with a pattern given by its transform on a grid of `size` that holds both (see `transform`)."""
    from scipy import fft

    height, width = picture.shape[:2]
    there = fft.rfft2(picture, size, axes=(0, 1), workers=-1)
    back = fft.irfft2(there * pattern_f, size, axes=(0, 1), workers=-1)
    return np.asarray(back[:height, :width], np.float32)


def transform(
    pattern: NDArray[np.floating], shape: tuple[int, int]
) -> tuple[NDArray[np.complexfloating], tuple[int, int]]:
    """Transform of a pattern (2 R + 1, 2 R + 1, C), its middle at zero, on a grid large enough for pictures of `shape`; and that size."""
    from scipy import fft

    reach = pattern.shape[0] // 2
    height, width = (int(fft.next_fast_len(n + reach, real=True)) for n in shape)
    held = np.zeros((height, width, pattern.shape[2]), np.float32)
    rows = np.arange(-reach, reach + 1)
    held[np.ix_(rows % height, rows % width)] = pattern
    return fft.rfft2(held, axes=(0, 1), workers=-1), (height, width)
