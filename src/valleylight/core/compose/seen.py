"""Where cut-outs are seen in a picture, how far and how high they are by the horizon, and what does not fit their light."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.compose.sprite import Sprite
from valleylight.core.project.cutout import CutOut
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.camera import project_point

#: How much one side of a picture must be lighter than the other to say where its light came from.
ONE_SIDED = 0.12


@dataclass(frozen=True)
class Standing:
    """A cut-out in the picture, places 0 to 1 from the left and from the top: its feet and its edges; `distance_m` from the lens;
    `eye_m`, the height at which the horizon cuts it, which is that of the lens over its ground; and in `words` what is amiss."""

    key: str
    feet: tuple[float, float]
    left: float
    top: float
    right: float
    distance_m: float
    eye_m: float
    words: tuple[str, ...]


def standing(
    cutout: CutOut,
    sprite: Sprite,
    camera: NDArray[np.float64],
    origin: NDArray[np.float64],
    sun: NDArray[np.float64] | None,
) -> Standing | None:
    """Where a cut-out stands in the picture of a lens (its record about `origin`); None behind the lens. `sun` points to the sun."""
    lens = camera[layout.three(layout.CAMERA_PLACE)]
    feet = np.array(cutout.place) - origin
    way = (lens - feet)[:2]
    far = float(np.hypot(*way))
    if far < 1e-6:
        return None
    across = np.array([-way[1], way[0], 0.0]) / far
    rows, columns = sprite.size
    metres = cutout.height_m / rows
    sides = (-sprite.middle * metres, (columns - sprite.middle) * metres)
    sides = (-sides[1], -sides[0]) if cutout.mirrored else sides
    spots = [
        project_point(camera, feet + side * across + [0, 0, up])
        for side in (0.0, *sides)
        for up in (0.0, cutout.height_m)
    ]
    if any(s is None for s in spots):
        return None
    (fx, fy), _ = spots[0], spots[1]  # type: ignore[misc]
    x = [s[0] for s in spots if s is not None]
    y = [s[1] for s in spots if s is not None]
    return Standing(
        cutout.key, (fx, fy), min(x), min(y), max(x), float(np.linalg.norm(lens - feet)), float(lens[2] - feet[2]),
        tuple(_words(cutout, sprite, across, sun)),
    )  # fmt: skip


def lit_from(sprite: Sprite) -> float:
    """From which side the light of a picture came: -1 the left alone, 1 the right alone; about 0 where it tells nothing.

    The luminance of its left and right halves, by alpha, over their sum: a round body turned to the light is lighter on that side
    (common practice). A picture whose normals are known holds no light of its own.
    """
    if sprite.modelled:
        return 0.0
    luminance = sprite.texels[..., :3] @ np.array([0.2126, 0.7152, 0.0722], np.float32)
    middle = int(np.clip(sprite.middle, 1, sprite.size[1] - 1))
    halves = []
    for part in (slice(None, middle), slice(middle, None)):
        alpha = float(sprite.alpha[:, part].sum())
        halves.append(float(luminance[:, part].sum()) / max(alpha, 1e-6))
    left, right = halves
    return (right - left) / max(left + right, 1e-6)


def _words(cutout: CutOut, sprite: Sprite, across: NDArray[np.float64], sun: NDArray[np.float64] | None) -> list[str]:
    words = []
    own = lit_from(sprite) * (-1 if cutout.mirrored else 1)
    if sun is not None and abs(own) > ONE_SIDED:
        side = float(sun @ across) / max(math.hypot(sun[0], sun[1]), 1e-9)
        if abs(side) > 0.25 and side * own < 0:
            names = ("left", "right") if side > 0 else ("right", "left")
            words.append(f"It is lit from the {names[0]}, the sun stands to the {names[1]}: mirror it?")
    return words
