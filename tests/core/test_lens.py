"""The lens as a photographer sets it: third stops, depth of field, the frame, advice; and the drawings of where it stands."""

from __future__ import annotations

import math

import numpy as np
import pytest

from tests import small
from valleylight.core.errors import InputError
from valleylight.core.finish.exposure import ev100
from valleylight.core.lens import framing, stops
from valleylight.core.lens.advice import advised
from valleylight.core.lens.sharpness import circle_mm, sharpness
from valleylight.core.measure import plan
from valleylight.core.measure.standing import standing
from valleylight.core.project import Lens, View
from valleylight.core.stage.model import MeshInstance, StageData
from valleylight.core.trace.arrays.camera import camera_array, project_direction, project_point
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import SKETCH
from valleylight.validation.stages import quad


def view(**more) -> View:
    given = {"key": "v", "name": "v", "position": (1, -5, 1.6), "target": (2, 3, 2.4), "focal_mm": 24, **more}
    return View(**given)


@pytest.mark.parametrize("ring", stops.RINGS)
def test_every_click_is_a_third_of_a_stop_and_written_as_the_standards_round_it(ring):
    """ISO 2720: EV = log2(N^2 / t) - log2(S / 100); a click of any ring changes it by a third."""
    clicks = stops.RINGS[ring]
    values = [ev100(Lens().model_copy(update={ring: c.value})) for c in clicks]
    assert np.diff(values) == pytest.approx(np.full(len(clicks) - 1, -stops.LIGHT[ring]), abs=1e-9)
    for click in clicks:
        assert abs(stops.stops_between(ring, click.value, click.engraved)) < 0.15, click
        assert stops.written(ring, click.value) == click.label
        assert clicks[stops.nearest(ring, click.engraved)] == click


def test_whole_stops_stand_where_they_are_exact():
    labels = {c.label: c.value for clicks in stops.RINGS.values() for c in clicks}
    exact = {
        "f/1": 1,
        "f/2": 2,
        "f/8": 8,
        "f/16": 16,
        "1 s": 1,
        "1/4 s": 1 / 4,
        "1/8 s": 1 / 8,
        "ISO 100": 100,
        "ISO 25": 25,
        "ISO 400": 400,
    }
    assert {k: labels[k] for k in exact} == pytest.approx(exact)
    assert labels["f/5.6"] == pytest.approx(math.sqrt(32))
    assert labels["1/60 s"] == pytest.approx(1 / 64)


@pytest.mark.parametrize(("ring", "value", "text"), [
    ("f_number", 8.0, "f/8"), ("f_number", 7.5, "f/7.5"), ("f_number", 128, "f/128"), ("shutter_s", 1 / 60, "1/60 s"),
    ("shutter_s", 1 / 110, "1/110 s"), ("shutter_s", 45.0, "45 s"), ("iso", 100, "ISO 100"), ("iso", 114, "ISO 114"),
])  # fmt: skip
def test_what_stands_between_two_clicks_is_told_as_it_is(ring, value, text):
    assert stops.written(ring, value) == text


def test_the_rule_of_sixteen_is_among_what_is_usual():
    """f/16 at 1 / ISO seconds in full sun (common practice)."""
    sunny = ev100(Lens(f_number=16, shutter_s=1 / 100, iso=100))
    assert {u.name: u.ev100 for u in stops.USUAL}["full sun"] == pytest.approx(sunny)
    assert [u.ev100 for u in stops.USUAL] == sorted(u.ev100 for u in stops.USUAL)


def test_depth_of_field_against_a_worked_example():
    """50 mm, f/8, c = 0.03 mm, focused on 5 m: H = 2500 / (8 x 0.03) + 50 mm = 10.467 m; limits by hand 3.389 m and 9.527 m. The circle is
    set by the format: a picture whose diagonal is 1500 x 0.03 mm."""
    wide = 45 / math.hypot(1, 2 / 3)
    lens = view(focal_mm=50, film_width_mm=wide, format=(3, 2), focus_m=5.0)
    assert circle_mm(lens) == pytest.approx(0.03)
    got = sharpness(lens, 8.0)
    h = 2500 / 0.24
    assert got.hyperfocal_m == pytest.approx((h + 50) / 1000)
    assert got.near_m == pytest.approx(5 * h / (h + 5000 - 50), rel=1e-9)
    assert got.far_m == pytest.approx(5 * h / (h + 50 - 5000), rel=1e-9)
    assert (got.near_m, got.far_m) == (pytest.approx(3.389, abs=0.002), pytest.approx(9.527, abs=0.002))


