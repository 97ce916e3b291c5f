"""Surfaces of the stage and of the catalogue, their sample pictures, picking, and the air offered for a view."""

from __future__ import annotations

import hashlib

from fastapi import APIRouter
from fastapi.responses import Response

from valleylight.core.errors import NotFoundError
from valleylight.core.stage.catalogue import CATALOGUE
from valleylight.server.messages import questions as q
from valleylight.server.web.context import Here, described
from valleylight.server.web.schemas.stage import AirValues, CatalogueSurface, Picked, Spot, StageSurface

router = APIRouter(prefix="/api", tags=["surfaces"])
KEPT = {"Cache-Control": "public, max-age=31536000, immutable"}



@router.get("/surfaces")
def catalogue() -> list[CatalogueSurface]:
    """The catalogue of surfaces."""
    return [CatalogueSurface(key=e.key, name=e.name, family=e.family, surface=e.surface) for e in CATALOGUE]


@router.get("/surfaces/{key}/sample.png", response_class=Response)
async def catalogue_sample(key: str, here: Here) -> Response:
    """A surface of the catalogue on a ball or a board."""
    entry = next((e for e in CATALOGUE if e.key == key), None)
    if entry is None:
        raise NotFoundError(f"there is no surface {key!r}", "surface", "Choose one of the catalogue")
    version = hashlib.sha256(f"{entry.shape}{entry.surface.model_dump_json()}".encode()).hexdigest()[:24]
    return await _sample(here, version, q.SurfaceSample(surface=entry.surface, shape=entry.shape))


@router.get("/projects/{slug}/surfaces")
async def stage_surfaces(slug: str, here: Here) -> list[StageSurface]:
    """The materials of a project's stage."""
    answer = await here.worker.ask(q.Surfaces(project=await described(slug)))
    return [StageSurface.model_validate(line) for line in answer]


@router.get("/projects/{slug}/surfaces/{version}/sample.png", response_class=Response)
async def stage_sample(slug: str, version: str, name: str, here: Here) -> Response:
    """A material of the stage on a ball, with its pictures."""
    project = await described(slug)
    key = hashlib.sha256(f"{slug}/{name}/{version}".encode()).hexdigest()[:24]
    return await _sample(here, key, q.MaterialSample(project=project, material=name, shape="ball"))


async def _sample(here: Here, version: str, question: q.SurfaceSample | q.MaterialSample) -> Response:
    kept = here.files.scratch / f"sample-{version}.png"
    if not kept.is_file():
        picture = await here.worker.ask(question)
        partial = kept.with_suffix(".part")
        partial.write_bytes(picture)
        partial.replace(kept)
    return Response(kept.read_bytes(), media_type="image/png", headers=KEPT)


@router.post("/projects/{slug}/pick")
async def pick(slug: str, spot: Spot, here: Here) -> Picked | None:
    """The object and material at a place of the picture or of the plan; nothing where the sky is seen."""
    answer = await here.worker.ask(q.Pick(project=await described(slug), **spot.model_dump()))
    return Picked.model_validate(answer) if answer else None


@router.get("/projects/{slug}/views/{view}/air")
async def air_offers(slug: str, view: str, here: Here) -> list[AirValues]:
    """Haze, mist and fog for a view, from the size of what it sees."""
    answer = await here.worker.ask(q.AirOffers(project=await described(slug), view=view))
    return [AirValues.model_validate(line) for line in answer]
