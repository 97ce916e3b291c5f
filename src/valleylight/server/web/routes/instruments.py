"""What the instruments of the bench draw: sun and sky of a day, the ceiling plan, its illuminance, the working view."""

from __future__ import annotations

from datetime import date, datetime, timedelta
from typing import Annotated
from zoneinfo import ZoneInfo

import numpy as np
from fastapi import APIRouter, Query
from fastapi.responses import Response

from valleylight.core.project.description import Metres, Site
from valleylight.core.sky.cie import NAMES
from valleylight.core.sky.ribbon import sky_colours
from valleylight.core.sun.position import (
    check_year,
    highest,
    position,
    positions_of_day,
    rise_and_set,
    rises_and_sets,
)
from valleylight.core.sun.twilight import parts_of_day
from valleylight.server.messages import questions as q
from valleylight.server.store import storage
from valleylight.server.web.context import Here, described, with_database
from valleylight.server.web.schemas.daylight import DayPart, SkyType, SunAt, SunDay, SunTrack, YearDay
from valleylight.server.web.schemas.plan import LuxGrid, PlanDrawing

router = APIRouter(prefix="/api", tags=["instruments"])
HOURS = np.arange(0.0, 24.01, 1 / 6)
#: Civil hours among which the sun is highest, whatever the time zone makes of noon.
NOON_HOURS = np.arange(10.0, 16.0, 0.25)
Height = Annotated[Metres, Query()]


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
    year = [_track(site, date(day.year, month, 21)) for month in (12, 1, 2, 3, 4, 5, 6)]
    parts = parts_of_day(site.latitude_deg, site.longitude_deg, site.time_zone, day)
    return SunDay(
        day=track, colours=colours, year=year, noon=parts.noon, noon_altitude_deg=parts.noon_altitude_deg,
        parts=[DayPart(name=p.name, start=p.start, end=p.end) for p in parts.parts],
    )  # fmt: skip


@router.get("/projects/{slug}/sun-at")
@with_database
def sun_at(slug: str, when: datetime) -> SunAt:
    """Where the true sun stands at a civil moment at the site."""
    site = storage.description(storage.project_row(slug)).site
    here = position(
        site.latitude_deg, site.longitude_deg, when.replace(tzinfo=ZoneInfo(site.time_zone)), site.elevation_m
    )
    return SunAt(azimuth_deg=here.azimuth_deg, altitude_deg=here.altitude_deg)


@router.get("/projects/{slug}/year")
@with_database
def year_days(slug: str, year: int, turbidity: Annotated[float, Query(ge=1.2, le=10)] = 2.5) -> list[YearDay]:
    """Every fifth day of a year, for the yearline."""
    site = storage.description(storage.project_row(slug)).site
    check_year(year)
    days = [date(year, 1, 1) + timedelta(days=k) for k in range(0, 365, 5)]
    noon = highest(site.latitude_deg, site.longitude_deg, site.time_zone, days, NOON_HOURS)
    suns = rises_and_sets(site.latitude_deg, site.longitude_deg, site.time_zone, days)
    return [
        YearDay(date=d.isoformat(), sunrise=rise, sunset=fall, noon_altitude_deg=float(altitude), colour=colour)
        for d, altitude, colour, (rise, fall) in zip(days, noon, sky_colours(noon, turbidity), suns, strict=True)
    ]


def _track(site: Site, day: date) -> SunTrack:
    azimuth, altitude = positions_of_day(site.latitude_deg, site.longitude_deg, site.time_zone, day, HOURS)
    rise, fall = rise_and_set(site.latitude_deg, site.longitude_deg, site.time_zone, day)
    return SunTrack(
        date=day.isoformat(), hours=np.round(HOURS, 4).tolist(), azimuth_deg=np.round(azimuth, 3).tolist(),
        altitude_deg=np.round(altitude, 3).tolist(), sunrise=rise, sunset=fall,
    )  # fmt: skip



@router.get("/projects/{slug}/plan")
async def plan(slug: str, here: Here, height_m: Height = 1.2) -> PlanDrawing:
    """The stage cut by a level plane."""
    return PlanDrawing.model_validate(await here.worker.ask(q.Plan(project=await described(slug), height_m=height_m)))


@router.get("/projects/{slug}/illuminance")
async def lux_grid(slug: str, occasion: str, here: Here, height_m: Height = 0.75) -> LuxGrid:
    """Direct illuminance of the fixtures on a working plane."""
    asked = q.Illuminance(project=await described(slug), occasion=occasion, height_m=height_m)
    answer = await here.worker.ask(asked)
    return LuxGrid.model_validate(answer)


@router.get("/projects/{slug}/mesh", response_class=Response)
async def mesh(slug: str, here: Here, occasion: str = "") -> Response:
    """The working view's triangles, the largest first, with their colours and objects: see `core.measure.outline.WorkingMesh.packed`.
    With an occasion, without the layers that it hides."""
    asked = q.Mesh(project=await described(slug), occasion=occasion)
    return Response(await here.worker.ask(asked), media_type="application/octet-stream")
