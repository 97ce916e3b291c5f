"""Fixtures in place: orientation, tables, choice and bodies."""

from __future__ import annotations

import numpy as np
import pytest

from tests import small
from valleylight.core.lamps import build_bodies, compile_lamps, orientation, profile_table
from valleylight.core.photometry import Photometry, read
from valleylight.core.project import Fixture
from valleylight.core.trace import lamplight
from valleylight.core.trace.render import SKETCH, Compiler
from valleylight.core.trace.scene import lamp_grid
from valleylight.demo.profiles import CATALOGUE
from valleylight.demo.profiles import photometry as demo_photometry


@pytest.mark.parametrize("aim", [(0, 0, -1), (0, 0, 1), (1, 0, -1), (-0.3, 0.8, 0.2)])
@pytest.mark.parametrize("turn", [0.0, 40.0])
def test_the_nadir_points_at_the_aim(aim, turn):
    axes = orientation(np.zeros(3), np.array(aim, float), turn)
    assert axes @ axes.T == pytest.approx(np.eye(3), abs=1e-9)
    assert np.linalg.det(axes) == pytest.approx(1)
    assert -axes[2] == pytest.approx(np.array(aim) / np.linalg.norm(aim))


def test_turning_is_counter_clockwise_from_above():
    axes = orientation(np.array([0, 0, 3.0]), np.zeros(3), 90.0)
    assert axes[0] == pytest.approx([0, 1, 0], abs=1e-9)


@pytest.mark.parametrize("luminaire", CATALOGUE, ids=lambda lu: lu.key)
def test_the_table_keeps_the_flux(luminaire):
    made = demo_photometry(luminaire)
    table = profile_table(made)
    c = np.linspace(0, 360, lamplight.C_STEPS + 1)
    gamma = np.linspace(0, 180, lamplight.GAMMA_STEPS + 1)
    assert Photometry(c, gamma, table.astype(float)).lumens == pytest.approx(made.lumens, rel=1e-3)


def lamps_of(project, shut=frozenset()):
    groups = {name: k for k, name in enumerate(project.description.groups())}
    return compile_lamps(project.description, lambda sha: read(project.asset(sha)), groups, shut)


def test_flux_percent_and_switch():
    project = small.project()
    base = lamps_of(project)
    assert [f.key for f in base.fixtures] == ["a", "b"]
    assert [f.key for f in lamps_of(project, frozenset({"Ceiling"})).fixtures] == ["b"]
    first = project.description.fixtures[0]
    bright = first.model_copy(update={"lumens": 2200.0, "percent": 50.0})
    changed = project.description.model_copy(update={"fixtures": (bright,)})
    again = compile_lamps(changed, lambda sha: read(project.asset(sha)), {"Ceiling": 0}, frozenset())
    # twice the profile's own 1100 lm, at half level
    assert again.records[0, 12:15] == pytest.approx(base.records[0, 12:15], rel=2e-3)
    dark = changed.model_copy(update={"fixtures": (bright.model_copy(update={"on": False}),)})
    assert len(compile_lamps(dark, lambda sha: read(project.asset(sha)), {"Ceiling": 0}, frozenset()).records) == 0


def test_the_grid_prefers_what_lights_the_cell_and_forgets_nothing():
    lamps = lamps_of(small.project())
    grid = lamp_grid(lamps.records, lamps.profiles)
    cdf = grid["grid_cdf"]
    assert (np.diff(cdf, axis=1) > 0).all()  # every fixture can be chosen everywhere, so nothing is biased
    cell = lamplight.grid_cell(grid["grid_box"], grid["grid_counts"], 1.5, 2.0, 0.2)
    shares = np.diff(cdf[cell])
    assert shares[0] > shares[1]  # under the downlight


def test_bodies_hang_at_their_fixtures_and_light_at_their_faces():
    lamps = lamps_of(small.project())
    bodies = build_bodies(lamps)
    assert bodies is not None
    for number, fixture in enumerate(lamps.fixtures, 1):
        face = bodies.points[bodies.triangles[bodies.fixture == number]].reshape(-1, 3)
        assert np.abs(face.mean(0) - fixture.position).max() < 0.2
    assert set(np.unique(bodies.fixture)) == {-2, -1, 1, 2}


def test_an_unlit_scene_is_black_but_for_the_sky():
    project = small.project()
    night = project.description.occasions[1].model_copy(update={"levels": {"Ceiling": 0.0, "Pendants": 0.0}})
    scene = Compiler().scene(project, project.description.views[0], night, 16, 9, 1, SKETCH)
    assert scene.group_names == ("sun", "sky") and len(scene.arrays.lamps) == 0
    assert not scene.daylight.sun_up


def test_a_fixture_needs_somewhere_to_aim():
    with pytest.raises(ValueError, match="move the aim"):
        Fixture(key="f", kind="k", position=(1, 1, 1), aim=(1, 1, 1))
