"""Values to hold a measured area against, as plain numbers to begin with; a user enters those that bind.

In the style of EN 12464-1 (mean maintained illuminance in lx, uniformity), from memory.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Target:
    name: str
    mean_lx: float
    uniformity: float


TARGETS = (
    Target("Reading area", 500, 0.6), Target("Writing and screens", 500, 0.6), Target("Bookshelves, upright", 200, 0.6),
    Target("Counter", 500, 0.6), Target("Entrance hall", 100, 0.4), Target("Corridor", 100, 0.4), Target("Stairs", 100, 0.4),
    Target("Restaurant table", 200, 0.4), Target("Kitchen", 500, 0.6), Target("Class room", 300, 0.6),
)  # fmt: skip
