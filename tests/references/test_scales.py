"""Light is the same at every size and in every place: from 1 cm to 100 km, at the origin and at survey coordinates.

Closed forms, and equivalences with the same scene of a few metres at the origin: illuminance by surfaces depends on angles
alone, by fixtures of candela times the square of the size. Nothing is clamped (Quality TRUE)."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.measure.direct import direct_lux
from valleylight.core.measure.incident import incident
from valleylight.core.measure.pick import along, through_picture
from valleylight.core.measure.plan import cut
from valleylight.core.measure.sunhours import Face, open_sky, spread
from valleylight.core.preview.studio import quad, studio
from valleylight.core.project import Stage, Sun, View
from valleylight.core.project.air import Air
from valleylight.core.project.description import Fixture, FixtureKind, Opening
from valleylight.core.stage import Material, MeshInstance, StageData
from valleylight.core.trace.lights.daylight import dome_light
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import TRUE
from valleylight.validation import stages

SIZES = (0.01, 0.3, 4.0, 900.0, 1e5)
PLACES = ((0, 0, 0), (5_000, -3_000, 800), (51_234.5, 48_000, 2_310), (512_345.6, 5_412_345.6, 431.2))
#: A room of size 1: a table under a lamp, a shining square in the ceiling, a window to the south.
SHINING, MATT, BLACK = (
    Material(base=(0, 0, 0), specular=0.0, emission=(800.0,) * 3), Material(base=(0.6,) * 3, specular=0.0),
    Material(base=(0, 0, 0), specular=0.0),
)  # fmt: skip
SOUTH = Sun(true_to_place=False, azimuth_deg=180, altitude_deg=40)


def put(meshes, materials, size, place, view=None, candela=0.0, lamp=(0.5, 0.5, 0.8), openings=(), **more):
    """A stage of about one metre, grown to a size and moved to a place by its matrices, as models stand in a project."""
    matrix = np.diag([size, size, size, 1.0])
    matrix[:3, 3] = place

    def at(point):
        return tuple(float(size * c + p) for c, p in zip(point, place, strict=True))

    view = view or {"position": (0.5, 0.3, 0.5), "target": (0.5, 0.8, 0.2)}
    lens = View(key="v", name="v", position=at(view["position"]), target=at(view["target"]), keep_verticals=False)
    stage = StageData(
        tuple(meshes), tuple(MeshInstance(k, matrix, name=f"object {k}") for k in range(len(meshes))), tuple(materials),
        openings=tuple(
            Opening(centre=at(o.centre), half_u=tuple(size * v for v in o.half_u), half_v=tuple(size * v for v in o.half_v), inward=o.inward)
            for o in openings
        ),
    )  # fmt: skip
    kinds = [FixtureKind(key="k", name="k", profile="0" * 64)] if candela else []
    fixtures = [
        Fixture(key="f", kind="k", position=at(lamp), aim=at((lamp[0], lamp[1], 0.0)), group="g")
    ] if candela else []  # fmt: skip
    project, compiler = studio(stage, lens, fixtures, kinds, stages.even(candela) if candela else None, **more)
    return project, compiler, at


def measured(meshes, materials, size, place, points, normals, samples=512, **more):
    """Illuminance in lx on points of the stage of size 1."""
    project, compiler, at = put(meshes, materials, size, place, **more)
    scene = stages.scene_of(project, compiler)
    found = incident(scene, np.array([at(p) for p in points]), np.array(normals, float), samples)
    return found.rgb({}) @ LUMINANCE


def by_polygon(corners, point, normal):
    """Illuminance in lx under a polygon of 1 cd/m2, Lambert's formula (J. H. Lambert, Photometria, 1760):
    E = 1/2 sum of the angles between corners times the cosine of their plane's normal."""
    towards = [np.array(c, float) - point for c in corners]
    towards = [t / np.linalg.norm(t) for t in towards]
    total = 0.0
    for a, b in zip(towards, towards[1:] + towards[:1], strict=True):
        across = np.cross(a, b)
        total += np.arccos(np.clip(a @ b, -1, 1)) * float(across / np.linalg.norm(across) @ normal)
    return abs(total) / 2


