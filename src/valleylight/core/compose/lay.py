"""Cut-outs laid into a picture: each in the light of its place, behind what stands nearer, with its shadows under it.

What is laid is worked out once for a film's passes, per light group, and then taken to whatever is made of the film: the pictures of its
groups (`on_film`), or a balanced sum (`on_sum`). So cut-outs and their shadows follow the levels of lights as all else does.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter

from valleylight.core.compose.card import Card, Looks
from valleylight.core.compose.ground import FEW, Array, SeenOfFilm
from valleylight.core.compose.light import LightThere, Sunlight, Veil
from valleylight.core.compose.patch import Patch, pictured
from valleylight.core.compose.shadows import Shade, shaded, shares_left
from valleylight.core.film import columns
from valleylight.core.film.film import MASK_RANKS, ROWS_AT_ONCE, Film, Level, rgb_of
from valleylight.core.project.cutout import CutOut
from valleylight.core.together import together
from valleylight.core.trace.arrays import layout

CLEAR = Veil()
OWN_NAME = "Cut-outs"


@dataclass(frozen=True)
class Laid:
    """What cut-outs do to a picture. `kept` holds for each group the share (H, W) of its light that their shadows leave; groups whose
    light casts none share one."""

    kept: tuple[Array, ...]
    patches: tuple[Patch, ...]
    group_names: tuple[str, ...]
    #: The groups' shares of the light of a balanced picture, by the factors it is balanced with; kept from one laying to the next.
    weights: dict[bytes, tuple[Array, ...]] = field(default_factory=dict)

    def on_film(self, film: Film) -> Film:
        """The film with everything laid on its groups' pictures, its distances and its masks; the film itself is left alone."""
        clean = {}
        for g, (name, picture) in enumerate(film.groups.items()):
            made = np.asarray(picture * self.kept[g][..., None], np.float32)
            for p in self.patches:
                _over(made, p, p.light[:, :, g])
            clean[name] = made
        return self.on_passes(replace(film, clean=clean))

    def on_sum(self, linear: Array, film: Film, gains: Mapping[str, Level]) -> Array:
        """The same on a balanced picture (H, W, 3), of whose groups the film tells the shares."""
        factors = np.array([rgb_of(gains.get(name, 1.0)) for name in film.group_names], np.float32)
        made = np.asarray(linear * self._left(film, factors), np.float32)
        for p in self.patches:
            _over(made, p, np.einsum("hwgc,gc->hwc", p.light, factors))
        return made

    def _left(self, film: Film, factors: Array) -> Array:
        """What shadows leave of a balanced picture (H, W, 3): what they leave of the groups, by the groups' shares."""
        if all(k is self.kept[0] for k in self.kept[1:]):
            return self.kept[0][..., None]
        key = factors.tobytes()
        if key not in self.weights:
            self.weights.clear()
            self.weights[key] = _weights(film, factors)
        left = np.zeros((*self.kept[0].shape, 3), np.float32)

        def add(top: int) -> None:
            rows = slice(top, top + ROWS_AT_ONCE)
            for weight, share in zip(self.weights[key], self.kept, strict=True):
                left[rows] += weight[rows] * share[rows, :, None]

        together(add, range(0, len(left), ROWS_AT_ONCE))
        return left

    def on_passes(self, film: Film) -> Film:
        """The film whose distances and masks know the cut-outs."""
        solid = [p for p in self.patches if p.depth is not None]
        if not solid:
            return film
        passes, masks = film.auxiliary.copy(), film.masks.copy()
        objects, surfaces = film.mask_names
        number = len(objects) + 1
        for p in solid:
            assert p.depth is not None
            rows = slice(p.top, p.top + p.alpha.shape[0])
            part = slice(p.left, p.left + p.alpha.shape[1])
            there = p.alpha > 0.5
            counts = film.counts[rows, part][there]
            far = p.depth[there]
            at = passes[rows, part]
            old = at[there]
            sight = film.settings.get("camera")
            if sight is not None:
                ways = _sights(np.asarray(sight), film.size, p)[there]
                old[:, columns.POSITION] = (np.asarray(sight)[:3] + ways * far[:, None]) * counts[:, None]
                old[:, columns.NORMAL] = -ways * counts[:, None]  # a card faces the lens
            old[:, columns.PASS_DEPTH], old[:, columns.PASS_HITS] = far * counts, counts
            old[:, columns.PASS_BEYOND] = 0.0
            at[there] = old
            if masks.size:
                held = masks[rows, part, 0]
                mine = np.zeros((int(there.sum()), MASK_RANKS, 2), np.float32)
                mine[:, 0, 0], mine[:, 0, 1] = number, counts
                held[there] = mine
        return replace(film, auxiliary=passes, masks=masks, mask_names=((*objects, OWN_NAME), surfaces))


