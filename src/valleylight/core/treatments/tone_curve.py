"""The tone curve: how the light of a scene is laid on the scale of a display.

Straight up to a knee, then a rational shoulder of matched slope that reaches 1 at the white point (own); a toe y^2 (1 + k) / (y + k).
Hue is kept by scaling all channels alike; above the knee colours run to white along it.
"""

from __future__ import annotations

from math import log2
from typing import ClassVar, Literal

from valleylight.core.errors import InputError
from valleylight.core.treatments.base import Operation, Pointwise, number, tone, within

#: How far below white the softest shoulder begins, and how deep the deepest toe is.
SOFTEST, DEEPEST = 0.85, 0.1
#: Where the toe is taken hold of, in stops about white.
TOE_STOPS = -4.0


class ToneCurve(Pointwise):
    """Shoulder and toe, and the stops above white that still show detail."""

    TITLE: ClassVar[str] = "Tone curve"
    PLACE: ClassVar[int] = 40

    kind: Literal["tone_curve"] = "tone_curve"
    shoulder: float = number(0.6, 0, 1, "Shoulder", 0.02, description="How softly highlights run to white")
    toe: float = number(0.2, 0, 1, "Toe", 0.02, description="How deep the shadows are")
    stops_above: float = number(
        3.0, 0.5, 8, "Holds", 0.1, "stops", description="Stops above saturation that still show detail"
    )

    def operation(self) -> Operation:
        return tone(1.0 - SOFTEST * self.shoulder, 2.0**self.stops_above, DEEPEST * self.toe)

    def handles(self) -> list[tuple[str, str, float]]:
        return [
            ("toe", "Toe", TOE_STOPS),
            ("shoulder", "Shoulder", log2(1.0 - SOFTEST * self.shoulder)),
            ("stops_above", "White point", self.stops_above),
        ]

    def bent(self, field: str, stops: float, value: float) -> ToneCurve:
        if field == "stops_above":
            return self._with(stops_above=round(stops, 2))
        if field == "shoulder":
            return self._with(shoulder=round((1.0 - 2.0 ** min(stops, 0.0)) / SOFTEST, 3))
        if field == "toe":  # y = x^2 (1 + k) / (x + k), solved for k
            x, y = 2.0**TOE_STOPS, value
            k = 0.0 if y >= x else DEEPEST if y <= x * x else x * (x - y) / (y - x * x)
            return self._with(toe=round(k / DEEPEST, 3))
        raise InputError(f"the tone curve has no handle {field!r}", "field", "Take one of the handles it tells of")

    def _with(self, **changed: float) -> ToneCurve:
        """With a field changed, kept within its range."""
        return self.model_copy(update={name: within(type(self), name, value) for name, value in changed.items()})
