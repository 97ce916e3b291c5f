"""Edits of a project: applied whole or not at all, journalled for undo, and told apart by whose hand they come from.

Two people, or one person in two windows, may edit at once. Every edit says on which revision it was made; what others have
touched since is looked up, and only where both touched the same field is the later one refused, with what stands there now.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.lamps.along import with_lamps
from valleylight.core.project.changes import LISTS, SINGLE, Change, Path, changed, overlap, value_at
from valleylight.core.project.description import Project
from valleylight.server.store.storage import (
    InvalidEditError,
    cutouts_can_stand,
    description,
    insert_part,
    locked_row,
    raw_description,
    validated,
)
from valleylight.server.store.tables import PARTS, AssetRow, EditRow, PlateRow, ProjectRow, TouchRow, database, now

UNDO_STEPS = 200
#: Revisions of which is known what they touched.
KEPT_TOUCHES = 500


class Edit(BaseModel):
    """What one gesture changes: one step of undo."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    label: str = Field(min_length=1, max_length=120)
    changes: list[Change] = Field(min_length=1, max_length=2000)
    base: int | None = Field(
        None,
        ge=0,
        description="Revision on which it was made: refused where another hand has since touched the same; null forces it",
    )


class PlateLabel(BaseModel):
    """What may be edited of a plate: its name, its rank in the strip (greater stands before; null: by age), a note, a star."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    key: str
    name: str = Field("", max_length=80)
    rank: float | None = Field(None, allow_inf_nan=False)
    note: str = Field("", max_length=500)
    starred: bool = False


#: Fields of a plate that are edited.
LABELS = tuple(name for name in PlateLabel.model_fields if name != "key")


class StaleEditError(InputError):
    """Another hand touched the same since the edit's base. `now` is what stands there."""

    def __init__(self, label: str, revision: int, now: list[Change]) -> None:
        super().__init__(
            f"another hand has changed the same since ({label})", "edit",
            "Nothing was changed; keep what is there now, or send yours again on the new revision",
        )  # fmt: skip
        self.label, self.revision, self.now = label, revision, now


def apply_edit(slug: str, edit: Edit, hand: str = "") -> ProjectRow:
    """Apply an edit whole or not at all, and remember it for undo.

    Raises InvalidEditError, NotFoundError, StaleEditError, InputError for a file never uploaded.
    """
    with database.atomic():
        row = locked_row(slug)
        before = _with_plates(row, raw_description(row), edit.changes)
        if edit.base is not None:
            _refuse_stale(row, edit, hand, before)
        changes = with_lamps(before, edit.changes)
        after = changed(before, changes)
        wanted = validated({name: value for name, value in after.items() if name != "plates"})
        if before["looks"] and not wanted.looks:
            raise InputError("the last look cannot be taken away", "look", "Keep one; pictures are finished by it")
        _files_are_there(wanted)
        clean = {**wanted.model_dump(mode="json"), "plates": _checked_labels(after["plates"])}
        journal = _journal(before, clean, changes)
        if journal:
            _write_all(row, journal, "after")
            EditRow.delete().where(EditRow.project == row, EditRow.undone).execute()
            EditRow.create(project=row, label=edit.label, changes=journal)
            _bump(row, edit.label, hand, [c.touches() for c in changes])
            _forget_old_edits(row)
    return row


def edit_from(slug: str, make: Callable[[Project], Edit], hand: str = "") -> ProjectRow:
    """Apply an edit that is worked out from the project as it stands: nobody comes between. Raises as `apply_edit`."""
    with database.atomic():
        return apply_edit(slug, make(description(locked_row(slug))), hand)


def undo(slug: str, hand: str = "", base: int | None = None) -> ProjectRow:
    """Take back the last edit. Raises InputError when there is none, StaleEditError when it is another hand's and not yet seen."""
    return _step(slug, True, hand, base)


def redo(slug: str, hand: str = "", base: int | None = None) -> ProjectRow:
    """Do the last undone edit again. Raises as `undo` does."""
    return _step(slug, False, hand, base)


def undo_labels(row: ProjectRow) -> tuple[str | None, str | None]:
    """Labels of what undo and redo would do."""
    last = EditRow.select().where(EditRow.project == row, ~EditRow.undone).order_by(EditRow.id.desc()).first()
    first = EditRow.select().where(EditRow.project == row, EditRow.undone).order_by(EditRow.id).first()
    return (last.label if last else None), (first.label if first else None)


