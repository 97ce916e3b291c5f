"""From a stage to triangle records and the ray structures over them."""

from __future__ import annotations

import threading
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from valleylight.core.lamps.bodies import BodyMesh
from valleylight.core.project.surface import ObjectFlags
from valleylight.core.stage.model import Material, Mesh, MeshInstance, StageData
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.intersect.embree import Instance, RayScene
from valleylight.core.trace.scene.edges import sharp_edges
from valleylight.core.trace.scene.materials import kind_of, passes_light
from valleylight.core.trace.scene.ripples import rippled
from valleylight.core.trace.scene.triangles import (
    body_records,
    corners_of,
    heart_of_mesh,
    moved_by,
    records_of,
    soup_of,
)

F32 = np.float32
#: What lets light by: triangle records of the world, or an instance; the first record of it, and the row of its transform.
GlassPart = tuple[Instance | NDArray[np.float32], int, int]
INSTANCED_TRIANGLES = 20_000
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
                self.stage = self._rows[: self._used]  # held once: a large stage's are hundreds of megabytes
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
    glass_parts: tuple[GlassPart, ...]
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
        record = body_records(bodies, materials)
        triangles, place = stage.records.with_bodies(record)
        main.add_triangles(*soup_of(record), rays.BODY | rays.SEEN)
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


def with_more(stage: StageGeometry, more: Sequence[tuple[Mesh, int, str]]) -> StageGeometry:
    """The stage with further meshes of the world, each with its mask and the name of its object."""
    if not more:
        return stage
    laid, parts, first = [], list(stage.parts), len(stage.records.stage)
    names = (*stage.objects, *(name for *_, name in more))
    columns = []
    for number, (mesh, mask, _) in enumerate(more):
        record = records_of(mesh, np.eye(4))
        record[:, layout.TRIANGLE_OBJECT] = len(stage.objects) + number
        parts.append(Instance(committed_soup(record), np.eye(4), mask))
        columns.append((first, -1, 0))
        first += len(record)
        laid.append(record)
    added = np.array(columns, np.int64).T
    flags: NDArray[np.float32] = stage.arrays["objects"]  # type: ignore[assignment]
    return replace(
        stage, parts=tuple(parts), handles=np.array([part.handle for part in parts], np.uint64), objects=names,
        first=np.append(stage.first, added[0]), transform=np.append(stage.transform, added[1]),
        body=np.append(stage.body, added[2]), records=Records(layout.in_lines(stage.records.stage, *laid)),
        arrays={**stage.arrays, "objects": np.concatenate([flags, np.tile(np.array([[1.0, 0.0]], F32), (len(more), 1))])},
    )  # fmt: skip


@dataclass(frozen=True)
class Traits:
    """What of the materials the ray structures depend on, by their number."""

    materials: tuple[Material, ...]
    passing: NDArray[np.bool_]  # lets light by
    single: NDArray[np.bool_]  # known triangle by triangle: panes, solids, water, emitting surfaces
    solid: NDArray[np.bool_]
    worn: NDArray[np.bool_]


def traits_of(materials: tuple[Material, ...]) -> Traits:
    known = materials or (Material(),)
    return Traits(
        known,
        np.array([passes_light(m) for m in known]),
        np.array([kind_of(m) in (layout.PANE, layout.SOLID) or m.emits or m.ripple_m > 0 for m in known]),
        np.array([kind_of(m) == layout.SOLID for m in known]),
        np.array([m.weathering > 0 for m in known]),
    )


