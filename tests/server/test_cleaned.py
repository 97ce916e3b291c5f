"""The kept film without noise: at other levels it is the sum that would have been cleaned, but for what noise removal leaves."""

from __future__ import annotations

import numpy as np
import pytest

from valleylight.core.film.film import Film
from valleylight.server.worker.cleaned import CleanedFilm
from valleylight.server.worker.told import histogram


def two_lights() -> tuple[Film, dict[str, np.ndarray]]:
    """A wall lit from the left by one group and from the right by another, with noise."""
    rng = np.random.default_rng(3)
    film = Film.empty(160, 96, ("sun", "Shelves"))
    film.samples = 8
    film.counts[:] = 8
    ramp = np.linspace(0.05, 1, 160, dtype=np.float32)[None, :, None] * np.ones((96, 1, 3), np.float32)
    true = {"sun": 40 * ramp, "Shelves": 25 * ramp[:, ::-1]}
    for k, picture in enumerate(true.values()):
        film.light[:, :, k] = 8 * picture * rng.gamma(16, 1 / 16, (96, 160, 1))
    film.auxiliary[..., 0:3], film.auxiliary[..., 5] = 8 * 0.5, 8
    film.auxiliary[..., 6], film.auxiliary[..., 7] = 8 * 3, 8
    return film, true


@pytest.mark.parametrize(
    "levels", [{"sun": 0.25}, {"sun": 2.0, "Shelves": 0.5}, {"Shelves": 0.0}, {"sun": 0.0, "Shelves": 4.0}]
)
def test_other_levels_are_met_without_cleaning_again(levels):
    film, true = two_lights()
    kept = CleanedFilm(film, {}, "balanced")
    assert kept.is_exact and kept.is_of(film)
    got = kept.at(levels)
    want = sum(levels.get(name, 1.0) * picture for name, picture in true.items())
    assert np.abs(got - want).mean() < 0.06 * want.mean() and not kept.is_exact
    # Half a picture wide nothing drifts: there and back again is where it began.
    assert kept.at({}) is kept.picture and kept.is_exact
    shares = kept.shares()
    assert sum(shares.values()) == pytest.approx(1, abs=1e-5)
    assert shares["sun"] == pytest.approx(40 / 65, abs=0.01)


def test_a_group_that_was_dark_when_it_was_kept():
    film, true = two_lights()
    kept = CleanedFilm(film, {"Shelves": 0.0}, "balanced")
    got = kept.at({"Shelves": 1.0})
    want = true["sun"] + true["Shelves"]
    assert np.abs(got - want).mean() < 0.06 * want.mean()


def test_another_pass_makes_it_stale():
    film, _ = two_lights()
    kept = CleanedFilm(film, {}, "fast")
    film.samples += 1
    assert not kept.is_of(film) and not kept.is_of(None)


def test_the_histogram_counts_stops_about_white():
    luminance = np.full((40, 40), 100.0, np.float32)
    luminance[:20] = 25.0
    told = histogram(luminance, 100.0)
    width = (told["to"] - told["from"]) / len(told["shares"])
    place = lambda stops: int((stops - told["from"]) / width)  # noqa: E731
    assert told["shares"][place(0)] == 0.5 and told["shares"][place(-2)] == 0.5 and sum(told["shares"]) == 1
    assert histogram(np.zeros((4, 4), np.float32), 1.0)["shares"][0] == 1
