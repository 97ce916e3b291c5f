"""Eight ranges of hue, each turned, made fuller or paler, lighter or darker (own).

A hue between two middles gets what both are given, linear by its nearness. Hue is turned about the grey axis, luminance
(ITU-R BT.709) kept; greys have no hue and stay.
"""

from __future__ import annotations

import math
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from valleylight.core.treatments.base import Picture, Spatial, number, row_kernel

#: Names and middles of the ranges in degrees of the hexagon of RGB.
RANGES = (
    ("red", 0), ("orange", 30), ("yellow", 60), ("green", 120), ("turquoise", 170), ("blue", 220), ("violet", 270), ("pink", 320),
)  # fmt: skip
MIDDLES = np.array([middle for _, middle in RANGES], float)


def _turned(name: str) -> float:
    return number(0.0, -180, 180, f"{name}: hue", 1, "°", shown=(-45, 45))  # type: ignore[no-any-return]


def _fuller(name: str) -> float:
    return number(0.0, -1, 2, f"{name}: fullness", 0.02, shown=(-1, 1))  # type: ignore[no-any-return]


def _lighter(name: str) -> float:
    return number(0.0, -4, 4, f"{name}: light", 0.05, "stops", shown=(-2, 2))  # type: ignore[no-any-return]


class HueRanges(Spatial):
    """Colours changed by their hue: greens of planting, warm wood, blue dusk."""

    TITLE: ClassVar[str] = "Eight hues"
    PLACE: ClassVar[int] = 64
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["hue_ranges"] = "hue_ranges"
    red_turn: float = _turned("Red")
    red_full: float = _fuller("Red")
    red_light: float = _lighter("Red")
    orange_turn: float = _turned("Orange")
    orange_full: float = _fuller("Orange")
    orange_light: float = _lighter("Orange")
    yellow_turn: float = _turned("Yellow")
    yellow_full: float = _fuller("Yellow")
    yellow_light: float = _lighter("Yellow")
    green_turn: float = _turned("Green")
    green_full: float = _fuller("Green")
    green_light: float = _lighter("Green")
    turquoise_turn: float = _turned("Turquoise")
    turquoise_full: float = _fuller("Turquoise")
    turquoise_light: float = _lighter("Turquoise")
    blue_turn: float = _turned("Blue")
    blue_full: float = _fuller("Blue")
    blue_light: float = _lighter("Blue")
    violet_turn: float = _turned("Violet")
    violet_full: float = _fuller("Violet")
    violet_light: float = _lighter("Violet")
    pink_turn: float = _turned("Pink")
    pink_full: float = _fuller("Pink")
    pink_light: float = _lighter("Pink")

    def changes(self) -> NDArray[np.float64]:
        """Turn in degrees, fullness and stops of each range (8, 3)."""
        return np.array([[getattr(self, f"{name}_{what}") for what in ("turn", "full", "light")] for name, _ in RANGES])

    def applied(self, picture: Picture) -> Picture:
        from valleylight.core.treatments.run import in_bands

        changes = self.changes()
        if not changes.any():
            return picture
        result = np.empty_like(picture)
        in_bands(hue_rows, len(picture), picture, MIDDLES, changes, result)
        return result


@row_kernel
def hue_rows(source: Any, middles: Any, changes: Any, result: Any, first: int, last: int) -> None:
    """Each pixel changed by what its hue is given, `changes` (K, 3) at `middles` (K,), for rows first to last."""
    count = len(middles)
    for y in range(first, last):
        for x in range(source.shape[1]):
            r, g, b = float(source[y, x, 0]), float(source[y, x, 1]), float(source[y, x, 2])
            high, low = max(r, max(g, b)), min(r, min(g, b))
            apart = high - low
            if apart <= 1e-6 * high or high <= 0.0:
                result[y, x, 0], result[y, x, 1], result[y, x, 2] = r, g, b
                continue
            if high == r:
                hue = 60.0 * ((g - b) / apart)
            elif high == g:
                hue = 60.0 * ((b - r) / apart + 2.0)
            else:
                hue = 60.0 * ((r - g) / apart + 4.0)
            if hue < 0.0:
                hue += 360.0
            k = count - 1
            while k > 0 and middles[k] > hue:
                k -= 1
            n = (k + 1) % count
            wide = (middles[n] - middles[k] + 360.0) % 360.0
            t = (hue - middles[k]) / wide
            turn = (1.0 - t) * changes[k, 0] + t * changes[n, 0]
            full = 1.0 + (1.0 - t) * changes[k, 1] + t * changes[n, 1]
            light = 2.0 ** (apart / high * ((1.0 - t) * changes[k, 2] + t * changes[n, 2]))
            luma = 0.2126 * r + 0.7152 * g + 0.0722 * b
            if turn != 0.0:
                # Rodrigues' turn about (1, 1, 1) / sqrt(3); it keeps r + g + b, and luminance is put back below.
                c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn)) / math.sqrt(3.0)
                mean = (r + g + b) / 3.0 * (1.0 - c)
                r, g, b = r * c + (b - g) * s + mean, g * c + (r - b) * s + mean, b * c + (g - r) * s + mean
                now = 0.2126 * r + 0.7152 * g + 0.0722 * b
                r, g, b = r + luma - now, g + luma - now, b + luma - now
            result[y, x, 0] = max(luma + full * (r - luma), 0.0) * light
            result[y, x, 1] = max(luma + full * (g - luma), 0.0) * light
            result[y, x, 2] = max(luma + full * (b - luma), 0.0) * light
