"""Snow and rain on small stages: where they come to lie, how thick, how bright, against closed forms and other ways of counting."""

from __future__ import annotations

import math
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import quad

from tests import small
from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.measure.incident import incident
from valleylight.core.measure.pick import through_picture
from valleylight.core.project import Sky, Sun, View
from valleylight.core.project.air import Air
from valleylight.core.project.description import Site
from valleylight.core.project.planting import Planting
from valleylight.core.project.weather import Rain, Snow, Weather, Wind
from valleylight.core.stage import Material
from valleylight.core.trace.intersect.relief import bumped
from valleylight.core.trace.media import air as kernels
from valleylight.core.trace.render import new_film, render, trace
from valleylight.core.trace.scene.quality import TRUE
from valleylight.core.trace.scene.tables import air_array
from valleylight.core.trace.scene.weathering import in_wind, patches, slope_share
from valleylight.core.trace.weather.falling import MOST, falling, lean
from valleylight.core.trace.weather.layers import LAYERS, NONE, Grid, find_layers, links_of
from valleylight.core.trace.weather.sheets import snow_sheets
from valleylight.core.weather import slopes
from valleylight.core.weather import snow as optics
from valleylight.core.weather.wet import under_water
from valleylight.validation import stages

STONE = Material(base=(0.4, 0.4, 0.4), roughness=0.9, specular=0.0)
ABOVE = np.array([0.0, 0.0, 1.0])
GROUND = [(-40, -40, 0), (40, -40, 0), (40, 40, 0), (-40, 40, 0)]
DOWN = View(key="v", name="v", position=(0.3, 0.2, 6.0), target=(0.3, 0.201, 0.0), focal_mm=60, keep_verticals=False)


def level(height: float, x: tuple[float, float], y: tuple[float, float], material: int = 0):
    return small.quad(
        [(x[0], y[0], height), (x[1], y[0], height), (x[1], y[1], height), (x[0], y[1], height)], material
    )


def scene_of(meshes, view=DOWN, **more):
    project, compiler = stages.project_of(meshes, [STONE], view, **more)
    return stages.scene_of(project, compiler)


def layers_of(meshes, grid, cone_deg=30.0, tries=400, axis=ABOVE, suns=np.zeros((0, 3))):
    scene = scene_of(meshes)
    return scene, find_layers(scene.arrays, scene.settings, grid, 12.0, axis, cone_deg, tries, suns)


def test_an_open_field_takes_all_and_a_roof_keeps_what_is_below_it_dry():
    meshes = [small.quad(GROUND, 0), level(3.0, (-4, 4), (-4, 4))]
    _, found = layers_of(meshes, Grid(-8.0, -8.0, 1.0, 17), tries=60)
    under, field = (8, 8), (1, 1)
    assert found.z[field][0] == pytest.approx(0.0, abs=1e-4)
    assert found.open[field][0] == 1.0
    assert found.z[under][0] == pytest.approx(3.0, abs=1e-4)
    assert found.open[under][0] == 1.0
    # Below the middle of the roof the cone sees nothing but the roof: the layer is not even kept.
    assert found.z[under][1] <= NONE


@pytest.mark.parametrize("height", [1.5, 3.0, 6.0])
def test_under_a_round_canopy_it_lies_by_the_share_of_the_cone_that_is_left(height):
    """A disc of radius 1 hides the middle of the cone: 1 - (1 - cos a) / (1 - cos b), tan a = 1 / height."""
    meshes = [small.quad(GROUND, 0), stages.disc((0, 0, height), 1.0, 0)]
    _, found = layers_of(meshes, Grid(-0.002, -0.001, 1.0, 2), cone_deg=45.0)
    a, b = math.atan(1 / height), math.radians(45)
    ground = int(np.argmin(np.abs(found.z[0, 0])))
    assert found.open[0, 0, ground] == pytest.approx(1 - (1 - math.cos(a)) / (1 - math.cos(b)), abs=0.01)


