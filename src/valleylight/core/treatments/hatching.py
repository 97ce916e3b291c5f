"""Hatching: strokes of a pencil by tone, that follow the surfaces they lie on.

A surface is hatched in layers, each at its own angle and from its own darkness on (tonal art maps: E. Praun, H. Hoppe, M. Webb,
A. Finkelstein, Real-Time Hatching, SIGGRAPH 2001). Strokes follow the level lines of upright surfaces and lie at an angle on level ones.
"""

from __future__ import annotations

import math
from typing import ClassVar, Literal

import numpy as np

from valleylight.core.treatments.base import Picture, Spatial, number
from valleylight.core.treatments.reach import base_of, luminance
from valleylight.core.treatments.seen import Seen
from valleylight.core.treatments.unrest import Plane, noise, paper

#: Tones (display scale) below which each layer of strokes begins, and its angle to the first.
LAYERS = ((0.78, 0.0), (0.52, 8.0), (0.34, 62.0), (0.18, -50.0))
PAPER = np.array([0.92, 0.915, 0.89], np.float32)


class Hatching(Spatial):
    """Tones as strokes of a pencil on paper."""

    TITLE: ClassVar[str] = "Hatching"
    PLACE: ClassVar[int] = 74
    ON_AT_FIRST: ClassVar[bool] = False
    BY_DISTANCE: ClassVar[bool] = True

    kind: Literal["hatching"] = "hatching"
    spacing: float = number(3.2, 1, 20, "Spacing", 0.1, "‰", shown=(1.5, 10), description="Of the picture's width")
    lead: float = number(0.75, 0.1, 1, "Lead", 0.05, description="How dark a stroke is")
    colour: float = number(0.15, 0, 1, "Colour kept", 0.05)
    unrest: float = number(0.5, 0, 2, "Unrest of the hand", 0.05)

    def applied_in(self, picture: Picture, seen: Seen) -> Picture:
        size = (picture.shape[0], picture.shape[1])
        display = np.clip(picture, 0, 1) ** np.float32(1 / 2.2)
        tone = base_of(np.ascontiguousarray(luminance(display)), 0.006, 0.1)
        angle = self._angles(size, seen)
        dark = np.zeros(size, np.float32)
        for k, (below, turn) in enumerate(LAYERS):
            want = np.clip((np.float32(below) - tone) / 0.18, 0, 1)
            dark = np.maximum(dark, want * self._strokes(size, angle + np.float32(math.radians(turn)), k))
        grain = np.clip(0.85 + 0.3 * paper(size), 0, 1.3)
        ink = np.clip(np.float32(self.lead) * dark * grain, 0, 1)[..., None]
        tint = PAPER * (1 - np.float32(self.colour)) + np.float32(self.colour) * np.maximum(
            np.clip(picture, 0, 1), 0.15
        )
        return np.asarray(tint * (1 - ink) ** 2, np.float32)

    def _angles(self, size: tuple[int, int], seen: Seen) -> Plane:
        """Direction of the strokes in the picture (H, W), in radians: that of the level lines of what is seen, in steps, so that strokes
        are straight; aslant on what is level and in the sky."""
        aslant = np.float32(math.radians(38))
        normal, across_up = seen.normals(size), seen.level_lines(size)
        if normal is None or across_up is None:
            return np.full(size, aslant, np.float32)
        found = np.arctan2(across_up[..., 1], across_up[..., 0])
        found = np.round(found / math.radians(6)) * math.radians(6)
        upright = (np.abs(normal[..., 2]) < 0.6) & (np.abs(normal).sum(-1) > 0.1)
        return np.asarray(np.where(upright, found + math.radians(4), aslant), np.float32)

    def _strokes(self, size: tuple[int, int], angle: Plane, layer: int) -> Plane:
        """Strokes (H, W), 0 to 1, across the direction of a field of angles: a wave of the given spacing, broken along its length."""
        wide = size[1]
        apart = np.float32(max(self.spacing / 1000 * wide, 2.0) * (1 + 0.13 * layer))
        rows, columns = np.indices(size, np.float32)
        rows = rows + np.float32(self.unrest) * apart * 0.35 * noise(size, float(apart) * 9, 71 + layer, 2)
        c, s = np.cos(angle), np.sin(angle)
        off = columns * s + rows * c
        along = columns * c - rows * s
        wave = 0.5 + 0.5 * np.cos(2 * np.float32(math.pi) * off / apart)
        lines = np.floor(off / apart)
        broken = 0.5 + 0.5 * np.sin(along / (apart * 7) + lines * 2.399)
        return np.asarray(np.clip((wave - 0.45) / 0.4, 0, 1) * np.clip(broken * 2.4, 0.25, 1), np.float32)
