"""Projects, their edits, undo and redo, and what is uploaded into them."""

from __future__ import annotations

import re
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool

from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.lamps import templates
from valleylight.core.photometry import write_lm63
from valleylight.server import catalogue, storage
from valleylight.server.context import Here, described, with_database
from valleylight.server.profiles import figures, new_kind, plain_body, read_kept
from valleylight.server.schemas.projects import KindFigures, KindFromProfile, NewProject, ProjectLine, ProjectState
from valleylight.server.schemas.stage import StageFigures
from valleylight.server.storage import Change, Edit
from valleylight.server.tables import OccasionRow, PlateRow, ProjectRow, ViewRow

router = APIRouter(prefix="/api/projects", tags=["projects"])
FileName = Annotated[str, Query(min_length=1, max_length=255, description="The name the file had, for people")]


def state(row: ProjectRow) -> ProjectState:
    undo, redo = storage.undo_labels(row)
    return ProjectState(
        slug=row.slug, revision=row.revision, description=storage.description(row), undo=undo, redo=redo
    )


@router.get("")
@with_database
def list_projects() -> list[ProjectLine]:
    return [
        ProjectLine(
            slug=row.slug, name=row.name,
            views=ViewRow.select().where(ViewRow.project == row).count(),
            occasions=OccasionRow.select().where(OccasionRow.project == row).count(),
            plates=PlateRow.select().where(PlateRow.project == row, PlateRow.picture.is_null(False)).count(),
        )
        for row in ProjectRow.select().order_by(ProjectRow.id)
    ]  # fmt: skip


@router.post("", status_code=201)
@with_database
def create_project(wanted: NewProject) -> ProjectState:
    return state(storage.create_project(wanted.name))


@router.get("/{slug}")
@with_database
def get_project(slug: str) -> ProjectState:
    return state(storage.project_row(slug))


@router.post("/{slug}/edits")
@with_database
def edit_project(slug: str, edit: Edit, here: Here) -> ProjectState:
    """Apply one gesture's changes, whole or not at all; one step of undo."""
    return announced(slug, state(storage.apply_edit(slug, edit)), here)


@router.post("/{slug}/undo")
@with_database
def undo_edit(slug: str, here: Here) -> ProjectState:
    return announced(slug, state(storage.undo(slug)), here)


@router.post("/{slug}/redo")
@with_database
def redo_edit(slug: str, here: Here) -> ProjectState:
    return announced(slug, state(storage.redo(slug)), here)


def announced(slug: str, result: ProjectState, here: Here) -> ProjectState:
    here.hub.tell_soon(slug, {"type": "project", "revision": result.revision})
    return result


@router.get("/{slug}/kinds")
@with_database
def list_kinds(slug: str, here: Here) -> list[KindFigures]:
    """The project's fixture kinds with the figures of their profiles."""
    description = storage.description(storage.project_row(slug))
    return [figures(kind, here.files.read(kind.profile)) for kind in description.kinds]


@router.post("/{slug}/profiles", status_code=201)
async def upload_profile(slug: str, name: FileName, request: Request, here: Here) -> ProjectState:
    """Add a fixture kind from an IES LM-63 or EULUMDAT file sent as the body."""
    await run_in_threadpool(with_database(storage.project_row), slug)
    data = await here.files.receive(request.stream(), here.settings.largest_profile_bytes, plain(name))
    made = await run_in_threadpool(with_database(catalogue.take), here.files, data, plain(name))
    here.worker.send({"do": "catalogue"})
    return await run_in_threadpool(_add_kind, slug, KindFromProfile(profile=made.sha256), here)


@router.post("/{slug}/kinds", status_code=201)
def add_kind(slug: str, wanted: KindFromProfile, here: Here) -> ProjectState:
    """Add a fixture kind from a profile of the catalogue or from a template."""
    return _add_kind(slug, wanted, here)


@with_database
def _add_kind(slug: str, wanted: KindFromProfile, here: Here) -> ProjectState:
    row = storage.project_row(slug)
    project = storage.description(row)
    template = templates.find(wanted.template) if wanted.template else None
    if template is not None:
        line = catalogue.take(here.files, write_lm63(template.profile()).encode(), f"{template.key}.ies")
        here.worker.send({"do": "catalogue"})
        kind = new_kind(project, template.name, line.sha256, kelvin=template.kelvin, dimming=template.dimming,
                        body=template.body, mounting=template.mounting)  # fmt: skip
    elif wanted.profile:
        line = catalogue.line(catalogue.find(wanted.profile))
        body = plain_body(read_kept(here.files.read(line.sha256)))
        mounting = "wall" if line.mounting == "wall" else "ceiling"
        kind = new_kind(project, line.name, line.sha256, kelvin=line.kelvin or catalogue.UNSTATED_K, body=body, mounting=mounting)
    else:
        raise NotFoundError(f"there is no template {wanted.template!r}", "template", "Choose one of the list")
    edit = Edit(
        label=f"Add fixture {kind.name}"[:120],
        changes=[Change(part="kind", key=kind.key, value=kind.model_dump(mode="json"))],
    )
    return announced(slug, state(storage.apply_edit(slug, edit)), here)


@router.post("/{slug}/models", status_code=201)
async def upload_model(slug: str, name: FileName, request: Request, here: Here) -> ProjectState:
    """Add a glTF binary model (GLB) sent as the body to the stage."""
    await run_in_threadpool(with_database(storage.project_row), slug)
    shown = plain(name)
    data = await here.files.receive(request.stream(), here.settings.largest_model_bytes, shown)
    if data[:4] != b"glTF":
        raise InputError(
            "the content is not a glTF binary model", shown, "Export the model as .glb and choose that file"
        )
    sha = await run_in_threadpool(here.files.keep, data)
    await here.worker.ask("check_model", asset=sha, name=shown)
    return await run_in_threadpool(_store_model, slug, shown, sha, len(data), here)


@with_database
def _store_model(slug: str, name: str, sha: str, size: int, here: Here) -> ProjectState:
    row = storage.project_row(slug)
    storage.remember_asset(sha, "model", size, name)
    stage = storage.description(row).stage.model_dump(mode="json")
    stage["models"] = [*stage["models"], {"name": name[:80], "asset": sha}]
    edit = Edit(label=f"Add model {name}"[:120], changes=[Change(part="stage", value=stage)])
    return announced(slug, state(storage.apply_edit(slug, edit)), here)


@router.get("/{slug}/stage")
async def get_stage(slug: str, here: Here) -> StageFigures:
    """Figures of the stage: objects, triangles, materials, layers."""
    raw = await described(slug)
    return StageFigures.model_validate(await here.worker.ask("stage", description=raw))



def plain(name: str) -> str:
    """The last part of a file name, without control characters."""
    return re.sub(r"[\x00-\x1f]", "", name.replace("\\", "/").rsplit("/", 1)[-1]).strip()[:200] or "file"
