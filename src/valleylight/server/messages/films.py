"""Films of plates as they are asked for: from day to night, before and after, a still pushed into."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, TypeAdapter

from valleylight.core.project.basics import Part


class _OfPlates(Part):
    seconds: float = Field(4.0, ge=0.2, le=60)
    rate: int = Field(24, ge=1, le=60)


class Fade(_OfPlates):
    """From one plate to another of the same view, each light going by itself."""

    kind: Literal["fade"] = "fade"
    first: int
    second: int


class Wipe(_OfPlates):
    """An edge that goes over two plates of one format."""

    kind: Literal["wipe"] = "wipe"
    first: int
    second: int


class Push(_OfPlates):
    """The lens moved into a still by its distances: shares of the furthest way that they allow."""

    kind: Literal["push"] = "push"
    first: int
    ahead: float = Field(1.0, ge=-1, le=1)
    right: float = Field(0.0, ge=-1, le=1)
    up: float = Field(0.0, ge=-1, le=1)


FilmOfPlates = Annotated[Fade | Wipe | Push, Field(discriminator="kind")]
FILM_OF_PLATES = TypeAdapter[Fade | Wipe | Push](FilmOfPlates)


def plates_of(film: Fade | Wipe | Push) -> list[int]:
    """The numbers of the plates that a film is made of."""
    return [film.first] if isinstance(film, Push) else [film.first, film.second]
