"""Where the copies of a thing stand that is repeated in a row, in a grid or along a line."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.project.repeats import MOST, Along, Grid, Row

Matrices = NDArray[np.float64]


def turned(degrees: float) -> Matrices:
    """A turn (4, 4) about the upright, anticlockwise from above."""
    a = np.radians(degrees)
    matrix = np.eye(4)
    matrix[:2, :2] = [[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]]
    return matrix


def repeated(repeat: Row | Grid | Along, first: Matrices, turn_deg: float) -> Matrices:
    """Matrices (N, 4, 4) of the copies of a thing whose own matrix is `first` (4, 4), which is turned by `turn_deg`."""
    if isinstance(repeat, Along):
        return _along(repeat, first)
    if isinstance(repeat, Row):
        offsets = np.arange(repeat.count)[:, None] * np.array(repeat.step)
    else:
        u, v = np.meshgrid(np.arange(repeat.columns), np.arange(repeat.rows))
        flat = np.column_stack([u.ravel() * repeat.apart[0], v.ravel() * repeat.apart[1], np.zeros(u.size)])
        offsets = flat @ turned(turn_deg)[:3, :3].T
    out = np.tile(first, (len(offsets), 1, 1))
    out[:, :3, 3] += offsets
    return out


def _along(repeat: Along, first: Matrices) -> Matrices:
    points = np.array(repeat.points)
    legs = np.diff(points, axis=0)
    lengths = np.linalg.norm(legs, axis=1)
    ends = np.concatenate([[0.0], np.cumsum(lengths)])
    count = min(int(ends[-1] / repeat.spacing_m + 1e-9) + 1, MOST)
    at = np.arange(count) * repeat.spacing_m
    leg = np.clip(np.searchsorted(ends, at, side="right") - 1, 0, len(legs) - 1)
    spots = np.column_stack([np.interp(at, ends, points[:, k]) for k in range(3)])
    out = np.tile(first, (count, 1, 1))
    if repeat.facing:
        for k, d in enumerate(legs[leg]):
            out[k] = turned(float(np.degrees(np.arctan2(d[1], d[0])))) @ first
    out[:, :3, 3] = spots
    return out
