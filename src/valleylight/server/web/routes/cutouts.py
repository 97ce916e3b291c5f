"""Cut-outs: the catalogue with its pictures, pictures of one's own, and where they stand in a view."""

from __future__ import annotations

import hashlib
from pathlib import PurePath
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response

from valleylight.core.compose.offers import OFFERS
from valleylight.core.compose.sides import SIDES
from valleylight.core.errors import NotFoundError
from valleylight.server.messages import questions as q
from valleylight.server.store import own, storage
from valleylight.server.store.tables import AssetRow, OwnRow
from valleylight.server.web.context import Context, Here, described, with_database
from valleylight.server.web.routes.arrivals import FileName, plain
from valleylight.server.web.routes.surfaces import sample
from valleylight.server.web.schemas.cutouts import CutOutOffer, CutOutStanding
from valleylight.server.web.schemas.surfaces import Renamed
from valleylight.server.web.trial import of_channel, tried

router = APIRouter(prefix="/api", tags=["cut-outs"])
#: How high a picture of one's own stands at first, in m: an adult.
FIRST_HEIGHT_M = 1.7
#: Rows of the small pictures of the catalogue.
SMALL_ROWS = 160
#: Goes into the name of every picture that is kept.
PICTURED = "1"


@router.get("/cutouts")
@with_database
def cutouts() -> list[CutOutOffer]:
    """The catalogue of cut-outs: one's own pictures, then those that ship."""
    shipped = [CutOutOffer(key=o.key, name=o.name, group=o.group, made=o.made, height_m=o.height_m) for o in OFFERS]
    return [*(_line(row) for row in own.every("cutout")), *shipped]


def _line(row: OwnRow) -> CutOutOffer:
    return CutOutOffer(key=f"own-{row.id}", name=row.name, group="Your own", picture=row.data["picture"], own=row.id, height_m=FIRST_HEIGHT_M)


@router.get("/cutouts/{key}/picture.png", response_class=Response)
async def cutout_picture(
    key: str, here: Here, side: Annotated[int, Query(ge=0, lt=SIDES, description="0 its face, then anticlockwise")] = 0
) -> Response:
    """A cut-out of the catalogue, small, with alpha."""
    offer = next((o for o in OFFERS if o.key == key), None)
    if offer is None:
        row = await run_in_threadpool(with_database(_own), key)
        return await _pictured(here, row.data["picture"])
    name = hashlib.sha256(f"{PICTURED}/{offer.made.model_dump_json()}/{side}".encode()).hexdigest()[:24]
    return await sample(here, f"cutout-{name}", q.CutOutPicture(made=offer.made, picture=None, side=side, rows=SMALL_ROWS))


@router.get("/cutout-pictures/{asset}/small.png", response_class=Response)
async def own_picture(asset: str, here: Here) -> Response:
    """A picture that was brought in for cut-outs, small, with alpha."""
    await run_in_threadpool(with_database(_there), asset)
    return await _pictured(here, asset)


async def _pictured(here: Context, asset: str) -> Response:
    return await sample(here, f"cutout-{asset[:24]}", q.CutOutPicture(made=None, picture=asset, side=0, rows=SMALL_ROWS))


def _there(asset: str) -> None:
    if AssetRow.get_or_none(AssetRow.sha256 == asset, AssetRow.kind == "cutout") is None:
        raise NotFoundError(f"there is no picture {asset[:12]!r}", "asset", "Bring it in first")


def _own(key: str) -> OwnRow:
    number = key.removeprefix("own-")
    if not (key.startswith("own-") and number.isdecimal() and len(number) < 12):
        raise NotFoundError(f"there is no cut-out {key[:80]!r}", "key", "Choose one of the catalogue")
    return own.find("cutout", int(number))


@router.post("/cutouts/file", status_code=201)
async def take_cutout(
    name: FileName, request: Request, here: Here,
    ground: Annotated[str | None, Query(pattern="^#[0-9a-fA-F]{6}$", description="Colour of a plain ground that is to be taken out")] = None,
) -> CutOutOffer:  # fmt: skip
    """Take a picture with alpha (PNG, WebP, TIFF) into the catalogue, or one on a plain ground, sent as the body. It is decoded and written
    anew, cut to what is seen of it."""
    shown = plain(name)
    data = await here.files.receive(request.stream(), here.settings.largest_picture_bytes, shown)
    aside = await run_in_threadpool(here.files.set_aside, data)
    try:
        await tried("cutout", aside, shown, {"ground": ground})
        kept = await run_in_threadpool(of_channel(aside, "cutout").read_bytes)
    finally:
        aside.unlink(missing_ok=True)
        of_channel(aside, "cutout").unlink(missing_ok=True)
    return await run_in_threadpool(_keep, kept, shown, here)


@with_database
def _keep(picture: bytes, name: str, here: Context) -> CutOutOffer:
    asset = storage.keep(here.files, picture, "cutout", name)
    title = PurePath(name).stem.strip()[:80] or "Cut-out"
    return _line(own.keep("cutout", title, {"picture": asset}))


@router.put("/cutouts/own/{number}")
@with_database
def rename_cutout(number: int, wanted: Renamed) -> CutOutOffer:
    """Give a cut-out of one's own another name."""
    return _line(own.change("cutout", number, wanted.name))


@router.delete("/cutouts/own/{number}", status_code=204)
@with_database
def put_cutout_away(number: int) -> None:
    """Take a cut-out of one's own out of the catalogue; where it stands it stays."""
    own.put_away("cutout", number)


@router.get("/projects/{slug}/views/{view}/cutouts")
async def standing(slug: str, view: str, occasion: str, here: Here) -> list[CutOutStanding]:
    """Where the cut-outs of a view are seen in its picture, and what does not fit the light of an occasion."""
    answer: list[dict[str, Any]] = await here.worker.ask(q.CutOutsStanding(project=await described(slug), view=view, occasion=occasion))
    return [CutOutStanding.model_validate(line) for line in answer]
