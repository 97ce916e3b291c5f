"""The firefly limit, the softening of mirrors and the count of bounces take little of a picture's light: ten scenes in each quality, by
their mean luminance against the same scene traced with nothing held back (Quality TRUE)."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from typing import Any

import numpy as np
import pytest

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.film.film import Film
from valleylight.core.film.spread import light_per_colour, spread_over
from valleylight.core.film.store import load_film, save_film
from valleylight.core.finish.exposure import metered_ev100
from valleylight.core.preview.studio import quad
from valleylight.core.project import Lens, Stage, Sun, View
from valleylight.core.project.air import Air
from valleylight.core.project.description import Opening
from valleylight.core.stage import Material
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.quality import PRESS, PROOF, SKETCH, TRUE, Quality
from valleylight.validation import stages

Scene = dict[str, Any]


def matt(reflectance: float, **more: Any) -> Material:
    return Material(base=(reflectance,) * 3, specular=0.0, **more)


def sun(azimuth: float, altitude: float) -> Sun:
    return Sun(true_to_place=False, azimuth_deg=azimuth, altitude_deg=altitude)


def sunlit_room(size: float, reflectance: float, altitude: float, guided: bool = True, glass: bool = True) -> Scene:
    """A room of a size in metres with a window to the south, seen from beside it."""
    s = size
    hole = (0.25 * s, 0.3 * s, 0.75 * s, 0.8 * s)
    pane = quad([(hole[0], 0.0, hole[1]), (hole[2], 0.0, hole[1]), (hole[2], 0.0, hole[3]), (hole[0], 0.0, hole[3])], 1)
    meshes = [
        *stages.box_room((s, s, s), 0, leave="south"), *stages.holed((0, 0), (s, s), hole, lambda a, b: (a, 0.0, b), 0),
        quad([(-30, -30, -0.5), (30, -30, -0.5), (30, 30, -0.5), (-30, 30, -0.5)], 2), *([pane] if glass else []),
    ]  # fmt: skip
    opening = Opening(centre=(0.5 * s, 0, 0.55 * s), half_u=(0.25 * s, 0, 0), half_v=(0, 0, 0.25 * s), inward=(0, 1, 0))
    view = View(
        key="v",
        name="v",
        position=(0.1 * s, 0.1 * s, 0.6 * s),
        target=(0.7 * s, 0.9 * s, 0.4 * s),
        focal_mm=24,
        keep_verticals=False,
    )
    clear = Material(thin_glass=True, roughness=0.0, index=1.5, tint=(0.9,) * 3)
    return {
        "meshes": meshes, "materials": [matt(reflectance), clear, matt(0.2)], "view": view, "sun": sun(165, altitude),
        "openings": (opening,) if guided else (), "settings": Stage(find_openings=guided),
    }  # fmt: skip


def lamplit(walls: Material, at: tuple[float, float, float], **more: Any) -> Scene:
    """A room of 4 x 4 x 2.5 m under one fixture of 400 cd, by night."""
    fixtures, kinds = stages.lamp(at, (at[0], at[1], 0.0))
    view = View(key="v", name="v", position=(0.4, 0.4, 1.5), target=(3.0, 3.5, 1.1), focal_mm=24, keep_verticals=False)
    return {
        "meshes": stages.box_room((4, 4, 2.5), 0), "materials": [walls], "view": view, "fixtures": fixtures, "kinds": kinds,
        "profile": stages.even(400.0), **more,
    }  # fmt: skip


def shining_slit() -> Scene:
    """A room of light walls with a bright slit in its ceiling."""
    slit = quad([(1.9, 0.5, 2.49), (1.9, 3.5, 2.49), (2.0, 3.5, 2.49), (2.0, 0.5, 2.49)], 1)
    scene = lamplit(matt(0.7), (1, 1, 1))
    return {
        "meshes": [*scene["meshes"], slit], "materials": [matt(0.7), Material(base=(0, 0, 0), specular=0.0, emission=(20_000.0,) * 3)],
        "view": scene["view"],
    }  # fmt: skip


def yard() -> Scene:
    """A sunlit yard between light walls, in the open."""
    walls = [
        quad([(0, 6, 0), (6, 6, 0), (6, 6, 5), (0, 6, 5)], 0), quad([(0, 0, 0), (0, 6, 0), (0, 6, 5), (0, 0, 5)], 0),
        quad([(6, 6, 0), (6, 0, 0), (6, 0, 5), (6, 6, 5)], 0), quad([(-20, -20, 0), (20, -20, 0), (20, 20, 0), (-20, 20, 0)], 1),
    ]  # fmt: skip
    view = View(key="v", name="v", position=(3, -4, 1.6), target=(3, 6, 2.2), focal_mm=28)
    return {"meshes": walls, "materials": [matt(0.75), matt(0.3)], "view": view, "sun": sun(230, 35)}


def metal_floor() -> Scene:
    """A sunlit metal sheet before a wall in shade: its reflection lights the wall."""
    meshes = [
        quad([(-3, 0, 0), (3, 0, 0), (3, 4, 0), (-3, 4, 0)], 1), quad([(-3, 4, 0), (3, 4, 0), (3, 4, 3), (-3, 4, 3)], 0),
        quad([(-20, -20, -0.1), (20, -20, -0.1), (20, 20, -0.1), (-20, 20, -0.1)], 2),
    ]  # fmt: skip
    view = View(key="v", name="v", position=(0, -2, 1.6), target=(0, 4, 1.2), focal_mm=28)
    sheet = Material(base=(0.8,) * 3, metal=1.0, roughness=0.35)
    return {"meshes": meshes, "materials": [matt(0.6), sheet, matt(0.2)], "view": view, "sun": sun(180, 50)}


SCENES: dict[str, Callable[[], Scene]] = {
    "a small sunlit room": lambda: sunlit_room(2.5, 0.6, 45),
    "a light sunlit room": lambda: sunlit_room(5.0, 0.8, 30),
    "a low sun through a bare opening": lambda: sunlit_room(4.0, 0.5, 15, glass=False),
    "a sunlit room whose window guides nothing": lambda: sunlit_room(3.0, 0.6, 40, guided=False),
    "a fixture in the middle": lambda: lamplit(matt(0.5), (2, 2, 2.2)),
    "a fixture close to a light wall": lambda: lamplit(matt(0.8), (3.9, 3.0, 1.0)),
    "a fixture in haze": lambda: lamplit(matt(0.5), (2, 3, 2.0), air=Air(on=True, free_path_m=8.0)),
    "a bright slit": shining_slit,
    "a yard in the sun": yard,
    "a metal sheet in the sun": metal_floor,
}


def mean_luminance(name: str, quality: Quality, samples: int, seed: int, lens: Lens) -> tuple[float, float]:
    """Mean luminance of a scene's picture in cd/m2, and its logarithmic mean."""
    scene = SCENES[name]()
    view = scene.pop("view").model_copy(update={"lens": lens})
    project, compiler = stages.project_of(view=view, **scene)
    film = render(project, "v", "o", 14, 9, samples, seed, quality, compiler=compiler)
    seen = film.balanced() @ LUMINANCE
    return float(seen.mean()), float(np.exp(np.log(np.maximum(seen, 1e-6)).mean()))


