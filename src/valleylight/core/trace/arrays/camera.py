"""The lens as numbers for the kernel."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from valleylight.core.project.description import View
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.layout import CAMERA_WIDTH


def camera_array(view: View, f_number: float, aspect: float) -> NDArray[np.float64]:
    """Camera record (26,) of a view: with upright verticals the film stands vertical and is shifted to the target.

    The plane of focus stands square to the lens's axis; tilt and swing lean it about the lens's level and upright axes.
    """
    position, target = np.array(view.position, float), np.array(view.target, float)
    forward = target - position
    distance = float(np.linalg.norm(forward))
    rise = 0.0
    if view.keep_verticals:
        flat = float(np.hypot(forward[0], forward[1]))
        rise = forward[2] / flat
        forward = np.array([forward[0], forward[1], 0.0])
    forward /= np.linalg.norm(forward)
    right = np.cross(forward, [0.0, 0.0, 1.0])
    across = float(np.linalg.norm(right))
    # Straight up or down, east is to the right: a view from above has north at its top, as a plan does.
    right = right / across if across > 1e-6 else np.array([1.0, 0.0, 0.0])
    up = np.cross(right, forward)
    half_width = view.film_width_mm / 2 / view.focal_mm
    record = np.zeros(CAMERA_WIDTH)
    (
        record[layout.three(layout.CAMERA_PLACE)],
        record[layout.three(layout.CAMERA_FORWARD)],
        record[layout.three(layout.CAMERA_RIGHT)],
        record[layout.three(layout.CAMERA_UP)],
    ) = position, forward, right, up
    record[layout.CAMERA_HALF_WIDTH], record[layout.CAMERA_HALF_HEIGHT] = half_width, half_width / aspect
    record[layout.CAMERA_SHIFT_X], record[layout.CAMERA_SHIFT_Y] = (
        2 * half_width * view.shift_x,
        rise + 2 * half_width * view.shift_y,
    )
    if view.focus_m is not None:
        record[layout.CAMERA_LENS_RADIUS] = view.focal_mm / 1000 / f_number / 2
        record[layout.CAMERA_FOCUS] = view.focus_m
    else:
        record[layout.CAMERA_FOCUS] = distance
    tilt, swing = (
        _focus_lean(view.tilt_deg, record[layout.CAMERA_FOCUS], view.focal_mm),
        _focus_lean(view.swing_deg, record[layout.CAMERA_FOCUS], view.focal_mm),
    )
    normal = forward - np.tan(tilt) * up - np.tan(swing) * right
    record[layout.three(layout.CAMERA_FOCUS_NORMAL)] = normal / np.linalg.norm(normal)
    if view.moves_to is not None:
        record[layout.three(layout.CAMERA_MOVES)] = np.array(view.moves_to) - position
    record[layout.CAMERA_BLADES], record[layout.CAMERA_BLADES_TURN] = view.blades, np.radians(view.blade_turn_deg)
    return record


def _focus_lean(lens_deg: float, focus_m: float, focal_mm: float) -> float:
    """Angle in radians by which the plane of focus leans when the lens is tilted by an angle.

    The plane of focus, the lens's plane and the film's meet in one line (Scheimpflug): tan(lean) = (u / f) sin(tilt) with
    u the distance in focus and f the focal length (R. Kingslake, Optics in Photography, 1992, ch. 5).
    """
    lean = float(np.arctan(focus_m * 1000 / focal_mm * np.sin(np.radians(lens_deg))))
    return float(np.clip(lean, -1.5, 1.5))


def lens_of(view: View, record: NDArray[np.float64]) -> dict[str, Any]:
    """What a film keeps of the lens of its picture: tangents of half the angles of view, where its middle lies off the axis (tangents,
    right and up), focal length and film in mm, and the distance in focus in m."""
    shift = [float(record[layout.CAMERA_SHIFT_X]), float(record[layout.CAMERA_SHIFT_Y])]
    return {
        "half_width": float(record[layout.CAMERA_HALF_WIDTH]), "half_height": float(record[layout.CAMERA_HALF_HEIGHT]),
        "off_axis": shift, "focal_mm": view.focal_mm, "film_width_mm": view.film_width_mm, "focus_m": view.focus_m,
    }  # fmt: skip


def project_direction(record: NDArray[np.float64], direction: NDArray[np.float64]) -> tuple[float, float] | None:
    """Film position of what stands infinitely far in a direction; None behind the lens."""
    return project_point(record, record[layout.three(layout.CAMERA_PLACE)] + np.asarray(direction))


def project_point(record: NDArray[np.float64], point: NDArray[np.float64]) -> tuple[float, float] | None:
    """Film position (0 to 1 from the left and from the top) of a world point; None behind the lens."""
    d = np.asarray(point) - record[layout.three(layout.CAMERA_PLACE)]
    depth = float(d @ record[layout.three(layout.CAMERA_FORWARD)])
    if depth <= 1e-6:
        return None
    x = (float(d @ record[layout.three(layout.CAMERA_RIGHT)]) / depth - record[layout.CAMERA_SHIFT_X]) / record[
        layout.CAMERA_HALF_WIDTH
    ]
    y = (float(d @ record[layout.three(layout.CAMERA_UP)]) / depth - record[layout.CAMERA_SHIFT_Y]) / record[
        layout.CAMERA_HALF_HEIGHT
    ]
    return (x + 1) / 2, (1 - y) / 2


def directions_over(record: NDArray[np.float64], count: int = 9) -> NDArray[np.float64]:
    """Directions of length 1 (count^2, 3) spread evenly over the picture, its edges and corners among them."""
    v, u = np.meshgrid(np.linspace(-1, 1, count), np.linspace(-1, 1, count), indexing="ij")
    x = u.ravel() * record[layout.CAMERA_HALF_WIDTH] + record[layout.CAMERA_SHIFT_X]
    y = v.ravel() * record[layout.CAMERA_HALF_HEIGHT] + record[layout.CAMERA_SHIFT_Y]
    made = (
        record[layout.three(layout.CAMERA_FORWARD)]
        + x[:, None] * record[layout.three(layout.CAMERA_RIGHT)]
        + y[:, None] * record[layout.three(layout.CAMERA_UP)]
    )
    return np.asarray(made / np.linalg.norm(made, axis=1, keepdims=True))
