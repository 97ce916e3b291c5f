"""How a picture is shown: finished by its look, in false colour, or the finished one read otherwise."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from valleylight.core.film.film import Film
from valleylight.core.finish.exposure import saturation_luminance
from valleylight.core.finish.look import apply
from valleylight.core.finish.readings import read_as
from valleylight.core.finish.seen import seen_of
from valleylight.core.measure import falsecolour
from valleylight.core.project.description import Lens, Look
from valleylight.server.messages.picture import PictureMode


@dataclass(frozen=True)
class Made:
    """The picture as it is shown, the finished one it was made of (None in false colour), and the scale of a false-colour picture."""

    picture: NDArray[np.uint8]
    finished: NDArray[np.uint8] | None
    legend: dict[str, Any] | None


def made(
    mode: PictureMode, film: Film, linear: NDArray[np.float32], look: Look, lens: Lens, read: Callable[[str], bytes]
) -> Made:
    """A linear picture (H, W, 3) of a film in cd/m2, as it is shown in a mode."""
    false: falsecolour.FalseColour | None = None
    if mode == "luminance":
        false = falsecolour.luminance(linear)
    elif mode == "illuminance":
        passes = film.passes
        false = falsecolour.illuminance(linear, passes["surface_colour"], passes["depth"])
    if false is not None:
        return Made(false.picture, None, {"unit": false.unit, "steps": false.legend})
    finished = apply(linear, look, saturation_cd_m2=saturation_luminance(lens), seen=seen_of(film, look, read))
    if mode == "clipped":
        return Made(falsecolour.clipped(finished), finished, None)
    if mode == "picture" or mode == "luminance" or mode == "illuminance":
        return Made(finished, finished, None)
    return Made(read_as(finished, mode), finished, None)
