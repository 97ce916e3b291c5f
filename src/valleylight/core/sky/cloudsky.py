"""Cloud layers lit by the hour's sun and laid over the clear sky, and their shadow on the ground."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter

from valleylight.core.project.sky import CloudLayer, Clouds
from valleylight.core.sky import clear as kernels
from valleylight.core.sky import cloudlight
from valleylight.core.sky.atmosphere import Atmosphere
from valleylight.core.sky.cloudfield import CELLS, TILE_M, block_of_noise, field_of
from valleylight.core.sky.frames import Frame, whole

Array = NDArray[np.float64]
#: Sun altitudes, in degrees about the horizon and up, for which its light at a layer is tabulated.
SUN_TABLE = 48
#: Share of the clear air's light that is left where clouds shade it wholly (common practice).
SHADED_AIR = 0.3
THREADS = 2
#: Rows of the sky that a thread lays at a time.
BAND = 8


@dataclass(frozen=True)
class LitLayer:
    """A layer with the optical depth towards the sun and straight up from each of its cells, (CELLS, CELLS, LEVELS)."""

    layer: CloudLayer
    density: NDArray[np.float32]
    busy: NDArray[np.uint8]
    to_sun: NDArray[np.float32]
    above: NDArray[np.float32]

    @property
    def shadow(self) -> NDArray[np.float32]:
        """Share of the sun that passes the layer, at its base; shape (CELLS, CELLS)."""
        return np.exp(-self.to_sun[:, :, 0])


def _sun_in_field(clouds: Clouds, azimuth_rad: float, altitude_rad: float) -> tuple[float, float, float]:
    """The sun's direction in the field's own frame."""
    turn = np.radians(clouds.turn_deg)
    x, y = np.cos(altitude_rad) * np.sin(azimuth_rad), np.cos(altitude_rad) * np.cos(azimuth_rad)
    return (
        float(x * np.cos(turn) + y * np.sin(turn)), float(y * np.cos(turn) - x * np.sin(turn)), float(np.sin(altitude_rad))
    )  # fmt: skip


def _detail_m(layer: CloudLayer) -> float:
    """Metres to a cell of the noise that tears it, see `SeenLayer.detail_m`."""
    if layer.kind not in ("heaped", "cells", "sheet"):
        return 1e9
    detail = max(layer.depth_m / 45, 8.0)
    return -detail if layer.kind == "sheet" else detail


def _raggedness(layer: CloudLayer) -> float:
    if layer.kind in ("heaped", "cells"):
        return layer.ragged
    return 0.35 * layer.ragged if layer.kind == "sheet" else 0.0


def as_seen(layer: CloudLayer, seed: int) -> NDArray[np.float32]:
    """The field of a layer with its torn edges, in the mean over its cells."""
    density = field_of(layer, seed).density
    if _raggedness(layer) <= 0:
        return density
    result, block = np.empty_like(density), block_of_noise(seed)

    def columns(low: int) -> None:
        cloudlight.shape_layer(
            density,
            block,
            _raggedness(layer),
            _detail_m(layer),
            layer.base_m,
            layer.depth_m,
            low,
            low + CELLS // 8,
            result,
        )

    with ThreadPoolExecutor(THREADS) as pool:
        list(pool.map(columns, range(0, CELLS, CELLS // 8)))
    return result


@lru_cache(maxsize=6)
def _depths(layer: CloudLayer, seed: int) -> tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.uint8]]:
    """What does not change with the hour: optical depth per metre by level, as `light_layer` takes it; the optical depth straight
    up from each cell (CELLS, CELLS, LEVELS); and where `see_layer` need not look."""
    density = field_of(layer, seed).density
    per_m = as_seen(layer, seed) * np.float32(layer.density)
    steps = per_m.astype(float) * (layer.depth_m / per_m.shape[2])
    above = np.cumsum(steps[:, :, ::-1], 2)[:, :, ::-1] - steps / 2
    by_level = np.ascontiguousarray(np.concatenate([per_m, per_m, per_m[:, :1]], 1).transpose(2, 0, 1))
    held = (density > cloudlight.LEAST_DENSITY).any(2)
    held |= np.roll(held, -1, 0)
    held |= np.roll(held, -1, 1)
    return by_level, np.ascontiguousarray(above, np.float32), held.astype(np.uint8)


@lru_cache(maxsize=6)
def lit_layer(layer: CloudLayer, seed: int, sun: tuple[float, float, float]) -> LitLayer:
    """A layer under a sun, whose direction is in the field's frame; kept for the hour."""
    by_level, above, busy = _depths(layer, seed)
    to_sun = np.empty((by_level.shape[0], CELLS, CELLS), np.float32)

    def columns(low: int) -> None:
        cloudlight.light_layer(by_level, layer.depth_m, *sun, low, low + CELLS // 8, to_sun)

    with ThreadPoolExecutor(THREADS) as pool:
        list(pool.map(columns, range(0, CELLS, CELLS // 8)))
    return LitLayer(layer, field_of(layer, seed).density, busy, np.ascontiguousarray(to_sun.transpose(1, 2, 0)), above)


@dataclass(frozen=True)
class Laid:
    """A layer ready to be laid over a sky: itself, the light that falls on it, and how much of the clear air's light is left before it."""

    seen: cloudlight.SeenLayer
    light: cloudlight.LayerLight
    haze: float


def layers_lit(
    clouds: Clouds,
    air: Atmosphere,
    open_sky_lx: Array,
    sun_azimuth_rad: float,
    sun_altitude_deg: float,
    strength: float,
    ground_rgb: Array,
) -> list[Laid]:
    """The layers of a cloud field from the highest down. `open_sky_lx` (3,) is what the clear sky sends to level ground; `strength` scales
    the sun (below 1 for the moon)."""
    sun = _sun_in_field(clouds, sun_azimuth_rad, np.radians(sun_altitude_deg))
    true_sun = np.array([
        np.cos(np.radians(sun_altitude_deg)) * np.sin(sun_azimuth_rad),
        np.cos(np.radians(sun_altitude_deg)) * np.cos(sun_azimuth_rad), np.sin(np.radians(sun_altitude_deg)),
    ])  # fmt: skip
    low_sun, high_sun = np.radians(sun_altitude_deg - 2.5), np.radians(sun_altitude_deg + 2.5)
    turn = np.radians(clouds.turn_deg)
    share, laid = 1.0, []
    for lit in (lit_layer(layer, clouds.seed, sun) for layer in sorted(clouds.layers, key=lambda x: -x.base_m)):
        layer = lit.layer
        above_lx = open_sky_lx * (0.4 + 0.6 * share)
        share *= float(lit.shadow.mean())
        middle = layer.base_m + layer.depth_m / 2
        table = strength * np.stack([
            air.direct_rgb_lx(float(np.degrees(a)), middle) for a in np.linspace(low_sun, high_sun, SUN_TABLE)
        ])  # fmt: skip
        beneath = ground_rgb * (open_sky_lx + air.direct_rgb_lx(sun_altitude_deg) * strength * max(float(true_sun[2]), 0.0)) * (
            0.25 + 0.75 * share
        )  # fmt: skip
        steps = 20 if layer.kind in ("heaped", "sheet") else 7
        seen = cloudlight.SeenLayer(
            lit.density, lit.busy, lit.to_sun, lit.above, block_of_noise(clouds.seed), layer.density, layer.base_m, layer.depth_m,
            _raggedness(layer), _detail_m(layer), float(np.cos(turn)), float(np.sin(turn)), clouds.east_m, clouds.north_m, steps,
        )  # fmt: skip
        light = cloudlight.LayerLight(
            true_sun,
            np.maximum(table, 0),
            float(low_sun),
            float(high_sun),
            above_lx,
            beneath,
            air.extinction_rgb_per_m(),
        )
        laid.append(Laid(seen, light, SHADED_AIR + (1 - SHADED_AIR) * share))
    return laid


def lay(layers: list[Laid], sky: Array, frame: Frame, north_rad: float) -> Array:
    """A clear sky (R, C, 3) in cd/m2 over a frame, with clouds before it."""
    out, rows = sky.copy(), len(sky)
    first = max(int(np.floor(-frame.bottom / frame.cell)), 0)
    for layer in layers:

        def band(low: int, layer: Laid = layer) -> None:
            scratch = np.zeros(cloudlight.ANSWER + 3)
            kernels.lay_clouds(
                layer.seen, layer.light, layer.haze, north_rad, sky, frame, low, min(low + BAND, rows), scratch, out
            )

        with ThreadPoolExecutor(THREADS) as pool:
            list(pool.map(band, range(first, rows, BAND)))
        # Smooth layers are crossed in few steps, whose grain the mean of neighbours takes away.
        if layer.seen.ragged <= 0 or layer.seen.detail_m < 0:
            around = "wrap" if frame == whole(rows) else "nearest"
            out[first:] = uniform_filter(out[first:], (3, 3, 0), mode=("nearest", around, "nearest"))
    return out


def shadow_map(clouds: Clouds, sun_azimuth_rad: float, sun_altitude_deg: float) -> tuple[NDArray[np.float32], Array]:
    """Share of the sun on the ground below a cloud field: the map (N, N), and its frame (see `cloudshadow.through_cloud`)
    in the true directions east and north. An empty map without clouds or sun."""
    frame = np.zeros(8)
    if not clouds.layers or sun_altitude_deg <= 0:
        return np.zeros((0, 0), np.float32), frame
    sun = _sun_in_field(clouds, sun_azimuth_rad, np.radians(sun_altitude_deg))
    layers = sorted(clouds.layers, key=lambda x: x.base_m)
    turn = np.radians(clouds.turn_deg)
    slope = min(1 / max(np.tan(np.radians(sun_altitude_deg)), 1e-3), 60.0)
    across = slope * np.array([np.sin(sun_azimuth_rad), np.cos(sun_azimuth_rad)])
    total = np.ones((CELLS, CELLS), np.float32)
    cell = TILE_M / CELLS
    for layer in layers:
        shade = lit_layer(layer, clouds.seed, sun).shadow
        # Layers higher up stand further along the sun's way: bring them over the lowest one.
        shift = (layer.base_m - layers[0].base_m) * np.array(sun[:2]) / max(sun[2], 1e-3) / cell
        total *= np.roll(shade, tuple(-np.round(shift).astype(int)), (0, 1))
    frame[:] = (
        np.cos(turn), np.sin(turn), clouds.east_m, clouds.north_m, layers[0].base_m, across[0], across[1], 1 / TILE_M
    )  # fmt: skip
    return np.ascontiguousarray(total), frame
