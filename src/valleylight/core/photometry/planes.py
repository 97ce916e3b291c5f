"""Distributions measured in planes about a horizontal or another upright axis (types A and B), turned to type C.

Source: ANSI/IES LM-63-19, section 5.11 and IES LM-75, figures of the three systems (from memory): both have latitude and
longitude about a polar axis that stands across the photometric axis. Type A: the polar axis is upright, so
right = cos V sin H, up = sin V, forward = cos V cos H. Type B: the polar axis is level, so right = sin H,
up = cos H sin V, forward = cos H cos V. The fixture's own frame has forward at its nadir and up at C = 0.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
#: Grid of the type C distribution that is made, in degrees.
C_STEP, GAMMA_STEP = 5.0, 1.0


def to_type_c(kind: int, horizontal_deg: Array, vertical_deg: Array, candela: Array) -> tuple[Array, Array, Array]:
    """C planes (C,), gamma angles (G,) and candela (C, G) of a distribution of type A (`kind` 3) or B (`kind` 2).

    `candela` has shape (horizontal, vertical). An axis that starts at 0 stands for both its sides. The flux is kept.
    """
    horizontal, candela = _both_sides(horizontal_deg, candela)
    vertical, flipped = _both_sides(vertical_deg, candela.T)
    candela = flipped.T
    c = np.arange(0.0, 360.0 + C_STEP / 2, C_STEP)
    gamma = np.arange(0.0, 180.0 + GAMMA_STEP / 2, GAMMA_STEP)
    if max(abs(horizontal).max(), abs(vertical).max()) <= 90.0:
        gamma = gamma[gamma <= 90.0]
    azimuth, angle = np.radians(c)[:, None], np.radians(gamma)[None, :]
    up, right = np.sin(angle) * np.cos(azimuth), -np.sin(angle) * np.sin(azimuth)
    forward = np.broadcast_to(np.cos(angle), up.shape)
    if kind == 3:
        across, along = np.arctan2(right, forward), np.arcsin(np.clip(up, -1, 1))
    else:
        across, along = np.arcsin(np.clip(right, -1, 1)), np.arctan2(up, forward)
    table = _bilinear(horizontal, vertical, candela, np.degrees(across), np.degrees(along))
    from valleylight.core.photometry.model import Photometry

    made = Photometry(c, gamma, table)
    return c, gamma, table * (flux_about_axis(kind, horizontal, vertical, candela) / max(made.lumens, 1e-12))


def flux_about_axis(kind: int, horizontal_deg: Array, vertical_deg: Array, candela: Array) -> float:
    """Flux in lm: the integral of I cos(latitude), exact for I linear in latitude, trapezoid in longitude."""
    from valleylight.core.photometry.measures import zone_weights

    latitude, longitude, table = (
        (vertical_deg, horizontal_deg, candela) if kind == 3 else (horizontal_deg, vertical_deg, candela.T)
    )
    return float(np.trapezoid(table @ zone_weights(latitude + 90.0), np.radians(longitude)))


def _both_sides(angles: Array, table: Array) -> tuple[Array, Array]:
    """The other half of an axis of which only the side from 0 up is given; rows of `table` belong to the angles."""
    if len(angles) < 2 or angles[0] != 0.0:
        return angles, table
    return np.concatenate([-angles[:0:-1], angles]), np.concatenate([table[:0:-1], table])


def _bilinear(x: Array, y: Array, table: Array, at_x: Array, at_y: Array) -> Array:
    if len(x) == 1:
        x, table = np.array([x[0] - 90.0, x[0] + 90.0]), np.repeat(table, 2, 0)
    inside = (at_x >= x[0] - 1e-9) & (at_x <= x[-1] + 1e-9) & (at_y >= y[0] - 1e-9) & (at_y <= y[-1] + 1e-9)
    i = np.clip(np.searchsorted(x, at_x, side="right") - 1, 0, len(x) - 2)
    j = np.clip(np.searchsorted(y, at_y, side="right") - 1, 0, len(y) - 2)
    u = np.clip((at_x - x[i]) / (x[i + 1] - x[i]), 0, 1)
    v = np.clip((at_y - y[j]) / (y[j + 1] - y[j]), 0, 1)
    value = (1 - u) * ((1 - v) * table[i, j] + v * table[i, j + 1]) + u * (
        (1 - v) * table[i + 1, j] + v * table[i + 1, j + 1]
    )
    return np.where(inside, value, 0.0)