class _Laying:
    """Records and ray structures as they are laid down, one part after the other. What lets light by also stands in a structure of its
    own, the `glass`."""

    def __init__(self) -> None:
        self.records: list[NDArray[np.float32]] = []
        self.count = 0
        self.parts: list[tuple[Instance, int, int, int]] = []  # part, its first record, row of its transform, object
        self.transforms: list[NDArray[np.float32]] = []
        self.glass: list[GlassPart] = []

    def keep(self, record: NDArray[np.float32]) -> int:
        """Lay records down; returns the number of the first."""
        self.records.append(record)
        self.count += len(record)
        return self.count - len(record)

    def world(self, record: NDArray[np.float32], mask: int) -> None:
        """Triangles of the world, under the identity, so that what is above them is quickly made anew."""
        first = self.keep(record)
        soup = RayScene()
        soup.add_triangles(*soup_of(record), rays.EVERYTHING)
        self.parts.append((Instance(soup.commit(), np.eye(4), mask), first, -1, 0))
        if mask & rays.PASSES:
            self.glass.append((record, first, -1))

    def instance(self, part: RayScene, first: int, matrix: NDArray[np.float64], mask: int, body: int) -> None:
        """A part under the transform laid down last."""
        row = len(self.transforms) - 1
        self.parts.append((Instance(part, matrix, mask), first, row, body))
        if mask & rays.PASSES:
            self.glass.append((Instance(part, matrix, rays.EVERYTHING), first, row))


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
    flags, traits = flags or {}, traits_of(materials)
    shown = [i for i in stage.instances if i.layer not in hidden_layers]
    names = tuple(dict.fromkeys(["", *(i.name for i in shown)]))
    number = {name: k for k, name in enumerate(names)}
    often = _used_often(stage.meshes, shown, traits)
    laying = _Laying()
    by_mask, casters = _world_records(stage, [i for i in shown if i.mesh not in often], traits, flags, number)
    for mask, record in by_mask:
        laying.world(record, mask)
    world = laying.count
    _lay_instances(laying, stage.meshes, [i for i in shown if i.mesh in often], traits, flags, number)
    return _committed(laying, stage, world, casters, names, flags)


def _used_often(meshes: tuple[Mesh, ...], shown: list[MeshInstance], traits: Traits) -> frozenset[int]:
    """Numbers of the meshes that are kept once and placed many times."""
    uses = np.bincount([i.mesh for i in shown], minlength=len(meshes)) if shown else np.zeros(len(meshes), int)
    return frozenset(
        k for k, mesh in enumerate(meshes)
        if uses[k] > 1 and uses[k] * len(mesh.triangles) > INSTANCED_TRIANGLES and not traits.single[mesh.material].any()
    )  # fmt: skip


def _world_records(
    stage: StageData, shown: list[MeshInstance], traits: Traits, flags: Mapping[str, ObjectFlags], number: Mapping[str, int]
) -> tuple[list[tuple[int, NDArray[np.float32]]], NDArray[np.float64]]:  # fmt: skip
    """Triangle records in the world by their mask, in the order of masks, and the boxes (C, 6) of solid glass."""
    by_mask: dict[int, list[NDArray[np.float32]]] = {}
    casters = []
    for instance in shown:
        record = _rippled(with_edges(records_of(stage.meshes[instance.mesh], instance.matrix), traits), traits)
        record[:, layout.TRIANGLE_OBJECT] = number[instance.name]
        which = record[:, layout.TRIANGLE_MATERIAL].astype(int)
        if traits.solid[which].any():
            corners = corners_of(record[traits.solid[which]])
            casters.append(np.concatenate([corners.min(0), corners.max(0)]))
        flag = flags.get(instance.name, PLAIN)
        for lets_by, chosen in split_by_passing(record, traits):
            by_mask.setdefault(mask_of(flag, lets_by), []).append(chosen)
    made = []
    for mask, parts in sorted(by_mask.items()):
        record = np.concatenate(parts)
        record[:, layout.TRIANGLE_SHADES] = float(mask & rays.OPAQUE != 0)
        made.append((mask, record))
    return made, np.array(casters, float).reshape(-1, 6)


def _lay_instances(
    laying: _Laying, meshes: tuple[Mesh, ...], shown: list[MeshInstance], traits: Traits, flags: Mapping[str, ObjectFlags],
    number: Mapping[str, int],
) -> None:  # fmt: skip
    """Lay each mesh down once, about its heart, and place it as often as it is shown."""
    made: dict[int, list[tuple[bool, RayScene, int]]] = {}
    hearts = {k: heart_of_mesh(meshes[k]) for k in {i.mesh for i in shown}}
    linear = np.array([i.matrix[:3, :3] for i in shown]).reshape(-1, 3, 3)
    normals = np.linalg.inv(linear).transpose(0, 2, 1) * np.abs(np.linalg.det(linear))[:, None, None]
    for instance, normal in zip(shown, normals, strict=True):
        mesh, heart = instance.mesh, hearts[instance.mesh]
        if mesh not in made:
            record = with_edges(records_of(meshes[mesh], moved_by(-heart)), traits)
            made[mesh] = [
                (by, committed_soup(part), laying.keep(part)) for by, part in split_by_passing(record, traits)
            ]
        matrix = instance.matrix @ moved_by(heart)
        laying.transforms.append(np.concatenate([matrix[:3, :4].ravel(), normal.ravel()]).astype(F32))
        flag = flags.get(instance.name, PLAIN)
        for lets_by, part, first in made[mesh]:
            laying.instance(part, first, matrix, mask_of(flag, lets_by), number[instance.name])


