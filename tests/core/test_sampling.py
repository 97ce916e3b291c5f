"""The sample sequence and the maps that use it."""

from __future__ import annotations

import numpy as np
import pytest

from valleylight.core.trace.sampling import sobol as sampling


@pytest.mark.parametrize("count", [4, 16, 64, 256])
@pytest.mark.parametrize("dimension", [0, 3, 7])
def test_every_power_of_two_is_stratified(count, dimension):
    """A (0, 2)-sequence in base 2 has one point in each elementary interval (H. Niederreiter, 1987)."""
    points = np.array([sampling.square(k, np.uint32(12345), dimension) for k in range(count)])
    assert (points >= 0).all() and (points < 1).all()
    bits = int(np.log2(count))
    for a in range(bits + 1):
        cells = np.floor(points[:, 0] * 2**a).astype(int) * 2 ** (bits - a) + np.floor(
            points[:, 1] * 2 ** (bits - a)
        ).astype(int)
        assert len(set(cells)) == count


def test_pixels_and_dimensions_differ():
    one = [sampling.square(k, np.uint32(1), 0) for k in range(16)]
    assert one != [sampling.square(k, np.uint32(2), 0) for k in range(16)]
    assert one != [sampling.square(k, np.uint32(1), 1) for k in range(16)]
    assert one == [sampling.square(k, np.uint32(1), 0) for k in range(16)]


def test_sequence_integrates_better_than_chance():
    """The mean of x y over the unit square is 1/4; 256 stratified points come far closer than random ones would."""
    points = np.array([sampling.square(k, np.uint32(77), 2) for k in range(256)])
    assert (points[:, 0] * points[:, 1]).mean() == pytest.approx(0.25, abs=0.004)
    plain = np.array([sampling.scatter_square(k, np.uint32(77), 2) for k in range(4096)])
    assert plain.mean(0) == pytest.approx([0.5, 0.5], abs=0.03)


def test_disk_is_even():
    u = (np.arange(64) + 0.5) / 64
    points = np.array([sampling.disk(a, b) for a in u for b in u])
    radius = np.hypot(points[:, 0], points[:, 1])
    assert radius.max() <= 1.0
    assert (radius < 0.5).mean() == pytest.approx(0.25, abs=0.01)  # a quarter of the area


@pytest.mark.parametrize("direction", [(0, 0, 1), (0, 0, -1), (0.6, 0, 0.8), (-0.48, 0.6, -0.64)])
def test_basis_is_orthonormal(direction):
    t = np.array(sampling.basis(*map(float, direction))).reshape(2, 3)
    frame = np.vstack([t, direction])
    assert frame @ frame.T == pytest.approx(np.eye(3), abs=1e-9)


def test_search_finds_the_interval():
    cdf = np.array([0.0, 0.1, 0.1, 0.6, 1.0])
    for u, expected in ((0.0, 0), (0.05, 0), (0.1, 2), (0.59, 2), (0.6, 3), (0.999, 3)):
        assert sampling.search(cdf, 0, 4, u) == expected


def test_power_heuristic_sums_to_one():
    assert sampling.power_heuristic(3.0, 4.0) + sampling.power_heuristic(4.0, 3.0) == pytest.approx(1.0)
    assert sampling.power_heuristic(0.0, 1.0) == 0.0
