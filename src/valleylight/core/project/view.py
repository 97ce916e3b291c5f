"""The view: a lens in a place, its exposure, the format of its picture."""

from __future__ import annotations

import math
from typing import Annotated

from pydantic import AfterValidator, Field, model_validator

from valleylight.core.project.basics import Key, Name, Part, Point


def _within_reason(value: tuple[int, int]) -> tuple[int, int]:
    if not 1 / MOST_ASPECT <= value[0] / value[1] <= MOST_ASPECT:
        raise ValueError(f"a picture of {value[0]} to {value[1]} is too narrow; stay within {MOST_ASPECT} to 1")
    return value


#: How much longer than high, or higher than long, a picture may be.
MOST_ASPECT = 8
FormatSide = Annotated[int, Field(ge=1, le=10_000)]
Format = Annotated[tuple[FormatSide, FormatSide], AfterValidator(_within_reason)]


class Lens(Part):
    """Exposure of a view: f-number, shutter in seconds, ISO speed."""

    f_number: float = Field(8.0, ge=0.7, le=128)
    shutter_s: float = Field(1 / 60, ge=1 / 64_000, le=3600)
    iso: float = Field(100.0, ge=1, le=409_600)


class View(Part):
    """A lens in a place."""

    key: Key
    name: Name
    position: Point
    target: Point
    focal_mm: float = Field(24.0, ge=4, le=1200)
    film_width_mm: float = Field(36.0, ge=4, le=250)
    format: Format = Field((16, 9), description="Width to height of the picture, such as 3 to 2")
    keep_verticals: bool = True
    focus_m: float | None = Field(None, ge=0.001, le=100_000, description="None keeps everything sharp")
    blades: int = Field(0, ge=0, le=16, description="Blades of the diaphragm; 0 for a round one")
    blade_turn_deg: float = Field(0.0, ge=-360, le=360)
    shift_x: float = Field(0.0, ge=-3, le=3, description="Shift of the film to the right, in film widths")
    shift_y: float = Field(0.0, ge=-3, le=3, description="Shift of the film upwards, in film widths")
    tilt_deg: float = Field(
        0.0, ge=-45, le=45, description="Lens tilted about its level axis: the plane of focus leans"
    )
    swing_deg: float = Field(0.0, ge=-45, le=45, description="Lens swung about its upright axis")
    moves_to: Point | None = Field(None, description="Where the lens has moved to when the shutter closes")
    lens: Lens = Lens()
    lens_at: dict[Key, Lens] = Field(default_factory=dict, description="Lens by occasion, where it differs")
    look_at: dict[Key, Key] = Field(default_factory=dict, description="Look by occasion")

    @model_validator(mode="after")
    def _looks_somewhere(self) -> View:
        gap = sum((a - b) ** 2 for a, b in zip(self.position, self.target, strict=True)) ** 0.5
        if gap < 1e-4:
            raise ValueError("position and target are the same point; move one of them")
        flat = sum((a - b) ** 2 for a, b in zip(self.position[:2], self.target[:2], strict=True)) ** 0.5
        if flat < 0.02 * gap and self.keep_verticals:
            raise ValueError("the view looks straight up or down; let the verticals go, or move the target aside")
        return self

    def lens_for(self, occasion: str) -> Lens:
        return self.lens_at.get(occasion, self.lens)

    @property
    def aspect(self) -> float:
        """Width over height."""
        return self.format[0] / self.format[1]

    def pixels(self, width: int) -> tuple[int, int]:
        """Width and height of a picture with as many pixels as one of 16 to 9 that is `width` across, so that a portrait costs what
        a landscape does."""
        if self.aspect == 16 / 9:
            return width, max(round(width * 9 / 16), 1)
        across = width * math.sqrt(self.aspect * 9 / 16)
        return max(round(across), 1), max(round(across / self.aspect), 1)
