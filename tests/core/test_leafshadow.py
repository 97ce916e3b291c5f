"""Trees placed for the shadow of their leaves: on the sun's line, as high as it is there, on ground that carries them, and really shading."""

from __future__ import annotations

import math

import ephem
import numpy as np
import pytest

from valleylight.core.errors import InputError
from valleylight.core.making.glb import Model, Surface, Thing, write_glb
from valleylight.core.making.shapes import box, polygon
from valleylight.core.measure import leafshadow, pick
from valleylight.core.measure.leafshadow import ACROSS, Patch, TreeShape, beside, dappling, lit_share, places
from valleylight.core.objects import family_of, made
from valleylight.core.project.build import build, name_of
from valleylight.core.project.description import Made, Occasion, Placement, Site, View
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import SKETCH

SITE = Site(latitude_deg=46.8, longitude_deg=9.5, time_zone="Europe/Zurich")
VIEW = View(key="v", name="v", position=(0, -30, 2), target=(0, 0, 1))
#: Kinds whose crowns are known exactly, in place of those of the catalogue.
SMALL = TreeShape("small", 1.0, 6.0, 4.0, crown=0.5, depth=0.3, radius=0.25)
TALL = TreeShape("tall", 5.0, 20.0, 10.0, crown=0.7, depth=0.25, radius=0.2)
FLOOR = Patch((0.0, 0.0, 0.0), (0.0, 0.0, 1.0), 0.5)


def sheet(x0, y0, x1, y1, z):
    return polygon([(x0, y0, z), (x1, y0, z), (x1, y1, z), (x0, y1, z)])


def shown(things, hour=13, placements=(), files=(), north=0.0):
    """A scene of named shapes, each of a surface of its name, on a June day."""
    model = Model()
    for name, shape in things.items():
        model.surface(Surface(name, (0.4, 0.4, 0.4)))
        model.put(Thing(name).add(name, shape))
    noon = Occasion(key="o", name="o", when=f"2026-06-21T{hour:02d}:00:00")
    project = build(
        {"stage": write_glb(model)}, files=files, placements=placements, views=(VIEW,), occasions=(noon,),
        site=SITE.model_copy(update={"north_deg": north}),
    )  # fmt: skip
    return Compiler().scene(project, VIEW, noon, 16, 9, 1, SKETCH)


GROUND = {"ground": sheet(-200, -200, 200, 200, 0.0)}


def sun_at(hour):
    """Azimuth and altitude in degrees by ephem, without refraction; Zurich is two hours ahead of UTC in June."""
    here = ephem.Observer()
    here.lat, here.lon, here.pressure = "46.8", "9.5", 0
    here.date = f"2026/6/21 {hour - 2}:00:00"
    sun = ephem.Sun(here)
    return math.degrees(sun.az), math.degrees(sun.alt)


@pytest.mark.parametrize("hour", [8, 13, 18])
@pytest.mark.parametrize("north", [0.0, 40.0])
def test_places_lie_in_the_sun_s_line_as_high_as_it_is_there(hour, north):
    azimuth, altitude = sun_at(hour)
    found = places(shown(GROUND, hour, north=north), FLOOR, [SMALL, TALL])
    assert {p.key for p in found} == {"small", "tall"}
    for place in found:
        tree = SMALL if place.key == "small" else TALL
        x, y, _ = place.position
        assert math.degrees(math.atan2(x, y)) % 360 == pytest.approx((azimuth - north) % 360, abs=0.3)
        assert tree.crown * place.height_m / math.hypot(x, y) == pytest.approx(
            math.tan(math.radians(altitude)), rel=0.02
        )
        # The true sun is 0.53 degrees across.
        assert place.edge_m == pytest.approx(place.distance_m * math.radians(0.533), rel=0.03)
        assert tree.least_m <= place.height_m <= tree.most_m
    distances = [p.distance_m for p in found]
    assert distances == sorted(distances) and distances[-1] > 1.8 * distances[0]