def test_at_the_foot_of_a_wall_half_the_cone_is_open():
    wall = small.quad([(-40, 0, 0), (40, 0, 0), (40, 0, 30), (-40, 0, 30)], 0)
    _, found = layers_of([small.quad(GROUND, 0), wall], Grid(0.0, -0.01, 1.0, 2), cone_deg=40.0)
    assert found.open[0, 0, 0] == pytest.approx(0.5, abs=0.03)


def test_wind_drives_it_under_one_side_of_a_roof_alone():
    meshes = [small.quad(GROUND, 0), level(3.0, (-4, 4), (-40, 40))]
    wind = np.array([6.0, 0.0, 0.0])
    axis = lean(Weather(), wind, 6.0)
    assert axis == pytest.approx(np.array([-1, 0, 1]) / math.sqrt(2))
    _, found = layers_of(meshes, Grid(-5.0, 0.0, 1.0, 11), cone_deg=5.0, tries=40, axis=axis)
    open_at = {
        x: max(o for z, o in zip(found.z[0, x + 5], found.open[0, x + 5], strict=True) if abs(z) < 0.1)
        if (np.abs(found.z[0, x + 5]) < 0.1).any()
        else 0.0
        for x in (-3, 3)
    }
    assert open_at == {-3: 1.0, 3: 0.0}
    assert lean(Weather(), np.zeros(3), 6.0) == pytest.approx(ABOVE)
    # A gale never lays it flat.
    assert lean(Weather(), np.array([0.0, 30.0, 0.0]), 2.0)[2] == pytest.approx(math.sqrt(0.5))


def test_surfaces_of_one_plane_are_linked_and_those_of_two_are_not():
    meshes = [small.quad(GROUND, 0), level(2.0, (-2.3, 40), (-40, 40))]
    _, found = layers_of(meshes, Grid(-4.0, 0.0, 0.5, 9), tries=4)
    links = links_of(found, 0.5)
    edge = 3  # the last node west of the platform, at x = -2.5
    assert links.right[4, edge - 1, 0] == 0
    # At its west edge the ground goes on beneath it.
    assert found.z[4, edge + 1, links.right[4, edge, 0]] == pytest.approx(0.0, abs=1e-4)
    assert links.left[4, edge + 1, 0] == -1
    assert links.right[4, edge + 1, 0] == 0
    assert links.onward[4, edge, 0] == 0


def sheet_over(meshes, grid, depth):
    scene, found = layers_of(meshes, grid, tries=4)
    links = links_of(found, grid.cell_m)
    held = np.where(found.z > NONE, depth, 0.0)
    return found, snow_sheets(scene.arrays, scene.settings, grid, found, links, held, 0)


def test_snow_ends_where_its_platform_does_and_rounds_down_to_it():
    """A platform that ends between two nodes: the sheet's lowest points lie on its edge to a hundredth of a cell, however the grid falls."""
    edge = 1.3337
    meshes = [level(1.0, (-edge, edge), (-edge, edge))]
    _, made = sheet_over(meshes, Grid(-3.0, -3.0, 0.25, 25), 0.2)
    points = made.mesh.points
    feet = points[points[:, 2] < 1.0]
    away = np.maximum(np.abs(feet[:, 0]), np.abs(feet[:, 1]))
    assert away.max() == pytest.approx(edge, abs=0.005)
    assert away.min() > edge - 0.26
    # It is as deep as it fell in the middle, and lower at the rim.
    middle = points[(np.abs(points[:, :2]) < 0.6).all(1)]
    assert middle[:, 2] == pytest.approx(1.2, abs=0.006)
    rim = points[(np.abs(np.abs(points[:, 0]) - edge) < 0.06) & (points[:, 2] > 1.02)]
    assert rim[:, 2].max() < 1.16


