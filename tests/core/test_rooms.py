"""Where rays are sent changes the noise of a picture, never its light: rooms behind openings, forks of paths, sunlit places."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tests import small
from valleylight.core.film import columns
from valleylight.core.project.air import Air
from valleylight.core.project.description import Opening
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.lights import daylight
from valleylight.core.trace.render import new_film, render, trace
from valleylight.core.trace.scene.compiler import Compiler, RenderScene
from valleylight.core.trace.scene.quality import TRUE, Quality

UNASKED = replace(TRUE, sunlit=0)
FORKED = replace(UNASKED, splits=3)


def scene_of(stage_openings: tuple[Opening, ...] | None = None, quality: Quality = UNASKED) -> RenderScene:
    project, compiler = small.project(), Compiler()
    if stage_openings is not None:
        compiler = Compiler(replace(compiler.stage(project), openings=stage_openings))
    d = project.description
    return compiler.scene(project, d.views[0], d.occasions[0], 32, 18, 1, quality)


def test_the_room_behind_a_window_is_as_large_as_its_walls():
    opening = scene_of().arrays.openings[0]
    low, high = (
        opening[layout.OPENING_ROOM : layout.OPENING_ROOM + 3],
        opening[layout.OPENING_ROOM + 3 : layout.OPENING_ROOM + 6],
    )
    assert low[[0, 2]] == pytest.approx([0, 0], abs=0.02) and high == pytest.approx([6, 4, 3], abs=0.02)
    weights = [
        daylight.openings_total(scene_of().arrays.openings, np.zeros(1), *p) for p in ((3.0, 2.0, 1.0), (3.0, 9.0, 1.0))
    ]
    assert weights[0] > 0.1 and weights[1] == 0.0  # behind the house is not in the room


def test_a_window_into_the_open_has_no_room():
    up = Opening(centre=(3, -5, 1), half_u=(1, 0, 0), half_v=(0, 1, 0), inward=(0, 0, 1))
    assert np.isinf(scene_of((up,)).arrays.openings[0, layout.OPENING_ROOM : layout.OPENING_ROOM + 6]).all()


def test_a_room_is_shut_unless_daylight_finds_another_way_in():
    assert scene_of().settings[layout.SELDOM] > 1.0
    elsewhere = Opening(centre=(0.5, 0.05, 1.6), half_u=(0.2, 0, 0), half_v=(0, 0, 0.2), inward=(0, 1, 0))
    unmarked = scene_of((elsewhere,))  # the true window is not told of
    assert unmarked.settings[layout.SELDOM] == 1.0
    assert unmarked.settings[layout.DOME_SHARE] == daylight.DOME_SHARE


def mean_of(scene: RenderScene, samples: int, **settings: float) -> dict[str, float]:
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


def test_sunlit_places_lie_where_the_sun_falls_through_the_window():
    """From the sun's place and the window's corners: each place must see the sun through the hole in the wall."""
    scene = scene_of(quality=TRUE)
    places, sun = scene.arrays.sunlit, scene.arrays.sun[:3]
    assert len(places) > 1000
    way = (places[:, 1] + 0.1) / -sun[1]  # along the sun to the plane of the window, y = -0.1
    x, z = places[:, 0] + way * sun[0], places[:, 2] + way * sun[2]
    assert (np.abs(x - 3) <= 1.01).all() and (np.abs(z - 1.6) <= 0.81).all()


def test_asking_sunlit_places_keeps_the_light_and_calms_it():
    scene = scene_of(quality=TRUE)
    arrays = scene.arrays._replace(sunlit=scene.arrays.sunlit[:0])
    alone = mean_of(replace(scene, arrays=arrays), 1536)
    asked = mean_of(scene, 768)
    assert asked["sun"] == pytest.approx(alone["sun"], rel=0.02)
    assert asked["sky"] == pytest.approx(alone["sky"], rel=0.03)
    noise = []
    for quality in (UNASKED, TRUE):
        film = render(small.project(), "inside", "noon", 48, 27, 64, 7, quality)
        a, n = film.auxiliary, film.samples
        mean = a[..., columns.PASS_LUMINANCE] / n
        noise.append(float(np.median(np.sqrt(a[..., columns.PASS_SQUARES] / n - mean * mean) / mean)))
    assert noise[1] < 0.8 * noise[0]


def test_a_forked_path_is_less_noisy_for_the_same_samples_from_the_lens():
    project, noise = small.project(), []
    for quality in (UNASKED, FORKED):
        film = render(project, "inside", "noon", 48, 27, 48, 7, quality)
        a, n = film.auxiliary, film.samples
        mean = a[..., columns.PASS_LUMINANCE] / n
        noise.append(float((a[..., columns.PASS_SQUARES] / n - mean * mean).mean()))
    assert noise[1] < 0.75 * noise[0]


def test_a_forked_film_does_not_depend_on_threads():
    quality: Quality = FORKED
    films = [render(small.project(), "inside", "noon", 64, 36, 3, 5, quality, threads=n) for n in (1, 3)]
    assert np.array_equal(films[0].light, films[1].light)


@pytest.mark.parametrize(
    ("view", "outdoors", "foggy"), [("inside", True, 0.0), ("inside", False, 1.0), ("outside", True, 1.0)]
)
def test_fog_that_stays_outdoors_leaves_a_closed_room_clear(view, outdoors, foggy):
    project, compiler = small.project(), Compiler()
    d = project.description
    noon = d.occasions[0].model_copy(update={"air": Air(on=True, free_path_m=20.0, outdoors=outdoors)})
    scene = compiler.scene(project, d.view(view), noon, 32, 18, 1, TRUE)
    assert scene.settings[layout.AIR_ON] == foggy
    # A clear room is led by its sunlit places again.
    assert bool(len(scene.arrays.sunlit) > 1) == (view == "inside" and outdoors)
