"""The lens: its scales, what it shows sharp, its frame, and where it stands."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from fastapi import APIRouter, Query

from valleylight.core.finish.exposure import ev100
from valleylight.core.lens import framing, stops
from valleylight.core.lens.sharpness import sharpness
from valleylight.core.project.description import View
from valleylight.server.messages import questions as q
from valleylight.server.web.context import Here, described
from valleylight.server.web.schemas.lens import (
    CropWanted,
    FocusFound,
    FocusWanted,
    HorizonWanted,
    LensReading,
    LensRing,
    LensScales,
    LensSection,
    LensStands,
    LensWanted,
    RingClick,
    RingStands,
    UsualLight,
)

router = APIRouter(prefix="/api", tags=["lens"])


@router.get("/lens")
def scales() -> LensScales:
    """The rings of a lens in third stops, and the light that is usual."""
    rings = {
        name: LensRing(stops_of_light=stops.LIGHT[name], clicks=[RingClick(value=c.value, label=c.label) for c in clicks])
        for name, clicks in stops.RINGS.items()
    }
    return LensScales(
        f_number=rings["f_number"], shutter_s=rings["shutter_s"], iso=rings["iso"],
        usual=[UsualLight(ev100=u.ev100, name=u.name) for u in stops.USUAL], eye_heights_m=framing.EYE_HEIGHTS_M,
    )  # fmt: skip


@router.post("/lens/reading")
def reading(wanted: LensWanted) -> LensReading:
    """What a view's lens does, as it is set for an occasion."""
    view, lens = wanted.view, wanted.view.lens_for(wanted.occasion)
    frame, sharp = framing.frame_of(view), sharpness(view, lens.f_number)

    def stands(ring: stops.Ring, value: float) -> RingStands:
        return RingStands(click=stops.nearest(ring, value), label=stops.written(ring, value))

    return LensReading(
        ev100=ev100(lens), f_number=stands("f_number", lens.f_number), shutter_s=stands("shutter_s", lens.shutter_s),
        iso=stands("iso", lens.iso), **asdict(sharp), across_deg=frame.across_deg, upright_deg=frame.upright_deg,
        focal_on_36_mm=view.focal_mm * 36 / view.film_width_mm,
        left=frame.right - frame.half_width, right=frame.right + frame.half_width,
        top=frame.up + frame.half_height, bottom=frame.up - frame.half_height, horizon=frame.horizon,
    )  # fmt: skip


@router.post("/lens/crop")
def crop(wanted: CropWanted) -> View:
    """The view with its picture cut to a part, its perspective as it was. Nothing is stored."""
    return framing.cropped(wanted.view, wanted.left, wanted.top, wanted.right, wanted.bottom, wanted.format)


@router.post("/lens/horizon")
def horizon(wanted: HorizonWanted) -> View:
    """The view with its film shifted so that the horizon lies there. Nothing is stored."""
    return framing.with_horizon(wanted.view, wanted.at)


@router.post("/projects/{slug}/views/{view}/focus")
async def focus(slug: str, view: str, wanted: FocusWanted, here: Here) -> FocusFound:
    """How far along the axis what is seen at a place of the picture lies."""
    project = await described(slug)
    asked = q.Pick(project=project, view=view, occasion=wanted.occasion, picture=(wanted.x, wanted.y), plan=None)
    met = await here.worker.ask(asked)
    if met is None:
        return FocusFound(focus_m=None)
    along = framing.axial_m(project.view(view), met["point"])
    return FocusFound(focus_m=round(max(along, 0.001), 4), object=met["object"])


@router.get("/projects/{slug}/views/{view}/standing")
async def standing(slug: str, view: str, occasion: str, here: Here) -> LensStands:
    """How high a lens stands over the ground, and how far from what is about it."""
    asked = q.LensStanding(project=await described(slug), view=view, occasion=occasion)
    return LensStands.model_validate(await here.worker.ask(asked))


@router.get("/projects/{slug}/views/{view}/section")
async def section(
    slug: str, view: str, here: Here, reach_m: Annotated[float, Query(ge=0.5, le=2000)] = 12.0
) -> LensSection:
    """The stage cut upright along a lens's axis, so many metres ahead of it and a quarter of them behind."""
    asked = q.LensSection(project=await described(slug), view=view, reach_m=reach_m)
    return LensSection.model_validate(await here.worker.ask(asked))
