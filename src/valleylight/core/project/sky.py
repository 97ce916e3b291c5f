"""The sky in the description: what it is made of, its clouds, its horizon, or the picture that stands in for it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, model_validator

Sha256 = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
Stops = Annotated[float, Field(ge=-20, le=20, allow_inf_nan=False)]
Colour = tuple[Share, Share, Share]


class Block(BaseModel):
    """Base of the sky's blocks: unknown fields are an error."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True)


class CloudLayer(Block):
    """One layer of cloud. `heaped` clouds stand on a level base, `cells` are small and regular, a `sheet` covers,
    a `veil` is thin and even, `streaks` are drawn out along the wind."""

    kind: Literal["heaped", "cells", "sheet", "veil", "streaks"] = "heaped"
    cover: Share = Field(0.4, description="Share of the sky that it covers, seen from above")
    base_m: float = Field(1500.0, ge=0, le=14_000)
    depth_m: float = Field(900.0, ge=20, le=12_000)
    density: float = Field(0.03, gt=0, le=0.2, description="Extinction per metre in the midst of a cloud")
    size_m: float = Field(2600.0, ge=200, le=16_000, description="Distance from cloud to cloud")
    ragged: Share = Field(0.5, description="How much its edges are torn")


class Clouds(Block):
    """The cloud field: the same for the same seed; it can be turned and moved."""

    name: str = Field("", max_length=80)
    layers: tuple[CloudLayer, ...] = Field((), max_length=3)
    seed: int = Field(1, ge=0, le=100_000)
    turn_deg: float = Field(0.0, ge=-360, le=360)
    east_m: float = Field(0.0, ge=-100_000, le=100_000, description="How far the field has drifted east")
    north_m: float = Field(0.0, ge=-100_000, le=100_000)


class Horizon(Block):
    """Where the sky meets the ground that the model does not show."""

    height_deg: float = Field(0.0, ge=-10, le=20, description="Height of the line where ground ends")
    blend_deg: float = Field(0.6, ge=0.05, le=20, description="Width over which they run into each other")
    ground: Colour = Field((0.14, 0.15, 0.10), description="Reflectance of the far ground")
    eye_m: float = Field(6.0, ge=0.5, le=2000, description="Height of the eye over it, for its haze")


class MeasuredSky(Block):
    """A sky from measured illuminances: of the direct sun on a plane facing it, and of the sky on level ground."""

    direct_normal_lx: float = Field(60_000.0, ge=0, le=140_000)
    diffuse_horizontal_lx: float = Field(18_000.0, gt=0, le=100_000)


class PictureSky(Block):
    """A picture all round, in equirectangular projection, that gives background, light and reflection."""

    asset: Sha256
    name: str = Field("", max_length=120)
    turn_deg: float = Field(0.0, ge=-360, le=360, description="Azimuth of its left edge, clockwise from north")
    horizontal_lx: float | None = Field(
        None,
        gt=0,
        le=200_000,
        description="What its whole light, sun and all, should give on level ground; None leaves it",
    )
    background_stops: Stops = Field(0.0, description="How much brighter it is seen than it lights")
    sun_from_picture: bool = Field(True, description="Its brightest spot becomes a sun with crisp shadow")
    projected: bool = Field(False, description="Its lower half lies on the ground")
    height_m: float = Field(1.6, gt=0.1, le=500, description="Height of the lens that took it")
    radius_m: float = Field(30.0, gt=1, le=10_000, description="How far its ground reaches")


class Glow(Block):
    """The glow of a town in the night sky."""

    luminance: float = Field(0.0, ge=0, le=10, description="cd/m2 low over the town")
    azimuth_deg: float = Field(180.0, ge=-360, le=720)


class Sky(Block):
    """The sky of an occasion."""

    model: Literal["atmosphere", "cie", "measured", "picture"] = "atmosphere"
    turbidity: float = Field(2.5, ge=1.2, le=10)
    level_stops: Stops = 0.0
    cie_type: int = Field(12, ge=1, le=15, description="CIE standard general sky, where that is the model")
    clouds: Clouds = Clouds()
    measured: MeasuredSky = MeasuredSky()
    picture: PictureSky | None = None
    horizon: Horizon = Horizon()
    haze: bool = Field(True, description="Far things are seen through the same air")
    haze_times: float = Field(1.0, ge=0, le=50, description="Times the extinction of the air, by hand above or below 1")
    moon: bool = True
    stars: bool = True
    glow: Glow = Glow()

    @model_validator(mode="before")
    @classmethod
    def _named_by_its_type(cls, data: object) -> object:
        """A sky that gives a CIE type and no model is of that type."""
        if isinstance(data, dict) and "cie_type" in data and "model" not in data:
            return {**data, "model": "cie"}
        return data

    @model_validator(mode="after")
    def _has_its_picture(self) -> Sky:
        if self.model == "picture" and self.picture is None:
            raise ValueError("a picture sky needs a picture; choose a .hdr or .exr file first")
        return self
