"""Things strewn over an area: by chance, but the same on every run; so many to the square metre, each on the ground below it.

The ground is asked by rays straight down, which trimesh traces with Embree.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import trimesh
from numpy.typing import NDArray
from scipy.spatial import cKDTree
from trimesh.ray.ray_pyembree import RayMeshIntersector

from valleylight.core.project.description import Placement
from valleylight.core.project.repeats import Strewn, area_of
from valleylight.core.stage.model import Mesh, MeshInstance, StageData, boxes_of
from valleylight.core.stage.repeats import Matrices, turned

#: A mesh used more often is planting itself, and no ground; and so many triangles are ground at most.
MOST_USES, MOST_TRIANGLES = 40, 8_000_000
#: With a spacing some of those thrown are too near to another: so many times as many are thrown.
_THROWS = 6
_AROUND = 8


class Ground:
    """What lies below an area, seen from above."""

    def __init__(self, stage: StageData, low: NDArray[np.float64], high: NDArray[np.float64]) -> None:
        """`low` and `high` (2,) bound the area in metres."""
        chosen = _over(stage, low, high)
        corners, owner = [], []
        for number in chosen:
            i = stage.instances[number]
            mesh = stage.meshes[i.mesh]
            points = mesh.points.astype(np.float64) @ i.matrix[:3, :3].T + i.matrix[:3, 3]
            corner = points[mesh.triangles]
            near = (corner[:, :, :2].max(1) >= low).all(1) & (corner[:, :, :2].min(1) <= high).all(1)
            corners.append(corner[near])
            owner.append(np.full(int(near.sum()), number))
        found = np.concatenate(corners) if corners else np.zeros((0, 3, 3))
        self._owner = np.concatenate(owner) if owner else np.zeros(0, int)
        self._names = [stage.instances[k].name for k in range(len(stage.instances))]
        self._middle = np.array([*((low + high) / 2), 0.0])  # rays are traced in single precision
        self._top = float(found[:, :, 2].max()) + 1.0 if len(found) else 0.0
        self._rays = None
        if len(found):
            below = trimesh.Trimesh(
                (found - self._middle).reshape(-1, 3), np.arange(3 * len(found)).reshape(-1, 3), process=False
            )
            self._rays = RayMeshIntersector(below)
            normal = np.cross(found[:, 1] - found[:, 0], found[:, 2] - found[:, 0])
            self._flat = np.abs(normal[:, 2]) / np.maximum(np.linalg.norm(normal, axis=1), 1e-300)
            self._plane = found[:, 0], normal

    def below(
        self, spots: NDArray[np.float64]
    ) -> tuple[NDArray[np.bool_], NDArray[np.float64], NDArray[np.float64], NDArray[np.int64]]:
        """Of spots (N, 2): whether anything lies below (N,), its height in m, the cosine of its slope, and the instance it is of."""
        none = np.zeros(len(spots), bool), np.zeros(len(spots)), np.ones(len(spots)), np.full(len(spots), -1)
        if self._rays is None or not len(spots):
            return none
        origins = np.column_stack([spots - self._middle[:2], np.full(len(spots), self._top)])
        hit = self._rays.intersects_first(origins, np.tile([0.0, 0.0, -1.0], (len(spots), 1)))
        met = hit >= 0
        corner, normal = self._plane[0][hit], self._plane[1][hit]
        flat = ((spots - corner[:, :2]) * normal[:, :2]).sum(1)
        upright = np.where(np.abs(normal[:, 2]) > 1e-12, normal[:, 2], 1.0)
        height = corner[:, 2] - flat / upright  # on the triangle's plane, in double precision
        return met, np.where(met, height, 0.0), np.where(met, self._flat[hit], 1.0), np.where(met, self._owner[hit], -1)

    def is_of(self, owners: NDArray[np.int64], names: Sequence[str]) -> NDArray[np.bool_]:
        """Which instances go by one of the names."""
        wanted = set(names)
        good = np.array([name in wanted for name in self._names] + [False])
        return np.asarray(good[owners])


def strewn(placement: Placement, repeat: Strewn, stage: StageData, own: Matrices) -> Matrices:
    """Matrices (N, 4, 4) of a thing that is strewn over a stage; `own` (4, 4) sets it upright and scales it about its zero."""
    outline = np.array(repeat.outline)
    ground = Ground(stage, outline.min(0) - repeat.off_m, outline.max(0) + repeat.off_m)
    rng = np.random.default_rng(repeat.seed)
    wanted = round(abs(area_of(repeat.outline)) * repeat.density_m2)
    thrown = wanted * (_THROWS if repeat.spacing_m > 0 else 1)
    spots = _inside(rng, outline, thrown)
    chance = rng.random((len(spots), 2))  # drawn before any is left out, so that the others stay as they are
    kept = _away_from_edges(spots, outline, repeat.edge_m) if repeat.edge_m > 0 else np.ones(len(spots), bool)
    met, height, level, owner = ground.below(spots)
    kept &= met & (level >= np.cos(np.radians(repeat.steepest_deg)) - 1e-9)
    if repeat.on:
        kept &= ground.is_of(owner, repeat.on)
    if repeat.off:
        for angle in np.linspace(0, 2 * np.pi, _AROUND, endpoint=False):
            for share in (0.0, 0.5, 1.0):
                aside = spots + share * repeat.off_m * np.array([np.cos(angle), np.sin(angle)])
                kept &= ~ground.is_of(ground.below(aside)[3], repeat.off)
    chosen = np.flatnonzero(kept)
    if repeat.spacing_m > 0:
        chosen = chosen[_apart(spots[chosen], repeat.spacing_m, wanted)]
    out = np.tile(np.eye(4), (len(chosen), 1, 1))
    low, high = repeat.size
    for k, (spot, z, (a, b)) in enumerate(zip(spots[chosen], height[chosen], chance[chosen], strict=True)):
        matrix = turned(placement.turn_deg + (a - 0.5) * repeat.turn_deg) @ own
        matrix[:3, :3] *= low + (high - low) * b
        matrix[:3, 3] = (*spot, z + placement.position[2])
        out[k] = matrix
    return out


def _over(stage: StageData, low: NDArray[np.float64], high: NDArray[np.float64]) -> list[int]:
    """Numbers of the instances that may be ground of an area."""
    if not stage.instances:
        return []
    uses = np.bincount([i.mesh for i in stage.instances], minlength=len(stage.meshes))
    a, b = boxes_of(stage.instances, stage.meshes)
    near = (b[:, :2] >= low).all(1) & (a[:, :2] <= high).all(1)
    near &= uses[[i.mesh for i in stage.instances]] <= MOST_USES
    chosen, left = [], MOST_TRIANGLES
    for k in np.flatnonzero(near):
        left -= _count(stage.meshes, stage.instances[k])
        if left < 0:
            break
        chosen.append(int(k))
    return chosen


def _count(meshes: Sequence[Mesh], instance: MeshInstance) -> int:
    return len(meshes[instance.mesh].triangles)


def _inside(rng: np.random.Generator, outline: NDArray[np.float64], count: int) -> NDArray[np.float64]:
    """So many spots (N, 2) within an outline (M, 2), evenly by chance."""
    low, size = outline.min(0), np.ptp(outline, axis=0)
    found: list[NDArray[np.float64]] = []
    have = 0
    while have < count:
        thrown = low + rng.random((max(2 * (count - have), 64), 2)) * size
        inside = thrown[contains(outline, thrown)]
        found.append(inside)
        have += len(inside)
    return np.concatenate(found)[:count] if found else np.zeros((0, 2))


def contains(outline: NDArray[np.float64], spots: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Which spots (N, 2) lie within an outline (M, 2), by the even-odd rule."""
    inside = np.zeros(len(spots), bool)
    x, y = spots[:, 0], spots[:, 1]
    for (ax, ay), (bx, by) in zip(outline, np.roll(outline, -1, axis=0), strict=True):
        crosses = (ay > y) != (by > y)
        with np.errstate(divide="ignore", invalid="ignore"):
            inside ^= crosses & (x < ax + (y - ay) * (bx - ax) / (by - ay))
    return inside


def _away_from_edges(spots: NDArray[np.float64], outline: NDArray[np.float64], least: float) -> NDArray[np.bool_]:
    away = np.ones(len(spots), bool)
    for a, b in zip(outline, np.roll(outline, -1, axis=0), strict=True):
        d = b - a
        t = np.clip(((spots - a) @ d) / max(float(d @ d), 1e-30), 0, 1)
        away &= np.linalg.norm(spots - (a + t[:, None] * d), axis=1) >= least
    return away


def _apart(spots: NDArray[np.float64], least: float, most: int) -> NDArray[np.intp]:
    """Numbers of at most so many spots, the first ones first, of which no two lie nearer than a distance (dart throwing)."""
    tree, taken, gone = cKDTree(spots), [], np.zeros(len(spots), bool)
    for k in range(len(spots)):
        if gone[k]:
            continue
        taken.append(k)
        if len(taken) == most:
            break
        gone[tree.query_ball_point(spots[k], least * (1 - 1e-12))] = True
    return np.array(taken, np.intp)
