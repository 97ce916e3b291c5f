"""What objects are made of, with reflectances that a survey would find (common practice). Names are what people dress them by."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import srgb_encode
from valleylight.core.making import textures as t
from valleylight.core.making.glb import Model, Surface

Picture = NDArray[np.uint8]


@lru_cache(maxsize=16)
def _wood(seed: int, dark: tuple[int, int, int], light: tuple[int, int, int]) -> Picture:
    return t.wood(seed, dark, light, 512)


@lru_cache(maxsize=16)
def _cloth(seed: int, base: tuple[int, int, int]) -> tuple[Picture, Picture]:
    return t.cloth(seed, base, 256)


@lru_cache(maxsize=16)
def _spray(seed: int, dark: tuple[int, int, int], light: tuple[int, int, int]) -> Picture:
    return t.leaf_spray(seed, dark, light, 128)


def _woven(name: str, seed: int, base: tuple[int, int, int], tile: float = 0.12) -> Callable[[], Surface]:
    def make() -> Surface:
        colour, relief = _cloth(seed, base)
        return Surface(name, roughness=0.9, specular=0.3, texture=colour, relief=relief, texture_m=tile)

    return make


def _timber(
    name: str, seed: int, dark: tuple[int, int, int], light: tuple[int, int, int], rough: float
) -> Callable[[], Surface]:
    return lambda: Surface(name, roughness=rough, texture=_wood(seed, dark, light), texture_m=1.0)


def _plain(name: str, base: tuple[float, float, float], roughness: float, **more: Any) -> Callable[[], Surface]:
    return lambda: Surface(name, base, roughness=roughness, **more)


def _leafy(name: str, seed: int, dark: tuple[int, int, int], light: tuple[int, int, int]) -> Callable[[], Surface]:
    def make() -> Surface:
        return Surface(
            name, roughness=0.6, specular=0.6, translucency=0.4, texture=_spray(seed, dark, light), cut_out=True
        )

    return make


@lru_cache(maxsize=2)
def _face(seed: int) -> tuple[Picture, Picture]:
    return t.stone_face(seed, 512)


def _stone(name: str, tint: tuple[float, float, float]) -> Callable[[], Surface]:
    def make() -> Surface:
        colour, relief = _face(2)
        return Surface(name, tint, roughness=0.92, specular=0.35, texture=colour, relief=relief, texture_m=1.2)

    return make


def _toned(name: str, dark: tuple[float, float, float], light: tuple[float, float, float]) -> Callable[[], Surface]:
    """Leaves of which each has its own tone between two (linear RGB)."""

    def make() -> Surface:
        strip = srgb_encode(np.linspace(dark, light, 32))[None].repeat(4, 0) * 255
        return Surface(name, roughness=0.55, specular=0.6, translucency=0.4, texture=t.to_bytes(strip))

    return make


_ALL: dict[str, Callable[[], Surface]] = {
    "oak": _timber("Oak", 3, (128, 92, 58), (186, 148, 104), 0.45),
    "ash": _timber("Ash", 4, (176, 148, 110), (214, 190, 156), 0.5),
    "walnut": _timber("Walnut", 5, (62, 42, 30), (110, 78, 56), 0.42),
    "grey timber": _timber("Grey timber", 6, (104, 100, 94), (152, 148, 140), 0.8),
    "linen": _woven("Linen, oat", 11, (188, 178, 158)),
    "wool": _woven("Wool, moss", 12, (96, 102, 78)),
    "blue wool": _woven("Wool, slate blue", 13, (78, 92, 108)),
    "rug": _woven("Rug, flat woven", 14, (150, 120, 92), 0.3),
    "heavy cloth": _woven("Curtain, heavy", 15, (122, 108, 96), 0.2),
    "sheer": _plain("Curtain, sheer", (0.8, 0.8, 0.78), 0.9, specular=0.0, translucency=0.65),
    "steel": _plain("Steel, blackened", (0.05, 0.05, 0.052), 0.4, specular=1.0),
    "brushed": _plain("Steel, brushed", (0.55, 0.55, 0.54), 0.35, metal=1.0),
    "brass": _plain("Brass", (0.78, 0.57, 0.28), 0.28, metal=1.0),
    "lacquer": _plain("Lacquer, off-white", (0.72, 0.71, 0.68), 0.25),
    "paint": _plain("Paint, dark green", (0.035, 0.07, 0.05), 0.3),
    "glaze": _plain("Glaze, chalk", (0.68, 0.66, 0.62), 0.2),
    "dark glaze": _plain("Glaze, ink", (0.06, 0.07, 0.09), 0.15),
    "clay": _plain("Terracotta", (0.42, 0.2, 0.12), 0.75, specular=0.3),
    "paper": _plain("Paper", (0.72, 0.7, 0.64), 0.9, specular=0.0),
    "book cloth": lambda: Surface("Book cloth", roughness=0.8, specular=0.4, texture=t.spines(7)),
    "shade": _plain("Lamp shade", (0.75, 0.71, 0.62), 0.9, specular=0.0, translucency=0.45),
    "stone": _plain("Stone, grey", (0.32, 0.31, 0.29), 0.85, specular=0.3),
    "pale stone": _plain("Stone, pale", (0.48, 0.46, 0.42), 0.85, specular=0.3),
    "wall stone": _stone("Wall stone", (0.9, 0.89, 0.87)),
    "warm wall stone": _stone("Wall stone, warm", (1.0, 0.9, 0.76)),
    "dark wall stone": _stone("Wall stone, dark", (0.74, 0.76, 0.79)),
    "wall coping": _stone("Wall coping", (1.0, 0.98, 0.94)),
    "mortar": lambda: Surface("Lime mortar", roughness=0.95, specular=0.2, texture=t.mortar(3, 256)[0], relief=t.mortar(3, 256)[1], texture_m=0.6),
    "slate cloth": _plain("Cloth, slate", (0.09, 0.12, 0.16), 0.95, specular=0.1),
    "ochre cloth": _plain("Cloth, ochre", (0.42, 0.26, 0.08), 0.95, specular=0.1),
    "rust cloth": _plain("Cloth, rust", (0.30, 0.1, 0.05), 0.95, specular=0.1),
    "moss cloth": _plain("Cloth, moss", (0.11, 0.14, 0.06), 0.95, specular=0.1),
    "chalk cloth": _plain("Cloth, chalk", (0.6, 0.58, 0.53), 0.95, specular=0.1),
    "charcoal cloth": _plain("Cloth, charcoal", (0.035, 0.036, 0.04), 0.95, specular=0.1),
    "wine cloth": _plain("Cloth, wine", (0.14, 0.025, 0.04), 0.95, specular=0.1),
    "pale skin": _plain("Skin, pale", (0.46, 0.29, 0.21), 0.7, specular=0.4),
    "olive skin": _plain("Skin, olive", (0.33, 0.19, 0.12), 0.7, specular=0.4),
    "brown skin": _plain("Skin, brown", (0.13, 0.07, 0.045), 0.7, specular=0.4),
    "dark hair": _plain("Hair, dark", (0.02, 0.015, 0.012), 0.5, specular=0.5),
    "brown hair": _plain("Hair, brown", (0.07, 0.04, 0.02), 0.5, specular=0.5),
    "grey hair": _plain("Hair, grey", (0.32, 0.31, 0.3), 0.6, specular=0.5),
    "fair hair": _plain("Hair, fair", (0.3, 0.2, 0.09), 0.5, specular=0.5),
    "shoe leather": _plain("Leather, dark", (0.04, 0.028, 0.02), 0.4),
    "matt": _plain("Figure, matt", (0.55, 0.53, 0.5), 0.9, specular=0.1),
    "car paint": _plain("Car body", (0.3, 0.31, 0.32), 0.25),
    "dark glass": _plain("Car glass", (0.03, 0.035, 0.04), 0.05),
    "rubber": _plain("Rubber", (0.035, 0.035, 0.035), 0.7, specular=0.4),
    "soil": _plain("Soil", (0.06, 0.045, 0.03), 0.95, specular=0.1),
    "bark": lambda: Surface("Bark", roughness=0.9, specular=0.2, texture=t.bark(21, 256), texture_m=0.8),
    "birch bark": _plain("Bark, birch", (0.62, 0.6, 0.56), 0.8, specular=0.3),
    "leaf": _leafy("Leaves, summer", 31, (34, 58, 20), (84, 116, 44)),
    "pale leaf": _leafy("Leaves, pale", 32, (66, 88, 36), (128, 146, 72)),
    "dark leaf": _leafy("Leaves, evergreen", 33, (22, 42, 20), (52, 78, 36)),
    "gold leaf": _leafy("Leaves, gold", 34, (150, 104, 24), (204, 158, 56)),
    "rust leaf": _leafy("Leaves, rust", 35, (110, 44, 18), (176, 84, 34)),
    "foliage": _toned("Foliage, summer", (0.035, 0.075, 0.014), (0.125, 0.19, 0.035)),
    "pale foliage": _toned("Foliage, pale", (0.06, 0.10, 0.02), (0.17, 0.23, 0.055)),
    "dark foliage": _toned("Foliage, dark", (0.018, 0.045, 0.012), (0.06, 0.10, 0.03)),
    "gold foliage": _toned("Foliage, gold", (0.30, 0.16, 0.02), (0.62, 0.38, 0.05)),
    "rust foliage": _toned("Foliage, rust", (0.16, 0.04, 0.012), (0.42, 0.14, 0.03)),
    "needles": _plain("Needles", (0.035, 0.06, 0.03), 0.7, specular=0.4, translucency=0.15),
    "grass": _plain("Grass blades", (0.11, 0.17, 0.05), 0.7, specular=0.4, translucency=0.35),
    "straw": _plain("Straw", (0.36, 0.3, 0.16), 0.8, specular=0.2, translucency=0.25),
    "meadow": lambda: Surface("Meadow", roughness=0.95, specular=0.2, texture=t.meadow(41, True, 512), texture_m=14.0),
    "stubble": lambda: Surface("Meadow, autumn", roughness=0.95, specular=0.2, texture=t.meadow(42, False, 512), texture_m=14.0),
    "far earth": _plain("Earth, open", (0.16, 0.12, 0.08), 0.95, specular=0.1),
    "far snow": _plain("Snow", (0.8, 0.81, 0.83), 0.9, specular=0.3),
    "petal": _plain("Petals, white", (0.7, 0.69, 0.64), 0.8, specular=0.1, translucency=0.35),
    "yellow petal": _plain("Petals, yellow", (0.65, 0.45, 0.03), 0.8, specular=0.1, translucency=0.35),
    "violet petal": _plain("Petals, violet", (0.24, 0.14, 0.4), 0.8, specular=0.1, translucency=0.35),
}  # fmt: skip


def use_leaves(model: Model, key: str, kind: str) -> str:
    """Put leaves of a kind into a model, which follow the year; their name, by which shapes are added."""
    surface = _ALL[key]()
    surface = replace(surface, name=f"{surface.name}, {kind}", leaf=kind)
    if surface.name not in model.surfaces:
        model.surface(surface)
    return surface.name


def use(model: Model, *keys: str) -> list[str]:
    """Put surfaces into a model; their names, by which shapes are added."""
    names = []
    for key in keys:
        surface = _ALL[key]()
        if surface.name not in model.surfaces:
            model.surface(surface)
        names.append(surface.name)
    return names
