"""Many cells of the wall at once, and the order of the queue, as the API takes them."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from valleylight.server.web.schemas.asked import Asked


class WallCell(Asked):
    """A view at an occasion."""

    view: str
    occasion: str


class ManyPlates(Asked):
    """Plates of many cells at a quality, put in the queue in this order."""

    cells: list[WallCell] = Field(min_length=1, max_length=400)
    quality: Literal["sketch", "proof", "press"] = "sketch"


class AcrossWanted(Asked):
    """The exposure, the look, or both, of one cell for others."""

    source: WallCell
    cells: list[WallCell] = Field(min_length=1, max_length=400)
    lens: bool = False
    look: bool = False


class QueueOrder(Asked):
    """Waiting jobs in the order in which they are to be made; others keep their places."""

    jobs: list[int] = Field(min_length=1, max_length=400)
