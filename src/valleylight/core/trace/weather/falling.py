"""Drops and flakes before the lens, as streaks of the way they fall while the shutter is open.

Each is a slender hexagon turned to the lens. A place on it is covered for a share of the time alone; that share stands in
its uv, and so many rays meet it. One finer than half a pixel is drawn wider and met more seldom. None hangs under a roof.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from valleylight.core.jit.compiled import kernel
from valleylight.core.project.weather import Weather
from valleylight.core.stage.model import Mesh
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.scene import SceneArrays
from valleylight.core.trace.intersect import rays
from valleylight.core.weather import drops

F32 = np.float32
#: Drops narrower than this are left to the haze of the air; how far from the lens they are drawn, at least and at most, in metres; how
#: many at most.
LEAST_DROP_MM, NEAREST_M, FARTHEST_M, MOST = 0.8, 0.5, 12.0, 9_000
#: Width of a streak on the film, at least, in pixels.
LEAST_PIXELS = 0.5


@kernel
def _open_above(scene, work, points, axis, free):
    for k in range(points.shape[0]):
        free[k] = not rays.blocked(
            scene.handle, work.shadow, work.shadow_word, points[k, 0], points[k, 1], points[k, 2], axis[0], axis[1], axis[2], 1e5,
            rays.OPAQUE | rays.PASSES,
        )  # fmt: skip


def falling(
    scene: SceneArrays, settings: NDArray[np.float64], camera: NDArray[np.float64], weather: Weather, wind: NDArray[np.float64],
    shutter_s: float, columns: int, materials: tuple[int, int], seed: int = 1,
) -> list[Mesh]:  # fmt: skip
    """Meshes of the drops and of the flakes before a lens, about the stage's origin; `wind` (3,) in m/s is where it blows to, `columns`
    the width of the picture in pixels."""
    made = []
    rain, snow = weather.rain, weather.snow
    if rain.mm_h > 0:
        number = drops.drops_per_m3(rain.mm_h, LEAST_DROP_MM)

        def drawn(u: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
            mm = drops.drop_sizes_mm(rain.mm_h, LEAST_DROP_MM, u)
            return mm, drops.fall_m_s(mm)

        made.append(_streaks(scene, settings, camera, number, drawn, wind, shutter_s, columns, materials[0], seed))
    if snow.flakes_mm_h > 0:
        number = drops.flakes_per_m3(snow.flakes_mm_h)

        def floated(u: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
            return snow.flake_mm * (0.5 + u), drops.FLAKE_M_S * (0.8 + 0.4 * u)

        made.append(
            _streaks(scene, settings, camera, number, floated, wind, shutter_s, columns, materials[1], seed + 1)
        )
    return [mesh for mesh in made if mesh is not None]


def _streaks(scene, settings, camera, per_m3, drawn, wind, shutter_s, columns, material, seed):  # type: ignore[no-untyped-def]
    """The mesh of one kind, None where none is in sight."""
    random = np.random.default_rng(seed)
    forward, right, up, place = (
        camera[layout.three(k)]
        for k in (layout.CAMERA_FORWARD, layout.CAMERA_RIGHT, layout.CAMERA_UP, layout.CAMERA_PLACE)
    )
    half_width, half_height = camera[layout.CAMERA_HALF_WIDTH], camera[layout.CAMERA_HALF_HEIGHT]
    # A pyramid before the lens, somewhat wider than what is seen; so far that no more are in it than can be drawn.
    wide, high = 1.05 * half_width + 0.02, 1.05 * half_height + 0.02
    far = min(FARTHEST_M, (MOST / max(per_m3 * 4 * wide * high / 3, 1e-9)) ** (1 / 3))
    if far <= NEAREST_M:
        far = 2 * NEAREST_M
    volume = 4 * wide * high * (far**3 - NEAREST_M**3) / 3
    number = min(int(random.poisson(min(per_m3 * volume, 2.0 * MOST))), MOST)
    if number == 0:
        return None
    ahead = (NEAREST_M**3 + random.random(number) * (far**3 - NEAREST_M**3)) ** (1 / 3)
    a = (2 * random.random(number) - 1) * wide + camera[layout.CAMERA_SHIFT_X]
    b = (2 * random.random(number) - 1) * high + camera[layout.CAMERA_SHIFT_Y]
    middle = place + ahead[:, None] * (forward + a[:, None] * right + b[:, None] * up)
    mm, speed = drawn(random.random(number))
    velocity = np.asarray(wind)[None] * (0.85 + 0.3 * random.random((number, 1)))
    velocity[:, 2] -= speed
    rate = np.linalg.norm(velocity, axis=1)
    # By the common fall, not each its own: what stands under a roof is dry whatever the gust.
    mean = velocity.mean(0)
    free = np.zeros(number, np.bool_)
    _open_above(
        scene, rays.new_work(settings), np.ascontiguousarray(middle), -mean / max(np.linalg.norm(mean), 1e-9), free
    )
    keep = np.flatnonzero(free)
    if len(keep) == 0:
        return None
    middle, velocity, rate, diameter, ahead = middle[keep], velocity[keep], rate[keep], mm[keep] / 1000, ahead[keep]
    way = drops.streak_m(rate, shutter_s)
    share = drops.cover(diameter, way)
    pixel = 2 * half_width * ahead / columns
    width = np.maximum(diameter, LEAST_PIXELS * pixel)
    share *= diameter / width
    along = velocity / np.maximum(rate, 1e-9)[:, None]
    towards = middle - place
    across = np.cross(along, towards)
    across /= np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-12)
    facing = np.cross(across, along)
    facing *= -np.sign((facing * towards).sum(1, keepdims=True))
    half = 0.5 * (way + diameter)[:, None] * along
    side, blunt = 0.5 * width[:, None] * across, 0.5 * (1 - (diameter / (way + diameter))[:, None] * 0.5)
    points = np.stack([
        middle + half, middle + half * blunt * 2 + side, middle - half * blunt * 2 + side, middle - half,
        middle - half * blunt * 2 - side, middle + half * blunt * 2 - side,
    ], 1)  # fmt: skip
    n = len(keep)
    corners = np.array([(0, 1, 5), (1, 2, 5), (2, 4, 5), (2, 3, 4)], np.uint32)
    triangles = (6 * np.arange(n, dtype=np.uint32)[:, None, None] + corners).reshape(-1, 3)
    uv = np.empty((n, 6, 2), F32)
    uv[..., 0] = random.random((n, 1)) + np.array([0.5, 1.0, 0.9, 0.45, 0.0, 0.1])
    uv[..., 1] = np.clip(share, 0, 1)[:, None]
    # Lit like a ball: as much from above as towards the lens.
    normals = np.repeat((facing / np.linalg.norm(facing, axis=1, keepdims=True))[:, None], 6, 1)
    return Mesh(
        points.reshape(-1, 3).astype(F32), normals.reshape(-1, 3).astype(F32), uv.reshape(-1, 2), triangles,
        np.full(len(triangles), material, np.int32),
    )  # fmt: skip


def lean(weather: Weather, wind: NDArray[np.float64], fall_m_s: float) -> NDArray[np.float64]:
    """Where what falls at a speed comes from, a unit vector; gusts never lay it lower than 45 degrees (common practice)."""
    x, y = float(wind[0]), float(wind[1])
    blown = math.hypot(x, y)
    if blown <= 1e-9:
        return np.array([0.0, 0.0, 1.0])
    slant = min(blown / fall_m_s, 1.0)
    v = np.array([-x / blown * slant, -y / blown * slant, 1.0])
    return np.asarray(v / np.linalg.norm(v))
