"""Glow of small sources: what is bright and smaller than a size stands in a halo whose light falls with the distance (own)."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from valleylight.core.treatments.base import Picture, Spatial, number

WIDTH = 320
#: Widths of the Gaussians that stand for a fall by the distance, over the reach, and their shares.
WIDTHS, SHARES = (0.12, 0.35, 1.0), (0.45, 0.33, 0.22)


class SmallGlow(Spatial):
    """Lamps, candles and their mirror images glow; windows and lit walls do not."""

    TITLE: ClassVar[str] = "Glow of small lights"
    PLACE: ClassVar[int] = 12
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["glow"] = "glow"
    amount: float = number(0.15, 0, 2, "Amount", 0.01, shown=(0, 1))
    reach_percent: float = number(
        4.0, 0.2, 30, "Reach", 0.1, "%", shown=(0.5, 15), description="In percent of the picture's width"
    )
    size_percent: float = number(
        2.0, 0.2, 15, "Smaller than", 0.1, "%", shown=(0.3, 8), description="Of the picture's width"
    )
    stops: float = number(
        0.0, -6, 20, "From", 0.1, "stops", shown=(-2, 6), description="What is brighter than this, about white"
    )

    def applied(self, picture: Picture) -> Picture:
        from scipy.ndimage import gaussian_filter, grey_opening

        from valleylight.core.treatments.reach import bright, enlarged, luminance

        small = bright(picture, 2.0**self.stops, WIDTH)
        if not small.any():
            return picture
        side = max(round(self.size_percent / 100 * small.shape[1]), 1)
        y = luminance(small)
        # An opening takes away what a square of this side does not fit into: that is what is small.
        tiny = np.maximum(y - grey_opening(y, (side, side)), 0) / np.maximum(y, 1e-9)
        source = small * tiny[..., None]
        reach = self.reach_percent / 100 * small.shape[1] / 2
        halo = np.zeros_like(source)
        for scale, share in zip(WIDTHS, SHARES, strict=True):
            halo += share * gaussian_filter(source, (reach * scale, reach * scale, 0), mode="nearest", truncate=3.0)
        return np.asarray(picture + np.float32(self.amount) * enlarged(halo, picture.shape[:2]), np.float32)
