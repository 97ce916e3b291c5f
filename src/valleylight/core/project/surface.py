"""What a surface is made of, as the artist sets it: one layered model for every material.

From the top: clear coat, cloth sheen, the surface itself (matt base under a dielectric gloss, or metal, or glass), and
what lies behind it (back transmission). Colours are linear RGB 0 to 1, lengths in metres.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from valleylight.core.project.basics import Part, Sha256

Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
Rgb = tuple[Share, Share, Share]
Luminance = Annotated[float, Field(ge=0, le=1e9, allow_inf_nan=False)]

Conductor = Literal["aluminium", "brass", "bronze", "chromium", "copper", "gold", "iron", "nickel", "silver", "zinc"]
Length = Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]
Bond = Literal["stack", "running", "third", "english", "flemish", "random", "herringbone", "hexagon"]
LeafKind = Literal[
    "lime",
    "maple",
    "birch",
    "apple",
    "pear",
    "beech",
    "willow",
    "poplar",
    "rowan",
    "hazel",
    "alder",
    "larch",
    "evergreen",
    "grass",
]
Pattern = Literal["none", "grain", "veins", "speckle", "weave", "boards", "clouds"]


class Pictures(Part):
    """Files of pictures by what they say of a surface, as `core.stage.channels` keeps them. A relief is a normal map or a height."""

    colour: Sha256 | None = Field(None, description="Multiplies the base colour")
    roughness: Sha256 | None = Field(None, description="Multiplies the roughness")
    metal: Sha256 | None = Field(None, description="Multiplies the share that is metal")
    normal: Sha256 | None = Field(None, description="Normal map, green up")
    height: Sha256 | None = Field(None, description="Height; in place of a normal map")
    height_m: float = Field(0.01, gt=0, le=1, description="Height of white over black")
    opacity: Sha256 | None = Field(None, description="Cut out where it is below half")
    light: Sha256 | None = Field(None, description="Multiplies what it gives off; lies by the model's own uv")


class Laying(Part):
    """How pictures and units lie on a surface, in metres of the stage."""

    by: Literal["uv", "box", "plan", "sides"] = Field(
        "box",
        description="The model's own uv at true scale, the plane a face looks along most, the plan, or three sides blended",
    )
    tile_m: float = Field(1.0, ge=0.001, le=1000, description="Width of one turn of the picture")
    tile_height_m: float | None = Field(
        None, ge=0.001, le=1000, description="Its height, None keeps the picture's shape"
    )
    turn_deg: float = Field(0.0, ge=-360, le=360, description="Anticlockwise, seen from outside")
    shift_m: tuple[Length, Length] = Field((0.0, 0.0), description="What lies at the zero, along the layout and up it")


class Courses(Part):
    """A layout of units, its joints about them (bonds: common practice)."""

    bond: Bond = "running"
    length_m: float = Field(0.215, ge=0.001, le=50, description="Length of a unit without its joint")
    height_m: float = Field(0.065, ge=0.001, le=50, description="Height, or breadth, of a unit without its joint")
    joint_m: float = Field(0.01, ge=0.0, le=1)
    recess_m: float = Field(0.002, ge=0.0, le=0.2, description="How far the joint lies back")
    joint_colour: Rgb = (0.55, 0.52, 0.47)
    tint: Rgb | None = Field(None, description="The other colour that units tend to, each by its own share")
    shade: Share = Field(0.15, description="How much lighter or darker single units are")
    uneven: Share = Field(0.15, description="How much single units lean, 1 for about a degree")


class Surface(Part):
    """A material in place of the one that came with the model."""

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
    pictures: Pictures | None = Field(
        None, description="Pictures of its own in place of those that came with the model"
    )
    laying: Laying | None = Field(None, description="How pictures and units lie; None leaves the model's own uv")
    courses: Courses | None = Field(None, description="Bricks, boards or tiles laid one by one")
    pattern: Pattern = "none"
    pattern_m: float = Field(0.2, gt=0, le=1000, description="Size of the pattern")
    pattern_tint: Rgb = Field((0.5, 0.5, 0.5), description="The pattern's other colour, over the base")
    bump_m: float = Field(0.0, ge=0, le=0.5, description="Height of the pattern as relief")
    ripple_m: float = Field(0.0, ge=0, le=1, description="Height of displaced water waves, trough to crest")
    ripple_length_m: float = Field(0.6, ge=0.05, le=50)
    leaf: LeafKind | None = Field(
        None, description="Leaves of this kind, which follow the year where an occasion asks for it"
    )
    weathering: Share = Field(0.0, description="Darkens and dulls edges and lower zones")

    @property
    def files(self) -> tuple[str, ...]:
        """SHA-256 of the files of its pictures."""
        p = self.pictures
        return (
            ()
            if p is None
            else tuple(f for f in (p.colour, p.roughness, p.metal, p.normal, p.height, p.opacity, p.light) if f)
        )


class ObjectFlags(Part):
    """How an object takes part in the picture."""

    seen: bool = Field(True, description="Seen by the lens")
    in_reflections: bool = True
    casts_shadow: bool = True
    sends: bool = Field(True, description="Sends bounced light")
    receives: bool = Field(True, description="Receives bounced light")
    shadow_only: bool = Field(False, description="Shows only the shadow that falls on it, over what lies behind")


class Apart(Part):
    """What an object has of a material stands apart, under a name of its own, so that it can have a surface of its own."""

    object: str = Field(max_length=200)
    material: str = Field(max_length=200)
    name: str = Field(min_length=1, max_length=200)
