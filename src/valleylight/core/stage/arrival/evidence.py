"""What a model's shapes tell of its unit and of the axis that is up: door-like objects, storeys, level ground.

Sizes of doors, storeys and buildings are common practice; none of this is more than a guess, and each comes with its reason.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from valleylight.core.stage.arrival.units import HIGHEST_M, NARROWEST_M, UNITS, WIDEST_M, Guess
from valleylight.core.stage.arrival.welding import welded
from valleylight.core.stage.model import StageData, boxes_of

#: Heights of doors, and from floor to floor, in metres.
DOOR_M, STOREY_M = (1.9, 2.6), (2.3, 4.6)
#: A door is so many times higher than wide, and at most so thick against its height.
_SLENDER, _THICK = (1.7, 3.2), 0.2
#: And no more than so much of the whole: what is larger is a wall.
_SMALL = 0.4
_AXES = "xyz"
#: Triangles looked at, spread over the model.
_MOST = 400_000
#: By so much must more speak for another axis than for the file's own, where the file does not state it and where it does.
_MARGIN, _MARGIN_STATED = 0.35, 1.0
#: A file of no more objects is looked at piece by piece, up to so many pieces.
_FEW, _MOST_PIECES = 50, 20_000
LEVEL = np.cos(np.radians(2.5))


@dataclass(frozen=True)
class Shapes:
    """Boxes (P, 3) of objects, and middles (T, 3), normals (T, 3) and areas (T,) of some of the triangles, in the file's frame."""

    low: NDArray[np.float64]
    high: NDArray[np.float64]
    middles: NDArray[np.float64]
    normals: NDArray[np.float64]
    areas: NDArray[np.float64]

    @property
    def extent(self) -> NDArray[np.float64]:
        return np.asarray(self.high.max(0) - self.low.min(0))


@dataclass(frozen=True)
class UpGuess:
    """An axis of the file taken to point up, such as "z" or "y", why, and whether that is to be looked at."""

    up: str
    reason: str
    doubtful: bool


