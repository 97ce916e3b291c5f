"""Projects in the database: read as one description, changed by edits that can be undone."""

from __future__ import annotations

import re
import unicodedata
from typing import Any, Literal

from peewee import IntegrityError
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.project.archive import LoadedProject, assets_of
from valleylight.core.project.description import Project
from valleylight.server.files import FileStore
from valleylight.server.tables import (
    PARTS,
    AssetRow,
    EditRow,
    ProjectRow,
    database,
)

PartName = Literal["name", "site", "stage", "view", "occasion", "look", "kind", "fixture", "scene"]
_LISTS = {
    "view": "views", "occasion": "occasions", "look": "looks", "kind": "kinds", "fixture": "fixtures", "scene": "scenes"
}  # fmt: skip
UNDO_STEPS = 200


class Change(BaseModel):
    """One part set to a new value, or removed with null."""

    model_config = ConfigDict(extra="forbid")
    part: PartName
    key: str = ""
    value: Any = None


class Edit(BaseModel):
    """What one gesture changes: one step of undo."""

    model_config = ConfigDict(extra="forbid")
    label: str = Field(min_length=1, max_length=120)
    changes: list[Change] = Field(min_length=1, max_length=2000)


class InvalidEditError(InputError):
    """An edit whose result would not be a valid project; `errors` as pydantic lists them."""

    def __init__(self, error: ValidationError) -> None:
        first = error.errors()[0]
        where = ".".join(str(p) for p in first["loc"])
        message = first["msg"].removeprefix("Value error, ")
        super().__init__(message, where, "Nothing was changed")
        self.errors = [
            {"field": ".".join(str(p) for p in e["loc"]), "message": e["msg"].removeprefix("Value error, ")}
            for e in error.errors()
        ]


def project_row(slug: str) -> ProjectRow:
    """The row of a project. Raises NotFoundError."""
    row = ProjectRow.get_or_none(ProjectRow.slug == slug)
    if row is None:
        known = ", ".join(r.slug for r in ProjectRow.select(ProjectRow.slug).limit(12)) or "none yet"
        raise NotFoundError(f"there is no project {slug!r}", "project", f"Choose one of: {known}")
    return row


def raw_description(row: ProjectRow) -> dict[str, Any]:
    """The project's description as plain data, straight from the tables."""
    parts = {
        plural: [
            p.data
            for p in PARTS[part].select().where(PARTS[part].project == row).order_by(PARTS[part].place, PARTS[part].id)
        ]
        for part, plural in _LISTS.items()
    }
    return {"name": row.name, "site": row.site, "stage": row.stage, **parts}


def description(row: ProjectRow) -> Project:
    return Project.model_validate(raw_description(row))


def create_project(name: str, loaded: LoadedProject | None = None, files: FileStore | None = None) -> ProjectRow:
    """A new project, empty or from a loaded one whose files are stored first.

    Raises InvalidEditError for an impossible name.
    """
    try:
        wanted = loaded.description if loaded else Project(name=name)
    except ValidationError as error:
        raise InvalidEditError(error) from None
    if loaded is not None and files is not None:
        for sha in sorted(assets_of(wanted)):
            content = loaded.asset(sha)
            files.keep(content)
            kind = "profile" if sha in {k.profile for k in wanted.kinds} else "model"
            remember_asset(sha, kind, len(content), "")
    data = wanted.model_dump(mode="json")
    base = _slug(wanted.name)
    for number in range(1, 1000):
        slug = base if number == 1 else f"{base}-{number}"
        try:
            with database.atomic():
                row = ProjectRow.create(slug=slug, name=wanted.name, site=data["site"], stage=data["stage"])
                for part, plural in _LISTS.items():
                    for place, item in enumerate(data[plural]):
                        _insert(part, row, place, item)
                return row
        except IntegrityError:
            if ProjectRow.get_or_none(ProjectRow.slug == slug) is None:
                raise
    raise InputError("a thousand projects have this name", "name", "Choose another name")


def apply_edit(slug: str, edit: Edit) -> ProjectRow:
    """Apply an edit whole or not at all, and remember it for undo. Raises InvalidEditError, NotFoundError."""
    with database.atomic():
        row = _locked(slug)
        before = raw_description(row)
        after = changed(before, edit.changes)
        wanted = validated(after)
        for what in ("profile", "model"):
            for sha in (
                (k.profile for k in wanted.kinds) if what == "profile" else (m.asset for m in wanted.stage.models)
            ):
                if AssetRow.get_or_none(AssetRow.sha256 == sha) is None:
                    raise InputError(f"the {what} {sha[:12]} was never uploaded", what, "Upload the file first")
        clean = wanted.model_dump(mode="json")
        journal = []
        for part, key in dict.fromkeys((c.part, c.key) for c in edit.changes):
            old, new = _find(before, part, key), _find(clean, part, key)
            if old != new:
                _write(row, part, key, new, _place(clean, part, key))
                journal.append({
                    "part": part, "key": key, "before": old, "after": new,
                    "before_place": _place(before, part, key), "after_place": _place(clean, part, key),
                })  # fmt: skip
        if journal:
            EditRow.delete().where(EditRow.project == row, EditRow.undone).execute()
            EditRow.create(project=row, label=edit.label, changes=journal)
            _bump(row)
            _forget_old_edits(row)
    return row


