"""Models brought into a project: read and looked at, then taken as they are proposed or as they are chosen."""

from __future__ import annotations

import json
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool

from valleylight.core.errors import NotFoundError
from valleylight.core.project.description import Project, find
from valleylight.core.stage.arrival import ArrivalSheet
from valleylight.core.stage.arrival.units import UNITS
from valleylight.core.stage.assembly import UP_MATRICES
from valleylight.server.messages import questions as q
from valleylight.server.messages.wishes import CatalogueGrew
from valleylight.server.store import edits, storage
from valleylight.server.store.edits import Edit
from valleylight.server.store.tables import AssetRow
from valleylight.server.web.arriving import edit_for, kept_lights, proposal, stood
from valleylight.server.web.context import Hand, Here, described, with_database
from valleylight.server.web.routes.arrivals import FileName, plain
from valleylight.server.web.routes.edits import announced
from valleylight.server.web.schemas.projects import ProjectState
from valleylight.server.web.schemas.stage import Arrival, ArrivalChoices, StageFigures
from valleylight.server.web.trial import converted, tried
from valleylight.server.web.underway import Underway

router = APIRouter(prefix="/api/projects", tags=["models"])
Ticket = Annotated[
    str | None, Query(pattern="^[A-Za-z0-9-]{8,64}$", description="A name made up for it, to ask how far it is and to stop it")
]
Replace = Annotated[str | None, Query(max_length=64, description="Key of the thing on the stage it stands in for")]


@router.post("/{slug}/models", status_code=201)
async def upload_model(
    slug: str, name: FileName, request: Request, here: Here, hand: Hand = "", replace: Replace = None, ticket: Ticket = None
) -> ProjectState:
    """Put a model, sent as the body, on the stage as its arrival sheet proposes; beside the others, or in place of one of them.

    glTF (.glb, .gltf), USD, IFC, OBJ, COLLADA, PLY and STL are read, alone or in a zip with the files they refer to, and heights of land
    (GeoTIFF), which are laid about the project's place; nothing else is looked at. It is kept as glTF binary. Surfaces set by hand stay with the names of their materials; its layers join those of the
    project. A file that stands there already is refused.
    """
    arrival = await _arrived(slug, plain(name), request, here, replace, ticket)
    return await run_in_threadpool(_take, slug, arrival.key, None, here, hand)


@router.post("/{slug}/arrivals", status_code=201)
async def receive_model(
    slug: str, name: FileName, request: Request, here: Here, replace: Replace = None, ticket: Ticket = None
) -> Arrival:
    """Read a model, sent as the body, and say what is in it and how it would be set on the stage. The project stays as it is. By the
    ticket it can be asked how far it is, and be stopped."""
    return await _arrived(slug, plain(name), request, here, replace, ticket)


@router.post("/{slug}/arrivals/{key}")
def take_arrival(slug: str, key: str, choices: ArrivalChoices, here: Here, hand: Hand = "") -> ProjectState:
    """Put a model that was received on the stage, with what was chosen of it; one step of undo."""
    return _take(slug, key, choices, here, hand)


async def _arrived(
    slug: str, name: str, request: Request, here: Here, replace: str | None, ticket: str | None
) -> Arrival:
    with here.underway.begun(ticket) as underway:
        return await _read(slug, name, request, here, replace, underway)


async def _read(slug: str, name: str, request: Request, here: Here, replace: str | None, underway: Underway) -> Arrival:
    held = await described(slug)
    site = held.site
    beside: dict[str, Any] = {
        "where": {"latitude_deg": site.latitude_deg, "longitude_deg": site.longitude_deg, "north_deg": site.north_deg}
    }
    if replace is not None:
        old = find(held.placements, replace, "thing on the stage")
        beside |= {"before": str(here.files.path(old.asset)), "dressed": list(held.stage.surfaces)}
    length = request.headers.get("content-length", "")
    chunks = underway.counted(request.stream(), int(length) if length.isdecimal() else None, name)
    data = await here.files.receive(chunks, here.settings.largest_model_bytes, name)
    underway.tell("Waiting for its turn", 0.0)
    aside = await run_in_threadpool(here.files.set_aside, data)
    try:
        found = await tried("model", aside, name, beside, underway)
        glb = await run_in_threadpool(converted(aside).read_bytes)
        underway.check(name)
    finally:
        aside.unlink(missing_ok=True)
        converted(aside).unlink(missing_ok=True)
    return await run_in_threadpool(_keep, glb, found, name, replace, here)


@with_database
def _keep(glb: bytes, found: dict[str, Any], name: str, replace: str | None, here: Here) -> Arrival:
    sheet = ArrivalSheet.model_validate(found)
    model = storage.keep(here.files, glb, "model", name)
    written = json.dumps({"model": model, "replaces": replace, "sheet": found}).encode()
    axes: dict[Any, list[list[float]]] = {up: matrix.tolist() for up, matrix in UP_MATRICES.items()}
    key = storage.keep(here.files, written, "arrival", name)
    return Arrival(key=key, replaces=replace, sheet=sheet, units=list(UNITS.items()), axes=axes)


@with_database
def _take(slug: str, key: str, choices: ArrivalChoices | None, here: Here, hand: str) -> ProjectState:
    """Take an arrival as chosen, or as proposed."""
    storage.project_row(slug)
    if AssetRow.get_or_none(AssetRow.sha256 == key, AssetRow.kind == "arrival") is None:
        raise NotFoundError(f"there is no arrival {key[:12]!r}", "arrival", "Send the model again")
    told = json.loads(here.files.read(key))
    sheet, model, replace = ArrivalSheet.model_validate(told["sheet"]), told["model"], told["replaces"]
    wanted = choices or proposal(sheet)
    lights = kept_lights(sheet, stood(sheet, model, wanted, "thing"), wanted.lights, here.files)
    if lights.fixtures:
        here.worker.send(CatalogueGrew())

    def make(project: Project) -> Edit:
        return edit_for(project, sheet, model, wanted, replace, lights, here.files)

    label = f"{'Add' if replace is None else 'Replace'} model {sheet.name}"[:120]
    return announced(edits.edit_from(slug, make, hand), here, label, hand)


@router.get("/{slug}/stage")
async def get_stage(slug: str, here: Here) -> StageFigures:
    """Figures of the stage: objects, triangles, materials, layers."""
    return StageFigures.model_validate(await here.worker.ask(q.StageFigures(project=await described(slug))))
