"""Bloom: light scattered in the lens, a share of every pixel spread over three widths; the whole is kept (own)."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from valleylight.core.treatments.base import Picture, Spatial, number

#: It is spread on a picture reduced so far that its narrowest width is about this many pixels.
PIXELS = 1.0
#: The three widths over that of the reach, and their shares.
WIDTHS, SHARES = (2.2, 1.0, 0.35), (0.2, 0.3, 0.5)


class Bloom(Spatial):
    """A glow about what is bright."""

    TITLE: ClassVar[str] = "Bloom"
    PLACE: ClassVar[int] = 10
    ON_AT_FIRST: ClassVar[bool] = False
    IN_NEW_LOOKS: ClassVar[bool] = True

    kind: Literal["bloom"] = "bloom"
    amount: float = number(
        0.05, 0, 1, "Amount", 0.01, shown=(0, 0.5), description="Share of the light that is scattered"
    )
    radius_percent: float = number(
        3.0, 0.1, 20, "Reach", 0.1, "%", shown=(0.5, 12), description="Reach in percent of the picture's width"
    )

    def applied(self, picture: Picture) -> Picture:
        # Blurs and kernels are loaded when a picture is finished: a description is read without them.
        from scipy.ndimage import gaussian_filter1d

        from valleylight.core.film.blocks import block_means
        from valleylight.core.treatments.reach import enlarged
        from valleylight.core.treatments.run import pool

        height, width = picture.shape[:2]
        narrow = min(WIDTHS) * self.radius_percent / 100 * width / 2
        f = int(np.clip(narrow / PIXELS, 1, min(height, width) // 16 or 1))
        small = block_means(picture, f)
        sigma = max(self.radius_percent / 100 * width / f / 2, 0.3)

        def spread_by(scale: float) -> Picture:
            blurred = gaussian_filter1d(small, sigma * scale, axis=0, mode="nearest", truncate=4.0)
            return np.asarray(
                gaussian_filter1d(blurred, sigma * scale, axis=1, mode="nearest", truncate=4.0), np.float32
            )

        # The widest takes as long as the other two.
        wide, middle, slim = pool.map(spread_by, WIDTHS)
        spread = np.float32(SHARES[2]) * slim + np.float32(SHARES[1]) * middle + np.float32(SHARES[0]) * wide
        return picture * np.float32(1 - self.amount) + enlarged(spread, (height, width)) * np.float32(self.amount)
