"""Fixtures: their records for the tracer and their visible bodies."""

from valleylight.core.lamps.bodies import build_bodies
from valleylight.core.lamps.compile import Lamps, compile_lamps, orientation, profile_table

__all__ = ["Lamps", "build_bodies", "compile_lamps", "orientation", "profile_table"]
