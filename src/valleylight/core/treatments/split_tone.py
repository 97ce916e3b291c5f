"""Split tone: shadows and highlights tinted apart, luminance (ITU-R BT.709) kept (own)."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from valleylight.core.treatments.base import Picture, Spatial, number, row_kernel

GAMMA = 2.2


class SplitTone(Spatial):
    """One colour for the shadows, one for the lights."""

    TITLE: ClassVar[str] = "Split tone"
    PLACE: ClassVar[int] = 66
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["split_tone"] = "split_tone"
    shadow_hue: float = number(220.0, 0, 360, "Hue of shadows", 1, "°")
    shadow_amount: float = number(0.15, 0, 1, "Amount", 0.01, shown=(0, 0.6))
    light_hue: float = number(40.0, 0, 360, "Hue of lights", 1, "°")
    light_amount: float = number(0.15, 0, 1, "Amount", 0.01, shown=(0, 0.6))
    balance: float = number(0.5, 0.05, 0.95, "Between them", 0.02, description="On the display's scale")

    def applied(self, picture: Picture) -> Picture:
        from valleylight.core.treatments.run import in_bands

        result = np.empty_like(picture)
        tints = np.stack([self.shadow_amount * tint(self.shadow_hue), self.light_amount * tint(self.light_hue)])
        in_bands(split_rows, len(picture), picture, tints, float(self.balance), result)
        return result


def tint(hue_deg: float) -> NDArray[np.float64]:
    """A full colour (3,) of a hue less its own luminance: added to grey it tints and leaves the luminance."""
    sector = np.array([5.0, 3.0, 1.0]) + hue_deg / 60
    rgb = 1 - np.clip(np.minimum(sector % 6, 4 - sector % 6), 0, 1)
    return np.asarray(rgb - rgb @ np.array([0.2126, 0.7152, 0.0722]))


@row_kernel
def split_rows(source: Any, tints: Any, balance: float, result: Any, first: int, last: int) -> None:
    """Tints (2, 3) of shadows and lights laid on rows first to last, each in proportion to the light that is there."""
    for y in range(first, last):
        for x in range(source.shape[1]):
            r, g, b = float(source[y, x, 0]), float(source[y, x, 1]), float(source[y, x, 2])
            luma = 0.2126 * r + 0.7152 * g + 0.0722 * b
            v = min(max(luma, 0.0), 1.0) ** (1.0 / GAMMA)
            # The middle of the scale is put at the balance: 0 at black, a half there, 1 at white.
            t = 0.5 * v / balance if v < balance else 0.5 + 0.5 * (v - balance) / (1.0 - balance)
            t = t * t * (3.0 - 2.0 * t)
            result[y, x, 0] = max(r + luma * ((1.0 - t) * tints[0, 0] + t * tints[1, 0]), 0.0)
            result[y, x, 1] = max(g + luma * ((1.0 - t) * tints[0, 1] + t * tints[1, 1]), 0.0)
            result[y, x, 2] = max(b + luma * ((1.0 - t) * tints[0, 2] + t * tints[1, 2]), 0.0)
