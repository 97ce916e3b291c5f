"""Fog and haze of an occasion."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from valleylight.core.project.surface import Rgb, Share

#: Survey coordinates reach 10 000 km.
Metres = Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)]
Point = tuple[Metres, Metres, Metres]


class Air(BaseModel):
    """Drops or dust in the air. Extinction is given by the distance over which light falls to 1/e."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True)

    on: bool = False
    extent: Literal["everywhere", "box"] = "everywhere"
    low: Point = (-50.0, -50.0, 0.0)
    high: Point = (50.0, 50.0, 20.0)
    free_path_m: float = Field(200.0, ge=0.2, le=1e6, description="Mean free path at and below the base height")
    base_height_m: Metres = 0.0
    fall_m: float | None = Field(
        None, gt=0.05, le=1e5, description="Height over which density falls to 1/e; None: even"
    )
    colour: Rgb = Field((0.98, 0.98, 0.98), description="Single-scattering albedo")
    forward: float = Field(0.6, ge=0, le=0.95, description="Henyey-Greenstein asymmetry of the forward part")
    back: float = Field(0.2, ge=0, le=0.95, description="Asymmetry of the backward part")
    back_share: Share = 0.1
    multiple: bool = Field(True, description="Light is scattered on between the drops")
    beams_only: bool = Field(
        False, description="Shows the beams of sun and lamps and leaves all else clear: set by hand, for no air does so"
    )
    outdoors: bool = Field(False, description="Rooms are clear: none is traced where the lens stands in a closed one")
    unevenness: Share = Field(0.0, description="How far density swings about its mean")
    uneven_size_m: float = Field(2.0, gt=0.05, le=1000)
    drift: Point = Field((0.0, 0.0, 0.0), description="How far the unevenness has drifted, in metres")

    @model_validator(mode="after")
    def _box_has_room(self) -> Air:
        if self.extent == "box" and any(b - a < 0.01 for a, b in zip(self.low, self.high, strict=True)):
            raise ValueError("the box of the air is empty; give its high corner more than its low one in x, y and z")
        return self


class LightNet(BaseModel):
    """Light gathered through and off water and solid glass, by photons from sun and fixtures, within a box."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True)

    on: bool = False
    low: Point = (-10.0, -10.0, -3.0)
    high: Point = (10.0, 10.0, 3.0)
    fineness_m: float = Field(0.03, ge=0.002, le=1, description="Radius over which photons are gathered in a proof")
    photons: int = Field(400_000, ge=1000, le=20_000_000, description="Photons sent in a proof")

    @model_validator(mode="after")
    def _box_has_room(self) -> LightNet:
        if any(b - a < 0.01 for a, b in zip(self.low, self.high, strict=True)):
            raise ValueError("the region is empty; give its high corner more than its low one in x, y and z")
        return self
