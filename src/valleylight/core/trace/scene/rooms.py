"""The rooms behind openings: how far each reaches, and whether daylight enters them by their openings alone.

Both steer where rays are sent, not what they bring: a picture stays true where an answer is wrong, it is only noisier.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.jit.compiled import kernel
from valleylight.core.jit.held import held
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.scene import SceneArrays
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.intersect.vertex import camera_ray, meet
from valleylight.core.trace.lights import daylight
from valleylight.core.trace.nextevent.passage import FAR
from valleylight.core.trace.sampling.sobol import about, scatter_square

#: Rays sent inwards from an opening, how much larger than where they end its room is taken, m.
INWARDS, MARGIN_M = 1024, 0.01
#: Paths sent from the lens, surfaces each of them visits, and how many must lie in a room for a judgement.
PATHS, VISITS, LEAST = 1500, 4, 200
#: A share of answers that may find daylight all the same: outer faces of window bars, cracks of a model.
LEAKS = 0.002
#: Where a room is shut, one in so many of its points that no line through an opening joins with the sun asks for it.
SELDOM = 8.0
#: Rays from an opening start so far on its inner side.
START_M = 0.02


@kernel
def _hull(handle, ray, word, opening, box):
    """Write the box (low and high corner) of what rays from an opening (12 numbers) meet; returns how many meet nothing."""
    escaped = 0
    nx, ny, nz = opening[layout.OPENING_INWARD], opening[layout.OPENING_INWARD + 1], opening[layout.OPENING_INWARD + 2]
    for number in range(INWARDS):
        u, v = scatter_square(number, np.uint32(971), np.int64(0))
        s, t = 1.9 * u - 0.95, 1.9 * v - 0.95
        u, v = scatter_square(number, np.uint32(972), np.int64(0))
        dx, dy, dz = about(nx, ny, nz, u, v)
        ox = (
            opening[layout.OPENING_CENTRE]
            + s * opening[layout.OPENING_HALF_U]
            + t * opening[layout.OPENING_HALF_V]
            + START_M * nx
        )
        oy = (
            opening[layout.OPENING_CENTRE + 1]
            + s * opening[layout.OPENING_HALF_U + 1]
            + t * opening[layout.OPENING_HALF_V + 1]
            + START_M * ny
        )
        oz = (
            opening[layout.OPENING_CENTRE + 2]
            + s * opening[layout.OPENING_HALF_U + 2]
            + t * opening[layout.OPENING_HALF_V + 2]
            + START_M * nz
        )
        if not rays.closest(handle, ray, word, ox, oy, oz, dx, dy, dz, FAR, rays.EVERYTHING):
            escaped += 1
            continue
        way = ray[rays.FAR]
        x, y, z = ox + way * dx, oy + way * dy, oz + way * dz
        box[layout.LOW], box[layout.LOW + 1], box[layout.LOW + 2] = (
            min(box[layout.LOW], x),
            min(box[layout.LOW + 1], y),
            min(box[layout.LOW + 2], z),
        )
        box[layout.HIGH], box[layout.HIGH + 1], box[layout.HIGH + 2] = (
            max(box[layout.HIGH], x),
            max(box[layout.HIGH + 1], y),
            max(box[layout.HIGH + 2], z),
        )
    return escaped


def with_rooms(openings: NDArray[np.float64], handle: int) -> NDArray[np.float64]:
    """Openings (P, 20) with the boxes of the rooms behind them filled in; one that looks into the open keeps an endless box."""
    openings = openings.copy()
    ray = rays.new_ray()
    for opening in openings:
        box = np.concatenate([opening[: layout.OPENING_CENTRE + 3], opening[: layout.OPENING_CENTRE + 3]])
        if _hull(handle, ray, ray.view(np.uint32), opening, box) == 0:
            opening[layout.OPENING_ROOM : layout.OPENING_ROOM + 6] = np.concatenate(
                [box[: layout.HIGH] - MARGIN_M, box[layout.HIGH :] + MARGIN_M]
            )
    return openings


@kernel
def _asked_and_found(arrays, workbench, paths):
    """Points in rooms that asked for sun and sky elsewhere, and answers that were not a wall."""
    scene, work = held(arrays), held(workbench)
    sun = scene.sun
    asked, found = 0, 0
    for number in range(paths):
        u, v = scatter_square(number, np.uint32(977), np.int64(0))
        ox, oy, oz, dx, dy, dz = camera_ray(work.camera, u, v, 1.0, 1.0, 0.5, 0.5, 0.5)
        for visit in range(VISITS):
            if not rays.closest(scene.handle, work.ray, work.word, ox, oy, oz, dx, dy, dz, FAR, rays.EVERYTHING):
                break
            _k, m, _body, _u, _v, qx, qy, qz, gx, gy, gz, _nx, _ny, _nz, _facing, eps, _edge = meet(
                scene, work, dx, dy, dz, number >= 0
            )
            if scene.materials[m, layout.KIND] == layout.PANE:
                ox, oy, oz = qx - gx * eps, qy - gy * eps, qz - gz * eps
                continue
            ox, oy, oz = qx + gx * eps, qy + gy * eps, qz + gz * eps
            if daylight.openings_total(scene.openings, work.weights, ox, oy, oz) > 1e-4:
                a, b = scatter_square(number, np.uint32(978), 3 * visit)
                lx, ly, lz = daylight.sample_sky(
                    scene.dome_marginal,
                    scene.dome_conditional,
                    1.0,
                    0.0,
                    scene.openings,
                    work.weights,
                    ox,
                    oy,
                    oz,
                    a,
                    b,
                )
                for which in range(2):
                    if which == 1:
                        lx, ly, lz = sun[0], sun[1], sun[2]
                    if gx * lx + gy * ly + gz * lz > 0.0 and not daylight.through_opening(
                        scene.openings, ox, oy, oz, lx, ly, lz
                    ):
                        asked += 1
                        if not rays.blocked(
                            scene.handle, work.ray, work.word, ox, oy, oz, lx, ly, lz, FAR, rays.OPAQUE | rays.BODY
                        ):
                            found += 1
            a, b = scatter_square(number, np.uint32(979), 3 * visit + 1)
            dx, dy, dz = about(gx, gy, gz, a, b)
    return asked, found


def is_shut(arrays: SceneArrays, settings: NDArray[np.float64], camera: NDArray[np.float64]) -> bool:
    """Whether hardly one of many points that the view and its first bounces reach in rooms finds daylight but by openings."""
    if not len(arrays.openings):
        return False
    asked, found = _asked_and_found(arrays, rays.new_work(settings, camera), PATHS)
    return bool(asked >= LEAST and found <= LEAKS * asked)
