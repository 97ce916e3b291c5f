"""Sequences of plates, without tracing: from day to night, before and after by a moving edge, a still pushed into."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.finish.between import Side, between
from valleylight.core.finish.look import apply, apply_linear, encode
from valleylight.core.finish.seen import seen_of
from valleylight.core.project.description import Look
from valleylight.core.sequence.path import eased
from valleylight.core.sequence.push import furthest_way, pushed
from valleylight.core.treatments.reach import enlarged, shrunk

Picture = NDArray[np.uint8]
EASE = 0.25
#: Over this part of the way a fade takes one look into the other.
_LOOKS = (0.35, 0.65)


@dataclass(frozen=True)
class Shown:
    """A plate's film as it is shown: balanced, and under its look."""

    side: Side
    look: Look


def _finished(shown: Shown, read: Callable[[str], bytes]) -> Picture:
    film = shown.side.film
    return apply(
        film.balanced(shown.side.gains),
        shown.look,
        saturation_cd_m2=shown.side.white_cd_m2,
        seen=seen_of(film, shown.look, read),
    )


def faded(first: Shown, second: Shown, share: float, read: Callable[[str], bytes]) -> Picture:
    """The picture at a share of the way from one plate to another, each light going by itself; where they have two looks, one goes over into the
    other in the middle part of the way. Raises InputError for films of other shapes."""
    linear, white = between(first.side, second.side, eased(share, EASE))

    def under(look: Look) -> NDArray[np.float32]:
        return apply_linear(linear, look, white, seen_of(first.side.film, look, read))

    t = np.float32(min(max((share - _LOOKS[0]) / (_LOOKS[1] - _LOOKS[0]), 0.0), 1.0))
    if t in (0, 1) or first.look == second.look:
        return encode(under(first.look if t < 1 else second.look))
    return encode(np.asarray((1 - t) * under(first.look) + t * under(second.look), np.float32))


class Wipe:
    """An edge that goes from left to right over two plates: before it the first, behind it the second. Raises InputError for plates of two shapes."""

    def __init__(self, first: Shown, second: Shown, read: Callable[[str], bytes]) -> None:
        (w, h), (v, k) = first.side.film.size, second.side.film.size
        if abs(w * k / (h * v) - 1) > 0.02:
            raise InputError(
                f"pictures of {w} x {h} and {v} x {k} have no common shape", "second", "Choose plates of one format"
            )
        self._first, other = _finished(first, read), _finished(second, read)
        if (v, k) != (w, h):
            other = np.clip(np.round(enlarged(shrunk(other.astype(np.float32), w), (h, w))), 0, 255).astype(np.uint8)
        self._second = other

    def at(self, share: float) -> Picture:
        """The picture at a share of the way; the column that the edge cuts holds both."""
        width = self._first.shape[1]
        edge = eased(share, EASE) * width
        cover = np.clip(edge - np.arange(width), 0.0, 1.0)[None, :, None]
        return np.round(self._second * cover + self._first * (1 - cover)).astype(np.uint8)


class Push:
    """A slow move of the lens into a still: `ahead`, `right` and `up` in shares (-1 to 1) of the furthest that its distances allow. Raises InputError
    where nothing but sky is seen, or the film does not say where its lens stood."""

    def __init__(self, shown: Shown, ahead: float, right: float, up: float, read: Callable[[str], bytes]) -> None:
        film = shown.side.film
        if "camera" not in film.settings:
            raise InputError(
                "the plate was made before films told where their lens stood", "plate", "Make the plate again"
            )
        self._camera = np.array(film.settings["camera"], float)
        self._depth = film.passes["depth"]
        furthest = furthest_way(self._depth)
        self._way = (right * furthest, up * furthest, ahead * furthest)
        self._picture = _finished(shown, read).astype(np.float32)

    def at(self, share: float) -> Picture:
        """The picture at a share of the way."""
        gone = eased(share, EASE)
        x, y, z = (gone * way for way in self._way)
        return np.clip(np.round(pushed(self._picture, self._depth, self._camera, (x, y, z))), 0, 255).astype(np.uint8)
