"""The tracer against closed forms. Small pictures, fixed seeds, nothing clamped (Quality TRUE)."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.integrate import quad as integrate

from tests import small
from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.film import Film
from valleylight.core.lamps.compile import orientation
from valleylight.core.measure import direct
from valleylight.core.photometry import Photometry
from valleylight.core.project import Fixture, FixtureKind, Sky, Sun, View
from valleylight.core.stage import Material
from valleylight.core.trace.arrays.records import Paint
from valleylight.core.trace.bsdf import albedo, surface
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import SKETCH, TRUE
from valleylight.demo.profiles import CATALOGUE
from valleylight.demo.profiles import photometry as demo_photometry

MATT = Material(base=(0.5, 0.5, 0.5), specular=0.0)
FLOOR = small.quad([(-40, -40, 0), (40, -40, 0), (40, 40, 0), (-40, 40, 0)], 0)
DOWN = View(key="v", name="v", position=(0.3, 0.0, 4.0), target=(0.42, 0.0, 0.0), focal_mm=400, keep_verticals=False)
DARK = {"sky": Sky(cie_type=5, level_stops=0.0)}


def lux(film: Film, group: str, reflectance: float = 0.5) -> float:
    """Illuminance of a matt surface that fills the picture: E = pi L / rho."""
    return float(np.pi * (film.groups[group] @ LUMINANCE).mean() / reflectance)


def test_horizontal_illuminance_of_sun_and_sky():
    """An open floor receives what the sun and sky models state."""
    project, compiler = small.scene_of(
        [FLOOR], [MATT], DOWN, sun=Sun(true_to_place=False, azimuth_deg=200, altitude_deg=40), sky=Sky(cie_type=12)
    )
    film = render(project, "v", "o", 16, 16, 256, 3, TRUE, compiler=compiler)
    day = compiler.scene(
        project, project.description.views[0], project.description.occasions[0], 16, 16, 1, TRUE
    ).daylight
    assert lux(film, "sun") == pytest.approx(day.sun_horizontal_lx, rel=0.01)
    assert lux(film, "sky") == pytest.approx(day.dome.horizontal_illuminance_lx, rel=0.015)


@pytest.mark.parametrize("roughness", [0.1, 0.4, 0.8])
@pytest.mark.parametrize("metal", [0.0, 1.0])
@pytest.mark.parametrize("cosine", [0.95, 0.5, 0.15])
def test_no_surface_gives_more_than_it_gets(roughness, metal, cosine):
    """White-sphere energy: what a white surface reflects of even light, by its own sampling, is 1: nothing is made
    and next to nothing lost, smooth or rough, coated or metal."""
    alpha, index = max(roughness**2, 0.002), 1.5
    share = surface.specular_share(1.0, 1.0, 1.0, metal, 1.0, index, cosine)
    under, lost = albedo.seen_from(alpha, 1.0, index, cosine)
    o = np.array([np.sqrt(1 - cosine**2), 0.0, cosine])
    rng = np.random.default_rng(3)
    count, total, inside = 6000, 0.0, 0
    for pick, u, v in rng.random((count, 3)):
        if pick < share:
            h = np.array(surface.sample_visible_normal(alpha, *o, u, v))
            i = 2 * (o @ h) * h - o
        else:
            r, phi = np.sqrt(u), 2 * np.pi * v
            i = np.array([r * np.cos(phi), r * np.sin(phi), np.sqrt(1 - u)])
        if i[2] > 0:
            value, _, _, density = surface.evaluate(
                Paint(1.0, 1.0, 1.0, alpha, metal, 1.0, index, 0.0, share, under, lost, -1.0, 0.0, 0.0),
                0.0,
                0.0,
                0.0,
                1.0,
                *o,
                *i,
            )
            total += value / density
            inside += 1
    energy = total / count
    assert energy <= 1.02
    assert energy > 0.95
    assert inside / count > 0.7


@pytest.mark.parametrize("roughness", [0.3, 0.6])
def test_sampling_density_integrates_to_one(roughness):
    """The density `evaluate` states is that of the sampling: its integral over the hemisphere is 1 (less what falls
    under the surface), by quadrature."""
    o = (0.6, 0.0, 0.8)
    under, lost = albedo.seen_from(roughness**2, 1.0, 1.5, 0.8)
    share = surface.specular_share(0.5, 0.5, 0.5, 0.0, 1.0, 1.5, 0.8)
    paint = Paint(0.5, 0.5, 0.5, roughness**2, 0.0, 1.0, 1.5, 0.0, share, under, lost, -1.0, 0.0, 0.0)
    x, w = np.polynomial.legendre.leggauss(120)
    theta, weight = (x + 1) * np.pi / 4, w * np.pi / 4
    total = 0.0
    for t, wt in zip(theta, weight, strict=True):
        for p in np.linspace(0, 2 * np.pi, 121)[:-1]:
            i = (np.sin(t) * np.cos(p), np.sin(t) * np.sin(p), np.cos(t))
            *_, d = surface.evaluate(paint, 0.0, 0.0, 0.0, 1.0, *o, *i)
            total += d * wt * np.sin(t) * 2 * np.pi / 120
    assert total == pytest.approx(1.0, abs=0.02)


def lamp_case(profile: Photometry, fixture: Fixture, view: View, **more):
    kind = FixtureKind(key="k", name="k", profile="0" * 64, kelvin=3000)
    return small.scene_of([FLOOR], [MATT], view, [fixture], [kind], profile, **more)


@pytest.mark.parametrize("key", [lu.key for lu in CATALOGUE if lu.opening.shape in ("disc", "rectangle")])
def test_fixture_illuminance_on_a_grid(key):
    """IES fixture, inverse-square cosine law (CIE 018): E = I(C, gamma) cos(theta) / d^2, within 1 percent at 20 points."""
    profile = demo_photometry(next(lu for lu in CATALOGUE if lu.key == key))
    position, aim, turn = np.array([0.4, -0.2, 3.0]), np.array([0.9, 0.3, 0.0]), 25.0
    fixture = Fixture(key="f", kind="k", group="G", position=tuple(position), aim=tuple(aim), turn_deg=turn)
    project, compiler = lamp_case(profile, fixture, DOWN)
    scene = compiler.scene(project, DOWN, project.description.occasions[0], 16, 16, 1, SKETCH)
    xs, ys = np.linspace(-1.2, 2.4, 5), np.linspace(-1.1, 1.3, 4)
    grid = direct.on_level(scene, {}, xs, ys, 0.001)
    axes = orientation(position, aim, turn)
    expected = np.zeros_like(grid)
    for j, y in enumerate(ys):
        for i, x in enumerate(xs):
            d = np.array([x, y, 0.001]) - position
            r = np.linalg.norm(d)
            local = axes @ (d / r)
            c, gamma = np.degrees(np.arctan2(local[1], local[0])), np.degrees(np.arccos(-local[2]))
            expected[j, i] = profile.intensity(c, gamma) * (-d[2] / r) / r**2
    assert grid == pytest.approx(expected, rel=0.01, abs=0.01 * float(expected.max()))


def test_traced_fixture_agrees_with_the_law():
    """The tracer's film under a fixture: E at the nadir = I / h^2, within 1 percent."""
    profile = Photometry(np.zeros(1), np.array([0.0, 60, 90, 180]), np.array([[500.0, 300, 0, 0]]))
    fixture = Fixture(key="f", kind="k", group="G", position=(0.42, 0, 2.5), aim=(0.42, 0, 0), lumens=None)
    view = DOWN.model_copy(update={"position": (0.42, -0.5, 2.0), "target": (0.42, 0, 0), "focal_mm": 2000.0 / 2})
    project, compiler = lamp_case(profile, fixture, view)
    film = render(project, "v", "o", 8, 8, 64, 1, TRUE, compiler=compiler)
    assert lux(film, "G") == pytest.approx(500 / 2.5**2, rel=0.01)