def _over(picture: Array, p: Patch, light: Array) -> None:
    """Porter and Duff's `over`: what is laid, and what it leaves of what was there."""
    part = picture[p.top : p.top + p.alpha.shape[0], p.left : p.left + p.alpha.shape[1]]
    part *= (1 - p.behind)[..., None]
    part += light


def _sights(camera: NDArray[np.float64], size: tuple[int, int], p: Patch) -> NDArray[np.float64]:
    """Directions of length 1 (h, w, 3) of the sights through a patch's pixels."""
    width, height = size
    rows, across = p.alpha.shape
    x = (2 * (p.left + np.arange(across) + 0.5) / width - 1) * camera[layout.CAMERA_HALF_WIDTH] + camera[
        layout.CAMERA_SHIFT_X
    ]
    y = (1 - 2 * (p.top + np.arange(rows) + 0.5) / height) * camera[layout.CAMERA_HALF_HEIGHT] + camera[
        layout.CAMERA_SHIFT_Y
    ]
    ways = (
        camera[layout.three(layout.CAMERA_FORWARD)]
        + x[None, :, None] * camera[layout.three(layout.CAMERA_RIGHT)]
        + y[:, None, None] * camera[layout.three(layout.CAMERA_UP)]
    )
    return np.asarray(ways / np.linalg.norm(ways, axis=-1, keepdims=True))


def _weights(film: Film, factors: Array) -> tuple[Array, ...]:
    """The share (H, W, 3) that each group has of the light of a balanced picture, averaged over a few pixels while that is noisy."""
    lights = []
    for picture, factor in zip(film.groups.values(), factors, strict=True):
        light = picture * factor
        lights.append(uniform_filter(light, (7, 7, 0)) if film.samples < FEW else light)
    whole = np.maximum(np.sum(lights, axis=0), 1e-9)
    return tuple(np.asarray(light / whole, np.float32) for light in lights)


@dataclass
class Memory:
    """What was laid last, so that of many cut-outs only those are laid anew that have changed: one that is carried, mostly."""

    seen: SeenOfFilm | None = None
    patches: dict[str, tuple[CutOut, LightThere, list[Patch]]] = field(default_factory=dict)
    #: The shadows of those that stood still, and whose they are.
    shade: Shade | None = None
    shaded: frozenset[str] = frozenset()
    weights: dict[bytes, tuple[Array, ...]] = field(default_factory=dict)

    def stands(self, card: Card) -> bool:
        """Whether a card is what it was when it was laid last."""
        was = self.patches.get(card.cutout.key)
        return was is not None and was[1] is card.light and was[0] == card.cutout

    def of(self, seen: SeenOfFilm) -> Memory:
        """What is remembered of a film; nothing where it is another."""
        return self if self.seen is seen else Memory(seen)


def laid(
    seen: SeenOfFilm,
    cutouts: Sequence[CutOut],
    lights: Sequence[LightThere],
    looks: Looks,
    sun: Sunlight | None,
    veil: Veil = CLEAR,
    before: Memory | None = None,
) -> tuple[Laid, Memory]:
    """What cut-outs do to a film's picture, and what is to be remembered of it for the next time (`before`). `lights` is what was measured
    at each cut-out, `looks` gives their sprites; `veil` is the air before what is far."""
    film, camera, origin = seen.film, seen.camera, seen.origin
    cards = [
        Card(c, there, np.array(c.place) - origin, looks) for c, there in zip(cutouts, lights, strict=True)
    ]  # fmt: skip
    cards.sort(key=lambda c: -float(np.linalg.norm(c.feet - camera[layout.three(layout.CAMERA_PLACE)])))
    memory = (before or Memory()).of(seen)
    stand = [c for c in cards if memory.stands(c)] if memory.patches else cards
    standing = frozenset(c.cutout.key for c in stand)
    base = memory.shade
    if base is None or memory.shaded != standing:
        base = shaded(Shade.none(seen.depth.shape), seen, stand, sun)
    moved = [c for c in cards if c.cutout.key not in standing]
    shade = shaded(base.copy(), seen, moved, sun) if moved else base
    known = {c.cutout.key: memory.patches[c.cutout.key] for c in cards if memory.stands(c)}
    fresh = [c for c in cards if c.cutout.key not in known]
    for c, found in zip(fresh, together(lambda c: pictured(seen, c, sun, veil), fresh), strict=True):
        known[c.cutout.key] = (c.cutout, c.light, found)
    patches = tuple(p for c in cards for p in known[c.cutout.key][2])
    left = shares_left(shade, seen, cards)
    return Laid(left, patches, film.group_names, memory.weights), Memory(seen, known, base, standing, memory.weights)
