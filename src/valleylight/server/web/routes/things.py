"""Objects of the catalogue: their families and pictures; placed, made anew with other numbers, dropped, taken apart."""

from __future__ import annotations

import hashlib
import json
import math
from dataclasses import dataclass
from pathlib import PurePath
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response

from valleylight.core.errors import InputError
from valleylight.core.objects import FAMILIES, Family, family_of, made
from valleylight.core.project.changes import Change
from valleylight.core.project.description import Made, Placement, Project, UpAxis, find
from valleylight.core.project.keys import free_name, key_for
from valleylight.core.project.repeats import Strewn
from valleylight.core.project.surface import ObjectFlags
from valleylight.core.stage.arrival.units import metres_of_object
from valleylight.core.stage.assembly import apart
from valleylight.server.messages import questions as q
from valleylight.server.store import edits, own, storage
from valleylight.server.store.edits import Edit
from valleylight.server.store.tables import OwnRow
from valleylight.server.web import lamps
from valleylight.server.web.context import Context, Hand, Here, described, with_database
from valleylight.server.web.routes.arrivals import FileName, plain
from valleylight.server.web.routes.edits import announced
from valleylight.server.web.routes.surfaces import sample
from valleylight.server.web.schemas.projects import PartMade, ProjectState
from valleylight.server.web.schemas.surfaces import Renamed
from valleylight.server.web.schemas.things import FamilyLine, FamilyParameter, LeafOffer, LeafWanted, ThingLine, ThingMade, ThingWanted
from valleylight.server.web.trial import converted, tried

router = APIRouter(prefix="/api", tags=["things"])
#: Surfaces steeper than this are walls: what is hung there faces away from them.
_WALL = 0.5
#: So many copies are taken apart into things of their own at most.
MOST_APART = 300
#: How keys of objects of one's own begin.
OWN = "own-"
#: A thing is dropped from so far above its own zero.
ABOVE_M = 0.3


@dataclass(frozen=True)
class _Chosen:
    """An object to place: what it goes by, its file, and how that is set upright and scaled."""

    key: str
    name: str
    asset: str
    parameters: dict[str, float]
    scale: float = 1.0
    up: UpAxis = "z"
    only_seen: bool = False


@router.get("/objects")
@with_database
def families() -> list[FamilyLine]:
    """The catalogue of objects: those one keeps oneself, then the families."""
    shipped = [
        FamilyLine(
            key=f.key, name=f.name, group=f.group, grows=f.grows,
            parameters=[FamilyParameter(**{**vars(p), "words": list(p.words)}) for p in f.parameters],
        )
        for f in FAMILIES
    ]  # fmt: skip
    return [*(_own_line(row) for row in own.every("object")), *shipped]


def _own_line(row: OwnRow) -> FamilyLine:
    return FamilyLine(key=f"{OWN}{row.id}", name=row.name, group="Your own", grows=False, parameters=[], own=row.id)


def _own(key: str) -> OwnRow | None:
    """An object of one's own by its key; None for a family. Raises NotFoundError for one that is gone."""
    number = key.removeprefix(OWN)
    return own.find("object", int(number)) if key.startswith(OWN) and number.isdecimal() and len(number) < 12 else None


@router.post("/objects/own", status_code=201)
async def take_object(name: FileName, request: Request, here: Here) -> FamilyLine:
    """Take an object into the catalogue, for all projects, from a model of any kind that is read, sent as the body. It stands upright as
    its arrival sheet would propose; where the file states no unit, it is taken for the size of furniture."""
    shown = plain(name)
    data = await here.files.receive(request.stream(), here.settings.largest_model_bytes, shown)
    aside = await run_in_threadpool(here.files.set_aside, data)
    try:
        found = await tried("model", aside, shown)
        glb = await run_in_threadpool(converted(aside).read_bytes)
    finally:
        aside.unlink(missing_ok=True)
        converted(aside).unlink(missing_ok=True)
    return await run_in_threadpool(_keep, glb, found, shown, here)


@with_database
def _keep(glb: bytes, found: dict[str, Any], name: str, here: Context) -> FamilyLine:
    asset = storage.keep(here.files, glb, "model", name)
    title = PurePath(name).stem.strip()[:80] or "Object"
    unit = found["unit"]
    size = np.array(found["high"]) - np.array(found["low"])
    metres = unit["metres"] if unit["stated"] else metres_of_object(size)
    return _own_line(own.keep("object", title, {"asset": asset, "scale": metres, "up": found["up"]["up"]}))


@router.put("/objects/own/{number}")
@with_database
def rename_object(number: int, wanted: Renamed) -> FamilyLine:
    """Give an object of one's own another name."""
    return _own_line(own.change("object", number, wanted.name))


