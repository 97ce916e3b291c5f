"""The demo's materials, with reflectances a survey would find (common practice)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.making import textures as t
from valleylight.core.making.glb import Model, Surface
from valleylight.core.project.surface import Surface as Made
from valleylight.demo.landscape import pictures

#: Kinds of leaves in the valley that follow the year.
LEAVES = ("lime", "maple", "birch", "beech", "alder", "willow", "apple", "rowan", "hazel", "larch")


def _ramp(dark: tuple[int, int, int], light: tuple[int, int, int]) -> NDArray[np.uint8]:
    """A strip of tones for leaves and blades, picked by u."""
    return t.to_bytes(np.linspace(dark, light, 32)[None].repeat(4, 0))


def add_surfaces(model: Model) -> None:
    add = model.surface
    lime, lime_relief = t.limewash(1)
    flag, flag_relief = t.flagstone(4)
    grit, grit_relief = t.gravel(6)
    wool, weave = t.cloth(8, (112, 108, 96))
    oak = t.wood(20, (112, 78, 46), (186, 142, 94))
    old = t.wood(21, (74, 50, 32), (132, 96, 62))
    weathered = t.wood(22, (88, 84, 78), (150, 144, 134))
    slate = t.slate(9)
    add(
        Surface(
            "limewash",
            (0.97, 0.97, 0.97),
            0.95,
            specular=0.3,
            texture=lime,
            relief=lime_relief,
            relief_scale=0.5,
            texture_m=2.4,
        )
    )
    face, face_relief = t.stone_face(2)
    for name, tint in (
        ("stone", (0.9, 0.89, 0.87)),
        ("stone, warm", (1.0, 0.9, 0.76)),
        ("stone, dark", (0.74, 0.76, 0.79)),
    ):
        add(Surface(name, tint, 0.92, specular=0.35, texture=face, relief=face_relief, relief_scale=0.9, texture_m=1.5))
    mortar, mortar_relief = t.mortar(3)
    add(Surface("mortar", (1, 1, 1), 0.96, specular=0.2, texture=mortar, relief=mortar_relief, texture_m=0.8))
    add(
        Surface(
            "dressed stone",
            (1.0, 0.98, 0.94),
            0.85,
            specular=0.5,
            texture=flag,
            relief=flag_relief,
            relief_scale=0.6,
            texture_m=1.6,
        )
    )
    add(
        Surface(
            "flagstone", (0.92, 0.92, 0.92), 0.65, texture=flag, relief=flag_relief, relief_scale=0.8, texture_m=1.3
        )
    )
    add(
        Surface(
            "flagstone, pale", (1, 0.99, 0.96), 0.7, texture=flag, relief=flag_relief, relief_scale=0.8, texture_m=1.7
        )
    )
    for name, tint in (
        ("floor oak", (0.92, 0.88, 0.84)),
        ("floor oak, pale", (1, 0.98, 0.95)),
        ("floor oak, dark", (0.78, 0.74, 0.70)),
    ):
        add(Surface(name, tint, 0.38, texture=oak, texture_m=1.1))
    add(Surface("oak", (0.86, 0.82, 0.78), 0.5, texture=oak, texture_m=1.0))
    add(Surface("table oak", (0.82, 0.74, 0.66), 0.3, texture=oak, texture_m=1.2))
    add(Surface("chair oak", (0.6, 0.5, 0.42), 0.4, texture=oak, texture_m=0.7))
    add(Surface("old oak", (0.95, 0.92, 0.9), 0.75, texture=old, texture_m=1.3))
    add(
        Surface(
            "ceiling boards", (1, 0.97, 0.92), 0.7, texture=t.wood(23, (148, 112, 76), (206, 170, 126)), texture_m=1.6
        )
    )
    add(Surface("weathered timber", (0.9, 0.9, 0.9), 0.85, specular=0.5, texture=weathered, texture_m=1.0))
    add(Surface("wet timber", (0.34, 0.32, 0.29), 0.35, texture=weathered, texture_m=1.0))
    add(Surface("painted timber", (0.10, 0.115, 0.105), 0.45))
    add(Surface("lead", (0.12, 0.125, 0.13), 0.6))
    add(Surface("blackened steel", (0.045, 0.045, 0.047), 0.4))
    add(Surface("brass", (0.80, 0.60, 0.32), 0.25, metal=1.0))
    add(Surface("slate", (1, 1, 1), 0.55, texture=slate, texture_m=0.9))
    add(Surface("slate, warm", (1.12, 1.02, 0.94), 0.6, texture=slate, texture_m=1.1))
    add(Surface("gravel", (1, 1, 1), 0.95, specular=0.3, texture=grit, relief=grit_relief, texture_m=1.8))
    add(Surface("pond gravel", (0.62, 0.60, 0.54), 0.9, specular=0.3, texture=grit, relief=grit_relief, texture_m=1.3))
    add(Surface("terracotta", (0.42, 0.21, 0.13), 0.8))
    add(Surface("book cloth", (1, 1, 1), 0.7, texture=t.spines(10)))
    add(Surface("paper", (0.78, 0.75, 0.67), 0.9, specular=0.3))
    add(Surface("seat cloth", (0.26, 0.30, 0.24), 0.95, specular=0.2, relief=weave, texture_m=0.25))
    add(Surface("wool", (1, 1, 1), 0.95, specular=0.2, texture=wool, relief=weave, texture_m=0.35))
    add(Surface("wool, pale", (1.3, 1.0, 0.7), 0.95, specular=0.2, texture=wool, relief=weave, texture_m=0.3))
    add(Surface("rug", (1.1, 0.72, 0.55), 0.98, specular=0.1, texture=wool, relief=weave, texture_m=0.4))
    add(Surface("glaze", (0.72, 0.74, 0.72), 0.12))
    add(Surface("glaze, dark", (0.06, 0.10, 0.12), 0.15))
    add(Surface("wicker", (0.44, 0.32, 0.18), 0.8))
    add(Surface("twig", (0.16, 0.11, 0.07), 0.8))
    add(Surface("dry leaf", (0.50, 0.26, 0.09), 0.7, translucency=0.3))
    add(Surface("window glass", (0.97, 0.985, 0.975), 0.0, transmission=1.0))
    for name, tint in (("amber glass", (0.90, 0.56, 0.16)), ("pale glass", (0.88, 0.90, 0.80)), ("blue glass", (0.22, 0.42, 0.70)),
                       ("green glass", (0.30, 0.62, 0.34)), ("rose glass", (0.80, 0.34, 0.34))):  # fmt: skip
        add(Surface(name, tint, 0.0, transmission=1.0))
    # Water is a solid of index 1.33 with its own waves; see `finer`.
    add(Surface("pond water", (1, 1, 1), 0.0, index=1.33, transmission=1.0))
    add(Surface("meadow", (1, 1, 1), 0.95, specular=0.2, texture=t.meadow(13, True), texture_m=7.0))
    for which, (span, picture, rise) in pictures().items():
        add(Surface(f"slope{which}", (1, 1, 1), 1.0, specular=0.0, texture=picture, texture_m=span))
        add(Surface(f"rock{which}", (1, 1, 1), 1.0, specular=0.0, texture=picture, relief=rise, texture_m=span))
    add(Surface("bark", (1, 1, 1), 0.95, specular=0.2, texture=t.bark(17), texture_m=0.9))
    add(Surface("bark, pale", (1.9, 1.9, 1.85), 0.9, specular=0.2, texture=t.bark(18), texture_m=0.7))
    ramps = {
        **{f"leaf, {kind}": ((40, 66, 20), (110, 140, 52)) for kind in LEAVES}, "leaf, box": ((28, 52, 24), (72, 102, 48)),
        "grass": ((58, 80, 26), (130, 150, 66)), "petal": ((196, 194, 182), (232, 230, 222)), "petal, yellow": ((196, 160, 30), (236, 204, 70)),
    }  # fmt: skip
    for name, (dark, light) in ramps.items():
        add(Surface(name, (1, 1, 1), 0.6, specular=0.5, translucency=0.35, texture=_ramp(dark, light)))
    add(Surface("needles", (1, 1, 1), 0.9, specular=0.1, texture=_ramp((52, 74, 46), (92, 112, 68)), translucency=0.2))
    add(Surface("needles, snow", (1, 1, 1), 0.9, specular=0.1, texture=_ramp((120, 128, 136), (214, 220, 226))))
    pebbles, _ = t.flagstone(19, 512)
    add(Surface("pond stone", (0.62, 0.60, 0.56), 0.6, texture=pebbles, texture_m=1.0))
    add(Surface("pond stone, pale", (0.9, 0.88, 0.84), 0.6, texture=pebbles, texture_m=1.0))


def finer() -> dict[str, Made]:
    """Surfaces of the stage that a plain model file says too little about: varnish, cloth, measured metal, weather, water."""

    def made(**settings: object) -> Made:
        return Made.model_validate({"base": (1.0, 1.0, 1.0), **settings})

    varnish = {"roughness": 0.6, "coat": 0.85, "coat_roughness": 0.16}
    cloth = {
        "roughness": 1.0,
        "gloss": 0.0,
        "diffuse_roughness": 0.4,
        "sheen": (0.10, 0.095, 0.085),
        "sheen_roughness": 0.5,
    }
    out = {
        "limewash": made(base=(0.97, 0.97, 0.97), roughness=0.95, gloss=0.2, diffuse_roughness=0.6, relief=0.5),
        "table oak": made(base=(0.82, 0.74, 0.66), **varnish),
        "floor oak": made(base=(0.92, 0.88, 0.84), **{**varnish, "coat": 0.6, "coat_roughness": 0.28}),
        "floor oak, pale": made(base=(1, 0.98, 0.95), **{**varnish, "coat": 0.6, "coat_roughness": 0.28}),
        "floor oak, dark": made(base=(0.78, 0.74, 0.70), **{**varnish, "coat": 0.6, "coat_roughness": 0.28}),
        "chair oak": made(base=(0.6, 0.5, 0.42), **varnish),
        "old oak": made(base=(0.95, 0.92, 0.9), roughness=0.9, gloss=0.5, diffuse_roughness=0.3),
        "brass": made(conductor="brass", metal=1.0, roughness=0.25),
        "stone": made(base=(0.9, 0.89, 0.87), roughness=0.92, gloss=0.35, diffuse_roughness=0.4, relief=0.9, weathering=0.3),
        "stone, warm": made(base=(1.0, 0.9, 0.76), roughness=0.92, gloss=0.35, diffuse_roughness=0.4, relief=0.9, weathering=0.3),
        "stone, dark": made(base=(0.74, 0.76, 0.79), roughness=0.92, gloss=0.35, diffuse_roughness=0.4, relief=0.9, weathering=0.3),
        "mortar": made(roughness=0.96, gloss=0.2, diffuse_roughness=0.5, weathering=0.3),
        "dressed stone": made(base=(1.0, 0.98, 0.94), roughness=0.85, gloss=0.5, relief=0.6, weathering=0.3),
        "weathered timber": made(base=(0.9, 0.9, 0.9), roughness=0.85, gloss=0.5, weathering=0.35),
        "slate": made(roughness=0.5, weathering=0.15),
        "glaze": made(base=(0.72, 0.74, 0.72), roughness=0.5, coat=1.0, coat_roughness=0.04),
        "glaze, dark": made(base=(0.06, 0.10, 0.12), roughness=0.5, coat=1.0, coat_roughness=0.04),
        "seat cloth": made(base=(0.26, 0.30, 0.24), **cloth),
        "wool": made(**cloth), "wool, pale": made(base=(1.0, 0.96, 0.7), **cloth), "rug": made(base=(1.0, 0.72, 0.55), **cloth),
        "pond water": made(glass="solid", roughness=0.0, index=1.33, tint=(0.42, 0.72, 0.64), tint_depth_m=2.2, ripple_m=0.022,
                           ripple_length_m=0.75),
    }  # fmt: skip
    for kind in LEAVES:
        out[f"leaf, {kind}"] = made(roughness=0.5, gloss=0.6, through=0.38, through_tint=(0.20, 0.34, 0.05), leaf=kind)
    out["leaf, box"] = made(roughness=0.5, gloss=0.6, through=0.3, through_tint=(0.13, 0.26, 0.05), leaf="evergreen")
    out["grass"] = made(roughness=0.5, gloss=0.5, through=0.38, through_tint=(0.24, 0.36, 0.08), leaf="grass")
    for name in ("meadow", "slope", "slope, near"):
        out[name] = made(roughness=0.95, gloss=0.2, diffuse_roughness=0.4, leaf="grass")
    return out
