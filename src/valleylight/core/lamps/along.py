"""Fixtures go along with the lamps that hold them: moved, turned, scaled, mirrored, copied, hidden and taken away as those are."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import ValidationError

from valleylight.core.project.changes import Change, changed
from valleylight.core.project.description import Fixture, Placement, Point, Project
from valleylight.core.project.keys import free_key
from valleylight.core.project.repeats import Strewn
from valleylight.core.stage.assembly import matrix_of
from valleylight.core.stage.repeats import repeated

_POSE = ("position", "turn_deg", "scale", "up", "mirrored")
#: What is worked out is kept to a tenth of a millimetre, as places set by hand are.
_DIGITS = 4


def with_lamps(before: dict[str, Any], changes: list[Change], drafted: bool = False) -> list[Change]:
    """The changes of a description, and those of the fixtures within the things that they change.

    A fixture that the changes set themselves is left to them. Raises as `changed` does for changes that cannot be applied.
    """
    placements = {p["key"]: p for p in before.get("placements", [])}
    fixtures = {f["key"]: f for f in before.get("fixtures", [])}
    touched = dict.fromkeys(c.key for c in changes if c.part == "placement" and not c.only_moves)
    if not fixtures or not touched:
        return changes
    now = {p["key"]: p for p in changed(before, changes, drafted).get("placements", [])}
    wanted = {p.get("lamp") for p in now.values()}
    # Things that stood before come first: one that is copied keeps its own fixture.
    held = {p["lamp"] for key, p in now.items() if key in placements and p.get("lamp")}
    taken, more = set(fixtures), []
    by_hand = {c.key for c in changes if c.part == "fixture"}
    for key in touched:
        old, new = placements.get(key), now.get(key)
        lamp = (old or new or {}).get("lamp")
        if lamp not in fixtures or lamp in by_hand:
            continue
        if new is None:
            more += [] if lamp in wanted else [Change(part="fixture", key=lamp)]
        elif old is None:
            more += _copied(before, new, fixtures[lamp], taken, lamp in held)
            held.add(lamp)
        elif new.get("lamp") == lamp:
            more += _followed(old, new, fixtures[lamp])
    return [*changes, *more]


def every_lamp(project: Project) -> Project:
    """The project with a fixture for each lamp that stands many times: in a row, in a grid or along a line."""
    more: list[Fixture] = []
    moved: dict[str, Fixture] = {}
    fixtures = {f.key: f for f in project.fixtures}
    for thing in project.placements:
        fixture = fixtures.get(thing.lamp or "")
        if fixture is None or thing.repeat is None or isinstance(thing.repeat, Strewn):
            continue
        first = _matrix(thing)
        back = np.linalg.inv(first)
        at = [_carried(fixture, m @ back) for m in repeated(thing.repeat, first, thing.turn_deg)]
        moved[fixture.key] = fixture.model_copy(update=at[0])
        more += [fixture.model_copy(update={"key": f"{fixture.key}~{k}", **place}) for k, place in enumerate(at[1:], 1)]
    if not moved:
        return project
    return project.model_copy(update={"fixtures": (*(moved.get(f.key, f) for f in project.fixtures), *more)})


def _copied(
    before: dict[str, Any], new: dict[str, Any], held: dict[str, Any], taken: set[str], shared: bool
) -> list[Change]:
    """A new thing that names the fixture of another: it gets one of its own, standing in it as that one does in the other."""
    source = next((p for p in before["placements"] if p.get("lamp") == held["key"]), None)
    place = _along(source, new, held) if source else {}
    if not shared:
        return _set(held["key"], place)
    key = free_key(held["key"], taken)
    taken.add(key)
    return [
        Change(part="fixture", key=key, value={**held, **place, "key": key}),
        Change(part="placement", key=new["key"], at=["lamp"], value=key),
    ]


def _followed(old: dict[str, Any], new: dict[str, Any], held: dict[str, Any]) -> list[Change]:
    place = {}
    if any(old.get(field) != new.get(field) for field in _POSE):
        place = _along(old, new, held)
    if old.get("hidden", False) != new.get("hidden", False):
        place["on"] = not new.get("hidden", False)
    return _set(held["key"], place)


def _set(key: str, fields: dict[str, Any]) -> list[Change]:
    return [Change(part="fixture", key=key, at=[field], value=value) for field, value in fields.items()]


def _along(old: dict[str, Any], new: dict[str, Any], held: dict[str, Any]) -> dict[str, Any]:
    """Place and aim of a fixture once its thing has gone from one pose to another; nothing where a pose is none, which is refused
    where the description is checked."""
    try:
        before, after = (Placement.model_validate(thing) for thing in (old, new))
        fixture = Fixture.model_validate(held)
    except ValidationError:
        return {}
    return _carried(fixture, _matrix(after) @ np.linalg.inv(_matrix(before)))


def _carried(fixture: Fixture, by: NDArray[np.float64]) -> dict[str, Any]:
    """Place and aim of a fixture that is carried by a matrix (4, 4)."""

    def at(point: Point) -> Point:
        x, y, z = (round(float(v), _DIGITS) for v in by[:3, :3] @ np.array(point) + by[:3, 3])
        return x, y, z

    return {"position": at(fixture.position), "aim": at(fixture.aim)}


def _matrix(thing: Placement) -> NDArray[np.float64]:
    matrix = matrix_of(thing)
    return np.eye(4) if matrix is None else matrix
