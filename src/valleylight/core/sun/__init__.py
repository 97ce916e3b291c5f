"""The sun: where it stands, how strong and what colour it is."""

from valleylight.core.sun.position import SunPosition, position, positions_of_day, rise_and_set
from valleylight.core.sun.sunlight import Sunlight, clear_sunlight, direction

__all__ = ["SunPosition", "Sunlight", "clear_sunlight", "direction", "position", "positions_of_day", "rise_and_set"]
