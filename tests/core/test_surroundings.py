"""Ground to the horizon, distant planting, the backdrop card: where they begin and end, and how they meet the sky."""

from __future__ import annotations

import numpy as np
import pytest

from tests.shapes import box_glb
from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.measure import pick
from valleylight.core.measure.incident import incident
from valleylight.core.objects import family_of, made
from valleylight.core.project.build import build, name_of
from valleylight.core.project.description import Made, Occasion, Placement, Stage, View
from valleylight.core.project.surface import ObjectFlags
from valleylight.core.stage import read_glb
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import SKETCH, TRUE

EYE = 1.6
NOON = Occasion(key="o", name="o", when="2026-06-21T12:00:00")


def member(key, **values):
    return read_glb(made(family_of(key), values), key)


def seen_from(towards, things, stage=None, quality=SKETCH, format=(16, 9), focal_mm=24.0):
    """A scene of things of the catalogue by family and numbers, each named after its family, seen from eye height at the zero."""
    files, placements = [], []
    for key, values in things.items():
        data = made(family_of(key), values)
        files.append(data)
        placements.append(Placement(key=key, name=key, asset=name_of(data), made=Made(family=key)))
    view = View(
        key="v",
        name="v",
        position=(0, 0, EYE),
        target=(*np.array(towards, float)[:2], EYE),
        format=format,
        focal_mm=focal_mm,
    )
    project = build(
        files=files, placements=placements, views=(view,), occasions=(NOON,), stage=stage or Stage(find_openings=False)
    )
    compiler = Compiler()
    return project, compiler, compiler.scene(project, view, NOON, 64, 36, 1, quality)


@pytest.mark.parametrize("reach", [2000.0, 12_000.0, 40_000.0])
def test_ground_reaches_the_horizon(reach):
    """Looking level, the line between ground and sky is as far below the level as the ground's end: its dip, and that of the round
    earth, which is nowhere more than sqrt(2 h / R) (from memory)."""
    _, _, scene = seen_from((0, 1), {"far-ground": {"reach": reach, "swell": 0.0}}, focal_mm=1000.0)
    rows = (np.arange(4000) + 0.5) / 4000
    ground = np.array([pick.through_picture(scene, 0.5, float(y)) is not None for y in rows])
    first = float(rows[np.argmax(ground)])
    assert ground[rows > first].all()  # no gap below it
    half = np.degrees(np.arctan(36 * 9 / 16 / 2 / 1000))
    below = np.degrees(np.arctan((2 * first - 1) * np.tan(np.radians(half))))
    end = np.degrees((EYE + reach**2 / (2 * 6.371e6)) / reach)
    horizon = np.degrees(np.sqrt(2 * EYE / 6.371e6))
    assert below == pytest.approx(horizon if reach > np.sqrt(2 * EYE * 6.371e6) else end, abs=0.012)


@pytest.mark.parametrize("free", [0.0, 35.0])
def test_ground_leaves_free_what_it_is_told_to(free):
    stage = member("far-ground", free=free)
    mesh = stage.meshes[0]
    world = (mesh.points @ stage.instances[0].matrix[:3, :3].T)[mesh.triangles]
    nearest = np.linalg.norm(world[..., :2].mean(1), axis=1).min()
    assert nearest < 6 if free == 0 else free - 1 < nearest < free + 20
    normal = np.cross(world[:, 1] - world[:, 0], world[:, 2] - world[:, 0])
    assert (normal[:, 2] > 0).all()  # all of it looks up
    area = normal[:, 2].sum() / 2
    assert area == pytest.approx(np.pi * (12_000.0**2 - free**2), rel=0.002)


def test_swells_are_as_high_as_told_and_none_stands_before_the_horizon():
    _, high = member("far-ground", swell=40.0).bounds()
    assert 15 < high[2] < 41
    mesh = member("far-ground", swell=40.0).meshes[0]
    far = np.hypot(mesh.points[:, 0], mesh.points[:, 2]) > 11_500  # a file is Y up
    assert mesh.points[far, 1].max() < -8  # below the level as the earth is round