@router.delete("/objects/own/{number}", status_code=204)
@with_database
def put_object_away(number: int) -> None:
    """Take an object of one's own out of the catalogue; where it stands it stays."""
    own.put_away("object", number)


@router.get("/objects/{family}/picture.png", response_class=Response)
async def family_picture(
    family: str, here: Here, values: Annotated[str, Query(max_length=2000, description="Numbers as JSON")] = "{}"
) -> Response:
    """A member of a family, or an object of one's own, pictured by the tracer."""
    row = await run_in_threadpool(with_database(_own), family)
    if row is not None:
        version = hashlib.sha256(f"{family}/{json.dumps(row.data, sort_keys=True)}".encode()).hexdigest()[:24]
        return await sample(here, f"thing-{version}", q.OwnPicture.model_validate({**row.data, "name": row.name}))
    wanted = _numbers(family_of(family), values)
    version = hashlib.sha256(made(family_of(family), wanted)).hexdigest()[:24]
    return await sample(here, f"thing-{version}", q.ThingPicture(family=family, parameters=wanted))


def _numbers(family: Family, text: str) -> dict[str, float]:
    try:
        told = json.loads(text)
    except (ValueError, RecursionError):
        told = None
    good = isinstance(told, dict) and all(isinstance(v, int | float) and not isinstance(v, bool) for v in told.values())
    if not good or told is None:
        raise InputError("the numbers are no JSON of names and numbers", "values", 'Write them as {"height": 1.2}')
    return family.values({str(k): float(v) for k, v in told.items()})


@router.get("/projects/{slug}/things")
async def things(slug: str, here: Here) -> list[ThingLine]:
    """Every thing on the stage with its box."""
    answer = await here.worker.ask(q.Things(project=await described(slug)))
    return [ThingLine.model_validate(line) for line in answer]


@router.post("/projects/{slug}/things", status_code=201)
def place_thing(slug: str, wanted: ThingWanted, here: Here, hand: Hand = "") -> PartMade:
    """Place an object of the catalogue; one step of undo. On a wall it faces away from it."""
    turn = wanted.turn_deg
    if turn is None:
        x, y, z = wanted.normal
        upright = abs(z) > _WALL * math.hypot(x, y, z) or math.hypot(x, y) < 1e-9
        turn = 0.0 if upright else round(math.degrees(math.atan2(y, x)) + 90.0, 2)
    return _place(slug, wanted, math.remainder(turn, 360.0), here, hand)


def _chosen(here: Context, key: str, parameters: dict[str, float]) -> _Chosen:
    """What of the catalogue is meant, its file kept. Raises NotFoundError where there is none, InputError for impossible numbers."""
    row = _own(key)
    if row is not None:
        return _Chosen(key, row.name, row.data["asset"], {}, row.data["scale"], row.data["up"])
    family = family_of(key)
    asset = storage.keep(here.files, made(family, parameters), "model", f"{family.key}.glb")
    return _Chosen(key, family.name, asset, family.values(parameters), only_seen=family.only_seen)


@with_database
def _place(slug: str, wanted: ThingWanted, turn: float, here: Context, hand: str) -> PartMade:
    storage.project_row(slug)
    chosen = _chosen(here, wanted.family, wanted.parameters)
    bulb = lamps.bulb(here, chosen.key)
    keys: list[str] = []

    def make(project: Project) -> Edit:
        names = {p.name for p in project.placements}
        name = chosen.name if chosen.name not in names else free_name(chosen.name, names)
        key = key_for(name, {p.key for p in project.placements}, "thing")
        thing = Placement(
            key=key, name=name, asset=chosen.asset, position=wanted.position, turn_deg=turn, layer=wanted.layer, scale=chosen.scale,
            up=chosen.up, made=Made(family=chosen.key, parameters=chosen.parameters),
        )  # fmt: skip
        keys.append(key)
        thing, lit = lamps.lit(project, thing, bulb)
        changes = [*lit, Change(part="placement", key=key, value=thing.model_dump(mode="json"))]
        if chosen.only_seen:
            flags = ObjectFlags(casts_shadow=False, sends=False)
            changes.append(Change(part="stage", at=["objects", name], value=flags.model_dump(mode="json")))
        return Edit(label=f"Place {name}"[:120], changes=changes)

    row = edits.edit_from(slug, make, hand)
    return PartMade(key=keys[-1], project=announced(row, here, f"Place {chosen.name}"[:120], hand))


