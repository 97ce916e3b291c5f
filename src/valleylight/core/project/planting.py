"""How leaves follow the year at an occasion."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from valleylight.core.project.basics import Part

DayOfYear = Annotated[int, Field(ge=1, le=366)]


class Planting(Part):
    """Leaves by the date in place of the model's own colours, each kind by itself held on a day where that is wanted."""

    by_date: bool = Field(False, description="Leaves take colour and number from the day of the year")
    early_days: float = Field(0.0, ge=-60, le=60, description="So many days ahead of their like")
    held: dict[Annotated[str, Field(max_length=40)], DayOfYear] = Field(
        default_factory=dict, max_length=40, description="Day of the year on which a kind of leaf is held"
    )
