"""What is doubtful about a model's shapes, each with the object and the box in which it is found."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from valleylight.core.stage.arrival.welding import mixed, welded
from valleylight.core.stage.model import Mesh, MeshInstance, StageData, boxes_of
from valleylight.core.stage.plausibility import findings
from valleylight.core.together import together

DoubtKind = Literal["doubled", "flipped", "open", "thin", "surface", "said"]
Box = tuple[tuple[float, float, float], tuple[float, float, float]]
#: So many are listed, the greatest first; and the largest mesh whose edges are looked at, in triangles.
MOST, LARGEST = 60, 2_000_000
#: An object is open, not a sheet, when fewer of its edges than this are borders.
_FEW_BORDERS = 0.3


@dataclass(frozen=True)
class Doubt:
    """One doubtful thing: what kind, in words, the object or material, and the box in the file's frame where it is; None for all."""

    kind: DoubtKind
    text: str
    about: str
    box: Box | None
    weight: float = 0.0


@dataclass(frozen=True)
class _Found:
    doubled: NDArray[np.bool_]
    flipped: NDArray[np.bool_]
    borders: NDArray[np.float64]  # middles (B, 3) of edges of one triangle
    openness: float
    flat: bool
    sheet: bool  # it faces one way all over, as ground does: it is meant to be open


def doubts_of(stage: StageData) -> list[Doubt]:
    """Doubtful things of a stage, the greatest of each kind first."""
    found: list[Doubt] = []
    every = [k for k in dict.fromkeys(i.mesh for i in stage.instances) if 0 < len(stage.meshes[k].triangles) <= LARGEST]
    looked = dict(zip(every, together(lambda k: _looked_at(stage.meshes[k]), every), strict=True))
    told: set[tuple[int, str]] = set()
    for instance in stage.instances:
        if (instance.mesh, instance.name) in told:  # the same object once more
            continue
        told.add((instance.mesh, instance.name))
        if instance.mesh in looked:
            found += _told(instance, stage.meshes[instance.mesh], looked[instance.mesh])
    found.sort(key=lambda d: -d.weight)
    for finding in findings(stage, stage.materials):
        found.append(
            Doubt(
                "surface", f"{finding.material} {finding.message}.", finding.material, _box_of(stage, finding.material)
            )
        )
    found += [Doubt("said", note, "", None) for note in stage.notes]
    return found[:MOST]


def _told(instance: MeshInstance, mesh: Mesh, seen: _Found) -> list[Doubt]:
    name, out = instance.name, []
    if not (seen.doubled.any() or seen.flipped.any() or seen.flat or len(seen.borders)):
        return []
    areas = _areas(mesh, instance.matrix)
    if seen.doubled.any():
        count = int(seen.doubled.sum())
        out.append(
            Doubt("doubled", f"{count} triangle{'s lie' if count > 1 else ' lies'} twice in the same place.", name,
                  _placed(mesh.points[mesh.triangles[seen.doubled]].reshape(-1, 3), instance), float(areas[seen.doubled].sum()))
        )  # fmt: skip
    if seen.flipped.any():
        count = int(seen.flipped.sum())
        out.append(
            Doubt("flipped", f"{count} triangle{'s face' if count > 1 else ' faces'} the other way than those beside.", name,
                  _placed(mesh.points[mesh.triangles[seen.flipped]].reshape(-1, 3), instance), float(areas[seen.flipped].sum()))
        )  # fmt: skip
    if seen.flat:
        out.append(
            Doubt("thin", "It has no thickness: light that falls on its back is seen at its edges.", name,
                  _placed(mesh.points, instance), float(areas.sum()))
        )  # fmt: skip
    elif len(seen.borders) and seen.openness < _FEW_BORDERS and not seen.sheet:
        out.append(
            Doubt("open", f"It is not closed ({len(seen.borders)} open edges): light may leak in.", name,
                  _placed(seen.borders, instance), float(areas.sum()) * 0.5)
        )  # fmt: skip
    return out


def _looked_at(mesh: Mesh) -> _Found:
    """Doubled and flipped triangles and open edges, with corners in one place taken as one."""
    one, _ = welded(mesh.points)
    size = np.ptp(mesh.points.astype(np.float64), axis=0)
    t = one[mesh.triangles.astype(np.int64)]
    whole = (t[:, 0] != t[:, 1]) & (t[:, 1] != t[:, 2]) & (t[:, 2] != t[:, 0])
    _, begins, which, counts = np.unique(
        mixed(np.sort(t, axis=1)), return_index=True, return_inverse=True, return_counts=True
    )
    doubled = (counts[which.ravel()] > 1) & whole
    first = np.zeros(len(t), bool)  # of those that lie twice, the first stays for what follows
    first[begins] = True
    kept = np.flatnonzero(whole & first)
    edges = t[kept][:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    key = edges.min(1) * (t.max() + 1 if len(t) else 1) + edges.max(1)
    _, number, times = np.unique(key, return_inverse=True, return_counts=True)
    number = number.ravel()
    forward = edges[:, 0] < edges[:, 1]
    ahead = np.bincount(number, forward, len(times))
    # Two triangles that share an edge run along it in opposite directions where they face the same way.
    same_way = (times == 2) & (ahead != 1)
    flipped = np.zeros(len(t), bool)
    wrong = same_way[number].reshape(-1, 3).sum(1)
    paired = (times == 2)[number].reshape(-1, 3).sum(1)
    flipped[kept] = (wrong > 0) & (wrong * 2 > paired)
    border = (times == 1)[number]
    corner = mesh.points[mesh.triangles[kept]].astype(np.float64)
    middles = ((corner + np.roll(corner, -1, axis=1)) / 2).reshape(-1, 3)[border]
    spread = np.sort(size)
    flat = bool(len(mesh.points) > 2 and spread[0] < 1e-4 * max(spread[1], 1e-12) and spread[1] > 0.05 * spread[2])
    normal = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
    sheet = bool(len(normal) and (normal @ normal.sum(0) >= 0).all())
    if sheet:
        middles = middles[:0]
    return _Found(doubled, flipped, middles, float(border.sum() / max(len(times), 1)), flat, sheet)


def _areas(mesh: Mesh, matrix: NDArray[np.float64]) -> NDArray[np.float64]:
    p = mesh.points[mesh.triangles].astype(np.float64) @ matrix[:3, :3].T
    return np.asarray(np.linalg.norm(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), axis=1) / 2)


def _placed(points: NDArray[np.floating], instance: MeshInstance) -> Box:
    world = points.astype(np.float64) @ instance.matrix[:3, :3].T + instance.matrix[:3, 3]
    return _as_box(world.min(0), world.max(0))


def _box_of(stage: StageData, material: str) -> Box | None:
    numbers = [k for k, m in enumerate(stage.materials) if m.name == material]
    parts = {}
    for k in {i.mesh for i in stage.instances}:
        mesh = stage.meshes[k]
        mine = np.isin(mesh.material, numbers)
        if mine.any():
            parts[k] = replace(mesh, points=mesh.points[np.unique(mesh.triangles[mine])])
    shown = [replace(i, mesh=list(parts).index(i.mesh)) for i in stage.instances if i.mesh in parts]
    if not shown:
        return None
    low, high = boxes_of(shown, list(parts.values()))
    return _as_box(low.min(0), high.max(0))


def _as_box(low: NDArray[np.float64], high: NDArray[np.float64]) -> Box:
    (a, b, c), (x, y, z) = np.round(low, 4).tolist(), np.round(high, 4).tolist()
    return (a, b, c), (x, y, z)
