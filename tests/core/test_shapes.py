"""Shapes that others are built of: their faces look where their normals say, and have the areas of what they stand for."""

from __future__ import annotations

import numpy as np
import pytest

from valleylight.core.making.shapes import Shape, box, lathe, rings, tube


def facing(shape: Shape) -> np.ndarray:
    """Cosine between each facet and the normals told at its corners, (T,)."""
    p, told = shape.points[shape.triangles], shape.normals[shape.triangles].mean(1)
    n = np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    length = np.linalg.norm(n, axis=1)
    there = length > 1e-12
    return (n[there] / length[there, None] * told[there]).sum(1)


def area(shape: Shape) -> float:
    p = shape.points[shape.triangles]
    return float(np.linalg.norm(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), axis=1).sum() / 2)


@pytest.mark.parametrize("end", [(0, 0, 2), (0, 0, -2), (2, 0, 0), (0.3, 1.2, 1.6), (-1, -1, 0.1)])
def test_tubes_face_outwards_whichever_way_they_run(end):
    shape = tube([(0, 0, 0), tuple(np.array(end) * 0.4), end], 0.1, 48)
    assert facing(shape).min() > 0.95
    assert area(shape) == pytest.approx(2 * np.pi * 0.1 * np.linalg.norm(end), rel=0.01)


def test_a_bent_tube_is_not_twisted():
    """Along an arc from level over upright and down again, the seam stays on one side."""
    t = np.linspace(0, np.pi, 41)
    path = np.stack([np.cos(t), 0 * t, np.sin(t)], 1)
    shape = tube(path, np.linspace(0.1, 0.02, 41), 12)
    seam = shape.points.reshape(41, 13, 3)[:, 0] - path
    across = seam[:, 1] / np.linalg.norm(seam, axis=1)
    assert np.ptp(across) < 1e-6
    assert facing(shape).min() > 0.8


def test_a_tube_may_be_as_wide_as_each_of_its_sides_wants():
    wide = np.full((2, 9), 0.2)
    wide[:, 4] = 0.5
    shape = tube([(0, 0, 0), (0, 0, 1)], wide, 8)
    r = np.hypot(shape.points[:, 0], shape.points[:, 1]).reshape(2, 9)
    assert r == pytest.approx(wide)


@pytest.mark.parametrize("first", [0.0, 5.0])
def test_rings_look_up_and_cover_their_disc(first):
    radii, angles = np.concatenate([[first], np.geomspace(6, 400, 30)]), np.linspace(-np.pi, np.pi, 181)
    slope = 0.2 * radii[:, None] * np.cos(angles)
    shape = rings(radii, angles, slope)
    assert facing(shape).min() > 0.99
    assert shape.normals[:, 2].min() > 0.97
    flat = np.pi * (400**2 - first**2)
    assert area(shape) == pytest.approx(flat * np.hypot(1, 0.2), rel=1e-3)
    p = shape.points[shape.triangles]
    assert np.linalg.norm(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), axis=1).min() > 1e-9  # none is empty


def test_boxes_and_lathes_face_outwards():
    assert facing(box([0, 0, 0], [1, 2, 3], 0.1)).min() > 0.9
    assert area(box([0, 0, 0], [1, 2, 3])) == pytest.approx(22.0)
    assert facing(lathe([(0.5, 0.0), (0.5, 1.0)], 64)).min() > 0.99


def test_a_part_of_a_shape_keeps_the_points_that_it_needs():
    whole = box([0, 0, 0], [1, 1, 1])
    half = whole.of(np.arange(len(whole.triangles)) < 6)
    assert len(half.triangles) == 6 and len(half.points) < len(whole.points)
    assert half.points[half.triangles] == pytest.approx(whole.points[whole.triangles[:6]])
    assert len(whole.of(np.zeros(12, bool)).points) == 0