def _refuse_stale(row: ProjectRow, edit: Edit, hand: str, before: dict[str, Any]) -> None:
    assert edit.base is not None
    if edit.base >= row.revision:
        return
    since = list(
        TouchRow.select().where(TouchRow.project == row, TouchRow.revision > edit.base).order_by(TouchRow.revision)
    )
    others = [touch for touch in since if not hand or touch.hand != hand]
    unknown = len({t.revision for t in since}) < row.revision - edit.base
    theirs = [(tuple(path), touch.label) for touch in others for path in touch.paths]
    met, label = [], "many edits ago"
    for change in edit.changes:
        mine = change.touches()
        by = next((said for path, said in reversed(theirs) if overlap(path, mine)), None)
        if by is None and not unknown:
            continue
        stands = value_at(before, mine)
        if stands != _wanted_at(before, change, mine):
            label = by or label
            met.append(_as_change(change, stands))
    if met:
        raise StaleEditError(label, row.revision, met)


def _wanted_at(before: dict[str, Any], change: Change, touched: Path) -> Any:
    """What would stand at a touched path after a change."""
    if change.only_moves:
        return value_at(changed(before, [change], drafted=True), touched)
    return None if change.away else change.value


def _as_change(change: Change, stands: Any) -> Change:
    if change.only_moves:
        place = stands.index(change.key) if change.key in stands else 0
        return Change(part=change.part, key=change.key, place=place)
    return Change(part=change.part, key=change.key, at=change.at, value=stands, away=bool(change.at) and stands is None)


def _step(slug: str, back: bool, hand: str, base: int | None) -> ProjectRow:
    with database.atomic():
        row = locked_row(slug)
        query = EditRow.select().where(EditRow.project == row, ~EditRow.undone if back else EditRow.undone)
        edit = query.order_by(EditRow.id.desc() if back else EditRow.id).first()
        word = "undo" if back else "redo"
        if edit is None:
            raise InputError(f"there is nothing to {word}", "edits", "Change something first")
        if base is not None and base < row.revision:
            unseen = TouchRow.select().where(TouchRow.project == row, TouchRow.revision > base)
            if any(not hand or touch.hand != hand for touch in unseen):
                raise StaleEditError(edit.label, row.revision, [])
        journal = list(reversed(edit.changes)) if back else edit.changes
        _write_all(row, journal, "before" if back else "after")
        validated(raw_description(row))
        edit.undone = back
        edit.save()
        _bump(row, f"{word.capitalize()}: {edit.label}"[:120], hand, [p for step in journal for p in _touched(step)])
    return row


def _touched(step: dict[str, Any]) -> list[Path]:
    if "order_before" in step:
        return [("order of", step["part"])]
    return [(step["part"], step["key"], *at) for at in step.get("paths", [[]])]


def _journal(before: dict[str, Any], after: dict[str, Any], changes: list[Change]) -> list[dict[str, Any]]:
    """What every changed part was and is; then the order of lists whose order is not what follows from that."""
    steps: list[dict[str, Any]] = []
    for part, key in dict.fromkeys((c.part, c.key) for c in changes):
        old, new = (value_at(raw, (part, key)) for raw in (before, after))
        if old != new:
            paths = [c.at for c in changes if (c.part, c.key) == (part, key) and not c.only_moves]
            steps.append({"part": part, "key": key, "before": old, "after": new, "paths": paths})
    for part in dict.fromkeys(c.part for c in changes):
        if part in PARTS:
            orders = [[item["key"] for item in raw[LISTS[part]]] for raw in (before, after)]
            if orders[0] != orders[1]:
                steps.append({"part": part, "order_before": orders[0], "order_after": orders[1]})
    return steps


def _write_all(row: ProjectRow, journal: list[dict[str, Any]], side: str) -> None:
    """Write one side of a journal; orders last, when all that they name stands."""
    for step in journal:
        if f"order_{side}" not in step:
            _write(row, step["part"], step["key"], step[side], step.get(f"{side}_place", 0))
    for step in journal:
        if f"order_{side}" in step:
            table = PARTS[step["part"]]
            for place, key in enumerate(step[f"order_{side}"]):
                table.update(place=place).where(
                    table.project == row, table.part_key == key, table.place != place
                ).execute()


