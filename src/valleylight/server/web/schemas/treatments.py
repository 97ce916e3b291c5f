"""Treatments, as the API tells of them."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict, Field

from valleylight.core.treatments import AnyTreatment


class TreatmentNumber(BaseModel):
    """A number of a treatment as a form shows it."""

    field: str = Field(description="Its name in the description")
    label: str
    normal: float = Field(description="What it is at first")
    low: float = Field(description="Least of the form's rule; typed numbers may go further")
    high: float
    step: float
    unit: str


class TreatmentLine(BaseModel):
    """A kind of treatment, in the order in which meaning puts them."""

    kind: str
    title: str
    place: int
    about: str = Field(description="What it does, in a sentence")
    at_first: dict[str, Any] = Field(description="It as a new look has it")
    numbers: list[TreatmentNumber]


class Bend(BaseModel):
    """Where the handle of a curve is drawn to."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    field: str = Field(max_length=40)
    stops: float = Field(ge=-40, le=40, description="Stops about white")
    value: float = Field(ge=-10, le=10, description="Value on the display's linear scale")


class CurveWanted(BaseModel):
    """A treatment that is a curve, and how it is to be bent first."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    treatment: AnyTreatment
    bend: Bend | None = None


class CurveHandle(BaseModel):
    """A place of a curve that can be taken hold of: the field it sets, and where it lies."""

    field: str
    title: str
    stops: float
    value: float


class CurveDrawn(BaseModel):
    """The treatment, bent where that was asked, with its curve: stops about white and the value on the display's linear scale."""

    treatment: AnyTreatment
    points: list[tuple[float, float]]
    handles: list[CurveHandle]
