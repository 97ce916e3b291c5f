"""Judging finished pictures: scopes, other readings, and how they print."""

from __future__ import annotations

import base64
from typing import Any

import numpy as np
from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response
from numpy.typing import NDArray
from PIL import Image

from valleylight.core.errors import NotFoundError
from valleylight.core.film.jpeg import jpeg
from valleylight.core.finish.readings import Reading, proofed, read_as
from valleylight.core.finish.scopes import Scopes, scopes
from valleylight.server.messages import questions as q
from valleylight.server.store import storage
from valleylight.server.store.tables import AssetRow
from valleylight.server.web.context import Context, Here, described, with_database
from valleylight.server.web.routes.arrivals import FileName, plain
from valleylight.server.web.routes.plates import ready_plate
from valleylight.server.web.trial import tried
from valleylight.server.web.schemas.judging import PrintProfile, ScopesRead, ScopesWanted

router = APIRouter(prefix="/api", tags=["judging"])
LARGEST_PROFILE_BYTES = 16 * 2**20
_KEPT = {"Cache-Control": "private, max-age=86400"}


@router.get("/plates/{plate_id}/scopes")
def plate_scopes(plate_id: int, here: Here) -> ScopesRead:
    """Histogram, waveform, vectorscope and zones of a plate."""
    return as_read(scopes(_picture(plate_id, here)))


@router.post("/projects/{slug}/scopes")
async def live_scopes(slug: str, wanted: ScopesWanted, here: Here) -> ScopesRead:
    """The same of the live picture."""
    await described(slug)
    read = await here.worker.ask(q.LiveScopes(slug=slug.lower(), view=wanted.view, occasion=wanted.occasion))
    return as_read(Scopes(**read))


@router.get("/plates/{plate_id}/read/{reading}", response_class=Response)
def plate_read(plate_id: int, reading: Reading, here: Here) -> Response:
    """A plate without colour, by exposure zones, or as it is seen without one kind of cones, as JPEG."""
    return _jpeg(read_as(_picture(plate_id, here), reading))


@router.post("/print-profiles", status_code=201)
async def take_profile(name: FileName, request: Request, here: Here) -> PrintProfile:
    """Bring in the ICC profile of a printer and its paper, sent as the body."""
    shown = plain(name)
    data = await here.files.receive(request.stream(), LARGEST_PROFILE_BYTES, shown)
    aside = await run_in_threadpool(here.files.set_aside, data)
    try:
        found = await tried("print profile", aside, shown)
    finally:
        aside.unlink(missing_ok=True)
    called = str(found["name"])[:80] or shown
    sha256 = await run_in_threadpool(with_database(storage.keep), here.files, data, "icc", called)
    return PrintProfile(sha256=sha256, name=called)


@router.get("/print-profiles")
@with_database
def print_profiles() -> list[PrintProfile]:
    """The profiles that were brought in."""
    rows = AssetRow.select().where(AssetRow.kind == "icc").order_by(AssetRow.given_name)
    return [PrintProfile(sha256=row.sha256, name=row.given_name) for row in rows]


@router.get("/plates/{plate_id}/proof/{sha256}", response_class=Response)
def plate_proof(plate_id: int, sha256: str, here: Here, paper_white: bool = False) -> Response:
    """How a plate prints by an ICC profile, as JPEG."""
    profile = _profile(sha256, here)
    return _jpeg(proofed(_picture(plate_id, here), profile, paper_white))


def as_read(found: Scopes) -> ScopesRead:
    return ScopesRead(
        **{name: np.round(getattr(found, name), 6).tolist() for name in ("red", "green", "blue", "luma", "zones")},
        waveform=_grid(found.waveform), waveform_size=(found.waveform.shape[0], found.waveform.shape[1]),
        vectors=_grid(found.vectors), vectors_size=found.vectors.shape[0], black=found.black, white=found.white,
        mean_kelvin=found.mean_kelvin, cast=found.cast,
    )  # fmt: skip


def _grid(shares: NDArray[Any]) -> str:
    most = max(float(shares.max()), 1e-12)
    return base64.b64encode(np.round(255 * np.sqrt(shares / most)).astype(np.uint8).tobytes()).decode()


def _picture(plate_id: int, here: Context) -> NDArray[np.uint8]:
    plate = ready_plate(plate_id)
    return np.asarray(Image.open(here.files.path(str(plate.picture))).convert("RGB"))


@with_database
def _profile(sha256: str, here: Context) -> bytes:
    row = AssetRow.get_or_none(AssetRow.sha256 == sha256[:64], AssetRow.kind == "icc")
    if row is None:
        raise NotFoundError("there is no such print profile", "sha256", "Bring its .icc file in first")
    return here.files.read(row.sha256)


def _jpeg(picture: NDArray[np.uint8]) -> Response:
    return Response(jpeg(picture, 92), media_type="image/jpeg", headers=_KEPT)
