"""The time of a picture foretold: by the samples that it will take, which no clock disturbs, and by what is in the scene."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests import small
from valleylight.core.film.film import Film
from valleylight.core.project.archive import LoadedProject
from valleylight.core.trace.foretell import Foretold, additions, foretell, samples_for, spread
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import PRESS
from valleylight.core.trace.tiles import noise_of, tiles

SIZE = (256, 144)
#: A picture that takes ten seconds.
WHOLE = Foretold(tracing_s=10.0, cleaning_s=0.0, samples=96, tried_s=0.05)


@pytest.fixture(scope="module")
def compiler() -> Compiler:
    return Compiler()


@pytest.mark.parametrize(
    ("view", "occasion", "target"), [("inside", "night", 0.05), ("inside", "night", 0.08), ("outside", "noon", 0.02)]
)
def test_the_samples_foretold_are_those_that_are_traced(compiler, view, occasion, target):
    """Where some tiles are done early and others never: within a fifth, from twelve samples of a picture so small."""
    project, quality = small.project(), replace(PRESS, noise=target, samples=64)
    v, o = project.description.view(view), project.description.occasion(occasion)
    told = foretell(compiler, project, v, o, SIZE, quality)
    film = render(project, v, o, *SIZE, quality.samples, 1, quality, compiler=compiler, noise=target)
    assert 8 < film.counts.mean() < 64
    assert told.samples == pytest.approx(film.counts.mean(), rel=0.2)
    assert told.tracing_s > 0
    assert told.seconds >= told.tracing_s


def test_without_a_target_every_sample_is_taken(compiler):
    project = small.project()
    d = project.description
    told = foretell(
        compiler, project, d.view("inside"), d.occasion("night"), (64, 36), replace(PRESS, noise=0.0, samples=10)
    )
    assert told.samples == 10


def test_noise_falls_with_the_root_of_the_samples():
    """A tile of known noise: 100 a pixel, the standard error of 9 samples; a quarter of it takes sixteen times as many."""
    rng = np.random.default_rng(2)
    film = Film.empty(32, 32, ("sky",))
    drawn = rng.normal(100.0, 30.0, (9, 32, 32)).astype(np.float32)
    from valleylight.core.film import columns

    film.auxiliary[..., columns.PASS_LUMINANCE] = drawn.sum(0)
    film.auxiliary[..., columns.PASS_SQUARES] = (drawn**2).sum(0)
    film.counts[:] = 9
    tile = (0, 0, 32, 32)
    noise = noise_of(film, tile)
    assert noise == pytest.approx(0.1 * 1.3, rel=0.2)  # the 90th percentile of a standard error of a tenth
    assert samples_for(film, tile, noise / 2, 9, 1000) == 36
    assert samples_for(film, tile, noise / 4, 9, 1000) == 144
    assert samples_for(film, tile, noise / 4, 9, 96) == 96
    assert samples_for(film, tile, noise * 9, 9, 96) == 8
    assert samples_for(film, tile, 0.0, 9, 96) == 96


@pytest.mark.parametrize("size", [(1920, 1080), (640, 360), (33, 31), (3840, 100)])
def test_tiles_are_tried_all_over_the_picture(size):
    every = tiles(*size)
    chosen = spread(every, 48)
    assert len(set(chosen)) == min(48, len(every))
    area = [(t[2] - t[0]) * (t[3] - t[1]) for t in chosen]
    places = [((t[0] + t[2]) / 2 / size[0], (t[1] + t[3]) / 2 / size[1]) for t in chosen]
    middle = np.average(places, axis=0, weights=area)
    assert middle == pytest.approx([0.5, 0.5], abs=0.08)


def test_what_is_in_the_scene_is_named_and_nothing_else(compiler):
    project = small.project()
    d = project.description
    plain = {
        a.name for a in additions(compiler, project, d.view("outside"), d.occasion("noon"), (64, 36), PRESS, WHOLE)
    }
    assert plain == {"lamps"}  # the pendant is on at noon
    night = d.occasion("night")
    foggy = night.model_copy(update={"air": night.air.model_copy(update={"on": True})})
    focused = d.view("inside").model_copy(update={"focus_m": 2.0})
    both = LoadedProject(d.model_copy(update={"occasions": (foggy,), "views": (focused,)}), project.asset)
    found = additions(compiler, both, focused, foggy, (64, 36), PRESS, WHOLE)
    assert [a.name for a in found] == ["fog", "blur", "lamps"]
    assert all(a.seconds < 10 for a in found)
