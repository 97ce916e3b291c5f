"""Changes of a description, as fine as one field: what two hands do to different parts holds side by side.

A change names a part, a path of fields within it (none for the part as a whole) and the new value. Everything here works
on plain data, before it is checked against the models; nothing is altered in place.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from valleylight.core.errors import InputError, NotFoundError

PartName = Literal[
    "name",
    "site",
    "stage",
    "placement",
    "layer",
    "view",
    "occasion",
    "look",
    "kind",
    "fixture",
    "scene",
    "cutout",
    "sequence",
    "plate",
]
#: Parts of which there is one.
SINGLE = ("name", "site", "stage")
#: Where parts of which there are many stand in a description. Labels of plates stand beside it, see server/edits.py.
LISTS = {
    "placement": "placements", "layer": "layers", "view": "views", "occasion": "occasions", "look": "looks", "kind": "kinds", "fixture": "fixtures", "scene": "scenes",
    "cutout": "cutouts", "sequence": "sequences",
    "plate": "plates",
}  # fmt: skip
DEEPEST = 8
Path = tuple[str | int, ...]
Step = Annotated[str, Field(max_length=200)] | Annotated[int, Field(ge=0, le=100_000)]


class Change(BaseModel):
    """One part, or one field of it, set to a new value; taken away; or moved among its like."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    part: PartName
    key: str = Field("", max_length=200)
    at: list[Step] = Field([], max_length=DEEPEST, description="Path of a field within the part; empty for all of it")
    value: Any = Field(None, description="The new value; null for a whole part takes it away")
    away: bool = Field(False, description="Take the field away: an entry of a table or of a list")
    place: int | None = Field(
        None, ge=0, le=100_000, description="Stand at this place among its like; without a value the part is only moved"
    )

    @model_validator(mode="after")
    def _only_lists_have_an_order(self) -> Change:
        if self.place is not None and (self.part in SINGLE or self.part == "plate"):
            raise ValueError(
                f"a {self.part} stands in no order; leave its place out (plates are ordered by their rank)"
            )
        return self

    @property
    def only_moves(self) -> bool:
        return self.place is not None and self.value is None and not self.at

    def touches(self) -> Path:
        """What it touches, as a path from the whole description down."""
        if self.only_moves:
            return ("order of", self.part)
        return (self.part, self.key, *self.at)


def overlap(a: Iterable[Any], b: Iterable[Any]) -> bool:
    """Whether two touched paths meet: the same, or one within the other."""
    return all(x == y for x, y in zip(a, b, strict=False))


def changed(before: dict[str, Any], changes: list[Change], drafted: bool = False) -> dict[str, Any]:
    """The description with changes applied, not yet checked.

    Drafted changes may be on their way to being saved, so taking away what is gone already is no mistake there.
    Raises NotFoundError for a part that does not exist, InputError for a path that leads nowhere.
    """
    after = dict(before)
    for change in changes:
        if change.part in SINGLE:
            after[change.part] = _with(after[change.part], change) if change.at else change.value
            continue
        plural = LISTS[change.part]
        after[plural] = _changed_list(list(after.get(plural, [])), change, drafted)
    return after


def value_at(raw: dict[str, Any], touched: Path) -> Any:
    """What stands at a touched path now; None where nothing does."""
    if touched[0] == "order of":
        return [item["key"] for item in raw.get(LISTS[str(touched[1])], [])]
    part, key, *path = touched
    value: Any = raw.get(str(part)) if part in SINGLE else next(
        (item for item in raw.get(LISTS[str(part)], []) if item["key"] == key), None
    )  # fmt: skip
    for step in path:
        if isinstance(value, dict):
            value = value.get(step)
        elif isinstance(value, list) and isinstance(step, int) and step < len(value):
            value = value[step]
        else:
            return None
    return value


def _changed_list(items: list[Any], change: Change, drafted: bool) -> list[Any]:
    index = next((k for k, item in enumerate(items) if item["key"] == change.key), None)
    missing = NotFoundError(f"there is no {change.part} {change.key!r}", change.part, "Nothing was changed")
    if change.only_moves or change.at:
        if index is None:
            if drafted:
                return items
            raise missing
        item = items[index] if change.only_moves else _with(items[index], change)
    elif change.value is None:
        if index is None:
            if drafted:
                return items
            raise missing
        return items[:index] + items[index + 1 :]
    else:
        if not isinstance(change.value, dict) or change.value.get("key") != change.key:
            raise InputError(
                "the value's key differs from the change's key", f"{change.part}.key", "Nothing was changed"
            )
        item = change.value
    if change.place is None:
        if index is None:
            return [*items, item]
        return [*items[:index], item, *items[index + 1 :]]
    rest = items if index is None else items[:index] + items[index + 1 :]
    return [*rest[: change.place], item, *rest[change.place :]]


def _with(value: Any, change: Change) -> Any:
    """A part with the field at the change's path set or taken away."""
    return _put(value, tuple(change.at), change, change.part)


def _put(value: Any, path: Path, change: Change, where: str) -> Any:
    step, *rest = path
    where = f"{where}.{step}"
    lost = InputError("there is no such field", where, "Nothing was changed; load the project anew")
    if isinstance(value, dict) and isinstance(step, str):
        if rest:
            if not isinstance(value.get(step), (dict, list)):
                raise lost
            return {**value, step: _put(value[step], tuple(rest), change, where)}
        if change.away:
            return {name: held for name, held in value.items() if name != step}
        if step == "key" and len(path) == len(change.at):
            raise InputError("a part keeps its key", where, "Nothing was changed; copy the part under another key")
        return {**value, step: change.value}
    if isinstance(value, list) and isinstance(step, int) and step < len(value) + (not rest and not change.away):
        if rest:
            return [*value[:step], _put(value[step], tuple(rest), change, where), *value[step + 1 :]]
        return [*value[:step], *([] if change.away else [change.value]), *value[step + 1 :]]
    raise lost
