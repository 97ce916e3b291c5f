"""Cut-outs laid into a picture: each in the light of its place, behind what stands nearer, with its shadows under it.

What is laid is worked out once for a film's passes, per light group, and then taken to whatever is made of the film: the pictures of its
groups (`on_film`), or a balanced sum (`on_sum`). So cut-outs and their shadows follow the levels of lights as all else does.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter

from valleylight.core.compose.card import Card, Looks
from valleylight.core.compose.ground import FEW, Array, SeenOfFilm
from valleylight.core.compose.light import LightThere, Sunlight, Veil
from valleylight.core.compose.patch import Patch, pictured
from valleylight.core.compose.shadows import shadows_of
from valleylight.core.film import columns
from valleylight.core.film.film import MASK_RANKS, Film, Level, rgb_of
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
        made = np.asarray(linear * _shares(film, factors, self.kept), np.float32)
        for p in self.patches:
            _over(made, p, np.einsum("hwgc,gc->hwc", p.light, factors))
        return made

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


def _shares(film: Film, factors: Array, kept: Sequence[Array]) -> Array:
    """What shadows leave of a balanced picture (H, W, 3): the groups' shares, by their light, averaged over a few pixels while that is
    noisy."""
    if all(k is kept[0] for k in kept[1:]):
        return kept[0][..., None]
    left = np.zeros((*kept[0].shape, 3), np.float32)
    whole = np.zeros_like(left)
    for picture, factor, share in zip(film.groups.values(), factors, kept, strict=True):
        light = picture * factor
        if film.samples < FEW:
            light = uniform_filter(light, (7, 7, 0))
        whole += light
        left += light * share[..., None]
    return np.asarray(left / np.maximum(whole, 1e-9), np.float32)


def laid(
    seen: SeenOfFilm,
    cutouts: Sequence[CutOut],
    lights: Sequence[LightThere],
    looks: Looks,
    sun: Sunlight | None,
    veil: Veil = CLEAR,
) -> Laid:
    """What cut-outs do to a film's picture. `lights` is what was measured at each cut-out, `looks` gives their sprites; `veil` is the
    air before what is far."""
    film, camera, origin = seen.film, seen.camera, seen.origin
    cards = [
        Card(c, there, np.array(c.place) - origin, looks) for c, there in zip(cutouts, lights, strict=True)
    ]  # fmt: skip
    cards.sort(key=lambda c: -float(np.linalg.norm(c.feet - camera[layout.three(layout.CAMERA_PLACE)])))
    kept = shadows_of(seen, cards, sun)
    patches: list[Patch] = []
    for made in together(lambda c: pictured(seen, c, sun, veil), cards):
        patches += made
    return Laid(kept, tuple(patches), film.group_names)
