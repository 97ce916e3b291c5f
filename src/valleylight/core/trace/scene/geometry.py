"""From a stage to triangle records and the ray structures over them."""

from __future__ import annotations

import threading
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.lamps.bodies import BodyMesh
from valleylight.core.project.surface import ObjectFlags
from valleylight.core.stage.model import Material, Mesh, StageData
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.intersect.embree import Instance, RayScene
from valleylight.core.trace.scene.edges import sharp_edges
from valleylight.core.trace.scene.materials import kind_of, passes_light
from valleylight.core.trace.scene.ripples import rippled

F32 = np.float32
INSTANCED_TRIANGLES = 20_000
#: So many times its size away from its frame's zero a mesh lies far from it.
FAR_OUT = 20.0
PLAIN = ObjectFlags()


@dataclass(frozen=True)
class Geometry:
    """The part of a scene that does not depend on sun, sky, levels or the colour of surfaces. Keeps the ray structures
    alive. `world` records stand in the world and not in an instance; `casters` (C, 6) are the boxes of solid glass."""

    scene: RayScene
    passing: RayScene | None
    arrays: dict[str, object]
    world: int
    objects: tuple[str, ...]
    casters: NDArray[np.float64]
    low: NDArray[np.float64]
    high: NDArray[np.float64]


class _Structure:
    """An Embree scene with the table that tells which records each of its geometries has."""

    def __init__(self) -> None:
        self.scene = RayScene()
        self.first: list[int] = []
        self.transform: list[int] = []
        self.body: list[int] = []

    def add(self, record: NDArray[np.float32], mask: int, first: int) -> None:
        self._note(self.scene.add_triangles(*_soup(record), mask), first, -1, 0)

    def place(self, part: Instance, first: int, row: int, body: int) -> None:
        self._note(self.scene.add_instance(part), first, row, body)

    def _note(self, number: int, first: int, row: int, body: int) -> None:
        assert number == len(self.first)
        self.first.append(first)
        self.transform.append(row)
        self.body.append(body)


class Records:
    """Triangle records of a stage with room behind them for the bodies of fixtures.

    Bodies that move are written to a part not used before, for pictures in the making still read the last; when the
    room is used up, all is laid out anew.
    """

    #: So many times the bodies fit behind the stage.
    TIMES = 12

    def __init__(self, stage: NDArray[np.float32]) -> None:
        self.stage = stage
        self._rows = stage
        self._used = len(stage)
        self._lock = threading.Lock()

    def with_bodies(self, record: NDArray[np.float32]) -> tuple[NDArray[np.float32], int]:
        """All records (N, 32), and the number of the first of the bodies'."""
        with self._lock:
            if self._used + len(record) > len(self._rows):
                spare = np.zeros((len(record) * self.TIMES, record.shape[1]), F32)
                self._rows, self._used = layout.in_lines(self.stage, spare), len(self.stage)
            first = self._used
            self._rows[first : first + len(record)] = record
            self._used = first + len(record)
            return self._rows, first


@dataclass(frozen=True)
class StageGeometry:
    """A stage without the bodies of fixtures: its parts in their places, with their handles, and by part (P) the first
    record, the row of the transform (-1 for the world's own) and the object; and all tables."""

    parts: tuple[Instance, ...]
    handles: NDArray[np.uint64]
    first: NDArray[np.int64]
    transform: NDArray[np.int64]
    body: NDArray[np.int64]
    passing: RayScene | None
    arrays: dict[str, object]
    records: Records
    world: int
    objects: tuple[str, ...]
    casters: NDArray[np.float64]
    low: NDArray[np.float64]
    high: NDArray[np.float64]


