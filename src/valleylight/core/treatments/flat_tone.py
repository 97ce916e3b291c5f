"""Flat tone: one colour over everything, or over the parts that a limit names: a background without colour, a built part in one tint."""

from __future__ import annotations

import colorsys
from typing import ClassVar, Literal

import numpy as np

from valleylight.core.colour.rgb import srgb_decode
from valleylight.core.treatments.base import Picture, Spatial, number
from valleylight.core.treatments.reach import luminance


class FlatTone(Spatial):
    """One colour laid over the picture; its light and dark may shine through."""

    TITLE: ClassVar[str] = "Flat tone"
    PLACE: ClassVar[int] = 71
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["flat_tone"] = "flat_tone"
    hue_deg: float = number(35.0, 0, 360, "Hue", 1, "°")
    saturation: float = number(0.18, 0, 1, "Saturation", 0.02)
    lightness: float = number(0.8, 0, 1, "Lightness", 0.02)
    shade: float = number(0.3, 0, 1, "Light and dark kept", 0.02)

    def applied(self, picture: Picture) -> Picture:
        tone = srgb_decode(np.array(colorsys.hls_to_rgb(self.hue_deg / 360, self.lightness, self.saturation))).astype(
            np.float32
        )
        light = luminance(np.clip(picture, 0, None))
        kept = np.clip(light / np.float32(max(float(np.percentile(light, 90)), 1e-6)), 0, 1.5)
        return np.asarray(tone * (1 + np.float32(self.shade) * (kept - 1))[..., None], np.float32)
