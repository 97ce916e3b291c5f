"""The part of the sky that a lens looks at, laid once more and more finely; clouds with torn edges that shade themselves."""

from __future__ import annotations

import numpy as np
import pytest

from tests import small
from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.project import LoadedProject
from valleylight.core.project.description import View
from valleylight.core.project.sky import CloudLayer, Clouds, Sky
from valleylight.core.sky import cloudlight, cloudsky
from valleylight.core.sky.atmosphere import atmosphere
from valleylight.core.sky.build import CelestialBody, sky_light, sky_window
from valleylight.core.sky.cloudfield import BLOCK, block_of_noise
from valleylight.core.sky.cloudshadow import through_cloud
from valleylight.core.sky.frames import MOST_CELLS, Frame, Window, window_over
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.camera import camera_array, directions_over, project_direction
from valleylight.core.trace.lights import daylight
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import PROOF, SKETCH

HEAPS = Clouds(
    layers=(CloudLayer(kind="heaped", cover=0.35, base_m=1400, depth_m=900, density=0.03, size_m=2700),), seed=2
)
CLOUDY = Sky(model="atmosphere", clouds=HEAPS)
SUN = CelestialBody(140.0, 42.0)


def towards(azimuth_deg: float, altitude_deg: float) -> np.ndarray:
    a, h = np.radians(azimuth_deg), np.radians(altitude_deg)
    return np.array([np.cos(h) * np.sin(a), np.cos(h) * np.cos(a), np.sin(h)])


def part(azimuth: float, altitude: float, wide: float, tall: float, cell_deg: float) -> Window:
    frame = Frame(float(np.radians(cell_deg)), float(np.radians(altitude)), float(np.radians(azimuth) % (2 * np.pi)))
    return Window(frame, int(tall / cell_deg), int(wide / cell_deg))


def test_a_window_holds_the_sky_that_is_there():
    """Cell by cell in the mean over a few degrees, and whatever the model's north."""
    for north in (0.0, 310.0):
        dome = sky_light(CLOUDY, SUN, None, 60_000.0, north, 360).backdrop
        window = part(350.0, 20.0, 40.0, 30.0, 0.25)
        fine = sky_window(CLOUDY, SUN, None, north, window)
        assert fine is not None and fine.shape == (120, 160, 3)
        # The dome has half a degree to a cell: the window's cells by two.
        coarse = fine.reshape(60, 2, 80, 2, 3).mean((1, 3)) @ LUMINANCE
        rows = slice(180 + 40, 180 + 100)
        columns = (np.arange(80) + 700) % 720
        there = dome[rows][:, columns].astype(float) @ LUMINANCE
        assert coarse.mean() == pytest.approx(there.mean(), rel=0.03)
        blocks = [v.reshape(6, 10, 8, 10).mean((1, 3)) for v in (coarse, there)]
        assert np.abs(blocks[0] / blocks[1] - 1).mean() < 0.05
        assert np.corrcoef(coarse.ravel(), there.ravel())[0, 1] > 0.95


def test_a_window_is_finer_than_the_sky():
    window = part(100.0, 25.0, 20.0, 15.0, 0.05)
    fine = sky_window(CLOUDY, SUN, None, 0.0, window) @ LUMINANCE
    blurred = fine.reshape(75, 4, 100, 4).mean((1, 3)).repeat(4, 0).repeat(4, 1)
    # Edges of clouds are steeper than cells of 0.2 degrees can hold.
    assert np.abs(np.diff(fine, axis=1)).max() > 2.0 * np.abs(np.diff(blurred, axis=1)).max() / 4
    assert np.abs(fine - blurred).mean() > 0.002 * fine.mean()


def test_where_nothing_is_gained_there_is_no_window():
    window = part(100.0, 25.0, 20.0, 15.0, 0.2)
    assert sky_window(Sky(), SUN, None, 0.0, window) is None
    assert sky_window(CLOUDY, CelestialBody(300.0, -9.0), None, 0.0, window) is None  # stars are points already
    assert sky_window(CLOUDY, CelestialBody(300.0, -4.0), None, 0.0, window) is not None


