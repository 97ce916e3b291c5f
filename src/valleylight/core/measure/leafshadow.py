"""Leaf shadow: where trees of which kind and height stand so that the sun of an hour throws their shadow on a patch of the stage.

The sun's line is followed from the patch out into the open. A tree whose crown is met by it throws its shadow there, so at a
distance d along the line, h above the ground there, a tree of height h / m stands in it, where m is the share of its height at which the
middle of its crown is. The edge of its shadow is as wide as the sun's disc is seen from its leaves, 2 d tan(radius) (common practice).
"""

from __future__ import annotations

import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.measure.pick import Meeting, Point, along
from valleylight.core.measure.shadow import sunlit
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.scene.compiler import RenderScene

#: Below this the sun is too weak to throw a shadow, and its line runs along the ground (common practice).
LOWEST_DEG = 2.0
#: The line is followed so far, in steps of so much.
FARTHEST_M, STEP_M = 120.0, 0.5
#: A patch is in the sun where so much of it is.
LEAST_LIT = 0.03
#: Points across the picture of a patch, and directions spread over the sun's disc.
ACROSS, DISC = 64, 16
#: A crown keeps so much of its radius clear of walls; ground is what nothing lies so far below of.
CLEAR, THICKEST_GROUND_M = 0.6, 1.0
#: Steeper ground than this carries no tree (cosine of the slope).
_LEVEL = 0.6
#: Directions in which walls are looked for between two sheets, and how far.
_AROUND, _WALLS_M = 16, 40.0
#: Upright enough for a wall (cosine of its lean).
_WALL = 0.3
#: So many faces are looked at under a place.
_MOST_BELOW = 40


@dataclass(frozen=True)
class Patch:
    """What is to be dappled: a point, the normal on the side that is meant, and half its width in m."""

    point: Point
    normal: Point
    reach_m: float

    def frame(self) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
        """Unit normal, and the directions (3,) of the patch's picture to the right and upwards as one who looks at it sees it: on a floor
        the model's X and Y, on a wall level and upright."""
        n = np.array(self.normal, float)
        n /= np.linalg.norm(n) or 1.0
        up = np.array([0.0, 0.0, 1.0]) if abs(n[2]) < 0.9 else np.array([0.0, 1.0, 0.0])
        up -= n * float(up @ n)
        up /= np.linalg.norm(up)
        return n, np.cross(up, n), up


@dataclass(frozen=True)
class TreeShape:
    """A kind of tree: the heights it grows to in m, and as shares of its height the middle, half depth and radius of its crown."""

    key: str
    least_m: float
    most_m: float
    usual_m: float
    crown: float
    depth: float
    radius: float


@dataclass(frozen=True)
class TreePlace:
    """A place in the sun's line: which kind, how high, where it stands, how far its crown is from the patch, and how wide the edges of
    its shadow are there."""

    key: str
    height_m: float
    position: Point
    distance_m: float
    edge_m: float


def lit_share(scene: RenderScene, patch: Patch) -> NDArray[np.float64]:
    """Share 0 to 1 of the sun's disc that reaches each point of a patch, rows from above, shape (ACROSS, ACROSS); panes and cut-outs let
    their part through. Zero everywhere for a sun that is down or behind the patch."""
    points = _points(patch)
    n, _, _ = patch.frame()
    out = np.zeros((len(points), DISC))
    normals, which = np.tile(n, (len(points), 1)), np.arange(len(points))
    directions, places = _disc(scene), points - scene.origin
    batch = 256

    def part(first: int) -> None:
        work = rays.new_work(scene.settings, scene.camera)
        rows = slice(first, min(first + batch, len(points)))
        which_of_these = np.ascontiguousarray(which[rows] - first)
        sunlit(scene.arrays, work, places[rows], normals[rows], which_of_these, directions, 0, DISC, out[rows])

    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        list(pool.map(part, range(0, len(points), batch)))
    return out.mean(1).reshape(ACROSS, ACROSS)


def sun_line(scene: RenderScene, patch: Patch) -> NDArray[np.float64]:
    """Middle (3,) of what the sun reaches of a patch. Raises InputError that says why where it reaches nothing of it."""
    day = scene.daylight
    if day.by_moon or not day.sun_up or day.altitude_deg < LOWEST_DEG:
        raise InputError(
            f"the sun is {day.altitude_deg:.0f}° high then, too low for a shadow", "occasion", "Choose an hour with sun"
        )
    n, _, _ = patch.frame()
    towards = np.array(day.direction, float)
    if float(n @ towards) <= 0.01:
        raise InputError(
            "this side looks away from the sun at that hour", "point", "Choose another hour, or another face"
        )
    lit = lit_share(scene, patch).ravel()
    points = _points(patch)
    if lit.mean() >= LEAST_LIT:
        middle = np.average(points, axis=0, weights=lit)
        gaps = np.linalg.norm(points - middle, axis=1)
        nearest = int(np.argmin(gaps + 1e3 * (lit < 0.5 * lit.max())))
        return np.asarray(middle if gaps[nearest] <= 2 * patch.reach_m / ACROSS else points[nearest])
    start = np.array(patch.point) + 0.02 * n
    met = along(scene, _point(start), _point(towards), rays.OPAQUE | rays.BODY)
    behind = f"{met.object} stands in its way" if met is not None and met.object else "the sun does not come here"
    raise InputError(
        f"at that hour {behind}", "point", "Point where the sun falls in, or ask “Which hour?” for this face"
    )


