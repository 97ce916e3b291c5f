"""Watercolour: washes that flow, gather pigment at their edges and in the tooth of the paper.

Source: A. Bousseau, M. Kaplan, J. Thollot, F. X. Sillion, Interactive Watercolor Rendering with Temporal Coherence and Abstraction,
NPAR 2006: the colour of a wash of density d is C' = C (1 - (1 - C)(d - 1)), with d changed by the paper's height, by turbulent flow and
by the gradient of the washes (edge darkening).
"""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from valleylight.core.treatments.base import Picture, Spatial, number
from valleylight.core.treatments.reach import base_of, luminance
from valleylight.core.treatments.seen import Seen
from valleylight.core.treatments.unrest import Plane, drops_beyond, inside, noise, paper, unsteady

WHITE = np.array([0.93, 0.925, 0.9], np.float32)


class Watercolour(Spatial):
    """The picture as washes on paper."""

    TITLE: ClassVar[str] = "Watercolour"
    PLACE: ClassVar[int] = 72
    ON_AT_FIRST: ClassVar[bool] = False
    BY_DISTANCE: ClassVar[bool] = True

    kind: Literal["watercolour"] = "watercolour"
    abstraction: float = number(0.6, 0, 1, "Abstraction", 0.05, description="How far detail gives way to washes")
    thinned: float = number(0.25, 0, 0.8, "Thinned", 0.05, description="How much of the paper shines through")
    edges: float = number(0.8, 0, 3, "Dark edges", 0.05, shown=(0, 2))
    granulation: float = number(0.25, 0, 1, "Granulation", 0.05)
    flow: float = number(0.3, 0, 1, "Flow", 0.05, description="Unevenness of large washes")
    backruns: float = number(
        0.25,
        0,
        1,
        "Backruns",
        0.05,
        description="Pools of water that ran back into a damp wash and carried its pigment to their rim",
    )
    sky: float = number(0.7, 0, 1, "Sky fades upwards", 0.05, description="Darker at its foot, paper at the top")
    margin: float = number(
        3.0, 0, 15, "Margin", 0.5, "%", description="Paper left free about the picture, its edge splattered"
    )

    def applied_in(self, picture: Picture, seen: Seen) -> Picture:
        size = (picture.shape[0], picture.shape[1])
        display = np.clip(picture, 0, 1) ** np.float32(1 / 2.2)
        washes = self._washes(display)
        density = self._density(washes, size)
        washes = washes + np.float32(self.thinned) * (1 - washes) * washes
        depth = seen.depth_m(size)
        if depth is not None and self.sky > 0:
            share = self._faded(~np.isfinite(depth))[..., None]
            washes = washes + share * (1 - washes)
        # C' = C (1 - (1 - C)(d - 1)), of the paper's own white.
        made = washes * (1 - (1 - washes) * (density - 1)[..., None])
        if self.margin > 0:
            painted = np.maximum(inside(size, self.margin), drops_beyond(size, self.margin))[..., None]
            made = made * painted + (1 - painted)
        return np.asarray(np.clip(made, 0, 1) ** np.float32(2.2) * WHITE, np.float32)

    def _washes(self, display: Picture) -> Picture:
        """Colours with their detail smoothed away, edges kept, drawn by an unsteady brush."""
        wide = display.shape[1]
        channels = []
        for k in range(3):
            plane = base_of(
                np.ascontiguousarray(display[..., k]), 0.004 + 0.012 * self.abstraction, 0.05 + 0.12 * self.abstraction
            )
            channels.append(unsteady(plane, self.abstraction * wide / 700, wide / 40, 21))
        smooth = np.stack(channels, -1)
        return np.asarray(
            display + np.float32(min(1.0, 0.35 + 0.65 * self.abstraction)) * (smooth - display), np.float32
        )

    def _density(self, washes: Picture, size: tuple[int, int]) -> Plane:
        from scipy.ndimage import gaussian_filter

        wide = size[1]
        tone = luminance(washes)
        # Pigment is carried to the edge of a wash: what is darker than its surroundings there is darker still.
        soft = gaussian_filter(tone, wide / 260)
        rim = gaussian_filter(np.abs(tone - soft), wide / 900)
        density = 1 + np.float32(2.2 * self.edges) * rim
        density -= np.float32(0.22 * self.granulation) * paper(size)
        density += np.float32(0.18 * self.flow) * noise(size, wide / 7, 31, 4)
        if self.backruns > 0:
            # They are seen where a wash is even; among detail there is none that would run back.
            even = 1 - np.clip(gaussian_filter(rim, wide / 60) / 0.012, 0, 1)
            density += np.float32(self.backruns) * even * _backruns(size)
        return np.asarray(np.clip(density, 0.2, 2.2), np.float32)

    def _faded(self, open_sky: Plane) -> Plane:
        """How much of the sky is paper (H, W): nothing at its foot, most at the top, with an uneven front."""
        size = (open_sky.shape[0], open_sky.shape[1])
        height = 1 - np.arange(size[0], dtype=np.float32)[:, None] / size[0]
        front = height + 0.07 * noise(size, size[1] / 5, 41, 4)
        return np.asarray(
            np.where(open_sky, np.float32(self.sky) * np.clip((front - 0.45) / 0.55, 0, 1), 0), np.float32
        )


def _backruns(size: tuple[int, int]) -> Plane:
    """Change of density by backruns (H, W): pools lighter within, their pigment in a ragged rim, so that none is lost (mean 0).

    Water that spreads in a damp wash pushes pigment before it and leaves it where it dries (C. Curtis et al., Computer-generated watercolor,
    SIGGRAPH 1997, section 3); the front is drawn here by noise, not simulated."""
    wide = size[1]
    front = noise(size, wide / 4, 91, 2) + 0.07 * noise(size, wide / 40, 92, 3) - 1.3
    # Washed out most just within its rim, where the water stood longest.
    pool = np.where(front > 0, -0.5 * np.exp(-front / 0.5), 0.0)
    rim = np.exp(-((front / 0.12) ** 2)) * np.where(front > 0, 0.5, 1.0)
    pigment = float(-pool.sum()) / max(float(rim.sum()), 1e-6)
    return np.asarray(pool + pigment * rim, np.float32)
