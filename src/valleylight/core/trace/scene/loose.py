"""Things that are moved about, laid over a stage that stands fast: their shapes are kept, a move makes only the uppermost structure."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from valleylight.core.project.surface import ObjectFlags
from valleylight.core.stage.model import Mesh, MeshInstance, boxes_of
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.intersect.embree import Instance, RayScene
from valleylight.core.trace.scene.geometry import (
    PLAIN,
    Records,
    StageGeometry,
    Traits,
    committed_soup,
    glass_of,
    mask_of,
    split_by_passing,
    with_edges,
)
from valleylight.core.trace.scene.triangles import heart_of_mesh, moved_by, records_of

F32 = np.float32


@dataclass(frozen=True)
class LooseShapes:
    """Meshes of loose things behind the records of a stage: by number of the mesh its heart, and its parts with whether they let light
    by, their ray structure and their first record."""

    records: Records
    parts: Mapping[int, tuple[NDArray[np.float64], list[tuple[bool, RayScene, int]]]]


def may_be_loose(mesh: Mesh, traits: Traits) -> bool:
    """Panes, solid glass, water and what shines are known triangle by triangle, and stand fast."""
    return not bool(traits.single[mesh.material].any())


def loose_shapes(stage: StageGeometry, meshes: Sequence[Mesh], numbers: Sequence[int], traits: Traits) -> LooseShapes:
    """Lay the meshes of some numbers down behind the records of a stage."""
    begin, laid = len(stage.records.stage), []
    parts = {}
    for number in numbers:
        heart = heart_of_mesh(meshes[number])
        made = []
        for by, record in split_by_passing(with_edges(records_of(meshes[number], moved_by(-heart)), traits), traits):
            made.append((by, committed_soup(record), begin))
            laid.append(record)
            begin += len(record)
        parts[number] = (heart, made)
    whole = layout.in_lines(stage.records.stage, *laid) if laid else stage.records.stage
    return LooseShapes(Records(whole), parts)


def with_loose(
    stage: StageGeometry, shapes: LooseShapes, meshes: Sequence[Mesh], shown: Sequence[MeshInstance], flags: Mapping[str, ObjectFlags]
) -> StageGeometry:  # fmt: skip
    """The stage with loose things where they stand now."""
    if not shown:
        return stage
    names = tuple(dict.fromkeys([*stage.objects, *(i.name for i in shown)]))
    number = {name: k for k, name in enumerate(names)}
    held: NDArray[np.float32] = stage.arrays["transforms"]  # type: ignore[assignment]
    transforms, parts, columns = [held], list(stage.parts), []
    glass = list(stage.glass_parts)
    for k, instance in enumerate(shown):
        heart, made = shapes.parts[instance.mesh]
        linear = instance.matrix[:3, :3]
        normal = np.linalg.inv(linear).T * abs(np.linalg.det(linear))
        matrix = instance.matrix @ moved_by(heart)
        transforms.append(np.concatenate([matrix[:3, :4].ravel(), normal.ravel()]).astype(F32)[None])
        row, flag = len(held) + k, flags.get(instance.name, PLAIN)
        for lets_by, part, first in made:
            mask = mask_of(flag, lets_by)
            parts.append(Instance(part, matrix, mask))
            columns.append((first, row, number[instance.name]))
            if mask & rays.PASSES:
                glass.append((Instance(part, matrix, rays.EVERYTHING), first, row))
    first, row, body = np.array(columns, np.int64).T
    low, high = boxes_of(shown, meshes)
    told = [flags.get(name, PLAIN) for name in names]
    passing, by_glass = stage.passing, dict[str, object]()
    if len(glass) > len(stage.glass_parts):
        passing, by_glass = glass_of(glass)
    return replace(
        stage, parts=tuple(parts), handles=np.array([part.handle for part in parts], np.uint64), objects=names,
        first=np.append(stage.first, first), transform=np.append(stage.transform, row), body=np.append(stage.body, body),
        passing=passing, glass_parts=tuple(glass), records=shapes.records,
        arrays={
            **stage.arrays, **by_glass, "transforms": np.concatenate(transforms),
            "objects": np.array([(float(f.receives), float(f.shadow_only)) for f in told], F32),
        },
        low=np.minimum(stage.low, low.min(0)), high=np.maximum(stage.high, high.max(0)),
    )  # fmt: skip