def with_bodies(stage: StageGeometry, bodies: BodyMesh | None, materials: int) -> Geometry:
    """The stage's geometry with the bodies of fixtures, whose materials follow on the stage's `materials`.

    Only the uppermost ray structure is made: fixtures move while the stage stands.
    """
    main = RayScene()
    rays.attach_all(main.handle, stage.handles)
    main.keep(stage.parts)
    triangles, first, transform, body = stage.records.stage, stage.first, stage.transform, stage.body
    if bodies is not None and len(bodies.triangles):
        record = _body_records(bodies, materials)
        triangles, place = stage.records.with_bodies(record)
        main.add_triangles(*_soup(record), rays.BODY | rays.SEEN)
        first, transform, body = (
            np.append(column, value) for column, value in ((first, place), (transform, -1), (body, 0))
        )
    main.commit()
    arrays = {
        **stage.arrays,
        "handle": main.handle,
        "triangles": triangles if len(triangles) else np.zeros((1, layout.TRIANGLE_WIDTH), F32),
        "geometry_first": first if len(first) else np.array([0]),
        "geometry_transform": transform if len(transform) else np.array([-1]),
        "geometry_object": body if len(body) else np.array([0]),
    }
    return Geometry(main, stage.passing, arrays, stage.world, stage.objects, stage.casters, stage.low, stage.high)


