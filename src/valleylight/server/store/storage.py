"""Projects in the database: read as one description, made, copied, put away and put in order."""

from __future__ import annotations

import hashlib
import json
import re
import unicodedata
from collections.abc import Iterable
from functools import lru_cache
from typing import Any

from peewee import IntegrityError, fn
from pydantic import ValidationError

from valleylight.core.compose.sides import standing_family
from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.project import words
from valleylight.core.project.archive import LoadedProject, assets_of
from valleylight.core.project.changes import LISTS
from valleylight.core.project.description import Look, Project, Site
from valleylight.core.project.earlier import upgraded
from valleylight.core.project.placement import Made
from valleylight.server.store.files import FileStore
from valleylight.server.store.tables import (
    PARTS,
    AssetRow,
    JobRow,
    PlateRow,
    ProjectRow,
    SettingsRow,
    database,
    now,
)

#: Parts of a description that are rows of their own.
LISTED = {part: LISTS[part] for part in PARTS}


class InvalidEditError(InputError):
    """An edit whose result would not be a valid project; `errors` names every field at fault, in plain words."""

    def __init__(self, error: ValidationError, raw: Any = None) -> None:
        found = error.errors()
        self.errors = [{"field": ".".join(str(p) for p in e["loc"]), "message": words.plain(dict(e))} for e in found]
        where = words.place(found[0]["loc"], raw)
        super().__init__(self.errors[0]["message"], where, "Nothing was changed")
        self.where = self.errors[0]["field"]


def project_row(slug: str) -> ProjectRow:
    """The row of a project, put away or not. Raises NotFoundError."""
    row = ProjectRow.get_or_none(ProjectRow.slug == slug)
    if row is None:
        known = ", ".join(r.slug for r in ProjectRow.select(ProjectRow.slug).limit(12)) or "none yet"
        raise NotFoundError(f"there is no project {slug[:80]!r}", "project", f"Choose one of: {known}")
    return row


def locked_row(slug: str) -> ProjectRow:
    """The row of a project, held until the transaction ends. Raises NotFoundError.

    It must be the first thing a transaction reads: InnoDB shows later reads what stood at the first one that takes no
    lock, and that may be older than what others did while we waited.
    """
    row = ProjectRow.select().where(ProjectRow.slug == slug).for_update().first()
    return row if row is not None else project_row(slug)


def raw_description(row: ProjectRow) -> dict[str, Any]:
    """The project's description as plain data, straight from the tables, all of one moment: an edit that is kept meanwhile is in all of
    them or in none."""
    with database.atomic():
        parts = {
            plural: [
                p.data
                for p in PARTS[part]
                .select()
                .where(PARTS[part].project == row)
                .order_by(PARTS[part].place, PARTS[part].id)
            ]
            for part, plural in LISTED.items()
        }
    return {"name": row.name, "site": row.site, "stage": row.stage, **parts}


def description(row: ProjectRow) -> Project:
    return Project.model_validate(raw_description(row))


def validated(raw: dict[str, Any]) -> Project:
    """The description as the core's model. Raises InvalidEditError."""
    try:
        return Project.model_validate(raw)
    except ValidationError as error:
        raise InvalidEditError(error, raw) from None


def create_project(
    name: str, loaded: LoadedProject | None = None, files: FileStore | None = None, site: Site | None = None
) -> ProjectRow:
    """A new project, empty or from a loaded one whose files are stored first.

    Raises InvalidEditError for an impossible name, InputError for cut-outs of a family that there is none of.
    """
    try:
        wanted = loaded.description if loaded else Project(name=name, site=site or Site())
    except ValidationError as error:
        raise InvalidEditError(error) from None
    cutouts_can_stand(wanted)
    if loaded is not None and files is not None:
        for sha in sorted(assets_of(wanted)):
            content = loaded.asset(sha)
            files.keep(content)
            remember_asset(sha, _kind_of(wanted, sha), len(content), "")
    return _stored(wanted)


def looks_files(looks: Iterable[dict[str, Any]]) -> set[str]:
    """SHA-256 of the files of lookup tables that looks as they are stored name."""
    return {
        t["file"] for look in looks for t in look.get("treatments", ()) if t.get("kind") == "table" and t.get("file")
    }


def tables_are_there(look: Look) -> None:
    """Raises InputError where a look names a lookup table that was never brought in."""
    for sha in sorted(look.files):
        if not AssetRow.select().where(AssetRow.sha256 == sha, AssetRow.kind == "table").exists():
            raise InputError(
                f"the lookup table {sha[:12]} was never brought in", "file", "Bring its .cube file in first"
            )


def cutouts_can_stand(wanted: Project) -> None:
    """Raises InputError where a cut-out is of a family that there is none of, or has numbers that it cannot have."""
    for made in dict.fromkeys(c.made.model_dump_json() for c in wanted.cutouts if c.made is not None):
        standing_family(Made.model_validate_json(made))


def _kind_of(wanted: Project, sha: str) -> str:
    """What a file that a description names is there for."""
    if sha in {k.profile for k in wanted.kinds}:
        return "profile"
    if any(sha in s.files for s in wanted.stage.surfaces.values()):
        return "texture"
    if any(c.picture == sha for c in wanted.cutouts):
        return "cutout"
    return "table" if any(sha in look.files for look in wanted.looks) else "model"


