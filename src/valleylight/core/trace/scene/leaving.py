"""Leaves by the date: colour from their pigments, and how many of them are on the tree."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple, cast

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import srgb_decode, srgb_encode
from valleylight.core.project.description import Occasion, Site
from valleylight.core.project.surface import LeafKind
from valleylight.core.season.leaf import INDEX, face, optics, sward
from valleylight.core.season.year import KINDS, WITHERED, Leaves, leaves
from valleylight.core.stage.model import Material, Texture
from valleylight.core.trace.weather.layers import KINDS as LAYER_KINDS

#: Share of dead leaves in a sward, and what its gaps leave of its light (common practice).
SWARD_DEAD, SWARD_CLOSED = 0.14, 0.8


def leaves_at(kind: LeafKind, occasion: Occasion, site: Site) -> Leaves:
    """Leaves of a kind at an occasion, on its day or that on which they are held."""
    planting = occasion.planting
    day = planting.held.get(kind, occasion.when.timetuple().tm_yday)
    return leaves(kind, day, site.latitude_deg, site.elevation_m, planting.early_days)


class Litter(NamedTuple):
    """Leaves on the ground: which kind each material is (M,), -1 for none; and of each kind the share that has fallen (KINDS,) and
    its colour there in linear RGB (KINDS, 3)."""

    kind_of: NDArray[np.int64]
    share: NDArray[np.float64]
    colour: NDArray[np.float64]

    @property
    def lies(self) -> bool:
        return bool(self.share.any())


def litter_of(materials: Sequence[Material], occasion: Occasion, site: Site) -> Litter:
    """Litter of an occasion."""
    kinds: dict[LeafKind, int] = {}
    kind_of = np.full(len(materials), -1)
    share, colour = np.zeros(LAYER_KINDS), np.zeros((LAYER_KINDS, 3))
    if not occasion.planting.by_date:
        return Litter(kind_of, share, colour)
    for number, m in enumerate(materials):
        if m.leaf not in KINDS or (m.leaf not in kinds and len(kinds) == LAYER_KINDS):
            continue
        slot = kinds.setdefault(m.leaf, len(kinds))
        found = leaves_at(m.leaf, occasion, site)
        reflected, _ = optics(found.pigments.mixed(WITHERED, 0.25))
        kind_of[number], share[slot], colour[slot] = slot, found.fallen, np.maximum(reflected - face(INDEX), 0.01)
    return Litter(kind_of, share, colour)


def year_of(kind: LeafKind, occasion: Occasion, site: Site, step: int = 5) -> list[tuple[str, float]]:
    """Colour in sRGB hex of the leaves of a kind, and the share of them on the tree, every so many days of the year."""
    found = []
    for day in range(1, 367, step):
        now = leaves(kind, day, site.latitude_deg, site.elevation_m, occasion.planting.early_days)
        reflected, passed = optics(now.pigments)
        codes = np.round(255 * srgb_encode(np.clip(reflected - face(INDEX) + 0.6 * passed, 0, 1))).astype(int)
        found.append(("#" + "".join(f"{c:02x}" for c in codes), round(now.share, 3)))
    return found


def in_leaf(
    materials: tuple[Material, ...], textures: Sequence[Texture], occasion: Occasion, site: Site
) -> tuple[Material, ...]:
    """Materials with leaves as the year has them; pictures keep their lights and darks and lose their colour to the pigments'."""
    if not occasion.planting.by_date:
        return materials
    return tuple(_leaved(m, textures, occasion, site) if m.leaf in KINDS else m for m in materials)


def _leaved(m: Material, textures: Sequence[Texture], occasion: Occasion, site: Site) -> Material:
    found = leaves_at(cast(LeafKind, m.leaf), occasion, site)
    reflected, passed = optics(found.pigments)
    reflected = np.maximum(reflected - face(INDEX), 0.002)  # the tracer lays a gloss over what is told
    # Grass that lets nothing by is a meadow seen as one surface: it stands for all the leaves that lie over each other in it, dead ones among them, and for the gaps between.
    solid = m.leaf == "grass" and m.translucency <= 0
    if solid:
        withered = np.maximum(optics(WITHERED)[0] - face(INDEX), 0.0)
        both = SWARD_CLOSED * ((1 - SWARD_DEAD) * sward(reflected, passed) + SWARD_DEAD * withered)
    else:
        both = reflected + passed
    mean = np.ones(3)
    if m.base_texture >= 0:
        alpha = textures[m.alpha_texture] if m.alpha_texture >= 0 else None
        mean = mean_of(textures[m.base_texture], alpha, m.alpha_cutoff)
    base = np.minimum(both, 0.98) / np.maximum(mean, 0.01)
    through = 0.0 if solid else float(passed.sum() / max(both.sum(), 1e-6))
    return replace(
        m, base=(float(base[0]), float(base[1]), float(base[2])), translucency=through, through_tint=None,
        leaves=1.0 if solid else found.share, sward=solid,
    )  # fmt: skip


_means: dict[tuple[int, int], tuple[Texture, Texture | None, NDArray[np.float64]]] = {}


def mean_of(texture: Texture, alpha: Texture | None, cutoff: float) -> NDArray[np.float64]:
    """Mean colour (3,) in linear RGB of a picture where it is not cut out; the last few are kept."""
    key = (id(texture), id(alpha))
    if key not in _means or _means[key][0] is not texture:
        picture = srgb_decode(texture.pixels.astype(float) / 255)
        kept = np.ones(picture.shape[:2], bool)
        if alpha is not None and alpha.pixels.shape[:2] == kept.shape:
            kept = alpha.pixels[..., 0] / 255 >= cutoff
        mean = picture[kept].mean(0) if kept.any() else picture.reshape(-1, 3).mean(0)
        if len(_means) > 64:
            _means.clear()
        _means[key] = (texture, alpha, mean)  # kept with its textures, so that their numbers stay their own
    return _means[key][2]
