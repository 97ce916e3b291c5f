"""The treatments of a look: each file of this package that holds one is found and put in its place.

To add one, write a file: a subclass of `Pointwise` or `Spatial` with its `kind`, title, place, numbers, and what it does. It is then
in the description's schema, in the API and in the bench's form.
"""

from __future__ import annotations

import importlib
import pkgutil
from functools import reduce
from operator import or_
from typing import TYPE_CHECKING, Annotated, Any

from pydantic import Field

from valleylight.core.treatments.base import Pointwise, Spatial, Treatment

#: Files of the package that hold no treatment.
_WITHOUT = {"base", "cube", "drawn", "limit", "reach", "run", "seen", "unrest"}


def _found() -> tuple[type[Treatment], ...]:
    kinds: list[type[Treatment]] = []
    for module in pkgutil.iter_modules(__path__):
        if module.name not in _WITHOUT:
            held = vars(importlib.import_module(f"{__name__}.{module.name}")).values()
            kinds += [
                v for v in held
                if isinstance(v, type) and issubclass(v, Treatment) and v.__module__ == f"{__name__}.{module.name}"
            ]  # fmt: skip
    return tuple(sorted(kinds, key=lambda kind: kind.PLACE))


#: All kinds of treatment, in the order in which meaning puts them.
KINDS = _found()

if TYPE_CHECKING:
    AnyTreatment = Treatment
else:
    AnyTreatment = Annotated[reduce(or_, KINDS), Field(discriminator="kind")]


def name_of_kind(treatment: Treatment | type[Treatment]) -> str:
    """The name of a treatment in files."""
    return str(treatment.model_fields["kind"].default)


def at_first() -> tuple[Treatment, ...]:
    """The treatments of a new look: those that are on, and those that most looks come to use."""
    return tuple(kind(on=kind.ON_AT_FIRST) for kind in KINDS if kind.ON_AT_FIRST or kind.IN_NEW_LOOKS)


def form_of(kind: type[Treatment]) -> list[dict[str, Any]]:
    """The numbers of a treatment as a form shows them: field, label, range of its rule, step, unit, what it is at first."""
    fields = []
    for name, field in kind.model_fields.items():
        extra = field.json_schema_extra
        if isinstance(extra, dict) and "form" in extra:
            fields.append({"field": name, "normal": field.default, **extra["form"]})  # type: ignore[dict-item]
    return fields


__all__ = ["KINDS", "AnyTreatment", "Pointwise", "Spatial", "Treatment", "at_first", "form_of", "name_of_kind"]
