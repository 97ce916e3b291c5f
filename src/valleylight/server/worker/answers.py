"""Questions the worker answers for the server: everything that needs the compiled core or the stage in memory."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from typing import Any

import numpy as np

from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.film.exr import read_exr
from valleylight.core.film.film import Film
from valleylight.core.film.png import png
from valleylight.core.finish.look import apply
from valleylight.core.measure import direct, outline, pick, plan
from valleylight.core.preview.sample import sample_picture
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Project
from valleylight.core.stage import Material, StageData
from valleylight.core.stage.plausibility import findings
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.materials import dressed
from valleylight.core.trace.scene.offers import offers
from valleylight.core.trace.scene.quality import SKETCH
from valleylight.server.found import stage_figures
from valleylight.server.messages import questions as q
from valleylight.server.worker import daylight_answers, measured, portraits
from valleylight.server.worker.desk import Desk

_films: OrderedDict[str, Film] = OrderedDict()
KEPT_FILMS = 3
#: How far around views and fixtures the plan and the working view reach.
MARGIN_M = 7.0


def answer_question(question: q.Question, desk: Desk) -> Any:
    """Answer one question. Raises InputError for what a user can mend, StoppedError where the desk says so midway."""
    return ANSWERS[type(question)](question, desk)


def _finish(asked: q.Finish, desk: Desk) -> bytes:
    if asked.film not in _films:
        _films[asked.film] = read_exr(desk.files.path(asked.film))
        while len(_films) > KEPT_FILMS:
            _films.popitem(last=False)
    _films.move_to_end(asked.film)
    return png(apply(_films[asked.film], asked.look, asked.levels), effort=3)


def _surface_sample(asked: q.SurfaceSample, desk: Desk) -> bytes:
    return _png(sample_picture(Material().made_of(asked.surface), shape=asked.shape, stop=desk.stop))


def _material_sample(asked: q.MaterialSample, desk: Desk) -> bytes:
    stage, materials = _dressed(desk.project(asked), desk.compiler)
    material = next((m for m in materials if m.name == asked.material), None)
    if material is None:
        raise NotFoundError(f"there is no material {asked.material!r}", "material", "Reload the page")
    return _png(sample_picture(material, stage.textures, asked.shape, stop=desk.stop))


def _portrait(asked: q.Portrait, desk: Desk) -> float:
    return portraits.make(desk.files, asked.profile, asked.kelvin, asked.side, asked.ev100)


def _mesh(asked: q.Mesh, desk: Desk) -> bytes:
    stage = desk.compiler.stage(desk.project(asked))
    low, high = _region(asked.project, stage)
    origin, triangles = outline.working_mesh(stage, low, high)
    return bytes(origin.astype("<f8").tobytes() + triangles.astype("<f4").tobytes())


def _stage(asked: q.StageFigures, desk: Desk) -> dict[str, Any]:
    return stage_figures(desk.compiler.stage(desk.project(asked)))


def _air(asked: q.AirOffers, desk: Desk) -> list[dict[str, Any]]:
    stage = desk.compiler.stage(desk.project(asked))
    low, high = stage.bounds() if stage.instances else (np.zeros(3), np.ones(3))
    return [
        {"name": o.name, "length_m": o.length_m, "air": o.air.model_dump(mode="json")}
        for o in offers(asked.project.view(asked.view), stage, low, high)
    ]


def _region(description: Project, stage: StageData) -> tuple[np.ndarray[Any, Any], np.ndarray[Any, Any]]:
    """A box around views, their targets, fixtures and openings, or the whole stage where that is smaller."""
    marks = [o.centre for o in stage.openings] + [f.position for f in description.fixtures]
    marks = marks or [p for v in description.views for p in (v.position, v.target)]
    low, high = stage.bounds() if stage.instances else (np.zeros(3), np.ones(3))
    if marks:
        points = np.array(marks, float)
        low = np.maximum(low, points.min(0) - MARGIN_M)
        high = np.minimum(high, points.max(0) + MARGIN_M)
    return low - 0.01, high + 0.01


def _plan(asked: q.Plan, desk: Desk) -> dict[str, Any]:
    project, compiler = desk.project(asked), desk.compiler
    stage = compiler.stage(project)
    low, high = _region(project.description, stage)
    layers = frozenset(stage.layers)
    segments = plan.cut(stage, asked.height_m, (low[0], low[1]), (high[0], high[1]), layers)
    return {
        "height_m": asked.height_m, "low": [float(low[0]), float(low[1])], "high": [float(high[0]), float(high[1])],
        "segments": np.round(segments, 3).astype(float).ravel().tolist(),
    }  # fmt: skip


def _section(asked: q.Section, desk: Desk) -> dict[str, Any]:
    project, compiler = desk.project(asked), desk.compiler
    stage = compiler.stage(project)
    low, high = _region(project.description, stage)
    other = 1 if asked.axis == "x" else 0
    corner = (float(low[other]), float(low[2]) - 1.0)
    opposite = (float(high[other]), float(high[2]) + 1.0)
    segments = plan.section(
        stage, 0 if asked.axis == "x" else 1, asked.place_m, corner, opposite, frozenset(stage.layers)
    )
    return {
        "axis": asked.axis, "place_m": asked.place_m, "low": corner, "high": opposite,
        "segments": np.round(segments, 3).astype(float).ravel().tolist(),
    }  # fmt: skip


def _objects(asked: q.Objects, desk: Desk) -> list[dict[str, Any]]:
    """Every named object of the stage with its box."""
    stage = desk.compiler.stage(desk.project(asked))
    boxes: dict[str, list[np.ndarray[Any, Any]]] = {}
    for p in stage.instances:
        points = stage.meshes[p.mesh].points
        corners = np.array(np.meshgrid(*zip(points.min(0), points.max(0), strict=True))).reshape(3, -1)
        world = p.matrix[:3, :3] @ corners + p.matrix[:3, 3, None]
        boxes.setdefault(p.name, []).append(world)
    return [
        {"name": name, "low": np.hstack(parts).min(1).tolist(), "high": np.hstack(parts).max(1).tolist()}
        for name, parts in sorted(boxes.items())
    ]


def _ceilings(asked: q.Ceilings, desk: Desk) -> list[float | None]:
    """Height of what hangs over each place, None under the open sky."""
    project, compiler = desk.project(asked), desk.compiler
    description = project.description
    if not description.views or not description.occasions:
        return [None] * len(asked.places)
    scene = compiler.scene(project, description.views[0], description.occasions[0], 16, 9, 1, SKETCH)
    met = [pick.along(scene, place, (0.0, 0.0, 1.0), rays.OPAQUE) for place in asked.places]
    return [None if m is None else m.point[2] for m in met]


def _illuminance(asked: q.Illuminance, desk: Desk) -> dict[str, Any]:
    project, compiler = desk.project(asked), desk.compiler
    description = project.description
    if not description.views:
        raise InputError("there is no view yet", "views", "Add a view first")
    occasion = description.occasion(asked.occasion)
    scene = compiler.scene(project, description.views[0], occasion, 16, 9, 1, SKETCH)
    low, high = _region(description, compiler.stage(project))
    step = max(float((high - low)[:2].max()) / 110, 0.1)
    xs = np.arange(low[0] + step / 2, high[0], step)
    ys = np.arange(low[1] + step / 2, high[1], step)
    grid = direct.on_level(scene, occasion.light_levels(), xs, ys, asked.height_m)
    return {
        "height_m": asked.height_m, "x0": float(xs[0]), "y0": float(ys[0]), "step_m": step, "columns": len(xs),
        "rows": len(ys), "lux": np.round(grid, 2).astype(float).ravel().tolist(),
    }  # fmt: skip


def _png(picture: np.ndarray[Any, Any]) -> bytes:
    return png(picture, effort=3)


def _dressed(project: LoadedProject, compiler: Compiler) -> tuple[StageData, tuple[Material, ...]]:
    stage = compiler.stage(project)
    return stage, dressed(stage.materials, project.description.stage.surfaces, False)


def _surfaces(asked: q.Surfaces, desk: Desk) -> list[dict[str, Any]]:
    """Every material in use, with what is doubtful about it; doubtful ones first, then by name."""
    project, compiler = desk.project(asked), desk.compiler
    stage, materials = _dressed(project, compiler)
    doubts = {f.material: f.message for f in findings(stage, materials)}
    used = {int(m) for p in stage.instances for m in np.unique(stage.meshes[p.mesh].material)}
    lines = []
    told: set[str] = set()
    for number in sorted(used):
        came, now = stage.materials[number], materials[number]
        if now.name in told:  # of several models, or painted by the colours of vertices: dressed together
            continue
        told.add(now.name)
        surface = now.surface()
        models = "".join(p.asset for p in project.description.placements)
        lines.append({
            "name": now.name, "surface": surface.model_dump(mode="json"), "came_as": came.surface().model_dump(mode="json"),
            "changed": now.name in project.description.stage.surfaces, "has_picture": came.base_texture >= 0,
            "doubt": doubts.get(now.name),
            "version": hashlib.sha256((models + repr(now)).encode()).hexdigest()[:16],
        })  # fmt: skip
    return sorted(lines, key=lambda line: (line["doubt"] is None, str(line["name"]).lower()))


def _pick(asked: q.Pick, desk: Desk) -> dict[str, Any] | None:
    project, compiler = desk.project(asked), desk.compiler
    description = project.description
    view, occasion = description.view(asked.view), description.occasion(asked.occasion)
    scene = compiler.scene(project, view, occasion, *view.pixels(1280), 1, SKETCH)
    if asked.plan is not None:
        x, y, z = asked.plan
        met = pick.along(scene, (x, y, z), (0.0, 0.0, 1.0 if asked.up else -1.0))
    elif asked.picture is not None:
        met = pick.through_picture(scene, *asked.picture)
    else:
        raise InputError("no place was given", "picture", "Give a place of the picture or of the plan")
    return None if met is None else {**vars(met)}


ANSWERS: dict[type[q.Question], Any] = {
    q.Finish: _finish, q.SurfaceSample: _surface_sample, q.MaterialSample: _material_sample, q.Portrait: _portrait,
    q.StageFigures: _stage, q.Objects: _objects, q.Mesh: _mesh, q.Plan: _plan, q.Section: _section, q.Ceilings: _ceilings,
    q.Illuminance: _illuminance, q.Surfaces: _surfaces, q.Pick: _pick, q.AirOffers: _air,
    **measured.ANSWERS, **daylight_answers.ANSWERS,
}  # fmt: skip