def undo(slug: str) -> ProjectRow:
    """Take back the last edit. Raises InputError when there is none."""
    return _step(slug, back=True)


def redo(slug: str) -> ProjectRow:
    """Do the last undone edit again. Raises InputError when there is none."""
    return _step(slug, back=False)


def undo_labels(row: ProjectRow) -> tuple[str | None, str | None]:
    """Labels of what undo and redo would do."""
    last = EditRow.select().where(EditRow.project == row, ~EditRow.undone).order_by(EditRow.id.desc()).first()
    first = EditRow.select().where(EditRow.project == row, EditRow.undone).order_by(EditRow.id).first()
    return (last.label if last else None), (first.label if first else None)


def changed(before: dict[str, Any], changes: list[Change], drafted: bool = False) -> dict[str, Any]:
    """The description with changes applied, not yet checked.

    Drafted changes may be on their way to being saved, so taking away what is gone already is no mistake there.
    """
    after = dict(before)
    for change in changes:
        if change.part in ("name", "site", "stage"):
            after[change.part] = change.value
            continue
        plural = _LISTS[change.part]
        items = list(after[plural])
        index = next((k for k, item in enumerate(items) if item["key"] == change.key), None)
        if change.value is None:
            if index is None and drafted:
                continue
            if index is None:
                raise NotFoundError(f"there is no {change.part} {change.key!r}", change.part, "Nothing was changed")
            del items[index]
        else:
            if not isinstance(change.value, dict) or change.value.get("key") != change.key:
                raise InputError(
                    "the value's key differs from the change's key", f"{change.part}.key", "Nothing was changed"
                )
            if index is None:
                items.append(change.value)
            else:
                items[index] = change.value
        after[plural] = items
    return after


def validated(raw: dict[str, Any]) -> Project:
    """The description as the core's model. Raises InvalidEditError."""
    try:
        return Project.model_validate(raw)
    except ValidationError as error:
        raise InvalidEditError(error) from None


def remember_asset(sha256: str, kind: str, size: int, given_name: str) -> None:
    """List a stored file, once."""
    if AssetRow.get_or_none(AssetRow.sha256 == sha256) is None:
        AssetRow.create(sha256=sha256, kind=kind, bytes=size, given_name=given_name[:255])


def _locked(slug: str) -> ProjectRow:
    project_row(slug)
    return ProjectRow.select().where(ProjectRow.slug == slug).for_update().get()


def _step(slug: str, back: bool) -> ProjectRow:
    with database.atomic():
        row = _locked(slug)
        query = EditRow.select().where(EditRow.project == row, ~EditRow.undone if back else EditRow.undone)
        edit = query.order_by(EditRow.id.desc() if back else EditRow.id).first()
        if edit is None:
            word = "undo" if back else "redo"
            raise InputError(f"there is nothing to {word}", "edits", "Change something first")
        steps = list(reversed(edit.changes)) if back else edit.changes
        for step in steps:
            side = "before" if back else "after"
            _write(row, step["part"], step["key"], step[side], step[f"{side}_place"])
        validated(raw_description(row))
        edit.undone = back
        edit.save()
        _bump(row)
    return row


def _find(raw: dict[str, Any], part: str, key: str) -> Any:
    if part in ("name", "site", "stage"):
        return raw[part]
    return next((item for item in raw[_LISTS[part]] if item["key"] == key), None)


def _place(raw: dict[str, Any], part: str, key: str) -> int:
    if part in ("name", "site", "stage"):
        return 0
    return next((k for k, item in enumerate(raw[_LISTS[part]]) if item["key"] == key), 0)


def _write(row: ProjectRow, part: str, key: str, value: Any, place: int) -> None:
    if part in ("name", "site", "stage"):
        setattr(row, part, value)
        row.save()
        return
    table = PARTS[part]
    table.delete().where(table.project == row, table.part_key == key).execute()
    if value is not None:
        _insert(part, row, place, value)


def _insert(part: str, row: ProjectRow, place: int, item: dict[str, Any]) -> None:
    PARTS[part].create(project=row, part_key=item["key"], place=place, name=str(item.get("name", ""))[:80], data=item)


def _bump(row: ProjectRow) -> None:
    ProjectRow.update(revision=ProjectRow.revision + 1).where(ProjectRow.id == row.id).execute()
    row.revision += 1


def _forget_old_edits(row: ProjectRow) -> None:
    kept = [
        e.id
        for e in EditRow.select(EditRow.id).where(EditRow.project == row).order_by(EditRow.id.desc()).limit(UNDO_STEPS)
    ]
    if len(kept) == UNDO_STEPS:
        EditRow.delete().where(EditRow.project == row, EditRow.id < kept[-1]).execute()


def _slug(name: str) -> str:
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:60] or "project"
