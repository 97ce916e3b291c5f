"""Where in a picture a treatment holds: things, lights, distances, tones, a gradient laid in the picture, a brush; combined, each
narrows the others. Distances and heights in metres, places in the picture as shares of its width and height from the upper left."""

from __future__ import annotations

from functools import lru_cache
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field, StringConstraints, model_validator

from valleylight.core.treatments.seen import Seen

Picture = NDArray[np.float32]
Weight = NDArray[np.float32]
_LUMA = np.array([0.2126, 0.7152, 0.0722], np.float32)
_Name = Annotated[str, StringConstraints(min_length=1, max_length=200)]
_Share = Annotated[float, Field(ge=-2, le=3)]
_Place = tuple[_Share, _Share]
#: All strokes together have so many points at most: each is a distance to every pixel near it.
MOST_POINTS = 5000
#: Colours whose channels stand apart by less than this share have no hue to go by.
_HUELESS = 0.02


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True)


class Span(_Part):
    """From `low` to `high`, with edges so `soft` outside of them (in the same unit)."""

    low: float = Field(ge=-1e6, le=1e6)
    high: float = Field(ge=-1e6, le=1e6)
    soft: float = Field(0.0, ge=0, le=1e6)

    @model_validator(mode="after")
    def _rises(self) -> Span:
        if self.low > self.high:
            raise ValueError("its low end lies above its high end; change them over")
        return self

    def weight(self, values: NDArray[np.floating]) -> Weight:
        """1 within, falling smoothly to 0 over the edges."""
        outside = np.maximum(np.maximum(self.low - values, values - self.high), 0)
        return _smooth(1 - outside / self.soft) if self.soft > 0 else np.asarray(outside <= 0, np.float32)


class Hues(_Part):
    """Hues about `middle` on a circle of 360 degrees (0 red, 120 green, 240 blue), `width` in all, with edges so `soft`."""

    middle_deg: float = Field(ge=-360, le=720)
    width_deg: float = Field(60.0, ge=0, le=360)
    soft_deg: float = Field(20.0, ge=0, le=180)

    def weight(self, picture: Picture) -> Weight:
        """By the hue of each pixel; greys have none."""
        hue, colourful = hue_deg(picture)
        off = np.abs((hue - self.middle_deg + 180) % 360 - 180)
        near = Span(low=-1, high=self.width_deg / 2, soft=self.soft_deg).weight(off)
        return np.asarray(near * np.clip(colourful / _HUELESS - 1, 0, 1), np.float32)


class Gradient(_Part):
    """Nothing before the line across `start`, all beyond that across `end`."""

    start: _Place
    end: _Place

    @model_validator(mode="after")
    def _leads_somewhere(self) -> Gradient:
        if max(abs(a - b) for a, b in zip(self.start, self.end, strict=True)) < 1e-4:
            raise ValueError("it begins and ends in the same place; draw it longer")
        return self

    def weight(self, height: int, width: int) -> Weight:
        # Distances are those of the picture as it is seen: one step across is as long as one down.
        (ax, ay), (bx, by) = ((x * width, y * height) for x, y in (self.start, self.end))
        dx, dy = bx - ax, by - ay
        along_x = (np.arange(width) + 0.5 - ax) * dx
        along_y = (np.arange(height) + 0.5 - ay) * dy
        return _smooth((along_x[None] + along_y[:, None]) / (dx * dx + dy * dy))


class Stroke(_Part):
    """One stroke of the brush: its line, its radius in widths of the picture, how soft its edge is, whether it takes away."""

    points: tuple[_Place, ...] = Field(min_length=1, max_length=500)
    radius: float = Field(0.05, ge=0.001, le=0.5)
    soft: float = Field(0.5, ge=0, le=1, description="Share of the radius over which it fades")
    away: bool = False

    def weight(self, height: int, width: int) -> Weight:
        """Nearness to the line: 1 on it, 0 beyond the radius."""
        reach = self.radius * width
        least = np.full((height, width), np.inf, np.float32)
        line = np.array(self.points, float) * (width, height)
        for a, b in zip(line[:-1], line[1:], strict=True) if len(line) > 1 else [(line[0], line[0])]:
            x0, y0 = np.clip(np.floor(np.minimum(a, b) - reach), 0, (width, height)).astype(int)
            x1, y1 = np.clip(np.ceil(np.maximum(a, b) + reach) + 1, 0, (width, height)).astype(int)
            if x0 >= x1 or y0 >= y1:
                continue
            px, py = np.arange(x0, x1) + 0.5 - a[0], (np.arange(y0, y1) + 0.5 - a[1])[:, None]
            d = b - a
            t = np.clip((px * d[0] + py * d[1]) / max(d @ d, 1e-9), 0, 1)
            far = np.hypot(px - t * d[0], py - t * d[1])
            part = least[y0:y1, x0:x1]
            np.minimum(part, far, out=part)
        edge = max(self.soft * reach, 0.5)
        return _smooth((reach - least) / edge)


