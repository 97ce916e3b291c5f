"""The catalogue of profiles: search, upload, figures, pictures, and profiles of one's own making."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse, Response

from valleylight.core.lamps.templates import TEMPLATES
from valleylight.core.photometry import Photometry, write_lm63
from valleylight.core.photometry.invent import drawn, plain_spot
from valleylight.server.web import catalogue
from valleylight.server.messages import questions as q
from valleylight.server.messages.wishes import CatalogueGrew
from valleylight.server.store import portraits
from valleylight.server.web.context import Context, Here, with_database
from valleylight.server.web.downloads import attachment
from valleylight.server.web.routes.arrivals import FileName, plain
from valleylight.server.web.schemas.catalogue import (
    DrawnProfile,
    PlainSpot,
    ProfileFigures,
    ProfileLine,
    ProfilePage,
    ProfileSearch,
    SourceTemplate,
)

router = APIRouter(prefix="/api", tags=["catalogue"])
Ev = Annotated[float | None, Query(ge=-10, le=24, description="Exposure value of the picture, metered when not given")]


@router.get("/profiles")
@with_database
def search_profiles(wanted: Annotated[ProfileSearch, Query()], here: Here) -> ProfilePage:
    """Profiles by text, angles, flux, colour temperature, shape and mounting, or by likeness to one."""
    return catalogue.search(here.files, wanted)


@router.post("/profiles", status_code=201)
async def take_profile(
    name: FileName, request: Request, here: Here,
    tilt: Annotated[str | None, Query(max_length=catalogue.MOST_TILT_CHARACTERS, description="Text of its tilt file")] = None,
) -> ProfileLine:  # fmt: skip
    """Take an IES LM-63 or EULUMDAT file, sent as the body, into the catalogue."""
    data = await here.files.receive(request.stream(), here.settings.largest_profile_bytes, plain(name))
    made = await run_in_threadpool(with_database(catalogue.take), here.files, data, plain(name), tilt)
    here.worker.send(CatalogueGrew())
    return made


@router.post("/profiles/plain", status_code=201)
def make_plain(wanted: PlainSpot, here: Here) -> ProfileLine:
    """A plain cone as a legal profile of the catalogue."""
    made = plain_spot(wanted.beam_deg, wanted.field_deg, wanted.softness, wanted.lumens, wanted.name)
    return _own(here, made, wanted.name)


@router.post("/profiles/drawn", status_code=201)
def make_drawn(wanted: DrawnProfile, here: Here) -> ProfileLine:
    """A distribution drawn by hand as a legal profile of the catalogue."""
    made = drawn(wanted.angles_deg, wanted.across, wanted.along, wanted.lumens, wanted.name)
    return _own(here, made, wanted.name)


@with_database
def _own(here: Context, made: Photometry, name: str) -> ProfileLine:
    line = catalogue.take(here.files, write_lm63(made).encode(), f"{name}.ies")
    here.worker.send(CatalogueGrew())
    return line


@router.get("/profiles/{sha256}")
@with_database
def profile_figures(sha256: str, here: Here) -> ProfileFigures:
    """Everything computed from a profile."""
    row = catalogue.find(sha256)
    return catalogue.all_figures(row, here.files.read(sha256))


@router.get("/profiles/{sha256}/file.{suffix}", response_class=Response)
@with_database
def profile_file(sha256: str, suffix: Literal["ies", "ldt"], here: Here) -> Response:
    """The profile written as LM-63-2002 or EULUMDAT."""
    row = catalogue.find(sha256)
    data = catalogue.as_file(here.files.read(sha256), suffix)
    head = {"Content-Disposition": attachment(row.name, suffix)}
    return Response(data, media_type="text/plain", headers=head)


@router.get("/profiles/{sha256}/{side}.jpg", response_class=FileResponse)
async def profile_picture(sha256: str, side: Literal["wall", "floor"], here: Here, ev: Ev = None) -> FileResponse:
    """Light on a wall from 0.5 and 1 m, or on a floor with contours of lux; made by the tracer once, then kept."""
    row = await run_in_threadpool(with_database(catalogue.find), sha256)
    ev = None if ev is None else round(ev, 1)
    kept = portraits.path_of(here.files, sha256, side, ev)
    if not kept.is_file():
        await here.worker.ask(q.Portrait(profile=sha256, kelvin=row.kelvin, side=side, ev100=ev))
    head = {"Cache-Control": "public, max-age=31536000, immutable"}
    return FileResponse(kept, media_type="image/jpeg", headers=head)


@router.get("/sources")
def sources() -> list[SourceTemplate]:
    """Sources to begin with, where no measured profile is at hand."""
    return [
        SourceTemplate(key=t.key, name=t.name, lumens=t.lumens, watts=t.watts, kelvin=t.kelvin, dimming=t.dimming)
        for t in TEMPLATES
    ]
