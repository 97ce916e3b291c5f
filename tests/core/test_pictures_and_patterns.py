"""Pictures over surfaces against scipy's interpolation, patterns, tiles of a picture, and what is kept by its key."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest
from scipy.ndimage import map_coordinates

from valleylight.core.errors import InputError
from valleylight.core.film import columns
from valleylight.core.film.film import Film
from valleylight.core.project import Air, Sky
from valleylight.core.trace.scene.kept import Kept, digest
from valleylight.core.trace.textures.lookup import lookup, nearest
from valleylight.core.trace.textures.pattern import noise, turbulence
from valleylight.core.trace.tiles import LEAST_SAMPLES, noisy_tiles, tiles, tiles_in

RNG = np.random.default_rng(6)
PLAIN = (np.arange(256) / 255.0).astype(np.float32)
SMALL, LARGE = RNG.integers(0, 256, (5, 7, 3), np.uint8), RNG.integers(0, 256, (16, 3, 3), np.uint8)
PIXELS = np.concatenate([SMALL.ravel(), LARGE.ravel()])
INFO = np.array([(0, 7, 5), (SMALL.size, 3, 16)], np.int64)


@pytest.mark.parametrize(("number", "picture"), [(0, SMALL), (1, LARGE)])
def test_pictures_are_interpolated_and_repeated(number, picture):
    """Bilinear between the middles of texels, over the edges too (scipy, grid-wrap)."""
    height, width = picture.shape[:2]
    for u, v in RNG.uniform(-2, 3, (200, 2)):
        found = lookup(PIXELS, INFO, PLAIN, number, u, v)
        at = [[v * height - 0.5], [u * width - 0.5]]
        wanted = [map_coordinates(picture[..., c] / 255.0, at, order=1, mode="grid-wrap")[0] for c in range(3)]
        assert found == pytest.approx(wanted, abs=1e-5)


def test_the_nearest_texel_is_the_one_that_holds_the_place():
    for row in range(5):
        for column in range(7):
            u, v = (column + 0.31) / 7 + 4, (row + 0.77) / 5 - 3
            assert nearest(PIXELS, INFO, PLAIN, 0, u, v) == pytest.approx(SMALL[row, column] / 255.0)


def test_noise_is_smooth_has_no_mean_and_does_not_repeat():
    places = RNG.uniform(-40, 40, (4000, 3))
    values = np.array([noise(*p) for p in places])
    assert abs(values.mean()) < 0.02 and np.abs(values).max() <= 1.1
    # Gradient noise vanishes on its lattice and has slopes of a wavelength of about one.
    assert [noise(float(x), 2.0, -5.0) for x in range(-3, 4)] == pytest.approx([0] * 7, abs=1e-12)
    h = 1e-5
    slopes = [(noise(x + h, y, z) - noise(x - h, y, z)) / (2 * h) for x, y, z in places[:500]]
    assert max(map(abs, slopes)) < 4
    assert not np.allclose(values[:200], [noise(x + 16, y, z) for x, y, z in places[:200]])
    once, twice = (np.array([turbulence(*p, n) for p in places[:1000]]) for n in (1, 4))
    assert once == pytest.approx(0.6 * values[:1000]) and np.abs(twice).max() < 1.4


@pytest.mark.parametrize(("width", "height"), [(64, 32), (33, 1), (1, 70), (100, 67), (8, 8)])
def test_tiles_cover_a_picture_once(width, height):
    seen = np.zeros((height, width), int)
    for x0, y0, x1, y1 in tiles(width, height):
        seen[y0:y1, x0:x1] += 1
    assert (seen == 1).all()


@pytest.mark.parametrize("region", [(0, 0, 1, 1), (0.2, 0.3, 0.21, 0.31), (0, 0, 0.001, 0.001), (0.99, 0.5, 1, 1)])
def test_the_tiles_of_a_region_are_those_it_touches(region):
    left, top, right, bottom = (v * s for v, s in zip(region, (200, 120, 200, 120), strict=True))
    chosen = tiles_in(region, 200, 120)
    for tile in tiles(200, 120):
        x0, y0, x1, y1 = tile
        assert (tile in chosen) == (x0 < right and x1 > left and y0 < bottom and y1 > top)
    assert chosen


@pytest.mark.parametrize(
    "region", [(0.5, 0, 0.5, 1), (0.6, 0, 0.5, 1), (-0.1, 0, 1, 1), (0, 0, 1, 1.01), (0, 0.5, 1, float("nan"))]
)
def test_regions_that_are_none_are_refused(region):
    with pytest.raises(InputError, match="region"):
        tiles_in(region, 200, 120)


def test_tiles_are_left_alone_once_their_own_noise_is_low():
    """Samples of one calm and one noisy half: standard error over the mean and a twentieth of white."""
    film, count = Film.empty(64, 32, ("all",)), 64
    samples = np.concatenate([RNG.normal(10, 0.1, (count, 32, 32)), RNG.normal(10, 8.0, (count, 32, 32))], 2)
    film.auxiliary[..., columns.PASS_LUMINANCE] = samples.sum(0)
    film.auxiliary[..., columns.PASS_SQUARES] = (samples**2).sum(0)
    film.counts[:] = count
    calm, noisy = tiles(64, 32)
    error = 8.0 / np.sqrt(count) / (10 + 0.05)
    assert noisy_tiles(film, [calm, noisy], 0.5 * error) == [noisy]
    assert noisy_tiles(film, [calm, noisy], 2.0 * error) == []
    assert noisy_tiles(film, [calm, noisy], 1e-5) == [calm, noisy]
    assert noisy_tiles(film, [noisy], 2.0 * error) == []
    film.counts[0, 0] = LEAST_SAMPLES - 1  # of too few samples nothing is known
    assert noisy_tiles(film, [calm, noisy], 2.0 * error) == [calm]


def test_what_was_used_last_is_kept():
    made: Counter[str] = Counter()
    kept: Kept[str] = Kept(2)

    def get(key: str) -> str:
        return kept.get(key, lambda: made.update([key]) or key.upper())

    assert [get(k) for k in "abab"] == ["A", "B", "A", "B"] and made == {"a": 1, "b": 1}
    assert get("a") == "A" and kept.newest() == "A"
    get("c")  # b is let go of
    assert "a" in kept and "b" not in kept
    get("b")
    assert made == {"a": 1, "b": 2, "c": 1} and "a" not in kept


def test_all_but_some_may_be_let_go_of():
    kept: Kept[int] = Kept(9)
    for key in "abcd":
        kept.get(key, lambda key=key: ord(key))
    kept.keep_only({"b", "d", "x"})
    assert kept.values() == [ord("b"), ord("d")] and "a" not in kept


def test_what_fails_is_not_kept():
    kept: Kept[int] = Kept(2)
    with pytest.raises(ZeroDivisionError):
        kept.get("x", lambda: 1 // 0)
    assert "x" not in kept and kept.newest() is None
    assert kept.get("x", lambda: 3) == 3


def test_digests_tell_descriptions_apart():
    sky, air = Sky(), Air()
    same = digest(sky, air, (sky,), 1.0)
    assert digest(Sky(), Air(), [Sky()], 1.0) == same
    for other in ((air, sky, (sky,), 1.0), (sky, air, (sky, sky), 1.0), (sky, air, (sky,), 1.5),
                  (sky, air.model_copy(update={"on": True}), (sky,), 1.0)):  # fmt: skip
        assert digest(*other) != same
