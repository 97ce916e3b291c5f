"""What has changed since a plate was made, by the step of work it belongs to."""

from __future__ import annotations

from typing import Any, Literal, get_args

from valleylight.core.project.description import Lens, Occasion, Project, View

Step = Literal["stage", "daylight", "fixtures", "air", "lens", "finish", "compose"]
STEPS: tuple[Step, ...] = get_args(Step)


def changed_steps(then: Project, now: Project, view_key: str, occasion_key: str) -> list[Step]:
    """Steps whose settings differ between two descriptions for one view and occasion.

    Every step when the view or the occasion is gone.
    """
    a, b = (_blocks(p, view_key, occasion_key) for p in (then, now))
    if a is None or b is None:
        return list(STEPS)
    return [step for step in STEPS if a[step] != b[step]]


def _blocks(project: Project, view_key: str, occasion_key: str) -> dict[Step, Any] | None:
    view = next((v for v in project.views if v.key == view_key), None)
    occasion = next((o for o in project.occasions if o.key == occasion_key), None)
    return None if view is None or occasion is None else blocks(project, view, occasion)


def blocks(project: Project, view: View, occasion: Occasion) -> dict[Step, Any]:
    """What a picture depends on, by the step of work at which it is set; not what people call it."""
    place = view.model_copy(update={"key": "x", "name": "", "lens": Lens(), "lens_at": {}, "look_at": {}})
    return {
        "stage": (project.stage, [p.model_copy(update={"name": ""}) for p in project.placements]),
        "daylight": (project.site, occasion.when, occasion.sun, occasion.sky),
        "fixtures": (project.kinds, project.fixtures, occasion.levels, occasion.surfaces_stops, occasion.colours),
        "air": (
            sorted(project.hidden_at(occasion)),
            occasion.air,
            occasion.weather,
            occasion.planting,
            occasion.season,
        ),
        "lens": (place, view.lens_for(occasion.key)),
        "finish": project.look_for(view, occasion).treatments,
        "compose": [
            c.model_copy(update={"name": "", "locked": False, "group": None})
            for c in project.cutouts_at(view.key, occasion.key)
        ],
    }
