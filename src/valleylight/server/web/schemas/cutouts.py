"""Cut-outs of the catalogue, and where they stand in a picture, as the API sends and takes them."""

from __future__ import annotations

from pydantic import BaseModel

from valleylight.core.project.description import Made


class CutOutOffer(BaseModel):
    """A cut-out of the catalogue: how it is made, or the `picture` of one's own with its number; how high it stands in metres."""

    key: str
    name: str
    group: str
    made: Made | None = None
    picture: str | None = None
    own: int | None = None
    height_m: float


class CutOutStanding(BaseModel):
    """A cut-out in the picture of its view, places 0 to 1 from the left and the top: feet and edges; its distance from the lens, the height at
    which the horizon cuts it, and what does not fit its light."""

    key: str
    feet: tuple[float, float]
    left: float
    top: float
    right: float
    distance_m: float
    eye_m: float
    words: list[str]
