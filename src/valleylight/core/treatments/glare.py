"""Veiling glare in the eye that looks at the scene.

L_veil / E = cos t (10 / t^3 + (5 / t^2 + 0.1 p / t) (1 + (age / 62.5)^4) + 0.0025 p), t in degrees from the source, E at the eye
before the cosine; p is 0 for black, 0.5 for brown, 1 for light eyes. Source: CIE 135/1:1999, total glare equation, for 0.1 to 100 degrees.
What is spread is taken from where it came from.
"""

from __future__ import annotations

from functools import lru_cache
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from valleylight.core.treatments.base import Picture, Spatial, number
from valleylight.core.treatments.seen import Seen

#: The veil is smooth: it is worked out on a picture so wide.
WIDTH = 320
#: The equation holds from here on.
LEAST_DEG = 0.1


def veil_per_lux(angle_deg: NDArray[np.floating], age: float, pigment: float) -> NDArray[np.float64]:
    """Luminance of the veil in cd/m2 for a lux at the eye, at angles (any shape) from the source; nothing nearer than 0.1 degrees."""
    t = np.maximum(np.asarray(angle_deg, float), LEAST_DEG)
    value = 10 / t**3 + (5 / t**2 + 0.1 * pigment / t) * (1 + (age / 62.5) ** 4) + 0.0025 * pigment
    return np.where(np.asarray(angle_deg) < LEAST_DEG, 0.0, value)


class Glare(Spatial):
    """Light scattered in the eye: lamps and windows veil what lies about them."""

    TITLE: ClassVar[str] = "Veiling glare"
    PLACE: ClassVar[int] = 8
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["glare"] = "glare"
    age: float = number(30.0, 0, 120, "Age", 1, "years", shown=(15, 85))
    pigment: float = number(
        0.5, 0, 1.2, "Lightness of eyes", 0.05, shown=(0, 1.2), description="0 black, 0.5 brown, 1 light"
    )

    def applied_in(self, picture: Picture, seen: Seen) -> Picture:
        from valleylight.core.treatments.reach import enlarged, shrunk, spread

        small = shrunk(picture, WIDTH)
        pixel = 2 * seen.lens.half_width / small.shape[1]
        pattern, size, share = _pattern(small.shape[:2], pixel, self.age, self.pigment)
        veil = enlarged(spread(small, pattern, size), picture.shape[:2])
        return np.asarray(picture * np.float32(1 - share) + veil, np.float32)


@lru_cache(maxsize=4)
def _pattern(
    shape: tuple[int, int], pixel: float, age: float, pigment: float
) -> tuple[NDArray[np.complexfloating], tuple[int, int], float]:
    """The veil of a pixel of luminance 1 (transformed), the grid it stands on, and its share of the light; `pixel` as a tangent."""
    from valleylight.core.treatments.reach import transform

    reach = max(shape) - 1
    rows = np.arange(-reach, reach + 1)
    far = np.hypot(rows[:, None], rows[None]) * pixel
    angle = np.arctan(far)
    lux = pixel * pixel  # of a pixel near the axis, square to the sight
    held = veil_per_lux(np.degrees(angle), age, pigment) * np.cos(angle) * lux
    return *transform(held[..., None], shape), float(min(held.sum(), 0.95))
