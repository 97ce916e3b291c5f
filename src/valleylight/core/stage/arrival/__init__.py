"""Models as they arrive, in whatever open format and alone or packed, turned into one glTF binary that is kept."""

from valleylight.core.stage.arrival.arrive import Arrived, arrive

__all__ = ["Arrived", "arrive"]
