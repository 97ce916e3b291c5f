"""Placing many fixtures at once, and the drawings that placing needs beside the plan."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query
from fastapi.concurrency import run_in_threadpool

from valleylight.core.errors import InputError
from valleylight.core.lamps import arrange
from valleylight.core.project.changes import Change
from valleylight.core.project.description import Metres, Project
from valleylight.server.messages import questions as q
from valleylight.server.store import edits
from valleylight.server.web.context import Hand, Here, described, with_database
from valleylight.server.store.edits import Edit
from valleylight.server.web.routes.edits import announced
from valleylight.server.web.schemas.plan import ArrangeWanted, FixtureWanted, SectionDrawing
from valleylight.server.web.schemas.projects import PartMade, ProjectState
from valleylight.server.web.schemas.stage import ObjectLine

router = APIRouter(prefix="/api/projects", tags=["arrange"])
#: From where the ceiling is looked for, and how far under it a fixture hangs.
LOOK_UP_FROM_M, BELOW_CEILING_M = 1.2, 0.02
UNDER_OBJECT_M = 0.02



@router.get("/{slug}/objects")
async def objects(slug: str, here: Here) -> list[ObjectLine]:
    """Every named object of the stage with its box."""
    asked = q.Objects(project=await described(slug))
    return [ObjectLine.model_validate(o) for o in await here.worker.ask(asked)]


@router.get("/{slug}/section")
async def section(
    slug: str, here: Here, axis: Literal["x", "y"], place_m: Annotated[Metres, Query()]
) -> SectionDrawing:
    """The stage cut by an upright plane."""
    asked = q.Section(project=await described(slug), axis=axis, place_m=place_m)
    return SectionDrawing.model_validate(await here.worker.ask(asked))


@router.post("/{slug}/fixtures", status_code=201)
async def place_fixture(slug: str, wanted: FixtureWanted, here: Here, hand: Hand = "") -> PartMade:
    """Place one more fixture of a kind; one step of undo."""
    project = await described(slug)
    kind, (x, y) = project.kind(wanted.kind), wanted.at
    height = arrange.height_of_new(project, kind, x, y) if wanted.height_m is None else wanted.height_m
    if height is None:
        [(_, _, height)] = await _on_the_ceiling(project, [(x, y)], kind.mounting, here)
    return await run_in_threadpool(_keep_one, slug, wanted, (x, y, height), here, hand)


@with_database
def _keep_one(slug: str, wanted: FixtureWanted, place: tuple[float, float, float], here: Any, hand: str) -> PartMade:
    keys: list[str] = []

    def make(project: Project) -> Edit:
        kind = project.kind(wanted.kind)
        [made] = arrange.placed(project, kind, [place])
        value = made.model_dump(mode="json")
        if wanted.aim is not None:
            value["aim"] = list(wanted.aim)
        keys.append(made.key)
        return Edit(label=f"Place {kind.name}", changes=[Change(part="fixture", key=made.key, value=value)])

    row = edits.edit_from(slug, make, hand)
    return PartMade(key=keys[-1], project=announced(row, here, "Place fixture", hand))


async def _on_the_ceiling(
    project: Project, flat: list[tuple[float, float]], mounting: str, here: Any
) -> list[tuple[float, float, float]]:
    """Places just under what hangs over them, at the usual height under the open sky."""
    over = await here.worker.ask(q.Ceilings(project=project, places=tuple((x, y, LOOK_UP_FROM_M) for x, y in flat)))
    usual = arrange.HANG_M[mounting]
    return [(x, y, usual if z is None else z - BELOW_CEILING_M) for (x, y), z in zip(flat, over, strict=True)]


@router.post("/{slug}/arrange", status_code=201)
async def arrange_fixtures(slug: str, wanted: ArrangeWanted, here: Here, hand: Hand = "") -> ProjectState:
    """Place fixtures in a row, an array, along a curve or under objects, or mirror some; one step of undo."""
    project = await described(slug)
    places: list[tuple[float, float, float]] = []
    if wanted.how == "mirror":
        if not wanted.points:
            raise InputError("no line to mirror about", "points", "Give a point of the line")
    else:
        mounting = project.kind(wanted.kind or "").mounting
        places = await _places(wanted, project, mounting, here)
    return await run_in_threadpool(_keep, slug, wanted, places, here, hand)


async def _places(wanted: ArrangeWanted, project: Project, mounting: str, here: Any) -> list[tuple[float, float, float]]:
    if wanted.how == "objects":
        found = await here.worker.ask(q.Objects(project=project))
        fits = [o for o in found if wanted.objects and o["name"].lower().startswith(wanted.objects.lower())]
        return [
            ((o["low"][0] + o["high"][0]) / 2, (o["low"][1] + o["high"][1]) / 2, o["low"][2] - UNDER_OBJECT_M) for o in fits
        ]
    flat = _flat(wanted)
    if wanted.height_m is not None:
        return [(x, y, wanted.height_m) for x, y in flat]
    if mounting != "ceiling":
        return [(x, y, arrange.HANG_M[mounting]) for x, y in flat]
    return await _on_the_ceiling(project, flat, mounting, here)


def _flat(wanted: ArrangeWanted) -> list[arrange.Place]:
    points, spacing = wanted.points, wanted.spacing_m
    if len(points) < 2:
        raise InputError("two points are needed", "points", "Point at two places of the plan")
    (ax, ay), (bx, by) = points[0], points[-1]
    if wanted.how == "array":
        columns = arrange.count_for(abs(bx - ax), spacing) if spacing else wanted.count or 1
        rows = arrange.count_for(abs(by - ay), spacing) if spacing else wanted.rows or 1
        return arrange.array(points[0], points[-1], columns, rows, wanted.half_ends)
    length = sum(
        ((q[0] - p[0]) ** 2 + (q[1] - p[1]) ** 2) ** 0.5 for p, q in zip(points, points[1:], strict=False)
    )
    count = arrange.count_for(length, spacing) if spacing else wanted.count or 1
    if wanted.how == "row":
        return arrange.row(points[0], points[-1], count, wanted.half_ends)
    return arrange.curve(points, count, wanted.half_ends)


@with_database
def _keep(
    slug: str, wanted: ArrangeWanted, places: list[tuple[float, float, float]], here: Any, hand: str
) -> ProjectState:
    label = {"row": "Place a row", "array": "Place an array", "curve": "Place along a curve", "objects": "Place under objects",
             "mirror": "Mirror fixtures"}[wanted.how]  # fmt: skip

    def make(project: Project) -> Edit:
        made = (
            arrange.mirror_images(project, wanted.fixtures, wanted.points[0], wanted.axis)
            if wanted.how == "mirror"
            else arrange.placed(project, project.kind(wanted.kind or ""), places, wanted.group)
        )
        if not made:
            raise InputError("there is nothing to place", wanted.how, "Choose fixtures, points or objects")
        changes = [Change(part="fixture", key=f.key, value=f.model_dump(mode="json")) for f in made]
        return Edit(label=f"{label} of {len(made)}", changes=changes)

    return announced(edits.edit_from(slug, make, hand), here, label, hand)
