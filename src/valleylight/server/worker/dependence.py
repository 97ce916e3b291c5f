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


def traced_sharp(view: View) -> View:
    """The view as the live picture traces it: what is out of focus is blurred afterwards, by the film's distances, so that focus and
    f-number are tried at once. A leaning plane of focus is left to the lens itself."""
    if view.focus_m is None or view.tilt_deg or view.swing_deg:
        return view
    return view.model_copy(update={"focus_m": None})


def blur_of(view: View, occasion: Occasion) -> tuple[float, float] | None:
    """Distance in focus in m and f-number of the blur that the live picture's film does not hold."""
    if view.focus_m is None or traced_sharp(view) is view:
        return None
    return view.focus_m, view.lens_for(occasion.key).f_number


def scene_key(project: Project, view: View, occasion: Occasion) -> str:
    """Hash of what a trace depends on: not the look, nor levels above zero, nor the exposure of a lens, nor its focus unless it is tilted.

    Levels that tint their light are told apart by `traced_for`: they are shown at once and traced at rest.
    """
    lens, view = view.lens_for(occasion.key), traced_sharp(view)
    sky = occasion.sky.model_copy(update={"level_stops": 0.0})
    if sky.picture is not None:
        sky = sky.model_copy(update={"picture": sky.picture.model_copy(update={"background_stops": 0.0})})
    shut = sorted(g for g in project.groups() if occasion.levels.get(g, 100.0) <= 0)
    return digest(
        project.site, project.stage, *standing(project), project.kinds, project.fixtures,
        view.model_copy(update={"lens_at": {}, "look_at": {}, "lens": Lens(), "name": "", "key": "x"}),
        lens.f_number if view.focus_m is not None else 0,
        occasion.model_copy(update={"levels": {}, "colours": {}, "surfaces_stops": 0.0, "name": "", "key": "x", "sun": occasion.sun.model_copy(update={"level_stops": 0.0}),
                                    "sky": sky}),
        shut, needs_masks(project.look_for(view, occasion)),
    )  # fmt: skip


def traced_for(project: Project, view: View, occasion: Occasion) -> tuple[float, dict[str, float]]:
    """Exposure value and tinting levels that a film is traced for, but may be shown without for a while."""
    return ev100(view.lens_for(occasion.key)), tinting_levels(project, occasion)
