"""The first picture is as large as this machine finishes in time."""

from __future__ import annotations

import pytest

from valleylight.server.worker.pace import DRAG_S, FIRST_WIDTH, LEAST_AT_REST, REST_S, WIDTHS, Pace


def settled(fixed_s: float, full_s: float, dragging: bool) -> tuple[int, float]:
    """Width that a machine comes to on which a scene takes `fixed_s` and a full picture `full_s`, and how long it takes there."""
    pace = Pace()
    for _ in range(12):
        width = pace.width(dragging)
        pace.learn(width, fixed_s, full_s * (width / FIRST_WIDTH) ** 2)
    return width, fixed_s + full_s * (width / FIRST_WIDTH) ** 2


def test_the_first_of_all_is_full():
    assert Pace().width(dragging=False) == Pace().width(dragging=True) == FIRST_WIDTH


@pytest.mark.parametrize("dragging", [True, False])
@pytest.mark.parametrize("full_s", [0.02, 0.2, 0.4, 0.9])
@pytest.mark.parametrize("fixed_s", [0.0, 0.02, 0.08])
def test_it_is_the_largest_that_comes_in_time(fixed_s, full_s, dragging):
    width, taken = settled(fixed_s, full_s, dragging)
    limit = DRAG_S if dragging else REST_S
    if width != (WIDTHS[-1] if dragging else LEAST_AT_REST):
        assert taken <= limit
    if width != FIRST_WIDTH:
        larger = WIDTHS[WIDTHS.index(width) - 1]
        assert fixed_s + full_s * (larger / FIRST_WIDTH) ** 2 > limit


def test_a_hand_at_rest_sees_more_than_one_that_moves():
    assert settled(0.05, 0.5, dragging=False)[0] > settled(0.05, 0.5, dragging=True)[0]


def test_a_stage_that_was_built_once_makes_nothing_small_for_long():
    pace = Pace()
    pace.learn(FIRST_WIDTH, 30.0, 5.0)  # the first picture of all: models read, kernels loaded
    widths = []
    for _ in range(5):
        widths.append(pace.width(dragging=False))
        pace.learn(widths[-1], 0.02, 0.15 * (widths[-1] / FIRST_WIDTH) ** 2)
    assert widths[0] >= LEAST_AT_REST and widths[-1] == FIRST_WIDTH
    assert widths == sorted(widths)


def test_a_single_slow_one_does_not_halve_the_next():
    pace = Pace()
    for _ in range(6):
        pace.learn(FIRST_WIDTH, 0.02, 0.12)
    pace.learn(FIRST_WIDTH, 0.02, 0.3)
    assert pace.width(dragging=False) == FIRST_WIDTH
    assert pace.width(dragging=True) >= 304
