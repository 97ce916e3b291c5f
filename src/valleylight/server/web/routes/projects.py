"""The list of projects: made, copied, put in order, put away and brought back."""

from __future__ import annotations

from fastapi import APIRouter
from peewee import fn

from valleylight.server.web.schemas.live import AwayNews
from valleylight.server.store import storage
from valleylight.server.web.context import Here, with_database
from valleylight.server.web.routes.edits import state
from valleylight.server.web.schemas.projects import NewProject, ProjectCopy, ProjectLine, ProjectPlace, ProjectState
from valleylight.server.store.tables import (
    AssetRow,
    KindRow,
    LookRow,
    OccasionRow,
    PlacementRow,
    PlateRow,
    ProjectRow,
    ViewRow,
)

router = APIRouter(prefix="/api/projects", tags=["projects"])


@router.get("")
@with_database
def list_projects(away: bool = False) -> list[ProjectLine]:
    """Projects in their order; those put away instead where asked, the last one first."""
    chosen = ProjectRow.select().where(ProjectRow.away.is_null(not away))
    order = (ProjectRow.away.desc(),) if away else (ProjectRow.place, ProjectRow.id)
    return [_line(row) for row in chosen.order_by(*order)]


@router.post("", status_code=201)
@with_database
def create_project(wanted: NewProject) -> ProjectState:
    return state(storage.create_project(wanted.name, site=wanted.site))


@router.get("/{slug}")
@with_database
def get_project(slug: str) -> ProjectState:
    return state(storage.project_row(slug))


@router.post("/{slug}/duplicate", status_code=201)
@with_database
def duplicate_project(slug: str, wanted: ProjectCopy) -> ProjectState:
    """A copy under another name, next to the original; with its finished plates where wanted."""
    return state(storage.duplicate_project(slug, wanted.name, wanted.with_plates))


@router.post("/{slug}/place")
@with_database
def place_project(slug: str, wanted: ProjectPlace) -> list[ProjectLine]:
    """Move a project within the list; returns the list."""
    storage.place_project(slug, wanted.place)
    return list_projects()


@router.delete("/{slug}")
@with_database
def put_away(slug: str, here: Here) -> ProjectLine:
    """Put a project away: off the list, with all that it holds, until it is brought back."""
    row = storage.put_away(slug)
    here.hub.tell_soon(row.slug, AwayNews())
    return _line(row)


@router.post("/{slug}/restore")
@with_database
def bring_back(slug: str) -> ProjectLine:
    """Bring a project back that was put away."""
    return _line(storage.put_away(slug, away=False))


def _line(row: ProjectRow) -> ProjectLine:
    ready = PlateRow.select().where(PlateRow.project == row, PlateRow.picture.is_null(False), ~PlateRow.put_away)
    newest = ready.order_by(PlateRow.id.desc()).first()
    return ProjectLine(
        slug=row.slug, name=row.name, place=str(row.site.get("place", "")),
        views=ViewRow.select().where(ViewRow.project == row).count(),
        occasions=OccasionRow.select().where(OccasionRow.project == row).count(),
        plates=ready.count(), picture=newest.id if newest else None, bytes=_bytes(row),
        created=row.created.isoformat() + "Z", changed=row.changed.isoformat() + "Z",
        away=None if row.away is None else row.away.isoformat() + "Z",
    )  # fmt: skip


def _bytes(row: ProjectRow) -> int:
    """Size of every file the project refers to, each counted once."""
    files = {p.data["asset"] for p in PlacementRow.select(PlacementRow.data).where(PlacementRow.project == row)}
    files |= {k.data["profile"] for k in KindRow.select(KindRow.data).where(KindRow.project == row)}
    pictures = (o.data["sky"].get("picture") for o in OccasionRow.select(OccasionRow.data).where(OccasionRow.project == row))
    files |= {picture["asset"] for picture in pictures if picture}
    files |= storage.looks_files(look.data for look in LookRow.select(LookRow.data).where(LookRow.project == row))
    laid = (surface.get("pictures") or {} for surface in row.stage.get("surfaces", {}).values())
    files |= {file for pictures in laid for channel, file in pictures.items() if file and channel != "height_m"}
    for plate in PlateRow.select(PlateRow.picture, PlateRow.film).where(PlateRow.project == row):
        files |= {sha for sha in (plate.picture, plate.film) if sha}
    if not files:
        return 0
    return int(AssetRow.select(fn.SUM(AssetRow.bytes)).where(AssetRow.sha256.in_(files)).scalar() or 0)
