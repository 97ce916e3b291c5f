"""A family of objects: what it is called, the numbers by which its members differ, and how one is made at true size.

Objects stand on z = 0 about their own middle and look towards -Y; lengths in metres. Dimensions are common practice.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from valleylight.core.errors import InputError
from valleylight.core.making.glb import Model, Thing

Values = Mapping[str, float]
Place = tuple[float, float, float]


@dataclass(frozen=True)
class Parameter:
    """A number of a family: its key, name, unit, limits, first value and step; `words` name whole numbers that stand for kinds."""

    key: str
    name: str
    unit: str
    least: float
    most: float
    first: float
    step: float = 0.05
    words: tuple[str, ...] = ()


@dataclass(frozen=True)
class Family:
    """Objects of one kind. `build` adds the surfaces and shapes of a member to a model."""

    key: str
    name: str
    group: str
    build: Callable[[Model, Thing, Values], None]
    parameters: tuple[Parameter, ...] = ()
    grows: bool = False  # it is strewn and turned at will
    lamp: Callable[[Values], Place] | None = None  # where it holds a bulb, whose flux is its number `lumens`
    only_seen: bool = False  # as a picture is: it casts no shadow and sends no light unless that is asked for

    def values(self, wanted: Values) -> dict[str, float]:
        """Every parameter, as wanted or at first. Raises InputError for one that is unknown or out of its limits."""
        known = {p.key: p for p in self.parameters}
        for key, value in wanted.items():
            p = known.get(key)
            if p is None:
                raise InputError(f"{self.name} has no {key!r}", "parameters", f"It has: {', '.join(known) or 'none'}")
            if not p.least <= value <= p.most:  # NaN is not either
                raise InputError(
                    f"{p.name.lower()} of {value:g} {p.unit}".rstrip(), f"parameters.{key}",
                    f"Choose {p.least:g} to {p.most:g} {p.unit}".rstrip(),
                )  # fmt: skip
        found = {p.key: float(wanted.get(p.key, p.first)) for p in self.parameters}
        return {key: float(round(v)) if known[key].words else v for key, v in found.items()}


def length(key: str, name: str, least: float, most: float, first: float, step: float = 0.05) -> Parameter:
    return Parameter(key, name, "m", least, most, first, step)


def number(key: str, name: str, least: int, most: int, first: int) -> Parameter:
    return Parameter(key, name, "", least, most, first, 1)


def kinds(key: str, name: str, *words: str) -> Parameter:
    return Parameter(key, name, "", 0, len(words) - 1, 0, 1, words)


#: Plants of the same kind differ by it.
SEED = number("seed", "Another of its kind", 1, 99, 1)
