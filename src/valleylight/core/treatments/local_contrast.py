"""Local contrast: what stands out from its surroundings stands out more, on the display's scale, edges kept free of halos by an
edge-keeping filter (reach.base_of)."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from valleylight.core.treatments.base import Picture, Spatial, number

GAMMA, EDGE = 2.2, 0.12


class LocalContrast(Spatial):
    """Texture and relief, stronger or softer; large tones stay."""

    TITLE: ClassVar[str] = "Local contrast"
    PLACE: ClassVar[int] = 57
    ON_AT_FIRST: ClassVar[bool] = False

    kind: Literal["local_contrast"] = "local_contrast"
    amount: float = number(0.3, -1, 3, "Amount", 0.02, shown=(-1, 1))
    reach_percent: float = number(2.0, 0.1, 20, "Reach", 0.1, "%", shown=(0.2, 8), description="Of the picture's width")

    def applied(self, picture: Picture) -> Picture:
        from valleylight.core.treatments.reach import base_of, luminance

        y = np.maximum(luminance(picture), 1e-6)
        v = y ** np.float32(1 / GAMMA)
        detail = v - base_of(v, self.reach_percent / 100, EDGE)
        wanted = np.clip(v + np.float32(self.amount) * detail, 0, None) ** np.float32(GAMMA)
        return np.asarray(picture * (wanted / y)[..., None], np.float32)
