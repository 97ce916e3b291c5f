"""What is seen beyond the stage, and what stands between: haze, cloud shadow, the ground of a picture."""

from __future__ import annotations

import numpy as np
import pytest

from tests import small
from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.project import LoadedProject
from valleylight.core.project.description import Sun, View
from valleylight.core.project.sky import CloudLayer, Clouds, Sky
from valleylight.core.sky.dome import cell_angles
from valleylight.core.sky.frames import NO_WINDOW
from valleylight.core.stage.model import Material
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.lights import daylight
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.quality import TRUE

NO_FINE = np.zeros((1, 1, 3), np.float32)
HIGH = Sun(true_to_place=False, azimuth_deg=180, altitude_deg=50)
BLACK, MATT = (
    Material(name="black", base=(0, 0, 0), specular=0.0),
    Material(name="matt", base=(0.5, 0.5, 0.5), specular=0.0),
)


def with_sky(project: LoadedProject, sky: Sky) -> LoadedProject:
    """The project under another sky, haze and all."""
    occasion = project.description.occasions[0].model_copy(update={"sky": sky})
    return LoadedProject(project.description.model_copy(update={"occasions": (occasion,)}), project.asset)


@pytest.mark.parametrize("distance", [500.0, 6000.0])
def test_far_things_fade_into_the_horizon(distance):
    """Koschmieder 1924: a black wall shows L_horizon (1 - e^(-b d))."""
    r = distance
    wall = small.quad([(-r, distance, -r), (r, distance, -r), (r, distance, r), (-r, distance, r)], 0)
    view = View(key="v", name="v", position=(0, 0, 1.6), target=(0, 10, 1.6), focal_mm=400)
    project, compiler = small.scene_of([wall], [BLACK], view, sun=HIGH)
    hazy = with_sky(project, Sky(turbidity=3.0))
    film = render(hazy, "v", "o", 8, 8, 16, 1, TRUE, compiler=compiler)
    scene = compiler.scene(hazy, view, hazy.description.occasions[0], 8, 8, 1, TRUE)
    extinction, north = scene.arrays.haze[0], scene.arrays.haze[1]
    expected = north * (1 - np.exp(-extinction * distance))
    assert film.groups["sky"].mean((0, 1)) == pytest.approx(expected, rel=0.03)
    without = render(with_sky(project, Sky(turbidity=3.0, haze=False)), "v", "o", 8, 8, 4, 1, TRUE, compiler=compiler)
    assert without.groups["sky"].max() < 1e-3 * expected.max()


def test_the_sun_on_the_floor_is_that_which_the_clouds_leave():
    heaps = Clouds(layers=(CloudLayer(kind="heaped", cover=0.4, density=0.004, ragged=0.2),), seed=2)
    floor = small.quad([(-2, -2, 0), (2, -2, 0), (2, 2, 0), (-2, 2, 0)], 0)
    view = View(key="v", name="v", position=(0, -0.5, 3), target=(0, 0, 0), focal_mm=90, keep_verticals=False)
    project, compiler = small.scene_of([floor], [MATT], view, sun=HIGH)
    lit = []
    for east in range(0, 8000, 1000):
        moved = with_sky(project, Sky(clouds=heaps.model_copy(update={"east_m": float(east)})))
        occasion = moved.description.occasions[0]
        day = compiler.scene(moved, view, occasion, 8, 8, 1, TRUE).daylight
        film = render(moved, "v", "o", 8, 8, 16, 1, TRUE, compiler=compiler)
        got = float(np.pi * (film.groups["sun"] @ LUMINANCE).mean() / 0.5)
        assert got == pytest.approx(day.sun_horizontal_lx, rel=0.03, abs=20)
        lit.append(day.sky.sun_share)
    assert min(lit) < 0.6 and max(lit) > 0.95  # some of the places lie in shade


def test_the_ground_of_a_picture_lies_on_the_ground():
    """Seen from the lens that took it, at its own height, the picture is itself; from elsewhere each spot of ground keeps its
    place; beyond the reach and above the horizon nothing is changed."""
    rows = 128
    altitude, _ = cell_angles(rows)
    picture = np.repeat(altitude[:, None, None], 2 * rows, 1).repeat(3, 2).astype(np.float32)
    settings = np.zeros(layout.SETTINGS_WIDTH)
    settings[layout.PROJECT_HEIGHT], settings[layout.PROJECT_RADIUS] = 1.6, 30.0

    def seen(x: float, z: float, dx: float, dz: float) -> float:
        scale = 1 / np.hypot(dx, dz)
        return float(
            daylight.backdrop_seen(picture, NO_FINE, NO_WINDOW, settings, x, 0.0, z, dx * scale, 0.0, dz * scale)[0]
        )

    for down in (0.1, 0.5, 2.0):
        assert seen(0.0, 1.6, 1.0, -down) == pytest.approx(np.arctan(-down), abs=0.02)
    # A spot 5 m away, looked at from 3 m nearer and from twice the height.
    assert seen(3.0, 3.2, 2.0, -3.2) == pytest.approx(np.arctan(-1.6 / 5), abs=0.02)
    assert seen(0.0, 1.6, 1.0, -0.02) == pytest.approx(np.arctan(-0.02), abs=0.02)
    assert seen(4.0, 1.6, 1.0, 0.4) == pytest.approx(np.arctan(0.4), abs=0.02)
