"""Colour fringe: red and blue are drawn a little larger and smaller than green about the lens's axis (lateral chromatic aberration)."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from valleylight.core.treatments.base import Picture, Spatial, number, row_kernel
from valleylight.core.treatments.seen import Seen


class Fringe(Spatial):
    """Edges far from the axis show red and blue."""

    TITLE: ClassVar[str] = "Colour fringe"
    PLACE: ClassVar[int] = 14
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["fringe"] = "fringe"
    percent: float = number(
        0.05, -2, 2, "Red over blue", 0.01, "%", shown=(-0.5, 0.5), description="Difference of their sizes"
    )

    def applied_in(self, picture: Picture, seen: Seen) -> Picture:
        from valleylight.core.treatments.run import in_bands

        height, width = picture.shape[:2]
        cx, cy = seen.lens.axis_at((height, width))
        result = picture.copy()
        for channel, by in ((0, self.percent / 200), (2, -self.percent / 200)):
            in_bands(scaled_rows, height, picture, channel, 1.0 / (1.0 + by), cx, cy, result)
        return result


@row_kernel
def scaled_rows(
    source: Any, channel: int, factor: float, cx: float, cy: float, result: Any, first: int, last: int
) -> None:
    """One channel read at `factor` times its distance from (cx, cy), bilinear, for rows first to last."""
    height, width = source.shape[0], source.shape[1]
    for y in range(first, last):
        v = min(max(cy + (y - cy) * factor, 0.0), height - 1.0)
        y0 = min(int(v), height - 2) if height > 1 else 0
        y1 = min(y0 + 1, height - 1)
        t = v - y0
        for x in range(width):
            u = min(max(cx + (x - cx) * factor, 0.0), width - 1.0)
            x0 = min(int(u), width - 2) if width > 1 else 0
            x1 = min(x0 + 1, width - 1)
            s = u - x0
            result[y, x, channel] = (1 - t) * ((1 - s) * source[y0, x0, channel] + s * source[y0, x1, channel]) + t * (
                (1 - s) * source[y1, x0, channel] + s * source[y1, x1, channel]
            )
