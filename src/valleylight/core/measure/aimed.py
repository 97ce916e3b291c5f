"""What one fixture does where it is aimed: contact, cone and bounce; and whether its pattern is seen at all."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.stats.qmc import Sobol

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.lamps.compile import orientation
from valleylight.core.measure.pick import along
from valleylight.core.photometry.model import Photometry
from valleylight.core.project.description import Fixture
from valleylight.core.stage.model import StageData
from valleylight.core.stage.plausibility import mean_colour
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.scene.compiler import RenderScene

Array = NDArray[np.float64]
#: A pattern that meets nothing nearer than this is not read as one (common practice).
PATTERN_REACH_M = 3.0
RAYS, SEED = 256, 7
FARTHEST_M = 30.0


@dataclass(frozen=True)
class Aimed:
    """Readings at the point a fixture's axis meets. None where it meets nothing.

    `contact_lx` its direct illuminance there; `half_value_m` the mean distance along the surface at which it has fallen to
    half; `after_bounce` the share of its light that is left after one bounce (0 to 1); `nearest_m` the distance within
    which a twentieth of its light lands.
    """

    point: tuple[float, float, float] | None
    distance_m: float | None
    contact_lx: float | None
    half_value_m: float | None
    after_bounce: float
    nearest_m: float | None
    advice: str | None


def readings(scene: RenderScene, stage: StageData, fixture: Fixture, profile: Photometry, lumens: float) -> Aimed:
    """Readings of a fixture at a flux in lm. `scene` and `stage` are those of the project; bodies of fixtures do not count."""
    position = np.array(fixture.position, float)
    axes = orientation(position, np.array(fixture.aim, float), fixture.turn_deg)
    scale = lumens / profile.lumens
    met = along(scene, tuple(position), tuple(-axes[2]), rays.OPAQUE)
    contact = half = distance = point = None
    if met is not None:
        normal, at = np.array(met.normal), np.array(met.point)
        contact = float(_lux(profile, axes, position, at[None], normal)[0] * scale)
        half = _half_value_m(profile, axes, position, at, normal)
        point, distance = met.point, met.distance_m
    kept, near = _sent_out(scene, stage, profile, axes, position)
    advice = None
    if near is None or near > PATTERN_REACH_M:
        advice = f"This profile's pattern reaches no surface within {PATTERN_REACH_M:g} m: a plain source would do."
    return Aimed(point, distance, contact, half, kept, near, advice)


def _lux(profile: Photometry, axes: Array, position: Array, points: Array, normal: Array) -> Array:
    """E = I cos / d2 at points (N, 3) that face along one normal."""
    away = points - position
    d = np.linalg.norm(away, axis=1)
    away = away / d[:, None]
    x, y, up = (away @ axes[k] for k in range(3))
    gamma = np.degrees(np.arccos(np.clip(-up, -1, 1)))
    candela = profile.intensity(np.degrees(np.arctan2(y, x)), gamma)
    return np.asarray(candela * np.maximum(-(away @ normal), 0) / d**2, np.float64)


def _half_value_m(profile: Photometry, axes: Array, position: Array, at: Array, normal: Array) -> float | None:
    """Mean distance over eight directions along the surface; None where the light does not fall to half."""
    side = np.cross(normal, [1.0, 0.0, 0.0] if abs(normal[0]) < 0.9 else [0.0, 1.0, 0.0])
    side /= np.linalg.norm(side)
    other = np.cross(normal, side)
    steps = np.geomspace(0.005, FARTHEST_M, 400)
    here = float(_lux(profile, axes, position, at[None], normal)[0])
    found = []
    for turn in np.linspace(0, 2 * np.pi, 8, endpoint=False):
        way = np.cos(turn) * side + np.sin(turn) * other
        below = np.flatnonzero(_lux(profile, axes, position, at + steps[:, None] * way, normal) < here / 2)
        if below.size:
            found.append(float(steps[below[0]]))
    return float(np.mean(found)) if found and here > 0 else None


def _sent_out(
    scene: RenderScene, stage: StageData, profile: Photometry, axes: Array, position: Array
) -> tuple[float, float | None]:
    """Share of the light left after the first surfaces, and the distance within which a twentieth of it lands."""
    u = Sobol(2, seed=SEED).random(RAYS)
    gamma = np.arccos(1 - 2 * u[:, 0])
    c = 2 * np.pi * u[:, 1]
    candela = profile.intensity(np.degrees(c), np.degrees(gamma))
    local = np.stack([np.sin(gamma) * np.cos(c), np.sin(gamma) * np.sin(c), -np.cos(gamma)], 1)
    colours = {m.name: float(mean_colour(m, stage) @ LUMINANCE) for m in scene.materials[: len(stage.materials)]}
    kept, far, weights = 0.0, [], []
    for share, direction in zip(candela / max(candela.sum(), 1e-12), local @ axes, strict=True):
        if share <= 0:
            continue
        met = along(scene, tuple(position), tuple(direction), rays.OPAQUE)
        if met is None:
            continue
        kept += share * colours.get(met.material, 0.5)
        far.append(met.distance_m)
        weights.append(share)
    if not far:
        return 0.0, None
    order = np.argsort(far)
    passed = np.cumsum(np.array(weights)[order])
    reached = np.flatnonzero(passed >= 0.05)
    return float(kept), float(np.array(far)[order][reached[0]]) if reached.size else None
