"""The tone curve: how the light of a scene is laid on the scale of a display.

Straight up to a knee, then a rational shoulder of matched slope that reaches 1 at the white point (own); a toe y^2 (1 + k) / (y + k).
Hue is kept by scaling all channels alike; above the knee colours run to white along it.
"""

from __future__ import annotations

from typing import ClassVar, Literal

from valleylight.core.treatments.base import Operation, Pointwise, number, tone

#: How far below white the softest shoulder begins, and how deep the deepest toe is.
SOFTEST, DEEPEST = 0.85, 0.1


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
