"""Models as they arrive, in whatever open format and alone or packed, turned into one glTF binary that is kept; with a sheet of what was read."""

from valleylight.core.stage.arrival.arrive import Arrived, arrive
from valleylight.core.stage.arrival.sheet import ArrivalSheet, placed, sheet_of

__all__ = ["ArrivalSheet", "Arrived", "arrive", "placed", "sheet_of"]
