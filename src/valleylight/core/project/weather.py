"""Snow, rain and wind of an occasion."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from valleylight.core.project.basics import Part
from valleylight.core.project.surface import Share

Degrees = Annotated[float, Field(ge=-360, le=720, allow_inf_nan=False)]


class Wind(Part):
    """Wind at ten metres. Drives drops and flakes, and roughens open water."""

    speed_m_s: float = Field(0.0, ge=0, le=40)
    from_deg: Degrees = Field(270.0, description="Azimuth that it comes from, clockwise from north")


class Snow(Part):
    """Snow that lies, and flakes in the air."""

    depth_cm: float = Field(0.0, ge=0, le=150, description="Depth on level open ground")
    grain_mm: float = Field(0.2, ge=0.05, le=3, description="Optical radius of its grains: 0.1 new, 1 old and wet")
    cone_deg: float = Field(
        28.0, ge=2, le=80, description="It falls from within so many degrees of upright: thin under trees and eaves"
    )
    bare: Share = Field(0.0, description="Share of the open ground that is left bare, in patches")
    patch_m: float = Field(1.6, ge=0.1, le=50, description="Size of the patches")
    sun_hours: float = Field(
        0.0, ge=0, le=60, description="Hours of sun since it fell: it has thinned where they reach"
    )
    flakes_mm_h: float = Field(0.0, ge=0, le=20, description="Falling, as water in mm an hour; 0 for clear air")
    flake_mm: float = Field(4.0, ge=0.5, le=25, description="Diameter of the flakes in the air")


class Rain(Part):
    """Rain that falls, and what it leaves wet."""

    mm_h: float = Field(0.0, ge=0, le=150, description="Drops in the air, in mm an hour; 0 for none")
    wet: Share = Field(0.0, description="How wet what lies open to it is")
    puddles: Share = Field(0.0, description="How far hollows of the ground are filled")
    hollow_mm: float = Field(12.0, ge=0, le=200, description="Depth of the small hollows that even ground has")


class Weather(Part):
    """Snow, rain and wind together."""

    snow: Snow = Snow()
    rain: Rain = Rain()
    wind: Wind = Wind()

    @property
    def lies(self) -> bool:
        """Whether anything of it lies on the stage."""
        return self.snow.depth_cm > 0 or self.rain.wet > 0 or self.rain.puddles > 0

    @property
    def falls(self) -> bool:
        """Whether drops or flakes are in the air."""
        return self.rain.mm_h > 0 or self.snow.flakes_mm_h > 0
