"""How a surface is shown as a sample: on what, and at what true size."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from valleylight.core.project.surface import Surface

Form = Literal["tile", "glass", "cloth"]
#: True sizes of samples across, in metres.
SIZES = (0.3, 1.0, 3.0)


@dataclass(frozen=True)
class Presented:
    """How a material is shown: on what form, and its true size across in metres."""

    form: Form
    size_m: float


def presented(surface: Surface, picture_m: float | None = None) -> Presented:
    """The form and size that show a surface best; `picture_m` is the size of one turn of a picture that it came with."""
    if surface.glass != "none":
        return Presented("glass", 0.3)
    form: Form = "cloth" if max(surface.sheen) > 0 or surface.through > 0 else "tile"
    lengths = [picture_m or 0.0]
    if surface.courses:
        lengths.append(2.5 * surface.courses.length_m)
    if surface.pictures and surface.laying:
        lengths.append(surface.laying.tile_m)
    if surface.pattern not in ("none", "weave"):
        lengths.append(1.5 * surface.pattern_m)
    return Presented(form, next((s for s in SIZES if s >= 0.8 * max(lengths)), SIZES[-1]))
