"""Exposure after the fact: as many stops as if the lens had been open for longer."""

from __future__ import annotations

from typing import ClassVar, Literal

from valleylight.core.treatments.base import Operation, Pointwise, number, scale


class Exposure(Pointwise):
    """A stop doubles the light."""

    TITLE: ClassVar[str] = "Exposure"
    PLACE: ClassVar[int] = 20

    kind: Literal["exposure"] = "exposure"
    stops: float = number(0.0, -10, 10, "Stops", 0.05, shown=(-4, 4))

    def operation(self) -> Operation:
        return scale(2.0**self.stops)
