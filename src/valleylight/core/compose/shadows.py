"""The shadows of cut-outs: of sun and lamps by the card turned to them, of the sky and under the feet by where they stand."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.compose import kernels
from valleylight.core.compose.card import Card
from valleylight.core.compose.ground import Array, SeenOfFilm
from valleylight.core.compose.light import Sunlight
from valleylight.core.compose.sprite import Sprite
from valleylight.core.treatments.run import in_bands

#: Reach of the dark under the feet, as a share of the height.
REACH = 0.045


@dataclass(frozen=True)
class Shade:
    """What shadows leave (H, W): of the light around, of what the feet touch, and of the straight light of sun and lamps by group. Cards multiply
    into it, so that some may be laid on what others have left."""

    around: Array
    touched: Array
    free: dict[str, Array]

    @classmethod
    def none(cls, size: tuple[int, int]) -> Shade:
        return cls(np.ones(size, np.float32), np.ones(size, np.float32), {})

    def copy(self) -> Shade:
        return Shade(self.around.copy(), self.touched.copy(), {name: left.copy() for name, left in self.free.items()})


def shaded(shade: Shade, seen: SeenOfFilm, cards: list[Card], sun: Sunlight | None) -> Shade:
    """Lay the shadows of cards into what others have left; returns it."""
    size, free = seen.depth.shape, shade.free
    around, touched = shade.around, shade.touched
    for c in cards:
        strength = c.cutout.cast * c.cutout.opacity
        _dim(seen, c, around, touched)
        if strength <= 0:
            continue
        if sun is not None and seen.sunlit is not None:
            card, sprite = c.facing(sun.towards)
            _shade(
                seen,
                card,
                sprite,
                sun.towards,
                sun.radius,
                False,
                strength,
                free.setdefault("sun", np.ones(size, np.float32)),
            )
        for lamp in c.light.lamps:
            place = np.array(lamp.place) - seen.origin
            card, sprite = c.towards(place)
            _shade(
                seen,
                card,
                sprite,
                place,
                lamp.radius_m,
                True,
                strength * lamp.share,
                free.setdefault(lamp.group, np.ones(size, np.float32)),
            )
    return shade


def shares_left(shade: Shade, seen: SeenOfFilm, cards: list[Card]) -> tuple[Array, ...]:
    """The share (H, W) of each group's light that is left by the shadows of all cards."""
    around, touched, free, names = shade.around, shade.touched, shade.free, seen.film.group_names
    straight = [c.light.straight for c in cards if c.light.straight > 0]
    dark = around * touched

    def of(name: str) -> Array:
        if name == "sun" and "sun" in free and seen.sunlit is not None and straight:
            # What the sun lights straight is not hidden by what hides the sky.
            share = seen.sunlit * np.float32(np.mean(straight))
            return np.asarray(touched * ((1 - share) * around + share * free[name]), np.float32)
        # A lamp's own share is in the strength that its shadow was laid with.
        return dark * free[name] if name in free else dark

    return tuple(of(name) for name in names)


def _dim(seen: SeenOfFilm, c: Card, around: Array, touched: Array) -> None:
    """What someone hides of the light around, and the dark under their feet."""
    own = c.cutout
    if own.cast <= 0 and own.contact <= 0:
        return
    card, sprite = c.towards(seen.lens)
    pieces = sprite.feet * own.height_m * (-1.0 if own.mirrored else 1.0)
    pieces = np.sort(pieces, axis=1) if len(pieces) else np.array([[-0.1, 0.1]]) * own.height_m
    away = np.linalg.norm(seen.balls[:, :3] - c.feet, axis=1) - seen.balls[:, 3]
    tiles = np.ascontiguousarray(seen.tiles[away < kernels.REACH_HEIGHTS * own.height_m + own.height_m])
    if len(tiles):
        in_bands(
            kernels.dim_tiles, len(tiles), tiles, seen.place, seen.normal, seen.depth, c.feet, sprite.half_width * own.height_m * max(own.cast, 1e-3),
            own.height_m, np.ascontiguousarray(pieces), card[kernels.ACROSS : kernels.ACROSS + 2].copy(), REACH * min(own.height_m, 2.0),
            own.contact * own.opacity, around, touched,
        )  # fmt: skip


def _shade(
    seen: SeenOfFilm,
    card: NDArray[np.float64],
    sprite: Sprite,
    source: NDArray[np.float64],
    size: float,
    near: bool,
    strength: float,
    free: Array,
) -> None:
    texels, levels = sprite.levels
    tiles = _in_the_way(seen, card, sprite, source, size, near)
    if len(tiles):
        in_bands(
            kernels.shade_tiles, len(tiles), tiles, seen.place, seen.depth, card, texels, levels, np.ascontiguousarray(source, np.float64),
            float(size), near, float(strength), free,
        )  # fmt: skip


def _in_the_way(
    seen: SeenOfFilm, card: NDArray[np.float64], sprite: Sprite, source: NDArray[np.float64], size: float, near: bool
) -> NDArray[np.int64]:
    """The tiles (N, 2) of which some place may lie in a card's shadow: those whose ball meets the card on its way to the light."""
    middle, radius = seen.balls[:, :3].astype(float), seen.balls[:, 3].astype(float)
    feet, across, faces = (card[k : k + 3] for k in (kernels.FEET, kernels.ACROSS, kernels.FACES))
    way = source - middle if near else np.broadcast_to(source, middle.shape)
    down = way @ faces
    with np.errstate(divide="ignore", invalid="ignore"):
        t = ((feet - middle) @ faces) / down
        at = middle + t[:, None] * way - feet
        # A place beside the middle of a ball meets the card beside it: by the slant of the light, and by how it spreads.
        length = np.linalg.norm(way, axis=1)
        slack = radius * (1 + length / np.abs(down)) * (np.maximum(1 - t, 0.05) if near else 1.0)
        blur = np.abs(t) * (size if near else math.tan(size))
    rows, columns = sprite.size
    wide = max(sprite.middle, columns - sprite.middle) * card[kernels.ROW_M]
    tall = rows * card[kernels.ROW_M]
    reached = (t > -slack / np.maximum(length, 1e-9)) & (np.abs(at @ across) < wide + slack + blur)
    reached &= (at[:, 2] > -slack - blur) & (at[:, 2] < tall + slack + blur)
    # Close to the light's own plane nothing can be told of a ball: its places are asked.
    reached |= np.abs(down) * radius < 1e-3 if near else False
    return np.ascontiguousarray(seen.tiles[reached | (near & (np.abs(down) < 2 * radius))])
