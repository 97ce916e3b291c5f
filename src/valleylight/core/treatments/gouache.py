"""Gouache: opaque body colour laid flat, light over dark, in a few tones with brushed edges.

Tones are steps of the lightness L* (CIE 15:2018, 8.2.1), which the eye takes for even ones; hue and chroma of a colour stay as its luminance is brought to
its step. Gouache holds chalk, so nothing in it is quite dark and nothing quite full of colour (common practice).
"""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from valleylight.core.treatments.base import Picture, Spatial, number
from valleylight.core.treatments.reach import base_of, luminance
from valleylight.core.treatments.unrest import Plane, inside, noise, unsteady

CHALK = np.array([0.94, 0.935, 0.92], np.float32)
#: The lightness (0 to 1) of the darkest tone.
DARKEST = 0.12


class Gouache(Spatial):
    """The picture in flat tones of body colour."""

    TITLE: ClassVar[str] = "Gouache"
    PLACE: ClassVar[int] = 73
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["gouache"] = "gouache"
    tones: float = number(6.0, 2, 16, "Tones", 1, description="Steps of lightness from the darkest to white")
    flat: float = number(0.7, 0, 1, "Flat", 0.05, description="How far detail gives way to flat areas")
    soft: float = number(0.25, 0, 1, "Soft edges", 0.05, description="How far one tone is brushed into the next")
    chalk: float = number(0.12, 0, 0.6, "Chalk", 0.02)
    brush: float = number(0.3, 0, 1, "Brush", 0.05, description="Marks of the brush in the flat areas")
    margin: float = number(2.0, 0, 15, "Margin", 0.5, "%", description="Paper left free about the picture")

    def applied(self, picture: Picture) -> Picture:
        size = (picture.shape[0], picture.shape[1])
        display = np.clip(picture, 0, 1) ** np.float32(1 / 2.2)
        areas = self._areas(display) ** np.float32(2.2)
        light = np.maximum(luminance(areas), 1e-6)
        lightness = _lightness(light)
        stepped = self._stepped(lightness)
        if self.brush > 0:
            stepped = stepped + np.float32(0.012 * self.brush) * _marks(size)
        wanted = _luminance_of(np.clip(stepped, 0, 1))
        made = areas * (wanted / light)[..., None]
        # What a brighter tone would drive beyond white loses its colour instead.
        over = np.maximum(made.max(-1, keepdims=True), 1.0)
        made = made / over + (1 - 1 / over) * wanted[..., None]
        made = made + np.float32(self.chalk) * (wanted[..., None] * CHALK - made)
        if self.margin > 0:
            painted = inside(size, self.margin)[..., None]
            made = made * painted + CHALK * (1 - painted)
        return np.asarray(np.clip(made, 0, 1), np.float32)

    def _areas(self, display: Picture) -> Picture:
        """Colours with their detail laid flat, edges kept, and drawn by a brush."""
        wide = display.shape[1]
        planes = []
        for k in range(3):
            plane = base_of(np.ascontiguousarray(display[..., k]), 0.006 + 0.012 * self.flat, 0.08 + 0.14 * self.flat)
            planes.append(unsteady(plane, self.flat * wide / 900, wide / 60, 71))
        smooth = np.clip(np.stack(planes, -1), 0, 1)
        return np.asarray(display + np.float32(self.flat) * (smooth - display), np.float32)

    def _stepped(self, lightness: Plane) -> Plane:
        """Lightness (0 to 1) brought to its tone; between two of them over a share of the step that is brushed."""
        steps = np.float32(max(round(self.tones) - 1, 1))
        at = np.clip((lightness - DARKEST) / (1 - DARKEST), 0, 1) * steps
        low = np.floor(at)
        wide = np.float32(max(self.soft, 0.02))
        between = np.clip((at - low - 0.5) / wide + 0.5, 0, 1)
        between = between * between * (3 - 2 * between)
        return np.asarray(DARKEST + (1 - DARKEST) * (low + between) / steps, np.float32)


def _lightness(luminance_of_white: Plane) -> Plane:
    """L* over 100 of a luminance over that of white (CIE 15:2018, 8.2.1)."""
    y = luminance_of_white
    return np.asarray(np.where(y > (6 / 29) ** 3, 1.16 * np.cbrt(y) - 0.16, y * (29 / 3) ** 3 / 100), np.float32)


def _luminance_of(lightness: Plane) -> Plane:
    """The luminance over that of white of L* over 100."""
    return np.asarray(
        np.where(lightness > 0.08, ((lightness + 0.16) / 1.16) ** 3, lightness * 100 * (3 / 29) ** 3), np.float32
    )


def _marks(size: tuple[int, int]) -> Plane:
    """Streaks of a flat brush (H, W), mean 0: noise drawn out to the side, with a slow change of its direction of stroke."""
    from scipy.ndimage import gaussian_filter1d

    fine = noise(size, max(size[1] / 300, 1.5), 81, 1)
    drawn = gaussian_filter1d(fine, size[1] / 60, axis=1)
    return np.asarray((drawn - drawn.mean()) / max(float(drawn.std()), 1e-9), np.float32)