def test_a_sheet_has_no_hole_within_its_platform():
    """Seen from above, its triangles cover the platform once: the sum of their areas in plan is that of the platform, less cut corners."""
    edge = 2.117
    _, made = sheet_over([level(1.0, (-edge, edge), (-edge, edge))], Grid(-3.0, -3.0, 0.25, 25), 0.01)
    a, b, c = (made.mesh.points[made.mesh.triangles[:, k]] for k in range(3))
    up = np.cross(b - a, c - a)
    flat = up[:, 2] / 2
    upward = flat[np.abs(up[:, 2]) > 0.5 * np.linalg.norm(up, axis=1)]
    assert (upward > 0).all()
    corners = 4 * 0.5 * 0.117**2
    assert upward.sum() == pytest.approx((2 * edge) ** 2, abs=corners + 0.05)


def test_snow_follows_a_slope_and_slides_off_a_steep_one():
    rise = 0.5
    roof = small.quad([(-4, -4, -4 * rise), (4, -4, -4 * rise), (4, 4, 4 * rise), (-4, 4, 4 * rise)], 0)
    found, made = sheet_over([roof], Grid(-2.0, -2.0, 0.25, 17), 0.1)
    points = made.mesh.points
    within = points[(np.abs(points[:, :2]) < 1.4).all(1)]
    assert within[:, 2] - rise * within[:, 1] == pytest.approx(0.1, abs=0.012)
    assert found.normal[8, 8, 0] == pytest.approx(np.array([0, -rise, 1]) / math.hypot(rise, 1), abs=1e-5)
    rough = np.full(4, 0.9)
    kept = slope_share(np.cos(np.radians([0, 30, 45, 60])), rough)
    assert kept[:2] == pytest.approx([1, 1])
    assert 0 < kept[2] < 1
    assert kept[3] == 0.0
    assert slope_share(np.cos(np.radians([40.0])), np.array([0.05])) < slope_share(
        np.cos(np.radians([40.0])), np.array([0.9])
    )


def measured(weather, meshes=None, materials=(STONE,), view=DOWN):
    project, compiler = stages.project_of(meshes or [small.quad(GROUND, 0)], materials, view, weather=weather)
    scene = stages.evenly_lit(stages.scene_of(project, compiler), 1000.0)
    d = project.description
    film = new_film(scene, d.views[0], d.occasions[0], 8, 8)
    with ThreadPoolExecutor(2) as pool:
        trace(scene, film, 0, 256, pool)
    film.samples = 256
    return film.groups["sky"].reshape(-1, 3).mean(0) @ LUMINANCE, film


@pytest.mark.parametrize("grain_mm", [0.1, 1.0])
def test_deep_snow_under_an_even_sky_is_as_bright_as_its_albedo(grain_mm):
    seen, _ = measured(Weather(snow=Snow(depth_cm=20, grain_mm=grain_mm)))
    assert seen == pytest.approx(1000 * np.array(optics.colour(grain_mm)) @ LUMINANCE, rel=0.03)


def test_dry_ground_is_left_as_it_is():
    dry, _ = measured(Weather())
    windy, _ = measured(Weather(wind=Wind(speed_m_s=9)))
    assert dry == pytest.approx(400, rel=0.01)
    assert windy == pytest.approx(dry, rel=1e-9)


def test_wet_ground_is_darker_by_its_film():
    """Straight down on rough stone: what the stone sends out is that under a film of water, let in and out by Fresnel's two percent."""
    wet, _ = measured(Weather(rain=Rain(wet=1.0)))
    assert wet < 0.75 * 400
    assert wet == pytest.approx(1000 * under_water(0.4), rel=0.25)


def test_a_wet_meadow_does_not_shine_like_a_wet_slab():
    """Seen at a slant, rain brightens smooth ground by the sky that it mirrors; on blades it makes no sheet."""
    low = View(key="v", name="v", position=(0.0, -12.0, 0.5), target=(0.0, 0.0, -0.1), focal_mm=60)

    def brighter(material: Material) -> float:
        dry, wet = (measured(w, materials=(material,), view=low)[0] for w in (Weather(), Weather(rain=Rain(wet=1.0))))
        return wet / dry

    dark = Material(name="dark", base=(0.03, 0.03, 0.03), roughness=0.95, specular=0.2)
    slab, meadow = brighter(dark), brighter(replace(dark, sward=True))
    assert slab > 1.12
    assert 0.8 < meadow < 1.0 + 0.5 * (slab - 1.0)


