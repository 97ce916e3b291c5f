"""The settings of a trace: what an occasion, a lens and a quality ask of the kernels."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.finish.exposure import saturation_luminance
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.lights import daylight
from valleylight.core.trace.scene.fixtures import LightGroups
from valleylight.core.trace.scene.geometry import Geometry
from valleylight.core.trace.scene.lighting import Daylight
from valleylight.core.trace.scene.quality import Quality
from valleylight.core.trace.scene.stages import Placed

#: Measuring points start their rays so far off, and in small stages by this share of the stage.
MOST_LIFT_M, LIFT_SHARE = 1e-3, 1e-4


def settings_of(
    placed: Placed, groups: LightGroups, geometry: Geometry, day: Daylight, quality: Quality, seed: int, rows: int,
    emitted_total: float, beams: int,
) -> NDArray[np.float64]:  # fmt: skip
    """The settings (SETTINGS_WIDTH,) of a picture of so many rows, before anything is known of the way rays are best sent."""
    occasion = placed.occasion
    settings = np.zeros(layout.SETTINGS_WIDTH)
    settings[layout.MAX_BOUNCES] = quality.max_bounces
    if quality.clamp_stops > 0:
        settings[layout.CLAMP] = saturation_luminance(placed.view.lens_for(occasion.key)) * 2.0**quality.clamp_stops
    settings[layout.SEED] = seed & 0xFFFFFFFF
    settings[layout.GROUP_SUN], settings[layout.GROUP_SKY] = 0, 1
    settings[layout.GROUP_BACKDROP] = len(groups.daylight) - 1
    settings[layout.GROUP_SURFACES] = len(groups.daylight)
    settings[layout.SUN_ON], settings[layout.SKY_ON] = float(day.sun_up), 1.0
    settings[layout.EMITTED_TOTAL] = emitted_total
    settings[layout.SOFTEN] = quality.soften
    settings[layout.SPLITS] = quality.splits
    settings[layout.LIFT] = min(MOST_LIFT_M, LIFT_SHARE * float((geometry.high - geometry.low).max()))
    settings[layout.three(layout.ZERO)] = -placed.origin
    settings[layout.FRAME_HEIGHT] = rows
    settings[layout.AIR_ON] = float(occasion.air.on)
    settings[layout.BEAMS] = beams
    settings[layout.SKY_LUX] = day.dome.horizontal_illuminance_lx
    settings[layout.DISC_ON] = float(occasion.sun.disc)
    picture = occasion.sky.picture if occasion.sky.model == "picture" else None
    settings[layout.HAZE_ON] = float(occasion.sky.haze and picture is None)
    if picture is not None and picture.projected:
        settings[layout.PROJECT_HEIGHT], settings[layout.PROJECT_RADIUS] = picture.height_m, picture.radius_m
    settings[layout.DOME_SHARE], settings[layout.SELDOM] = daylight.DOME_SHARE, 1.0
    return settings
