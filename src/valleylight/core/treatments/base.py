"""What every treatment is: settings that are checked, a form that shows them, and what it does to a picture.

A treatment is one file of this package: a subclass of `Pointwise`, which changes every pixel by itself and is done in one pass with its
neighbours, or of `Spatial`, which looks around. It is found by being there: nothing else has to be told of it.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache, wraps
from typing import Any, ClassVar, Protocol, Self, runtime_checkable

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from valleylight.core.treatments.limit import Limit
from valleylight.core.treatments.seen import Seen

Picture = NDArray[np.float32]


class Treatment(BaseModel):
    """A step of finishing. `kind` names it in files, `TITLE` for people; `PLACE` is where meaning puts it: below 20 on the light in the
    lens, below 50 on the light of the picture, from 50 on as the eye sees it after the tone curve."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True)
    TITLE: ClassVar[str] = ""
    PLACE: ClassVar[int] = 0
    #: Whether a new look has it switched on.
    ON_AT_FIRST: ClassVar[bool] = True
    #: Whether it stands in a new look though it is off.
    IN_NEW_LOOKS: ClassVar[bool] = False
    #: Whether it goes by how far things are.
    BY_DISTANCE: ClassVar[bool] = False

    on: bool = True
    strength: float = Field(1.0, ge=0, le=1, description="How much of it is laid on the picture")
    limit: Limit | None = Field(None, description="Where it holds; None for everywhere")


class Pointwise(Treatment):
    """Changes every pixel by itself."""

    def operation(self) -> Operation:
        """What it does to a picture whose white is 1."""
        raise NotImplementedError


@dataclass(frozen=True)
class Handle:
    """A place of a treatment's curve that can be taken hold of: the field it sets, and where it lies."""

    field: str
    title: str
    stops: float
    value: float


@runtime_checkable
class Bendable(Protocol):
    """A treatment that is a curve, and is bent on it."""

    def handles(self) -> list[tuple[str, str, float]]:
        """Field, title and stops about white of each handle."""

    def bent(self, field: str, stops: float, value: float) -> Self:
        """With the handle of a field as near as it goes to a place: stops about white, value 0 to 1. Raises InputError for another field."""


class Spatial(Treatment):
    """Changes a pixel by those around it, or in a way of its own."""

    def applied(self, picture: Picture) -> Picture:
        """The picture (H, W, 3), white at 1, after it."""
        raise NotImplementedError

    def applied_in(self, picture: Picture, seen: Seen) -> Picture:
        """The same, for one that goes by the lens, by distances or by the place of the sun."""
        return self.applied(picture)


#: Kinds of pointwise operation: a matrix of RGB; a curve of the greatest channel that keeps the hue and runs to white; a curve of each
#: channel by itself.
MATRIX, TONE, CURVE = 1, 2, 3
OPERATION_WIDTH, CURVE_STEPS = 14, 1024
#: Columns of an operation's strength, and of the number of its mask (-1: everywhere).
STRENGTH, MASK = 12, 13


@dataclass(frozen=True)
class Operation:
    """A row (OPERATION_WIDTH,) of numbers for the kernel, and the curve (CURVE_STEPS + 1,) over the square root of a value where it has one."""

    row: NDArray[np.float64]
    curve: NDArray[np.float64] | None = None


def matrix(rgb: NDArray[np.float64]) -> Operation:
    """RGB (3, 3); what falls below zero becomes zero."""
    return Operation(_row(MATRIX, np.ravel(rgb)))


def scale(factor: float) -> Operation:
    """All channels times a factor."""
    return matrix(np.eye(3) * factor)


def tone(knee: float, white: float, toe: float) -> Operation:
    """The tone curve of run.py: straight up to the knee, 1 at `white`, with a toe."""
    return Operation(_row(TONE, (knee, white, toe)))


def curve(values: NDArray[np.float64]) -> Operation:
    """Each channel through values (CURVE_STEPS + 1,) over the square root of what it is."""
    return Operation(_row(CURVE, ()), values)


def _row(kind: int, values: Sequence[float] | NDArray[np.float64]) -> NDArray[np.float64]:
    row = np.zeros(OPERATION_WIDTH)
    row[0], row[STRENGTH], row[MASK] = kind, 1.0, -1.0
    row[1 : 1 + len(values)] = values
    return row


def row_kernel(function: Callable[..., None]) -> Callable[..., None]:
    """A loop over rows, compiled when a picture first asks for it: descriptions are read without a compiler."""

    @lru_cache(maxsize=1)
    def compiled() -> Callable[..., None]:
        from valleylight.core.jit.compiled import kernel

        return kernel(function)

    @wraps(function)
    def run(*arguments: Any) -> None:
        compiled()(*arguments)

    return run


def number(
    normal: float, low: float, high: float, label: str, step: float, unit: str = "",
    shown: tuple[float, float] | None = None, description: str | None = None,
) -> Any:  # fmt: skip
    """A number of a treatment: what it is at first, its range, and how a form shows it (`shown`: the range of its rule)."""
    rule = shown or (low, high)
    form: dict[str, Any] = {"label": label, "step": step, "unit": unit, "low": rule[0], "high": rule[1]}
    return Field(normal, ge=low, le=high, description=description, json_schema_extra={"form": form})


def within(kind: type[Treatment], field: str, value: float) -> float:
    """A number of a treatment kept within its range."""
    for limit in kind.model_fields[field].metadata:
        value = max(value, getattr(limit, "ge", value))
        value = min(value, getattr(limit, "le", value))
    return value