@pytest.mark.parametrize(("focal", "n"), [(16, 2.8), (24, 8), (85, 1.4), (200, 22)])
def test_focused_on_the_hyperfocal_distance_all_is_sharp_from_half_of_it(focal, n):
    """And the blur at both limits is the circle itself: c = f^2 / (N (s - f)) |d - s| / d."""
    lens = view(focal_mm=focal)
    h = sharpness(lens, n).hyperfocal_m
    got = sharpness(lens, n, h)
    assert got.near_m == pytest.approx(h / 2, rel=1e-3)
    assert got.far_m is None
    for s in (0.4 * h, 0.8 * h):
        got, f = sharpness(lens, n, s), focal / 1000
        for d in (got.near_m, got.far_m):
            assert f * f / (n * (s - f)) * abs(d - s) / d * 1000 == pytest.approx(circle_mm(lens), rel=1e-6)


def test_a_pinhole_is_sharp_from_the_lens_on():
    got = sharpness(view(), 8.0)
    assert (got.near_m, got.far_m) == (0.0, None)


@pytest.mark.parametrize(
    "more", [{}, {"keep_verticals": False}, {"shift_x": 0.3, "shift_y": -0.2}, {"format": (4, 5), "film_width_mm": 24}]
)
def test_the_frame_is_that_of_the_traced_lens(more):
    lens = view(**more)
    frame, record = framing.frame_of(lens), camera_array(lens, 8.0, lens.aspect)
    level = np.array([1.0, 8.0, 0.0])
    _, y = project_direction(record, level)
    assert y == pytest.approx(frame.horizon)
    # The edges: a ray at the tangent of the right one is projected to 1.
    forward, right, up = record[3:6], record[6:9], record[9:12]
    edge = forward + (frame.right + frame.half_width) * right + (frame.up + frame.half_height) * up
    assert project_direction(record, edge) == pytest.approx((1, 0))


def test_angles_of_view_are_those_of_the_focal_length():
    """2 atan(36 / 2f): 73.74 degrees for 24 mm, 46.40 upright for 16 to 9, on a lens that looks level."""
    frame = framing.frame_of(view(target=(2, 3, 1.6)))
    assert frame.across_deg == pytest.approx(73.7398, abs=1e-4)
    assert frame.upright_deg == pytest.approx(2 * math.degrees(math.atan(36 / 48 * 9 / 16)))
    assert frame.horizon == pytest.approx(0.5)


@pytest.mark.parametrize("more", [{}, {"keep_verticals": False}, {"shift_x": 0.4, "format": (1, 1)}])
@pytest.mark.parametrize(
    "edges", [(0.2, 0.1, 0.9, 0.6), (0.0, 0.0, 1.0, 1.0), (-0.5, -0.2, 1.3, 1.4), (0.6, 0.7, 0.8, 0.8)]
)
def test_what_is_cut_shows_the_part_and_nothing_else_of_it_changes(more, edges):
    """Every point of the stage is where it was, measured by the new frame."""
    lens = view(**more)
    cut = framing.cropped(lens, *edges)
    left, top, right, bottom = edges
    before, after = (camera_array(v, 8.0, v.aspect) for v in (lens, cut))
    for point in ((2, 3, 2.4), (0, 4, 1), (3, 6, 4), (1, 2, 0.2)):
        x, y = project_point(before, point)
        wanted = (x - left) / (right - left), (y - top) / (bottom - top)
        assert project_point(after, point) == pytest.approx(wanted, abs=2e-3 * max(1, abs(wanted[1])))
    assert (cut.focal_mm, cut.position, cut.target) == (lens.focal_mm, lens.position, lens.target)


def test_a_cut_to_a_format_has_it_and_twice_cut_is_cut_once():
    lens = view(format=(3, 2))
    square = framing.cropped(lens, 0.25, 0.0, 0.75, 1.0, (1, 1))
    assert (square.format, square.film_width_mm) == ((1, 1), 18)
    twice = framing.cropped(framing.cropped(lens, 0, 0, 0.5, 0.5), 0.5, 0.5, 1, 1)
    once = framing.cropped(lens, 0.25, 0.25, 0.5, 0.5)
    for name in ("film_width_mm", "shift_x", "shift_y", "format"):
        assert getattr(twice, name) == pytest.approx(getattr(once, name))


@pytest.mark.parametrize(("edges", "told"), [
    ((0.5, 0.2, 0.5, 0.8), "frame"), ((0.9, 0.1, 0.2, 0.5), "frame"), ((0, 0.5, 1, 0.52), "narrow"), ((-9, 0, 9, 1), "frame"),
    ((0.97, 0.97, 1.0, 1.0), "shifted|film"), ((0, 0, 0.05, 0.05), "film"),
])  # fmt: skip
def test_a_frame_that_cannot_be_cut_is_refused(edges, told):
    with pytest.raises(InputError, match=told):
        framing.cropped(view(), *edges)


