"""Shafts from the sun's place: what is bright is drawn out along the lines that run from the sun in the picture (own)."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

import numpy as np

from valleylight.core.treatments.base import Picture, Spatial, number, row_kernel
from valleylight.core.treatments.seen import Seen

#: Shafts are soft: they are worked out on a picture so wide, in so many steps.
WIDTH, STEPS = 320, 40


class Shafts(Spatial):
    """Beams that run out from the sun, where it stands before the lens."""

    TITLE: ClassVar[str] = "Shafts of sun"
    PLACE: ClassVar[int] = 3
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["shafts"] = "shafts"
    amount: float = number(0.2, 0, 1, "Amount", 0.02)
    length: float = number(0.6, 0.05, 1, "Length", 0.05, description="Share of the way to the sun over which they run")
    stops: float = number(0.0, -6, 6, "From", 0.1, "stops", shown=(-3, 3), description="What is brighter than this")

    def applied_in(self, picture: Picture, seen: Seen) -> Picture:
        from valleylight.core.treatments.reach import bright, enlarged
        from valleylight.core.treatments.run import in_bands

        if seen.sun_at is None:
            return picture
        small = bright(picture, 2.0**self.stops, WIDTH)
        height, width = small.shape[:2]
        if height < 2 or width < 2:
            return picture
        sun_x, sun_y = (seen.sun_at[0] * width - 0.5, seen.sun_at[1] * height - 0.5)
        total = np.empty_like(small)
        in_bands(drawn_out_rows, height, small, float(sun_x), float(sun_y), float(self.length), STEPS, total)
        return np.asarray(picture + np.float32(self.amount) * enlarged(total, picture.shape[:2]), np.float32)


@row_kernel
def drawn_out_rows(
    source: Any, sun_x: float, sun_y: float, length: float, steps: int, result: Any, first: int, last: int
) -> None:
    """Mean of what lies between each pixel and a share of the way to the sun, nearer counting more, for rows first to last; nothing
    lies outside of the picture."""
    height, width = source.shape[0], source.shape[1]
    for y in range(first, last):
        for x in range(width):
            r, g, b = 0.0, 0.0, 0.0
            for k in range(steps):
                t = length * (k + 0.5) / steps
                u, v = x + (sun_x - x) * t, y + (sun_y - y) * t
                if u < 0.0 or v < 0.0 or u > width - 1 or v > height - 1:
                    continue
                x0, y0 = min(int(u), width - 2), min(int(v), height - 2)
                p, q = u - x0, v - y0
                share = (1.0 - k / steps) * 2.0 / steps
                a, c = share * (1 - p) * (1 - q), share * p * (1 - q)
                d, e = share * (1 - p) * q, share * p * q
                r += (
                    a * source[y0, x0, 0]
                    + c * source[y0, x0 + 1, 0]
                    + d * source[y0 + 1, x0, 0]
                    + e * source[y0 + 1, x0 + 1, 0]
                )
                g += (
                    a * source[y0, x0, 1]
                    + c * source[y0, x0 + 1, 1]
                    + d * source[y0 + 1, x0, 1]
                    + e * source[y0 + 1, x0 + 1, 1]
                )
                b += (
                    a * source[y0, x0, 2]
                    + c * source[y0, x0 + 1, 2]
                    + d * source[y0 + 1, x0, 2]
                    + e * source[y0 + 1, x0 + 1, 2]
                )
            result[y, x, 0], result[y, x, 1], result[y, x, 2] = r, g, b