def test_under_a_roof_it_stays_dry():
    meshes = [small.quad(GROUND, 0), level(8.0, (-20, 20), (-20, 20))]
    under = [measured(w, meshes)[0] for w in (Weather(), Weather(rain=Rain(wet=1.0)), Weather(snow=Snow(depth_cm=20)))]
    # What lies about is darker when wet and brighter in snow, and sends so much less or more light in.
    assert under[1] == pytest.approx(under[0], rel=0.1)
    assert under[2] == pytest.approx(under[0], rel=0.35)
    assert under[2] > under[0]


@pytest.mark.parametrize("share", [0.25, 0.6])
def test_bare_patches_are_as_large_as_they_are_told(share):
    x, y = np.meshgrid(np.linspace(0, 200, 400), np.linspace(0, 200, 400))
    noise = patches(x.ravel(), y.ravel(), 1.6)
    weather = Weather(snow=Snow(depth_cm=10, bare=share))
    scene = scene_of([small.quad(GROUND, 0)], weather=weather)
    top = scene.arrays.lying[..., 0, :]
    depth = top[..., 1][top[..., 0] > NONE]
    assert (depth < 1e-4).mean() == pytest.approx(share, abs=0.06)
    assert noise.std() > 0.1


def test_puddles_stand_in_a_basin_and_nowhere_else():
    """A tray sunk into the ground, 6 x 6 m and 4 cm deep: it holds water over all of its floor, and level ground beside it none."""
    tray = [level(-0.04, (-3, 3), (-3, 3))]
    ring = [
        level(0.0, (-40, 40), (-40, -3)),
        level(0.0, (-40, 40), (3, 40)),
        level(0.0, (-40, -3), (-3, 3)),
        level(0.0, (3, 40), (-3, 3)),
    ]
    scene = scene_of([*tray, *ring], weather=Weather(rain=Rain(wet=1, puddles=1.0, hollow_mm=0.0)))
    water, z = scene.arrays.lying[..., 3].max(-1), scene.arrays.lying[..., 0, 0]
    cell = 1.0 / scene.arrays.weather[11]
    assert (water > 0.005).sum() * cell**2 == pytest.approx(36.0, rel=0.06)
    assert water.max() == pytest.approx(0.04, abs=0.002)
    assert (z[water > 0.005] < -0.03).all()


def test_a_puddle_mirrors_and_dry_ground_does_not():
    low = View(
        key="v", name="v", position=(0.0, -8.0, 0.6), target=(0.0, 0.0, -0.04), focal_mm=200, keep_verticals=False
    )
    tray = [level(-0.04, (-3, 3), (-3, 3))]
    ring = [
        level(0.0, (-40, 40), (-40, -3)),
        level(0.0, (-40, 40), (3, 40)),
        level(0.0, (-40, -3), (-3, 3)),
        level(0.0, (3, 40), (-3, 3)),
    ]
    full, _ = measured(Weather(rain=Rain(wet=1, puddles=1.0, hollow_mm=0.0)), [*tray, *ring], view=low)
    damp, _ = measured(Weather(rain=Rain(wet=1, puddles=0.0)), [*tray, *ring], view=low)
    # At 86 degrees from upright water sends back more than half of an even sky.
    assert full > 500
    assert full > 1.15 * damp


def drops_before(weather, meshes, shutter_s=1 / 60, wind=(0.0, 0.0, 0.0), **more):
    view = View(key="v", name="v", position=(0, -6, 1.6), target=(0, 6, 1.6), focal_mm=35)
    scene = scene_of(meshes, view=view)
    return falling(scene.arrays, scene.settings, scene.camera, weather, np.array(wind), shutter_s, 1280, (0, 0), **more)


