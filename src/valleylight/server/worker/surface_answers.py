"""Answers about surfaces: what the stage is made of, how much of a picture shows it, and pictures of samples."""

from __future__ import annotations

import hashlib
from collections import Counter
from dataclasses import replace
from typing import Any

from valleylight.core.errors import NotFoundError
from valleylight.core.film.png import png
from valleylight.core.measure import pick
from valleylight.core.preview.sample import sample_picture
from valleylight.core.project.description import Project
from valleylight.core.project.surface import Surface
from valleylight.core.stage import Material, StageData
from valleylight.core.stage.dressing import dressed, laid
from valleylight.core.stage.plausibility import findings
from valleylight.core.stage.samples import presented
from valleylight.core.trace.scene.quality import SKETCH
from valleylight.server.messages import questions as q
from valleylight.server.worker.desk import Desk

#: A picture is asked at so many places across what it shows.
COLUMNS = 48


def _surface_sample(asked: q.SurfaceSample, desk: Desk) -> bytes:
    bare = StageData(materials=(Material(),))
    made, _ = dressed(
        bare, {bare.materials[0].name: asked.surface},
        lambda p: laid(p, desk.files.read), lambda number: 1.0,
    )  # fmt: skip
    picture = sample_picture(made.materials[0], made.textures, presented(asked.surface), stop=desk.stop)
    return png(picture, effort=3)


def _material_sample(asked: q.MaterialSample, desk: Desk) -> bytes:
    project, compiler = desk.project(asked), desk.compiler
    worn, came = compiler.dressed(project), compiler.stage(project)
    number = next((k for k, m in enumerate(worn.materials) if m.name == asked.material), None)
    if number is None:
        raise NotFoundError(f"there is no material {asked.material!r}", "material", "Reload the page")
    metres = compiler.uv_metres(project).get(number, 1.0)
    shown = presented(_now(project.description, came.materials[number]), _turn_of(worn.materials[number], metres))
    return png(sample_picture(worn.materials[number], worn.textures, shown, metres, stop=desk.stop), effort=3)


def _now(project: Project, came: Material) -> Surface:
    """A material's surface as the artist has set it, or as it came."""
    return project.stage.surfaces.get(came.name) or came.surface()


def _turn_of(material: Material, metres: float) -> float | None:
    """Size of one turn of a material's picture, where it has one by its own uv."""
    return metres if material.base_texture >= 0 and material.laying is None else None


def _surfaces(asked: q.Surfaces, desk: Desk) -> list[dict[str, Any]]:
    """Every material in use, with what is doubtful about it; doubtful ones first, then by name."""
    project, compiler = desk.project(asked), desk.compiler
    came_as, worn = compiler.stage(project), compiler.dressed(project)
    by_hand = project.description.stage.surfaces
    doubts = {f.material: f for f in findings(worn, worn.materials)}
    sizes = compiler.uv_metres(project)
    seen = _seen(asked, desk) if asked.view else None
    models = "".join(p.asset for p in project.description.placements)
    lines = []
    told: set[str] = set()
    for number in came_as.used:
        came, now = came_as.materials[number], worn.materials[number]
        if now.name in told:  # of several models, or painted by the colours of vertices: dressed together
            continue
        told.add(now.name)
        surface, doubt = _now(project.description, came), doubts.get(now.name)
        own = surface.pictures.model_dump_json() if surface.pictures else ""
        lines.append({
            "name": now.name, "surface": surface.model_dump(mode="json"), "came_as": came.surface().model_dump(mode="json"),
            "changed": now.name in by_hand, "has_picture": came.base_texture >= 0,
            "doubt": doubt.message if doubt else None, "placeholder": doubt is not None and doubt.kind == "placeholder",
            "seen": None if seen is None else round(seen.get(now.name, 0.0), 4),
            "sample_m": presented(surface, _turn_of(now, sizes.get(number, 1.0))).size_m,
            "version": hashlib.sha256((models + repr(now) + own).encode()).hexdigest()[:16],
        })  # fmt: skip
    return sorted(lines, key=lambda line: (line["doubt"] is None, str(line["name"]).lower()))


def _seen(asked: q.Surfaces, desk: Desk) -> dict[str, float]:
    """Shares of a view's picture by material."""
    project = desk.project(asked, boxes=True)
    view, occasion = project.description.view(asked.view), project.description.occasion(asked.occasion)
    scene = desk.compiler.scene(project, view, occasion, *view.pixels(1280), 1, replace(SKETCH, boxes=True))
    rows = max(round(COLUMNS / view.aspect), 1)
    places = [((i + 0.5) / COLUMNS, (j + 0.5) / rows) for i in range(COLUMNS) for j in range(rows)]
    met = Counter(m.material for m in (pick.through_picture(scene, x, y) for x, y in places) if m)
    return {name: count / len(places) for name, count in met.items()}


ANSWERS: dict[type[q.Question], Any] = {
    q.SurfaceSample: _surface_sample, q.MaterialSample: _material_sample, q.Surfaces: _surfaces,
}  # fmt: skip
