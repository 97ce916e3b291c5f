"""Treatments, as the API tells of them."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, Field


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