@pytest.mark.parametrize("place", PLACES)
@pytest.mark.parametrize("size", SIZES)
def test_a_shining_square_lights_what_lies_below(size, place):
    corners = [(0.2, 0.2, 0.9), (0.2, 0.8, 0.9), (0.8, 0.8, 0.9), (0.8, 0.2, 0.9)]
    floor = quad([(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0)], 1)
    points = [(0.5, 0.5, 0.0), (0.1, 0.9, 0.0), (0.5, 0.5, 0.8), (0.5, 0.0, 0.0)]
    got = measured([quad(corners, 0), floor], [SHINING, BLACK], size, place, points, [(0, 0, 1)] * 4)
    expected = [800 * by_polygon(corners, np.array(p), np.array([0, 0, 1.0])) for p in points]
    assert got == pytest.approx(np.array(expected), rel=0.01)


@pytest.mark.parametrize("place", PLACES)
@pytest.mark.parametrize("size", SIZES)
def test_a_fixture_lights_by_the_inverse_square_and_is_kept_out_by_a_wall(size, place):
    """E = I cos / d2 (CIE 018, section 4), flush below a ceiling, beside a wall; behind the wall nothing."""
    meshes = [
        quad([(0, 0, 1), (0, 1, 1), (1, 1, 1), (1, 0, 1)], 0), quad([(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0)], 0),
        quad([(0.7, 0, 0), (0.7, 1, 0), (0.7, 1, 1), (0.7, 0, 1)], 0),
    ]  # fmt: skip
    lamp, points = (0.4, 0.5, 1.0), [(0.4, 0.5, 0.0), (0.05, 0.1, 0.0), (0.4, 0.5, 0.9), (0.9, 0.5, 0.0)]
    away = np.array(points[:3]) - lamp
    expected = 100 * np.abs(away[:, 2]) / np.linalg.norm(away, axis=1) ** 3
    project, compiler, at = put(meshes, [BLACK], size, place, candela=100.0 * size**2, lamp=lamp)
    scene = stages.scene_of(project, compiler)
    where, up = np.array([at(p) for p in points]), np.tile([0, 0, 1.0], (4, 1))
    for got in (incident(scene, where, up, 64).lux({}), direct_lux(scene, {}, where, up)):
        assert got[:3] == pytest.approx(expected, rel=0.005)
        assert got[3] == pytest.approx(0.0, abs=1e-3)  # the night sky alone


@pytest.mark.parametrize("place", PLACES[:3])
@pytest.mark.parametrize("size", SIZES)
def test_light_goes_to_and_fro_in_a_closed_box_without_loss(size, place):
    """Mean E = flux / ((1 - rho) A) over all faces, as in every closed enclosure (conservation of energy)."""
    rho, candela = 0.6, 40.0
    middle = (np.arange(3) + 0.5) / 3
    points, normals = [], []
    for axis in range(3):
        for end, sign in ((0.0, 1.0), (1.0, -1.0)):
            for u in middle:
                for v in middle:
                    point, normal = [0.0] * 3, [0.0] * 3
                    point[axis], point[(axis + 1) % 3], point[(axis + 2) % 3], normal[axis] = end, u, v, sign
                    points.append(tuple(point))
                    normals.append(normal)
    got = measured(
        stages.box_room((1, 1, 1), 0), [Material(base=(rho,) * 3, specular=0.0)], size, place, points, normals, 600,
        candela=candela * size**2, lamp=(0.5, 0.5, 0.5),
    )  # fmt: skip
    # The direct part by the midpoint rule is put in the place of its exact share: the mean over a face of I cos / d2 is I 4 pi / 6.
    away = np.array(points) - 0.5
    direct = candela * 0.5 / np.linalg.norm(away, axis=1) ** 3
    expected = 4 * np.pi * candela / ((1 - rho) * 6)
    assert (got - direct).mean() + 4 * np.pi * candela / 6 == pytest.approx(expected, rel=0.015)


def _sunlit_room():
    """Walls with a window of glass to the south, and a floor."""
    wall = stages.holed((0, 0), (1, 1), (0.2, 0.3, 0.8, 0.8), lambda a, b: (a, 0.0, b), 0)
    glass = quad([(0.2, 0.0, 0.3), (0.8, 0.0, 0.3), (0.8, 0.0, 0.8), (0.2, 0.0, 0.8)], 1)
    opening = Opening(centre=(0.5, 0.0, 0.55), half_u=(0.3, 0, 0), half_v=(0, 0, 0.25), inward=(0, 1, 0))
    return [*stages.box_room((1, 1, 1), 0, leave="south"), *wall, glass], (opening,)


NO_PANE = Material(thin_glass=True, roughness=0.0, index=1.0, tint=(1,) * 3)
PANE = Material(thin_glass=True, roughness=0.0, index=1.5, tint=(0.9,) * 3)