def test_streaks_are_as_long_as_drops_fall_while_the_shutter_is_open():
    (slow,) = drops_before(Weather(rain=Rain(mm_h=10)), [small.quad(GROUND, 0)], 1 / 30)
    (quick,) = drops_before(Weather(rain=Rain(mm_h=10)), [small.quad(GROUND, 0)], 1 / 500)
    length = [np.ptp(m.points.reshape(-1, 6, 3)[..., 2], axis=1) for m in (slow, quick)]
    # Drops of 0.8 to 6 mm fall at 3.3 to 9.4 m/s, and a drop is as long as itself besides.
    assert 3.2 / 30 < length[0].min() < length[0].max() < 9.5 / 30 + 0.007
    assert length[1].max() < 9.5 / 500 + 0.007
    # What is drawn longer is met by fewer rays.
    assert slow.uv[:, 1].mean() < quick.uv[:, 1].mean()


def test_nothing_falls_under_a_roof_and_wind_leans_what_falls():
    half = level(2.6, (0, 40), (-40, 40))
    (drawn,) = drops_before(Weather(rain=Rain(mm_h=20)), [small.quad(GROUND, 0), half])
    below = drawn.points[drawn.points[:, 2] < 2.3]
    assert len(below) > 1000
    assert below[:, 0].max() < 0.05
    assert drawn.points[:, 0].max() > 1.0  # above the roof it rains
    (blown,) = drops_before(Weather(rain=Rain(mm_h=20)), [small.quad(GROUND, 0)], wind=(5.0, 0.0, 0.0))
    ways = blown.points.reshape(-1, 6, 3)
    along = ways[:, 0] - ways[:, 3]
    assert (along[:, 0] > 0).all()
    assert (along[:, 2] < 0).all()


def test_flakes_and_drops_are_no_more_than_can_be_drawn():
    storm = Weather(rain=Rain(mm_h=150), snow=Snow(flakes_mm_h=20))
    for mesh in drops_before(storm, [small.quad(GROUND, 0)]):
        assert len(mesh.triangles) <= 4 * MOST
        assert np.isfinite(mesh.points).all()
        assert ((mesh.uv[:, 1] > 0) & (mesh.uv[:, 1] <= 1)).all()


def test_a_picture_through_drops_is_nearly_that_without():
    """At 1/60 s and 10 mm/h drops hide about a hundredth of what lies behind: rain is seen faintly."""
    view = View(key="v", name="v", position=(0, -6, 1.6), target=(0, 6, 1.6), focal_mm=35)
    wall = small.quad([(-20, 6, -5), (20, 6, -5), (20, 6, 15), (-20, 6, 15)], 0)
    clear, _ = measured(Weather(), [wall], view=view)
    rain, film = measured(Weather(rain=Rain(mm_h=10)), [wall], view=view)
    assert rain == pytest.approx(clear, rel=0.1)
    assert rain != clear
    assert film.passes["depth"].min() > 0


@pytest.mark.parametrize(
    "weather",
    [
        Weather(snow=Snow(depth_cm=150, bare=1.0)),
        Weather(snow=Snow(depth_cm=0.1, sun_hours=60)),
        Weather(rain=Rain(wet=1, puddles=1, hollow_mm=200, mm_h=150), snow=Snow(depth_cm=5)),
    ],
)
def test_weather_at_its_ends_makes_a_picture(weather):
    project, compiler = stages.project_of(
        [small.quad(GROUND, 0), level(1.0, (-1, 1), (-1, 1))], [STONE], DOWN, weather=weather
    )
    film = render(project, "v", "o", 16, 16, 2, 1, TRUE, compiler=compiler)
    assert np.isfinite(film.balanced()).all()


def test_an_empty_stage_takes_weather():
    project, compiler = stages.project_of([], [STONE], DOWN, weather=Weather(snow=Snow(depth_cm=10), rain=Rain(mm_h=5)))
    film = render(project, "v", "o", 8, 8, 2, 1, TRUE, compiler=compiler)
    assert np.isfinite(film.balanced()).all()
    assert LAYERS == 4