def _stored(wanted: Project) -> ProjectRow:
    """A description as a project of its own, under a free address."""
    data = wanted.model_dump(mode="json")
    base = _slug(wanted.name)
    for number in range(1, 1000):
        slug = base if number == 1 else f"{base}-{number}"
        try:
            with database.atomic():
                last = ProjectRow.select(fn.MAX(ProjectRow.place)).scalar()
                row = ProjectRow.create(
                    slug=slug, name=wanted.name, site=data["site"], stage=data["stage"], place=(last or 0) + 1
                )
                for part, plural in LISTED.items():
                    for place, item in enumerate(data[plural]):
                        insert_part(part, row, place, item)
                return row
        except IntegrityError:
            if ProjectRow.get_or_none(ProjectRow.slug == slug) is None:
                raise
    raise InputError("a thousand projects have this name", "name", "Choose another name")


def duplicate_project(slug: str, name: str | None = None, with_plates: bool = False) -> ProjectRow:
    """A copy of a project under another name, with its finished plates where wanted. Raises NotFoundError, InvalidEditError."""
    with database.atomic():
        row = locked_row(slug)
        raw = raw_description(row)
        made = _stored(validated({**raw, "name": name or _copy_name(row.name)}))
        if with_plates:
            ready = PlateRow.select().where(
                PlateRow.project == row, PlateRow.picture.is_null(False), ~PlateRow.put_away
            )
            for plate in ready.order_by(PlateRow.id):
                fields = {k: v for k, v in plate.__data__.items() if k not in ("id", "project")}
                copy = PlateRow.create(project=made, **fields)
                JobRow.create(plate=copy, status="done", samples_done=copy.samples)
        order_projects([*(r.slug for r in _listed() if r.slug != made.slug)], made.slug, after=slug)
    return made


def put_away(slug: str, away: bool = True) -> ProjectRow:
    """Take a project off the list, or bring it back as it was. Raises NotFoundError."""
    row = project_row(slug)
    if (row.away is not None) != away:
        row.away = now() if away else None
        row.save(only=[ProjectRow.away])
    return row


def place_project(slug: str, place: int) -> None:
    """Let a project stand at a place of the list, from 0. Raises NotFoundError."""
    with database.atomic():
        moved = locked_row(slug)
        rest = [r.slug for r in _listed() if r.slug != moved.slug]
        order_projects(rest, moved.slug, at=place)


def order_projects(rest: list[str], moved: str, at: int | None = None, after: str | None = None) -> None:
    """Number the list anew with one project at a place, or after another."""
    if after is not None:
        at = rest.index(after) + 1 if after in rest else len(rest)
    order = [*rest[:at], moved, *rest[at:]] if at is not None else [*rest, moved]
    for place, slug in enumerate(order):
        ProjectRow.update(place=place).where(ProjectRow.slug == slug, ProjectRow.place != place).execute()


def _listed() -> Any:
    return ProjectRow.select().order_by(ProjectRow.place, ProjectRow.id)


def _copy_name(name: str) -> str:
    """ "Hall" becomes "Hall, copy", that "Hall, copy 2"."""
    match = re.fullmatch(r"(.*), copy(?: (\d+))?", name)
    stem, number = (match[1], int(match[2] or 1) + 1) if match else (name, 1)
    tail = ", copy" if number == 1 else f", copy {number}"
    return stem[: 80 - len(tail)] + tail


def remember_asset(sha256: str, kind: str, size: int, given_name: str) -> None:
    """List a stored file, once."""
    AssetRow.insert(sha256=sha256, kind=kind, bytes=size, given_name=given_name[:255]).on_conflict_ignore().execute()


def keep(files: FileStore, data: bytes, kind: str, given_name: str) -> str:
    """Store bytes that were found good, and list them; returns their SHA-256."""
    sha256 = files.keep(data)
    remember_asset(sha256, kind, len(data), given_name)
    return sha256


def keep_settings(project: Project) -> str:
    """Keep a description for the plates that are made from it; returns its hash."""
    return keep_raw_settings(project.model_dump(mode="json"))


def keep_raw_settings(raw: dict[str, Any]) -> str:
    """As `keep_settings`, of plain data."""
    sha = hashlib.sha256(json.dumps(raw, sort_keys=True, separators=(",", ":")).encode()).hexdigest()
    SettingsRow.insert(sha256=sha, description=raw).on_conflict_ignore().execute()
    return sha


@lru_cache(maxsize=64)
def plate_description(sha256: str) -> Project:
    """The description under a hash, as it is understood today: what it does not say yet has its first value."""
    return Project.model_validate(upgraded(SettingsRow.get_by_id(sha256).description))


def insert_part(part: str, row: ProjectRow, place: int, item: dict[str, Any]) -> None:
    """A row for a keyed part."""
    PARTS[part].create(project=row, part_key=item["key"], place=place, name=str(item.get("name", ""))[:80], data=item)


def _slug(name: str) -> str:
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:60] or "project"
