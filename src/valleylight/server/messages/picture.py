"""A live picture, as the renderer tells of it and the page hears it."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

PictureMode = Literal["picture", "luminance", "illuminance", "clipped", "grey", "zones", "protan", "deutan", "tritan"]


class Advice(BaseModel):
    text: str
    ev100: float | None = Field(description="The exposure value that mends it; none where the lens cannot")


class AdvisedExposure(BaseModel):
    """Exposure values at ISO 100: by the mean of the picture, by its centre, with the highlights kept."""

    average: float
    centre: float
    highlights: float


class Histogram(BaseModel):
    """Share of the pixels by stops about the lens's white, before the look."""

    model_config = ConfigDict(populate_by_name=True)
    from_: float = Field(alias="from", description="Stops of the first edge")
    to: float
    shares: list[float]


class Legend(BaseModel):
    unit: str
    steps: list[tuple[float, str]] = Field(description="Values and their colours, rising")


class LightShown(BaseModel):
    """A light of a picture."""

    kelvin: float | None = Field(description="The colour temperature it was traced with, where it has one")
    colour: str = Field(description="The colour it is shown in, as #rrggbb, at full brightness")


class LiveHeader(BaseModel):
    """Goes before a picture, which follows as JPEG in the same frame."""

    type: Literal["live"] = "live"
    serial: int = Field(description="The wish it answers")
    width: int
    height: int
    samples: int
    last: bool = Field(description="It grows no finer")
    ev100: float
    metered_ev100: float | None
    advised: AdvisedExposure | None = Field(
        None, description="Exposure values the picture advises; none where it is black"
    )
    azimuth_deg: float
    altitude_deg: float
    sun_lx: float
    sky_lx: float
    sun_kelvin: int | None
    sky_kelvin: int | None
    by_moon: bool
    sun_share: float = Field(description="Share of the sun that passes the clouds")
    advice: Advice | None = Field(description="What is wrong with a black or burnt picture")
    true_to_place: bool
    groups: list[str]
    shares: dict[str, float] = Field(description="Share of the picture's light that each group gives, 0 to 1")
    lights: dict[str, LightShown] = Field({}, description="The lights of the picture, by name")
    histogram: Histogram | None
    mode: PictureMode
    legend: Legend | None = Field(description="The scale of a false-colour picture")


class LiveFault(BaseModel):
    """No picture, and why."""

    type: Literal["live"] = "live"
    serial: int
    error: str
