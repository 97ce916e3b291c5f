"""The weather of an occasion over a stage that stands: tables of what lies on it, and the meshes of snow and of what falls.

Near the lens a grid of a tenth of a metre or so holds the layers, with the body of the snow and the puddles; about it a
coarse one; beyond, snow and wet follow from the slope alone.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass, replace
from functools import cache

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter

from valleylight.core import sun as sun_model
from valleylight.core.project.weather import Weather
from valleylight.core.stage.model import Material, Mesh
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.scene import NO_WEATHER, SceneArrays
from valleylight.core.trace.scene.leaving import Litter
from valleylight.core.trace.scene.stages import Placed
from valleylight.core.trace.weather.falling import lean
from valleylight.core.trace.weather.layers import NO_LEAVES, NONE, Grid, Layers, Links, evened, find_layers, links_of
from valleylight.core.trace.weather.noise import turbulence_at
from valleylight.core.trace.weather.sheets import snow_sheets
from valleylight.core.weather import snow as optics
from valleylight.core.weather.flooding import water_m
from valleylight.core.weather.slopes import SHELTERED, mean_square_slope

F32 = np.float32
#: Side of the near and of the far grid in metres; directions asked of a place.
NEAR_M, FAR_M, TRIES = 60.0, 480.0, 10
#: The near grid moves with the lens by such steps, so that small moves build nothing anew.
STEP_M = 6.0
#: Depth that an hour of sun square on it takes from snow, in metres (common practice: half a centimetre an hour about freezing point).
MELTED_M_H = 0.005
#: Hours at which the sun is asked.
HOURS = (9.0, 10.5, 12.0, 13.5, 15.0)
#: Size of the wind's wavelets in m, the step over which the tracer takes their slope, and the refractive indices of what counts as water.
WAVELET_M, STEP, WATERY = 0.35, 0.02, (1.30, 1.37)
#: How far leaves are blown from under their crowns in m, how much of the ground each that stands over a place covers, how many times as
#: many lie where nothing of the sky is open.
SPREAD_M, LEAVES_COVER, DRIFTED = 0.9, 0.22, 1.5
#: How far the depth of snow swings about its mean (common practice).
DRIFTS = 0.3
RAIN_CONE_DEG, RAIN_M_S, SNOW_M_S = 9.0, 6.0, 2.0


@dataclass(frozen=True)
class Lying:
    """What lies: the arrays that kernels read, and the body of the snow, which may be empty."""

    arrays: dict[str, object]
    body: Mesh | None


def wind_of(weather: Weather, north_deg: float) -> NDArray[np.float64]:
    """Where the wind blows to, in m/s (3,), in the model's frame."""
    from_there = sun_model.direction(weather.wind.from_deg - north_deg, 0.0)
    return np.asarray(-weather.wind.speed_m_s * from_there)


def near_grid(placed: Placed, cells: int) -> Grid:
    """The grid before a lens: most of it in front."""
    here, there = np.array(placed.view.position[:2]), np.array(placed.view.target[:2])
    ahead = there - here
    ahead = ahead / max(float(np.linalg.norm(ahead)), 1e-9)
    middle = np.round((here + 0.36 * NEAR_M * ahead) / STEP_M) * STEP_M
    return Grid(float(middle[0]) - NEAR_M / 2, float(middle[1]) - NEAR_M / 2, NEAR_M / (cells - 1), cells)


def far_grid(near: Grid, cells: int) -> Grid:
    x, y = near.x + NEAR_M / 2 - FAR_M / 2, near.y + NEAR_M / 2 - FAR_M / 2
    return Grid(x, y, FAR_M / (cells - 1), cells)


def materials_of(weather: Weather) -> tuple[Material, Material, Material]:
    """Snow that lies, drops, flakes."""
    white = optics.colour(weather.snow.grain_mm)
    return (
        Material(
            name="snow", base=white, roughness=1.0, specular=0.0, uncovered=True, pattern="clouds", pattern_m=0.16,
            pattern_tint=white, bump_m=0.006,
        ),
        Material(name="drops", base=(0.9, 0.9, 0.9), roughness=1.0, specular=0.0, translucency=0.5, scarce=True, uncovered=True),
        Material(name="flakes", base=white, roughness=1.0, specular=0.0, translucency=0.4, scarce=True, uncovered=True),
    )  # fmt: skip


def in_wind(materials: tuple[Material, ...], weather: Weather) -> tuple[Material, ...]:
    """Materials with open water roughened by the wind: relief whose slopes vary as Cox and Munk measured, under the wind that is felt
    there. Waves of the artist's own stay beneath it."""
    speed = SHELTERED * weather.wind.speed_m_s
    if speed <= 0:
        return materials
    height = WAVELET_M * float(np.sqrt(mean_square_slope(speed) / _steepness()))
    return tuple(
        replace(m, pattern="clouds", pattern_m=WAVELET_M, bump_m=height) if m.solid_glass and WATERY[0] <= m.index <= WATERY[1] else m
        for m in materials
    )  # fmt: skip


