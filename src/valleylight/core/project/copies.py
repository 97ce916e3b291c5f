"""Copies of parts of a project: under a key and a name of their own, with what belongs to them."""

from __future__ import annotations

from typing import Literal

from valleylight.core.project.changes import LISTS, Change
from valleylight.core.project.description import Project, find
from valleylight.core.project.keys import free_key, free_name

Copied = Literal["placement", "view", "occasion", "look", "kind", "fixture", "scene", "cutout", "sequence"]
#: A copied fixture or thing stands so far aside, in metres along X.
ASIDE_M = 0.5
#: Points of a part that stand aside in its copy.
MOVED_ASIDE = {"fixture": ("position", "aim"), "placement": ("position",), "cutout": ("place",)}


def copy_part(project: Project, part: Copied, key: str, name: str | None = None) -> tuple[str, list[Change]]:
    """The key of a copy that stands next to its original, and the changes that make it.

    A copied occasion keeps the lens and look that every view has at the original, and hides the same cut-outs; a copied view has
    cut-outs of its own like those of the original. Raises NotFoundError.
    """
    items = getattr(project, LISTS[part])
    original = find(items, key, part)
    made = free_key(original.key, {item.key for item in items})
    data = original.model_dump(mode="json") | {"key": made}
    if "name" in data:
        data["name"] = name or free_name(original.name, {item.name for item in items})
    if part in MOVED_ASIDE:
        for point in MOVED_ASIDE[part]:
            x, *rest = data[point]
            data[point] = [round(x + ASIDE_M, 4), *rest]
    changes = [Change(part=part, key=made, value=data, place=items.index(original) + 1)]
    if part == "occasion":
        for view in project.views:
            for table in ("lens_at", "look_at"):
                held = getattr(view, table).get(original.key)
                if held is not None:
                    value = held if isinstance(held, str) else held.model_dump(mode="json")
                    changes.append(Change(part="view", key=view.key, at=[table, made], value=value))
        for cutout in project.cutouts:
            if original.key in cutout.hidden_at:
                hidden = [*cutout.hidden_at, made]
                changes.append(Change(part="cutout", key=cutout.key, at=["hidden_at"], value=hidden))
    if part == "view":
        taken = {c.key for c in project.cutouts}
        for cutout in project.cutouts:
            if cutout.view == original.key:
                taken.add(own := free_key(cutout.key, taken))
                value = cutout.model_dump(mode="json") | {"key": own, "view": made}
                changes.append(Change(part="cutout", key=own, value=value))
    return made, changes