@pytest.mark.parametrize(("size", "place"), [(s, PLACES[k % 3]) for k, s in enumerate(SIZES)] + [(4.0, PLACES[3])])
def test_a_sunlit_room_is_as_bright_at_every_size(size, place):
    """As bright, too, as the room of 3 m whose window guides nothing."""
    meshes, openings = _sunlit_room()
    got = (
        measured(meshes, [MATT, PANE], size, place, *_in_the_room(4), 2048, sun=SOUTH, openings=openings)
        .reshape(4, 3)
        .mean(0)
    )
    assert got == pytest.approx(_blindly(), rel=0.03)


def _in_the_room(times):
    return [(0.5, 0.3, 0.0), (0.5, 1.0, 0.5), (0.2, 0.5, 1.0)] * times, [(0, 0, 1), (0, -1, 0), (0, 0, -1)] * times


@cache
def _blindly():
    blind = {"sun": SOUTH, "settings": Stage(find_openings=False)}
    return (
        measured(_sunlit_room()[0], [MATT, PANE], 3.0, (0, 0, 0), *_in_the_room(16), 8192, **blind)
        .reshape(16, 3)
        .mean(0)
    )


@pytest.mark.parametrize("samples", [64, 1000, 5000])
def test_the_meter_behind_a_window_holds_the_integral_over_it(samples):
    """E = integral of L cos over the window's solid angle, by the midpoint rule over its area; L is the sky's own. However many
    samples are taken: they are traced in lots, and paths of one must not guide the next."""
    meshes, openings = _sunlit_room()
    project, compiler, at = put(meshes, [BLACK, NO_PANE], 3.0, (0, 0, 0), openings=openings, sun=SOUTH)
    scene = stages.scene_of(project, compiler)
    points, normals = (
        np.array([(0.5, 0.3, 0.0), (0.5, 1.0, 0.5), (0.2, 0.5, 1.0)]),
        np.array([(0, 0, 1.0), (0, -1, 0), (0, 0, -1)]),
    )
    got = incident(scene, np.array([at(p) for p in points]), normals, samples)
    sky = got.rgb_lx[:, got.group_names.index("sky")] @ LUMINANCE
    grid = (np.arange(60) + 0.5) / 60
    window = np.stack([a.ravel() for a in np.meshgrid(0.2 + 0.6 * grid, [0.0], 0.3 + 0.5 * grid)], 1)
    for k, (point, normal) in enumerate(zip(points, normals, strict=True)):
        way = window - point
        d = np.linalg.norm(way, axis=1)
        way /= d[:, None]
        light = (
            np.array([dome_light(scene.arrays.dome, scene.arrays.dome_density, *map(float, w))[:3] for w in way])
            @ LUMINANCE
        )
        expected = (light * np.maximum(way @ normal, 0) * -way[:, 1] / d**2).mean() * 0.6 * 0.5
        assert sky[k] == pytest.approx(expected, rel=0.02 if samples < 100 else 0.01)


@pytest.mark.parametrize("size", SIZES)
def test_panes_take_their_share_once_however_near_they_stand(size):
    """Four sheets straight before a fixture: (1 - R) / (1 + R) each at normal incidence with r = ((n - 1) / (n + 1))^2, between them gaps of a
    thousandth of the way."""
    sheets = [quad([(0, 0, z), (1, 0, z), (1, 1, z), (0, 1, z)], 1) for z in (0.5, 0.501, 0.502, 0.7)]
    floor = quad([(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0)], 0)
    clear = Material(thin_glass=True, roughness=0.0, index=1.5, tint=(1, 1, 1))
    got = measured(
        [floor, *sheets], [BLACK, clear], size, PLACES[1], [(0.5, 0.5, 0)], [(0, 0, 1)], 16, candela=64.0 * size**2
    )
    r = 0.04
    assert got[0] == pytest.approx(100.0 * ((1 - r) / (1 + r)) ** 4, rel=0.005)


