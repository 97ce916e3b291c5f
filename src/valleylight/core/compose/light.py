"""The light that stands where a cut-out stands: measured there by the tracer, so that it is lit as a thing of the stage would be."""

from __future__ import annotations

import math
from collections import OrderedDict
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.lamps import record
from valleylight.core.measure.direct import lux_by_fixture
from valleylight.core.measure.incident import incident
from valleylight.core.measure.sunhours import reaches
from valleylight.core.project.air import Air
from valleylight.core.project.cutout import CutOut
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.lights.daylight import haze_at
from valleylight.core.trace.scene.compiler import RenderScene

#: Heights at which the light is measured, in shares of a cut-out's own; axes that the cards there face.
HEIGHTS = (0.1, 0.5, 0.9)
AXES = np.array([[1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1]], float)
SAMPLES, KEPT = 64, 400
#: Fixtures that cast a shadow of a cut-out, and the least share of a group's light that one must have for it.
MOST_LAMPS, LEAST_SHARE = 3, 0.08


@dataclass(frozen=True)
class Lamp:
    """A fixture that casts a shadow: its place in m, half its size in m, its group, and its share in the light of that group."""

    place: tuple[float, float, float]
    radius_m: float
    group: str
    share: float


@dataclass(frozen=True)
class LightThere:
    """Illuminance in lx about a place: `around` (3 heights, 6 axes, G, 3) without the straight sun, `sun` (3,) the share of the sun's
    disc that reaches each height, `straight` the share of the sun's light on level ground that comes straight from it."""

    around: NDArray[np.float64]
    sun: NDArray[np.float64]
    straight: float
    lamps: tuple[Lamp, ...]


@dataclass(frozen=True)
class Sunlight:
    """Direction towards the sun (or moon), its half angle in radians, and what falls on a face that looks at it, RGB in lx."""

    towards: NDArray[np.float64]
    radius: float
    normal_lx: NDArray[np.float64]


def sunlight_of(scene: RenderScene) -> Sunlight | None:
    """The sun of a scene at the film's own level, after clouds; None where none shines."""
    day = scene.daylight
    if not day.sun_up or day.direction[2] <= 0.0:
        return None
    through = day.sun_normal_lx / max(float(day.sun_rgb_lx @ LUMINANCE), 1e-9)
    return Sunlight(np.asarray(day.direction, float), math.radians(day.radius_deg), day.sun_rgb_lx * min(through, 1.0))


