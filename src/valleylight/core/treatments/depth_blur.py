"""Depth blur: what is out of focus is spread over its circle of confusion.

Diameter on the film c = f^2 / (N (s - f)) |d - s| / d for a thin lens of focal length f, f-number N, focused on s (S. F. Ray, Applied
Photographic Optics). A preview: things are blurred by their own depth, and edges of what is near do not spread over what is behind
as in a lens; proof and press can be taken with the lens itself.
"""

from __future__ import annotations

from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from valleylight.core.treatments.base import Picture, Spatial, number, row_kernel
from valleylight.core.treatments.seen import LensSeen, Seen

#: Standard deviation of a Gaussian over the diameter of the disc that it stands for (equal second moment: diameter / 4).
SIGMA_OF_DISC = 0.25
#: Widths in pixels of the pictures between which each pixel's is found, each twice the one before.
FIRST_PIXELS, STEPS = 0.75, 6
FARTHEST_M = 1e5


def circle_of_confusion_mm(
    depth_m: NDArray[np.floating], lens: LensSeen, focus_m: float, f_number: float
) -> NDArray[np.float64]:
    """Diameter on the film in mm of a point at a depth (any shape) in metres."""
    f = lens.focal_mm
    s = max(focus_m * 1000.0, f * 1.01)
    d = np.clip(np.asarray(depth_m, float), 1e-3, FARTHEST_M) * 1000.0
    return np.asarray(f * f / (f_number * (s - f)) * np.abs(d - s) / d)


class DepthBlur(Spatial):
    """Sharp at one distance, softer before and behind it."""

    TITLE: ClassVar[str] = "Depth blur"
    PLACE: ClassVar[int] = 5
    ON_AT_FIRST: ClassVar[bool] = False
    BY_DISTANCE: ClassVar[bool] = True

    kind: Literal["depth_blur"] = "depth_blur"
    focus_m: float = number(4.0, 0.05, 100_000, "Sharp at", 0.1, "m", shown=(0.3, 50))
    f_number: float = number(1.4, 0.1, 64, "f-number", 0.1, "", shown=(0.5, 11))

    def applied_in(self, picture: Picture, seen: Seen) -> Picture:
        from valleylight.core.treatments.run import in_bands

        height, width = picture.shape[:2]
        depth = seen.axial_m((height, width))
        if depth is None:
            return picture
        on_film = circle_of_confusion_mm(depth, seen.lens, self.focus_m, self.f_number)
        sigma = SIGMA_OF_DISC * on_film / seen.lens.film_width_mm * width
        level = np.minimum(level_of(sigma), STEPS).astype(np.float32)
        top = int(np.ceil(float(level.max())))
        result, below = picture.copy(), picture
        for k in range(1, top + 1):
            above = blurred(picture, FIRST_PIXELS * 2.0 ** (k - 1))
            in_bands(between_rows, height, below, above, level, k, result)
            below = above
        return result


def out_of_focus(picture: Picture, seen: Seen) -> Picture:
    """A picture that was traced sharp, with the blur of its lens where that is known and not in it yet."""
    if seen.blur is None:
        return picture
    focus_m, f_number = seen.blur
    return DepthBlur.model_construct(focus_m=focus_m, f_number=f_number).applied_in(picture, seen)


def level_of(sigma: NDArray[np.floating]) -> NDArray[np.float64]:
    """Place of a width in pixels among those of the pictures: between two of them by its square, so that the mean of the two pictures
    has its second moment. Below the first it lies between that and the picture itself."""
    times = np.maximum(np.asarray(sigma, float) / FIRST_PIXELS, 1e-9)
    below = np.floor(np.log2(np.maximum(times, 1.0)))
    return np.where(times < 1, times**2, below + 1 + ((times / 2.0**below) ** 2 - 1) / 3)


def blurred(picture: Picture, sigma: float) -> Picture:
    """A picture (H, W, 3) under a Gaussian, by way of a smaller copy where that loses nothing."""
    from scipy.ndimage import gaussian_filter

    from valleylight.core.treatments.reach import enlarged, shrunk
    from valleylight.core.treatments.run import pool

    small = shrunk(picture, max(round(picture.shape[1] / max(1, int(sigma / FIRST_PIXELS))), 8))
    here = sigma * small.shape[1] / picture.shape[1]
    planes = pool.map(lambda c: gaussian_filter(small[..., c], here, mode="nearest", truncate=3.0), range(3))
    return enlarged(np.stack(list(planes), axis=-1), (picture.shape[0], picture.shape[1]))


@row_kernel
def between_rows(below: Any, above: Any, level: Any, k: int, result: Any, first: int, last: int) -> None:
    """Pixels whose level lies between k - 1 and k, between the pictures of those levels, for rows first to last."""
    for y in range(first, last):
        for x in range(level.shape[1]):
            t = level[y, x] - (k - 1)
            if 0.0 < t <= 1.0:
                for c in range(3):
                    result[y, x, c] = below[y, x, c] * (1.0 - t) + above[y, x, c] * t
