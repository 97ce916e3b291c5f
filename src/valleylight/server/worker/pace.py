"""How large the first picture of a wish may be, so that it comes in time on this machine."""

from __future__ import annotations

from dataclasses import dataclass

#: The width of the first picture where there is time, and what it may shrink to.
FIRST_WIDTH = 480
WIDTHS = (FIRST_WIDTH, 384, 304, 240, 192, 152, 120)
#: So long may the worker take: for a picture of a drag, which are to come four a second with as much again on their way; for
#: the first one of a hand at rest, which is seen for longer; and for that the smallest that still reads.
DRAG_S, REST_S = 0.15, 0.33
LEAST_AT_REST = 240
#: What takes longer than this is no measure of the next: a stage built for the first time, kernels read from disk.
MOST_SETTING_UP_S, MOST_FIRST_S = 0.15, 0.8


@dataclass
class Pace:
    """What pictures took lately: setting up a scene, and each pixel of it after that."""

    fixed_s: float = 0.0
    pixel_s: float = 0.0

    def width(self, dragging: bool) -> int:
        """The largest width that should be done in time; the full one while nothing is known yet."""
        limit = DRAG_S if dragging else REST_S
        widths = WIDTHS if dragging else tuple(w for w in WIDTHS if w >= LEAST_AT_REST)
        return next((w for w in widths if self.fixed_s + self.pixel_s * _pixels(w) <= limit), widths[-1])

    def learn(self, width: int, setting_up_s: float, picture_s: float) -> None:
        """One more first picture was made. Half of what is believed comes from it: single ones are disturbed by others' work."""
        self.fixed_s = min(setting_up_s, MOST_SETTING_UP_S)
        now = picture_s / _pixels(width)
        first = min(now, MOST_FIRST_S / _pixels(FIRST_WIDTH))
        self.pixel_s = first if self.pixel_s == 0.0 else 0.5 * (self.pixel_s + now)


def _pixels(width: int) -> float:
    return width * width * 9 / 16
