"""Answers about things that are placed: their pictures, their boxes, what stands without one of them."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from valleylight.core.film.png import png
from valleylight.core.objects import family_of, made
from valleylight.core.preview.thing import thing_picture
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Placement
from valleylight.core.project.repeats import Along, Grid, Row, Strewn
from valleylight.core.stage import read_glb
from valleylight.core.stage.assembly import UP_MATRICES, assembled
from valleylight.core.stage.model import StageData
from valleylight.server.messages import questions as q
from valleylight.server.worker.desk import Desk


def without(project: LoadedProject, key: str) -> LoadedProject:
    """The project as if one of its things did not stand, nor the fixture within it."""
    whole = project.description
    things = tuple(p.model_copy(update={"hidden": True}) if p.key == key else p for p in whole.placements)
    held = {p.lamp for p in whole.placements if p.key == key}
    fixtures = tuple(f for f in whole.fixtures if f.key not in held)
    return replace(project, description=whole.model_copy(update={"placements": things, "fixtures": fixtures}))


def _picture(asked: q.ThingPicture, desk: Desk) -> bytes:
    stage = read_glb(made(family_of(asked.family), asked.parameters), asked.family)
    return png(thing_picture(stage, stop=desk.stop), effort=3)


def _own_picture(asked: q.OwnPicture, desk: Desk) -> bytes:
    placed = Placement(key="own", name=asked.name[:80], asset=asked.asset, scale=asked.scale, up=asked.up)
    stage = assembled({asked.asset: read_glb(desk.files.read(asked.asset), asked.name)}, [placed])
    return png(thing_picture(stage, stop=desk.stop), effort=3)


def _things(asked: q.Things, desk: Desk) -> list[dict[str, Any]]:
    project = desk.project(asked)
    boxes: dict[str, tuple[Any, Any, int]] = {}
    lines = []
    for p in project.description.placements:
        if p.asset not in boxes:
            file = desk.compiler.file(project, p)
            boxes[p.asset] = (*file.bounds(), _triangles(file)) if file.instances else (np.zeros(3), np.zeros(3), 0)
        low, high, triangles = boxes[p.asset]
        corners = np.array([[(low, high)[k >> a & 1][a] for a in range(3)] for k in range(8)]) @ UP_MATRICES[p.up].T
        if p.mirrored:
            corners[:, 0] *= -1
        lines.append({
            "key": p.key, "low": corners.min(0).tolist(), "high": corners.max(0).tolist(), "triangles": triangles,
            "count": _count(p.repeat),
        })  # fmt: skip
    return lines


def _triangles(file: StageData) -> int:
    return sum(len(file.meshes[i.mesh].triangles) for i in file.instances)


def _count(repeat: Row | Grid | Along | Strewn | None) -> int | None:
    """How often a thing stands; None where the ground decides."""
    if repeat is None:
        return 1
    if isinstance(repeat, Row):
        return repeat.count
    return repeat.columns * repeat.rows if isinstance(repeat, Grid) else None


ANSWERS: dict[type[q.Question], Any] = {q.ThingPicture: _picture, q.OwnPicture: _own_picture, q.Things: _things}
