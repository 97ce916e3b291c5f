"""The treatments that looks are made of."""

from __future__ import annotations

from dataclasses import asdict

from fastapi import APIRouter

from valleylight.core.errors import InputError
from valleylight.core.treatments import KINDS, Treatment, form_of, name_of_kind
from valleylight.core.treatments.base import Bendable
from valleylight.core.treatments.drawn import drawn
from valleylight.server.web.schemas.treatments import CurveDrawn, CurveHandle, CurveWanted, TreatmentLine, TreatmentNumber

router = APIRouter(prefix="/api", tags=["looks"])


@router.get("/treatments")
def treatments() -> list[TreatmentLine]:
    """All kinds of treatment with their forms."""
    return [
        TreatmentLine(
            kind=name_of_kind(kind), title=kind.TITLE, place=kind.PLACE, about=(kind.__doc__ or "").split("\n\n")[0],
            at_first=kind(on=kind.ON_AT_FIRST).model_dump(mode="json"),
            numbers=[TreatmentNumber.model_validate(number) for number in form_of(kind)],
        )
        for kind in KINDS
    ]  # fmt: skip


@router.post("/treatments/curve")
def curve(wanted: CurveWanted) -> CurveDrawn:
    """The curve of a treatment as an instrument draws it; with `bend`, of the treatment bent so."""
    treatment: Treatment = wanted.treatment
    if wanted.bend is not None:
        if not isinstance(treatment, Bendable):
            raise InputError("this treatment is no curve", "treatment", "Choose the tone curve")
        treatment = treatment.bent(wanted.bend.field, wanted.bend.stops, wanted.bend.value)
    made = drawn(treatment)
    return CurveDrawn(
        treatment=treatment, points=list(made.points), handles=[CurveHandle(**asdict(handle)) for handle in made.handles]
    )