def shapes_of(stage: StageData) -> Shapes:
    """What is looked at of a stage."""
    low, high = _boxes(stage)
    whole = sum(len(stage.meshes[i.mesh].triangles) for i in stage.instances)
    step = max(1, -(-whole // _MOST))
    middles, normals, areas = [], [], []
    for i in stage.instances:
        mesh = stage.meshes[i.mesh]
        p = mesh.points[mesh.triangles[::step]].astype(np.float64) @ i.matrix[:3, :3].T + i.matrix[:3, 3]
        n = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
        size = np.linalg.norm(n, axis=1)
        middles.append(p.mean(1))
        normals.append(n / np.maximum(size, 1e-300)[:, None])
        areas.append(size / 2)
    return Shapes(low, high, np.concatenate(middles), np.concatenate(normals), np.concatenate(areas))


def _boxes(stage: StageData) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Boxes of objects; where a file has few, of the pieces that hang together in each: many formats know one object alone."""
    low, high = boxes_of(stage.instances, stage.meshes)
    if len(stage.instances) > _FEW or sum(len(stage.meshes[i.mesh].triangles) for i in stage.instances) > _MOST:
        return low, high
    lows, highs = [low], [high]
    for i in stage.instances:
        mesh = stage.meshes[i.mesh]
        number, first = welded(mesh.points)
        t = number[mesh.triangles.astype(np.int64)]
        links = coo_array(
            (np.ones(2 * len(t), np.int8), (np.r_[t[:, 0], t[:, 1]], np.r_[t[:, 1], t[:, 2]])), (len(first), len(first))
        )
        count, piece = connected_components(links, directed=False)
        if not 1 < count <= _MOST_PIECES:
            continue
        corners = mesh.points[first].astype(np.float64) @ i.matrix[:3, :3].T + i.matrix[:3, 3]
        order = np.argsort(piece, kind="stable")
        begins = np.searchsorted(piece[order], np.arange(count))
        lows.append(np.minimum.reduceat(corners[order], begins))
        highs.append(np.maximum.reduceat(corners[order], begins))
    return np.concatenate(lows), np.concatenate(highs)


def guessed_unit_of(shapes: Shapes, axis: int) -> Guess:
    """The unit in which most of what can be measured is the size of what it seems to be. Doors count most, then storeys, then the whole."""
    doors = _door_height(shapes, axis)
    storey = _storey(shapes, axis)
    greatest, height = float(shapes.extent.max()), float(shapes.extent[axis])
    scores = {}
    for unit, metres in UNITS.items():
        fits = NARROWEST_M <= greatest * metres <= WIDEST_M and height * metres <= HIGHEST_M
        scores[unit] = (
            2.0 * (doors is not None and _within(doors[0] * metres, DOOR_M))
            + 1.5 * (storey is not None and _within(storey * metres, STOREY_M)) + 1.0 * fits
        )  # fmt: skip
    unit = max(scores, key=lambda name: scores[name])  # the first of equals: metres before all
    metres = UNITS[unit]
    if scores[unit] == 0:
        return Guess(
            "m", 1.0, f"It is {greatest:.4g} across, in no unit the size of a building; it was taken as metres."
        )
    told = []
    if doors is not None and _within(doors[0] * metres, DOOR_M):
        told.append(f"{doors[1]} door-like object{'s are' if doors[1] > 1 else ' is'} {doors[0]:.4g} high")
    if storey is not None and _within(storey * metres, STOREY_M):
        told.append(f"its floors lie {storey:.4g} apart")
    if not told:
        told.append(f"it is {greatest:.4g} across and {height:.4g} high")
    words = {"m": "metres", "mm": "millimetres", "cm": "centimetres", "ft": "feet", "inch": "inches"}[unit]
    return Guess(unit, metres, f"{' and '.join(told)}: {words}.".capitalize(), unit != "m")


def guessed_up(shapes: Shapes, stated: bool) -> UpGuess:
    """The axis that is up, where the file was read as Z up. Floors and door-like objects tell; a flat plot lies. What a file states
    stands unless doors speak against it."""
    votes, told = np.zeros(3), []
    flat = np.array([shapes.areas[np.abs(shapes.normals[:, k]) > LEVEL].sum() for k in range(3)])
    if flat.sum() > 0:
        votes += 0.8 * flat / flat.sum()
    extent = shapes.extent
    thin = int(extent.argmin())
    if extent[thin] < 0.5 * np.median(extent):
        votes[thin] += 0.6
        told.append((thin, f"it is flattest along its {_AXES[thin]}"))
    doors = np.array([(found[1] if (found := _door_height(shapes, k)) else 0) for k in range(3)], float)
    if doors.sum() > 0:
        votes += doors / doors.sum()
        most = int(doors.argmax())
        told.append(
            (
                most,
                f"{int(doors[most])} door-like object{'s stand' if doors[most] > 1 else ' stands'} along its {_AXES[most]}",
            )
        )
    best = int(votes.argmax())
    telling = doors[best] > 0 or (not stated and any(axis == best for axis, _ in told))
    if best == 2 or not telling or votes[best] < votes[2] + (_MARGIN_STATED if stated else _MARGIN):
        return UpGuess("z", "The file says so." if stated else "Nothing speaks against it.", False)
    upside_down = _is_upside_down(shapes, best)
    reasons = " and ".join(words for axis, words in told if axis == best)
    return UpGuess(f"-{_AXES[best]}" if upside_down else _AXES[best], f"{reasons[:1].upper()}{reasons[1:]}.", True)


def _is_upside_down(shapes: Shapes, axis: int) -> bool:
    """Whether doors, or where there are none most of the surface, lie above the middle: buildings stand on what is broad."""
    low, high = float(shapes.low[:, axis].min()), float(shapes.high[:, axis].max())
    door = _doors(shapes, axis)
    if door.any():
        return bool(((shapes.low + shapes.high)[door, axis] / 2).mean() > (low + high) / 2)
    at = float((shapes.areas * shapes.middles[:, axis]).sum() / max(float(shapes.areas.sum()), 1e-300))
    return at > (low + high) / 2 + 0.02 * (high - low)


def _doors(shapes: Shapes, axis: int) -> NDArray[np.bool_]:
    """Which boxes (P,) are shaped as doors with an axis upright."""
    size = shapes.high - shapes.low
    tall = size[:, axis]
    across = np.delete(size, axis, 1)
    wide, thick = across.max(1), across.min(1)
    slender = (tall > _SLENDER[0] * wide) & (tall < _SLENDER[1] * wide)
    return np.asarray(slender & (thick < _THICK * tall) & (tall < _SMALL * float(shapes.extent.max())))


def _door_height(shapes: Shapes, axis: int) -> tuple[float, int] | None:
    """Middle height, in the file's unit, of boxes shaped as doors with an axis upright, and how many agree on it within a tenth."""
    door = _doors(shapes, axis)
    if not door.any():
        return None
    heights = (shapes.high - shapes.low)[door, axis]
    agreeing = [int((np.abs(heights - h) < 0.1 * h).sum()) for h in heights[:200]]
    best = heights[int(np.argmax(agreeing))]
    return float(np.median(heights[np.abs(heights - best) < 0.1 * best])), int(max(agreeing))


def _storey(shapes: Shapes, axis: int) -> float | None:
    """The usual distance, in the file's unit, between great level surfaces that face up; None where there are less than two."""
    level = shapes.normals[:, axis] > LEVEL
    if not level.any():
        return None
    at, area = shapes.middles[level, axis], shapes.areas[level]
    span = float(shapes.extent[axis])
    if span <= 0:
        return None
    # Bins of a fiftieth of the height: floors, not steps.
    bins = np.floor((at - shapes.low[:, axis].min()) / span * 50).astype(int).clip(0, 50)
    sums = np.bincount(bins, area, 51)
    floors = [k for k in range(51) if sums[k] > 0.25 * sums.max() and sums[k] == sums[max(0, k - 2) : k + 3].max()]
    heights = [float(np.average(at[bins == k], weights=area[bins == k])) for k in floors]
    gaps = np.diff(heights)
    return float(np.median(gaps)) if len(gaps) else None


def _within(value: float, limits: tuple[float, float]) -> bool:
    return limits[0] <= value <= limits[1]
