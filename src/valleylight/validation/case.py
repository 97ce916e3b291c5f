"""A case: what is known from outside, and what the tracer makes of it."""

from __future__ import annotations

import importlib
from collections.abc import Callable
from dataclasses import dataclass

MODULES = ("energy", "sources", "openings", "glass", "air", "caustics")


@dataclass(frozen=True)
class Outcome:
    """Expected and got, in `unit`; they agree within `tolerance` (a share of expected, or of `scale` where given)."""

    quantity: str
    expected: float
    got: float
    tolerance: float
    unit: str = ""
    scale: float | None = None

    @property
    def holds(self) -> bool:
        return abs(self.got - self.expected) <= self.tolerance * abs(
            self.expected if self.scale is None else self.scale
        )


@dataclass(frozen=True)
class Case:
    """A check against something outside: its name, its source, and the work that yields its outcomes."""

    name: str
    source: str
    run: Callable[[], list[Outcome]]


_CASES: list[Case] = []


def case(name: str, source: str) -> Callable[[Callable[[], list[Outcome]]], Callable[[], list[Outcome]]]:
    """Register a case."""

    def register(run: Callable[[], list[Outcome]]) -> Callable[[], list[Outcome]]:
        _CASES.append(Case(name, source, run))
        return run

    return register


def all_cases() -> tuple[Case, ...]:
    """Every case, in the order of the table."""
    for module in MODULES:
        importlib.import_module(f"valleylight.validation.{module}")
    return tuple(_CASES)


def table(results: list[tuple[Case, list[Outcome]]]) -> str:
    """The results as the text of docs/validation.md."""
    lines = [
        "# The tracer against the outside",
        "",
        "Written by `./valleylight validate`. Small pictures, fixed seeds, nothing clamped or softened; a test checks that",
        "every case holds and that this table is current. Tolerance is a share of the expected value.",
        "",
        "| case | quantity | expected | got | tolerance |",
        "| --- | --- | ---: | ---: | ---: |",
    ]
    for item, outcomes in results:
        lines += [row(item, outcome) for outcome in outcomes]
    lines += ["", "## Sources", ""]
    lines += [f"- {item.name}: {item.source}" for item, _ in results]
    return "\n".join(lines) + "\n"


def row(item: Case, o: Outcome) -> str:
    """One line of the table."""
    unit = f" {o.unit}" if o.unit else ""
    return f"| {item.name} | {o.quantity} | {o.expected:.4g}{unit} | {o.got:.4g}{unit} | {o.tolerance * 100:g} % |"
