"""Copies of parts of a project: under a key and a name of their own, with what belongs to them."""

from __future__ import annotations

import re
from itertools import count
from typing import Literal

from valleylight.core.project.changes import LISTS, Change
from valleylight.core.project.description import Project, find

Copied = Literal["view", "occasion", "look", "kind", "fixture", "scene"]
#: A copied fixture stands so far aside, in metres along X.
ASIDE_M = 0.5


def copy_part(project: Project, part: Copied, key: str, name: str | None = None) -> tuple[str, list[Change]]:
    """The key of a copy that stands next to its original, and the changes that make it.

    A copied occasion keeps the lens and look that every view has at the original. Raises NotFoundError.
    """
    items = getattr(project, LISTS[part])
    original = find(items, key, part)
    made = free_key(original.key, {item.key for item in items})
    data = original.model_dump(mode="json") | {"key": made}
    if "name" in data:
        data["name"] = name or copy_name(original.name, {item.name for item in items})
    if part == "fixture":
        for point in ("position", "aim"):
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
    return made, changes


def free_key(base: str, taken: set[str]) -> str:
    """A key not yet taken: the base with a number after it."""
    return _numbered(base, "-", 64, taken)


def copy_name(name: str, taken: set[str]) -> str:
    """A name not yet taken: "Noon" becomes "Noon 2", that "Noon 3"."""
    return _numbered(name, " ", 80, taken)


def _numbered(text: str, between: str, longest: int, taken: set[str]) -> str:
    """The text with the first free number from 2 after it, in place of one that it has."""
    room = longest - 6
    stem = re.sub(rf"{between}\d+$", "", text)[:room] or text[:room]
    return next(made for number in count(2) if (made := f"{stem}{between}{number}") not in taken)
