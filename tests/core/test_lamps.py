"""Fixtures in place: orientation, tables, choice and bodies."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests import small
from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.errors import InputError
from valleylight.core.lamps import build_bodies, compile_lamps, orientation, profile_table, record
from valleylight.core.lamps.compile import flux_lm, tinting_levels
from valleylight.core.lamps.emitting import objects_of
from valleylight.core.photometry import Photometry, read
from valleylight.core.project import Fixture, LoadedProject
from valleylight.core.project.description import EmittingShape
from valleylight.core.stage.model import Material, MeshInstance, StageData
from valleylight.core.trace.lights import lamplight
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.lampgrid import lamp_grid
from valleylight.core.trace.scene.quality import SKETCH
from valleylight.demo.profiles import CATALOGUE, profile_file
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
    c = np.linspace(0, 360, record.C_STEPS + 1)
    gamma = np.linspace(0, 180, record.GAMMA_STEPS + 1)
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
    grid = lamp_grid(lamps.records, lamps.profiles).arrays
    cdf = grid["grid_cdf"]
    assert (np.diff(cdf, axis=1) > 0).all()  # every fixture can be chosen everywhere, so nothing is biased
    cell = lamplight.grid_cell(grid["grid_box"], grid["grid_counts"], 1.5, 2.0, 0.2)
    shares = np.diff(cdf[cell])
    assert shares[0] > shares[1]  # under the downlight
    whole = np.zeros((len(cdf), 2), np.float32)
    lamplight.weigh_cells(
        lamps.records, lamps.profiles, grid["grid_box"], grid["grid_counts"], np.arange(2), whole, 0, len(whole)
    )
    assert cdf[:, 1] == pytest.approx(whole[:, 0] / whole.sum(1), rel=1e-5)  # however many cores share the cells


@pytest.mark.parametrize("moved", [[0], [1], [0, 1], []])
def test_a_grid_kept_from_before_is_the_same_as_a_new_one(moved):
    """Only fixtures that changed are weighed anew; far moves change the box, and all with it."""
    lamps = lamps_of(small.project())
    before = lamp_grid(lamps.records, lamps.profiles)
    for by in (0.01, 0.4, 9.0):
        records = lamps.records.copy()
        records[moved, 0] += by
        again = lamp_grid(records, lamps.profiles, before)
        fresh = lamp_grid(records, lamps.profiles)
        for name in ("grid_box", "grid_counts", "grid_cdf"):
            assert np.array_equal(again.arrays[name], fresh.arrays[name])
    other = lamp_grid(lamps.records[:1], lamps.profiles, before)
    assert other.arrays["grid_cdf"].shape[1] == 2


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


def with_kind(**patch):
    project = small.project()
    d = project.description
    kinds = tuple(k.model_copy(update=patch) if k.key == "downlight-medium" else k for k in d.kinds)
    return LoadedProject(d.model_copy(update={"kinds": kinds}), project.asset)


def colour_and_flux(project, levels=None):
    d = project.description
    numbers = dict.fromkeys(d.groups(), 0)
    lamps = compile_lamps(d, lambda sha: read(project.asset(sha)), numbers, frozenset(), levels)
    row = lamps.records[0].astype(float)
    light = float(row[12:15] @ LUMINANCE)
    return row[12:15] / light, light, lamps


def test_a_kind_gives_its_fixtures_flux_colour_and_age():
    plain, full, _ = colour_and_flux(small.project())
    _, older, _ = colour_and_flux(with_kind(depreciation=0.8))
    assert older == pytest.approx(0.8 * full)
    _, more, _ = colour_and_flux(with_kind(lumens=2200.0))
    assert more == pytest.approx(2 * full, rel=1e-3)
    red, same, _ = colour_and_flux(with_kind(rgb="#ff2000"))
    assert red[0] > 3 > red[1] and same == pytest.approx(full, rel=1e-3)
    green, _, _ = colour_and_flux(with_kind(duv=0.02))
    assert green[1] > plain[1]


def test_light_warms_with_its_groups_level_and_keeps_its_amount():
    steady, light, _ = colour_and_flux(with_kind(), {"Ceiling": 0.1})
    warm, dimmed, _ = colour_and_flux(with_kind(dimming="incandescent"), {"Ceiling": 0.1})
    assert warm[2] < 0.6 * steady[2] and dimmed == pytest.approx(light, rel=1e-3)
    project = with_kind(dimming="incandescent").description
    night = project.occasion("night").model_copy(update={"levels": {"Ceiling": 25.0}})
    assert tinting_levels(project, night) == {"Ceiling": 0.25}
    assert tinting_levels(with_kind().description, night) == {}


def test_a_tilted_lamp_gives_what_its_tilt_leaves():
    profile = replace(read(profile_file(CATALOGUE[1])), tilt_angles_deg=(0.0, 90.0), tilt_factors=(1.0, 0.6))
    d = with_kind().description
    level = d.fixtures[0].model_copy(update={"aim": (4.4, 2.0, 0.0)})  # 45 degrees off the vertical
    assert flux_lm(level, d.kinds[0], profile) == pytest.approx(
        0.8 * flux_lm(d.fixtures[0], d.kinds[0], profile), rel=1e-3
    )


def test_light_from_a_mesh_comes_from_the_nearest_object_of_the_name():
    shape = EmittingShape(shape="mesh", object="room")
    project = with_kind(emits_from=shape)
    stage = Compiler().stage(project)
    found = objects_of(stage, "ROOM")
    assert len(found) == 1 and found[0].shape == (256, 6)
    assert np.linalg.norm(found[0][:, 3:], axis=1) == pytest.approx(np.ones(256))
    d = project.description
    made = compile_lamps(d, lambda sha: read(project.asset(sha)), dict.fromkeys(d.groups(), 0), frozenset(),
                         None, lambda name: objects_of(stage, name))  # fmt: skip
    assert made.records[0, 16:19].tolist() == [4, 1, 256] and made.points.shape == (257, 6)
    with pytest.raises(InputError, match="no object 'room'"):
        colour_and_flux(project)


def test_points_of_a_mesh_face_who_asks():
    """On a ball of 0.2 m about the fixture every point that is drawn lies on the side of the asker."""
    ball = StageData((small.sphere(0.2, 0),), (MeshInstance(0, np.eye(4), name="globe"),), (Material(),), ())
    points = np.concatenate([np.zeros((1, 6)), objects_of(ball, "globe")[0]]).astype(np.float32)
    lamps = np.zeros((1, record.LAMP_WIDTH), np.float32)
    lamps[0, 16:19] = record.MESH, 1, 256
    asker = np.array([0.0, 2.0, 0.5])
    drawn = np.array(
        [lamplight.point_on_lamp(lamps, points, np.int64(0), *asker, u, 0.5) for u in np.linspace(0, 0.999, 64)]
    )
    assert np.linalg.norm(drawn, axis=1) == pytest.approx(np.full(64, 0.202), abs=0.004)
    assert (drawn @ asker > -0.02).all() and np.ptp(drawn[:, 0]) > 0.25