def build_geometry(
    stage: StageData,
    materials: tuple[Material, ...],
    hidden_layers: frozenset[str] = frozenset(),
    flags: Mapping[str, ObjectFlags] | None = None,
) -> StageGeometry:
    """Triangle records and ray structures of a stage with some layers hidden.

    `materials` are the stage's as dressed; their `structure` is all that matters here. Objects with flags of their own,
    and what light passes, become parts with masks of their own.
    """
    flags = flags or {}
    shown = [p for p in stage.instances if p.layer not in hidden_layers]
    names = tuple(dict.fromkeys(["", *(p.name for p in shown)]))
    number = {name: k for k, name in enumerate(names)}
    uses = np.bincount([p.mesh for p in shown], minlength=len(stage.meshes)) if shown else np.zeros(0, int)
    known = materials or (Material(),)
    passing = np.array([passes_light(m) for m in known])
    # Panes, solids, water and emitting surfaces are known triangle by triangle.
    single = np.array([kind_of(m) in (layout.PANE, layout.SOLID) or m.emits or m.ripple_m > 0 for m in known])
    solid = np.array([kind_of(m) == layout.SOLID for m in known])
    worn = np.array([m.weathering > 0 for m in known])
    instanced = {
        k
        for k, mesh in enumerate(stage.meshes)
        if shown and uses[k] > 2 and uses[k] * len(mesh.triangles) > INSTANCED_TRIANGLES
        and not single[mesh.material].any()
    }  # fmt: skip
    records: list[NDArray[np.float32]] = []
    total = 0
    glass = _Structure()
    placed: list[tuple[Instance, int, int, int]] = []

    def keep(record: NDArray[np.float32]) -> int:
        nonlocal total
        records.append(record)
        total += len(record)
        return total - len(record)

    by_mask: dict[int, list[NDArray[np.float32]]] = {}
    casters = []
    for instance in shown:
        if instance.mesh in instanced:
            continue
        record = _records(stage.meshes[instance.mesh], instance.matrix)
        which = record[:, layout.TRIANGLE_MATERIAL].astype(int)
        if worn[which].any():
            record[:, layout.TRIANGLE_EDGES] = sharp_edges(record) * worn[which]
        record[:, layout.TRIANGLE_OBJECT] = number[instance.name]
        for m in np.unique(which):
            if known[m].ripple_m > 0:
                record = np.concatenate([
                    record[which != m], rippled(record[which == m], known[m].ripple_m, known[m].ripple_length_m)
                ])  # fmt: skip
                which = record[:, layout.TRIANGLE_MATERIAL].astype(int)
        if solid[which].any():
            corner = record[solid[which], layout.three(layout.TRIANGLE_CORNER)]
            corners = np.concatenate(
                [
                    corner,
                    corner + record[solid[which], layout.three(layout.TRIANGLE_EDGE_1)],
                    corner + record[solid[which], layout.three(layout.TRIANGLE_EDGE_2)],
                ]
            )
            casters.append(np.concatenate([corners.min(0), corners.max(0)]))
        flag = flags.get(instance.name, PLAIN)
        for lets_by in (False, True):
            chosen = record[passing[which] == lets_by]
            if len(chosen):
                by_mask.setdefault(_mask(flag, lets_by), []).append(chosen)
    for mask, parts in sorted(by_mask.items()):
        record = np.concatenate(parts)
        record[:, layout.TRIANGLE_SHADES] = float(mask & rays.OPAQUE != 0)
        first = keep(record)
        # The world's own triangles stand under the identity, so that what is above them is quickly made anew.
        soup = RayScene()
        soup.add_triangles(*_soup(record), rays.EVERYTHING)
        placed.append((Instance(soup.commit(), np.eye(4), mask), first, -1, 0))
        if mask & rays.PASSES:
            glass.add(record, rays.EVERYTHING, first)
    world = total
    transforms: list[NDArray[np.float32]] = []
    made: dict[int, list[tuple[bool, RayScene, int]]] = {}
    hearts = {k: _heart(stage.meshes[k]) for k in instanced}
    linear = np.array([p.matrix[:3, :3] for p in shown if p.mesh in instanced]).reshape(-1, 3, 3)
    turned = iter(np.linalg.inv(linear).transpose(0, 2, 1) * np.abs(np.linalg.det(linear))[:, None, None])
    for instance in shown:
        if instance.mesh not in instanced:
            continue
        matrix = instance.matrix @ _about(hearts[instance.mesh])
        if instance.mesh not in made:
            record = _records(stage.meshes[instance.mesh], _about(-hearts[instance.mesh]))
            which = record[:, layout.TRIANGLE_MATERIAL].astype(int)
            if worn[which].any():
                record[:, layout.TRIANGLE_EDGES] = sharp_edges(record) * worn[which]
            made[instance.mesh] = []
            for lets_by in (False, True):
                chosen = record[passing[which] == lets_by]
                if len(chosen):
                    part = RayScene()
                    part.add_triangles(*_soup(chosen), rays.EVERYTHING)
                    made[instance.mesh].append((lets_by, part.commit(), keep(chosen)))
        normal = next(turned)
        row, body = len(transforms), number[instance.name]
        transforms.append(np.concatenate([matrix[:3, :4].ravel(), normal.ravel()]).astype(F32))
        flag = flags.get(instance.name, PLAIN)
        for lets_by, part, first in made[instance.mesh]:
            mask = _mask(flag, lets_by)
            placed.append((Instance(part, matrix, mask), first, row, body))
            if mask & rays.PASSES:
                glass.place(Instance(part, matrix, rays.EVERYTHING), first, row, body)
    if glass.first:
        glass.scene.commit()
    triangles = layout.in_lines(*records) if records else np.zeros((0, layout.TRIANGLE_WIDTH), F32)
    low, high = stage.bounds() if stage.instances else (np.zeros(3), np.ones(3))
    objects = np.zeros((len(names), layout.OBJECT_WIDTH), F32)
    for k, name in enumerate(names):
        flag = flags.get(name, PLAIN)
        objects[k] = float(flag.receives), float(flag.shadow_only)
    arrays: dict[str, object] = {
        "glass": glass.scene.handle if glass.first else 0,
        "glass_first": np.array(glass.first or [0], np.int64),
        "glass_transform": np.array(glass.transform or [-1], np.int64),
        "transforms": np.stack(transforms) if transforms else np.zeros((1, 21), F32),
        "objects": objects,
    }
    boxes = np.array(casters, float).reshape(-1, 6)
    standing = glass.scene if glass.first else None
    columns = np.array([row for _, *row in placed], np.int64).reshape(-1, 3)
    return StageGeometry(
        tuple(part for part, *_ in placed), np.array([part.handle for part, *_ in placed], np.uint64),
        columns[:, 0].copy(), columns[:, 1].copy(), columns[:, 2].copy(), standing, arrays, Records(triangles), world, names,
        boxes, low, high,
    )  # fmt: skip


