"""Daylight: skies to choose from, pictures of surroundings, the sky meter, which hour, shadow, places."""

from __future__ import annotations

import hashlib
import json
from datetime import date, datetime
from typing import Annotated, Literal

import numpy as np
from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response

from valleylight.core.measure.byhand import by_hand
from valleylight.core.sky.catalogue import CATALOGUE
from valleylight.core.sky.picture import check
from valleylight.core.sun.gazetteer import find_places
from valleylight.core.sun.position import FIRST_YEAR, LAST_YEAR
from valleylight.server.messages import questions as q
from valleylight.server.store import storage
from valleylight.server.web.context import Here, described, with_database
from valleylight.server.web.downloads import attachment
from valleylight.server.web.routes.arrivals import FileName, plain, tried_first
from valleylight.server.web.schemas.daylight import (
    HorizonMask,
    HourAnswer,
    HourQuestion,
    PictureFigures,
    PlaceLine,
    SkyFigures,
    SkyLine,
    SkyMeter,
    SunByHand,
    SunHoursOfDay,
    SunHoursQuestion,
)
from valleylight.server.web.trial import tried

router = APIRouter(prefix="/api", tags=["daylight"])
Azimuth = Annotated[float, Query(ge=-360, le=720)]
Altitude = Annotated[float, Query(ge=-30, le=90)]
#: The sky of the catalogue is shown for a sun to the nearest of these degrees, so that its picture can be kept.
SHOWN_AZIMUTH_DEG, SHOWN_ALTITUDE_DEG = 10, 2



@router.get("/places")
def places(
    like: Annotated[str, Query(max_length=80)] = "", limit: Annotated[int, Query(ge=1, le=50)] = 24
) -> list[PlaceLine]:
    """Places to start from, or towns of the world by the beginning of their name."""
    return [PlaceLine.model_validate(vars(p)) for p in find_places(like, limit)]


@router.get("/skies/catalogue")
def catalogue() -> list[SkyLine]:
    """Skies to choose from."""
    return [SkyLine(key=e.key, name=e.name, sky=e.sky) for e in CATALOGUE]


@router.get("/skies/catalogue/{key}")
async def sky_figures(key: str, here: Here, azimuth_deg: Azimuth, altitude_deg: Altitude) -> SkyFigures:
    """A sky of the catalogue under about this sun: its round picture and its illuminances. Made once, then kept."""
    azimuth = round(azimuth_deg / SHOWN_AZIMUTH_DEG) * SHOWN_AZIMUTH_DEG % 360
    altitude = round(altitude_deg / SHOWN_ALTITUDE_DEG) * SHOWN_ALTITUDE_DEG
    sky = next((e.sky.model_dump_json() for e in CATALOGUE if e.key == key), "")
    version = hashlib.sha256(f"{key}/{sky}/{azimuth}/{altitude}".encode()).hexdigest()[:24]
    kept = here.files.scratch / f"sky-{version}.json"
    if kept.is_file():
        return SkyFigures.model_validate_json(kept.read_text())
    made = await here.worker.ask(q.SkyOfCatalogue(key=key, azimuth_deg=azimuth, altitude_deg=altitude))
    partial = kept.with_suffix(".part")
    partial.write_text(json.dumps(made))
    partial.replace(kept)
    return SkyFigures.model_validate(made)


@router.post("/projects/{slug}/pictures", status_code=201)
async def upload_picture(slug: str, name: FileName, request: Request, here: Here) -> PictureFigures:
    """Take a picture of surroundings (.hdr or .exr, sent as the body) and say what is in it. It lights nothing before an
    occasion's sky names it."""
    await run_in_threadpool(with_database(storage.project_row), slug)
    shown = plain(name)
    data = await here.files.receive(request.stream(), here.settings.largest_picture_bytes, shown)
    check(data, shown)
    figures = await tried_first(here, "picture", data, shown)
    sha = await run_in_threadpool(with_database(storage.keep), here.files, data, "picture", shown)
    return PictureFigures.model_validate({**figures, "asset": sha})