def places(scene: RenderScene, patch: Patch, trees: Sequence[TreeShape]) -> list[TreePlace]:
    """Places for trees in the sun's line to a patch, the nearest first, of different distances and kinds. Empty where none can stand.

    Raises InputError where the sun does not reach the patch.
    """
    start = sun_line(scene, patch)
    towards = np.array(scene.daylight.direction, float)
    found: list[TreePlace] = []
    for step in range(1, int(FARTHEST_M / STEP_M)):
        distance = step * STEP_M
        at = start + distance * towards
        ground = _ground_below(scene, at)
        if ground is None:
            continue
        above = float(at[2]) - ground.point[2]
        for tree in trees:
            height = above / tree.crown
            if tree.least_m <= height <= tree.most_m and _stands_clear(scene, tree, height, ground.point):
                edge = 2 * distance * float(np.tan(np.radians(scene.daylight.radius_deg)))
                found.append(TreePlace(tree.key, round(height, 2), ground.point, distance, edge))
    return _chosen(found, {t.key: t for t in trees})


#: How far aside of the line a tree may stand, in radii of its crown: dense crowns dapple by their edges.
ASIDE = (0.0, 0.45, -0.45, 0.8, -0.8)


def beside(scene: RenderScene, tree: TreeShape, place: TreePlace) -> list[TreePlace]:
    """A place and those beside it, across the sun's line, whose crown still reaches into it."""
    towards = np.array(scene.daylight.direction, float)
    across = np.array([-towards[1], towards[0], 0.0])
    across /= np.linalg.norm(across) or 1.0
    found = [place]
    for aside in ASIDE[1:]:
        spot = np.array(place.position) + aside * tree.radius * place.height_m * across
        ground = _ground_below(scene, spot + [0.0, 0.0, tree.crown * place.height_m])
        if ground is not None and _stands_clear(scene, tree, place.height_m, ground.point):
            found.append(replace(place, position=ground.point))
    return found


def dappling(bare: NDArray[np.float64], lit: NDArray[np.float64]) -> tuple[float, float]:
    """The share of a patch's sun that a tree takes, and how much what is left varies over it: the standard deviation where it was lit
    before, 0 for even light or even shade and 0.5 for the hardest pattern of half each."""
    where = bare > 0.5 * max(float(bare.max()), 1e-9)
    return 1.0 - float(lit.sum() / max(float(bare.sum()), 1e-9)), float((lit[where] / bare[where]).std())


#: Offers stand in so many bands of distance, each as many times as far as the one before, with so many kinds in each.
_BANDS, _KINDS = 3, 3


def _chosen(found: list[TreePlace], trees: dict[str, TreeShape]) -> list[TreePlace]:
    """Of all places a few that differ: near ones with crisp edges to far ones with soft ones, and in each band the kinds that are nearest to
    their usual height, those offered least first."""
    if not found:
        return []
    nearest = found[0].distance_m
    farther = (1.001 * found[-1].distance_m / nearest) ** (1 / _BANDS)
    chosen: list[TreePlace] = []
    for band in range(_BANDS):
        low, high = nearest * farther**band, nearest * farther ** (band + 1)
        here = [p for p in found if low <= p.distance_m < high]
        best: dict[str, TreePlace] = {}
        for p in here:
            if p.key not in best or _unusual(p, trees) < _unusual(best[p.key], trees):
                best[p.key] = p
        offered = [p.key for p in chosen]
        ranked = sorted(best.values(), key=lambda p: (offered.count(p.key), _unusual(p, trees)))
        chosen += sorted(ranked[:_KINDS], key=lambda p: p.distance_m)
    return chosen


def _unusual(place: TreePlace, trees: dict[str, TreeShape]) -> float:
    return abs(float(np.log(place.height_m / trees[place.key].usual_m)))


