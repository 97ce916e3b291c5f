"""What the instruments of the bench draw: sun and sky of a day, the ceiling plan, its illuminance, the working view."""

from __future__ import annotations

from datetime import date
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import Response

from valleylight.core.project.description import Site
from valleylight.core.sky.cie import NAMES
from valleylight.core.sky.ribbon import sky_colours
from valleylight.core.sun.position import check_year, positions_of_day, rise_and_set
from valleylight.server import storage
from valleylight.server.context import Here, with_database
from valleylight.server.schemas import LuxGrid, PlanDrawing, SkyType, SunDay, SunTrack

router = APIRouter(prefix="/api", tags=["instruments"])
HOURS = np.arange(0.0, 24.01, 1 / 6)
Height = Annotated[float, Query(ge=-1000, le=10_000)]


@router.get("/skies")
def skies() -> list[SkyType]:
    """The CIE standard general skies."""
    return [SkyType(number=number, name=name) for number, name in NAMES.items()]


@router.get("/projects/{slug}/sun")
@with_database
def sun_day(slug: str, day: date, turbidity: Annotated[float, Query(ge=1.2, le=10)] = 2.5) -> SunDay:
    """The sun and the sky's colours over a civil day at the project's site."""
    site = storage.description(storage.project_row(slug)).site
    check_year(day.year)
    track = _track(site, day)
    colours = sky_colours(np.array(track.altitude_deg), turbidity)
    year = [_track(site, date(day.year, month, 21)) for month in (12, 3, 6)]
    return SunDay(day=track, colours=colours, year=year)


def _track(site: Site, day: date) -> SunTrack:
    azimuth, altitude = positions_of_day(site.latitude_deg, site.longitude_deg, site.time_zone, day, HOURS)
    rise, fall = rise_and_set(site.latitude_deg, site.longitude_deg, site.time_zone, day)
    return SunTrack(
        date=day.isoformat(), hours=np.round(HOURS, 4).tolist(), azimuth_deg=np.round(azimuth, 3).tolist(),
        altitude_deg=np.round(altitude, 3).tolist(), sunrise=rise, sunset=fall,
    )  # fmt: skip


@with_database
def _raw(slug: str) -> dict[str, object]:
    return storage.raw_description(storage.project_row(slug))


@router.get("/projects/{slug}/plan")
async def plan(slug: str, here: Here, height_m: Height = 1.2) -> PlanDrawing:
    """The stage cut by a level plane."""
    raw = await run_in_threadpool(_raw, slug)
    return PlanDrawing.model_validate(await here.worker.ask("plan", description=raw, height_m=height_m))


@router.get("/projects/{slug}/illuminance")
async def lux(slug: str, occasion: str, here: Here, height_m: Height = 0.75) -> LuxGrid:
    """Direct illuminance of the fixtures on a working plane."""
    raw = await run_in_threadpool(_raw, slug)
    answer = await here.worker.ask("illuminance", description=raw, occasion=occasion, height_m=height_m)
    return LuxGrid.model_validate(answer)


@router.get("/projects/{slug}/mesh", response_class=Response)
async def mesh(slug: str, here: Here) -> Response:
    """The working view's triangles: float32 x, y, z of three corners each, little-endian, in metres."""
    raw = await run_in_threadpool(_raw, slug)
    return Response(await here.worker.ask("mesh", description=raw), media_type="application/octet-stream")
