"""Questions the worker answers for the server: everything that needs the compiled core or the stage in memory."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Callable
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
from valleylight.core.project.description import Look, Project
from valleylight.core.project.surface import Surface
from valleylight.core.stage import Material, StageData
from valleylight.core.stage.plausibility import findings
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.materials import dressed
from valleylight.core.trace.scene.offers import offers
from valleylight.core.trace.scene.quality import SKETCH
from valleylight.server.found import stage_figures
from valleylight.server.store.files import FileStore
from valleylight.server.worker import daylight_answers, measured, portraits

_films: OrderedDict[str, Film] = OrderedDict()
KEPT_FILMS = 3
#: How far around views and fixtures the plan and the working view reach.
MARGIN_M = 7.0


def answer(
    message: dict[str, Any], compiler: Compiler, files: FileStore, stop: Callable[[], bool] = lambda: False
) -> Any:
    """Answer one question. Raises InputError for what a user can mend, StoppedError where `stop` says so midway."""
    what = message["what"]
    if what == "finish":
        return _finish(files, message["film"], Look.model_validate(message["look"]), message["levels"])
    if what == "sample" and "surface" in message:
        return _png(
            sample_picture(
                Material().made_of(Surface.model_validate(message["surface"])), shape=message["shape"], stop=stop
            )
        )
    if what == "portrait":
        return portraits.make(files, message["profile"], message["kelvin"], message["side"], message["ev100"])
    if what == "sky":
        return daylight_answers.catalogue_sky(message)
    project = LoadedProject(Project.model_validate(message["description"]), files.read)
    if what == "plan":
        return _plan(project, compiler, message["height_m"])
    if what == "section":
        return _section(project, compiler, message["axis"], message["place_m"])
    if what == "objects":
        return _objects(compiler.stage(project))
    if what == "ceilings":
        return _ceilings(project, compiler, message["places"])
    if what == "mesh":
        low, high = _region(project.description, compiler.stage(project))
        origin, triangles = outline.working_mesh(compiler.stage(project), low, high)
        return origin.astype("<f8").tobytes() + triangles.astype("<f4").tobytes()
    if what == "stage":
        return stage_figures(compiler.stage(project))
    if what == "illuminance":
        return _illuminance(project, compiler, message)
    if what == "surfaces":
        return _surfaces(project, compiler)
    if what == "sample":
        stage, materials = _dressed(project, compiler)
        material = next((m for m in materials if m.name == message["material"]), None)
        if material is None:
            raise NotFoundError(f"there is no material {message['material']!r}", "material", "Reload the page")
        return _png(sample_picture(material, stage.textures, message["shape"], stop=stop))
    if what == "pick":
        return _pick(project, compiler, message["spot"])
    if what == "air":
        stage = compiler.stage(project)
        low, high = stage.bounds() if stage.placements else (np.zeros(3), np.ones(3))
        return [
            {"name": o.name, "length_m": o.length_m, "air": o.air.model_dump(mode="json")}
            for o in offers(project.description.view(message["view"]), stage, low, high)
        ]
    if what in measured.ANSWERS:
        return measured.ANSWERS[what](project, compiler, message)
    return daylight_answers.answer(what, project, compiler, message)


def _finish(files: FileStore, film_sha: str, look: Look, levels: dict[str, float]) -> bytes:
    if film_sha not in _films:
        _films[film_sha] = read_exr(files.path(film_sha))
        while len(_films) > KEPT_FILMS:
            _films.popitem(last=False)
    _films.move_to_end(film_sha)
    return png(apply(_films[film_sha], look, levels), effort=3)


def _region(description: Project, stage: StageData) -> tuple[np.ndarray[Any, Any], np.ndarray[Any, Any]]:
    """A box around views, their targets, fixtures and openings, or the whole stage where that is smaller."""
    marks = [o.centre for o in stage.openings] + [f.position for f in description.fixtures]
    marks = marks or [p for v in description.views for p in (v.position, v.target)]
    low, high = stage.bounds() if stage.placements else (np.zeros(3), np.ones(3))
    if marks:
        points = np.array(marks, float)
        low = np.maximum(low, points.min(0) - MARGIN_M)
        high = np.minimum(high, points.max(0) + MARGIN_M)
    return low - 0.01, high + 0.01


def _plan(project: LoadedProject, compiler: Compiler, height_m: float) -> dict[str, Any]:
    stage = compiler.stage(project)
    low, high = _region(project.description, stage)
    layers = frozenset(stage.layers)
    segments = plan.cut(stage, height_m, (low[0], low[1]), (high[0], high[1]), layers)
    return {
        "height_m": height_m, "low": [float(low[0]), float(low[1])], "high": [float(high[0]), float(high[1])],
        "segments": np.round(segments, 3).astype(float).ravel().tolist(),
    }  # fmt: skip


def _section(project: LoadedProject, compiler: Compiler, axis: str, place_m: float) -> dict[str, Any]:
    stage = compiler.stage(project)
    low, high = _region(project.description, stage)
    other = 1 if axis == "x" else 0
    corner = (float(low[other]), float(low[2]) - 1.0)
    opposite = (float(high[other]), float(high[2]) + 1.0)
    segments = plan.section(stage, 0 if axis == "x" else 1, place_m, corner, opposite, frozenset(stage.layers))
    return {
        "axis": axis, "place_m": place_m, "low": corner, "high": opposite,
        "segments": np.round(segments, 3).astype(float).ravel().tolist(),
    }  # fmt: skip


def _objects(stage: StageData) -> list[dict[str, Any]]:
    """Every named object of the stage with its box."""
    boxes: dict[str, list[np.ndarray[Any, Any]]] = {}
    for p in stage.placements:
        points = stage.meshes[p.mesh].points
        corners = np.array(np.meshgrid(*zip(points.min(0), points.max(0), strict=True))).reshape(3, -1)
        world = p.matrix[:3, :3] @ corners + p.matrix[:3, 3, None]
        boxes.setdefault(p.name, []).append(world)
    return [
        {"name": name, "low": np.hstack(parts).min(1).tolist(), "high": np.hstack(parts).max(1).tolist()}
        for name, parts in sorted(boxes.items())
    ]


def _ceilings(
    project: LoadedProject, compiler: Compiler, places: list[tuple[float, float, float]]
) -> list[float | None]:
    """Height of what hangs over each place, None under the open sky."""
    description = project.description
    if not description.views or not description.occasions:
        return [None] * len(places)
    scene = compiler.scene(project, description.views[0], description.occasions[0], 16, 9, 1, SKETCH)
    met = [pick.along(scene, place, (0.0, 0.0, 1.0), rays.OPAQUE) for place in places]
    return [None if m is None else m.point[2] for m in met]


def _illuminance(project: LoadedProject, compiler: Compiler, message: dict[str, Any]) -> dict[str, Any]:
    description = project.description
    if not description.views:
        raise InputError("there is no view yet", "views", "Add a view first")
    occasion = description.occasion(message["occasion"])
    scene = compiler.scene(project, description.views[0], occasion, 16, 9, 1, SKETCH)
    low, high = _region(description, compiler.stage(project))
    step = max(float((high - low)[:2].max()) / 110, 0.1)
    xs = np.arange(low[0] + step / 2, high[0], step)
    ys = np.arange(low[1] + step / 2, high[1], step)
    grid = direct.on_level(scene, occasion.light_levels(), xs, ys, message["height_m"])
    return {
        "height_m": message["height_m"], "x0": float(xs[0]), "y0": float(ys[0]), "step_m": step, "columns": len(xs),
        "rows": len(ys), "lux": np.round(grid, 2).astype(float).ravel().tolist(),
    }  # fmt: skip


def _png(picture: np.ndarray[Any, Any]) -> bytes:
    return png(picture, effort=3)


def _dressed(project: LoadedProject, compiler: Compiler) -> tuple[StageData, tuple[Material, ...]]:
    stage = compiler.stage(project)
    return stage, dressed(stage.materials, project.description.stage.surfaces, False)


def _surfaces(project: LoadedProject, compiler: Compiler) -> list[dict[str, Any]]:
    """Every material in use, with what is doubtful about it; doubtful ones first, then by name."""
    stage, materials = _dressed(project, compiler)
    doubts = {f.material: f.message for f in findings(stage, materials)}
    used = {int(m) for p in stage.placements for m in np.unique(stage.meshes[p.mesh].material)}
    lines = []
    for number in sorted(used):
        came, now = stage.materials[number], materials[number]
        surface = now.surface()
        models = "".join(m.asset for m in project.description.stage.models)
        lines.append({
            "name": now.name, "surface": surface.model_dump(mode="json"), "came_as": came.surface().model_dump(mode="json"),
            "changed": now.name in project.description.stage.surfaces, "has_picture": came.base_texture >= 0,
            "doubt": doubts.get(now.name),
            "version": hashlib.sha256((models + repr(now)).encode()).hexdigest()[:16],
        })  # fmt: skip
    return sorted(lines, key=lambda line: (line["doubt"] is None, str(line["name"]).lower()))


def _pick(project: LoadedProject, compiler: Compiler, spot: dict[str, Any]) -> dict[str, Any] | None:
    description = project.description
    view, occasion = description.view(spot["view"]), description.occasion(spot["occasion"])
    scene = compiler.scene(project, view, occasion, *view.pixels(1280), 1, SKETCH)
    if spot["plan"] is not None:
        x, y, z = spot["plan"]
        met = pick.along(scene, (x, y, z), (0.0, 0.0, 1.0 if spot["up"] else -1.0))
    elif spot["picture"] is not None:
        met = pick.through_picture(scene, *spot["picture"])
    else:
        raise InputError("no place was given", "picture", "Give a place of the picture or of the plan")
    return None if met is None else {**vars(met)}
