"""The meter, areas, readings of fixtures and the goniometer against closed forms and the sky's own figures."""

from __future__ import annotations

import numpy as np
import pytest

from tests import small
from valleylight.core.errors import InputError
from valleylight.core.measure import falsecolour
from valleylight.core.measure.aimed import readings
from valleylight.core.measure.area import over_area
from valleylight.core.measure.direct import direct_lux
from valleylight.core.measure.goniometer import measure_fixture, measure_object
from valleylight.core.measure.incident import incident
from valleylight.core.photometry import LuminousOpening, Photometry
from valleylight.core.photometry.invent import plain_spot
from valleylight.core.project.description import Fixture, FixtureKind
from valleylight.core.stage.model import Material, Mesh, MeshInstance, StageData
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import PROOF
from valleylight.demo.profiles import CATALOGUE, photometry

UP = np.array([[0.0, 0.0, 1.0]])


def scene_of(occasion):
    project, compiler = small.project(), Compiler()
    d = project.description
    return compiler.scene(project, d.view("inside"), d.occasion(occasion), 16, 9, 1, PROOF), d, compiler, project


def test_open_ground_takes_sun_and_sky_whole():
    """Outside, 20 m from the house: the illuminances of the sun and of the sky's own integral."""
    scene, *_ = scene_of("noon")
    found = incident(scene, np.array([[20.0, 20.0, -0.1]]), UP, 1024)
    by_group = dict(zip(found.group_names, found.rgb_lx[0] @ [0.2126, 0.7152, 0.0722], strict=True))
    assert by_group["sun"] == pytest.approx(scene.daylight.sun_horizontal_lx, rel=2e-3)
    assert by_group["sky"] == pytest.approx(scene.daylight.dome.horizontal_illuminance_lx, rel=0.01)


def test_twenty_points_from_five_fixtures_by_hand():
    """E = sum of I(C, gamma) cos(theta) / d2 (inverse-square cosine law, CIE 018), worked out apart from the kernels."""
    kinds = {lu.key: photometry(lu) for lu in CATALOGUE}
    project, compiler = small.project(), Compiler()
    d = project.description
    places = [(1.0, 1.0, 2.9), (5.0, 1.0, 2.9), (3.0, 2.0, 2.6), (1.0, 3.0, 2.8), (5.2, 3.2, 2.9)]
    aims = [(1.0, 1.0, 0.0), (4.0, 1.5, 0.0), (3.0, 2.0, 0.0), (2.0, 3.0, 0.5), (5.2, 3.2, 0.0)]
    fixtures = tuple(
        Fixture(key=f"n{k}", kind="downlight-medium", group="Ceiling", position=p, aim=a, lumens=700 + 100 * k)
        for k, (p, a) in enumerate(zip(places, aims, strict=True))
    )
    changed = type(project)(d.model_copy(update={"fixtures": fixtures}), project.asset)
    scene = compiler.scene(changed, d.view("inside"), d.occasion("night"), 16, 9, 1, PROOF)
    random = np.random.default_rng(5)
    points = np.column_stack([random.uniform(0.3, 5.7, 20), random.uniform(0.3, 3.7, 20), random.uniform(1.0, 1.8, 20)])
    got = direct_lux(scene, {}, points, np.tile(UP, (20, 1)))
    profile = kinds["downlight-medium"]
    want = np.zeros(20)
    for fixture in fixtures:
        position, aim = np.array(fixture.position), np.array(fixture.aim)
        axis = (aim - position) / np.linalg.norm(aim - position)
        away = points - position
        far = np.linalg.norm(away, axis=1)
        away /= far[:, None]
        gamma = np.degrees(np.arccos(np.clip(away @ axis, -1, 1)))
        want += profile.intensity(0.0, gamma) * fixture.lumens / profile.lumens * np.maximum(-away[:, 2], 0) / far**2
    assert got == pytest.approx(want, rel=0.01, abs=0.05)


def test_an_area_knows_its_mean_and_uniformity():
    scene, d, _, _ = scene_of("night")
    levels = d.occasion("night").light_levels()
    made = over_area(scene, levels, (0.5, 0.5, 0.2), (5, 0, 0), (0, 3, 0), (0, 0, 1), 0.5, direct_only=True)
    assert made.lux.shape == (6, 10)
    assert made.mean_lx == pytest.approx(made.lux.mean()) and made.uniformity == pytest.approx(
        made.lux.min() / made.lux.mean()
    )
    whole = over_area(scene, levels, (0.5, 0.5, 0.2), (5, 0, 0), (0, 3, 0), (0, 0, 1), 0.5)
    assert whole.mean_lx > 1.05 * made.mean_lx  # bounces add
    wall = over_area(scene, levels, (5.9, 0.5, 0.5), (0, 3, 0), (0, 0, 2), (-1, 0, 0), 0.5)
    assert 5 < wall.mean_lx < whole.mean_lx
    for wrong in ({"u": (0, 0, 0)}, {"normal": (1, 0, 0)}, {"spacing_m": 0.01}):
        asked = {
            "corner": (0.5, 0.5, 0.2),
            "u": (5, 0, 0),
            "v": (0, 3, 0),
            "normal": (0, 0, 1),
            "spacing_m": 0.5,
            **wrong,
        }
        with pytest.raises(InputError):
            over_area(scene, levels, **asked)


