"""Ink lines: where surfaces end and where they bend, from the distances and normals of the picture, not from its tones.

Inverse distance is linear over the picture of a plane, so its second difference is nought but at steps and bends (T. Saito and T. Takahashi,
Comprehensible Rendering of 3-D Shapes, SIGGRAPH 1990, there for depth); bends are found by normals too. A hand's unrest moves the lines.
"""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from valleylight.core.treatments.base import Picture, Spatial, number
from valleylight.core.treatments.seen import Seen
from valleylight.core.treatments.unrest import Plane, inside, unsteady

#: Relative step of inverse distance, and turn of the normal, at which a line is half drawn.
STEP, BEND = 0.012, 0.35
#: Distance at which a line has the width it is given, in m; it falls with the fourth root from there and is never more than half as
#: wide again.
NEAR_M = 6.0
#: In leaves and grass all is edge: where more than this share is, lines are drawn the more thinly.
BUSY = 0.16


class InkLines(Spatial):
    """Outlines and edges drawn in ink over the picture, or on white paper."""

    TITLE: ClassVar[str] = "Ink lines"
    PLACE: ClassVar[int] = 76
    ON_AT_FIRST: ClassVar[bool] = False
    BY_DISTANCE: ClassVar[bool] = True

    kind: Literal["ink_lines"] = "ink_lines"
    width: float = number(
        1.4, 0.3, 12, "Width", 0.1, "‰", shown=(0.4, 5), description="Of the picture's width, near by"
    )
    ink: float = number(0.9, 0, 1, "Ink", 0.05, description="How dark the lines are")
    bends: float = number(
        0.7, 0, 2, "Inner edges", 0.05, shown=(0, 1.5), description="Where a surface bends, against where it ends"
    )
    unrest: float = number(0.5, 0, 5, "Unrest of the hand", 0.05, shown=(0, 3))
    margin: float = number(0.0, 0, 15, "Margin", 0.5, "%", description="Paper left free of lines about the picture")
    paper: float = number(0.0, 0, 1, "Picture gives way to paper", 0.05)

    def applied_in(self, picture: Picture, seen: Seen) -> Picture:
        size = picture.shape[:2]
        depth, normal = seen.depth_m(size), seen.normals(size)
        if depth is None or normal is None:
            return picture
        lines = self._lines(depth, normal)
        if self.margin > 0:
            lines = lines * inside((size[0], size[1]), self.margin)
        ground = picture + np.float32(self.paper) * (np.float32(0.93) - picture)
        return np.asarray(ground * (1 - np.float32(self.ink) * lines)[..., None], np.float32)

    def _lines(self, depth: Plane, normal: Plane) -> Plane:
        """How much of each pixel is ink (H, W), 0 to 1."""
        from scipy.ndimage import gaussian_filter, uniform_filter

        wide = depth.shape[1]
        near = np.where(np.isfinite(depth), 1 / np.maximum(depth, 1e-3), 0).astype(np.float32)
        step = np.zeros_like(near)
        bend = np.zeros_like(near)
        for axis in (0, 1):
            before, after = np.roll(near, 1, axis), np.roll(near, -1, axis)
            scale = np.maximum(np.maximum(before, after), near) + 1e-6
            step = np.maximum(step, np.abs(before - 2 * near + after) / scale)
            turn = 1 - (np.roll(normal, 1, axis) * np.roll(normal, -1, axis)).sum(-1)
            bend = np.maximum(bend, np.where((before > 0) & (after > 0), turn, 0))
        for plane in (step, bend):  # the picture's own edge is no line
            plane[[0, -1]] = 0
            plane[:, [0, -1]] = 0
        drawn = np.maximum(_soft(step / STEP), np.float32(self.bends) * _soft(bend / BEND))
        busy = uniform_filter(drawn, max(round(wide / 60), 3))
        drawn = drawn * np.clip(BUSY / np.maximum(busy, 1e-6), 0.15, 1)
        drawn = unsteady(drawn, self.unrest * wide / 900, wide / 26, 5)
        # A line of some width: blurred and cut, the wider the nearer.
        width = np.float32(self.width / 1000 * wide) * np.clip((NEAR_M * near) ** np.float32(0.25), 0.45, 1.5)
        sigma = max(float(self.width / 1000 * wide) * 0.5, 0.35)
        spread = gaussian_filter(drawn, sigma) * np.float32(sigma * 2.5)
        return np.asarray(np.clip(spread * np.minimum(width / (2 * sigma), 1.5), 0, 1), np.float32)


def _soft(x: Plane) -> Plane:
    """0 below a half, 1 above one and a half, smooth between."""
    t = np.clip(x - 0.5, 0, 1)
    return np.asarray(t * t * (3 - 2 * t), np.float32)
