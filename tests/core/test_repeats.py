"""Things that stand many times: rows, grids, lines, and strewn over an area by the law asked for."""

from __future__ import annotations

import hashlib

import numpy as np
import pytest
from pydantic import ValidationError
from scipy.spatial.distance import pdist
from scipy.stats import chisquare

from tests.shapes import box_glb, ground_glb
from valleylight.core.errors import InputError
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Made, Placement, Project
from valleylight.core.project.repeats import Along, Grid, Repeat, Row, Strewn, area_of
from valleylight.core.stage import read_glb
from valleylight.core.stage.assembly import apart, assembled, matrix_of
from valleylight.core.trace.scene.compiler import Compiler

BOX = box_glb(0.2)
#: From the stage's axes to those of a glTF file.
_OWN = np.linalg.inv(read_glb(BOX).instances[0].matrix)
SQUARE = ((0.0, 0.0), (20.0, 0.0), (20.0, 20.0), (0.0, 20.0))


def sha(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


def stage_with(repeat: Repeat | None, ground: bytes | None = None, **fields):
    """The stage of a project with one repeated box, over a ground where one is given; and the box's matrices."""
    files = {sha(BOX): BOX}
    placements = []
    if ground is not None:
        files[sha(ground)] = ground
        placements.append(Placement(key="ground", name="ground", asset=sha(ground)))
    placements.append(Placement(key="box", name="Box", asset=sha(BOX), repeat=repeat, made=Made(family="x"), **fields))
    stage = Compiler().stage(LoadedProject(Project(name="p", placements=tuple(placements)), files.__getitem__))
    return stage, np.array([i.matrix @ _OWN for i in stage.instances if i.name == "Box"]).reshape(-1, 4, 4)


def test_a_row_goes_step_by_step():
    _, at = stage_with(Row(count=5, step=(1.5, -0.5, 0.25)), position=(2, 3, 1), turn_deg=40)
    assert at[:, :3, 3] == pytest.approx(np.array([2, 3, 1]) + np.arange(5)[:, None] * [1.5, -0.5, 0.25])
    assert np.degrees(np.arctan2(at[:, 1, 0], at[:, 0, 0])) == pytest.approx(np.full(5, 40))


@pytest.mark.parametrize("turn", [0.0, 90.0, -30.0])
def test_a_grid_turns_with_its_thing(turn):
    _, at = stage_with(Grid(columns=3, rows=2, apart=(2.0, 1.0)), turn_deg=turn)
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    expected = sorted((round(2 * u * c - v * s, 4), round(2 * u * s + v * c, 4)) for u in range(3) for v in range(2))
    assert np.array(sorted(map(tuple, (at[:, :2, 3] + 0.0).round(4).tolist()))) == pytest.approx(np.array(expected))


def test_along_a_line_each_is_turned_with_it():
    line = ((0.0, 0.0, 0.0), (10.0, 0.0, 2.0), (10.0, 8.0, 2.0))
    _, at = stage_with(Along(points=line, spacing_m=1.0))
    length = np.sqrt(104) + 8
    assert len(at) == int(length) + 1
    gaps = np.linalg.norm(np.diff(at[:, :3, 3], axis=0), axis=1)
    assert gaps.max() <= 1.0 + 1e-9 and np.sort(gaps)[1:] == pytest.approx(
        np.ones(len(gaps) - 1)
    )  # one turns the corner
    turns = np.degrees(np.arctan2(at[:, 1, 0], at[:, 0, 0]))
    assert turns[:10] == pytest.approx(np.zeros(10), abs=1e-9) and turns[-8:] == pytest.approx(np.full(8, 90))


@pytest.mark.parametrize(
    "repeat", [Row(count=4, step=(1, 0, 0)), Grid(columns=2, rows=3), Along(points=((0, 0, 0), (3, 4, 0)), spacing_m=1)]
)
def test_taken_apart_they_stand_where_they_stood(repeat):
    _, at = stage_with(repeat, position=(1, 2, 0.5), turn_deg=25, scale=1.5)
    single = Placement(
        key="box", name="Box", asset=sha(BOX), repeat=repeat, position=(1, 2, 0.5), turn_deg=25, scale=1.5
    )
    alone = np.array([matrix_of(p) for p in apart(single)])
    assert alone == pytest.approx(at, abs=1e-5)
    with pytest.raises(InputError):
        apart(single.model_copy(update={"repeat": None}))


def test_mirrored_things_keep_their_size_and_turn_over():
    placement = Placement(key="b", name="b", asset=sha(BOX), turn_deg=30, scale=2, mirrored=True)
    matrix = matrix_of(placement)[:3, :3]
    assert np.linalg.det(matrix) == pytest.approx(-8) and matrix @ matrix.T == pytest.approx(4 * np.eye(3))
    assert matrix @ [0, 0, 1] == pytest.approx([0, 0, 2])  # it stands upright


@pytest.mark.parametrize("density", [0.05, 0.5, 3.0])
def test_strewn_things_are_as_many_as_asked_and_evenly_spread(density):
    """Counts in 16 equal fields against the even law (chi-squared)."""
    _, at = stage_with(Strewn(outline=SQUARE, density_m2=density, seed=4), ground_glb(0.0))
    assert len(at) == round(400 * density)
    x, y = at[:, 0, 3], at[:, 1, 3]
    assert ((x >= 0) & (x <= 20) & (y >= 0) & (y <= 20)).all()
    if density >= 0.5:
        fields = np.bincount((x // 5).astype(int).clip(0, 3) * 4 + (y // 5).astype(int).clip(0, 3), minlength=16)
        assert chisquare(fields).pvalue > 0.001
    assert at[:, 2, 3] == pytest.approx(np.zeros(len(at)), abs=1e-6)


def test_no_two_stand_nearer_than_asked():
    _, at = stage_with(Strewn(outline=SQUARE, density_m2=0.6, spacing_m=0.9, seed=2), ground_glb(0.0))
    assert pdist(at[:, :2, 3]).min() >= 0.9 - 1e-9 and len(at) == 240
    # So many do not fit: as many stand as do.
    _, full = stage_with(Strewn(outline=SQUARE, density_m2=3.0, spacing_m=0.9, seed=2), ground_glb(0.0))
    assert 240 < len(full) < 400 / (0.9**2 * np.sqrt(3) / 2)  # closest packing of discs


def test_they_stand_on_the_ground_and_off_what_is_steep():
    """The ground is a ramp of 20 degrees: heights follow it; with less allowed, none stand."""
    ramp = ground_glb(20.0)
    _, at = stage_with(Strewn(outline=SQUARE, density_m2=0.5, steepest_deg=21), ramp, position=(0, 0, 0.1))
    assert at[:, 2, 3] == pytest.approx(0.1 + at[:, 0, 3] * np.tan(np.radians(20)), abs=1e-4)
    assert len(stage_with(Strewn(outline=SQUARE, density_m2=0.5, steepest_deg=19), ramp)[1]) == 0


def test_they_keep_off_edges_and_paths_and_on_what_is_named():
    ground = ground_glb(0.0, path=True)  # a path 2 m wide along y at x = 10
    free = Strewn(outline=SQUARE, density_m2=2.0)
    _, inside = stage_with(free.model_copy(update={"edge_m": 3.0}), ground)
    assert ((inside[:, :2, 3] >= 3) & (inside[:, :2, 3] <= 17)).all()
    _, off = stage_with(free.model_copy(update={"off": ("path",), "off_m": 1.0}), ground)
    assert np.abs(off[:, 0, 3] - 10).min() > 1.9 and len(off) == pytest.approx(800 * 16 / 20, rel=0.1)
    _, on = stage_with(free.model_copy(update={"on": ("path",)}), ground)
    assert np.abs(on[:, 0, 3] - 10).max() <= 1.0 and len(on) == pytest.approx(800 * 2 / 20, rel=0.3)
    assert on[:, 2, 3] == pytest.approx(np.full(len(on), 0.05), abs=1e-4)  # the path lies over the ground


def test_sizes_and_turns_stay_within_what_is_asked():
    _, at = stage_with(
        Strewn(outline=SQUARE, density_m2=2.0, size=(0.5, 2.0), turn_deg=60), ground_glb(0.0), turn_deg=100, scale=3
    )
    sizes = np.linalg.norm(at[:, :3, 0], axis=1) / 3
    turns = np.degrees(np.arctan2(at[:, 1, 0], at[:, 0, 0]))
    assert 0.5 <= sizes.min() < 0.55 and 1.95 < sizes.max() <= 2.0 and sizes.mean() == pytest.approx(1.25, abs=0.05)
    assert 70 <= turns.min() < 75 and 125 < turns.max() <= 130


def test_the_same_on_every_run_and_other_with_another_seed():
    ground = ground_glb(0.0)
    first, again, other = (stage_with(Strewn(outline=SQUARE, density_m2=0.5, seed=s), ground)[1] for s in (1, 1, 2))
    assert np.array_equal(first, again) and not np.allclose(first[:, :2, 3], other[:, :2, 3])
    # Without ground below nothing stands.
    assert len(stage_with(Strewn(outline=SQUARE, density_m2=0.5))[1]) == 0


def test_far_from_zero_they_stand_on_the_ground_as_well():
    away = (2_600_000.0, 1_200_000.0)
    outline = tuple((x + away[0], y + away[1]) for x, y in SQUARE)
    files = {sha(BOX): BOX, sha(ground_glb(20.0)): ground_glb(20.0)}
    things = (
        Placement(key="g", name="g", asset=sha(ground_glb(20.0)), position=(*away, 400.0)),
        Placement(
            key="b", name="Box", asset=sha(BOX), made=Made(family="x"), repeat=Strewn(outline=outline, density_m2=0.5)
        ),
    )
    stage = Compiler().stage(LoadedProject(Project(name="p", placements=things), files.__getitem__))
    at = np.array([i.matrix for i in stage.instances if i.name == "Box"])
    assert len(at) == 200
    assert at[:, 2, 3] == pytest.approx(400 + (at[:, 0, 3] - away[0]) * np.tan(np.radians(20)), abs=1e-3)


@pytest.mark.parametrize("wrong", [
    {"kind": "strewn", "outline": [(0, 0), (1, 1), (2, 2)]}, {"kind": "strewn", "outline": SQUARE, "density_m2": 1000},
    {"kind": "strewn", "outline": SQUARE, "size": (2, 1)}, {"kind": "strewn", "outline": SQUARE, "density_m2": 0},
    {"kind": "row", "count": 0}, {"kind": "grid", "columns": 300, "rows": 300}, {"kind": "along", "points": [(0, 0, 0)]},
    {"kind": "along", "points": [(0, 0, 0), (1, 0, 0)], "spacing_m": 0}, {"kind": "spiral"}, {"kind": "row", "wings": 1},
])  # fmt: skip
def test_repeats_that_make_no_sense_are_refused(wrong):
    with pytest.raises(ValidationError):
        Placement(key="b", name="b", asset="0" * 64, repeat=wrong)


def test_area_of_outlines():
    assert area_of(SQUARE) == 400 and area_of(SQUARE[::-1]) == -400
    shifted = tuple((x + 1e6, y - 1e6) for x, y in SQUARE)
    assert area_of(shifted) == pytest.approx(400)


def test_hidden_things_stand_nowhere_and_leave_the_numbers_of_materials():
    files = {sha(BOX): BOX}
    read = {k: read_glb(v) for k, v in files.items()}
    shown = Placement(key="a", name="a", asset=sha(BOX))
    hidden = assembled(read, [shown.model_copy(update={"hidden": True})])
    assert hidden.instances == () and len(hidden.materials) == len(assembled(read, [shown]).materials)
