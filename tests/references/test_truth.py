"""What must hold whatever stands in between: panes, fog, water, faces in one place, mirrors, fixtures near by. Closed forms and
equivalences; small pictures, fixed seeds, nothing clamped (Quality TRUE)."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import dblquad

from tests import small
from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.lamps import record
from valleylight.core.measure.incident import incident
from valleylight.core.preview.studio import studio
from valleylight.core.project import Sun, View
from valleylight.core.project.air import Air
from valleylight.core.project.description import EmittingShape
from valleylight.core.stage import Material, MeshInstance, StageData, Texture
from valleylight.core.trace.bsdf import albedo, surface
from valleylight.core.trace.render import new_film, render, trace
from valleylight.core.trace.scene.quality import TRUE
from valleylight.validation import stages
from valleylight.validation.energy import furnace

NO_PANE = Material(thin_glass=True, roughness=0.0, index=1.0, tint=(1, 1, 1))
NO_GLASS = Material(solid_glass=True, roughness=0.0, index=1.0, tint=(1, 1, 1))
CUT_OUT = Material(base=(1, 1, 1), alpha_texture=0, alpha_cutoff=0.5)
FOG = Air(on=True, free_path_m=3.0, colour=(1, 1, 1), forward=0.4, back_share=0.0, multiple=True)
HIGH = Sun(true_to_place=False, azimuth_deg=180, altitude_deg=60)
AHEAD = View(key="v", name="v", position=(0, 0, 0), target=(0, 7, 0), focal_mm=300, keep_verticals=False)


def seen(meshes, materials, view, size=12, samples=512, **more):
    """Luminance in cd/m2, H x W, of a stage given outright."""
    project, compiler = stages.project_of(meshes, materials, view, **more)
    film = render(project, "v", "o", size, size, samples, 1, TRUE, compiler=compiler)
    return film.balanced() @ LUMINANCE


def across(y: float, material: int, half: float = 9.0):
    """A square across the view at y, that faces the lens at the origin."""
    return small.quad([(-half, y, -half), (half, y, -half), (half, y, half), (-half, y, half)], material)


@pytest.mark.parametrize("sheet", [NO_PANE, NO_GLASS], ids=["panes", "sheets of glass"])
def test_what_lets_everything_by_changes_nothing_in_fog(sheet):
    """Sheets of index 1 are not there: a wall that shines behind fog which scatters on looks the same with four of them between."""
    wall = Material(base=(0.6,) * 3, specular=0.0, emission=(100.0,) * 3)
    walls = [across(7.0, 0), across(-2.0, 0)]
    # Solid sheets come in pairs, for between an entry and an exit there is no fog.
    sheets = [across(y, 1) for y in (1.5, 2.5, 3.5, 5.0)] if sheet is NO_PANE else [
        small.quad([(-9, y, -9), (9, y, -9), (9, y, 9), (-9, y, 9)][::step], 1)
        for y, step in ((2.0, 1), (2.001, -1), (4.0, 1), (4.001, -1))
    ]  # fmt: skip
    bare = seen(walls, [wall, sheet], AHEAD, air=FOG).mean()
    assert seen([*walls, *sheets], [wall, sheet], AHEAD, air=FOG).mean() == pytest.approx(bare, rel=0.02)


@pytest.mark.parametrize(("reflectance", "path_m"), [(0.6, 3.0), (0.8, 2.5), (0.3, 5.0), (0.5, None)])
def test_fog_that_loses_nothing_makes_no_light(reflectance, path_m):
    """What a fixture gives is absorbed by the walls alone: mean E = flux / ((1 - rho) A), with fog as without it (conservation of
    energy in a closed enclosure)."""
    side, candela = 3.0, 100.0
    walls = stages.box_room((side,) * 3, 0)
    fixtures, kinds = stages.lamp((1.3, 1.6, 1.4), (1.3, 1.6, 0.0))
    matt = Material(base=(reflectance,) * 3, specular=0.0)
    fog = FOG.model_copy(update={"free_path_m": path_m}) if path_m else Air()
    project, compiler = stages.project_of(walls, [matt], AHEAD, fixtures, kinds, stages.even(candela), air=fog)
    scene = stages.scene_of(project, compiler)
    at, weight = np.polynomial.legendre.leggauss(6)  # the mean over a wall by Gauss's quadrature
    u, v = (a.ravel() for a in np.meshgrid((at + 1) / 2 * side, (at + 1) / 2 * side))
    weights = np.tile(np.outer(weight, weight).ravel() / 4, 6) / 6
    points, normals = [], []
    for axis in range(3):
        for end, sign in ((0.0, 1.0), (side, -1.0)):
            place, normal = np.zeros((36, 3)), np.zeros((36, 3))
            place[:, axis], place[:, (axis + 1) % 3], place[:, (axis + 2) % 3] = end, u, v
            normal[:, axis] = sign
            points.append(place)
            normals.append(normal)
    lux = incident(scene, np.concatenate(points), np.concatenate(normals), 1024).lux({}) @ weights
    expected = 4 * np.pi * candela / ((1 - reflectance) * 6 * side**2)
    assert lux == pytest.approx(expected, rel=0.02)


@pytest.mark.parametrize("index", [1.2, 1.333, 1.5])
def test_a_sunlit_floor_under_water_seen_from_the_air(index):
    """L = T T' rho E / (pi n^2 (1 - rho R)), with T and T' of Fresnel for the sun's way in and the sight's way out, and R the reflectance of the surface for even
    light from below, R = 1 - (1 - r) / n^2 (D. B. Judd, 1942), r that for even light from above."""
    rho = 0.3
    floor = Material(base=(rho,) * 3, specular=0.0)
    water = Material(solid_glass=True, roughness=0.0, index=index, tint=(1, 1, 1))
    sheet = small.quad([(-400, -400, 1.0), (400, -400, 1.0), (400, 400, 1.0), (-400, 400, 1.0)], 1)
    bed = small.quad([(-400, -400, 0), (400, -400, 0), (400, 400, 0), (-400, 400, 0)], 0)
    view = View(key="v", name="v", position=(0, 0, 6.0), target=(0, 0, 0), focal_mm=900, keep_verticals=False)
    project, compiler = stages.project_of([bed, sheet], [floor, water], view, sun=HIGH)
    film = render(project, "v", "o", 12, 12, 1024, 1, TRUE, compiler=compiler)
    lit = stages.scene_of(project, compiler).daylight.sun_horizontal_lx
    passed = (1 - ((index - 1) / (index + 1)) ** 2) * (1 - surface.dielectric(float(np.cos(np.pi / 6)), index))
    c = (np.arange(4000) + 0.5) / 4000
    even = 2 * np.mean([surface.dielectric(k, index) * k for k in c])
    inner = 1 - (1 - even) / index**2
    expected = passed * rho * lit / (np.pi * index**2 * (1 - rho * inner))
    got = float((film.groups["sun"] @ LUMINANCE).mean())
    assert got == pytest.approx(expected, rel=0.02)


def test_what_stands_in_solid_glass_is_as_bright_as_the_glass_lets_it():
    """A shining face in solid glass, seen from the air straight on: L (1 - r) / n^2 (Nicodemus' invariant L / n^2)."""
    glass = Material(solid_glass=True, roughness=0.0, index=1.6, tint=(1, 1, 1))
    face = Material(base=(0, 0, 0), specular=0.0, emission=(500.0,) * 3)
    got = seen([across(5.0, 1), across(7.0, 0)], [face, glass], AHEAD, samples=64)
    assert got.mean() == pytest.approx(500 * (1 - (0.6 / 2.6) ** 2) / 1.6**2, rel=0.01)


@pytest.mark.parametrize("depth", [0.5, 4.0])
def test_a_lens_under_water_sees_through_it(depth):
    """Beer-Lambert from the lens on: tint ^ (way / depth of the tint); from the air nothing is taken away."""
    water = Material(solid_glass=True, roughness=0.0, index=1.33, tint=(0.5,) * 3, tint_depth_m=2.0)
    face = Material(base=(0, 0, 0), specular=0.0, emission=(500.0,) * 3)
    above = small.quad([(-50, -50, 3), (50, -50, 3), (50, 50, 3), (-50, 50, 3)], 1)
    wall = across(depth, 0, 40.0)
    assert seen([above, wall], [face, water], AHEAD, samples=16).mean() == pytest.approx(
        500 * 0.5 ** (depth / 2), rel=0.01
    )
    ashore = AHEAD.model_copy(update={"position": (0, 0, 4), "target": (0, 7, 4)})
    assert seen([above, wall], [face, water], ashore, samples=16).mean() == pytest.approx(500.0, rel=0.01)


def test_a_lens_beside_or_under_a_glass_that_is_shut_is_in_the_air():
    water = Material(solid_glass=True, roughness=0.0, index=1.33, tint=(0.1,) * 3, tint_depth_m=1.0)
    face = Material(base=(0, 0, 0), specular=0.0, emission=(500.0,) * 3)
    tank = [_moved(_turned_out(m), (-2, -1, 2)) for m in stages.box_room((4, 3, 1), 1)]
    assert seen([*tank, across(5.0, 0)], [face, water], AHEAD, samples=16).mean() == pytest.approx(500.0, rel=0.01)
    within = AHEAD.model_copy(update={"position": (0, 0.5, 2.5), "target": (0, 1.5, 2.5)})
    expected = 500 * 0.1**1.5 * (1 - (0.33 / 2.33) ** 2) * 1.33**2  # on leaving the glass light is gathered
    got = seen([*tank, across(5.0, 0)], [face, water], within, samples=256)
    assert got.mean() == pytest.approx(expected, rel=0.03)


def _turned_out(mesh):
    return replace(mesh, triangles=mesh.triangles[:, [0, 2, 1]].copy(), normals=-mesh.normals)


def _moved(mesh, by):
    return replace(mesh, points=(mesh.points + np.array(by)).astype(np.float32))


@pytest.mark.parametrize("second", ["the same", "other triangles", "half of it", "twice as bright"])
def test_faces_that_shine_in_one_place_shine_once(second):
    """Of two that lie in one plane each ray meets one: never the sum of both, near or far."""
    for height in (1.0, 30.0):
        corners = [(-0.5, -0.5, height), (-0.5, 0.5, height), (0.5, 0.5, height), (0.5, -0.5, height)]
        other = corners[1:] + corners[:1] if second == "other triangles" else corners
        if second == "half of it":
            other = [(x if x < 0 else 0.0, y, z) for x, y, z in corners]
        lamp = Material(base=(0, 0, 0), specular=0.0, emission=(1000.0,) * 3)
        bright = Material(
            base=(0, 0, 0), specular=0.0, emission=(2000.0 if second == "twice as bright" else 1000.0,) * 3
        )
        view = View(key="v", name="v", position=(0.6, 0, 0.8), target=(0, 0, 0), focal_mm=900, keep_verticals=False)
        floor = small.quad(stages.FLOOR_CORNERS, 0)
        one = seen([floor, small.quad(corners, 1)], [stages.MATT, lamp, bright], view, 8, 256).mean()
        both = seen(
            [floor, small.quad(corners, 1), small.quad(other, 2)], [stages.MATT, lamp, bright], view, 8, 512
        ).mean()
        if second == "twice as bright":
            assert 0.97 * one < both < 2.06 * one
        else:
            assert both == pytest.approx(one, rel=0.03)


@pytest.mark.parametrize("index", [1.3, 1.5, 1.8])
@pytest.mark.parametrize("degrees", [0.0, 45.0, 60.0, 75.0])
def test_gloss_reflects_as_fresnel_says(index, degrees):
    """Smooth and nearly smooth black gloss in even light shows Fresnel's reflectance (Born, Wolf, Principles of Optics, 1.5.2)."""
    cosine = float(np.cos(np.radians(degrees)))
    inside = np.sqrt(1 - (1 - cosine**2) / index**2)
    exact = (
        ((cosine - index * inside) / (cosine + index * inside)) ** 2
        + ((inside - index * cosine) / (inside + index * cosine)) ** 2
    ) / 2
    assert albedo.of_gloss(0.002, index, cosine) == pytest.approx(exact, rel=0.02)
    _, _, g, _ = 0, *surface.reflected(0.0, 0.0, 0.0, 0.0, 1.0, index, 0.0, cosine)
    assert g == pytest.approx(exact, rel=1e-9)
    a = np.radians(degrees)
    view = View(
        key="v", name="v", position=(4 * float(np.sin(a)), 0, 4 * cosine), target=(0, 0, 0), focal_mm=900,
        keep_verticals=False,
    )  # fmt: skip
    for roughness in (0.0, 0.1):
        gloss = Material(base=(0, 0, 0), roughness=roughness, index=index)
        project, compiler = stages.project_of([small.quad(stages.FLOOR_CORNERS, 0)], [gloss], view)
        scene = stages.evenly_lit(stages.scene_of(project, compiler, 8, 8), 100.0)
        film = new_film(scene, view, project.description.occasions[0], 8, 8)
        with ThreadPoolExecutor(2) as pool:
            trace(scene, film, 0, 512, pool)
        assert float((film.balanced() @ LUMINANCE).mean()) == pytest.approx(100 * exact, rel=0.03, abs=0.05)


@pytest.mark.parametrize("body", [
    Material(base=(1, 1, 1), metal=1.0, roughness=0.0),
    Material(base=(1, 1, 1), roughness=0.0),
    Material(base=(1, 1, 1), roughness=0.0, index=2.2),
    Material(base=(1, 1, 1), metal=1.0, roughness=0.0, coat=1.0),
], ids=["metal", "gloss", "much gloss", "coated metal"])  # fmt: skip
def test_perfect_mirrors_keep_light(body):
    """A white body in even light cannot be told from it, be it ever so smooth."""
    assert furnace(body, 256) == pytest.approx(1.0, rel=0.03)


def test_a_mirror_of_no_roughness_is_sharp():
    """Half of the sky's place is taken by a shining wall, half by a dark one: in the mirror every pixel shows one of them."""
    mirror = Material(base=(1, 1, 1), metal=1.0, roughness=0.0)
    lamp, dark = (Material(base=(0, 0, 0), specular=0.0, emission=(e,) * 3) for e in (800.0, 50.0))
    view = View(key="v", name="v", position=(0, -40, 40), target=(0, 0, 0), focal_mm=400, keep_verticals=False)
    walls = [
        small.quad([(-300, 60, -1), (0.013, 60, -1), (0.013, 60, 300), (-300, 60, 300)], 1),
        small.quad([(0.013, 60, -1), (300, 60, -1), (300, 60, 300), (0.013, 60, 300)], 2),
    ]
    floor = small.quad(stages.FLOOR_CORNERS, 0)
    picture = seen([floor, *walls], [mirror, lamp, dark], view, 64, 32)
    between = (picture > 60) & (picture < 780)
    assert between.any(0).sum() <= 2  # a column that the edge crosses, and what its neighbour shares of it
    assert picture[:, :28] == pytest.approx(np.full((64, 28), 800.0), rel=0.01)
    assert picture[:, 36:] == pytest.approx(np.full((64, 28), 50.0), rel=0.01)


@pytest.mark.parametrize(("radius", "distance"), [(0.2, 0.25), (0.35, 0.7), (0.5, 3.0), (0.02, 0.05)])
def test_a_ball_of_light_near_by(radius, distance):
    """Facing a sphere of even luminance E = I / D^2 to its centre, however near (R. Siegel, J. Howell, Thermal Radiation Heat
    Transfer, view factor of a sphere); and turned by 90 degrees, by quadrature over the half seen."""
    fixtures, kinds = stages.lamp((0, 0, distance), (0, 0, -5.0))
    round_ = [kinds[0].model_copy(update={"emits_from": EmittingShape(shape="sphere", width_m=2 * radius)})]
    floor = small.quad(stages.FLOOR_CORNERS, 0)
    project, compiler = stages.project_of([floor], [stages.BLACK], AHEAD, fixtures, round_, stages.even(50.0))
    scene = stages.scene_of(project, compiler)
    assert scene.arrays.lamps[0, record.SHAPE] == record.SPHERE
    lit = incident(scene, np.zeros((1, 3)), np.array([[0, 0, 1.0]]), 4096).lux({})
    assert lit[0] == pytest.approx(50.0 / distance**2, rel=0.01)
    aside = incident(scene, np.zeros((1, 3)), np.array([[1.0, 0, 0]]), 16384).lux({})
    luminance, most = 50.0 / (np.pi * radius**2), np.arcsin(radius / distance)
    expected, _ = dblquad(
        lambda p, t: luminance * np.sin(t) ** 2 * np.cos(p), 0, most, lambda t: -np.pi / 2, lambda t: np.pi / 2
    )
    assert aside[0] == pytest.approx(expected, rel=0.02)


def test_cut_outs_in_fog_change_nothing():
    """A leaf whose picture lets everything by is not there either."""
    wall = Material(base=(0.6,) * 3, specular=0.0, emission=(100.0,) * 3)
    walls = [across(7.0, 0), across(-2.0, 0)]
    leaves = [across(y, 1) for y in (1.5, 3.0, 4.5)]
    clear = (Texture(np.zeros((4, 4, 3), np.uint8)),)
    bare = seen(walls, [wall, CUT_OUT], AHEAD, air=FOG).mean()
    meshes = (*walls, *leaves)
    instances = tuple(MeshInstance(k, np.eye(4), name=f"part {k}") for k in range(len(meshes)))
    project, compiler = studio(StageData(meshes, instances, (wall, CUT_OUT), clear), AHEAD, air=FOG)
    film = render(project, "v", "o", 12, 12, 512, 1, TRUE, compiler=compiler)
    assert float((film.balanced() @ LUMINANCE).mean()) == pytest.approx(bare, rel=0.02)
