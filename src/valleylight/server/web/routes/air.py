"""Air and weather: strengths of fog for a view, and recipes to start from."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import APIRouter

from valleylight.core.weather import fog
from valleylight.server.messages import questions as q
from valleylight.server.web.context import Here, described
from valleylight.server.web.schemas.air import AirKind, AirScales, AirValues, LeafYear, RecipeFound

router = APIRouter(prefix="/api", tags=["air"])


@router.get("/air")
async def air_scales() -> AirScales:
    """Kinds of drops and dust, and what density means as sight."""
    kinds = [AirKind.model_validate(asdict(kind)) for kind in fog.KINDS]
    return AirScales(kinds=kinds, sight_over_free_path=fog.SIGHT)


@router.get("/projects/{slug}/views/{view}/air")
async def air_offers(slug: str, view: str, here: Here) -> list[AirValues]:
    """Haze, mist and fog for a view, from the size of what it sees."""
    answer = await here.worker.ask(q.AirOffers(project=await described(slug), view=view))
    return [AirValues.model_validate(line) for line in answer]


@router.get("/projects/{slug}/occasions/{occasion}/leaves")
async def year_of_leaves(slug: str, occasion: str, here: Here) -> list[LeafYear]:
    """The year of each kind of leaf that stands on the stage."""
    answer = await here.worker.ask(q.YearOfLeaves(project=await described(slug), occasion=occasion))
    return [LeafYear.model_validate(line) for line in answer]


@router.get("/projects/{slug}/views/{view}/occasions/{occasion}/recipes")
async def weather_recipes(slug: str, view: str, occasion: str, here: Here) -> list[RecipeFound]:
    """Weather to start from: what each recipe sets, line by line, as changes to be sent as edits."""
    answer = await here.worker.ask(q.Recipes(project=await described(slug), view=view, occasion=occasion))
    return [RecipeFound.model_validate(line) for line in answer]
