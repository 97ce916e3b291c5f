"""Haze by distance: L' = L e^(-b d) + A (1 - e^(-b d)), b = 3.912 / visibility.

Source: H. Koschmieder, Theorie der horizontalen Sichtweite, 1924; 3.912 = -ln 0.02, the threshold of contrast of the meteorological
optical range (CIE 17.2 845-11-22 gives 5 percent; 2 percent is common practice for the eye).
"""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from valleylight.core.treatments.base import Picture, Spatial, number
from valleylight.core.treatments.seen import Seen

#: -ln of the contrast that is just seen.
LEAST_CONTRAST = 3.912


class Haze(Spatial):
    """Far things fade into the light of the air before them."""

    TITLE: ClassVar[str] = "Haze by distance"
    PLACE: ClassVar[int] = 2
    ON_AT_FIRST: ClassVar[bool] = False
    BY_DISTANCE: ClassVar[bool] = True

    kind: Literal["haze"] = "haze"
    visibility_m: float = number(2000.0, 5, 200_000, "Visibility", 50, "m", shown=(50, 20_000))
    stops: float = number(-0.5, -10, 6, "Its light", 0.1, "stops", shown=(-6, 2), description="Of the air, about white")
    kelvin: float = number(7500.0, 1000, 25_000, "Its colour", 50, "K", shown=(2000, 15_000))
    sky_m: float = number(5000.0, 10, 1e6, "Sky as far as", 100, "m", shown=(100, 20_000))

    def applied_in(self, picture: Picture, seen: Seen) -> Picture:
        from valleylight.core.colour.temperature import kelvin_xy, xy_to_unit_rgb

        depth = seen.depth_m((picture.shape[0], picture.shape[1]))
        if depth is None:
            return picture
        light = np.maximum(xy_to_unit_rgb(*kelvin_xy(self.kelvin)), 0) * 2.0**self.stops
        through = np.exp(-LEAST_CONTRAST / self.visibility_m * np.minimum(depth, np.float32(self.sky_m)))[..., None]
        return np.asarray(picture * through + (1 - through) * light.astype(np.float32), np.float32)