@pytest.mark.parametrize("season", [0, 1, 2])
def test_planting_breaks_the_horizon_all_round_but_where_it_is_open(season):
    things = {"far-ground": {}, "distant-planting": {"season": season, "cover": 1.0, "open": 90.0, "hills": 30.0}}
    _, _, scene = seen_from((0, 1), things)
    met = []
    for k in range(72):
        a = 2 * np.pi * k / 72
        # A degree above the level: the planting is twelve metres high at 160.
        towards = (float(np.cos(a)), float(np.sin(a)), float(np.tan(np.radians(1.0))))
        hit = pick.along(scene, (0.0, 0.0, EYE), towards)
        met.append(hit.object if hit else "sky")
    met = np.array(met)
    front = np.abs((np.arange(72) * 5 - 270 + 180) % 360 - 180) < 43
    assert set(met[front]) == {"sky"}
    assert (met[~front] == "distant-planting").mean() > 0.9


def test_planting_stands_within_its_ring():
    stage = member("distant-planting", distance=200.0, depth=50.0, hills=0.0)
    at = np.array([i.matrix[:3, 3] for i in stage.instances])
    trees = np.hypot(at[:, 0], at[:, 1])
    trees = trees[trees > 1]  # the ring itself stands at its zero
    assert len(trees) > 300 and trees.min() > 199 and trees.max() < 251
    fewer = member("distant-planting", distance=200.0, depth=50.0, hills=0.0, cover=0.2)
    assert 20 < len(fewer.instances) < 0.4 * len(stage.instances)


def test_a_backdrop_is_seen_lit_by_itself_and_lights_nothing():
    """It gives what it is told to by day and by night alike: white at 3000 cd/m2; and a card beside it gets no light of it."""
    flags = {"backdrop": ObjectFlags(casts_shadow=False, sends=False)}
    things = {"backdrop": {"distance": 50.0, "level": 3000.0, "arc": 180.0, "height": 60.0, "sunk": 20.0}}
    lit = Stage(objects=flags, find_openings=False)
    project, compiler, scene = seen_from((0, 1), things, lit, TRUE)
    film = render(project, "v", "o", 64, 36, 8, 1, TRUE, compiler=compiler)
    own = film.groups["surfaces"] @ LUMINANCE
    # Its picture is pale: from a tenth to all of white.
    assert own.min() > 250 and own.max() < 3000 and own.mean() == pytest.approx(1500, rel=0.5)
    card = incident(scene, np.array([[0.0, 20.0, 1.0]]), np.array([[0.0, 1.0, 0.0]]), 2048)
    surfaces = list(scene.group_names).index("surfaces")
    assert float(card.rgb_lx[0, surfaces] @ LUMINANCE) == 0.0
    asked_for = Stage(objects={"backdrop": ObjectFlags()}, find_openings=False)
    _, _, scene = seen_from((0, 1), things, asked_for, TRUE)
    card = incident(scene, np.array([[0.0, 20.0, 1.0]]), np.array([[0.0, 1.0, 0.0]]), 2048)
    assert float(card.rgb_lx[0, surfaces] @ LUMINANCE) > 500


def test_a_backdrop_throws_no_shadow():
    flags = {"backdrop": ObjectFlags(casts_shadow=False, sends=False)}
    things = {"backdrop": {"distance": 50.0, "arc": 180.0, "height": 300.0}}
    _, _, scene = seen_from((0, 1), things, Stage(objects=flags, find_openings=False), TRUE)
    clear = build(
        {"x": box_glb(0.1)}, views=(View(key="v", name="v", position=(0, 0, 9), target=(0, 1, 9)),), occasions=(NOON,)
    )
    bare = Compiler().scene(clear, clear.description.views[0], NOON, 16, 9, 1, TRUE)
    point, up = np.array([[0.0, 45.0, 1.0]]), np.array([[0.0, 0.0, 1.0]])
    sun = list(scene.group_names).index("sun")
    behind, free = (float(incident(s, point, up, 512).rgb_lx[0, sun] @ LUMINANCE) for s in (scene, bare))
    assert behind == pytest.approx(free, rel=0.01) and free > 10_000
