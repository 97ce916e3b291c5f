"""Pictures of measured quantities: false colour on a logarithmic scale, and what is clipped."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import LUMINANCE

Picture = NDArray[np.uint8]
#: Colours of the scale from low to high: ink, slate, teal, lichen, straw, ember, white; lightness rises throughout.
RAMP = np.array([
    (18, 20, 28), (38, 66, 104), (40, 112, 122), (104, 142, 62), (196, 176, 72), (222, 130, 74), (244, 214, 190), (255, 255, 255),
], float)  # fmt: skip
NO_SURFACE = (120, 120, 120)
#: Steps of the scale, four to a factor of a hundred; the least reflectance that is trusted.
STEPS, LEAST_REFLECTANCE = 8, 0.02
OVER, UNDER = (176, 80, 30), (53, 98, 127)
STRIPE_PX = 4


@dataclass(frozen=True)
class FalseColour:
    """A picture (H, W, 3) uint8 and its legend: values in `unit` with their colours as #rrggbb, rising."""

    picture: Picture
    legend: tuple[tuple[float, str], ...]
    unit: str


def luminance(linear: NDArray[np.floating]) -> FalseColour:
    """Luminance in cd/m2 of a linear picture."""
    return _scaled(np.asarray(linear @ LUMINANCE, np.float64), "cd/m2")


def illuminance(
    linear: NDArray[np.floating], surface_colour: NDArray[np.floating], depth: NDArray[np.floating]
) -> FalseColour:
    """Illuminance in lx of the surfaces seen, as if each were matt: E = pi L / rho. Grey where no surface is seen."""
    reflectance = np.asarray(surface_colour @ LUMINANCE, np.float64)
    seen = np.isfinite(depth) & (reflectance > LEAST_REFLECTANCE)
    lux = np.where(seen, np.pi * (linear @ LUMINANCE) / np.maximum(reflectance, LEAST_REFLECTANCE), np.nan)
    return _scaled(lux, "lx")


def clipped(picture: Picture) -> Picture:
    """A display picture with its whites (any channel at 255) striped in ember and its blacks (all at 0) in slate."""
    out = picture.copy()
    row, column = np.indices(picture.shape[:2])
    stripe = (row + column) // STRIPE_PX % 2 == 0
    out[(picture.max(-1) >= 255) & stripe] = OVER
    out[(picture.max(-1) <= 0) & stripe] = UNDER
    return out


def _scaled(values: NDArray[np.float64], unit: str) -> FalseColour:
    """Four to five decades at most, ending at a round value above nearly all of the picture."""
    known = values[np.isfinite(values) & (values > 0)]
    top = _round_up(float(np.percentile(known, 98))) if known.size else 1.0
    levels = [top / 10 ** (k / 2) for k in range(STEPS)][::-1]
    levels = [_tidy(v) for v in levels]
    place = np.interp(np.log(np.maximum(values, 1e-12)), np.log(levels), np.arange(STEPS))
    colours = np.stack([np.interp(place, np.arange(STEPS), RAMP[:, k]) for k in range(3)], -1)
    picture = np.where(np.isnan(values)[..., None], NO_SURFACE, colours).round().astype(np.uint8)
    legend = tuple((v, "#" + "".join(f"{int(c):02x}" for c in RAMP[k])) for k, v in enumerate(levels))
    return FalseColour(picture, legend, unit)


def _round_up(value: float) -> float:
    """The next of 1, 3, 10, 30, ..."""
    power = 10.0 ** np.floor(np.log10(value))
    return float(next(m * power for m in (1, 3, 10) if m * power >= value * 0.999))


def _tidy(value: float) -> float:
    """The nearest of 1, 3, 10, 30, ..."""
    power = 10.0 ** np.floor(np.log10(value) + 1e-9)
    return float((1 if value / power < 1.8 else 3 if value / power < 5.6 else 10) * power)
