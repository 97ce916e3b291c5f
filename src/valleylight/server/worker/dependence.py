"""What a live picture depends on: by this it is known whether a film at hand still shows what is wanted."""

from __future__ import annotations

from typing import Any

from valleylight.core.finish.exposure import ev100
from valleylight.core.finish.seen import needs_masks
from valleylight.core.lamps.compile import tinting_levels
from valleylight.core.project.description import Lens, Occasion, Project, View
from valleylight.core.trace.scene.kept import digest


def standing(project: Project) -> tuple[Any, ...]:
    """What stands on the stage and on which layers; not what people call it."""
    return (
        tuple(
            p.model_copy(
                update={
                    "name": "x" if p.made is None else p.name,
                    "made": None,
                    "locked": False,
                    "group": None,
                    "lamp": None,
                }
            )
            for p in project.placements
        ),  # objects of the catalogue go by their names, see stage/assembly.py
        sorted((layer.in_models or "", layer.key) for layer in project.layers),
    )


def scene_key(project: Project, view: View, occasion: Occasion) -> str:
    """Hash of what a trace depends on: not the look, nor levels above zero, nor the exposure of a lens without blur.

    Levels that tint their light are told apart by `traced_for`: they are shown at once and traced at rest.
    """
    lens = view.lens_for(occasion.key)
    sky = occasion.sky.model_copy(update={"level_stops": 0.0})
    if sky.picture is not None:
        sky = sky.model_copy(update={"picture": sky.picture.model_copy(update={"background_stops": 0.0})})
    shut = sorted(g for g in project.groups() if occasion.levels.get(g, 100.0) <= 0)
    return digest(
        project.site, project.stage, *standing(project), project.kinds, project.fixtures,
        view.model_copy(update={"lens_at": {}, "look_at": {}, "lens": Lens(), "name": "", "key": "x"}),
        lens.f_number if view.focus_m is not None else 0,
        occasion.model_copy(update={"levels": {}, "name": "", "key": "x", "sun": occasion.sun.model_copy(update={"level_stops": 0.0}),
                                    "sky": sky}),
        shut, needs_masks(project.look_for(view, occasion)),
    )  # fmt: skip


def traced_for(project: Project, view: View, occasion: Occasion) -> tuple[float, dict[str, float]]:
    """Exposure value and tinting levels that a film is traced for, but may be shown without for a while."""
    return ev100(view.lens_for(occasion.key)), tinting_levels(project, occasion)
