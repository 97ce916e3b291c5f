"""A thing that stands many times: in a row, in a grid, along a line, or strewn over an area. Lengths in metres."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, model_validator

#: So many copies of one thing at most.
MOST = 50_000
_Span = Annotated[float, Field(ge=-1000, le=1000, allow_inf_nan=False)]
_Spot = Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)]
_Name = Annotated[str, StringConstraints(min_length=1, max_length=200)]


class _Repeat(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True)


class Row(_Repeat):
    """So many, each a step from the one before."""

    kind: Literal["row"] = "row"
    count: int = Field(3, ge=1, le=2000)
    step: tuple[_Span, _Span, _Span] = (1.0, 0.0, 0.0)


class Grid(_Repeat):
    """Columns and rows, turned with the thing."""

    kind: Literal["grid"] = "grid"
    columns: int = Field(3, ge=1, le=300)
    rows: int = Field(2, ge=1, le=300)
    apart: tuple[_Span, _Span] = (1.0, 1.0)

    @model_validator(mode="after")
    def _not_too_many(self) -> Grid:
        if self.columns * self.rows > MOST:
            raise ValueError(f"a grid of {self.columns * self.rows} is too much; {MOST} is the most")
        return self


class Along(_Repeat):
    """One every so many metres along a line, each turned with it."""

    kind: Literal["along"] = "along"
    points: tuple[tuple[_Spot, _Spot, _Spot], ...] = Field(min_length=2, max_length=200)
    spacing_m: float = Field(1.0, ge=0.02, le=1000)
    facing: bool = Field(True, description="Turned with the line; else all as the thing itself")


class Strewn(_Repeat):
    """So many to the square metre of an outline seen from above, each standing on what lies below."""

    kind: Literal["strewn"] = "strewn"
    outline: tuple[tuple[_Spot, _Spot], ...] = Field(min_length=3, max_length=500)
    density_m2: float = Field(0.1, gt=0, le=1000, description="Things to a square metre, seen from above")
    spacing_m: float = Field(0.0, ge=0, le=1000, description="None stand nearer to each other")
    seed: int = Field(1, ge=0, le=10_000)
    steepest_deg: float = Field(45.0, ge=0, le=90, description="None stand on steeper ground")
    turn_deg: float = Field(360.0, ge=0, le=360, description="Turned by chance within so much")
    size: tuple[Annotated[float, Field(ge=0.01, le=100)], Annotated[float, Field(ge=0.01, le=100)]] = (0.8, 1.2)
    edge_m: float = Field(0.0, ge=0, le=1000, description="Kept off the outline by so much")
    on: tuple[_Name, ...] = Field((), max_length=50, description="Objects that they stand on; none for any")
    off: tuple[_Name, ...] = Field((), max_length=50, description="Objects that they are kept off")
    off_m: float = Field(0.5, ge=0, le=100)

    @model_validator(mode="after")
    def _can_be_strewn(self) -> Strewn:
        area = abs(area_of(self.outline))
        if area < 1e-6:
            raise ValueError("the outline has no area; draw it anew")
        if area * self.density_m2 > MOST:
            raise ValueError(f"{area * self.density_m2:.0f} things are too many; strew at most {MOST}")
        if self.size[0] > self.size[1]:
            raise ValueError("the smallest size is larger than the largest; change them over")
        return self


Repeat = Annotated[Row | Grid | Along | Strewn, Field(discriminator="kind")]


def area_of(outline: tuple[tuple[float, float], ...]) -> float:
    """Area in m2 of an outline by the shoelace formula, negative where it runs clockwise."""
    shifted = (*outline[1:], outline[0])
    x0, y0 = outline[0]
    return sum((a[0] - x0) * (b[1] - y0) - (b[0] - x0) * (a[1] - y0) for a, b in zip(outline, shifted, strict=True)) / 2
