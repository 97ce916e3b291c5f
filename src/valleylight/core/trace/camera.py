"""The lens as numbers for the kernel."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.project.description import View
from valleylight.core.trace.layout import CAMERA_WIDTH


def camera_array(view: View, f_number: float, aspect: float) -> NDArray[np.float64]:
    """Camera record (18,) of a view: with upright verticals the film stands vertical and is shifted to the target."""
    position, target = np.array(view.position, float), np.array(view.target, float)
    forward = target - position
    distance = float(np.linalg.norm(forward))
    shift_y = 0.0
    if view.keep_verticals:
        flat = float(np.hypot(forward[0], forward[1]))
        shift_y = forward[2] / flat
        forward = np.array([forward[0], forward[1], 0.0])
    forward /= np.linalg.norm(forward)
    right = np.cross(forward, [0.0, 0.0, 1.0])
    right /= np.linalg.norm(right)
    up = np.cross(right, forward)
    half_width = view.film_width_mm / 2 / view.focal_mm
    record = np.zeros(CAMERA_WIDTH)
    record[0:3], record[3:6], record[6:9], record[9:12] = position, forward, right, up
    record[12], record[13] = half_width, half_width / aspect
    record[15] = shift_y
    if view.focus_m is not None:
        record[16] = view.focal_mm / 1000 / f_number / 2
        record[17] = view.focus_m
    else:
        record[17] = distance
    return record


def project_point(record: NDArray[np.float64], point: NDArray[np.float64]) -> tuple[float, float] | None:
    """Film position (0 to 1 from the left and from the top) of a world point; None behind the lens."""
    d = np.asarray(point) - record[0:3]
    depth = float(d @ record[3:6])
    if depth <= 1e-6:
        return None
    x = (float(d @ record[6:9]) / depth - record[14]) / record[12]
    y = (float(d @ record[9:12]) / depth - record[15]) / record[13]
    return (x + 1) / 2, (1 - y) / 2
