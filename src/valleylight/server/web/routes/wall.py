"""The wall: plates of many cells in one go, lens and look copied across, the order of the queue."""

from __future__ import annotations

from fastapi import APIRouter

from valleylight.core.errors import InputError
from valleylight.core.project.across import across
from valleylight.core.project.description import Project
from valleylight.server.messages.wishes import PlateWaiting
from valleylight.server.store import edits, jobs, storage
from valleylight.server.store.edits import Edit
from valleylight.server.web.context import Hand, Here, with_database
from valleylight.server.web.routes.edits import announced
from valleylight.server.web.routes.plates import put_in_queue
from valleylight.server.web.schemas.live import PlatesNews
from valleylight.server.web.schemas.plates import Plate
from valleylight.server.web.schemas.projects import ProjectState
from valleylight.server.web.schemas.wall import AcrossWanted, ManyPlates, QueueOrder

router = APIRouter(prefix="/api", tags=["wall"])


@router.post("/projects/{slug}/plates/many", status_code=202)
@with_database
def make_many(slug: str, wanted: ManyPlates, here: Here) -> list[Plate]:
    """Put a plate of each cell in the queue: all of them, or none where a view or an occasion is not there."""
    row = storage.project_row(slug)
    project = storage.description(row)
    cells = [(cell.view, cell.occasion) for cell in wanted.cells]
    made = put_in_queue(row, project, project, cells, wanted.quality, here.settings)
    here.worker.send(PlateWaiting())
    here.hub.tell_soon(row.slug, PlatesNews())
    return made


@router.post("/projects/{slug}/across")
@with_database
def copy_across(slug: str, wanted: AcrossWanted, here: Here, hand: Hand = "") -> ProjectState:
    """Give cells the exposure, the look, or both, of another; one step of undo."""
    storage.project_row(slug)
    if not (wanted.lens or wanted.look):
        raise InputError("nothing is named to be copied", "lens", "Ask for the lens, the look, or both")
    what = " and ".join(word for word, on in (("Lens", wanted.lens), ("look", wanted.look)) if on)
    label = f"{what} across {len(wanted.cells)} cells"

    def make(now: Project) -> Edit:
        source = (wanted.source.view, wanted.source.occasion)
        changes = across(now, source, [(c.view, c.occasion) for c in wanted.cells], wanted.lens, wanted.look)
        if not changes:
            raise InputError("the cells have it already", "cells", "Choose cells that differ")
        return Edit(label=label, changes=changes)

    row = edits.edit_from(slug, make, hand)
    here.hub.tell_soon(row.slug, PlatesNews())
    return announced(row, here, label, hand)


@router.post("/jobs/order", status_code=202)
@with_database
def order_jobs(wanted: QueueOrder, here: Here) -> dict[str, str]:
    """Put waiting plates in another order. Raises InputError where one of them waits no longer."""
    for slug in jobs.put_in_order(wanted.jobs):
        here.hub.tell_soon(slug, PlatesNews())
    return {"status": "ordered"}
