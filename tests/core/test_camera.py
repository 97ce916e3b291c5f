"""The lens: projection, upright verticals, depth of field."""

from __future__ import annotations

import numpy as np
import pytest

from valleylight.core.project import View
from valleylight.core.trace.arrays.camera import camera_array, project_point
from valleylight.core.trace.intersect.vertex import camera_ray


def view(**more) -> View:
    return View(key="v", name="v", position=(1, -5, 1.6), target=(2, 3, 4), focal_mm=24, **more)


@pytest.mark.parametrize("upright", [True, False])
def test_the_target_stands_in_the_middle(upright):
    record = camera_array(view(keep_verticals=upright), 8.0, 16 / 9)
    assert project_point(record, (2, 3, 4)) == pytest.approx((0.5, 0.5))
    assert project_point(record, (1, -20, 1)) is None


def test_verticals_stay_upright_only_when_kept():
    top, bottom = (3, 4, 8), (3, 4, 0)
    kept = camera_array(view(keep_verticals=True), 8.0, 16 / 9)
    free = camera_array(view(keep_verticals=False), 8.0, 16 / 9)
    assert project_point(kept, top)[0] == pytest.approx(project_point(kept, bottom)[0])
    assert abs(project_point(free, top)[0] - project_point(free, bottom)[0]) > 0.005


def test_angle_of_view_is_that_of_the_focal_length():
    """2 atan(36 / (2 f)): 73.7 degrees for 24 mm on a 36 mm film."""
    record = camera_array(view(), 8.0, 16 / 9)
    left = np.array(camera_ray(record, 0.0, 360.0, 1280, 720, 0.5, 0.5, 0.0)[3:])
    right = np.array(camera_ray(record, 1280.0, 360.0, 1280, 720, 0.5, 0.5, 0.0)[3:])
    flat = lambda d: d[:2] / np.hypot(*d[:2])  # noqa: E731
    assert np.degrees(np.arccos(flat(left) @ flat(right))) == pytest.approx(73.74, abs=0.01)


def test_rays_and_projection_are_inverse():
    record = camera_array(view(), 8.0, 16 / 9)
    for x, y in ((100.5, 80.25), (640, 360), (1200, 700)):
        o_d = np.array(camera_ray(record, x, y, 1280, 720, 0.5, 0.5, 0.0))
        u, v = project_point(record, o_d[:3] + 7 * o_d[3:])
        assert (u * 1280, v * 720) == pytest.approx((x, y), abs=1e-6)


def test_rays_through_the_whole_lens_meet_at_the_focus():
    record = camera_array(view(focus_m=4.0), 2.0, 16 / 9)
    assert record[16] == pytest.approx(0.024 / 2 / 2)
    forward = record[3:6]
    points = []
    for u, v in ((0.5, 0.5), (0.01, 0.4), (0.9, 0.95)):
        ray = np.array(camera_ray(record, 300.0, 500.0, 1280, 720, u, v, 0.0))
        points.append(ray[:3] + ray[3:] * ((4.0 - (ray[:3] - record[:3]) @ forward) / (ray[3:] @ forward)))
    assert np.ptp(points, axis=0).max() < 1e-9


@pytest.mark.parametrize(("target", "right", "up"), [
    ((1.0, -5.0, 0.0), (1, 0, 0), (0, 1, 0)), ((1.0, -5.0, 9.0), (1, 0, 0), (0, -1, 0)),
])  # fmt: skip
def test_a_view_straight_down_has_north_at_its_top(target, right, up):
    """As a plan lies; straight up, east stays to the right. Nearly straight down, the picture turns with the way it leans."""
    straight = View(key="v", name="v", position=(1, -5, 1.6), target=target, focal_mm=24, keep_verticals=False)
    record = camera_array(straight, 8.0, 1.5)
    assert record[6:9] == pytest.approx(right) and record[9:12] == pytest.approx(up)
    leaning = straight.model_copy(update={"target": (target[0], target[1] + 0.001, target[2])})
    assert camera_array(leaning, 8.0, 1.5)[6:9] == pytest.approx(right, abs=1e-2)
    assert project_point(record, target) == pytest.approx((0.5, 0.5))
