"""What a lens shows sharp.

Thin lens of focal length f, f-number N, focused on s, circle of confusion c on the film (S. F. Ray, Applied Photographic Optics, 3rd
ed., ch. 22): hyperfocal distance H = f^2 / (N c) + f; near limit s (H - f) / (H + s - 2 f); far limit s (H - f) / (H - s), infinite
from s = H on. All distances from the lens along its axis.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from valleylight.core.project.description import View

#: Diagonal of the picture on the film over the circle of confusion (common practice: d / 1500, 0.029 mm for 36 x 24 mm).
DIAGONAL_PER_CIRCLE = 1500.0


@dataclass(frozen=True)
class Sharpness:
    """Circle of confusion in mm; hyperfocal distance, near and far limit in m (`far_m` None: without end)."""

    circle_mm: float
    hyperfocal_m: float
    near_m: float
    far_m: float | None


def circle_mm(view: View) -> float:
    """The circle of confusion that counts as a point, by the size of the picture on the film."""
    return math.hypot(view.film_width_mm, view.film_width_mm / view.aspect) / DIAGONAL_PER_CIRCLE


def sharpness(view: View, f_number: float, focus_m: float | None = None) -> Sharpness:
    """What is sharp at an f-number, focused as the view is or at `focus_m`. A view that keeps everything sharp is a pinhole: sharp from
    the lens on."""
    c, f = circle_mm(view), view.focal_mm
    hyperfocal = f * f / (f_number * c) + f
    focus = view.focus_m if focus_m is None else focus_m
    if focus is None:
        return Sharpness(c, hyperfocal / 1000, 0.0, None)
    s = max(focus * 1000, f * 1.01)
    near = s * (hyperfocal - f) / (hyperfocal + s - 2 * f)
    far = s * (hyperfocal - f) / (hyperfocal - s) / 1000 if s < hyperfocal else None
    return Sharpness(c, hyperfocal / 1000, near / 1000, far)