@router.put("/projects/{slug}/things/{key}/made")
@with_database
def make_anew(slug: str, key: str, wanted: ThingMade, here: Here, hand: Hand = "") -> ProjectState:
    """Give a thing other numbers, or put another object in its place; where and how often it stands stays. Its linked copies follow, unless
    it is to be made independent of them."""
    storage.project_row(slug)
    chosen = _chosen(here, wanted.family, wanted.parameters)
    bulb = lamps.bulb(here, chosen.key)
    label = f"Make {chosen.name}"[:120]

    def make(project: Project) -> Edit:
        old = find(project.placements, key, "thing on the stage")
        if old.made is None:
            raise InputError(f"{old.name} is a model", old.name, "Put a newer file in its place, or choose an object")
        fields: dict[str, Any] = {
            "asset": chosen.asset, "made": Made(family=chosen.key, parameters=chosen.parameters).model_dump(mode="json"),
        }  # fmt: skip
        # Files of one's own have a unit and an upright axis; members of a family stand in metres.
        if OWN in (chosen.key[: len(OWN)], old.made.family[: len(OWN)]):
            fields |= {"scale": chosen.scale, "up": chosen.up}
        linked = () if wanted.alone else project.placements
        alike = [old, *(p for p in linked if p.key != key and p.made is not None and p.asset == old.asset)]
        changes = [
            Change(part="placement", key=p.key, at=[field], value=value) for p in alike for field, value in fields.items()
        ]
        taken: set[str] = set()
        for p in alike:
            made_so = p.model_copy(update={"made": Made(family=chosen.key, parameters=chosen.parameters)})
            changes += lamps.lit_anew(project, made_so, bulb, taken)
        return Edit(label=label, changes=changes[:2000])

    return announced(edits.edit_from(slug, make, hand), here, label, hand)


@router.post("/projects/{slug}/leafshadow")
async def leaf_shadow(slug: str, wanted: LeafWanted, here: Here) -> list[LeafOffer]:
    """Places for trees that throw their shadow on a patch at an occasion's hour, the nearest first, each tried; empty where none can
    stand. Raises InputError where the sun does not reach the patch then."""
    if not any(wanted.normal):
        raise InputError("the normal is zero", "normal", "Give the side of the surface that is meant")
    answer = await here.worker.ask(q.LeafShadow(project=await described(slug), **wanted.model_dump()))
    return [LeafOffer.model_validate(offer) for offer in answer]


@router.post("/projects/{slug}/things/{key}/drop")
async def drop(slug: str, key: str, here: Here, hand: Hand = "") -> ProjectState:
    """Let a thing down to what lies below it. Raises InputError where nothing does."""
    project = await described(slug)
    thing = find(project.placements, key, "thing on the stage")
    if thing.locked:
        raise InputError(f"{thing.name} is locked in its place", thing.name, "Unlock it first")
    if not project.views or not project.occasions:
        raise InputError("there is no view yet", "views", "Add a view and an occasion first")
    x, y, z = thing.position
    view, occasion = project.views[0].key, project.occasions[0].key
    asked = q.Pick(project=project, view=view, occasion=occasion, picture=None, plan=(x, y, z + ABOVE_M), without=key)
    met = await here.worker.ask(asked)
    if met is None:
        raise InputError(f"nothing lies below {thing.name}", thing.name, "Move it over the ground first")
    height = round(met["point"][2], 4)
    change = Change(part="placement", key=key, at=["position"], value=[x, y, height])
    return await run_in_threadpool(_change, slug, f"Drop {thing.name}"[:120], [change], here, hand)


@router.post("/projects/{slug}/things/{key}/apart")
def take_apart(slug: str, key: str, here: Here, hand: Hand = "") -> ProjectState:
    """Make things of their own of the copies of one that stands in a row, in a grid or along a line."""
    return _take_apart(slug, key, here, hand)


@with_database
def _take_apart(slug: str, key: str, here: Context, hand: str) -> ProjectState:
    storage.project_row(slug)

    def make(project: Project) -> Edit:
        thing = find(project.placements, key, "thing on the stage")
        if thing.repeat is None or isinstance(thing.repeat, Strewn):
            raise InputError(f"{thing.name} stands in no row, grid or line", thing.name, "Choose one that does")
        singles = apart(thing)
        if len(singles) > MOST_APART:
            raise InputError(
                f"it would be {len(singles)} things", thing.name, f"Take apart at most {MOST_APART}; make it smaller first"
            )
        taken = {p.key for p in project.placements}
        names = {p.name for p in project.placements}
        changes = []
        for number, single in enumerate(singles):
            if number:
                name = free_name(thing.name, names)
                single = single.model_copy(update={"key": key_for(name, taken, "thing"), "name": name})
            taken.add(single.key)
            names.add(single.name)
            changes.append(Change(part="placement", key=single.key, value=single.model_dump(mode="json")))
        return Edit(label=f"Take {thing.name} apart"[:120], changes=changes)

    return announced(edits.edit_from(slug, make, hand), here, "Take apart", hand)


@with_database
def _change(slug: str, label: str, changes: list[Change], here: Any, hand: str) -> ProjectState:
    row = edits.apply_edit(slug, Edit(label=label, changes=changes), hand)
    return announced(row, here, label, hand)
