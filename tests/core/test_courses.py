"""Layouts of bricks, boards and tiles: areas, sizes and joints against closed forms."""

from __future__ import annotations

import math
from collections import defaultdict

import numpy as np
import pytest

from valleylight.core.trace.textures.courses import BONDS, chance, unit_at

LENGTH, HEIGHT, JOINT = 0.21, 0.065, 0.01
PITCH, RISE = LENGTH + JOINT, HEIGHT + JOINT
HALF = PITCH / 2 - JOINT
#: Share of the face that units fill, by the area of one and of the field it stands in.
FILLED = {
    "stack": LENGTH * HEIGHT / (PITCH * RISE), "running": LENGTH * HEIGHT / (PITCH * RISE), "third": LENGTH * HEIGHT / (PITCH * RISE),
    "random": LENGTH * HEIGHT / (PITCH * RISE), "english": (LENGTH + 2 * HALF) * HEIGHT / (2 * PITCH * RISE),
    "flemish": (LENGTH + HALF) * HEIGHT / (1.5 * PITCH * RISE),
    "herringbone": (3 * RISE - JOINT) * HEIGHT / (3 * RISE * RISE), "hexagon": (HEIGHT / RISE) ** 2,
}  # fmt: skip


def units(bond: str, number: int = 60_000, seed: int = 1):
    rng = np.random.default_rng(seed)
    places = rng.uniform(-3, 3, (number, 2))
    return places, [unit_at(BONDS.index(bond), a, b, LENGTH, HEIGHT, JOINT) for a, b in places]


@pytest.mark.parametrize("bond", BONDS[1:])
def test_units_fill_their_share_of_the_face(bond):
    _, found = units(bond)
    inside = np.mean([u.inside > 0 for u in found])
    assert inside == pytest.approx(FILLED[bond], abs=4 * math.sqrt(0.25 / len(found)))


@pytest.mark.parametrize("bond", BONDS[1:])
def test_no_unit_is_larger_than_it_should_be_and_none_are_two(bond):
    """Points of one address lie within one unit, as far from its middle as they say."""
    places, found = units(bond)
    together = defaultdict(list)
    for place, unit in zip(places, found, strict=True):
        if unit.inside > 0:
            together[unit.column, unit.row, unit.standing].append((*place, unit.along, unit.across))
    wide = {"herringbone": 3 * RISE - JOINT, "hexagon": 2 * HEIGHT / math.sqrt(3)}.get(bond, LENGTH)
    assert len(together) > 900
    for (_, _, standing), points in together.items():
        a, b, along, across = np.array(points).T
        if standing:
            a, b = b, a
        assert np.ptp(along) <= wide + 1e-9
        assert np.ptp(across) <= HEIGHT + 1e-9
        # The middle of a unit is one place.
        assert np.ptp(a - along) < 1e-9
        assert np.ptp(b - across) < 1e-9


@pytest.mark.parametrize(("bond", "shift"), [("stack", 0.0), ("running", PITCH / 2), ("third", PITCH / 3)])
def test_courses_are_shifted_as_the_bond_says(bond, shift):
    lower = unit_at(BONDS.index(bond), 0.5 * PITCH, 0.5 * RISE, LENGTH, HEIGHT, JOINT)
    upper = unit_at(BONDS.index(bond), 0.5 * PITCH + shift, 1.5 * RISE, LENGTH, HEIGHT, JOINT)
    assert lower.along == pytest.approx(0, abs=1e-12)
    assert upper.along == pytest.approx(0, abs=1e-12)
    assert upper.row == lower.row + 1


@pytest.mark.parametrize("bond", BONDS[1:])
def test_the_distance_to_the_edge_is_one(bond):
    """It falls by no more than the way one goes, and is nought where unit and joint meet."""
    rng = np.random.default_rng(3)
    for a, b in rng.uniform(-2, 2, (2000, 2)):
        here = unit_at(BONDS.index(bond), a, b, LENGTH, HEIGHT, JOINT)
        if here.inside <= 0:
            continue
        for turn in np.linspace(0, 2 * np.pi, 12):
            step = 0.98 * here.inside
            there = unit_at(BONDS.index(bond), a + step * np.cos(turn), b + step * np.sin(turn), LENGTH, HEIGHT, JOINT)
            assert (there.column, there.row, there.standing) == (here.column, here.row, here.standing)


def test_joints_may_be_nothing_and_units_long():
    for bond in BONDS[1:]:
        for a, b in np.random.default_rng(5).uniform(-40, 40, (300, 2)):
            unit = unit_at(BONDS.index(bond), a, b, 12.0, 0.001, 0.0)
            assert unit.inside >= -1e-12
            assert np.isfinite(list(unit)).all()


def test_chances_of_units_are_even():
    drawn = np.array([chance(i, j, 7) for i in range(-60, 60) for j in range(-60, 60)])
    counts, _ = np.histogram(drawn, 20, (0, 1))
    # Chi-squared with 19 degrees of freedom: 43.8 is met once in a thousand (tables of the distribution).
    assert ((counts - 720) ** 2 / 720).sum() < 43.8
    assert np.corrcoef(drawn[:-1], drawn[1:])[0, 1] == pytest.approx(0, abs=0.03)