@cache
def _steepness() -> float:
    """Mean square slope of the pattern of clouds of size 1 and height 1, as `relief.bumped` takes it."""
    at = np.random.default_rng(4).uniform(0, 400, (2, 40_000))
    x, y = at
    here = turbulence_at(x, y, 4)
    return float(
        sum(((0.5 * (turbulence_at(x + a, y + b, 4) - here) / STEP) ** 2).mean() for a, b in ((STEP, 0.0), (0.0, STEP)))
    )


def lying_on(
    scene: SceneArrays, settings: NDArray[np.float64], placed: Placed, top_m: float, near: Grid, snow_material: int,
    fallen: Litter, keep: Callable[[Hashable, Callable[[], Layers]], Layers],
) -> Lying:  # fmt: skip
    """What lies on a stage, whose highest place is `top_m` above its origin. Layers are kept by what they depend on: depths and amounts
    change more often than what stands there."""
    weather = placed.occasion.weather
    snow, rain = weather.snow, weather.rain
    north = placed.description.site.north_deg
    wind = SHELTERED * wind_of(weather, north)
    by_snow = snow.depth_cm > 0
    axis = lean(weather, wind, SNOW_M_S if by_snow else RAIN_M_S)
    cone = snow.cone_deg if by_snow else RAIN_CONE_DEG
    suns = _suns(placed) if by_snow and snow.sun_hours > 0 else np.zeros((0, 3))
    w = np.zeros(layout.WEATHER_WIDTH)
    w[layout.WEATHER_ON], w[layout.WEATHER_SNOW] = 1.0, snow.depth_cm / 100
    w[layout.three(layout.WEATHER_COLOUR)] = optics.colour(snow.grain_mm)
    w[layout.WEATHER_BARE], w[layout.WEATHER_PATCH] = -1.0, snow.patch_m
    w[layout.WEATHER_WET] = rain.wet
    kind_of = fallen.kind_of if fallen.lies else NO_LEAVES
    w[layout.WEATHER_STIR] = min(0.02 * rain.mm_h**0.5 + 0.004 * weather.wind.speed_m_s, 0.2)
    tables, body = [], None
    for grid, tries in ((near, TRIES), (far_grid(near, max(near.nodes // 2, 16)), max(TRIES // 2, 4))):

        def find(grid: Grid = grid, tries: int = tries) -> Layers:
            return find_layers(scene, settings, grid, top_m + 1.0, axis, cone, tries, suns, kind_of)

        layers = keep((grid, axis.tobytes(), cone, tries, suns.tobytes(), kind_of.tobytes()), find)
        links = links_of(layers, grid.cell_m)
        open_to = evened(layers.open, links, 2)
        if snow.bare > 0 and grid is near:
            w[layout.WEATHER_BARE] = _threshold(grid, snow.patch_m, snow.bare)
        depth = _depth(weather, grid, layers, open_to, links, float(w[layout.WEATHER_BARE]))
        water = _water(weather, grid, layers, open_to) if grid is near else np.zeros_like(depth)
        litter = _litter(grid, layers, open_to, fallen) if fallen.lies else np.zeros((*depth.shape, 4))
        told = np.stack([layers.z, depth, rain.wet * open_to, water], -1)
        tables.append(np.concatenate([told, litter], -1).astype(F32))
        first = layout.WEATHER_NEAR if grid is near else layout.WEATHER_FAR
        w[first : first + 3] = grid.x, grid.y, 1.0 / grid.cell_m
        if grid is near and by_snow:
            body = snow_sheets(scene, settings, grid, layers, links, depth, snow_material).mesh
    return Lying(
        {"weather": w, "lying": tables[0], "lying_far": tables[1]},
        body if body is not None and len(body.triangles) else None,
    )


def nothing_lying() -> Lying:
    return Lying(dict(NO_WEATHER), None)


def _suns(placed: Placed) -> NDArray[np.float64]:
    """Directions towards the sun of the day, in the model's frame, where it is up."""
    site, occasion = placed.description.site, placed.occasion
    azimuth, altitude = sun_model.positions_of_day(
        site.latitude_deg, site.longitude_deg, site.time_zone, occasion.when.date(), np.array(HOURS)
    )
    up = altitude > 1.0
    return np.array([
        sun_model.direction(a - site.north_deg, h) for a, h in zip(azimuth[up], altitude[up], strict=True)
    ]).reshape(-1, 3)  # fmt: skip


def patches(x: NDArray[np.float64], y: NDArray[np.float64], size_m: float) -> NDArray[np.float64]:
    """Noise whose low values are bare patches, at places (N,): that of `pattern.turbulence` of three octaves."""
    return turbulence_at(x / size_m, y / size_m, 3)


def _over(grid: Grid, size_m: float, shift_m: tuple[float, float] = (0.0, 0.0)) -> NDArray[np.float64]:
    """The noise of patches at the nodes (N, N) of a grid."""
    at = np.arange(grid.nodes) * grid.cell_m
    x, y = np.meshgrid(grid.x + at + shift_m[0], grid.y + at + shift_m[1])
    return patches(x.ravel(), y.ravel(), size_m).reshape(x.shape)


def _threshold(grid: Grid, size_m: float, share: float) -> float:
    """The value of the patches' noise below which a share of the ground lies."""
    at = np.arange(0, grid.nodes, 3) * grid.cell_m
    x, y = np.meshgrid(grid.x + at, grid.y + at)
    return float(np.quantile(patches(x.ravel(), y.ravel(), size_m), min(share, 1.0))) if share < 1 else 9.0


def slope_share(up: NDArray[np.float64], rough: NDArray[np.float64]) -> NDArray[np.float64]:
    """Share of snow that stays on slopes by the rise of their normal and their roughness: all below 32 degrees and none above 58, and on
    what is smooth as glass and metal 20 degrees less (common practice)."""
    smooth = np.radians(20.0) * np.clip((0.3 - rough) / 0.25, 0, 1)
    t = np.clip(
        (up - np.cos(np.radians(58.0) - smooth))
        / (np.cos(np.radians(32.0) - smooth) - np.cos(np.radians(58.0) - smooth)),
        0,
        1,
    )
    return np.asarray(t * t * (3 - 2 * t))


def _depth(
    weather: Weather, grid: Grid, layers: Layers, open_to: NDArray[np.float64], links: Links, bare_below: float
) -> NDArray[np.float64]:
    """Depth of the snow on each layer in m."""
    snow = weather.snow
    if snow.depth_cm <= 0:
        return np.zeros_like(open_to)
    depth = snow.depth_cm / 100 * open_to * slope_share(layers.normal[..., 2], layers.rough)
    if snow.sun_hours > 0:
        depth = depth - MELTED_M_H * snow.sun_hours * evened(layers.sunned, links, 2)
    depth = np.maximum(evened(depth, links, 2), 0.0)
    if snow.bare > 0:
        depth = depth * np.clip((_over(grid, snow.patch_m)[..., None] - bare_below) / 0.12, 0, 1)
    # The wind leaves low drifts.
    depth = depth * (1 + DRIFTS * _over(grid, 2.7, (-71.0, 13.0))[..., None])
    return np.where(layers.z > NONE, depth, 0.0)


def _litter(grid: Grid, layers: Layers, open_to: NDArray[np.float64], fallen: Litter) -> NDArray[np.float64]:
    """Share of the ground that fallen leaves cover, and their colour (N, N, LAYERS, 4). They spread from under their crowns, and the wind
    leaves more of them where it is sheltered: at walls and edges (common practice)."""
    out = np.zeros((*layers.z.shape, 4))
    by_kind = layers.leaves @ np.column_stack([fallen.share, fallen.share[:, None] * fallen.colour])
    reach = SPREAD_M / grid.cell_m
    for number in range(layers.z.shape[2]):
        here = (layers.z[..., number] > NONE) & (layers.normal[..., number, 2] > 0.6)
        spread = gaussian_filter(by_kind[..., number, :] * here[..., None], (reach, reach, 0))
        count = spread[..., 0] * (1.0 + DRIFTED * (1.0 - np.clip(open_to[..., number], 0, 1)))
        out[..., number, 0] = np.where(here, 1.0 - np.exp(-LEAVES_COVER * count), 0.0)
        out[..., number, 1:] = spread[..., 1:] / np.maximum(spread[..., :1], 1e-9)
    return out


def _water(weather: Weather, grid: Grid, layers: Layers, open_to: NDArray[np.float64]) -> NDArray[np.float64]:
    """Depth of standing water on each layer in m. Ground has small hollows of its own beside those of its shape."""
    rain = weather.rain
    out = np.zeros_like(open_to)
    if rain.puddles <= 0:
        return out
    small = _over(grid, 2.2, (311.0, -97.0))
    # Water lies on the lowest thing that is open: ground, and on what stands above it where that is all there is.
    for number in range(layers.z.shape[2]):
        here = (layers.z[..., number] > NONE) & (open_to[..., number] > 0.3) & (layers.normal[..., number, 2] > 0.96)
        ground = np.where(here, layers.z[..., number] + small * rain.hollow_mm / 1000, np.nan)
        out[..., number] = water_m(ground, rain.puddles) * here
    return out
