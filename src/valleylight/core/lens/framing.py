"""The frame: angles of view, where the horizon lies, the picture cut or its film shifted.

All by tangents from the lens's axis, as in a camera with a flat film: half the width is w / 2 f, and a shift by a share of the film
moves the picture's middle by that share of the whole width (S. F. Ray, Applied Photographic Optics, 3rd ed., ch. 14 and 57).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from fractions import Fraction

from valleylight.core.errors import InputError
from valleylight.core.project.description import MOST_ASPECT, View

#: Heights of the eye over the floor, in m (common practice, in the style of DIN 33402-2).
EYE_HEIGHTS_M = {"standing": 1.60, "seated": 1.20}
#: A free cut keeps its sides as whole numbers up to this; it is no smaller or larger than so many times the frame.
_PARTS, SMALLEST, LARGEST = 2000, 0.02, 4.0


@dataclass(frozen=True)
class Frame:
    """Tangents: half the width and height, and the picture's middle from the axis (right, up); `horizon` is where level sights lie, 0 at
    the top and 1 at the bottom, beyond where the horizon is outside the picture."""

    half_width: float
    half_height: float
    right: float
    up: float
    horizon: float

    @property
    def across_deg(self) -> float:
        """Angle of view from the left edge to the right one."""
        w = self.half_width
        return math.degrees(math.atan(self.right + w) - math.atan(self.right - w))

    @property
    def upright_deg(self) -> float:
        """Angle of view from the lower edge to the upper one."""
        h = self.half_height
        return math.degrees(math.atan(self.up + h) - math.atan(self.up - h))


def frame_of(view: View) -> Frame:
    """The frame of a view."""
    half = view.film_width_mm / 2 / view.focal_mm
    half_height = half / view.aspect
    up = _rise(view) + 2 * half * view.shift_y
    return Frame(half, half_height, 2 * half * view.shift_x, up, (1 - (_level(view) - up) / half_height) / 2)


def _rise(view: View) -> float:
    """Tangent by which upright verticals shift the film to reach the target; 0 where the lens itself is turned up."""
    return _slope(view) if view.keep_verticals else 0.0


def _level(view: View) -> float:
    """Tangent from the axis at which level sights meet the film."""
    return 0.0 if view.keep_verticals else -_slope(view)


def _slope(view: View) -> float:
    x, y, z = (t - p for t, p in zip(view.target, view.position, strict=True))
    return z / max(math.hypot(x, y), 1e-9)


def cropped(
    view: View, left: float, top: float, right: float, bottom: float, format: tuple[int, int] | None = None
) -> View:
    """The view with its picture cut to a part: edges by the frame, 0 to 1 from the left and the top, beyond to widen it. Perspective,
    focal length and depth of field stay, as when a print is cut: the film gets smaller. With a format the part is fitted to it about its
    middle, at its width. Raises InputError for a part without size, too narrow, or too far from the axis."""
    width, height = right - left, bottom - top
    if not (SMALLEST <= width <= LARGEST and SMALLEST <= height <= LARGEST):
        raise InputError(
            f"the frame would be {width:.2f} x {height:.2f} of what it is",
            "frame", f"Cut to between {SMALLEST:g} and {LARGEST:g} of the picture",
        )  # fmt: skip
    was = frame_of(view)
    aspect = view.aspect * width / height
    if format is None:
        if not 1 / MOST_ASPECT <= aspect <= MOST_ASPECT:
            raise InputError("the frame is too narrow", "frame", f"Stay within {MOST_ASPECT} to 1")
        format = _format(aspect)
    film = view.film_width_mm * width
    half = was.half_width * width
    across = was.right + was.half_width * (left + right - 1)
    up = was.up + was.half_height * (1 - top - bottom)
    return _checked(
        view, format=format, film_width_mm=film, shift_x=across / (2 * half), shift_y=(up - _rise(view)) / (2 * half)
    )


def with_horizon(view: View, at: float) -> View:
    """The view with its film shifted so that the horizon lies at a height of the picture, 0 at the top and 1 at the bottom. The
    perspective stays. Raises InputError where the film would have to be shifted too far."""
    now = frame_of(view)
    up = _level(view) - now.half_height * (1 - 2 * at)
    return _checked(view, shift_y=(up - _rise(view)) / (2 * now.half_width))


def _format(aspect: float) -> tuple[int, int]:
    """Whole sides of an aspect, width over height."""
    whole = Fraction(aspect).limit_denominator(200)
    side = (whole.numerator, whole.denominator)
    if abs(side[0] / side[1] / aspect - 1) < 5e-4 and max(side) <= _PARTS:
        return side
    return (max(round(1000 * aspect), 1), 1000)


def _checked(view: View, **change: object) -> View:
    for name in ("shift_x", "shift_y"):
        value = change.get(name)
        if isinstance(value, float):
            change[name] = round(value, 9)
            if abs(value) > 3:
                raise InputError(
                    "the film would have to be shifted by more than three times its width",
                    "frame", "Turn the lens towards it first",
                )  # fmt: skip
    film = change.get("film_width_mm")
    if isinstance(film, float) and not 4 <= film <= 250:
        raise InputError(
            f"the film would be {film:.1f} mm wide",
            "frame",
            "Stay within 4 and 250 mm; change the focal length instead",
        )
    return View.model_validate({**view.model_dump(), **change})


def axial_m(view: View, point: tuple[float, float, float]) -> float:
    """Distance in m of a point of the stage from the lens along its axis: where the lens is to be focused to show it sharp."""
    ahead = [t - p for t, p in zip(view.target, view.position, strict=True)]
    if view.keep_verticals:
        ahead[2] = 0.0
    length = math.sqrt(sum(a * a for a in ahead))
    return sum(a * (q - p) for a, q, p in zip(ahead, point, view.position, strict=True)) / length
