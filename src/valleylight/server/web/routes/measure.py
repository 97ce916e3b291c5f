"""The meter, areas, readings of fixtures and the goniometer."""

from __future__ import annotations

from fastapi import APIRouter
from fastapi.concurrency import run_in_threadpool

from valleylight.core.errors import InputError
from valleylight.core.measure.targets import TARGETS
from valleylight.server.web import catalogue
from valleylight.server.messages import questions as q
from valleylight.server.messages.wishes import CatalogueGrew
from valleylight.server.web.context import Here, described, with_database
from valleylight.server.web.routes.live import with_draft
from valleylight.server.web.schemas.catalogue import ProfileLine
from valleylight.server.web.schemas.measure import (
    AreaReading,
    AreaWanted,
    FixtureReadings,
    GoniometerWanted,
    MeterReading,
    MeterWanted,
    TargetLine,
)
from valleylight.server.web.schemas.plan import LuxGrid, LuxWanted

router = APIRouter(prefix="/api", tags=["measure"])



@router.post("/projects/{slug}/meter")
async def meter(slug: str, wanted: MeterWanted, here: Here) -> MeterReading:
    """Read the live picture at a spot or over an area, and the light on the surface there."""
    await described(slug)
    return MeterReading.model_validate(await here.worker.ask(q.Meter(slug=slug.lower(), **wanted.model_dump())))


@router.post("/projects/{slug}/area")
async def measure_area(slug: str, wanted: AreaWanted, here: Here) -> AreaReading:
    """Illuminance over a level, upright or leaning area."""
    asked = q.Area(project=await described(slug), **wanted.model_dump())
    return AreaReading.model_validate(await here.worker.ask(asked))


@router.post("/projects/{slug}/illuminance")
async def lux_of_draft(slug: str, wanted: LuxWanted, here: Here) -> LuxGrid:
    """Direct illuminance of the fixtures on a working plane, following what is being dragged."""
    project = await run_in_threadpool(with_draft, slug, wanted.draft)
    answer = await here.worker.ask(
        q.Illuminance(project=project, occasion=wanted.occasion, height_m=wanted.height_m)
    )
    return LuxGrid.model_validate(answer)


@router.get("/targets")
def targets() -> list[TargetLine]:
    """Usual values for measured areas."""
    return [TargetLine(name=t.name, mean_lx=t.mean_lx, uniformity=t.uniformity) for t in TARGETS]


@router.get("/projects/{slug}/fixtures/{fixture}/readings")
async def readings(slug: str, fixture: str, occasion: str, here: Here) -> FixtureReadings:
    """Contact, cone and bounce of a fixture."""
    asked = q.Readings(project=await described(slug), fixture=fixture, occasion=occasion)
    answer = await here.worker.ask(asked)
    return FixtureReadings.model_validate(answer)


@router.post("/projects/{slug}/goniometer", status_code=201)
async def goniometer(slug: str, wanted: GoniometerWanted, here: Here) -> ProfileLine:
    """Measure what a fixture or an object of the stage gives off, and keep its profile in the catalogue."""
    project = await described(slug)
    if wanted.fixture is None and not wanted.objects:
        raise InputError("nothing is named to measure", "objects", "Name a fixture or objects of the stage")
    text = await here.worker.ask(q.Goniometer(project=project, **wanted.model_dump()))
    made = await run_in_threadpool(with_database(catalogue.take), here.files, text.encode(), f"{wanted.name}.ies")
    here.worker.send(CatalogueGrew())
    return made
