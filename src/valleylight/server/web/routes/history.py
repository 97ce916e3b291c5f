"""What became of a picture: how its plates differ, a plate's settings back, and old plates thinned."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from valleylight.core.errors import InputError
from valleylight.core.history.back import beside_now, over_now
from valleylight.core.history.differences import State, differences
from valleylight.core.history.thinning import NEWEST, OLDEST, Kept, to_thin
from valleylight.core.project.changes import Change
from valleylight.core.project.description import Project
from valleylight.server.store import edits, storage
from valleylight.server.store.edits import Edit
from valleylight.server.store.tables import PlateRow, now
from valleylight.server.web.context import Hand, Here, with_database
from valleylight.server.web.routes.edits import announced
from valleylight.server.web.routes.plates import plate_row
from valleylight.server.web.schemas.history import BackWanted, DifferenceTold, SettingsBack, Thinning
from valleylight.server.web.schemas.live import PlatesNews
from valleylight.server.web.schemas.projects import ProjectState

router = APIRouter(prefix="/api", tags=["history"])
RULE = (
    f"Of each view and occasion the newest {NEWEST} plates stay, and of the others those younger than {OLDEST.days} days, the newest of "
    "each quality, press plates, and every plate with a star, a name, a note or a place of its own."
)  # fmt: skip
#: An edit holds so many changes.
MOST_CHANGES = 2000


@router.get("/plates/{plate_id}/differences")
@with_database
def plate_differences(plate_id: int, other: Annotated[int | None, Query()] = None) -> list[DifferenceTold]:
    """What another plate of the project has otherwise than this one, or the project as it is now."""
    plate = plate_row(plate_id)
    first = _state(plate)
    if other is None:
        second = State(storage.description(plate.project), plate.view_key, plate.occasion_key)
    else:
        row = plate_row(other)
        if row.project.id != plate.project.id:
            raise InputError("the plates are of two projects", "other", "Choose plates of one project")
        second = _state(row)
    return [DifferenceTold(step=d.step, text=d.text) for d in differences(first, second)]


@router.post("/plates/{plate_id}/settings")
@with_database
def settings_back(plate_id: int, wanted: BackWanted, here: Here, hand: Hand = "") -> SettingsBack:
    """Bring back the settings a plate was made from, over those of now or beside them; one step of undo."""
    plate = plate_row(plate_id)
    then = storage.plate_description(plate.settings_id)
    view, occasion = plate.view_key, plate.occasion_key
    name = plate.name or f"{plate.quality} of {plate.created:%-d %b %H:%M}"
    label = f"Settings of {name}"[:120]
    made: list[tuple[str, str]] = []

    def make(current: Project) -> Edit:
        if wanted.as_new:
            *keys, changes = beside_now(current, then, view, occasion, name)
            made.append((keys[0], keys[1]))
        else:
            changes = over_now(current, then, view, occasion)
            made.append((view, occasion))
        return _edit(label, changes)

    row = edits.edit_from(plate.project.slug, make, hand)
    here.hub.tell_soon(row.slug, PlatesNews())
    return SettingsBack(view=made[0][0], occasion=made[0][1], project=announced(row, here, label, hand))


@router.get("/projects/{slug}/thinning")
@with_database
def thinning(slug: str) -> Thinning:
    """The plates that would be put away, and by which rule."""
    return Thinning(plates=_thin(slug), rule=RULE)


@router.post("/projects/{slug}/thinning")
@with_database
def thin(slug: str, here: Here, hand: Hand = "") -> ProjectState:
    """Put old plates away by the rule; one step of undo."""
    numbers = _thin(slug)
    if not numbers:
        raise InputError("there is nothing to thin", "plates", "No plate is old enough, or all are marked")
    label = f"Thin {len(numbers)} plates"
    changes = [Change(part="plate", key=str(n), value=None) for n in numbers[:MOST_CHANGES]]
    row = edits.apply_edit(slug, _edit(label, changes), hand)
    here.hub.tell_soon(row.slug, PlatesNews())
    return announced(row, here, label, hand)


def _state(plate: PlateRow) -> State:
    return State(storage.plate_description(plate.settings_id), plate.view_key, plate.occasion_key)


def _edit(label: str, changes: list[Change]) -> Edit:
    if len(changes) > MOST_CHANGES:
        raise InputError(
            f"{len(changes)} things differ, too many for one step", "plate", "Take its settings as a new view and occasion instead"
        )  # fmt: skip
    return Edit(label=label, changes=changes)


def _thin(slug: str) -> list[int]:
    row = storage.project_row(slug)
    plates = PlateRow.select().where(PlateRow.project == row, ~PlateRow.put_away, PlateRow.picture.is_null(False))
    return to_thin(
        (
            Kept(
                p.id, (p.view_key, p.occasion_key), p.quality, p.created,
                bool(p.starred or p.name or p.note or p.rank is not None),
            )
            for p in plates
        ),
        now(),
    )  # fmt: skip
