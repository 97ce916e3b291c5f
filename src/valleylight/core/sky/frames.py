"""Which part of the sky a picture of it shows: all of it, or the window that a lens looks through."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

#: A window has so many cells at most, and is not worth its while below so many.
MOST_CELLS, LEAST_CELLS = 4_000_000, 2_000
#: Windows begin and end at whole steps of this, so that a lens that hardly moves keeps its sky; degrees.
STEP_DEG = 2.0


class Frame(NamedTuple):
    """A grid over the sky: the side of its cells, the altitude of its lower edge and the azimuth of its left one in the model's
    frame, all in radians."""

    cell: float
    bottom: float
    left: float


class Window(NamedTuple):
    """A part of the sky seen finely."""

    frame: Frame
    rows: int
    columns: int

    @property
    def record(self) -> NDArray[np.float64]:
        """Numbers for the tracer (5,): left edge in turns, lower edge in radians, cells to the radian, rows, columns."""
        return np.array(
            [self.frame.left / (2 * math.pi), self.frame.bottom, 1 / self.frame.cell, self.rows, self.columns]
        )


#: No window at all, for the tracer.
NO_WINDOW = np.zeros(5)


def whole(rows: int) -> Frame:
    """The frame of a whole sky of so many rows, from straight down to straight up."""
    return Frame(math.pi / rows, -0.5 * math.pi, 0.0)


def window_over(directions: NDArray[np.float64], cell_rad: float, above_deg: float) -> Window | None:
    """The window that holds directions (N, 3; X east, Y north, Z up, of length 1) and lies higher than `above_deg`; None where they
    are all below, or look up so steeply that a grid of azimuth and altitude would be wasted on them."""
    altitude = np.degrees(np.arcsin(np.clip(directions[:, 2], -1, 1)))
    top = min(math.ceil((float(altitude.max()) + 0.5) / STEP_DEG) * STEP_DEG, 88.0)
    bottom = max(math.floor((float(altitude.min()) - 0.5) / STEP_DEG) * STEP_DEG, above_deg)
    if top - bottom < 1.0 or float(altitude.max()) > 80.0:
        return None
    azimuth = np.degrees(np.arctan2(directions[:, 0], directions[:, 1]))
    middle = math.degrees(math.atan2(float(directions[:, 0].mean()), float(directions[:, 1].mean())))
    off = (azimuth - middle + 180) % 360 - 180
    low = math.floor((middle + float(off.min()) - 0.5) / STEP_DEG) * STEP_DEG
    high = math.ceil((middle + float(off.max()) + 0.5) / STEP_DEG) * STEP_DEG
    if high - low > 240.0:
        return None
    tall, wide = math.radians(top - bottom), math.radians(high - low)
    # Cells in whole steps of 1/20000 of a radian, for the same reason.
    cell = math.ceil(max(cell_rad, math.sqrt(tall * wide / MOST_CELLS), 1e-9) * 2e4) / 2e4
    rows, columns = int(tall / cell), int(wide / cell)
    if rows * columns < LEAST_CELLS:
        return None
    return Window(Frame(cell, math.radians(bottom), math.radians(low) % (2 * math.pi)), rows, columns)
