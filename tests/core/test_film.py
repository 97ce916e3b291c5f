"""Film files and noise removal."""

from __future__ import annotations

import numpy as np
import pytest

from valleylight.core.errors import InputError
from valleylight.core.film import Film, columns, remove_noise
from valleylight.core.film.exr import read_exr, write_exr
from valleylight.core.together import together


def noisy_film(seed: int = 1) -> Film:
    rng = np.random.default_rng(seed)
    film = Film.empty(96, 64, ("sun", "Shelf lines"))
    film.samples = 4
    film.counts[:] = 4
    ramp = np.linspace(0.2, 1.0, 96)[None, :, None]
    film.light[:, :, 0] = 4 * 800 * ramp * rng.exponential(1.0, (64, 96, 1))
    film.light[:, :, 1] = 4 * 0.02 * ramp * rng.exponential(1.0, (64, 96, 1))
    film.auxiliary[..., 0:3], film.auxiliary[..., 5] = 4 * 0.5, 4 * 1.0
    film.auxiliary[..., 6], film.auxiliary[..., 7] = 4 * 3.0, 4.0
    return film


def test_noise_removal_keeps_each_light():
    """Each group is cleaned at its own level, from noon to night, and keeps its mean."""
    film = noisy_film()
    before = film.groups
    remove_noise(film)
    for name, truth in (("sun", 800.0), ("Shelf lines", 0.02)):
        clean = film.groups[name]
        ramp = np.linspace(0.2, 1.0, 96)[None, :, None] * truth
        assert clean.mean() == pytest.approx(before[name].mean(), rel=0.05)
        assert np.abs(clean - ramp).mean() < 0.25 * np.abs(before[name] - ramp).mean()


def test_exr_round_trip(tmp_path):
    film = noisy_film()
    film.settings["saturation_cd_m2"] = 123.0
    film.auxiliary[:, :48, columns.PASS_BEYOND] = 1.0
    write_exr(film, tmp_path / "film.exr", {"sun": 0.5})
    again = read_exr(tmp_path / "film.exr")
    assert again.group_names == film.group_names
    assert again.settings["saturation_cd_m2"] == 123.0
    for name, picture in film.groups.items():
        assert again.groups[name] == pytest.approx(picture, rel=2e-3, abs=1e-6)
    assert again.passes["depth"] == pytest.approx(3.0)
    assert again.passes["alpha"] == pytest.approx(film.passes["alpha"], abs=1e-3)
    assert film.passes["alpha"][0, [0, 95]].tolist() == [0.75, 1.0]


def test_exr_is_read_by_another_reader(tmp_path):
    """OpenEXR's own reader finds R, G, B as the balanced picture in cd/m2, and the layers by name."""
    import OpenEXR

    film = noisy_film()
    write_exr(film, tmp_path / "film.exr")
    with OpenEXR.File(str(tmp_path / "film.exr"), separate_channels=True) as file:
        channels = file.channels()
        assert {"R", "light sun.R", "light Shelf lines.G", "depth.Z", "normal.X"} <= set(channels)
        assert channels["G"].pixels == pytest.approx(film.balanced()[..., 1])


def test_another_file_is_refused(tmp_path):
    (tmp_path / "x.exr").write_bytes(b"no picture")
    with pytest.raises(InputError, match="no OpenEXR picture"):
        read_exr(tmp_path / "x.exr")


@pytest.mark.parametrize("rows", [(0, 24), (7, 19)])
def test_balanced_is_the_sum_of_the_groups_at_their_levels(rows):
    """With light beyond the firefly limit, groups cleaned and not, in whole and in part: against numpy, group by group."""
    rng = np.random.default_rng(4)
    film = noisy_film()
    film.auxiliary[:] = rng.uniform(0.1, 0.9, film.auxiliary.shape)
    film.spill[:] = rng.uniform(0, 30, film.spill.shape)
    film.clean = {film.group_names[1]: rng.uniform(0, 5, (*film.light.shape[:2], 3)).astype(np.float32)}
    first, last = rows[0] * film.size[1] // 24, rows[1] * film.size[1] // 24
    part = film.rows(first, last, film.spread)
    for levels in ({}, {film.group_names[0]: 0.25}, {film.group_names[0]: 0.0, film.group_names[1]: 3.0}):
        wanted = sum(picture * levels.get(name, 1.0) for name, picture in film.groups.items())
        assert np.allclose(film.balanced(levels), wanted, rtol=1e-5, atol=1e-5)
        assert np.allclose(part.balanced(levels), wanted[first:last], rtol=1e-5, atol=1e-5)


def test_many_at_once_are_given_in_order_and_a_mistake_is_told():
    assert together(lambda k: k * k, range(50)) == [k * k for k in range(50)]
    assert together(str, []) == [] and together(str, iter([3])) == ["3"]
    with pytest.raises(ZeroDivisionError):
        together(lambda k: 1 // k, [2, 1, 0, 5])
