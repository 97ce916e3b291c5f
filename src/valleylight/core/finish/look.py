"""Apply a look to a linear picture."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from valleylight.core.colour.rgb import RGB_TO_XYZ, XYZ_TO_RGB, srgb_encode
from valleylight.core.colour.temperature import kelvin_xy
from valleylight.core.errors import InputError
from valleylight.core.film.blocks import block_means
from valleylight.core.film.film import Film
from valleylight.core.finish import kernels
from valleylight.core.project.description import (
    Bloom,
    Contrast,
    Exposure,
    Look,
    Saturation,
    ToneCurve,
    WhiteBalance,
)

#: Cone responses of the Bradford transform (ICC.1:2010, annex E).
BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
_D65_XY = (0.3127, 0.3290)
#: Bloom is spread on a picture reduced so far that its narrowest width is about this many pixels.
_BLOOM_PIXELS = 1.0
_pool = ThreadPoolExecutor(os.cpu_count() or 1, thread_name_prefix="finish")


def apply(
    film_or_array: Film | NDArray[np.floating],
    look: Look,
    levels: dict[str, float] | None = None,
    saturation_cd_m2: float | None = None,
) -> NDArray[np.uint8]:
    """Display picture, H x W x 3 uint8 sRGB.

    `levels` are factors of light groups (films only). `saturation_cd_m2` is the luminance the lens takes as white, see
    `exposure.saturation_luminance`; a film knows that of its view, and an array is taken as it is (white at 1).
    """
    if isinstance(film_or_array, Film):
        linear = film_or_array.balanced(levels)
        white = saturation_cd_m2 or film_or_array.settings.get("saturation_cd_m2", 1.0)
    else:
        linear = np.asarray(film_or_array, np.float32)
        white = saturation_cd_m2 or 1.0
        if linear.ndim != 3 or linear.shape[2] != 3:
            raise InputError(f"a picture has the shape (H, W, 3), not {linear.shape}", "film_or_array", "Reshape it")
    return encode(apply_linear(linear, look, white))


def apply_linear(linear: NDArray[np.float32], look: Look, saturation_cd_m2: float) -> NDArray[np.float32]:
    """The treatments of a look on a linear picture in cd/m2; the result is display-linear, 0 to 1."""
    picture = np.ascontiguousarray(linear, np.float32)
    pending: list[NDArray[np.float64]] = [_scale(1.0 / saturation_cd_m2)]
    for treatment in look.treatments:
        if not treatment.on:
            continue
        if isinstance(treatment, Bloom):
            picture = _bloom(_run(picture, pending), treatment)
            pending = []
        else:
            pending.append(_operation(treatment))
    return _run(picture, pending)


def encode(display_linear: NDArray[np.float32]) -> NDArray[np.uint8]:
    """sRGB code values of a display-linear picture."""
    result = np.empty(display_linear.shape, np.uint8)
    _in_bands(kernels.encode_rows, len(result), display_linear, _encode_table(), result)
    return result


def _run(picture: NDArray[np.float32], operations: list[NDArray[np.float64]]) -> NDArray[np.float32]:
    if not operations:
        return picture
    result = np.empty_like(picture)
    curves = np.zeros((len(operations), kernels.CURVE_STEPS + 1))
    for curve, operation in zip(curves, operations, strict=True):
        if operation[0] == kernels.CONTRAST:
            curve[:] = contrast_curve(float(operation[1]))
    _in_bands(kernels.apply_rows, len(picture), picture, np.stack(operations), curves, result)
    return result


def _in_bands(function: Callable[..., None], rows: int, *arguments: object) -> None:
    """Run a row kernel over bands of rows on all cores."""
    bands = np.linspace(0, rows, min(8, rows) + 1).astype(int)
    for job in [_pool.submit(function, *arguments, int(a), int(b)) for a, b in zip(bands, bands[1:], strict=False)]:
        job.result()


def _row(kind: int, *values: float) -> NDArray[np.float64]:
    row = np.zeros(kernels.OPERATION_WIDTH)
    row[0] = kind
    row[1 : 1 + len(values)] = values
    return row


def _scale(factor: float) -> NDArray[np.float64]:
    return _row(kernels.MATRIX, factor, 0, 0, 0, factor, 0, 0, 0, factor)


def _operation(treatment: Exposure | WhiteBalance | ToneCurve | Contrast | Saturation) -> NDArray[np.float64]:
    match treatment:
        case Exposure():
            return _scale(2.0**treatment.stops)
        case WhiteBalance():
            return _row(kernels.MATRIX, *white_balance_matrix(treatment.kelvin, treatment.tint).ravel())
        case ToneCurve():
            return _row(kernels.TONE, 1.0 - 0.85 * treatment.shoulder, 2.0**treatment.stops_above, 0.1 * treatment.toe)
        case Contrast():
            return _row(kernels.CONTRAST, 2.0 ** (0.8 * treatment.amount))
        case Saturation():
            return _row(kernels.SATURATION, 1.0 + treatment.amount)


@lru_cache(maxsize=64)
def contrast_curve(power: float) -> NDArray[np.float64]:
    """S-curve about the middle of the display scale, v^p / (v^p + (1 - v)^p) of v = x^(1/2.2), over sqrt(x)."""
    v = np.linspace(0, 1, kernels.CURVE_STEPS + 1) ** (2 / 2.2)
    a, b = v**power, (1 - v) ** power
    return np.asarray((a / (a + b)) ** 2.2)


@lru_cache(maxsize=64)
def white_balance_matrix(kelvin: float, tint: float = 0.0) -> NDArray[np.float64]:
    """Linear RGB matrix that takes a white of this colour temperature to D65 (von Kries in Bradford responses).

    The tint moves the assumed white along CIE 1960 v by 0.02 at most, as lamps off the locus do.
    """

    def xyz(x: float, y: float) -> NDArray[np.float64]:
        return np.array([x / y, 1.0, (1 - x - y) / y])

    x, y = kelvin_xy(kelvin)
    if kelvin == 6500.0:
        x, y = _D65_XY  # the neutral setting leaves the picture as it is
    d = -2 * x + 12 * y + 3
    u, v = 4 * x / d, 6 * y / d + 0.02 * tint
    d = 2 * u - 8 * v + 4
    source, target = BRADFORD @ xyz(3 * u / d, 2 * v / d), BRADFORD @ xyz(*_D65_XY)
    adapt = np.linalg.inv(BRADFORD) @ np.diag(target / source) @ BRADFORD
    return np.asarray(XYZ_TO_RGB @ adapt @ RGB_TO_XYZ)


@lru_cache(maxsize=1)
def _encode_table() -> NDArray[np.uint8]:
    linear = np.linspace(0, 1, kernels.ENCODE_STEPS) ** 2
    return np.asarray(np.round(srgb_encode(linear) * 255), np.uint8)


def _bloom(picture: NDArray[np.float32], treatment: Bloom) -> NDArray[np.float32]:
    """Light scattered in the lens: a share of every pixel spread over three widths; the whole is kept."""
    height, width = picture.shape[:2]
    narrow = 0.35 * treatment.radius_percent / 100 * width / 2
    f = int(np.clip(narrow / _BLOOM_PIXELS, 1, min(height, width) // 16 or 1))
    small = block_means(picture, f)
    sigma = max(treatment.radius_percent / 100 * width / f / 2, 0.3)

    def spread_by(scale: float) -> NDArray[np.float32]:
        blurred = gaussian_filter1d(small, sigma * scale, axis=0, mode="nearest", truncate=4.0)
        return np.asarray(gaussian_filter1d(blurred, sigma * scale, axis=1, mode="nearest", truncate=4.0), np.float32)

    # The widest takes as long as the other two.
    wide, middle, slim = _pool.map(spread_by, (2.2, 1.0, 0.35))
    spread = np.float32(0.5) * slim + np.float32(0.3) * middle + np.float32(0.2) * wide
    result = np.empty_like(picture)
    _in_bands(kernels.mix_enlarged_rows, height, picture, np.ascontiguousarray(spread), float(treatment.amount), result)
    return result