def _write(row: ProjectRow, part: str, key: str, value: Any, place: int) -> None:
    if part in SINGLE:
        setattr(row, part, value)
        row.save()
    elif part == "plate":
        label = (
            {"put_away": True}
            if value is None
            # Steps of undo of earlier versions know of no notes.
            else {"put_away": False, **{name: value[name] for name in LABELS if name in value}}
        )
        PlateRow.update(**label).where(PlateRow.project == row, PlateRow.id == int(key)).execute()
    else:
        table = PARTS[part]
        held = table.get_or_none(table.project == row, table.part_key == key)
        if value is None:
            table.delete().where(table.project == row, table.part_key == key).execute()
        elif held is None:
            insert_part(part, row, place, value)
        else:
            held.data, held.name = value, str(value.get("name", ""))[:80]
            held.save()


def _with_plates(row: ProjectRow, raw: dict[str, Any], changes: list[Change]) -> dict[str, Any]:
    """The description with the labels of the plates that changes speak of."""
    keys = [c.key for c in changes if c.part == "plate"]
    if any(not key.isdecimal() or len(key) > 9 for key in keys):
        raise NotFoundError("a plate is named by its number", "plate.key", "Nothing was changed")
    plates = PlateRow.select().where(PlateRow.project == row, PlateRow.id.in_([int(k) for k in keys])) if keys else ()
    labels = [{"key": str(p.id), **{name: getattr(p, name) for name in LABELS}} for p in plates if not p.put_away]
    known = {label["key"] for label in labels}
    for change in changes:
        if change.part == "plate" and change.key not in known:
            raise NotFoundError(f"there is no plate {change.key}", "plate", "Nothing was changed; reload the page")
    return {**raw, "plates": labels}


def _checked_labels(plates: list[Any]) -> list[dict[str, Any]]:
    try:
        return [PlateLabel.model_validate(label).model_dump() for label in plates]
    except ValidationError as error:
        raise InvalidEditError(error) from None


def _files_are_there(wanted: Project) -> None:
    """Raises InputError where a description names a file that was never uploaded, or a family of cut-outs that there is none of."""
    named = {
        "profile": {k.profile for k in wanted.kinds}, "model": {p.asset for p in wanted.placements},
        "picture": {o.sky.picture.asset for o in wanted.occasions if o.sky.picture is not None},
        "lookup table": {file for look in wanted.looks for file in look.files},
    }  # fmt: skip
    textures = {file for s in wanted.stage.surfaces.values() for file in s.files}
    cutouts_can_stand(wanted)
    cutouts = {c.picture for c in wanted.cutouts if c.picture is not None}
    every = set().union(*named.values(), textures, cutouts)
    usable = AssetRow.select(AssetRow.sha256, AssetRow.kind).where(
        AssetRow.sha256.in_(every), AssetRow.kind != "arrival"
    )
    kinds = {a.sha256: a.kind for a in usable} if every else {}
    for sha in sorted(textures):
        if kinds.get(sha) != "texture":
            raise InputError(
                f"the picture {sha[:12]} was never brought in for a surface", "pictures", "Bring the file in first"
            )
    for sha in sorted(cutouts):
        if kinds.get(sha) != "cutout":
            raise InputError(
                f"the picture {sha[:12]} was never brought in for a cut-out", "picture", "Bring the file in first"
            )
    for sha in sorted(named["lookup table"]):
        if kinds.get(sha) != "table":
            raise InputError(
                f"the lookup table {sha[:12]} was never brought in", "file", "Bring its .cube file in first"
            )
    for what, shas in named.items():
        for sha in sorted(shas - set(kinds)):
            raise InputError(f"the {what} {sha[:12]} was never uploaded", what, "Upload the file first")


def _bump(row: ProjectRow, label: str, hand: str, paths: list[Path]) -> None:
    row.revision += 1
    row.changed = now()
    ProjectRow.update(revision=row.revision, changed=row.changed).where(ProjectRow.id == row.id).execute()
    TouchRow.create(
        project=row, revision=row.revision, hand=hand, label=label, paths=[list(p) for p in dict.fromkeys(paths)]
    )
    TouchRow.delete().where(TouchRow.project == row, TouchRow.revision <= row.revision - KEPT_TOUCHES).execute()


def _forget_old_edits(row: ProjectRow) -> None:
    kept = [
        e.id
        for e in EditRow.select(EditRow.id).where(EditRow.project == row).order_by(EditRow.id.desc()).limit(UNDO_STEPS)
    ]
    if len(kept) == UNDO_STEPS:
        EditRow.delete().where(EditRow.project == row, EditRow.id < kept[-1]).execute()
