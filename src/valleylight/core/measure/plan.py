"""The plan and the section of a stage: its triangles cut by a level plane, or by an upright one that stands in any direction."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.stage.model import MeshInstance, StageData, boxes_of

#: Shorter segments are not drawn, nor, in a small plan, those below this share of its width.
SHORTEST_M, SHORTEST_SHARE = 0.02, 5e-4


def cut(
    stage: StageData,
    height_m: float,
    low: tuple[float, float],
    high: tuple[float, float],
    hidden: frozenset[str] = frozenset(),
) -> NDArray[np.float64]:
    """Segments (N, 4) of x0, y0, x1, y1 in metres where the stage meets the plane z = height, within a rectangle."""
    return _cut(stage, _AXES[2], np.array([0.0, 0.0, -height_m]), low, high, hidden)


def section(
    stage: StageData, axis: int, place_m: float, low: tuple[float, float], high: tuple[float, float],
    hidden: frozenset[str] = frozenset(),
) -> NDArray[np.float64]:  # fmt: skip
    """Segments (N, 4) of a0, z0, a1, z1 where the stage meets the upright plane x = place (`axis` 0, a is y) or y = place
    (`axis` 1, a is x), within a rectangle of a and z."""
    return _cut(stage, _AXES[axis], np.array([0.0, 0.0, -place_m]), low, high, hidden)


def section_along(
    stage: StageData, place: tuple[float, float], direction: tuple[float, float], low: tuple[float, float],
    high: tuple[float, float], hidden: frozenset[str] = frozenset(),
) -> NDArray[np.float64]:  # fmt: skip
    """Segments (N, 4) of a0, z0, a1, z1 where the stage meets the upright plane through a place along a level direction, within a
    rectangle of a, the metres from the place along it, and z."""
    dx, dy = np.array(direction, float) / np.hypot(*direction)
    frame = np.array([[dx, dy, 0.0], [0.0, 0.0, 1.0], [dy, -dx, 0.0]])
    return _cut(stage, frame, -frame @ np.array([*place, 0.0]), low, high, hidden)


#: Frames in which x, y or z comes last: rows that bring a point of the stage to where it is cut.
_AXES = np.eye(3)[[[1, 2, 0], [0, 2, 1], [0, 1, 2]]]


def _cut(
    stage: StageData,
    frame: NDArray[np.float64],
    shift: NDArray[np.float64],
    low: tuple[float, float],
    high: tuple[float, float],
    hidden: frozenset[str],
) -> NDArray[np.float64]:
    """Where the plane on which the third coordinate is 0 meets the stage, in a frame: rows of a rotation, and what is added after it."""
    parts = []
    shown = [p for p in stage.instances if p.layer not in hidden]
    for instance in (shown[k] for k in _reached(stage, shown, frame, shift, low, high)):
        mesh = stage.meshes[instance.mesh]
        points = mesh.points.astype(float) @ (frame @ instance.matrix[:3, :3]).T + (
            frame @ instance.matrix[:3, 3] + shift
        )
        if points[:, 2].min() > 0 or points[:, 2].max() < 0:
            continue
        if (points[:, :2].max(0) < low).any() or (points[:, :2].min(0) > high).any():
            continue
        t = points[mesh.triangles]
        above = t[..., 2] > 0
        crossing = above.any(1) & ~above.all(1)
        if crossing.any():
            parts.append(_segments(t[crossing], above[crossing]))
    if not parts:
        return np.zeros((0, 4))
    segments = np.concatenate(parts)
    inside = (np.maximum(segments[:, 0:2], segments[:, 2:4]) > low).all(1) & (
        np.minimum(segments[:, 0:2], segments[:, 2:4]) < high
    ).all(1)
    shortest = min(SHORTEST_M, SHORTEST_SHARE * max(high[0] - low[0], high[1] - low[1]))
    long = np.hypot(segments[:, 2] - segments[:, 0], segments[:, 3] - segments[:, 1]) > shortest
    return np.asarray(segments[inside & long], np.float64)


def _reached(
    stage: StageData, shown: list[MeshInstance], frame: NDArray[np.float64], shift: NDArray[np.float64],
    low: tuple[float, float], high: tuple[float, float],
) -> NDArray[np.intp]:  # fmt: skip
    """Numbers of the instances whose boxes the plane meets within the rectangle: there may be tens of thousands."""
    if not shown:
        return np.zeros(0, np.intp)
    low_corners, high_corners = boxes_of(shown, stage.meshes)
    middle = (low_corners + high_corners) / 2 @ frame.T + shift
    reach = (high_corners - low_corners) / 2 @ np.abs(frame).T + 1e-9 * np.abs(middle)
    under, over = middle - reach, middle + reach
    meets = (under[:, 2] <= 0) & (over[:, 2] >= 0)
    return np.flatnonzero(meets & (over[:, :2] >= low).all(1) & (under[:, :2] <= high).all(1))


def _segments(t: NDArray[np.float64], above: NDArray[np.bool_]) -> NDArray[np.float64]:
    """Where each triangle's two crossing edges meet the plane."""
    lone = np.where(above.sum(1) == 1, above.argmax(1), (~above).argmax(1))
    rows = np.arange(len(t))
    apex = t[rows, lone]
    ends = []
    for other in (t[rows, (lone + 1) % 3], t[rows, (lone + 2) % 3]):
        share = -apex[:, 2] / (other[:, 2] - apex[:, 2])
        ends.append(apex[:, :2] + share[:, None] * (other[:, :2] - apex[:, :2]))
    return np.concatenate(ends, axis=1)