def test_sky_through_an_opening():
    """A window that guides sampling finds the same light as a sampling that knows nothing of it: sky component on a
    floor point by quadrature over the opening, uniform sky (CIE 171:2006, section 5.8, without glass)."""
    wall = [
        small.quad([(-40, 0, 0), (-0.8, 0, 0), (-0.8, 0, 30), (-40, 0, 30)], 1),
        small.quad([(0.8, 0, 0), (40, 0, 0), (40, 0, 30), (0.8, 0, 30)], 1),
        small.quad([(-0.8, 0, 0), (0.8, 0, 0), (0.8, 0, 0.9), (-0.8, 0, 0.9)], 1),
        small.quad([(-0.8, 0, 2.3), (0.8, 0, 2.3), (0.8, 0, 30), (-0.8, 0, 30)], 1),
    ]
    lid = [
        small.quad([(-40, 0, 30), (40, 0, 30), (40, 40, 30), (-40, 40, 30)], 1),
        small.quad([(-40, 40, 0), (40, 40, 0), (40, 40, 30), (-40, 40, 30)], 1),
        small.quad([(-40, 0, 0), (-40, 40, 0), (-40, 40, 30), (-40, 0, 30)], 1),
        small.quad([(40, 0, 0), (40, 40, 0), (40, 40, 30), (40, 0, 30)], 1),
    ]
    black = Material(base=(0, 0, 0), specular=0.0)
    inside = small.quad([(-40, 0.01, 0), (40, 0.01, 0), (40, 40, 0), (-40, 40, 0)], 0)
    view = View(key="v", name="v", position=(0, 2.6, 1.2), target=(0, 2.0, 0), focal_mm=900, keep_verticals=False)
    project, compiler = small.scene_of(
        [inside, *wall, *lid], [MATT, black], view, sun=Sun(true_to_place=False, altitude_deg=45), sky=Sky(cie_type=5)
    )
    occasion = project.description.occasions[0]
    dome = compiler.scene(project, view, occasion, 8, 8, 1, TRUE).daylight.dome
    luminance = dome.horizontal_illuminance_lx / np.pi

    def strip(z: float) -> float:  # E = L integral of cos(floor) cos(wall) / d^2 over the opening
        return integrate(lambda x: z * 2.0 / (x * x + 4.0 + z * z) ** 2, -0.8, 0.8)[0]

    expected = luminance * integrate(strip, 0.9, 2.3)[0]
    plain = render(project, "v", "o", 8, 8, 2048, 1, TRUE, compiler=compiler)
    assert lux(plain, "sky") == pytest.approx(expected, rel=0.04)
    stage = compiler.stage(project)
    from dataclasses import replace

    from valleylight.core.project.description import Opening

    opening = Opening(centre=(0, 0, 1.6), half_u=(0.8, 0, 0), half_v=(0, 0, 0.7), inward=(0, 1, 0))
    guided = render(project, "v", "o", 8, 8, 256, 1, TRUE, compiler=Compiler(replace(stage, openings=(opening,))))
    assert lux(guided, "sky") == pytest.approx(expected, rel=0.015)


def test_threads_and_seeds():
    """The film depends on the seed alone."""
    project = small.project()
    one = render(project, "inside", "night", 40, 24, 4, seed=5, threads=1)
    two = render(project, "inside", "night", 40, 24, 4, seed=5, threads=3)
    other = render(project, "inside", "night", 40, 24, 4, seed=6, threads=2)
    assert np.array_equal(one.light, two.light)
    assert not np.array_equal(one.light, other.light)
    assert one.balanced().mean() == pytest.approx(other.balanced().mean(), rel=0.2)


def test_groups_tell_the_lights_apart():
    """At noon with the ceiling off there is sun, sky and the pendants; relighting is a sum of groups."""
    project = small.project()
    film = render(project, "inside", "noon", 32, 18, 8, seed=1)
    assert set(film.groups) == {"sun", "sky", "Pendants"}
    whole = film.balanced({"sun": 1, "sky": 1, "Pendants": 1})
    parts = film.balanced({"sun": 0, "sky": 1, "Pendants": 1}) + film.groups["sun"]
    assert whole == pytest.approx(parts, rel=1e-5)
    assert film.groups["Pendants"].mean() > 0 and film.groups["sky"].mean() > 0
