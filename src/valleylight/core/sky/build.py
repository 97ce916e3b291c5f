"""The sky of an occasion, put together: clear air, clouds, formula or night, over a far ground."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from valleylight.core.project.sky import Clouds, Horizon, Sky
from valleylight.core.sky import clear, cloudsky, night, standard
from valleylight.core.sky.atmosphere import Atmosphere, atmosphere, sky_fields
from valleylight.core.sky.cloudshadow import through_cloud
from valleylight.core.sky.dome import Dome, cell_angles
from valleylight.core.sky.frames import Frame, Window, whole

Array = NDArray[np.float64]
#: Reflectance of the ground that the air is lit from, over a whole region.
REGION_ALBEDO = 0.18
#: Rows of skies without clouds, which are smooth.
SMOOTH_ROWS = 256
NO_SHADOW = np.zeros((0, 0), np.float32)


@dataclass(frozen=True)
class CelestialBody:
    """A light in the sky: azimuth (true) and altitude in degrees, and its strength over the sun's."""

    azimuth_deg: float
    altitude_deg: float
    strength: float = 1.0


@dataclass(frozen=True)
class SkyLight:
    """A sky ready to trace, in the model's frame.

    `backdrop` (R, 2 R, 3) in cd/m2 is what is seen sharply, `dome` what lights; `sun_share` of the sun passes the clouds at the
    site, `shadow` and `shadow_frame` tell it everywhere; `air_per_m` (3,) is the extinction of the clear air.
    """

    dome: Dome
    backdrop: NDArray[np.float32]
    sun_share: float
    shadow: NDArray[np.float32]
    shadow_frame: Array
    air_per_m: Array

    @property
    def haze(self) -> Array:
        """Extinction per m, then the radiance just above the horizon by azimuth; shape (1 + C, 3)."""
        rows = len(self.dome.rgb)
        return np.concatenate([self.air_per_m[None], self.dome.rgb[rows // 2 + 1].astype(float)])


@lru_cache(maxsize=10)
def sky_light(
    sky: Sky, sun: CelestialBody, moon: CelestialBody | None, sun_horizontal_lx: float, north_deg: float, rows: int, latitude_deg: float = 45.0,
    sidereal: float = 0.0,
) -> SkyLight:  # fmt: skip
    """The sky for a sun and a moon, at most `rows` high. Levels in stops are left to the balance.

    `sun_horizontal_lx` is the direct sun on level ground without clouds, for the far ground.
    """
    north, azimuth = np.radians(north_deg), np.radians(sun.azimuth_deg)
    clouds = sky.clouds if sky.model == "atmosphere" else None
    starry = sky.stars and sun.altitude_deg < -6
    if not (clouds and clouds.layers) and not starry:
        rows = min(rows, SMOOTH_ROWS)
    out = np.zeros((rows, 2 * rows, 3))
    turbidity = round(sky.turbidity, 1)
    _lay_clear(out, sun, turbidity, north)
    if sky.model == "cie":
        out = standard.cie_sky(sky.cie_type, azimuth - north, sun.altitude_deg, out)
    elif sky.model == "measured":
        out = standard.measured_sky(sky.measured, azimuth - north, sun.altitude_deg, out)
    if sun.altitude_deg < 0:
        if moon is not None:
            _lay_clear(out, moon, turbidity, north)
        if sky.model == "atmosphere":  # the others hold it already
            night.add_airglow(out)
        if starry:
            night.add_stars(out, latitude_deg, sidereal, north)
        if sky.glow.luminance > 0:
            night.add_glow(out, sky.glow, north)
    air = atmosphere(turbidity, REGION_ALBEDO)
    share, shadow, frame = 1.0, NO_SHADOW, np.zeros(8)
    if clouds and clouds.layers:
        body = moon if moon is not None and sun.altitude_deg < -8 else sun
        open_sky_lx = Dome(out.astype(np.float32)).reduced(64).horizontal_rgb_lx
        out = cloudsky.lay(_clouds_lit(sky, clouds, air, body, open_sky_lx), out, whole(rows), north)
        shadow, frame = cloudsky.shadow_map(clouds, np.radians(body.azimuth_deg), body.altitude_deg)
        if shadow.size:
            share = float(through_cloud(shadow, frame, 0.0, 0.0, 0.0))
            frame = _in_model_frame(frame, north)
    mean_share = float(shadow.mean()) if shadow.size else 1.0
    _lay_ground(out, sky.horizon, sun_horizontal_lx * mean_share, air.extinction_rgb_per_m())
    backdrop = out.astype(np.float32)
    return SkyLight(Dome(backdrop).reduced(), backdrop, share, shadow, frame, air.extinction_rgb_per_m())


@lru_cache(maxsize=2)
def sky_window(
    sky: Sky, sun: CelestialBody, moon: CelestialBody | None, north_deg: float, window: Window
) -> NDArray[np.float32] | None:
    """A part of the sky of `sky_light` as fine as its frame, (rows, columns, 3) in cd/m2; None where the whole one is as fine already:
    without clouds, by formulas, with stars. The window lies above the horizon's blend."""
    clouds = sky.clouds if sky.model == "atmosphere" else None
    if not (clouds and clouds.layers) or (sun.altitude_deg < 0 and (sky.glow.luminance > 0 or sun.altitude_deg < -6)):
        return None
    north, turbidity = np.radians(north_deg), round(sky.turbidity, 1)
    air, body = atmosphere(turbidity, REGION_ALBEDO), sun
    over, out = np.zeros((64, 128, 3)), np.zeros((window.rows, window.columns, 3))
    for picture, frame in ((over, whole(64)), (out, window.frame)):
        _lay_clear(picture, sun, turbidity, north, frame)
        if sun.altitude_deg < 0 and moon is not None:
            _lay_clear(picture, moon, turbidity, north, frame)
    layers = _clouds_lit(sky, clouds, air, body, Dome(over.astype(np.float32)).horizontal_rgb_lx)
    return np.asarray(cloudsky.lay(layers, out, window.frame, north), np.float32)


def _clouds_lit(
    sky: Sky, clouds: Clouds, air: Atmosphere, body: CelestialBody, open_sky_lx: Array
) -> list[cloudsky.Laid]:
    return cloudsky.layers_lit(
        clouds,
        air,
        open_sky_lx,
        np.radians(body.azimuth_deg),
        max(body.altitude_deg, -6.0),
        body.strength,
        np.array(sky.horizon.ground),
    )


def _lay_clear(out: Array, body: CelestialBody, turbidity: float, north: float, frame: Frame | None = None) -> None:
    fields = sky_fields(turbidity, REGION_ALBEDO, round(body.altitude_deg, 2))
    clear.lay_clear(
        fields, float(np.radians(body.azimuth_deg)), float(np.radians(body.altitude_deg)), float(north), float(body.strength),
        frame or whole(len(out)), 0, len(out), out,
    )  # fmt: skip


def _lay_ground(out: Array, horizon: Horizon, sun_horizontal_lx: float, air_per_m: Array) -> None:
    """The far ground below the horizon, lit by sky and sun, hazy with distance, run into the sky over a blend."""
    rows = len(out)
    altitude, _ = cell_angles(rows)
    lit = Dome(out.astype(np.float32)).reduced(64).horizontal_rgb_lx
    ground = np.array(horizon.ground) / np.pi * (lit + sun_horizontal_lx)
    low = out[rows // 2 + max(rows // 128, 1)]
    down = np.maximum(np.sin(-np.minimum(altitude, -1e-4)), 1e-4)
    clear_share = np.exp(-air_per_m[None] * (horizon.eye_m / down)[:, None])
    seen = clear_share[:, None] * ground + (1 - clear_share)[:, None] * low[None]
    edge = (np.degrees(altitude) - horizon.height_deg) / horizon.blend_deg + 0.5
    sky_part = np.clip(edge, 0, 1)
    sky_part = (sky_part * sky_part * (3 - 2 * sky_part))[:, None, None]
    above = np.where((altitude > 0)[:, None, None], out, low[None])
    out[:] = sky_part * above + (1 - sky_part) * seen


def _in_model_frame(frame: Array, north: float) -> Array:
    """The frame of a shadow map turned from true north to the model's, `north` being the azimuth of its Y axis."""
    c, s = np.cos(north), np.sin(north)
    turned = frame.copy()
    # A direction (east, north) has model coordinates (e c - n s, e s + n c).
    turned[0], turned[1] = frame[0] * c - frame[1] * s, frame[0] * s + frame[1] * c
    for a, b in ((2, 3), (5, 6)):
        turned[a], turned[b] = frame[a] * c - frame[b] * s, frame[a] * s + frame[b] * c
    return turned
