"""What a surface is made of, as the artist sets it: one layered model for every material.

From the top: clear coat, cloth sheen, the surface itself (matt base under a dielectric gloss, or metal, or glass), and
what lies behind it (back transmission). Colours are linear RGB 0 to 1, lengths in metres.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
Rgb = tuple[Share, Share, Share]
Luminance = Annotated[float, Field(ge=0, le=1e9, allow_inf_nan=False)]

Conductor = Literal["aluminium", "brass", "bronze", "chromium", "copper", "gold", "iron", "nickel", "silver", "zinc"]
Pattern = Literal["none", "grain", "veins", "speckle", "weave", "boards", "clouds"]


class Surface(BaseModel):
    """A material in place of the one that came with the model."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True)

    base: Rgb = Field((0.5, 0.5, 0.5), description="Reflectance of the base; multiplies the picture where there is one")
    keep_picture: bool = Field(
        True, description="Keep the pictures (colour, relief, roughness) that came with the model"
    )
    roughness: Share = 0.8
    diffuse_roughness: Share = Field(0.0, description="0 Lambert; towards 1 flatter, as plaster or clay")
    gloss: Share = Field(1.0, description="Strength of the dielectric gloss over a matt base")
    index: float = Field(1.5, ge=1.0001, le=3)
    metal: Share = 0.0
    conductor: Conductor | None = Field(None, description="Colour and edge colour from the measured index of a metal")
    coat: Share = Field(0.0, description="Strength of a clear coat, index 1.5")
    coat_roughness: Share = 0.05
    sheen: Rgb = (0.0, 0.0, 0.0)
    sheen_roughness: Annotated[float, Field(ge=0.05, le=1)] = 0.4
    glass: Literal["none", "thin", "solid"] = "none"
    tint: Rgb = Field((1.0, 1.0, 1.0), description="What glass passes straight on, without its reflections")
    tint_depth_m: float = Field(0.1, gt=0, le=1000, description="Depth of solid glass at which it passes its tint")
    through: Share = Field(0.0, description="Share of the diffuse light that passes to the other side")
    through_tint: Rgb | None = Field(None, description="Colour of what passes; None for the base colour")
    emission_cd_m2: tuple[Luminance, Luminance, Luminance] = (0.0, 0.0, 0.0)
    relief: float = Field(1.0, ge=0, le=4, description="Strength of the relief picture")
    triplanar_m: float | None = Field(
        None, gt=0, le=1000, description="Lay pictures from three sides at this tile size"
    )
    pattern: Pattern = "none"
    pattern_m: float = Field(0.2, gt=0, le=1000, description="Size of the pattern")
    pattern_tint: Rgb = Field((0.5, 0.5, 0.5), description="The pattern's other colour, over the base")
    bump_m: float = Field(0.0, ge=0, le=0.5, description="Height of the pattern as relief")
    ripple_m: float = Field(0.0, ge=0, le=1, description="Height of displaced water waves, trough to crest")
    ripple_length_m: float = Field(0.6, ge=0.05, le=50)
    weathering: Share = Field(0.0, description="Darkens and dulls edges and lower zones")


class ObjectFlags(BaseModel):
    """How an object takes part in the picture."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True)

    seen: bool = Field(True, description="Seen by the lens")
    in_reflections: bool = True
    casts_shadow: bool = True
    sends: bool = Field(True, description="Sends bounced light")
    receives: bool = Field(True, description="Receives bounced light")
    shadow_only: bool = Field(False, description="Shows only the shadow that falls on it, over what lies behind")
