"""Sharpening: v + amount (v - blurred v) on the display's scale where they differ by more than a threshold (unsharp masking)."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from valleylight.core.treatments.base import Picture, Spatial, number

GAMMA = 2.2


class Sharpen(Spatial):
    """Edges a little crisper."""

    TITLE: ClassVar[str] = "Sharpening"
    PLACE: ClassVar[int] = 80
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["sharpen"] = "sharpen"
    amount: float = number(0.5, 0, 5, "Amount", 0.05, shown=(0, 2))
    radius_px: float = number(0.5, 0.2, 20, "Radius", 0.1, "px", shown=(0.3, 3))
    threshold_percent: float = number(0.5, 0, 50, "Threshold", 0.1, "%", shown=(0, 5))

    def applied(self, picture: Picture) -> Picture:
        from scipy.ndimage import gaussian_filter

        from valleylight.core.treatments.reach import luminance

        y = np.maximum(luminance(picture), 1e-6)
        v = y ** np.float32(1 / GAMMA)
        off = v - gaussian_filter(v, self.radius_px, mode="nearest", truncate=4.0)
        least = np.float32(self.threshold_percent / 100)
        off = np.sign(off) * np.maximum(np.abs(off) - least, 0)
        wanted = np.clip(v + np.float32(self.amount) * off, 0, None) ** np.float32(GAMMA)
        return np.asarray(picture * (wanted / y)[..., None], np.float32)
