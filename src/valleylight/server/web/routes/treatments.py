"""The treatments that looks are made of."""

from __future__ import annotations

from fastapi import APIRouter

from valleylight.core.treatments import KINDS, form_of, name_of_kind
from valleylight.server.web.schemas.treatments import TreatmentLine, TreatmentNumber

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