def test_contact_cone_and_bounce():
    """A cone straight down on the floor: E = I / h2 below it; half the light where I(g) cos3(g) is half."""
    scene, _, compiler, project = scene_of("night")
    spot = plain_spot(30, 60, 0.0, 1000)
    fixture = Fixture(key="x", kind="downlight-medium", position=(1.0, 3.4, 2.5), aim=(1.0, 3.4, 0.0))
    found = readings(scene, compiler.stage(project), fixture, spot, 500.0)
    assert found.distance_m == pytest.approx(2.5, abs=0.02)
    assert found.contact_lx == pytest.approx(0.5 * float(spot.intensity(0, 0)) / 2.5**2, rel=0.01)
    g = np.linspace(0, 60, 6001)
    light = spot.intensity(0, g) * np.cos(np.radians(g)) ** 3
    edge = 2.5 * np.tan(np.radians(g[np.flatnonzero(light < light[0] / 2)[0]]))
    assert found.half_value_m == pytest.approx(edge, rel=0.03)
    assert 0.1 < found.after_bounce < 0.9 and found.advice is None
    outside = fixture.model_copy(update={"position": (20.0, -20.0, 30.0), "aim": (20.0, -20.0, 0.0)})
    assert "plain source" in readings(scene, compiler.stage(project), outside, spot, 500.0).advice


def disc(radius: float, luminance: float) -> StageData:
    ring = np.linspace(0, 2 * np.pi, 129)
    points = np.vstack([[0, 0, 0], np.column_stack([radius * np.cos(ring), radius * np.sin(ring), 0 * ring])])
    k = np.arange(1, 129)
    triangles = np.column_stack([0 * k, k + 1, k]).astype(np.uint32)
    mesh = Mesh(points.astype(np.float32), np.tile([0, 0, -1.0], (len(points), 1)).astype(np.float32),
                np.zeros((len(points), 2), np.float32), triangles, np.zeros(128, np.int32))  # fmt: skip
    shining = Material(name="e", base=(0, 0, 0), specular=0.0, emission=(luminance,) * 3)
    return StageData((mesh,), (MeshInstance(0, np.eye(4), name="disc"),), (shining,), ())


def test_goniometer_of_a_lambertian_disc():
    """I(g) = L A cos g, within one percent."""
    made = measure_object(disc(0.2, 1000.0), frozenset(["disc"]), np.arange(0, 360, 60.0), np.arange(0, 91, 15.0))
    for angle in (0, 15, 30, 45, 60, 75):
        want = 1000 * np.pi * 0.04 * np.cos(np.radians(angle))
        assert float(made.intensity(0, angle)) == pytest.approx(want, rel=0.01)
    with pytest.raises(InputError, match="no object"):
        measure_object(disc(0.2, 1000.0), frozenset(["lamp"]))
    with pytest.raises(InputError, match="no light"):
        measure_object(disc(0.2, 0.0), frozenset(["disc"]), np.arange(0, 360, 90.0), np.array([0.0, 45.0]))


def test_goniometer_gives_a_known_profile_back():
    """A downlight's face shines as its profile says: flux within three percent, and its intensities about the axis."""
    luminaire = next(lu for lu in CATALOGUE if lu.key == "downlight-medium")
    profile = photometry(luminaire)
    kind = FixtureKind(key="k", name="k", profile="0" * 64, body="downlight", kelvin=3000)
    fixture = Fixture(key="f", kind="k", position=(1, 1, 2), aim=(1, 1, 0))
    made = measure_fixture(fixture, kind, profile, np.arange(0, 360, 90.0), np.arange(0, 91, 5.0))
    assert made.lumens == pytest.approx(profile.lumens, rel=0.03)
    for angle in (0, 5, 10, 20, 30):
        assert float(made.intensity(0, angle)) == pytest.approx(float(profile.intensity(0, angle)), rel=0.03)


def test_false_colour_has_a_rising_scale_and_true_lux():
    linear = np.ones((4, 8, 3), np.float32) * np.geomspace(1, 1000, 8, dtype=np.float32)[None, :, None]
    made = falsecolour.luminance(linear)
    values = [v for v, _ in made.legend]
    assert made.unit == "cd/m2" and values == sorted(values) and values[-1] == 1000
    assert (np.diff(made.picture[0].astype(int).sum(-1)) >= 0).all()
    reflectance, depth = np.full((4, 8, 3), 0.5, np.float32), np.ones((4, 8))
    depth[0] = np.inf
    lux = falsecolour.illuminance(linear, reflectance, depth)
    assert lux.unit == "lx" and lux.legend[-1][0] == 10_000  # pi 1000 / 0.5 = 6283 lx
    assert tuple(lux.picture[0, 0]) == falsecolour.NO_SURFACE
    clip = falsecolour.clipped(np.concatenate([np.zeros((8, 8, 3)), np.full((8, 8, 3), 255)]).astype(np.uint8))
    assert {tuple(c) for c in clip.reshape(-1, 3)} == {(0, 0, 0), (255, 255, 255), falsecolour.OVER, falsecolour.UNDER}


def test_point_shapes_need_an_opening_to_be_measured():
    even = Photometry(
        np.zeros(1), np.array([0.0, 180.0]), np.ones((1, 2)), opening=LuminousOpening("sphere", 0.2, 0.2, 0.2)
    )
    kind = FixtureKind(key="k", name="k", profile="0" * 64, body="pendant")
    fixture = Fixture(key="f", kind="k", position=(0, 0, 0), aim=(0, 0, -1))
    made = measure_fixture(fixture, kind, even, np.arange(0, 360, 90.0), np.array([0.0, 45.0, 90.0, 120.0]))
    assert made.candela[0, :4] == pytest.approx(np.ones(4), rel=0.06)
