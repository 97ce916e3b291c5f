"""Questions the worker answers for the server: everything that needs the compiled core or the stage in memory."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import LUMINANCE, srgb_encode
from valleylight.core.errors import InputError
from valleylight.core.film.exports import write_pages
from valleylight.core.film.exr import read_exr
from valleylight.core.film.film import Film, rgb_of
from valleylight.core.film.jpeg import jpeg
from valleylight.core.film.png import png
from valleylight.core.finish.balance import Balance
from valleylight.core.finish.between import Side, between
from valleylight.core.finish.look import apply, apply_linear
from valleylight.core.finish.seen import seen_of
from valleylight.core.measure import direct, outline, pick, plan
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Project
from valleylight.core.project.weather import Weather
from valleylight.core.stage import StageData
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.scene.quality import SKETCH
from valleylight.server.found import stage_figures
from valleylight.server.messages import questions as q
from valleylight.server.worker import (
    air_answers,
    cutout_answers,
    daylight_answers,
    leaf_answers,
    lens_answers,
    measured,
    portraits,
    surface_answers,
    thing_answers,
)
from valleylight.server.worker.desk import Desk
from valleylight.server.worker.told import lights_of

Picture = NDArray[np.float32]
_films: OrderedDict[str, Film] = OrderedDict()
KEPT_FILMS = 3
#: How far around views and fixtures the plan and the working view reach.
MARGIN_M = 7.0


def answer_question(question: q.Question, desk: Desk) -> Any:
    """Answer one question. Raises InputError for what a user can mend, StoppedError where the desk says so midway."""
    return ANSWERS[type(question)](question, desk)


def _film(sha256: str, desk: Desk) -> Film:
    """A kept film, read once while it is in use."""
    if sha256 not in _films:
        _films[sha256] = read_exr(desk.files.path(sha256))
        while len(_films) > KEPT_FILMS:
            _films.popitem(last=False)
    _films.move_to_end(sha256)
    return _films[sha256]


def _export(asked: q.Export, desk: Desk) -> int:
    """Every light of a film of layers is finished by itself, after the whole picture."""
    film = _film(asked.film, desk)
    white, seen = film.settings.get("saturation_cd_m2", 1.0), seen_of(film, asked.look, desk.files.read)

    def codes(linear: Picture) -> Picture:
        made = apply_linear(linear, asked.look, white, seen)
        return np.asarray(srgb_encode(np.clip(made, 0, 1)), np.float32)

    gains = Balance(asked.levels, asked.colours).gains(film)
    pages = [("picture", codes(film.balanced(gains)))]
    if asked.form == "layers":
        for name, picture in film.groups.items():
            pages.append((name, codes(picture * rgb_of(gains[name]))))
    path = desk.files.scratch / asked.name
    write_pages(pages, path, asked.form, asked.caption, asked.size, asked.dpi)
    return path.stat().st_size


def _finish(asked: q.Finish, desk: Desk) -> bytes:
    film = _film(asked.film, desk)
    gains = Balance(asked.levels, asked.colours).gains(film)
    picture = apply(film, asked.look, gains, seen=seen_of(film, asked.look, desk.files.read))
    return jpeg(picture, 92) if asked.jpeg else png(picture, effort=3)


def _lights(asked: q.LightsOfFilm, desk: Desk) -> list[dict[str, Any]]:
    film = _film(asked.film, desk)
    told = lights_of(film, {})
    luminance = {name: float((p @ LUMINANCE.astype(np.float32)).mean()) for name, p in film.groups.items()}
    return [{"name": name, "cd_m2": luminance[name], **told[name]} for name in film.group_names]


def _between(asked: q.Between, desk: Desk) -> bytes:
    sides = []
    for kept in (asked.first, asked.second):
        film = _film(kept.film, desk)
        white = float(film.settings.get("saturation_cd_m2", 1.0))
        sides.append(Side(film, Balance(kept.levels, kept.colours).gains(film), white))
    linear, white = between(sides[0], sides[1], asked.share)
    look = (asked.first if asked.share < 0.5 else asked.second).look
    seen = seen_of(sides[0].film, look, desk.files.read)
    return jpeg(apply(linear, look, saturation_cd_m2=white, seen=seen), 92)


def _portrait(asked: q.Portrait, desk: Desk) -> float:
    return portraits.make(desk.files, asked.profile, asked.kelvin, asked.side, asked.ev100)


def _mesh(asked: q.Mesh, desk: Desk) -> bytes:
    project = desk.project(asked)
    stage = desk.compiler.dressed(project)
    low, high = _region(asked.project, stage)
    hidden = _not_drawn(project, stage)
    if asked.occasion:
        hidden |= asked.project.hidden_at(asked.project.occasion(asked.occasion))
    return outline.working_mesh(stage, low, high, hidden).packed()


def _stage(asked: q.StageFigures, desk: Desk) -> dict[str, Any]:
    return stage_figures(desk.compiler.stage(desk.project(asked)))


def _region(description: Project, stage: StageData) -> tuple[np.ndarray[Any, Any], np.ndarray[Any, Any]]:
    """A box around fixtures and openings, or else views and their targets, and objects; or the whole stage where that is smaller."""
    marks = [o.centre for o in stage.openings] + [f.position for f in description.fixtures]
    marks = marks or [p for v in description.views for p in (v.position, v.target)]
    marks += [p.position for p in description.placements if p.made is not None and p.repeat is None]
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
    segments = plan.cut(stage, asked.height_m, (low[0], low[1]), (high[0], high[1]), _not_drawn(project, stage))
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
        stage, 0 if asked.axis == "x" else 1, asked.place_m, corner, opposite, _not_drawn(project, stage)
    )
    return {
        "axis": asked.axis, "place_m": asked.place_m, "low": corner, "high": opposite,
        "segments": np.round(segments, 3).astype(float).ravel().tolist(),
    }  # fmt: skip


def _not_drawn(project: LoadedProject, stage: StageData) -> frozenset[str]:
    """Layers that plan, section and stage view leave out: all, for a building stands on none; none, where the models stand on layers altogether."""
    objects = {p.name for p in project.description.placements if p.made is not None}
    built = any(not i.layer and i.name not in objects for i in stage.instances)
    ours = {layer.key for layer in project.description.layers if layer.in_models is None}
    return frozenset(stage.layers) - ours if built else frozenset()


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


def _pick(asked: q.Pick, desk: Desk) -> dict[str, Any] | None:
    project, compiler = desk.project(asked, boxes=True), desk.compiler
    if asked.without is not None:
        project = thing_answers.without(project, asked.without)
    description = project.description
    view, occasion = description.view(asked.view), description.occasion(asked.occasion)
    if not asked.as_seen:
        occasion = occasion.model_copy(update={"weather": Weather()})
    scene = compiler.scene(project, view, occasion, *view.pixels(1280), 1, replace(SKETCH, boxes=True))
    if asked.plan is not None:
        x, y, z = asked.plan
        met = pick.along(scene, (x, y, z), (0.0, 0.0, 1.0 if asked.up else -1.0))
    elif asked.picture is not None:
        met = pick.through_picture(scene, *asked.picture)
    else:
        raise InputError("no place was given", "picture", "Give a place of the picture or of the plan")
    if met is None:
        return None
    thing = next((p.key for p in description.placements if p.made is not None and p.name == met.object), None)
    return {**vars(met), "thing": thing}


ANSWERS: dict[type[q.Question], Any] = {
    q.Finish: _finish, q.LightsOfFilm: _lights, q.Between: _between, q.Export: _export, q.Portrait: _portrait,
    q.StageFigures: _stage, q.Objects: _objects, q.Mesh: _mesh, q.Plan: _plan, q.Section: _section, q.Ceilings: _ceilings,
    q.Illuminance: _illuminance, q.Pick: _pick,
    **air_answers.ANSWERS, **cutout_answers.ANSWERS, **measured.ANSWERS, **daylight_answers.ANSWERS, **leaf_answers.ANSWERS, **lens_answers.ANSWERS, **surface_answers.ANSWERS, **thing_answers.ANSWERS,
}  # fmt: skip