def _committed(
    laying: _Laying, stage: StageData, world: int, casters: NDArray[np.float64], names: tuple[str, ...],
    flags: Mapping[str, ObjectFlags],
) -> StageGeometry:  # fmt: skip
    """All that was laid down, ready for rays."""
    glass, by_glass = glass_of(laying.glass)
    triangles = layout.in_lines(*laying.records) if laying.records else np.zeros((0, layout.TRIANGLE_WIDTH), F32)
    low, high = stage.bounds() if stage.instances else (np.zeros(3), np.ones(3))
    told = [flags.get(name, PLAIN) for name in names]
    arrays: dict[str, object] = {
        **by_glass,
        "transforms": np.stack(laying.transforms) if laying.transforms else np.zeros((1, 21), F32),
        "objects": np.array([(float(f.receives), float(f.shadow_only)) for f in told], F32),
    }
    columns = np.array([row for _, *row in laying.parts], np.int64).reshape(-1, 3)
    return StageGeometry(
        tuple(part for part, *_ in laying.parts), np.array([part.handle for part, *_ in laying.parts], np.uint64),
        columns[:, 0].copy(), columns[:, 1].copy(), columns[:, 2].copy(), glass, tuple(laying.glass), arrays, Records(triangles), world, names,
        casters, low, high,
    )  # fmt: skip


def glass_of(parts: Sequence[GlassPart]) -> tuple[RayScene | None, dict[str, object]]:
    """The ray structure of what lets light by, and the arrays that say what its parts are."""
    scene = RayScene()
    for part, _, _ in parts:
        if isinstance(part, Instance):
            scene.add_instance(part)
        else:
            scene.add_triangles(*soup_of(part), rays.EVERYTHING)
    made = scene.commit() if parts else None
    return made, {
        "glass": made.handle if made is not None else 0,
        "glass_first": np.array([first for _, first, _ in parts] or [0], np.int64),
        "glass_transform": np.array([row for *_, row in parts] or [-1], np.int64),
    }


def with_edges(record: NDArray[np.float32], traits: Traits) -> NDArray[np.float32]:
    """Records with the sharp edges of weathered materials marked."""
    worn = traits.worn[record[:, layout.TRIANGLE_MATERIAL].astype(int)]
    if worn.any():
        record[:, layout.TRIANGLE_EDGES] = sharp_edges(record) * worn
    return record


def _rippled(record: NDArray[np.float32], traits: Traits) -> NDArray[np.float32]:
    """Records with water displaced by its waves."""
    for m in np.unique(record[:, layout.TRIANGLE_MATERIAL].astype(int)):
        material = traits.materials[m]
        if material.ripple_m > 0:
            water = record[:, layout.TRIANGLE_MATERIAL] == m
            waves = rippled(record[water], material.ripple_m, material.ripple_length_m)
            record = np.concatenate([record[~water], waves])
    return record


def split_by_passing(record: NDArray[np.float32], traits: Traits) -> list[tuple[bool, NDArray[np.float32]]]:
    """Records that are opaque and those that let light by, where there are any."""
    passing = traits.passing[record[:, layout.TRIANGLE_MATERIAL].astype(int)]
    return [(by, record[passing == by]) for by in (False, True) if (passing == by).any()]


def committed_soup(record: NDArray[np.float32]) -> RayScene:
    part = RayScene()
    part.add_triangles(*soup_of(record), rays.EVERYTHING)
    return part.commit()


def mask_of(flag: ObjectFlags, lets_by: bool) -> int:
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
