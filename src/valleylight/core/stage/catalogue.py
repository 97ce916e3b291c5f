"""Surfaces to start from, with reflectances a survey would find (common practice; measured metals see metals.py)."""

from __future__ import annotations

from dataclasses import dataclass

from valleylight.core.project.surface import Courses, Laying, Surface


@dataclass(frozen=True)
class Entry:
    """One surface of the catalogue."""

    key: str
    name: str
    family: str
    surface: Surface


def _s(**settings: object) -> Surface:
    return Surface.model_validate({"keep_picture": False, **settings})


CATALOGUE: tuple[Entry, ...] = (
    Entry("limewash", "Limewash", "wall", _s(base=(0.80, 0.79, 0.75), roughness=0.95, gloss=0.2, diffuse_roughness=0.6,
          pattern="clouds", pattern_m=0.5, pattern_tint=(0.72, 0.70, 0.65), bump_m=0.0015)),
    Entry("plaster", "Smooth plaster", "wall", _s(base=(0.72, 0.71, 0.69), roughness=0.9, gloss=0.4, diffuse_roughness=0.3)),
    Entry("concrete", "Fair-faced concrete", "wall", _s(base=(0.36, 0.35, 0.33), roughness=0.75, pattern="clouds",
          pattern_m=0.7, pattern_tint=(0.28, 0.275, 0.26), bump_m=0.002, diffuse_roughness=0.4, weathering=0.15)),
    Entry("slate", "Split slate", "stone", _s(base=(0.075, 0.08, 0.09), roughness=0.5, pattern="clouds", pattern_m=0.12,
          pattern_tint=(0.11, 0.11, 0.115), bump_m=0.002)),
    Entry("granite", "Granite", "stone", _s(base=(0.42, 0.40, 0.38), roughness=0.35, pattern="speckle", pattern_m=0.02,
          pattern_tint=(0.10, 0.10, 0.11))),
    Entry("marble", "Veined marble", "stone", _s(base=(0.74, 0.73, 0.70), roughness=0.15, pattern="veins", pattern_m=0.35,
          pattern_tint=(0.30, 0.30, 0.31), coat=0.4)),
    Entry("terracotta", "Terracotta", "stone", _s(base=(0.42, 0.20, 0.12), roughness=0.85, gloss=0.4, diffuse_roughness=0.5)),
    Entry("brick", "Brick, rust red", "stone", _s(base=(0.30, 0.125, 0.08), roughness=0.9, gloss=0.3, diffuse_roughness=0.5,
          weathering=0.15, courses=Courses(tint=(0.20, 0.085, 0.06), recess_m=0.003))),
    Entry("brick-flemish", "Brick, pale, Flemish bond", "stone", _s(base=(0.46, 0.38, 0.29), roughness=0.9, gloss=0.3,
          diffuse_roughness=0.5, courses=Courses(bond="flemish", tint=(0.38, 0.28, 0.20), joint_colour=(0.62, 0.60, 0.55)))),
    Entry("paving", "Slate paving", "stone", _s(base=(0.16, 0.165, 0.17), roughness=0.6, gloss=0.6, pattern="clouds", pattern_m=0.3,
          pattern_tint=(0.21, 0.21, 0.205), courses=Courses(bond="random", length_m=0.8, height_m=0.4, joint_m=0.008, recess_m=0.004,
          joint_colour=(0.22, 0.21, 0.19), shade=0.2, uneven=0.4))),
    Entry("tile-white", "White wall tile", "stone", _s(base=(0.76, 0.76, 0.74), roughness=0.08, courses=Courses(bond="running",
          length_m=0.15, height_m=0.075, joint_m=0.002, recess_m=0.001, joint_colour=(0.5, 0.5, 0.48), shade=0.03, uneven=0.5))),
    Entry("tile-hexagon", "Hexagon floor tile", "stone", _s(base=(0.30, 0.31, 0.31), roughness=0.35, courses=Courses(bond="hexagon",
          length_m=0.1, height_m=0.1, joint_m=0.003, recess_m=0.001, joint_colour=(0.18, 0.175, 0.17), shade=0.08,
          tint=(0.36, 0.37, 0.36), uneven=0.15))),
    Entry("oak-boards", "Oak boards", "wood", _s(base=(0.44, 0.29, 0.16), roughness=0.45, pattern="grain", pattern_m=0.12,
          pattern_tint=(0.30, 0.18, 0.09), courses=Courses(bond="random", length_m=2.2, height_m=0.16, joint_m=0.0015,
          recess_m=0.0015, joint_colour=(0.07, 0.05, 0.035), shade=0.16, uneven=0.12))),
    Entry("oak-herringbone", "Oak, herringbone", "wood", _s(base=(0.44, 0.29, 0.16), roughness=0.4, pattern="grain", pattern_m=0.1,
          pattern_tint=(0.30, 0.18, 0.09), laying=Laying(turn_deg=45), courses=Courses(bond="herringbone", length_m=0.48,
          height_m=0.08, joint_m=0.001, recess_m=0.001, joint_colour=(0.07, 0.05, 0.035), shade=0.14, uneven=0.12))),
    Entry("oak-varnished", "Varnished oak", "wood", _s(base=(0.46, 0.29, 0.15), roughness=0.6, pattern="grain",
          pattern_m=0.16, pattern_tint=(0.28, 0.16, 0.08), coat=1.0, coat_roughness=0.12)),
    Entry("oak-rough", "Sawn oak", "wood", _s(base=(0.44, 0.31, 0.19), roughness=0.9, gloss=0.3, pattern="grain",
          pattern_m=0.16, pattern_tint=(0.26, 0.18, 0.11), bump_m=0.003, diffuse_roughness=0.4)),
    Entry("timber-grey", "Weathered boards", "wood", _s(base=(0.30, 0.28, 0.26), roughness=0.9, gloss=0.3, pattern="boards",
          pattern_m=0.14, pattern_tint=(0.10, 0.09, 0.08), bump_m=0.004, weathering=0.4)),
    Entry("paint-matt", "Matt paint", "paint", _s(base=(0.55, 0.55, 0.52), roughness=0.85, gloss=0.4)),
    Entry("paint-satin", "Satin paint, dark green", "paint", _s(base=(0.045, 0.085, 0.06), roughness=0.35)),
    Entry("lacquer", "Deep lacquer", "paint", _s(base=(0.28, 0.03, 0.025), roughness=0.5, coat=1.0, coat_roughness=0.03)),
    Entry("brass", "Brushed brass", "metal", _s(conductor="brass", metal=1.0, roughness=0.32)),
    Entry("brass-polished", "Polished brass", "metal", _s(conductor="brass", metal=1.0, roughness=0.08)),
    Entry("copper", "Copper", "metal", _s(conductor="copper", metal=1.0, roughness=0.25)),
    Entry("bronze", "Bronze", "metal", _s(conductor="bronze", metal=1.0, roughness=0.4, weathering=0.3)),
    Entry("aluminium", "Anodised aluminium", "metal", _s(conductor="aluminium", metal=1.0, roughness=0.4)),
    Entry("chromium", "Chromium plate", "metal", _s(conductor="chromium", metal=1.0, roughness=0.03)),
    Entry("iron", "Blackened iron", "metal", _s(base=(0.045, 0.045, 0.05), roughness=0.45, metal=0.6)),
    Entry("linen", "Linen", "cloth", _s(base=(0.55, 0.50, 0.42), roughness=1.0, gloss=0.0, sheen=(0.18, 0.17, 0.15),
          pattern="weave", pattern_m=0.004, pattern_tint=(0.62, 0.57, 0.48), bump_m=0.0006)),
    Entry("wool", "Wool felt", "cloth", _s(base=(0.16, 0.20, 0.17), roughness=1.0, gloss=0.0, sheen=(0.25, 0.25, 0.22),
          sheen_roughness=0.6, diffuse_roughness=0.6)),
    Entry("velvet", "Velvet", "cloth", _s(base=(0.10, 0.02, 0.035), roughness=1.0, gloss=0.0, sheen=(0.5, 0.25, 0.28),
          sheen_roughness=0.3)),
    Entry("curtain", "Sheer curtain", "cloth", _s(base=(0.75, 0.73, 0.68), roughness=1.0, gloss=0.0, through=0.55)),
    Entry("lamp-shade", "Glazed paper shade", "cloth", _s(base=(0.78, 0.70, 0.55), roughness=0.4, gloss=0.6, through=0.5,
          through_tint=(0.80, 0.62, 0.38))),
    Entry("grass", "Mown grass", "planting", _s(base=(0.075, 0.115, 0.035), roughness=1.0, gloss=0.1, pattern="clouds", pattern_m=0.9,
          pattern_tint=(0.12, 0.15, 0.055), bump_m=0.02, diffuse_roughness=0.8)),
    Entry("leaf", "Leaf", "planting", _s(base=(0.07, 0.13, 0.035), roughness=0.45, through=0.42, through_tint=(0.20, 0.34, 0.04))),
    Entry("glass-clear", "Clear window glass", "glass", _s(glass="thin", roughness=0.0, tint=(0.97, 0.985, 0.975))),
    Entry("glass-amber", "Amber glass", "glass", _s(glass="thin", roughness=0.0, tint=(0.90, 0.56, 0.16))),
    Entry("glass-blue", "Blue glass", "glass", _s(glass="thin", roughness=0.0, tint=(0.22, 0.42, 0.70))),
    Entry("glass-frosted", "Frosted glass", "glass", _s(glass="thin", roughness=0.45, tint=(0.95, 0.96, 0.95))),
    Entry("glass-solid", "Cast glass", "glass", _s(glass="solid", roughness=0.0, tint=(0.72, 0.88, 0.80), tint_depth_m=0.08)),
    Entry("water", "Rippled water", "glass", _s(glass="solid", roughness=0.0, index=1.33, tint=(0.45, 0.78, 0.74),
          tint_depth_m=3.0, ripple_m=0.02, ripple_length_m=0.6)),
)  # fmt: skip


def entry(key: str) -> Entry:
    """An entry of the catalogue by key. KeyError for another."""
    return next(e for e in CATALOGUE if e.key == key)