@pytest.mark.parametrize(
    ("azimuth", "altitude", "half"), [(0.0, 10.0, 30.0), (181.0, 35.0, 12.0), (-91.5, 3.0, 50.0), (359.0, 60.0, 8.0)]
)
def test_a_window_reaches_over_the_picture(azimuth, altitude, half):
    around = np.array(
        [towards(azimuth + x * half, altitude + y * min(half, 12.0)) for x in (-1, 0, 1) for y in (-1, 0, 1)]
    )
    window = window_over(around, np.radians(0.1), 0.6)
    assert window is not None
    left, bottom, scale, rows, columns = window.record
    for d in around:
        above = np.arcsin(d[2]) - bottom
        aside = (np.arctan2(d[0], d[1]) / (2 * np.pi) - left) % 1.0 * 2 * np.pi
        assert aside * scale < columns
        assert above * scale < rows and (above > 0 or np.degrees(np.arcsin(d[2])) < 0.6)
    assert rows * columns <= 1.1 * MOST_CELLS


def test_windows_that_would_be_wasted_are_not_made():
    assert window_over(np.array([towards(a, -20.0) for a in (0, 10, 20)]), 0.001, 0.6) is None
    assert window_over(np.array([towards(a, 85.0) for a in (0, 120, 240)]), 0.001, 0.6) is None
    every = np.array([towards(a, 20.0) for a in range(0, 360, 20)])
    assert window_over(every, 0.001, 0.6) is None
    huge = window_over(np.array([towards(a, h) for a in (-60, 60) for h in (1, 50)]), 1e-5, 0.6)
    assert huge is not None and huge.rows * huge.columns <= 1.1 * MOST_CELLS


def test_a_lens_that_hardly_moves_keeps_its_window():
    first = window_over(np.array([towards(a, h) for a in (20.2, 61.1) for h in (4, 21.3)]), 0.00119, 0.6)
    again = window_over(np.array([towards(a, h) for a in (20.4, 61.3) for h in (4, 21.4)]), 0.0012, 0.6)
    assert first == again


def test_the_lens_sees_the_window_and_all_else_the_sky():
    backdrop, fine = np.full((64, 128, 3), 5.0, np.float32), np.full((20, 30, 3), 9.0, np.float32)
    record = part(80.0, 10.0, 30.0, 20.0, 1.0).record
    settings = np.zeros(layout.SETTINGS_WIDTH)

    def seen(azimuth: float, altitude: float) -> float:
        return float(
            daylight.backdrop_seen(backdrop, fine, record, settings, 0.0, 0.0, 0.0, *towards(azimuth, altitude))[0]
        )

    for azimuth, altitude, expected in [
        (95, 20, 9),
        (81, 11, 9),
        (109, 29, 9),
        (79, 20, 5),
        (111, 20, 5),
        (95, 9, 5),
        (95, 31, 5),
        (275, 20, 5),
        (95, -20, 5),
    ]:
        assert seen(azimuth, altitude) == pytest.approx(expected)
    gradient = np.repeat(np.arange(30.0)[None, :, None], 20, 0).repeat(3, 2).astype(np.float32)
    assert float(
        daylight.backdrop_seen(backdrop, gradient, record, settings, 0.0, 0.0, 0.0, *towards(92.0, 20.0))[0]
    ) == pytest.approx(11.5, abs=1e-3)


def test_directions_reach_to_the_corners_of_the_picture():
    view = View(
        key="v", name="v", position=(3.0, -2.0, 1.5), target=(9.0, 5.0, 4.0), focal_mm=24, shift_x=0.1, shift_y=0.15
    )
    record = camera_array(view, 8.0, 1.5)
    made = directions_over(record, 3)
    assert np.linalg.norm(made, axis=1) == pytest.approx(1.0)
    places = np.array([project_direction(record, d) for d in made])
    assert places.min(0) == pytest.approx([0, 0], abs=1e-9) and places.max(0) == pytest.approx([1, 1])
    assert places[4] == pytest.approx([0.5, 0.5])


def test_plates_have_a_window_and_sketches_do_not():
    base = small.project()
    occasion = base.description.occasions[0].model_copy(update={"sky": CLOUDY})
    view = base.description.views[0].model_copy(update={"position": (0.0, -30.0, 2.0), "target": (0.0, 0.0, 9.0)})
    project = LoadedProject(
        base.description.model_copy(update={"occasions": (occasion,), "views": (view,)}), base.asset
    )
    compiler = Compiler()
    sketch = compiler.scene(project, view, occasion, 320, 180, 1, SKETCH)
    proof = compiler.scene(project, view, occasion, 320, 180, 1, PROOF)
    assert sketch.arrays.sky_fine.size == 3 and sketch.arrays.sky_window[3] == 0
    assert proof.arrays.sky_fine.size > 3000
    pixel = 2 * proof.camera[layout.CAMERA_HALF_WIDTH] / 320
    assert 1 / proof.arrays.sky_window[2] == pytest.approx(PROOF.sky_pixels * pixel, rel=0.05)


