"""Looks: those that ship, as files, tried on the picture, and the lookup tables that they name."""

from __future__ import annotations

import base64

from fastapi import APIRouter, Request, Response
from fastapi.concurrency import run_in_threadpool

from valleylight.core.finish.exchange import LARGEST_BYTES as LARGEST_LOOK
from valleylight.core.finish.exchange import look_as_cube, look_as_json, look_from_json
from valleylight.core.finish.ready import READY_LOOKS
from valleylight.core.project.changes import Change
from valleylight.core.project.description import Look, Project, find
from valleylight.core.project.keys import free_name, key_for
from valleylight.core.treatments.cube import LARGEST_BYTES, read_cube, write_cube
from valleylight.server.messages import questions as q
from valleylight.server.store import edits, storage
from valleylight.server.store.edits import Edit
from valleylight.server.web.downloads import attachment
from valleylight.server.web.context import Context, Hand, Here, described, with_database
from valleylight.server.web.routes.arrivals import FileName, plain
from valleylight.server.web.routes.edits import announced
from valleylight.server.web.schemas.looks import LimitWanted, LookFound, LooksTried, LooksWanted
from valleylight.server.web.schemas.projects import PartMade

router = APIRouter(prefix="/api", tags=["looks"])


@router.get("/looks")
def ready_looks() -> list[Look]:
    """The looks that ship, to be laid on a picture or taken into a project."""
    return list(READY_LOOKS)


@router.post("/lookup-tables", status_code=201)
async def take_table(name: FileName, request: Request, here: Here) -> LookFound:
    """Bring in a lookup table (.cube), sent as the body. It changes nothing before a treatment names it."""
    shown = plain(name)
    data = await here.files.receive(request.stream(), LARGEST_BYTES, shown)
    cube = await run_in_threadpool(read_cube, data, shown)
    file = await run_in_threadpool(with_database(storage.keep), here.files, data, "table", shown)
    return LookFound(file=file, name=(cube.title or shown.removesuffix(".cube"))[:80], size=len(cube.values), solid=cube.is_solid)


@router.get("/projects/{slug}/looks/{key}/look.json", response_class=Response)
@with_database
def look_file(slug: str, key: str) -> Response:
    """A look as an open file."""
    return _as_file(look_as_json(_look(slug, key)), key, "json", "application/json")


@router.get("/projects/{slug}/looks/{key}/look.cube", response_class=Response)
@with_database
def look_table(slug: str, key: str) -> Response:
    """What a look does to colours after its tone curve, as a lookup table."""
    return _as_file(write_cube(look_as_cube(_look(slug, key))), key, "cube", "text/plain")


@router.post("/projects/{slug}/looks", status_code=201)
async def take_look(slug: str, name: FileName, request: Request, here: Here, hand: Hand = "") -> PartMade:
    """Take a look of a file (JSON), sent as the body, into a project, under a free name."""
    shown = plain(name)
    await described(slug)
    data = await here.files.receive(request.stream(), LARGEST_LOOK, shown)
    look = await run_in_threadpool(look_from_json, data, shown)
    return await run_in_threadpool(_take, slug, look, here, hand)


@with_database
def _take(slug: str, look: Look, here: Context, hand: str) -> PartMade:
    keys: list[str] = []

    def make(project: Project) -> Edit:
        name = look.name if look.name not in {o.name for o in project.looks} else free_name(look.name, {o.name for o in project.looks})
        keys.append(key_for(name, {o.key for o in project.looks}, "look"))
        value = look.model_copy(update={"key": keys[0], "name": name}).model_dump(mode="json")
        return Edit(label=f"Take look {name}"[:120], changes=[Change(part="look", key=keys[0], value=value)])

    row = edits.edit_from(slug, make, hand)
    return PartMade(key=keys[0], project=announced(row, here, "Take look", hand))


@router.post("/projects/{slug}/looks/tried")
async def try_looks(slug: str, wanted: LooksWanted, here: Here) -> LooksTried:
    """The live picture under other looks, small. Nothing is stored."""
    await described(slug)
    for look in wanted.looks:
        await run_in_threadpool(with_database(storage.tables_are_there), look)
    asked = q.TryLooks(
        slug=slug.lower(), view=wanted.view, occasion=wanted.occasion, looks=tuple(wanted.looks), width=wanted.width
    )
    return LooksTried(pictures=[base64.b64encode(picture).decode() for picture in await here.worker.ask(asked)])


@router.post("/projects/{slug}/looks/limit", response_class=Response)
async def show_limit(slug: str, wanted: LimitWanted, here: Here) -> Response:
    """Where the limit of a treatment holds in the live picture, as a PNG to be laid over it. Nothing is stored."""
    await described(slug)
    await run_in_threadpool(with_database(storage.tables_are_there), wanted.look)
    asked = q.MarkLimit(
        slug=slug.lower(), view=wanted.view, occasion=wanted.occasion, look=wanted.look, number=wanted.number,
        width=wanted.width,
    )  # fmt: skip
    return Response(await here.worker.ask(asked), media_type="image/png")


def _look(slug: str, key: str) -> Look:
    return find(storage.description(storage.project_row(slug)).looks, key, "look")


def _as_file(text: str, key: str, suffix: str, media_type: str) -> Response:
    return Response(text, media_type=media_type, headers={"Content-Disposition": attachment(key, suffix)})
