"""Local tone: shadows opened and highlights held back by what lies about, so that detail keeps its contrast.

The base of log2 luminance comes from an edge-keeping filter (reach.base_of); gain in stops = shadows w(middle - base) + highlights
w(base - middle), w rising smoothly over three stops (own).
"""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from valleylight.core.treatments.base import Picture, Spatial, number

#: Stops over which shadows and highlights come in, and the step that the filter takes for an edge.
RISE_STOPS, EDGE_STOPS = 3.0, 0.7
DARKEST = 2.0**-14


class LocalTone(Spatial):
    """Opens shadows and holds highlights without flattening what is in them."""

    TITLE: ClassVar[str] = "Local tone"
    PLACE: ClassVar[int] = 35
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["local_tone"] = "local_tone"
    shadows: float = number(0.8, -4, 4, "Shadows", 0.05, "stops", shown=(-2, 2))
    highlights: float = number(-0.5, -4, 4, "Highlights", 0.05, "stops", shown=(-2, 2))
    middle: float = number(-2.5, -12, 6, "Between them", 0.1, "stops", shown=(-6, 1), description="About white")
    reach_percent: float = number(
        3.0, 0.2, 20, "Reach", 0.1, "%", shown=(0.5, 10), description="Of the picture's width"
    )

    def applied(self, picture: Picture) -> Picture:
        from valleylight.core.treatments.reach import base_of, luminance

        log = np.log2(np.maximum(luminance(picture), DARKEST))
        base = base_of(log, self.reach_percent / 100, EDGE_STOPS)
        off = (base - np.float32(self.middle)) / np.float32(RISE_STOPS)
        up, down = (np.clip(t, 0, 1) for t in (off, -off))
        gain = self.highlights * up * up * (3 - 2 * up) + self.shadows * down * down * (3 - 2 * down)
        return np.asarray(picture * np.exp2(gain, dtype=np.float32)[..., None], np.float32)
