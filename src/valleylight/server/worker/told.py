"""What is told of a picture with it: light, advice, histogram."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict
from typing import Any

import numpy as np

from valleylight.core.colour.rgb import LUMINANCE, srgb_encode
from valleylight.core.colour.temperature import rgb_to_kelvin
from valleylight.core.film.film import Film, Level, rgb_of
from valleylight.core.finish.balance import colour_of, kelvin_of
from valleylight.core.finish.exposure import ev100, metered_ev100, saturation_luminance
from valleylight.core.lens.advice import advised
from valleylight.core.project.description import Lens, Occasion
from valleylight.core.trace.scene.lighting import Daylight

#: From so many stops off, a picture counts as black or burnt; below so much light no lens in use takes it.
NOTICED_STOPS, DARKEST_EV = 3.0, -4.0
#: Stops about the lens's white that the histogram covers, and its bins.
HISTOGRAM_STOPS, HISTOGRAM_BINS = (-8.0, 8.0), 64


def told_of(film: Film, linear: np.ndarray[Any, Any], lens: Lens, occasion: Occasion, day: Daylight) -> dict[str, Any]:
    """Fields of a picture's header that follow from its film, the linear picture (H, W, 3) in cd/m2, lens and daylight."""
    luminance = linear @ LUMINANCE.astype(np.float32)
    mean = float(luminance.mean())
    sky_rgb = day.dome.rgb[len(day.dome.rgb) // 2 :].mean((0, 1))
    return {
        "width": film.size[0], "height": film.size[1], "samples": film.samples,
        "ev100": ev100(lens), "metered_ev100": metered_ev100(mean) if mean > 0 else None,
        "advised": None if (found := advised(luminance[::2, ::2])) is None else asdict(found),
        "azimuth_deg": day.azimuth_deg, "altitude_deg": day.altitude_deg,
        "sun_lx": day.sun_horizontal_lx * 2.0**occasion.sun.level_stops,
        "sky_lx": day.dome.horizontal_illuminance_lx * 2.0**occasion.sky.level_stops,
        "sun_kelvin": _whole(rgb_to_kelvin(day.sun_rgb_lx)) if day.sun_up else None,
        "sky_kelvin": _whole(rgb_to_kelvin(sky_rgb)),
        "by_moon": day.by_moon, "sun_share": day.sky.sun_share, "advice": advice(linear, lens, day, mean),
        "true_to_place": occasion.sun.true_to_place, "groups": list(film.group_names),
        "histogram": histogram(luminance, saturation_luminance(lens)),
    }  # fmt: skip


def lights_of(film: Film, gains: Mapping[str, Level]) -> dict[str, dict[str, Any]]:
    """Of each light of a film: the colour temperature it was traced with, and the colour it is shown in, as a code."""
    made = {}
    for name in film.group_names:
        shown = np.array(colour_of(film, name)) * rgb_of(gains.get(name, 1.0))
        codes = np.round(255 * srgb_encode(np.clip(shown / max(float(shown.max()), 1e-9), 0, 1))).astype(int)
        made[name] = {"kelvin": kelvin_of(film, name), "colour": "#" + "".join(f"{c:02x}" for c in codes)}
    return made


def histogram(luminance: np.ndarray[Any, Any], white_cd_m2: float) -> dict[str, Any]:
    """Share of the pixels in each bin of stops about the lens's white; what lies beyond is in the outermost."""
    low, high = HISTOGRAM_STOPS
    stops = np.log2(np.maximum(luminance[::2, ::2], 1e-12) / white_cd_m2)
    place = ((stops - low) * (HISTOGRAM_BINS / (high - low))).astype(np.int32)
    counts = np.bincount(np.clip(place, 0, HISTOGRAM_BINS - 1).ravel(), minlength=HISTOGRAM_BINS)
    return {"from": low, "to": high, "shares": [round(float(c), 5) for c in counts / stops.size]}


def advice(linear: np.ndarray[Any, Any], lens: Lens, day: Daylight, mean: float) -> dict[str, Any] | None:
    """What is wrong with a black or burnt picture, and the exposure value that would mend it (None where the lens cannot)."""
    if mean <= 0:
        return {"text": "No source is on: the picture is black. Raise the sun, or switch fixtures on.", "ev100": None}
    wanted = metered_ev100(mean)
    over = wanted - ev100(lens)
    if day.altitude_deg < -6 and wanted < DARKEST_EV:
        lit = "The moon and the sky alone give" if day.by_moon else "The night sky alone gives"
        return {"text": f"{lit} light: a picture of a night needs lamps.", "ev100": None}
    if abs(over) < NOTICED_STOPS:
        return None
    side = "over" if over > 0 else "under"
    return {"text": f"{abs(over):.0f} stops {side}: set the lens to EV {wanted:.1f}.", "ev100": round(wanted, 1)}


def _whole(kelvin: float) -> int | None:
    return round(kelvin) if np.isfinite(kelvin) and 1000 < kelvin < 50_000 else None
