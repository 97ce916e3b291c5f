"""What lights an occasion: the sun or moon and the sky as the description asks for them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core import sky as sky_model
from valleylight.core import sun as sun_model
from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.colour.temperature import kelvin_to_unit_rgb
from valleylight.core.project.description import Occasion, Site
from valleylight.core.project.sky import PictureSky, Sky
from valleylight.core.project.suns import place_of_sun
from valleylight.core.sky.build import NO_SHADOW, CelestialBody, SkyLight, sky_light, sky_window
from valleylight.core.sky.dome import Dome
from valleylight.core.sky.frames import window_over
from valleylight.core.sky.night import MOON_RADIUS_DEG, Moon, moon_at, moon_ratio, sidereal_rad
from valleylight.core.sky.picture import Surroundings, turned
from valleylight.core.sun.sunlight import SUN_RADIUS_DEG
from valleylight.core.trace.arrays.scene import NO_FINE_SKY

#: Below this altitude the disc is wholly under the horizon.
SUN_GONE_DEG = -0.6
#: Rows of the sky as it is seen in a draft, a sketch and at most.
DRAFT_ROWS, SKETCH_ROWS, FINEST_ROWS = 64, 192, 1280


@dataclass(frozen=True)
class Daylight:
    """Sun and sky of an occasion. Angles are true; `direction` is in the model's frame (Y is the model's north).

    `sun_normal_lx` is what reaches the site through the clouds; `sun_rgb_lx` (3,) what stands above them, which the shadow of
    the clouds takes from again. `by_moon`: that light is the moon's.
    """

    azimuth_deg: float
    altitude_deg: float
    direction: NDArray[np.float64]
    radius_deg: float
    sun_normal_lx: float
    sun_rgb_lx: NDArray[np.float64]
    sky: SkyLight
    by_moon: bool = False
    moon: Moon | None = None
    asked: tuple[Sky, CelestialBody, CelestialBody | None, float] | None = (
        None  # what its sky was computed from, for a finer look
    )

    @property
    def dome(self) -> Dome:
        return self.sky.dome

    @property
    def sun_up(self) -> bool:
        """Some direct light reaches the stage, if only beyond the shadow of a cloud."""
        return bool(self.sun_rgb_lx.any())

    @property
    def sun_horizontal_lx(self) -> float:
        return self.sun_normal_lx * max(float(self.direction[2]), 0.0)


def daylight_of(
    site: Site, occasion: Occasion, rows: int = SKETCH_ROWS, picture: Callable[[PictureSky], Surroundings] | None = None
) -> Daylight:
    """Position, strength and colour of sun (at night: moon) and sky. Levels (in stops) are left to the balance of the film.

    `rows`: height of the sky as it is seen; `picture` reads the picture that stands in for a sky.
    """
    sun, sky = occasion.sun, occasion.sky
    azimuth, altitude = place_of_sun(site, occasion)
    if sky.model == "picture" and sky.picture is not None and picture is not None:
        return _by_picture(site, occasion, azimuth, altitude, sky.picture, picture(sky.picture))
    light = sun_model.clear_sunlight(round(altitude, 2), sky.turbidity, occasion.when.timetuple().tm_yday)
    illuminance, unit = light.normal_illuminance_lx, light.unit_rgb
    if sky.model == "cie":
        illuminance *= sky_model.sun_share_through_cloud(altitude, sky.cie_type) if altitude > SUN_GONE_DEG else 0.0
    elif sky.model == "measured":
        illuminance = sky.measured.direct_normal_lx if altitude > 0 else 0.0
    moon = moon_at(site.latitude_deg, site.longitude_deg, occasion.moment(site), site.elevation_m)
    shining = sky.moon and sun.true_to_place and moon.altitude_deg > 0
    body = CelestialBody(round(azimuth, 2), round(altitude, 2))
    lunar = (
        CelestialBody(round(moon.azimuth_deg, 2), round(moon.altitude_deg, 2), moon_ratio(moon)) if shining else None
    )
    by_moon = altitude < SUN_GONE_DEG and lunar is not None
    where, radius = body, SUN_RADIUS_DEG * sun.size
    if by_moon and lunar is not None:
        by_sun = sun_model.clear_sunlight(lunar.altitude_deg, sky.turbidity, occasion.when.timetuple().tm_yday)
        illuminance, unit = by_sun.normal_illuminance_lx * lunar.strength, by_sun.unit_rgb
        where, radius = lunar, MOON_RADIUS_DEG * sun.size
    if sun.kelvin is not None:
        unit = kelvin_to_unit_rgb(sun.kelvin)
    level = illuminance * max(float(np.sin(np.radians(where.altitude_deg))), 0.0)
    plain = sky.model_copy(update={"level_stops": 0.0, "haze": True})
    made = sky_light(
        plain, body, lunar, round(level, 1), site.north_deg % 360, rows,
        round(site.latitude_deg, 1), round(sidereal_rad(site.longitude_deg, occasion.moment(site)), 3) if altitude < -6 else 0.0,
    )  # fmt: skip
    direction = sun_model.direction(where.azimuth_deg - site.north_deg, where.altitude_deg)
    return Daylight(
        where.azimuth_deg if by_moon else azimuth, where.altitude_deg if by_moon else altitude, direction, radius,
        illuminance * made.sun_share, unit * illuminance, made, by_moon, moon, (plain, body, lunar, site.north_deg % 360),
    )  # fmt: skip


def seen_finely(day: Daylight, directions: NDArray[np.float64], cell_rad: float) -> dict[str, object]:
    """The part of a sky that a lens looks at, in cells of `cell_rad`, for the tracer: `directions` (N, 3) reach over the picture."""
    if day.asked is None or cell_rad <= 0:
        return NO_FINE_SKY
    sky, body, lunar, north_deg = day.asked
    window = window_over(directions, cell_rad, max(sky.horizon.height_deg, 0.0) + sky.horizon.blend_deg)
    fine = None if window is None else sky_window(sky, body, lunar, north_deg, window)
    return NO_FINE_SKY if window is None or fine is None else {"sky_fine": fine, "sky_window": window.record}


def _by_picture(
    site: Site, occasion: Occasion, azimuth: float, altitude: float, wanted: PictureSky, picture: Surroundings
) -> Daylight:
    """Light from a picture: its brightest spot as the sun where it has one, the rest as the sky."""
    spot = picture.spot
    own_sun = wanted.sun_from_picture and spot.is_sun and spot.altitude_deg > 0
    rgb = picture.without_sun if own_sun else picture.rgb
    turn = wanted.turn_deg - site.north_deg
    backdrop = turned(rgb, turn)
    dome = Dome(backdrop).reduced()
    sun_lx = float(spot.rgb_lx @ LUMINANCE) if own_sun else 0.0
    scale = 1.0
    if wanted.horizontal_lx is not None:
        now = dome.horizontal_illuminance_lx + sun_lx * max(float(np.sin(np.radians(spot.altitude_deg))), 0.0)
        scale = wanted.horizontal_lx / max(now, 1e-9)
    where = (spot.azimuth_deg + wanted.turn_deg) % 360 if own_sun else azimuth
    height = spot.altitude_deg if own_sun else altitude
    unit = spot.rgb_lx * scale if own_sun else np.zeros(3)
    light = SkyLight(
        Dome((dome.rgb * scale).astype(np.float32)),
        (backdrop * np.float32(scale)),
        1.0,
        NO_SHADOW,
        np.zeros(8),
        np.zeros(3),
    )
    if own_sun and occasion.sun.kelvin is not None:
        unit = kelvin_to_unit_rgb(occasion.sun.kelvin) * float(unit @ LUMINANCE)
    return Daylight(
        where, height, sun_model.direction(where - site.north_deg, height), SUN_RADIUS_DEG * occasion.sun.size, sun_lx * scale,
        unit, light,
    )  # fmt: skip
