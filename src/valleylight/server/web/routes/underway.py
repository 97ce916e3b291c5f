"""Models on their way in: how far they are, and a stop."""

from __future__ import annotations

from fastapi import APIRouter

from valleylight.server.web.context import Here
from valleylight.server.web.schemas.stage import ArrivalProgress

router = APIRouter(prefix="/api/underway", tags=["models"])


@router.get("/{ticket}")
async def how_far(ticket: str, here: Here) -> ArrivalProgress:
    """How far the reading of a model is."""
    found = here.underway.find(ticket)
    return ArrivalProgress(words=found.words, share=found.share)


@router.delete("/{ticket}", status_code=204)
async def stop_reading(ticket: str, here: Here) -> None:
    """Stop the reading of a model: nothing of it is kept, and who sent it is told so."""
    here.underway.find(ticket).stopped.set()
