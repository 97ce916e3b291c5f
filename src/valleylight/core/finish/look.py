"""Apply a look to a linear picture."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import srgb_encode
from valleylight.core.errors import InputError
from valleylight.core.film.film import Film, Level
from valleylight.core.finish import kernels
from valleylight.core.finish.seen import seen_of
from valleylight.core.project.description import Look
from valleylight.core.treatments.depth_blur import out_of_focus
from valleylight.core.treatments.run import in_bands, treated
from valleylight.core.treatments.seen import NOTHING_SEEN, Seen


def apply(
    film_or_array: Film | NDArray[np.floating],
    look: Look,
    levels: Mapping[str, Level] | None = None,
    saturation_cd_m2: float | None = None,
    seen: Seen | None = None,
) -> NDArray[np.uint8]:
    """Display picture, H x W x 3 uint8 sRGB.

    `levels` are factors of light groups (films only). `saturation_cd_m2` is the luminance the lens takes as white, see
    `exposure.saturation_luminance`; a film knows that of its view, and an array is taken as it is (white at 1). `seen` tells what else
    is known of an array's picture; films know it.
    """
    if isinstance(film_or_array, Film):
        seen = seen or seen_of(film_or_array, look)
        linear = film_or_array.balanced(levels)
        white = saturation_cd_m2 or film_or_array.settings.get("saturation_cd_m2", 1.0)
    else:
        linear = np.asarray(film_or_array, np.float32)
        white = saturation_cd_m2 or 1.0
        if linear.ndim != 3 or linear.shape[2] != 3:
            raise InputError(f"a picture has the shape (H, W, 3), not {linear.shape}", "film_or_array", "Reshape it")
    return encode(apply_linear(linear, look, white, seen or NOTHING_SEEN))


def apply_linear(
    linear: NDArray[np.float32], look: Look, saturation_cd_m2: float, seen: Seen = NOTHING_SEEN
) -> NDArray[np.float32]:
    """The treatments of a look on a linear picture in cd/m2; the result is display-linear, 0 to 1."""
    picture = out_of_focus(np.ascontiguousarray(linear, np.float32), seen)
    return treated(picture, look.treatments, saturation_cd_m2, seen)


def encode(display_linear: NDArray[np.float32]) -> NDArray[np.uint8]:
    """sRGB code values of a display-linear picture."""
    result = np.empty(display_linear.shape, np.uint8)
    in_bands(kernels.encode_rows, len(result), display_linear, _encode_table(), result)
    return result


@lru_cache(maxsize=1)
def _encode_table() -> NDArray[np.uint8]:
    linear = np.linspace(0, 1, kernels.ENCODE_STEPS) ** 2
    return np.asarray(np.round(srgb_encode(linear) * 255), np.uint8)
