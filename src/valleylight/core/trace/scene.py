"""Everything a kernel reads, put together: geometry, surfaces, daylight, fixtures, air."""

from __future__ import annotations

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from valleylight.core.project.air import Air
from valleylight.core.project.description import Opening
from valleylight.core.sky.build import SkyLight
from valleylight.core.sky.dome import solid_angles
from valleylight.core.trace import lamplight, layout

F32 = np.float32
GRID_CELL_M, GRID_CELLS_MOST = 1.2, 40


class SceneArrays(NamedTuple):
    """Everything a kernel reads; shapes beside each field."""

    handle: int  # Embree scene of everything
    glass: int  # Embree scene of what lets light by, 0 for none
    glass_first: NDArray[np.int64]  # (N,) first triangle record of a geometry of `glass`
    glass_transform: NDArray[np.int64]  # (N,) row of `transforms` of a geometry of `glass`
    triangles: NDArray[np.float32]  # (T, 32) corner, edges, normals, uv, material, fixture + 1, sharp edges, object
    geometry_first: NDArray[np.int64]  # (N,) first triangle record of an Embree geometry
    geometry_transform: NDArray[np.int64]  # (N,) row of `transforms`, -1 where the geometry stands in the world
    geometry_object: NDArray[np.int64]  # (N,) object of an instance
    transforms: NDArray[np.float32]  # (K, 21) 3 x 4 matrix to the world, 3 x 3 matrix of normals
    objects: NDArray[np.float32]  # (O, 2) receives bounced light, shows only shadow
    materials: NDArray[np.float32]  # (M, 50)
    pixels: NDArray[np.uint8]  # all textures, flat
    texture_info: NDArray[np.int64]  # (X, 3) offset, width, height
    decode: NDArray[np.float32]  # (256,) sRGB code to linear
    linear: NDArray[np.float32]  # (256,) code / 255
    dome: NDArray[np.float32]  # (R, C, 3) cd/m2
    backdrop: NDArray[np.float32]  # (R', C', 3) cd/m2, the sky as it is seen sharply
    haze: NDArray[np.float64]  # (1 + C, 3) extinction of clear air per m, horizon by azimuth in cd/m2
    cloud_shadow: NDArray[np.float32]  # (N, N) share of the sun under a periodic cloud field, or empty
    cloud_frame: NDArray[np.float64]  # (8,) see daylight.through_cloud
    dome_density: NDArray[np.float32]  # (R, C) per sr
    dome_marginal: NDArray[np.float64]  # (R + 1,)
    dome_conditional: NDArray[np.float64]  # (R, C + 1)
    sun: NDArray[np.float64]  # (14,) direction, cos of radius, luminance RGB, density per sr, basis
    openings: NDArray[np.float64]  # (P, 20) see opening_array
    sun_ways: NDArray[np.float64]  # (S, 3, 4) see daylight.ways_of_sun
    sunlit: NDArray[np.float32]  # (M, 32) see sunlit.py
    sunlit_brief: NDArray[np.float32]  # (M, 8)
    lamps: NDArray[np.float32]  # (L, 24)
    lamp_of: NDArray[np.int64]  # (N,) row of `lamps` of each fixture that stands in the stage, -1 where it is off
    profiles: NDArray[np.float32]  # (F, 73, 361) cd
    lamp_points: NDArray[np.float32]  # (M, 6) points and normals of emitting meshes, see lamplight
    inclusion: NDArray[np.uint8]  # (S, O) which objects a fixture with a list of its own lights; row 0 unused
    beam_lamps: NDArray[np.int64]  # (B,) fixtures whose beam shows in clear air
    grid_box: NDArray[np.float64]  # (6,) low corner, inverse cell size
    grid_counts: NDArray[np.int64]  # (3,)
    grid_cdf: NDArray[np.float32]  # (cells, L + 1)
    emitters: NDArray[np.float32]  # (E, 16)
    emitter_triangle: NDArray[np.int64]  # (E,) their triangle records, -1 for those that cast no shadow
    emitter_cdf: NDArray[np.float64]  # (1, E + 1)
    air: NDArray[np.float64]  # (21,)
    net: NDArray[np.float64]  # (11,) region, cell size, cells, radius of the photons
    photons: NDArray[np.float32]  # (P, 10)
    photon_cells: NDArray[np.int64]  # (cells + 1,) first photon of a cell


NO_NET: dict[str, object] = {
    "net": np.zeros(11), "photons": np.zeros((0, 10), F32), "photon_cells": np.zeros(2, np.int64)
}  # fmt: skip