@cache
def truth(name: str) -> tuple[float, float]:
    return mean_luminance(name, TRUE, 768, 1, Lens())


def exposed_for(luminance: float, stops: float) -> Lens:
    """A lens as a reflected-light meter sets it, so many stops over."""
    lens = Lens()
    return lens.model_copy(update={"shutter_s": lens.f_number**2 / 2 ** metered_ev100(luminance) * 2**stops})


@pytest.mark.parametrize("quality", [SKETCH, PROOF, PRESS], ids=lambda q: q.name)
@pytest.mark.parametrize("name", SCENES)
def test_no_quality_takes_more_than_3_percent_of_the_light(name, quality):
    """Two stops over what a meter says, as interiors with bright windows are: the limit is that much nearer."""
    expected, middle = truth(name)
    got, _ = mean_luminance(name, quality, 512, 2, exposed_for(middle, 2.0))
    assert got == pytest.approx(expected, rel=0.03)


def test_the_limit_holds_back_and_gives_back(tmp_path):
    """Without giving back, the limit would take a tenth and more of this scene: what the film keeps beside it is that light."""
    name = "a fixture close to a light wall"
    scene = SCENES[name]()
    view = scene.pop("view").model_copy(update={"lens": exposed_for(truth(name)[1], 5.0)})
    project, compiler = stages.project_of(view=view, **scene)
    film = render(project, "v", "o", 18, 12, 256, 3, SKETCH, compiler=compiler)
    whole, held = (film.balanced() @ LUMINANCE).sum(), (film.light.sum(2) @ LUMINANCE).sum() / 256
    assert held < 0.9 * whole
    assert (film.spill.sum(2) @ LUMINANCE).sum() / 256 == pytest.approx(whole - held, rel=1e-3)
    assert whole / 216 == pytest.approx(truth(name)[0], rel=0.05)
    bands = [film.rows(first, first + 5, film.spread).balanced() for first in (0, 5)]
    assert np.concatenate(bands) == pytest.approx(film.balanced()[:10], rel=1e-5)
    save_film(film, tmp_path / "film.npz")
    again = Film.empty(18, 12, film.group_names, masks=SKETCH.masks)
    load_film(tmp_path / "film.npz", again)
    assert again.balanced() == pytest.approx(film.balanced())


@pytest.mark.parametrize("size", [(64, 48), (37, 21), (8, 9), (200, 16)])
def test_spread_light_keeps_its_sum_and_its_place(size):
    """What burns in one spot lights the surfaces about it by their colour: sum kept, nothing on the sky, more near than far."""
    width, height = size
    rng = np.random.default_rng(4)
    colour = rng.uniform(0.05, 0.9, (height, width, 3)).astype(np.float32)
    colour[: height // 4] = 0
    counts = np.full((height, width), 7, np.float32)
    spill = np.zeros((-(-height // 8), -(-width // 8), 1, 3), np.float32)
    spill[-1, 0, 0] = (700.0, 1400.0, 70.0)
    field = light_per_colour(spill, counts, colour)
    given = spread_over(field[:, :, 0], colour, 0)
    assert given.sum((0, 1)) == pytest.approx(np.array([100.0, 200.0, 10.0]), rel=1e-3)
    assert given[: height // 4].sum() < 0.02 * given.sum()
    assert (given >= 0).all()
    per_colour = given[..., 1] / (colour[..., 1] + 1e-3)
    assert per_colour[-1, 0] >= per_colour[-1, -1] and per_colour[-1, 0] >= per_colour[0, 0]
