"""The sun, the sky, openings and the air as the tables that kernels read."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.project.air import Air
from valleylight.core.project.description import Opening
from valleylight.core.sky.build import SkyLight
from valleylight.core.sky.dome import solid_angles
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.sampling.sobol import basis

F32 = np.float32


def air_array(air: Air, low: NDArray[np.float64], high: NDArray[np.float64]) -> NDArray[np.float64]:
    """The air's record (22,); `low`, `high` bound the stage, whose surroundings unbounded air reaches far beyond."""
    row = np.zeros(layout.AIR_WIDTH)
    if air.extent == "box":
        corners = (*air.low, *air.high)
    else:
        reach = 10 * max(float((high - low).max()), 1000.0)
        corners = (*(low - reach), *(high + reach))
    row[layout.AIR_BOX : layout.AIR_BOX + 6] = corners
    row[layout.AIR_EXTINCTION], row[layout.AIR_BASE] = 1.0 / air.free_path_m, air.base_height_m
    row[layout.AIR_FALL] = 1.0 / air.fall_m if air.fall_m else 0.0
    row[layout.three(layout.AIR_ALBEDO)] = air.colour
    row[layout.AIR_FORWARD], row[layout.AIR_BACK], row[layout.AIR_BACK_SHARE] = air.forward, air.back, air.back_share
    row[layout.AIR_UNEVEN], row[layout.AIR_FINENESS] = air.unevenness, 1.0 / air.uneven_size_m
    row[layout.three(layout.AIR_DRIFT)] = air.drift
    row[layout.AIR_MULTIPLE] = float(air.multiple)
    row[layout.AIR_BEAMS_ONLY] = float(air.beams_only)
    return row


def sky_arrays(sky: SkyLight, haze_times: float = 1.0) -> dict[str, object]:
    """A sky with its sampling tables; far things fade so many times as quickly as in its air."""
    dome = sky.dome
    omega = solid_angles(len(dome.rgb))[:, None]
    # A floor of the mean keeps every direction within reach, so that interpolated edges are never missed.
    luminance = dome.luminance
    weight = (luminance + 0.02 * luminance.mean()) * omega
    weight /= weight.sum()
    rows = weight.sum(1)
    conditional = np.concatenate([np.zeros((len(rows), 1)), np.cumsum(weight, 1)], 1) / rows[:, None]
    conditional[:, -1] = 1.0
    marginal = np.concatenate([[0.0], np.cumsum(rows)])
    marginal[-1] = 1.0
    return {
        "backdrop": sky.backdrop, "haze": np.concatenate([sky.haze[:1] * haze_times, sky.haze[1:]]), "cloud_shadow": sky.shadow, "cloud_frame": sky.shadow_frame,
        "dome": dome.rgb, "dome_density": (weight / omega).astype(F32), "dome_marginal": marginal,
        "dome_conditional": conditional,
    }  # fmt: skip


def sun_array(
    direction: NDArray[np.float64], radius_deg: float, illuminance_rgb: NDArray[np.float64]
) -> NDArray[np.float64]:
    """The sun's disc: its luminance is its normal illuminance over its solid angle."""
    cos_max = float(np.cos(np.radians(radius_deg)))
    omega = 2 * np.pi * (1 - cos_max)
    return np.concatenate([direction, [cos_max], illuminance_rgb / omega, [1 / omega], basis(*direction)])


def opening_array(openings: tuple[Opening, ...]) -> NDArray[np.float64]:
    """Openings (P, 20): centre, half edges u and v, inward normal, area, the room's box (endless here), a tenth of its side.
    Of more than MOST_OPENINGS the largest are kept."""
    if not openings:
        return np.zeros((0, 20))
    rows = []
    for o in openings:
        u, v, n = np.array(o.half_u), np.array(o.half_v), np.array(o.inward)
        area = 4 * float(np.linalg.norm(np.cross(u, v)))
        rows.append(np.concatenate([
            o.centre, u, v, n / np.linalg.norm(n), [area], [-np.inf] * 3, [np.inf] * 3, [0.1 * np.sqrt(area)],
        ]))  # fmt: skip
    rows.sort(key=lambda row: -row[12])
    return np.array(rows[: layout.MOST_OPENINGS])