def _ground_below(scene: RenderScene, at: NDArray[np.float64]) -> Meeting | None:
    """The ground under a point of the line, where a tree may stand on it: open to the sky, about level, nothing hollow under it, no water."""
    if along(scene, _point(at), (0.0, 0.0, 1.0), rays.EVERYTHING) is not None:
        return None  # still under a roof
    met = _downwards(scene, at)
    # From the lowest upwards: what lies close on the ground, as grass does, is ground; what is held up over a hollow is not.
    bottom = len(met) - 1
    while bottom > 0 and not _hollow(scene, met[bottom - 1], met[bottom]):
        bottom -= 1
    if bottom > 0 or not met:
        return None
    ground = next((m for m in met if m.normal[2] >= _LEVEL), None)
    made_of = next((m for m in scene.materials if ground is not None and m.name == ground.material), None)
    return ground if made_of is not None and not (made_of.solid_glass or made_of.thin_glass) else None


def _downwards(scene: RenderScene, at: NDArray[np.float64]) -> list[Meeting]:
    """All that stands under a point, from above."""
    met: list[Meeting] = []
    start = _point(at)
    while len(met) < _MOST_BELOW:
        hit = along(scene, start, (0.0, 0.0, -1.0), rays.EVERYTHING)
        if hit is None:
            break
        met.append(hit)
        start = (hit.point[0], hit.point[1], hit.point[2] - 1e-3)
    return met


def _hollow(scene: RenderScene, upper: Meeting, lower: Meeting) -> bool:
    """Whether there is room between two faces that a line downwards meets: not within a solid, whose top and underside they are, nor
    between two sheets of ground."""
    gap = upper.point[2] - lower.point[2]
    if gap <= THICKEST_GROUND_M or (upper.front and not lower.front):
        return False
    return not upper.front or not _is_buried(scene, upper, gap)


def _is_buried(scene: RenderScene, upper: Meeting, gap: float) -> bool:
    """Whether a sheet lies over the ground as another sheet of it does: whoever stood between them would see but its underside, and no
    walls. Under a roof or a canopy there are walls, or the sky."""
    middle = (upper.point[0], upper.point[1], upper.point[2] - gap / 2)
    under = walls = 0
    for k in range(_AROUND):
        turn = 2 * np.pi * k / _AROUND
        x, y = float(np.cos(turn)), float(np.sin(turn))
        level = along(scene, middle, (x, y, 0.0), rays.EVERYTHING)
        rising = along(scene, middle, (x, y, 0.2), rays.EVERYTHING)
        under += rising is not None and not rising.front and not _is_steep(rising)
        walls += level is not None and level.distance_m < _WALLS_M and _is_steep(level)
    return under >= 0.7 * _AROUND and walls <= 0.3 * _AROUND


def _is_steep(met: Meeting) -> bool:
    return abs(met.normal[2]) < _WALL


def _stands_clear(scene: RenderScene, tree: TreeShape, height: float, foot: Point) -> bool:
    """Whether crown and trunk keep clear of what stands about them."""
    reach = CLEAR * tree.radius * height
    for share in (tree.crown - 0.8 * tree.depth, tree.crown, tree.crown + 0.8 * tree.depth):
        middle = (foot[0], foot[1], foot[2] + max(share * height, 0.3))
        for k in range(8):
            turn = k * np.pi / 4
            met = along(scene, middle, (float(np.cos(turn)), float(np.sin(turn)), 0.0), rays.OPAQUE | rays.PASSES)
            if met is not None and met.distance_m < reach:
                return False
    return True


def _points(patch: Patch) -> NDArray[np.float64]:
    """Points (ACROSS^2, 3) over a patch, rows from above."""
    _, right, up = patch.frame()
    spots = ((np.arange(ACROSS) + 0.5) / ACROSS * 2 - 1) * patch.reach_m
    grid = np.array(patch.point) + spots[None, :, None] * right - spots[:, None, None] * up
    return grid.reshape(-1, 3)


def _disc(scene: RenderScene) -> NDArray[np.float64]:
    """Directions (DISC, 3) spread evenly over the sun's disc."""
    towards = np.array(scene.daylight.direction, float)
    towards /= np.linalg.norm(towards)
    side = np.cross(towards, [0.0, 0.0, 1.0] if abs(towards[2]) < 0.9 else [1.0, 0.0, 0.0])
    side /= np.linalg.norm(side)
    other = np.cross(towards, side)
    k = np.arange(DISC)
    r, a = np.tan(np.radians(scene.daylight.radius_deg)) * np.sqrt((k + 0.5) / DISC), k * 2.399963
    spread = towards + (r * np.cos(a))[:, None] * side + (r * np.sin(a))[:, None] * other
    return np.asarray(spread / np.linalg.norm(spread, axis=1, keepdims=True))


def _point(v: NDArray[np.float64]) -> Point:
    return float(v[0]), float(v[1]), float(v[2])