@pytest.mark.parametrize("speed", [4.0, 12.0])
def test_water_in_wind_is_as_steep_as_measured(speed):
    """Slopes of the relief that the tracer meets, over a pond, against Cox and Munk's variance for the wind felt there."""
    water = Material(name="pond", solid_glass=True, index=1.333, roughness=0.0)
    glass = Material(name="vase", solid_glass=True, index=1.5, roughness=0.0)
    blown, vase = in_wind((water, glass), Weather(wind=Wind(speed_m_s=speed)))
    assert vase == glass
    assert blown.bump_m > 0
    assert in_wind((water,), Weather()) == (water,)
    project, compiler = stages.project_of([small.quad(GROUND, 0)], [blown], DOWN)
    scene = stages.scene_of(project, compiler)
    held = scene.arrays
    x, y = np.random.default_rng(2).uniform(-30, 30, (2, 3000))
    normals = np.array([bumped(held, 0, a, b, 0.0, 0.0, 0.0, 1.0) for a, b in zip(x, y, strict=True)])
    slopes_of = (normals[:, 0] ** 2 + normals[:, 1] ** 2) / normals[:, 2] ** 2
    assert slopes_of.mean() == pytest.approx(slopes.mean_square_slope(slopes.SHELTERED * speed), rel=0.1)


BEAMS = Air(on=True, free_path_m=40.0, beams_only=True, forward=0.3, back_share=0.0, colour=(1, 1, 1))
LEVEL = View(key="v", name="v", position=(0, 0, 0), target=(0, 10, 0), focal_mm=900, keep_verticals=False)


def test_air_for_beams_alone_takes_nothing_from_what_lies_behind():
    wall = small.quad([(-20, 10, -20), (20, 10, -20), (20, 10, 20), (-20, 10, 20)], 0)
    bright = Material(base=(0, 0, 0), specular=0.0, emission=(1000.0,) * 3)
    for air, seen in ((BEAMS, 1000.0), (BEAMS.model_copy(update={"beams_only": False, "multiple": False}), None)):
        project, compiler = stages.project_of([wall], [bright], LEVEL, air=air)
        film = render(project, "v", "o", 8, 8, 64, 1, TRUE, compiler=compiler)
        found = float((film.balanced() @ LUMINANCE).mean())
        if seen is None:
            assert found < 900
        else:
            # The wall lights the air before it; what it sends itself is whole.
            assert seen <= found < 1.3 * seen


def test_a_beam_is_as_bright_as_its_light_along_the_line_of_sight():
    """Single scattering without loss: the integral of s p(cos) I / d^2 along the ray."""
    fixtures, kinds = stages.lamp((1.5, 5.0, 0.0), (1.5, 5.0, -1.0))
    project, compiler = stages.project_of([], [STONE], LEVEL, fixtures, kinds, stages.even(), air=BEAMS)
    film = render(project, "v", "o", 8, 8, 2048, 1, TRUE, compiler=compiler)
    row = air_array(BEAMS, np.zeros(3), np.ones(3))

    def along(t: float) -> float:
        x, y = 1.5, 5.0 - t
        d = math.hypot(x, y)
        return kernels.phase(row, -1.0 * y / d) * 100.0 / d**2 / 40.0

    wanted = quad(along, 0, 5, limit=200)[0] + quad(along, 5, 4000, limit=400)[0]
    assert float((film.balanced() @ LUMINANCE).mean()) == pytest.approx(wanted, rel=0.05)


