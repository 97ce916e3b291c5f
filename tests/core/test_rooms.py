"""Where rays are sent changes the noise of a picture, never its light: rooms behind openings, forks of paths."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests import small
from valleylight.core.project.description import Opening
from valleylight.core.trace import daylight, layout
from valleylight.core.trace.render import TRUE, Compiler, Quality, Scene, new_film, render, trace

FORKED = replace(TRUE, splits=3)


def scene_of(stage_openings: tuple[Opening, ...] | None = None, view: int = 0) -> Scene:
    project, compiler = small.project(), Compiler()
    if stage_openings is not None:
        stage = replace(compiler.stage(project), openings=stage_openings)
        compiler.stage = lambda _: stage
    d = project.description
    return compiler.scene(project, d.views[view], d.occasions[0], 32, 18, 1, TRUE)


def test_the_room_behind_a_window_is_as_large_as_its_walls():
    opening = scene_of().arrays.openings[0]
    low, high = opening[daylight.ROOM : daylight.ROOM + 3], opening[daylight.ROOM + 3 : daylight.ROOM + 6]
    assert low[[0, 2]] == pytest.approx([0, 0], abs=0.02) and high == pytest.approx([6, 4, 3], abs=0.02)
    weights = [daylight.openings_total(scene_of().arrays.openings, *p) for p in ((3.0, 2.0, 1.0), (3.0, 9.0, 1.0))]
    assert weights[0] > 0.1 and weights[1] == 0.0  # behind the house is not in the room


def test_a_window_into_the_open_has_no_room():
    up = Opening(centre=(3, -5, 1), half_u=(1, 0, 0), half_v=(0, 1, 0), inward=(0, 0, 1))
    assert np.isinf(scene_of((up,)).arrays.openings[0, daylight.ROOM : daylight.ROOM + 6]).all()


def test_a_room_is_shut_unless_daylight_finds_another_way_in():
    assert scene_of().settings[layout.SELDOM] > 1.0
    elsewhere = Opening(centre=(0.5, 0.05, 1.6), half_u=(0.2, 0, 0), half_v=(0, 0, 0.2), inward=(0, 1, 0))
    unmarked = scene_of((elsewhere,))  # the true window is not told of
    assert unmarked.settings[layout.SELDOM] == 1.0
    assert unmarked.settings[layout.DOME_SHARE] == daylight.DOME_SHARE


def mean_of(scene: Scene, samples: int, **settings: float) -> dict[str, float]:
    """Mean light by group with some settings changed."""
    project = small.project().description
    changed = scene.settings.copy()
    for name, value in settings.items():
        changed[getattr(layout, name)] = value
    view, occasion = project.views[0], project.occasions[0]
    film = new_film(scene, view, occasion, 32, 18)
    from concurrent.futures import ThreadPoolExecutor

    with ThreadPoolExecutor(2) as pool:
        trace(replace(scene, settings=changed), film, 0, samples, pool)
    return {name: float(picture.mean()) for name, picture in film.groups.items()}


def test_asking_the_sun_seldom_and_forking_keep_the_light():
    scene = scene_of()
    plain = mean_of(scene, 768, SELDOM=1.0, DOME_SHARE=daylight.DOME_SHARE)
    for changed in (mean_of(scene, 768), mean_of(scene, 512, SPLITS=3.0)):
        for group in ("sun", "sky"):
            assert changed[group] == pytest.approx(plain[group], rel=0.04), group


def test_a_forked_path_is_less_noisy_for_the_same_samples_from_the_lens():
    project, noise = small.project(), []
    for quality in (TRUE, FORKED):
        film = render(project, "inside", "noon", 48, 27, 48, 7, quality)
        a, n = film.auxiliary, film.samples
        mean = a[..., layout.PASS_LUMINANCE] / n
        noise.append(float((a[..., layout.PASS_SQUARES] / n - mean * mean).mean()))
    assert noise[1] < 0.75 * noise[0]


def test_a_forked_film_does_not_depend_on_threads():
    quality: Quality = FORKED
    films = [render(small.project(), "inside", "noon", 64, 36, 3, 5, quality, threads=n) for n in (1, 3)]
    assert np.array_equal(films[0].light, films[1].light)