def test_billows_repeat_without_a_seam():
    block = block_of_noise(3)
    assert block.shape == (BLOCK,) * 3 and block.min() >= 0 and block.max() <= 1
    inner = np.abs(np.diff(block, axis=0)).mean()
    assert np.abs(block[0] - block[-1]).mean() < 1.5 * inner
    block_of_noise.cache_clear()
    assert (block_of_noise(3) == block).all() and (block_of_noise(4) != block).any()


def test_heaps_are_bright_towards_the_sun_and_dark_beneath():
    """With the sun behind the lens clouds are brighter than their bases overhead, and against the sun their edges are brightest."""
    low_sun = CelestialBody(180.0, 25.0)
    lit = sky_window(CLOUDY, low_sun, None, 0.0, part(-30.0, 12.0, 60.0, 25.0, 0.2)) @ LUMINANCE
    under = sky_window(CLOUDY, low_sun, None, 0.0, part(-30.0, 60.0, 60.0, 20.0, 0.2)) @ LUMINANCE
    assert np.percentile(lit, 95) > 1.3 * np.percentile(under, 50)
    assert np.percentile(lit, 95) > 1.8 * np.percentile(lit, 20)  # clouds stand out from the blue


@pytest.mark.parametrize(
    ("kind", "more", "least"),
    [
        ("heaped", {"cover": 0.35, "base_m": 1400, "depth_m": 900, "density": 0.03, "size_m": 2700}, 0.9),
        (
            "heaped",
            {"cover": 0.62, "base_m": 1300, "depth_m": 1300, "density": 0.03, "size_m": 3800, "ragged": 0.9},
            0.85,
        ),
        ("cells", {"cover": 0.52, "base_m": 4800, "depth_m": 320, "density": 0.01, "size_m": 1050}, 0.9),
        ("sheet", {"cover": 0.9, "base_m": 800, "depth_m": 900, "density": 0.04, "size_m": 9000, "ragged": 0.7}, 0.85),
    ],
)
def test_what_is_seen_before_the_sun_is_what_shades_the_ground(kind, more, least):
    """From a hundred and fifty places the line to the sun, looked along and looked up in the shadow, passes the same cloud."""
    clouds = Clouds(layers=(CloudLayer(kind=kind, **more),), seed=2)
    azimuth, altitude = np.radians(120.0), 70.0
    shade, frame = cloudsky.shadow_map(clouds, azimuth, altitude)
    answer = np.zeros(cloudlight.ANSWER)
    seen, shaded = [], []
    for x, y in np.random.default_rng(1).uniform(-16_000, 16_000, (150, 2)):
        drifted = clouds.model_copy(update={"east_m": -x, "north_m": -y})
        laid = cloudsky.layers_lit(
            drifted, atmosphere(2.5, 0.2), np.full(3, 1e4), azimuth, altitude, 1.0, np.full(3, 0.2)
        )[0]
        cloudlight.see_layer(laid.seen, laid.light, np.zeros(3), np.radians(altitude), azimuth, 0.5, 0.002, answer)
        seen.append(answer[3])
        shaded.append(through_cloud(shade, frame, x, y, 0.0))
    seen, shaded = np.array(seen), np.array(shaded)
    assert np.corrcoef(seen, shaded)[0, 1] > least
    assert seen.mean() == pytest.approx(shaded.mean(), abs=0.09)


def test_a_sky_has_no_seam_at_the_model_s_north():
    streaks = Clouds(
        layers=(CloudLayer(kind="streaks", cover=0.5, base_m=9000, depth_m=800, density=0.002, size_m=5000),), seed=3
    )
    rows = (
        sky_light(Sky(model="atmosphere", clouds=streaks), SUN, None, 60_000.0, 0.0, 128).backdrop[70:110].astype(float)
    )
    steps = np.abs(np.diff(rows @ LUMINANCE, axis=1))
    seam = np.abs(rows[:, -1] @ LUMINANCE - rows[:, 0] @ LUMINANCE)
    assert seam.mean() < 2.0 * steps.mean()