@router.get("/projects/{slug}/pictures/{asset}")
async def picture_figures(slug: str, asset: Annotated[str, "SHA-256"], name: FileName, here: Here) -> PictureFigures:
    """What is in a picture taken before."""
    await run_in_threadpool(with_database(storage.project_row), slug)
    figures = await tried("picture", here.files.path(asset), plain(name))
    return PictureFigures.model_validate({**figures, "asset": asset})


@router.get("/projects/{slug}/occasions/{occasion}/sky.{suffix}", response_class=Response)
async def sky_file(slug: str, occasion: str, suffix: Literal["exr", "hdr"], here: Here, fine: bool = False) -> Response:
    """An occasion's sky as an equirectangular picture of light, its left edge at north."""
    project = await described(slug)
    data = await here.worker.ask(q.SkyFile(project=project, occasion=occasion, suffix=suffix, fine=fine))
    head = {"Content-Disposition": attachment(f"{occasion}-sky", suffix)}
    return Response(data, media_type="image/x-exr" if suffix == "exr" else "image/vnd.radiance", headers=head)


@router.get("/projects/{slug}/occasions/{occasion}/sky-meter")
async def sky_meter(slug: str, occasion: str, here: Here) -> SkyMeter:
    """What falls on open ground, the moon, and the luminance of the sky."""
    project = await described(slug)
    return SkyMeter.model_validate(await here.worker.ask(q.SkyMeter(project=project, occasion=occasion)))


@router.get("/projects/{slug}/views/{view}/horizon")
async def horizon(slug: str, view: str, occasion: str, here: Here) -> HorizonMask:
    """What the stage hides of the sky from a view's point."""
    project = await described(slug)
    return HorizonMask.model_validate(await here.worker.ask(q.Horizon(project=project, view=view, occasion=occasion)))


@router.post("/projects/{slug}/hours")
async def find_hours(slug: str, question: HourQuestion, here: Here) -> HourAnswer:
    """The hours of a year at which some faces are in sun and others in shade."""
    asked = q.FindHours(project=await described(slug), **question.model_dump())
    return HourAnswer.model_validate(await here.worker.ask(asked))


@router.post("/projects/{slug}/sun-hours")
async def sun_hours(slug: str, question: SunHoursQuestion, here: Here) -> list[SunHoursOfDay]:
    """Hours of sun on faces on some days."""
    answer = await here.worker.ask(q.SunHours(project=await described(slug), **question.model_dump()))
    return [SunHoursOfDay.model_validate(line) for line in answer]


@router.get("/projects/{slug}/views/{view}/sun-by-hand")
@with_database
def sun_by_hand(
    slug: str, view: str, side: str, shadow: Annotated[float, Query(ge=0.01, le=100)] = 2.0,
    year: Annotated[int | None, Query(ge=FIRST_YEAR, le=LAST_YEAR)] = None,
) -> SunByHand:  # fmt: skip
    """A low sun on one side of a view, whatever the date."""
    description = storage.description(storage.project_row(slug))
    seen = description.view(view)
    x, y = (b - a for a, b in zip(seen.position[:2], seen.target[:2], strict=True))
    azimuth = float(np.degrees(np.arctan2(x, y))) + description.site.north_deg
    return SunByHand.model_validate(vars(by_hand(description.site, azimuth, side, shadow, year or date.today().year)))


@router.get("/projects/{slug}/views/{view}/glimpse.jpg", response_class=Response)
async def glimpse(slug: str, view: str, occasion: str, when: datetime, here: Here, cloudless: bool = False) -> Response:
    """A small quick picture of a view at another moment; `cloudless` shows where the sun would fall without clouds."""
    moment = when.replace(tzinfo=None)
    data = await here.worker.ask(
        q.Glimpse(project=await described(slug), view=view, occasion=occasion, when=moment, cloudless=cloudless)
    )
    return Response(data, media_type="image/jpeg", headers={"Cache-Control": "no-store"})
