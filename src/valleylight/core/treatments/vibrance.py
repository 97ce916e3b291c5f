"""Vibrance: as saturation, but the less the more saturated a colour is already: a (1 - s), s = (max - min) / max (common practice)."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from valleylight.core.treatments.base import Picture, Spatial, number, row_kernel


class Vibrance(Spatial):
    """Pale colours gain most; full ones are kept from burning out."""

    TITLE: ClassVar[str] = "Vibrance"
    PLACE: ClassVar[int] = 62
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["vibrance"] = "vibrance"
    amount: float = number(0.3, -1, 2, "Amount", 0.02, shown=(-1, 1))

    def applied(self, picture: Picture) -> Picture:
        import numpy as np

        from valleylight.core.treatments.run import in_bands

        result = np.empty_like(picture)
        in_bands(vibrant_rows, len(picture), picture, float(self.amount), result)
        return result


@row_kernel
def vibrant_rows(source: Any, amount: float, result: Any, first: int, last: int) -> None:
    """Colours moved from their own luminance (ITU-R BT.709), for rows first to last."""
    for y in range(first, last):
        for x in range(source.shape[1]):
            r, g, b = float(source[y, x, 0]), float(source[y, x, 1]), float(source[y, x, 2])
            high, low = max(r, max(g, b)), min(r, min(g, b))
            if high <= 0.0:
                result[y, x, 0], result[y, x, 1], result[y, x, 2] = r, g, b
                continue
            kept = 1.0 + amount * (1.0 - (high - low) / high)
            luma = 0.2126 * r + 0.7152 * g + 0.0722 * b
            result[y, x, 0] = max(luma + kept * (r - luma), 0.0)
            result[y, x, 1] = max(luma + kept * (g - luma), 0.0)
            result[y, x, 2] = max(luma + kept * (b - luma), 0.0)
