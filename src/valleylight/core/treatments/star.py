"""Stars about bright points: light bent at the blades of the iris.

Fraunhofer pattern of a regular polygon of N straight edges, |F(k)|^2 / (wavelength^2 A) to a steradian, F the Fourier transform of the
aperture of area A (J. W. Goodman, Introduction to Fourier Optics, 4.3; as a sum over edges: S. W. Lee, R. Mittra, IEEE Trans. Antennas
Propag. 31, 1983). Far from its middle the light lies on streaks square to the edges: an edge of length l sends l w / (4 pi^2 t^2 A)
to a radian of its streak at the angle t and wavelength w, the integral of its |F|^2 across it, and as much to the other side.
"""

from __future__ import annotations

from functools import lru_cache
from typing import ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from valleylight.core.treatments.base import Picture, Spatial, number
from valleylight.core.treatments.seen import Seen

WIDTH = 640
#: How far streaks reach, in widths of the picture; and wavelengths in nm at which they are worked out.
REACH, WAVELENGTHS_NM = 0.3, np.arange(400.0, 701.0, 10.0)
_SUBSTEPS = 4


def corners_m(blades: int, radius_m: float, turn_deg: float = 0.0) -> NDArray[np.float64]:
    """Corners (N, 2) of the opening that `blades` leave."""
    angle = np.radians(turn_deg) + 2 * np.pi * np.arange(blades) / blades
    return radius_m * np.column_stack([np.cos(angle), np.sin(angle)])


def area_m2(blades: int, radius_m: float) -> float:
    """Area of a regular polygon inscribed in a circle."""
    return blades / 2 * radius_m**2 * float(np.sin(2 * np.pi / blades))


def polygon_pattern(corners: NDArray[np.float64], k: NDArray[np.float64]) -> NDArray[np.float64]:
    """|F(k)|^2 in m^4 of a polygon (N, 2) at spatial frequencies (..., 2) in 1/m: closed form, a sum over its edges."""
    k = np.asarray(k, float)
    square = np.maximum((k * k).sum(-1), 1e-30)
    total = np.zeros(k.shape[:-1], complex)
    for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        edge, middle = b - a, (a + b) / 2
        # Stokes: an edge gives (k x edge) / (2 pi i k^2) times the mean of exp(-2 pi i k.p) over it.
        cross = k[..., 0] * edge[1] - k[..., 1] * edge[0]
        total += cross * np.sinc(k @ edge) * np.exp(-2j * np.pi * (k @ middle))
    return np.asarray(np.abs(total / (2 * np.pi * square)) ** 2)


def streak_per_rad(
    angle_rad: NDArray[np.floating], edge_m: float, area: float, wavelength_m: float
) -> NDArray[np.float64]:
    """Share of the light to a radian of one streak of one edge, at angles from its middle."""
    return np.asarray(edge_m * wavelength_m / (4 * np.pi**2 * np.square(angle_rad) * area))


class Star(Spatial):
    """Streaks from lamps and sun, as many as the blades of the iris, or twice as many where that is odd."""

    TITLE: ClassVar[str] = "Star of the iris"
    PLACE: ClassVar[int] = 9
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["star"] = "star"
    blades: int = number(6, 3, 16, "Blades", 1)
    f_number: float = number(16.0, 0.7, 128, "f-number", 0.5, shown=(4, 32))
    turn_deg: float = number(15.0, -360, 360, "Turn", 1, "°", shown=(0, 60))
    gain_stops: float = number(0.0, -6, 10, "Above what is true", 0.1, "stops", shown=(-2, 6))
    stops: float = number(
        2.0, -6, 20, "From", 0.1, "stops", shown=(0, 8), description="What is brighter than this, about white"
    )

    def applied_in(self, picture: Picture, seen: Seen) -> Picture:
        from valleylight.core.treatments.reach import bright, enlarged, spread

        small = bright(picture, 2.0**self.stops, WIDTH)
        if not small.any():
            return picture
        lens = seen.lens
        pixel = 2 * lens.half_width / small.shape[1]
        radius = lens.focal_mm / 1000 / self.f_number / 2
        pattern, size = _pattern(small.shape[:2], pixel, self.blades, radius, self.turn_deg)
        gain = np.float32(2.0**self.gain_stops)
        return np.asarray(
            picture + gain * enlarged(np.maximum(spread(small, pattern, size), 0), picture.shape[:2]), np.float32
        )


@lru_cache(maxsize=4)
def _pattern(
    shape: tuple[int, int], pixel: float, blades: int, radius_m: float, turn_deg: float
) -> tuple[NDArray[np.complexfloating], tuple[int, int]]:
    from valleylight.core.treatments.reach import transform

    return transform(star_pattern(round(REACH * shape[1]), pixel, blades, radius_m, turn_deg), shape)


def star_pattern(reach: int, pixel: float, blades: int, radius_m: float, turn_deg: float) -> NDArray[np.float32]:
    """Shares of a pixel's light (RGB) that its streaks bring to the pixels about it: (2 reach + 1, 2 reach + 1, 3), rows downwards.
    `pixel` is the angle of one in radians. The pixel itself gets nothing: what is bent so little stays in it."""
    from valleylight.core.colour.observer import matching_functions
    from valleylight.core.colour.rgb import XYZ_TO_RGB

    # An equal-energy source keeps its white: weights of each wavelength that add up to 1 in every channel.
    weights = matching_functions(WAVELENGTHS_NM) @ XYZ_TO_RGB.T
    weights = weights / weights.sum(0)
    corners = corners_m(blades, radius_m, turn_deg)
    area = area_m2(blades, radius_m)
    per_metre = weights.T @ (WAVELENGTHS_NM * 1e-9)  # of the wavelength, by channel
    side = 2 * reach + 1
    held = np.zeros((side, side, 3))
    steps = np.arange(0.5, reach + 1e-9, 1 / _SUBSTEPS) + 0.5 / _SUBSTEPS
    for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        edge = b - a
        length = float(np.hypot(*edge))
        across = np.array([edge[1], -edge[0]]) / length
        light = streak_per_rad(steps * pixel, length, area, 1.0) * pixel / _SUBSTEPS
        for sign in (1.0, -1.0):
            x, y = reach + sign * across[0] * steps, reach - sign * across[1] * steps
            x0, y0 = np.floor(x).astype(int), np.floor(y).astype(int)
            s, t = x - x0, y - y0
            for dx, dy, share in ((0, 0, (1 - s) * (1 - t)), (1, 0, s * (1 - t)), (0, 1, (1 - s) * t), (1, 1, s * t)):
                inside = (x0 + dx >= 0) & (x0 + dx < side) & (y0 + dy >= 0) & (y0 + dy < side)
                at = (y0[inside] + dy, x0[inside] + dx)
                np.add.at(held, at, (light * share)[inside, None] * per_metre)
    held[reach, reach] = 0
    return held.astype(np.float32)
