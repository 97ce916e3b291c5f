"""The sky as a picture of luminance: what the tracer samples and the lens sees."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import LUMINANCE

#: Rows of the dome that lights; it is twice as wide as it is high.
ROWS = 128


@dataclass(frozen=True)
class Dome:
    """Luminance-scaled linear RGB in cd/m2 over the whole sphere; shape (R, 2 R, 3), float32.

    Rows run from straight down to straight up in even steps of altitude, columns clockwise from the model's north.
    """

    rgb: NDArray[np.float32]

    @property
    def luminance(self) -> NDArray[np.float64]:
        return np.asarray(self.rgb.astype(float) @ LUMINANCE)

    @property
    def horizontal_rgb_lx(self) -> NDArray[np.float64]:
        """Illuminance of level ground as luminance-scaled RGB in lx; shape (3,)."""
        altitude, _ = cell_angles(len(self.rgb))
        weight = np.sin(np.maximum(altitude, 0)) * solid_angles(len(self.rgb))
        return np.asarray(np.einsum("rct,r->t", self.rgb.astype(float), weight))

    @property
    def horizontal_illuminance_lx(self) -> float:
        return float(self.horizontal_rgb_lx @ LUMINANCE)

    def vertical_illuminance_lx(self, azimuth_rad: float) -> float:
        """Illuminance in lx of an upright plane that faces an azimuth of the model, from sky and far ground."""
        altitude, azimuth = cell_angles(len(self.rgb))
        facing = np.maximum(np.cos(azimuth - azimuth_rad), 0.0)
        weight = np.cos(altitude) * solid_angles(len(self.rgb))
        return float(np.einsum("rc,r,c->", self.luminance, weight, facing))

    def reduced(self, rows: int = ROWS) -> Dome:
        """The dome at fewer rows, each block replaced by its mean; itself where it has no more."""
        if len(self.rgb) <= rows:
            return self
        made = self.rgb.astype(np.float64)
        for axis, count in ((0, rows), (1, 2 * rows)):
            # Blocks may end within a cell: the running sum is taken there by its share.
            size = made.shape[axis]
            edges = np.linspace(0, size, count + 1)
            cell = np.minimum(edges.astype(int), size - 1)
            part = (edges - cell).reshape((-1, 1, 1) if axis == 0 else (1, -1, 1))
            run = np.cumsum(made, axis) - made
            at_edges = run.take(cell, axis) + part * made.take(cell, axis)
            made = np.diff(at_edges, axis=axis) * (count / size)
        return Dome(made.astype(np.float32))


def cell_angles(rows: int = ROWS) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Altitudes (rows,) and azimuths (2 rows,) of the cell centres in radians."""
    altitude = ((np.arange(rows) + 0.5) / rows - 0.5) * np.pi
    azimuth = (np.arange(2 * rows) + 0.5) / (2 * rows) * 2 * np.pi
    return altitude, azimuth


def solid_angles(rows: int = ROWS) -> NDArray[np.float64]:
    """Solid angle of a cell of each row in sr; shape (rows,)."""
    edges = np.linspace(-np.pi / 2, np.pi / 2, rows + 1)
    return np.diff(np.sin(edges)) * np.pi / rows