def test_the_edge_of_a_shadow_is_the_part_of_the_disc_that_is_left():
    """Behind a straight edge the sun's disc is covered as far as a segment of a circle: (acos t - t sqrt(1 - t^2)) / pi of it is left at t
    radii."""
    edge_m = 12.0
    things = {**GROUND, "wall": box([-40, -0.05, -1], [40, 0.05, edge_m])}
    scene = shown(things)
    towards = np.array(scene.daylight.direction)
    reach = 0.25
    foot = -edge_m * towards / towards[2]  # where the shadow of the edge falls
    patch = Patch((0.0, float(foot[1]), 0.0), (0.0, 0.0, 1.0), reach)
    rows = lit_share(scene, patch).mean(1)
    y = patch.point[1] + reach * (1 - 2 * (np.arange(ACROSS) + 0.5) / ACROSS)
    # Angle of the sun's middle above the plane of each row and the edge, in radii of the disc.
    seen = np.stack([np.full_like(y, 0.05) - y, np.full_like(y, edge_m)], 1)
    plane = np.stack([-seen[:, 1], seen[:, 0]], 1) / np.linalg.norm(seen, axis=1)[:, None]
    t = np.clip(np.degrees(np.arcsin(-plane @ towards[1:])) / scene.daylight.radius_deg, -1, 1)
    expected = 1 - (np.arccos(t) - t * np.sqrt(1 - t**2)) / np.pi
    assert rows.min() == pytest.approx(0, abs=0.05) and rows.max() == pytest.approx(1, abs=0.05)
    assert np.abs(rows - expected).max() < 0.09  # sixteen directions stand for the disc


@pytest.mark.parametrize(("key", "height"), [("birch", 7.0), ("spruce", 9.0)])
def test_a_tree_in_its_place_takes_the_sun_traced_back_from_the_patch(key, height):
    family = family_of(key)
    numbers = family.values({"height": height})
    data = made(family, numbers)
    shape = TreeShape(key, height - 0.4, height + 0.4, height, 0.55, 0.25, 0.2)
    bare = lit_share(shown(GROUND), FLOOR)
    assert bare.mean() == pytest.approx(1.0, abs=1e-9)
    place = places(shown(GROUND), FLOOR, [shape])[0]
    tree = Placement(key="t", name="Tried", asset=name_of(data), position=place.position, made=Made(family=key))
    scene = shown(GROUND, placements=(tree,), files=(data,))
    shade, pattern = dappling(bare, lit_share(scene, FLOOR))
    assert 0.05 < shade <= 1.0 and pattern >= 0
    towards = tuple(float(v) for v in scene.daylight.direction)
    spots = [(x, y, 0.01) for x in np.linspace(-0.4, 0.4, 6) for y in np.linspace(-0.4, 0.4, 6)]
    met = [pick.along(scene, spot, towards) for spot in spots]
    assert sum(m is not None and m.object == "Tried" for m in met) >= 6


def test_walls_look_at_their_own_sun():
    """A patch of an upright wall: the line leaves it towards the sun, and places are as far below it as the wall is high there."""
    things = {**GROUND, "wall": box([-3, 0.0, 0], [3, 0.3, 4])}
    scene = shown(things)
    wall = Patch((0.0, 0.0, 2.0), (0.0, -1.0, 0.0), 0.5)
    towards = np.array(scene.daylight.direction)
    for place in places(scene, wall, [SMALL, TALL]):
        tree = SMALL if place.key == "small" else TALL
        line = 2.0 + place.distance_m * towards[2]
        assert tree.crown * place.height_m == pytest.approx(line, abs=0.35)
    with pytest.raises(InputError, match="away from the sun"):
        places(scene, Patch((0.0, 0.3, 2.0), (0.0, 1.0, 0.0), 0.5), [SMALL])


def test_through_a_window_only():
    """A shut room has no sun, and says what stands in its way; a hole in its wall lets the line out."""
    roof = box([-3, -3, 3], [3, 3, 3.2])
    shut = {**GROUND, "front": box([-3, -3, 0], [3, -2.8, 3]), "roof": roof}
    with pytest.raises(InputError, match=r"(roof|front) stands in its way"):
        places(shown(shut), Patch((0.0, 0.0, 0.0), (0, 0, 1), 0.5), [SMALL])
    floor = Patch((0.0, -2.2, 0.0), (0, 0, 1), 0.3)
    open_front = {**GROUND, "front": box([-3, -3, 0], [3, -2.8, 0.2]), "roof": roof}
    found = places(shown(open_front), floor, [SMALL, TALL])
    assert found and all(p.position[1] < -3 for p in found)