def air_array(air: Air, low: NDArray[np.float64], high: NDArray[np.float64]) -> NDArray[np.float64]:
    """The air's record (21,); `low`, `high` bound the stage, whose surroundings unbounded air reaches far beyond."""
    row = np.zeros(layout.AIR_WIDTH)
    if air.extent == "box":
        row[0:3], row[3:6] = air.low, air.high
    else:
        reach = 10 * max(float((high - low).max()), 1000.0)
        row[0:3], row[3:6] = low - reach, high + reach
    row[6], row[7], row[8] = 1.0 / air.free_path_m, air.base_height_m, 1.0 / air.fall_m if air.fall_m else 0.0
    row[9:12] = air.colour
    row[12], row[13], row[14] = air.forward, air.back, air.back_share
    row[15], row[16], row[17:20] = air.unevenness, 1.0 / air.uneven_size_m, air.drift
    row[20] = float(air.multiple)
    return row


def sky_arrays(sky: SkyLight) -> dict[str, object]:
    """A sky with its sampling tables."""
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
        "backdrop": sky.backdrop, "haze": sky.haze, "cloud_shadow": sky.shadow, "cloud_frame": sky.shadow_frame,
        "dome": dome.rgb, "dome_density": (weight / omega).astype(F32), "dome_marginal": marginal,
        "dome_conditional": conditional,
    }  # fmt: skip


def sun_array(
    direction: NDArray[np.float64], radius_deg: float, illuminance_rgb: NDArray[np.float64]
) -> NDArray[np.float64]:
    """The sun's disc: its luminance is its normal illuminance over its solid angle."""
    from valleylight.core.trace.sampling import basis

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


@dataclass(frozen=True)
class LampGrid:
    """The grid that chooses fixtures, with what it was made from: (cells, L) weights for records of L fixtures."""

    arrays: dict[str, object]
    records: NDArray[np.float32]
    profiles: NDArray[np.float32]
    weights: NDArray[np.float32]


def lamp_grid(
    lamps: NDArray[np.float32], profiles: NDArray[np.float32], before: LampGrid | None = None
) -> LampGrid:
    """The grid that chooses fixtures: its box reaches 6 m beyond the outermost ones. What fixtures weighed in the grid `before`
    stays where they have not changed."""
    if not len(lamps):
        empty: dict[str, object] = {
            "grid_box": np.array([0, 0, 0, 1, 1, 1], float), "grid_counts": np.ones(3, np.int64),
            "grid_cdf": np.zeros((1, 1), F32),
        }  # fmt: skip
        return LampGrid(empty, lamps, profiles, np.zeros((1, 0), F32))
    # Whole metres, so that the box stays as it is while a fixture moves a little.
    low = np.floor(lamps[:, 0:3].min(0).astype(float)) - [6, 6, 4]
    high = np.ceil(lamps[:, 0:3].max(0).astype(float)) + [6, 6, 2]
    counts = np.clip(np.ceil((high - low) / GRID_CELL_M), 1, GRID_CELLS_MOST).astype(np.int64)
    if len(lamps) > 100:
        counts = np.maximum(counts // 2, 1)
    box = np.concatenate([low, counts / (high - low)])
    weights, which = np.zeros((int(counts.prod()), len(lamps)), F32), np.arange(len(lamps))
    if (
        before is not None and before.records.shape == lamps.shape and before.weights.shape == weights.shape
        and np.array_equal(before.arrays["grid_box"], box) and np.array_equal(before.profiles, profiles)  # type: ignore[arg-type]
    ):  # fmt: skip
        weights[:] = before.weights
        which = np.flatnonzero((before.records != lamps).any(1))
    # Cells stand by themselves; every core takes a share of them.
    threads = os.cpu_count() or 1
    edges = np.linspace(0, len(weights), threads + 1).astype(int)
    with ThreadPoolExecutor(threads) as pool:
        parts = pool.map(
            lambda k: lamplight.weigh_cells(
                lamps, profiles, box, counts, which, weights, int(edges[k]), int(edges[k + 1])
            ),
            range(threads),
        )
        list(parts)
    cdf = np.zeros((len(weights), len(lamps) + 1), np.float64)
    np.cumsum(weights, axis=1, out=cdf[:, 1:])
    total = cdf[:, -1:]
    shares = np.where(total > 0, cdf / np.maximum(total, 1e-300), np.linspace(0, 1, len(lamps) + 1))
    shares[:, -1] = 1.0
    arrays: dict[str, object] = {"grid_box": box, "grid_counts": counts, "grid_cdf": shares.astype(F32)}
    return LampGrid(arrays, lamps, profiles, weights)