def test_far_haze_is_that_of_the_air_as_often_as_told():
    """Koschmieder: what fades at one extinction over 3 km fades as much at three over one."""
    wall = small.quad([(-900, 1000, -900), (900, 1000, -900), (900, 1000, 900), (-900, 1000, 900)], 0)
    far = small.quad([(-2700, 3000, -2700), (2700, 3000, -2700), (2700, 3000, 2700), (-2700, 3000, 2700)], 0)
    black = Material(base=(0, 0, 0), specular=0.0)
    seen = []
    for mesh, times in ((far, 1.0), (wall, 3.0), (wall, 0.0)):
        project, compiler = stages.project_of(
            [mesh],
            [black],
            LEVEL,
            sky=Sky(haze_times=times),
            sun=Sun(true_to_place=False, azimuth_deg=180, altitude_deg=40),
        )
        bare = project.description.occasions[0]
        hazy = bare.model_copy(update={"sky": bare.sky.model_copy(update={"haze": True})})
        film = render(project, "v", hazy, 8, 8, 4, 1, TRUE, compiler=compiler)
        seen.append(float((film.groups["sky"] @ LUMINANCE).mean()))
    assert seen[0] > 1
    assert seen[1] == pytest.approx(seen[0], rel=0.02)
    assert seen[2] == pytest.approx(0.0, abs=1e-3)


def test_fallen_leaves_lie_under_their_crown_and_spread_a_little():
    """A crown of three leaves one above the other over a field, on a day when all have fallen."""
    meshes = [small.quad(GROUND, 0), *(level(3.0 + 0.3 * k, (-2, 2), (8, 12), 1) for k in range(3))]
    leaf = Material(name="leaf", leaf="maple", translucency=0.4)
    bare = Planting(by_date=True, held={"maple": 310})
    project, compiler = stages.project_of(
        meshes, [STONE, leaf], DOWN, planting=bare, site=Site(latitude_deg=47, elevation_m=400)
    )
    table = stages.scene_of(project, compiler).arrays
    near = table.lying
    cell, x0, y0 = 1 / table.weather[11], table.weather[9], table.weather[10]
    ground = np.where(np.abs(near[..., 0]) < 0.01, near[..., 4], 0.0).max(-1)
    at = lambda x, y: ground[round((y - y0) / cell), round((x - x0) / cell)]  # noqa: E731
    assert at(0, 10) > 0.35
    assert 0.02 < at(2.6, 10) < 0.6 * at(0, 10)
    assert at(8, 10) < 1e-3
    red, green, blue = near[round((10 - y0) / cell), round((0 - x0) / cell), 0, 5:]
    assert red > green > blue
    # In summer nothing lies there, and as the model has it nothing falls.
    for planting in (Planting(by_date=True, held={"maple": 190}), Planting()):
        project, compiler = stages.project_of(meshes, [STONE, leaf], DOWN, planting=planting)
        assert stages.scene_of(project, compiler).arrays.weather[0] == 0.0


def test_a_meter_reads_the_light_and_not_the_snow_on_its_card():
    """Illuminance on open ground is that of the sky, whatever lies there."""
    read = []
    for weather in (Weather(), Weather(snow=Snow(depth_cm=10)), Weather(rain=Rain(wet=1.0))):
        scene = stages.evenly_lit(scene_of([small.quad(GROUND, 0)], weather=weather), 100.0)
        found = incident(scene, np.array([[0.0, 0.0, 0.3]]), np.array([[0.0, 0.0, 1.0]]), 256)
        read.append(float(found.rgb_lx[0, list(found.group_names).index("sky")] @ LUMINANCE))
    assert read[0] == pytest.approx(100 * np.pi, rel=0.02)
    assert read[1:] == pytest.approx([read[0]] * 2, rel=0.02)


def test_pointing_goes_past_what_falls():
    """Twenty lines of sight through heavy rain all meet the wall, where they would without it."""
    view = View(key="v", name="v", position=(0, -6, 1.6), target=(0, 6, 1.6), focal_mm=35)
    wall = small.quad([(-20, 6, -5), (20, 6, -5), (20, 6, 15), (-20, 6, 15)], 0)
    scene = scene_of([wall], view=view, weather=Weather(rain=Rain(mm_h=60), snow=Snow(flakes_mm_h=5)))
    for x in np.linspace(0.1, 0.9, 20):
        met = through_picture(scene, float(x), 0.5)
        assert met is not None
        assert met.object == "object 0"
        assert met.point[1] == pytest.approx(6.0, abs=1e-3)
