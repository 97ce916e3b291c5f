"""Answers about air and weather: fog for what a view sees, and recipes."""

from __future__ import annotations

from typing import Any

import numpy as np

from valleylight.core.project.description import View
from valleylight.core.season.year import KINDS
from valleylight.core.trace.scene.leaving import leaves_at, year_of
from valleylight.core.trace.scene.offers import AirOffer, offers
from valleylight.core.weather.fog import sight_m
from valleylight.core.weather.recipes import recipes
from valleylight.server.messages import questions as q
from valleylight.server.worker.desk import Desk


def _offers(asked: q.AirOffers | q.Recipes, view: View, desk: Desk) -> tuple[AirOffer, ...]:
    stage = desk.compiler.stage(desk.project(asked))
    low, high = stage.bounds() if stage.instances else (np.zeros(3), np.ones(3))
    return offers(view, stage, low, high)


def _air(asked: q.AirOffers, desk: Desk) -> list[dict[str, Any]]:
    return [
        {
            "name": o.name,
            "length_m": o.length_m,
            "sight_m": round(sight_m(o.air.free_path_m), 2),
            "air": o.air.model_dump(mode="json"),
        }
        for o in _offers(asked, asked.project.view(asked.view), desk)
    ]


def _recipes(asked: q.Recipes, desk: Desk) -> list[dict[str, Any]]:
    view, occasion = asked.project.view(asked.view), asked.project.occasion(asked.occasion)
    fogs = [(o.name, o.air) for o in _offers(asked, view, desk)]
    return [
        {
            "key": r.key,
            "name": r.name,
            "lines": [{"step": n.step, "says": n.says, "changes": list(n.changes)} for n in r.lines],
        }
        for r in recipes(asked.project, view, occasion, fogs)
    ]


def _leaves(asked: q.YearOfLeaves, desk: Desk) -> list[dict[str, Any]]:
    project, occasion = asked.project, asked.project.occasion(asked.occasion)
    dressed = desk.compiler.dressed(desk.project(asked))
    on_stage = {m.leaf for m in dressed.materials if m.leaf}
    now = occasion.when.timetuple().tm_yday
    return [
        {
            "kind": kind, "day": occasion.planting.held.get(kind, now), "held": kind in occasion.planting.held,
            "stage": leaves_at(kind, occasion, project.site).stage, "year": year_of(kind, occasion, project.site),
        }
        for kind in KINDS if kind in on_stage
    ]  # fmt: skip


ANSWERS: dict[type[q.Question], Any] = {q.AirOffers: _air, q.Recipes: _recipes, q.YearOfLeaves: _leaves}