@pytest.mark.parametrize("at", [0.5, 0.33, 0.0, 1.2])
@pytest.mark.parametrize("upright", [True, False])
def test_the_horizon_lies_where_the_film_was_shifted_to(at, upright):
    lens = framing.with_horizon(view(keep_verticals=upright, shift_x=0.1), at)
    assert framing.frame_of(lens).horizon == pytest.approx(at, abs=1e-6)
    assert lens.shift_x == 0.1


def test_focus_is_found_along_the_axis_and_not_along_the_sight():
    lens = view(position=(0, 0, 1.5), target=(0, 4, 1.5))
    assert framing.axial_m(lens, (3.0, 4.0, 1.5)) == pytest.approx(4.0)
    leaning = view(position=(0, 0, 0), target=(0, 3, 4), keep_verticals=False)
    assert framing.axial_m(leaning, (0, 0, 5)) == pytest.approx(4.0)
    assert framing.axial_m(leaning.model_copy(update={"keep_verticals": True}), (0, 2, 5)) == pytest.approx(2.0)


def test_advice_by_an_even_card_is_that_of_a_meter():
    """ISO 2720: EV = log2(100 L / 12.5); the card's own white lies log2(78 / 0.65 / 12.5) stops above it (ISO 12232)."""
    got = advised(np.full((60, 90), 50.0))
    assert (got.average, got.centre) == pytest.approx((math.log2(400), math.log2(400)))
    assert got.average - got.highlights == pytest.approx(math.log2(78 / 0.65 / 12.5))
    assert advised(np.zeros((4, 4))) is None


def test_the_centre_counts_for_the_centre_and_few_bright_pixels_are_let_go():
    picture = np.full((90, 160), 10.0)
    picture[35:55, 65:95] = 160.0
    got = advised(picture)
    assert got.centre > got.average + 1
    sparks = np.full((100, 100), 10.0)
    sparks[0, :40] = 1e5
    assert advised(sparks).highlights == pytest.approx(advised(np.full((9, 9), 10.0)).highlights)


def room(matrix=None) -> StageData:
    from valleylight.core.stage import Material

    wall = quad([(-3, 4, 0), (3, 4, 0), (3, 4, 2), (-3, 4, 2)], 0)
    return StageData(
        (wall,), (MeshInstance(0, np.eye(4) if matrix is None else matrix, name="wall"),), (Material(name="m"),), ()
    )


def test_a_section_along_a_direction_meets_a_wall_where_it_stands():
    """A wall 4 m to the north, looked at 30 degrees off: met at 4 / cos 30."""
    far = (-20.0, -20.0), (20.0, 20.0)
    got = plan.section_along(room(), (0, 0), (math.tan(math.radians(30)), 1), *far)
    assert sorted(set(np.round(got[:, [0, 2]].ravel(), 6))) == pytest.approx([4 / math.cos(math.radians(30))], abs=1e-5)
    assert got[:, [1, 3]].min() == pytest.approx(0)
    assert got[:, [1, 3]].max() == pytest.approx(2)
    assert len(plan.section_along(room(), (0, 0), (0, -1), (0.0, -9.0), (9.0, 9.0))) == 0
    assert len(plan.section_along(room(), (0, 0), (1, 0.1), *far)) == 0  # past the end of the wall


def test_sections_along_an_axis_are_those_across_the_other():
    turned = np.eye(4)
    turned[:3, :3] = [[0.6, -0.8, 0], [0.8, 0.6, 0], [0, 0, 1]]
    stage = room(turned)
    far = (-20.0, -20.0), (20.0, 20.0)
    along = plan.section_along(stage, (0.5, 0), (0, 1), *far)
    across = plan.section(stage, 0, 0.5, *far)
    assert np.sort(along.round(6), 0) == pytest.approx(np.sort(across.round(6), 0))


def test_where_a_lens_stands_is_measured_to_what_is_about_it():
    """The small room: 6 x 4 x 3 m."""
    project = small.project()
    lens = project.description.view("inside").model_copy(
        update={"position": (5.0, 3.0, 1.5), "target": (1.0, 3.0, 1.5)}
    )
    scene = Compiler().scene(project, lens, project.description.occasion("noon"), 64, 36, 1, SKETCH)
    got = standing(scene, lens)
    wanted = {"floor": 1.5, "ceiling": 1.5, "ahead": 5.0, "behind": 1.0, "left": 3.1, "right": 1.0, "subject": 5.0}
    left = wanted.pop("left")  # through the window: its pane is met
    assert {k: getattr(got, k) for k in wanted} == pytest.approx(wanted, abs=1e-4)
    assert got.left == pytest.approx(left, abs=0.11)
