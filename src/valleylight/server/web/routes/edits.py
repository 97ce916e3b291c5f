"""Edits of a project, undo and redo, and copies of its parts."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query

from valleylight.server.web.schemas.live import PlatesNews, ProjectNews
from valleylight.core.project.copies import copy_part
from valleylight.core.project.description import Project
from valleylight.server.store import edits, storage
from valleylight.server.web.context import Hand, Here, with_database
from valleylight.server.store.edits import Edit
from valleylight.server.web.schemas.projects import Conflict, PartCopy, PartMade, ProjectState
from valleylight.server.store.tables import ProjectRow

router = APIRouter(prefix="/api/projects", tags=["edits"])
Base = Annotated[int | None, Query(ge=0, description="Revision last seen: refused where another hand has edited since")]
_STALE: dict[int | str, dict[str, Any]] = {409: {"model": Conflict, "description": "Another hand touched the same"}}


def state(row: ProjectRow) -> ProjectState:
    undo, redo = edits.undo_labels(row)
    return ProjectState(
        slug=row.slug, revision=row.revision, description=storage.description(row), undo=undo, redo=redo
    )


def announced(row: ProjectRow, here: Here, label: str, hand: str) -> ProjectState:
    """The project after an edit, told to every browser that looks at it."""
    here.hub.tell_soon(row.slug, ProjectNews(revision=row.revision, label=label, hand=hand))
    return state(row)


@router.post("/{slug}/edits", responses=_STALE)
@with_database
def edit_project(slug: str, edit: Edit, here: Here, hand: Hand = "") -> ProjectState:
    """Apply one gesture's changes, whole or not at all; one step of undo."""
    done = announced(edits.apply_edit(slug, edit, hand), here, edit.label, hand)
    if any(change.part == "plate" for change in edit.changes):
        here.hub.tell_soon(done.slug, PlatesNews())
    return done


@router.post("/{slug}/undo", responses=_STALE)
@with_database
def undo_edit(slug: str, here: Here, hand: Hand = "", base: Base = None) -> ProjectState:
    return _told(edits.undo(slug, hand, base), here, "Undo", hand)


@router.post("/{slug}/redo", responses=_STALE)
@with_database
def redo_edit(slug: str, here: Here, hand: Hand = "", base: Base = None) -> ProjectState:
    return _told(edits.redo(slug, hand, base), here, "Redo", hand)


@router.post("/{slug}/copies", status_code=201)
@with_database
def copy(slug: str, wanted: PartCopy, here: Here, hand: Hand = "") -> PartMade:
    """Copy a view, an occasion, a look, a kind, a fixture or a scene; it stands next to its original."""
    keys: list[str] = []

    def make(project: Project) -> Edit:
        key, changes = copy_part(project, wanted.part, wanted.key, wanted.name)
        keys.append(key)
        return Edit(label=f"Copy {wanted.part}", changes=changes)

    row = edits.edit_from(slug, make, hand)
    return PartMade(key=keys[0], project=announced(row, here, f"Copy {wanted.part}", hand))


def _told(row: ProjectRow, here: Here, label: str, hand: str) -> ProjectState:
    here.hub.tell_soon(row.slug, PlatesNews())  # the name or the putting away of one may be what was undone
    return announced(row, here, label, hand)