@pytest.mark.parametrize(("size", "place"), [(4.0, PLACES[1]), (4.0, PLACES[3]), (0.01, PLACES[0]), (1e5, PLACES[0])])
def test_a_picture_is_the_same_picture(size, place):
    """Luminance by the lens of a floor that shines and one that is lit; what the passes say of place and distance."""
    meshes = [
        quad([(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0)], 1),
        quad([(0, 1, 0), (1, 1, 0), (1, 1, 1), (0, 1, 1)], 0),
    ]
    project, compiler, _ = put(meshes, [SHINING, MATT], size, place)
    film = render(project, "v", "o", 16, 12, 64, 1, TRUE, compiler=compiler)
    near, compiler, _ = put(meshes, [SHINING, MATT], 1.0, (0, 0, 0))
    expected = render(near, "v", "o", 16, 12, 64, 1, TRUE, compiler=compiler)
    assert (film.balanced() @ LUMINANCE).mean() == pytest.approx((expected.balanced() @ LUMINANCE).mean(), rel=0.01)
    met = np.isfinite(expected.passes["depth"]) & np.isfinite(film.passes["depth"])
    assert met.mean() > 0.4
    assert film.passes["depth"][met] == pytest.approx(size * expected.passes["depth"][met], rel=0.02)
    told = (film.passes["position"][met].astype(float) - place) / size
    slack = 2e-7 * max(map(abs, place)) / size + 1e-2  # the pass itself is single precision, in the model's coordinates
    assert told == pytest.approx(expected.passes["position"][met].astype(float), abs=slack)


@pytest.mark.parametrize("place", PLACES)
def test_places_go_in_and_come_out_in_the_models_coordinates(place):
    meshes, openings = _sunlit_room()
    project, compiler, at = put(meshes, [MATT, PANE], 4.0, place, candela=100.0, openings=openings, sun=SOUTH)
    scene = stages.scene_of(project, compiler)
    met = along(scene, at((0.5, 0.5, 0.5)), (0, 0, -1))
    assert met is not None and met.point == pytest.approx(at((0.5, 0.5, 0.0)), abs=1e-4)
    assert met.distance_m == pytest.approx(2.0, abs=1e-4)
    ahead = through_picture(scene, 0.5, 0.5)
    assert ahead is not None and ahead.point == pytest.approx(at((0.5, 1.0, 0.08)), abs=0.01)
    spots = spread(scene, Face(at((0.5, 0.5, 0.0)), (0, 0, 1), 0.5))
    assert spots[:, 2] == pytest.approx(np.full(len(spots), place[2]), abs=1e-4)
    through = open_sky(scene, at((0.5, 0.5, 0.55)), np.array([[0, -1.0, 0], [0, 1.0, 0]]))
    assert through == pytest.approx([0.9 * 0.96 / 1.04, 0.0], rel=0.06)
    segments = cut(compiler.stage(project), place[2] + 1.0, (place[0] - 1, place[1] - 1), (place[0] + 5, place[1] + 5))
    assert np.abs(segments[:, [0, 2]] - place[0]).max() == pytest.approx(4.0, abs=1e-3)
    assert np.ptp(segments[:, [1, 3]]) == pytest.approx(4.0, abs=1e-3)


def test_what_is_described_moves_with_its_stage():
    """Fog in a box and the height of its base, told in the model's coordinates, take the same light at survey coordinates."""
    meshes = [quad([(0, 1, 0), (1, 1, 0), (1, 1, 1), (0, 1, 1)], 0)]
    seen = []
    for place in (PLACES[0], PLACES[3]):
        low, high = tuple(map(float, place)), tuple(float(p + 4) for p in place)
        fog = Air(
            on=True,
            extent="box",
            low=low,
            high=high,
            free_path_m=2.0,
            base_height_m=place[2] + 0.5,
            fall_m=1.0,
            multiple=False,
        )
        view = {"position": (0.5, -0.4, 0.5), "target": (0.5, 1.0, 0.5)}
        project, compiler, _ = put(meshes, [SHINING], 4.0, place, view=view, air=fog)
        film = render(project, "v", "o", 12, 8, 64, 1, TRUE, compiler=compiler)
        seen.append((film.balanced() @ LUMINANCE)[3:5, 4:8].mean())
    assert seen[1] == pytest.approx(seen[0], rel=0.01)
    assert seen[0] < 700


def test_what_strays_does_not_draw_the_origin_away():
    meshes, openings = _sunlit_room()
    project, compiler, at = put(meshes, [MATT, PANE], 4.0, PLACES[3], openings=openings)
    stage = compiler.stage(project)
    far = np.eye(4)
    strayed = StageData(
        stage.meshes, (*stage.instances, MeshInstance(0, far, name="marker")), stage.materials, openings=stage.openings
    )
    scene = stages.scene_of(project, Compiler(strayed))
    assert np.abs(scene.origin - PLACES[3]).max() <= 500
    met = along(scene, at((0.5, 0.5, 0.5)), (0, 0, -1))
    assert met is not None and met.distance_m == pytest.approx(2.0, abs=1e-4)
