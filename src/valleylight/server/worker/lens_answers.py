"""Answers about a lens: where it stands, the section along its axis, and how long its picture will take."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

import numpy as np

from valleylight.core.measure import plan
from valleylight.core.measure.standing import standing
from valleylight.core.sequence.course import Course
from valleylight.core.sequence.walk import met_on_the_way
from valleylight.core.trace.foretell import additions, foretell
from valleylight.core.trace.scene.quality import QUALITIES, SKETCH
from valleylight.server.messages import questions as q
from valleylight.server.worker.desk import Desk

#: How far behind the lens its section reaches, and up and down, as shares of how far it reaches ahead.
BEHIND, UPRIGHT = 0.25, 0.6


def _standing(asked: q.LensStanding, desk: Desk) -> dict[str, Any]:
    project = desk.project(asked)
    view, occasion = asked.project.view(asked.view), asked.project.occasion(asked.occasion)
    scene = desk.compiler.scene(project, view, occasion, *view.pixels(1280), 1, SKETCH)
    return asdict(standing(scene, view))


def _section(asked: q.LensSection, desk: Desk) -> dict[str, Any]:
    project = desk.project(asked)
    view, stage = asked.project.view(asked.view), desk.compiler.stage(project)
    x, y, z = view.position
    low = (-BEHIND * asked.reach_m, z - UPRIGHT * asked.reach_m)
    high = (asked.reach_m, z + UPRIGHT * asked.reach_m)
    ahead = (view.target[0] - x, view.target[1] - y)
    ahead = ahead if np.hypot(*ahead) > 1e-9 else (0.0, 1.0)
    segments = plan.section_along(stage, (x, y), ahead, low, high)
    return {"low": low, "high": high, "segments": np.round(segments, 3).astype(float).ravel().tolist()}


def _foretell(asked: q.Foretell, desk: Desk) -> dict[str, Any]:
    project = desk.project(asked)
    view, occasion, quality = (
        asked.project.view(asked.view),
        asked.project.occasion(asked.occasion),
        QUALITIES[asked.quality],
    )
    found = foretell(desk.compiler, project, view, occasion, asked.size, quality)
    parts = additions(desk.compiler, project, view, occasion, asked.size, quality, found) if asked.parts else []
    return {
        "seconds": found.seconds, "samples": found.samples,
        "parts": [{"name": part.name, "seconds": part.seconds} for part in parts],
    }  # fmt: skip


def _on_the_way(asked: q.OnTheWay, desk: Desk) -> list[dict[str, Any]]:
    course = Course(asked.project, asked.sequence)
    view, occasion = course.view(0.0), course.occasion(0.0)
    scene = desk.compiler.scene(desk.project(asked), view, occasion, *view.pixels(320), 1, SKETCH)
    return [asdict(met) for met in met_on_the_way(scene, course)]


ANSWERS: dict[type[q.Question], Any] = {
    q.LensStanding: _standing,
    q.LensSection: _section,
    q.Foretell: _foretell,
    q.OnTheWay: _on_the_way,
}
