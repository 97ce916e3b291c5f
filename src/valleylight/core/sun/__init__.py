"""The sun: where it stands, how strong and what colour it is."""

from valleylight.core.sun.position import SunPosition, highest, position, positions_of_day, rise_and_set, rises_and_sets
from valleylight.core.sun.sunlight import Sunlight, clear_sunlight, direction

__all__ = [
    "SunPosition",
    "Sunlight",
    "clear_sunlight",
    "direction",
    "highest",
    "position",
    "positions_of_day",
    "rise_and_set",
    "rises_and_sets",
]