class Limit(_Part):
    """Where a treatment holds. What is named of one kind counts together, kinds narrow each other; nothing named is everywhere."""

    objects: tuple[_Name, ...] = Field((), max_length=200)
    surfaces: tuple[_Name, ...] = Field((), max_length=200)
    groups: tuple[_Name, ...] = Field((), max_length=100, description="By the share of these lights in what is seen")
    distance_m: Span | None = None
    height_m: Span | None = None
    stops: Span | None = Field(None, description="Luminance in stops about white, as the treatment finds it")
    hues: Hues | None = None
    gradient: Gradient | None = None
    strokes: tuple[Stroke, ...] = Field((), max_length=200)
    elsewhere: bool = Field(False, description="Turned over: it holds where it else would not")

    @model_validator(mode="after")
    def _can_be_brushed(self) -> Limit:
        if (points := sum(len(stroke.points) for stroke in self.strokes)) > MOST_POINTS:
            raise ValueError(f"its strokes have {points} points; {MOST_POINTS} are the most, take some away")
        return self

    @property
    def by_light(self) -> bool:
        """Whether it goes by the picture as the treatment finds it."""
        return self.stops is not None or self.hues is not None

    @property
    def by_masks(self) -> bool:
        """Whether it goes by masks of things, which films keep only where they are asked for."""
        return bool(self.objects or self.surfaces)

    def weight(self, picture: Picture, seen: Seen) -> Weight:
        """Share of the treatment in each pixel (H, W), 0 to 1. What goes by something that is not known of the picture holds nowhere."""
        height, width = picture.shape[:2]
        size = (height, width)
        parts: list[Weight | None] = [
            seen.share_of_objects(self.objects, size) if self.objects else None,
            seen.share_of_surfaces(self.surfaces, size) if self.surfaces else None,
            seen.share_of_groups(self.groups, size) if self.groups else None,
            None if self.distance_m is None else _spanned(self.distance_m, seen.depth_m(size), size),
            None if self.height_m is None else _spanned(self.height_m, seen.height_m(size), size),
            None if self.stops is None else self.stops.weight(np.log2(np.maximum(picture @ _LUMA, 1e-9))),
            None if self.hues is None else self.hues.weight(picture),
            None if self.gradient is None else self.gradient.weight(height, width),
            _brushed(self.strokes, height, width) if self.strokes else None,
        ]
        whole = np.ones(size, np.float32)
        for part in parts:
            if part is not None:
                whole *= part
        return np.float32(1) - whole if self.elsewhere else whole


@lru_cache(maxsize=8)
def _brushed(strokes: tuple[Stroke, ...], height: int, width: int) -> Weight:
    """What strokes cover (H, W), the later over the earlier; kept, since a picture is finished again and again."""
    laid = np.zeros((height, width), np.float32)
    for stroke in strokes:
        weight = stroke.weight(height, width)
        laid = laid * (1 - weight) if stroke.away else np.maximum(laid, weight)
    return laid


def hue_deg(picture: Picture) -> tuple[NDArray[np.floating], NDArray[np.floating]]:
    """Hue in degrees (the hexagon of RGB, 0 red, 120 green) and how far the channels stand apart, as a share of the greatest."""
    r, g, b = np.moveaxis(picture, -1, 0)
    high, low = picture.max(-1), picture.min(-1)
    apart = np.maximum(high - low, 1e-12)
    sector = np.where(high == r, (g - b) / apart % 6, np.where(high == g, (b - r) / apart + 2, (r - g) / apart + 4))
    return sector * 60, (high - low) / np.maximum(high, 1e-12)


def _spanned(span: Span, values: NDArray[np.floating] | None, size: tuple[int, int]) -> Weight:
    return np.zeros(size, np.float32) if values is None else span.weight(values)


def _smooth(t: NDArray[np.floating]) -> Weight:
    t = np.clip(t, 0, 1)
    return np.asarray(t * t * (3 - 2 * t), np.float32)
