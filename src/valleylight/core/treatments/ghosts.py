"""Ghosts of the lens: what is bright is mirrored between its glasses, and seen again through the middle of the picture (own: sizes
and tints of five pairs of glasses; a coated surface sends back 0.2 to 0.5 percent, common practice)."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from valleylight.core.treatments.base import Picture, Spatial, number
from valleylight.core.treatments.seen import Seen

WIDTH = 160
#: Size of each ghost over the picture (below zero: turned about the axis), its softness in pixels of the small picture, its tint.
PAIRS = (
    (-1.0, 1.25, (1.0, 0.8, 0.6)), (-0.55, 2.5, (0.6, 1.0, 0.75)), (-0.3, 1.5, (0.7, 0.75, 1.0)),
    (0.45, 3.5, (1.0, 0.7, 0.8)), (-1.7, 5.0, (0.75, 0.9, 1.0)),
)  # fmt: skip


class Ghosts(Spatial):
    """Faint copies of lamps and sun, mirrored about the lens's axis."""

    TITLE: ClassVar[str] = "Ghosts of the lens"
    PLACE: ClassVar[int] = 11
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["ghosts"] = "ghosts"
    amount_percent: float = number(0.3, 0, 20, "Sent back", 0.05, "%", shown=(0, 4))
    stops: float = number(
        1.5, -6, 20, "From", 0.1, "stops", shown=(0, 6), description="What is brighter than this, about white"
    )

    def applied_in(self, picture: Picture, seen: Seen) -> Picture:
        from scipy.ndimage import gaussian_filter

        from valleylight.core.treatments.fringe import scaled_rows
        from valleylight.core.treatments.reach import bright, enlarged
        from valleylight.core.treatments.run import in_bands

        small = bright(picture, 2.0**self.stops, WIDTH)
        if not small.any():
            return picture
        height, width = small.shape[:2]
        cx, cy = seen.lens.axis_at((height, width))
        total = np.zeros_like(small)
        for size, soft, tint in PAIRS:
            ghost = np.empty_like(small)
            for c in range(3):
                in_bands(scaled_rows, height, small, c, 1 / size, cx, cy, ghost)
            # Beyond the picture nothing is mirrored.
            across = np.abs(cx + (np.arange(width) - cx) / size - (width - 1) / 2) <= (width - 1) / 2
            down = np.abs(cy + (np.arange(height) - cy) / size - (height - 1) / 2) <= (height - 1) / 2
            ghost *= (down[:, None] & across[None])[..., None] * (np.array(tint, np.float32) / np.float32(size * size))
            total += gaussian_filter(ghost, (soft, soft, 0), truncate=2.5)
        return np.asarray(
            picture + np.float32(self.amount_percent / 100) * enlarged(total, picture.shape[:2]), np.float32
        )
