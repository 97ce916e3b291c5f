"""Rows, arrays, curves and mirror images of fixtures."""

from __future__ import annotations

import numpy as np
import pytest

from tests import small
from valleylight.core.errors import InputError
from valleylight.core.lamps import arrange
from valleylight.core.project import Fixture, FixtureKind, Project


def test_a_row_keeps_half_a_spacing_to_the_walls():
    places = arrange.row((0, 0), (8, 0), 4)
    assert [p[0] for p in places] == [1, 3, 5, 7]
    assert [p[0] for p in arrange.row((0, 0), (8, 0), 3, half_ends=False)] == [0, 4, 8]
    assert arrange.row((0, 0), (8, 4), 1) == [(4, 2)]


def test_counts_follow_a_greatest_spacing():
    assert arrange.count_for(6.0, 1.5) == 4 and arrange.count_for(6.1, 1.5) == 5 and arrange.count_for(0.2, 1.5) == 1
    with pytest.raises(InputError):
        arrange.count_for(3, 0)


def test_an_array_fills_a_rectangle():
    places = np.array(arrange.array((0, 0), (6, 4), 3, 2))
    assert places.shape == (6, 2)
    assert sorted(set(places[:, 0])) == [1, 3, 5] and sorted(set(places[:, 1])) == [1, 3]
    with pytest.raises(InputError, match="500"):
        arrange.array((0, 0), (6, 4), 100, 100)


def test_a_curve_is_walked_in_equal_steps():
    angle = np.linspace(0, np.pi, 9)
    bow = [(float(3 * np.cos(a)), float(3 * np.sin(a))) for a in angle]
    places = np.array(arrange.curve(bow, 7))
    assert np.hypot(*places.T) == pytest.approx(np.full(7, 3.0), abs=0.02)
    steps = np.linalg.norm(np.diff(places, axis=0), axis=1)
    assert steps == pytest.approx(np.full(6, steps.mean()), rel=0.01)
    with pytest.raises(InputError, match="two points"):
        arrange.curve([(0, 0)], 3)


def test_mirror_images_have_keys_of_their_own_and_look_the_other_way():
    project = small.project().description
    made = arrange.mirror_images(project, ["a", "b"], (3.0, 0.0), "x")
    assert [f.position[0] for f in made] == [4.5, 1.5]
    assert not {f.key for f in made} & {f.key for f in project.fixtures}
    again = arrange.mirror_images(project.model_copy(update={"fixtures": tuple(made)}), [made[0].key], (3.0, 0.0), "x")
    assert again[0].position == project.fixtures[0].position


def test_placed_fixtures_join_the_group_of_their_kind():
    project = small.project().description
    kind = project.kind("downlight-medium")
    made = arrange.placed(project, kind, [(1, 1, 2.9), (2, 1, 2.9)])
    assert {f.group for f in made} == {"Ceiling"} and made[0].aim[2] < made[0].position[2]
    assert len({f.key for f in made}) == 2


@pytest.mark.parametrize(("mounting", "height"), [("ceiling", None), ("wall", 2.0), ("table", 1.15), ("pole", 3.1)])
def test_one_more_hangs_as_its_neighbour_or_as_is_usual(mounting, height):
    kind = FixtureKind(key="k", name="K", profile="0" * 64, mounting=mounting)
    alone = Project(name="p", kinds=(kind,))
    assert arrange.height_of_new(alone, kind, 0, 0) == height
    near, far = (Fixture(key=f"k-{n}", kind="k", position=(n, 0, 2 + n), aim=(n, 0, 0)) for n in (0, 9))
    both = alone.model_copy(update={"fixtures": (near, far)})
    assert arrange.height_of_new(both, kind, 1, 1) == 2
    assert arrange.height_of_new(both, kind, 8, 0) == 11


@pytest.mark.parametrize("z", [-1e7, -1e7 + 0.5, -3.0, 0.0, 0.4, 2.6, 1e7])
def test_a_new_fixture_is_a_fixture_wherever_it_hangs(z):
    kind = FixtureKind(key="k", name="K", profile="0" * 64)
    [made] = arrange.placed(Project(name="p", kinds=(kind,)), kind, [(1, 2, z)])
    assert made.position[2] == z
    assert made.aim[2] == (0 if z >= 1 else z - 1 if z > -1e7 + 1 else z + 1)
