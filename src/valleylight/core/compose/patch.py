"""A cut-out as the lens sees it: what is not hidden of its card, in the light of its place, and its reflection in a level mirror."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import srgb_decode
from valleylight.core.compose import kernels
from valleylight.core.compose.card import Card
from valleylight.core.compose.ground import Array, SeenOfFilm
from valleylight.core.compose.light import AXES, HEIGHTS, Sunlight, Veil
from valleylight.core.compose.sprite import Sprite
from valleylight.core.project.cutout import CutOut
from valleylight.core.trace.arrays.camera import project_point

#: A card may lie so far behind the ground it stands on, in m and as a share of its distance, and still be seen.
SLACK_M, SLACK_SHARE = 0.04, 0.002
WATER_INDEX = 1.33
#: Ripples throw a reflection so far aside, as a share of its height.
RIPPLES = 0.25
NO_MIRROR = np.zeros((1, 1), np.float32)


@dataclass(frozen=True)
class Patch:
    """A part of a picture that begins at (left, top): alpha (h, w), light times alpha (h, w, G, 3) in cd/m2 and distance (h, w) in m;
    `behind` is the share of what it covers that it takes away (a reflection takes the mirror's alone)."""

    left: int
    top: int
    alpha: Array
    light: Array
    depth: Array | None
    behind: Array


def pictured(seen: SeenOfFilm, c: Card, sun: Sunlight | None, veil: Veil) -> list[Patch]:
    """A card as it is seen, after its reflection in the mirror."""
    card, sprite = c.towards(seen.lens)
    found, mirror = [], seen.mirror
    if mirror is not None and c.feet[2] + seen.origin[2] > mirror[0] - 0.3:
        part = _laid_part(seen, card, sprite, c, mirror[0] - float(seen.origin[2]), mirror[1])
        if part is not None:
            left, top, laid_ = part
            rows, across = slice(top, top + len(laid_)), slice(left, left + laid_.shape[1])
            share = mirror[1][rows, across]
            mirrored = laid_[..., 3] * (share > 0)
            light = (
                _lit(seen, c, card, laid_, sun, veil) * (_fresnel(seen, rows, across) * (share > 0))[..., None, None]
            )
            found.append(Patch(left, top, mirrored, light, None, mirrored * share))
    part = _laid_part(seen, card, sprite, c, None, NO_MIRROR)
    if part is not None:
        left, top, laid_ = part
        far = np.asarray(laid_[..., kernels.LAID_DEPTH] / np.maximum(laid_[..., 3], 1e-6), np.float32)
        # What fog lies before it leaves the picture as it is there, which far off is the fog's own light.
        covers = np.asarray(laid_[..., 3] * c.cutout.opacity * veil.through_fog(far), np.float32)
        sent = _lit(seen, c, card, laid_, sun, veil) * np.float32(c.cutout.opacity)
        found.append(Patch(left, top, covers, sent, far, covers))
    return found


def _laid_part(
    seen: SeenOfFilm, card: NDArray[np.float64], sprite: Sprite, c: Card, mirror_z: float | None, mirror: Array
) -> tuple[int, int, Array] | None:
    """Left, top and what is laid (h, w, LAID) of a card; None where nothing of it is seen."""
    height, width = seen.depth.shape
    _, cols = sprite.size
    wide = max(sprite.middle, cols - sprite.middle) * card[kernels.ROW_M]
    corners = []
    for side in (-wide, wide):
        for up in (0.0, c.cutout.height_m):
            at = c.feet + side * card[kernels.ACROSS : kernels.ACROSS + 3] + [0, 0, up]
            if mirror_z is not None:
                at[2] = 2 * mirror_z - at[2]
            spot = project_point(seen.camera, at)
            corners.append((math.nan, math.nan) if spot is None else (spot[0] * width, spot[1] * height))
    x, y = np.array(corners).T
    behind = np.isnan(x)
    if behind.all():
        return None
    if behind.any():  # part of it lies behind the lens: it may be seen anywhere
        x, y = np.array([0.0, width]), np.array([0.0, height])
    if mirror_z is not None:
        reach = RIPPLES * float(y.max() - y.min())
        x, y = np.array([x.min() - reach, x.max() + reach]), np.array([y.min() - reach, y.max() + reach])
    left, right = max(int(x.min()) - 1, 0), min(int(x.max()) + 2, width)
    top, bottom = max(int(y.min()) - 1, 0), min(int(y.max()) + 2, height)
    if right <= left or bottom <= top:
        return None
    out = np.zeros((bottom - top, right - left, kernels.LAID), np.float32)
    slack = SLACK_M + SLACK_SHARE * float(np.linalg.norm(c.feet - seen.lens))
    kernels.lay_rows(
        seen.camera,
        width,
        height,
        card,
        *sprite.levels,
        seen.depth,
        slack,
        left,
        top,
        mirror,
        seen.place,
        seen.normal,
        out,
        0,
        len(out),
    )
    return (left, top, out) if out[..., 3].any() else None


def _lit(seen: SeenOfFilm, c: Card, card: NDArray[np.float64], laid_: Array, sun: Sunlight | None, veil: Veil) -> Array:
    """Light times alpha (h, w, G, 3) in cd/m2 that a card sends to the lens: L = colour E(n) / pi for a matt body, with E from the
    cards measured about it, weighed by the squares of the normal's parts (G. McTaggart, the ambient cube, GDC 2004), and the sun's own; then
    through the air before it."""
    own, there = c.cutout, c.light
    some = laid_[..., 3] > 0
    spots = laid_[some]  # (N, LAID)
    alpha = spots[:, 3:4]
    colour, facing = spots[:, :3], spots[:, 4:7] / alpha
    if own.manner != "lit":
        colour = alpha * _tone(own)
    across, faces = card[kernels.ACROSS : kernels.ACROSS + 3], card[kernels.FACES : kernels.FACES + 3]
    turned = facing * np.array([-1 if own.mirrored else 1, 1, 1], np.float32)
    normal = turned @ np.array([across, [0.0, 0.0, 1.0], faces], np.float32)
    normal /= np.maximum(np.linalg.norm(normal, axis=-1, keepdims=True), 1e-6)
    height = spots[:, kernels.LAID_HEIGHT] / alpha[:, 0]
    steps = np.stack([np.interp(height, HEIGHTS, row) for row in np.eye(len(HEIGHTS))], -1).astype(np.float32)
    sides = np.maximum(normal @ AXES.T.astype(np.float32), 0) ** 2
    if own.manner == "wash":  # flat: lit as one piece
        sides[:] = np.array([1, 1, 1, 1, 1.2, 0.8], np.float32) / 6
    groups, names = there.around.shape[2], seen.film.group_names
    illuminance = (steps[:, :, None] * sides[:, None, :]).reshape(len(spots), -1) @ there.around.reshape(
        -1, groups * 3
    ).astype(np.float32)
    illuminance = illuminance.reshape(len(spots), groups, 3)
    if sun is not None and "sun" in names:
        shines = np.full(len(spots), 0.4) if own.manner == "wash" else np.maximum(normal @ sun.towards, 0)
        shines = shines * np.interp(height, HEIGHTS, there.sun)
        illuminance[:, names.index("sun")] += (shines[:, None] * sun.normal_lx).astype(np.float32)
    level = np.float32(2.0**own.level_stops / math.pi)
    through = veil.through_fog(spots[:, kernels.LAID_DEPTH] / alpha[:, 0])
    let_by, added = veil.clear_air(c.feet - seen.lens)
    light = np.zeros((*some.shape, groups, 3), np.float32)
    sent = colour[:, None] * illuminance * level * let_by.astype(np.float32)
    if "sky" in names:
        sent[:, names.index("sky")] += alpha * added.astype(np.float32)
    light[some] = sent * through[:, None, None]
    return light


def _tone(own: CutOut) -> Array:
    if own.manner == "silhouette":
        return np.full(3, 0.012, np.float32)
    code = np.array([int(own.tone[k : k + 2], 16) for k in (1, 3, 5)]) / 255.0
    return np.asarray(srgb_decode(code), np.float32)


def _fresnel(seen: SeenOfFilm, rows: slice, across: slice) -> Array:
    """Reflectance (h, w) of level water at the angle of each sight, by Fresnel's equations for unpolarised light (M. Born, E. Wolf,
    Principles of Optics, 1.5.2)."""
    away = seen.lens - seen.place[rows, across]
    cosine = np.clip(away[..., 2] / np.maximum(np.linalg.norm(away, axis=-1), 1e-6), 1e-4, 1)
    inside = np.sqrt(1 - (1 - cosine**2) / WATER_INDEX**2)
    across_ = (cosine - WATER_INDEX * inside) / (cosine + WATER_INDEX * inside)
    along = (WATER_INDEX * cosine - inside) / (WATER_INDEX * cosine + inside)
    return np.asarray((across_**2 + along**2) / 2, np.float32)