def _mask(flag: ObjectFlags, lets_by: bool) -> int:
    """Embree mask of an object's geometry."""
    if flag.shadow_only:
        return rays.BY_LENS | rays.BY_MIRROR
    mask = 0
    if flag.casts_shadow:
        mask |= rays.PASSES if lets_by else rays.OPAQUE
    if flag.seen:
        mask |= rays.BY_LENS
    if flag.in_reflections:
        mask |= rays.BY_MIRROR
    if flag.sends:
        mask |= rays.BY_BOUNCE
    return mask


def _heart(mesh: Mesh) -> NDArray[np.float64]:
    """The middle of a mesh that lies far from the zero of its own frame, in that frame; else that zero. A mesh used often is kept in
    single precision in its frame."""
    low, high = mesh.points.min(0).astype(float), mesh.points.max(0).astype(float)
    middle = (low + high) / 2
    return middle if np.abs(middle).max() > FAR_OUT * (high - low).max() else np.zeros(3)


def _about(point: NDArray[np.float64]) -> NDArray[np.float64]:
    """The 4 x 4 matrix that moves by a vector."""
    matrix = np.eye(4)
    matrix[:3, 3] = point
    return matrix


def _records(mesh: Mesh, matrix: NDArray[np.float64]) -> NDArray[np.float32]:
    """Triangle records (T, 32) of a mesh under a matrix."""
    points = mesh.points.astype(float) @ matrix[:3, :3].T + matrix[:3, 3]
    turn = np.linalg.inv(matrix[:3, :3]).T
    normals = mesh.normals.astype(float) @ turn.T
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-20)
    t = mesh.triangles.astype(int)
    if np.linalg.det(matrix[:3, :3]) < 0:
        t = t[:, [0, 2, 1]]
    record = np.zeros((len(t), layout.TRIANGLE_WIDTH), F32)
    corner = points[t]
    record[:, layout.three(layout.TRIANGLE_CORNER)] = corner[:, 0]
    record[:, layout.three(layout.TRIANGLE_EDGE_1)] = corner[:, 1] - corner[:, 0]
    record[:, layout.three(layout.TRIANGLE_EDGE_2)] = corner[:, 2] - corner[:, 0]
    record[:, layout.TRIANGLE_NORMALS : layout.TRIANGLE_NORMALS + 9] = normals[t].reshape(-1, 9)
    record[:, layout.TRIANGLE_UV : layout.TRIANGLE_UV + 6] = mesh.uv[t].reshape(-1, 6)
    record[:, layout.TRIANGLE_MATERIAL] = mesh.material
    return record


def _body_records(bodies: BodyMesh, first_material: int) -> NDArray[np.float32]:
    record = np.zeros((len(bodies.triangles), layout.TRIANGLE_WIDTH), F32)
    corner = bodies.points[bodies.triangles]
    record[:, layout.three(layout.TRIANGLE_CORNER)] = corner[:, 0]
    record[:, layout.three(layout.TRIANGLE_EDGE_1)] = corner[:, 1] - corner[:, 0]
    record[:, layout.three(layout.TRIANGLE_EDGE_2)] = corner[:, 2] - corner[:, 0]
    record[:, layout.TRIANGLE_NORMALS : layout.TRIANGLE_NORMALS + 9] = bodies.normals[bodies.triangles].reshape(-1, 9)
    record[:, layout.TRIANGLE_MATERIAL] = bodies.material + first_material
    record[:, layout.TRIANGLE_FIXTURE] = bodies.fixture
    return record


def _soup(record: NDArray[np.float32]) -> tuple[NDArray[np.float32], NDArray[np.uint32]]:
    """Points and indices for Embree, from the very numbers the kernels use."""
    points = np.stack(
        [
            record[:, layout.three(layout.TRIANGLE_CORNER)],
            record[:, layout.three(layout.TRIANGLE_CORNER)] + record[:, layout.three(layout.TRIANGLE_EDGE_1)],
            record[:, layout.three(layout.TRIANGLE_CORNER)] + record[:, layout.three(layout.TRIANGLE_EDGE_2)],
        ],
        1,
    )
    return points.reshape(-1, 3), np.arange(3 * len(record), dtype=np.uint32).reshape(-1, 3)
