"""Answers of the meter, the area grid, a fixture's readings and the goniometer."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, replace
from typing import Any

import numpy as np

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.colour.temperature import rgb_to_kelvin
from valleylight.core.errors import InputError
from valleylight.core.film.film import Film, Level, rgb_of
from valleylight.core.finish.exposure import ev100, metered_ev100
from valleylight.core.lamps.compile import flux_lm
from valleylight.core.measure import aimed, area, goniometer, pick
from valleylight.core.measure.incident import incident
from valleylight.core.photometry import write_lm63
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Lens, find
from valleylight.core.trace.scene.compiler import Compiler, RenderScene
from valleylight.core.trace.scene.quality import SKETCH
from valleylight.core.treatments.white_balance import for_grey
from valleylight.server.messages import questions as q
from valleylight.server.worker.desk import Desk

#: Paths with which the light on a point, and on each point of an area, is measured.
SPOT_SAMPLES, AREA_SAMPLES = 1024, 96


def spot(
    film: Film, scene: RenderScene, lens: Lens, levels: Mapping[str, Level], x: float, y: float, radius: float
) -> dict[str, Any]:
    """A reading at (x, y), 0 to 1 from the left and the top, over a disc of a radius in picture widths."""
    width, height = film.size
    rows, columns = np.indices((height, width))
    near = np.hypot(columns + 0.5 - x * width, rows + 0.5 - y * height) <= max(radius * width, 0.75)
    if not near.any():
        near[min(int(y * height), height - 1), min(int(x * width), width - 1)] = True
    seen = film.balanced(levels)[near]
    luminances = seen @ LUMINANCE
    mean = float(luminances.mean())
    met = pick.through_picture(scene, x, y)
    lux, kelvin, by_group = None, None, {}
    if met is not None:
        found = incident(scene, np.array([met.point]), np.array([met.normal]), SPOT_SAMPLES)
        lux = float(found.lux(levels)[0])
        kelvin = _kelvin(found.rgb(levels)[0])
        each = [
            float(rgb_of(levels.get(n, 1.0)) * v @ LUMINANCE)
            for n, v in zip(found.group_names, found.rgb_lx[0], strict=True)
        ]
        by_group = {n: v for n, v in zip(found.group_names, each, strict=True) if v > 0}
    return {
        "luminance_cd_m2": mean, "least_cd_m2": float(luminances.min()), "greatest_cd_m2": float(luminances.max()),
        "stops": metered_ev100(mean) - ev100(lens) if mean > 0 else None, "kelvin": _kelvin(seen.mean(0)),
        "lux": lux, "light_kelvin": kelvin, "lux_by_group": by_group, "object": met.object if met else None,
        "material": met.material if met else None, "point": met.point if met else None, "normal": met.normal if met else None,
        "distance_m": met.distance_m if met else None, "grey": _grey(seen.mean(0)),
    }  # fmt: skip


def _grey(rgb: np.ndarray[Any, Any]) -> dict[str, float] | None:
    """The white balance that makes a colour grey."""
    found = for_grey(rgb)
    return None if found is None else {"kelvin": found.kelvin, "tint": found.tint}


def _kelvin(rgb: np.ndarray[Any, Any]) -> float | None:
    value = rgb_to_kelvin(rgb)
    return round(value) if np.isfinite(value) and 1000 < value < 40_000 else None


def _area(asked: q.Area, desk: Desk) -> dict[str, Any]:
    project, compiler = desk.project(asked), desk.compiler
    scene, levels = _scene(project, compiler, asked.occasion)
    made = area.over_area(
        scene, levels, asked.corner, asked.u, asked.v, asked.normal, asked.spacing_m,
        AREA_SAMPLES, asked.direct_only,
    )  # fmt: skip
    figures = asdict(made)
    return {
        **figures,
        "rows": made.lux.shape[0],
        "columns": made.lux.shape[1],
        "lux": np.round(made.lux, 2).ravel().tolist(),
    }


def _readings(asked: q.Readings, desk: Desk) -> dict[str, Any]:
    project, compiler = desk.project(asked), desk.compiler
    scene, _ = _scene(project, compiler, asked.occasion)
    fixture = find(project.description.fixtures, asked.fixture, "fixture")
    kind = project.description.kind(fixture.kind)
    profile = compiler.profile(project, kind.profile)
    return asdict(aimed.readings(scene, compiler.stage(project), fixture, profile, flux_lm(fixture, kind, profile)))


def _goniometer(asked: q.Goniometer, desk: Desk) -> str:
    """The distribution of a fixture or of objects of the stage, as an LM-63 file."""
    project, compiler = desk.project(asked), desk.compiler
    if asked.fixture:
        fixture = find(project.description.fixtures, asked.fixture, "fixture")
        kind = project.description.kind(fixture.kind)
        made = goniometer.measure_fixture(fixture, kind, compiler.profile(project, kind.profile))
    else:
        made = goniometer.measure_object(compiler.dressed(project), frozenset(asked.objects), name=asked.name)
    return write_lm63(replace(made, name=asked.name))


def _scene(project: LoadedProject, compiler: Compiler, occasion: str) -> tuple[RenderScene, dict[str, float]]:
    if not project.description.views:
        raise InputError("there is no view yet", "views", "Add a view first")
    moment = project.description.occasion(occasion)
    return compiler.scene(project, project.description.views[0], moment, 16, 9, 1, SKETCH), moment.light_levels()


ANSWERS: dict[type[q.Question], Any] = {q.Area: _area, q.Readings: _readings, q.Goniometer: _goniometer}