def test_night_and_a_sun_too_low_are_told():
    for hour in (2, 23):
        with pytest.raises(InputError, match="too low for a shadow"):
            places(shown(GROUND, hour), FLOOR, [SMALL])


@pytest.mark.parametrize(
    "things",
    [
        {"two sheets": sheet(-200, -200, 200, 200, -4.0)}, {"thick": box([-200, -200, -9], [200, 200, 0.02])},
        {"paving": box([-50, -50, -0.1], [50, 50, 0.04])},
    ],
)  # fmt: skip
def test_ground_of_every_make_carries_trees(things):
    above = Patch((0.0, 0.0, 0.05), (0.0, 0.0, 1.0), 0.5)
    assert {p.key for p in places(shown({**GROUND, **things}), above, [SMALL, TALL])} == {"small", "tall"}


@pytest.mark.parametrize("roof", ["slab", "sheet", "canopy"])
def test_no_tree_stands_on_a_roof(roof):
    """A house south of the patch, wide enough that every place in the line would be on its roof."""
    top = {
        "slab": box([-60, -60, 3], [60, -0.4, 3.2]), "sheet": sheet(-60, -60, 60, -0.4, 3.0), "canopy": sheet(-60, -60, 60, -0.4, 3.0),
    }[roof]  # fmt: skip
    things = {**GROUND, "roof": top}
    if roof != "canopy":
        for k, (a, b) in enumerate(
            [((-60, -1.2), (60, -1)), ((-60, -60), (60, -59.8)), ((-60, -60), (-59.8, -1)), ((59.8, -60), (60, -1))]
        ):
            things[f"wall {k}"] = box([*a, 0], [*b, 3])
        # Rooms, so that walls are near.
        for k, x in enumerate(range(-56, 60, 8)):
            things[f"inner {k}"] = box([x, -60, 0], [x + 0.2, -1, 3])
    high = Patch((0.0, 0.0, 3.6), (0.0, 0.0, 1.0), 0.4)
    things["ledge"] = sheet(-1, -0.5, 1, 0.5, 3.6)
    assert places(shown(things), high, [TreeShape("bush", 0.5, 12.0, 2.0, 0.5, 0.3, 0.1)]) == []


def test_no_tree_stands_in_water_or_on_a_cliff():
    steep = polygon([(-200, -200, 400), (200, -200, 400), (200, -1.0, 0), (-200, -1.0, 0)])
    assert places(shown({"cliff": steep}, 13), Patch((0.0, -1.05, 0.2), (0.0, 0.0, 1.0), 0.02), [SMALL, TALL]) == []


def test_crowns_keep_clear_of_walls():
    """Between two walls 2 m apart a slim crown stands, a wide one does not."""
    walls = {"west": box([-1.2, -40, 0], [-1, -0.6, 30]), "east": box([1, -40, 0], [1.2, -0.6, 30])}
    scene = shown({**GROUND, **walls}, 13, north=sun_at(13)[0] - 180)  # the line runs between them
    slim = TreeShape("slim", 1, 9, 3, 0.5, 0.3, 0.1)
    wide = TreeShape("wide", 4, 9, 3, 0.5, 0.3, 0.8)
    near = [p for p in places(scene, FLOOR, [slim, wide]) if p.position[1] > -3.5]
    assert near and {p.key for p in near} == {"slim"}


def test_beside_a_place_the_crown_still_reaches_the_line():
    scene = shown(GROUND)
    place = places(scene, FLOOR, [TALL])[0]
    spots = beside(scene, TALL, place)
    assert len(spots) == len(leafshadow.ASIDE) and spots[0] == place
    towards = np.array(scene.daylight.direction)
    for spot in spots[1:]:
        gap = np.array(spot.position) - place.position
        assert abs(gap @ towards) < 0.02  # across the line
        assert 0 < np.linalg.norm(gap) < TALL.radius * place.height_m


def test_dappling_tells_even_light_from_a_pattern():
    bare = np.ones((8, 8))
    half = np.kron([[1.0, 0.0], [0.0, 1.0]], np.ones((4, 4)))
    assert dappling(bare, half) == pytest.approx((0.5, 0.5))
    assert dappling(bare, bare * 0.3) == pytest.approx((0.7, 0.0))
    assert dappling(bare * 0.4, bare * 0.2) == pytest.approx((0.5, 0.0))  # through a pane that takes more than half