@dataclass(frozen=True)
class Veil:
    """What the air before a thing does to it: the clear air's share of light over a way and the light it adds in a direction, as the tracer
    has them (`haze`, None where it has none), and the mean free path of a fog in m (None for none)."""

    haze: NDArray[np.float64] | None = None
    fog_path_m: float | None = None

    def clear_air(self, way: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Share of light let through (3,) over a way (3,) from the lens, and the light added (3,) in cd/m2, by Koschmieder's law."""
        if self.haze is None:
            return np.ones(3), np.zeros(3)
        found = haze_at(self.haze, float(way[0]), float(way[1]), float(np.linalg.norm(way)))
        return np.array(found[:3]), np.array(found[3:])

    def through_fog(self, depth_m: NDArray[np.floating]) -> NDArray[np.float32]:
        """Share of light let through by the fog: exp(-d / free path) (Bouguer's law), as dense all the way as at its base."""
        if self.fog_path_m is None:
            return np.ones(depth_m.shape, np.float32)
        return np.asarray(np.exp(-depth_m / self.fog_path_m), np.float32)


def veil_of(scene: RenderScene, air: Air) -> Veil:
    """The air of a scene, and the fog of its occasion where that is everywhere."""
    hazy = scene.settings[layout.HAZE_ON] > 0.0
    foggy = air.on and air.extent == "everywhere" and not air.beams_only
    return Veil(np.asarray(scene.arrays.haze, float) if hazy else None, air.free_path_m if foggy else None)


class Lights:
    """Measures light at cut-outs, and keeps it by place as long as the scene is the same one."""

    def __init__(self) -> None:
        self._scene: RenderScene | None = None
        self._kept: OrderedDict[tuple[float, ...], tuple[int, LightThere]] = OrderedDict()
        self._last: dict[str, LightThere] = {}

    def at(
        self, scene: RenderScene, cutouts: tuple[CutOut, ...], samples: int = SAMPLES, hold: bool = False
    ) -> list[LightThere]:
        """The light about each cut-out, by at least so many paths to each card. With `hold` one that is being carried keeps the light
        that was measured last for it in this scene."""
        if self._scene is not scene:
            self._scene = scene
            self._kept.clear()
            self._last.clear()
        if hold and all(c.key in self._last for c in cutouts):
            return [self._last[c.key] for c in cutouts]
        keys = [(*(round(c, 2) for c in cutout.place), round(cutout.height_m, 1)) for cutout in cutouts]
        new = [k for k in dict.fromkeys(keys) if k not in self._kept or self._kept[k][0] < samples]
        if new:
            for key, found in zip(new, _measured(scene, np.array(new), samples), strict=True):
                self._kept[key] = samples, found
        made = [self._kept[k][1] for k in keys]
        self._last = {c.key: light for c, light in zip(cutouts, made, strict=True)}
        while len(self._kept) > KEPT:
            self._kept.popitem(last=False)
        return made


def _measured(scene: RenderScene, places: NDArray[np.float64], samples: int) -> list[LightThere]:
    """The light about places (N, 4): x, y, z of the feet and the height of what stands there."""
    heights = np.array(HEIGHTS)
    points = np.repeat(places[:, None, :3], len(heights), 1)
    points[..., 2] += places[:, 3:] * heights
    flat = points.reshape(-1, 3)
    cards = np.repeat(flat, len(AXES), 0)
    found = incident(scene, cards, np.tile(AXES, (len(flat), 1)), samples).rgb_lx
    around = found.reshape(len(places), len(heights), len(AXES), -1, 3)
    sun, straight = np.zeros((len(places), len(heights))), np.zeros(len(places))
    shining = sunlight_of(scene)
    if shining is not None and "sun" in scene.group_names:
        g = scene.group_names.index("sun")
        sun = reaches(scene, flat, _over_disc(shining)).mean(1).reshape(len(places), len(heights))
        facing = np.maximum(AXES @ shining.towards, 0)
        direct = sun[:, :, None, None] * facing[None, None, :, None] * shining.normal_lx
        up = around[:, 0, 4, g] @ LUMINANCE
        around[:, :, :, g] = np.maximum(around[:, :, :, g] - direct, 0)
        # On level ground in the sun beside it, whether or not the sun reaches its feet.
        open_ground = float(shining.towards[2] * (shining.normal_lx @ LUMINANCE))
        beside = np.maximum(up - direct[:, 0, 4] @ LUMINANCE, 0)
        straight = open_ground / np.maximum(open_ground + beside, 1e-9)
    lamps = _lamps(scene, points[:, 0], around[:, 0, 4] @ LUMINANCE)
    return [LightThere(a, s, float(d), by) for a, s, d, by in zip(around, sun, straight, lamps, strict=True)]


def _over_disc(sun: Sunlight) -> NDArray[np.float64]:
    """A few directions over the sun's disc (5, 3)."""
    side = np.cross(sun.towards, [0.0, 0.0, 1.0] if abs(sun.towards[2]) < 0.9 else [1.0, 0.0, 0.0])
    side /= np.linalg.norm(side)
    up = np.cross(side, sun.towards)
    off = 0.7 * math.tan(sun.radius)
    made = np.array([sun.towards, *(sun.towards + off * v for v in (side, -side, up, -up))])
    return np.asarray(made / np.linalg.norm(made, axis=1, keepdims=True))


def _lamps(scene: RenderScene, feet: NDArray[np.float64], up_lx: NDArray[np.float64]) -> list[tuple[Lamp, ...]]:
    """The fixtures that light the ground at places (N, 3) most, with their shares in the light (N, G) of their groups there."""
    fixtures = scene.lamps.fixtures
    if not fixtures:
        return [()] * len(feet)
    straight = lux_by_fixture(scene, {}, feet, np.tile([0.0, 0.0, 1.0], (len(feet), 1)))
    numbers = np.array([scene.group_names.index(f.group) if f.group in scene.group_names else -1 for f in fixtures])
    made = []
    for k in range(len(feet)):
        groups = np.where(numbers >= 0, up_lx[k, numbers], 0)
        shares = np.clip(straight[k] / np.maximum(groups, 1e-6), 0, 1)
        shares[straight[k] <= 0] = 0
        strongest = [i for i in np.argsort(-straight[k])[:MOST_LAMPS] if shares[i] >= LEAST_SHARE]
        made.append(tuple(_lamp(scene, int(i), float(shares[i])) for i in strongest))
    return made


def _lamp(scene: RenderScene, number: int, share: float) -> Lamp:
    row = scene.arrays.lamps[number]
    x, y, z = row[record.three(record.PLACE)] + scene.origin
    radius = float(max(row[record.SIZE_U], row[record.SIZE_V], 0.01))
    return Lamp((float(x), float(y), float(z)), radius, scene.lamps.fixtures[number].group, share)
