"""Every case of the validation holds, and docs/validation.md says what the tracer gives now."""

from __future__ import annotations

import re
from functools import cache

import pytest

from tests.conftest import ROOT
from valleylight.validation import all_cases
from valleylight.validation.case import row

CASES = all_cases()


@cache
def stated() -> dict[tuple[str, str], float]:
    """What docs/validation.md says was got, by case and quantity."""
    out = {}
    for line in (ROOT / "docs" / "validation.md").read_text().splitlines():
        cells = [c.strip() for c in line.strip("|").split("|")]
        if len(cells) == 5 and re.match(r"-?[\d.]", cells[3]):
            out[cells[0], cells[1]] = float(cells[3].split()[0])
    return out


@pytest.mark.parametrize("item", CASES, ids=[c.name for c in CASES])
def test_case(item):
    for outcome in item.run():
        assert outcome.holds, row(item, outcome)
        assert (item.name, outcome.quantity) in stated(), "run ./valleylight validate"
        shift = abs(stated()[item.name, outcome.quantity] - outcome.got)
        room = outcome.tolerance * abs(outcome.expected if outcome.scale is None else outcome.scale)
        assert shift <= room + 6e-4 * abs(outcome.got), "docs/validation.md is old: run ./valleylight validate"


def test_every_case_names_its_source():
    assert len(CASES) > 15
    assert all(c.source for c in CASES)
