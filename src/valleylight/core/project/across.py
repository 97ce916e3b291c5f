"""Lens and look of one cell of the wall taken over by others."""

from __future__ import annotations

from collections.abc import Sequence

from valleylight.core.project.changes import Change
from valleylight.core.project.description import Project

#: A view and an occasion, by their keys.
Cell = tuple[str, str]


def across(project: Project, source: Cell, cells: Sequence[Cell], lens: bool, look: bool) -> list[Change]:
    """Changes that give cells the exposure (f-number, shutter, ISO), the look, or both, of one of them. Where the lenses stand stays. Raises
    NotFoundError for a view or an occasion that is not there."""
    view, occasion = project.view(source[0]), project.occasion(source[1])
    exposure, finish = view.lens_for(occasion.key), project.look_for(view, occasion)
    changes = []
    for key, at in dict.fromkeys(cells):
        there = project.view(key)
        project.occasion(at)
        if (key, at) == source:
            continue
        if lens and there.lens_for(at) != exposure:
            changes.append(Change(part="view", key=key, at=["lens_at", at], value=exposure.model_dump(mode="json")))
        if look and there.look_at.get(at) != finish.key:
            changes.append(Change(part="view", key=key, at=["look_at", at], value=finish.key))
    return changes
