"""What lies around a building: ground as far as the horizon, planting and slopes in the distance, a picture on a curved card.

All of them lie about their own zero, which is put where the building stands.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.making.glb import Model, Surface, Thing
from valleylight.core.making.shapes import Shape, rings
from valleylight.core.nature import forest, land, trees
from valleylight.core.objects.family import SEED, Family, Parameter, Values, kinds, length
from valleylight.core.objects.surfaces import use

#: Mean radius of the earth in m: ground far off lies below the level by d^2 / 2R.
EARTH_M = 6.371e6
#: Rings are so many times as far as the one before, for what is far is seen small.
_STEP = 1.12
_SECTORS = 144
#: So many trees stand in the distance at most.
_MOST_TREES = 2600

Array = NDArray[np.float64]


def _swell(x: Array, y: Array, size: float, seed: int) -> Array:
    """Gentle unevenness from -1 to 1 with swells of about a size: waves in directions that have nothing in common."""
    rng = np.random.default_rng(seed)
    total = np.zeros(np.broadcast(x, y).shape)
    for k in range(7):
        a, wave = rng.uniform(0, 2 * np.pi), size * rng.uniform(0.6, 1.9)
        total = total + np.sin((x * np.cos(a) + y * np.sin(a)) * 2 * np.pi / wave + rng.uniform(0, 2 * np.pi)) / (
            1 + 0.3 * k
        )
    return np.asarray(total / 4.2)


def _far_ground(model: Model, thing: Thing, v: Values) -> None:
    """Level about the building, then swelling gently, and below the level as the earth is round."""
    cover = use(model, ("meadow", "stubble", "far earth", "far snow")[int(v["cover"])])[0]
    first, last = v["free"], v["reach"]
    start = max(first, 8.0)
    count = int(np.ceil(np.log(last / start) / np.log(_STEP))) + 1
    radii = np.concatenate([[first] if first < start else [], np.geomspace(start, last, count)])
    angles = np.linspace(0, 2 * np.pi, _SECTORS + 1)
    x, y = radii[:, None] * np.cos(angles), radii[:, None] * np.sin(angles)
    grows = np.clip((radii - start) / (6 * start + 60), 0, 1) ** 2
    swell = v["swell"] * grows[:, None] * 0.5 * (1 + _swell(x, y, 0.12 * last, int(v["seed"])))
    # No swell stands before the horizon: towards the end the ground is as level as the sea.
    swell *= np.clip((last - radii) / (0.4 * last), 0, 1)[:, None]
    thing.add(cover, rings(radii, angles, swell - (radii**2 / (2 * EARTH_M))[:, None]))


def _distant_planting(model: Model, thing: Thing, v: Values) -> None:
    """A ring of slopes with trees on them, open towards the front as wide as is wanted."""
    rng = np.random.default_rng(int(v["seed"]) * 7 + 1)
    season, near, deep = int(v["season"]), v["distance"], v["depth"]
    ground = use(model, ("meadow", "stubble", "far snow")[season])[0]
    gap = np.radians(v["open"]) / 2
    # The front is towards -Y.
    angles = np.linspace(-np.pi / 2 + gap, 1.5 * np.pi - gap, _SECTORS + 1)
    radii = np.linspace(near, near + 2 * deep, 15)

    def height(x: Array, y: Array) -> Array:
        out = (np.hypot(x, y) - near) / (2 * deep)
        from_edge = np.abs((np.arctan2(y, x) + np.pi / 2 + np.pi) % (2 * np.pi) - np.pi) - gap
        ends = np.clip(from_edge / 0.35, 0, 1) if gap > 0 else 1.0
        rise = np.clip(out, 0, 1) ** 1.3 * ends**2 * (3 - 2 * ends)
        return np.asarray(v["hills"] * rise * (0.75 + 0.25 * _swell(x, y, 1.2 * near, int(v["seed"]))))

    x, y = radii[:, None] * np.cos(angles), radii[:, None] * np.sin(angles)
    thing.add(ground, rings(radii, angles, height(x, y)))
    crowns = [_crown(model, season, k) for k in range(len(_DISTANT))]
    turn = 2 * np.pi - 2 * gap
    area = turn * ((near + deep) ** 2 - near**2) / 2
    count = int(min(_MOST_TREES, v["cover"] * area / (0.45 * v["height"]) ** 2))
    places: list[list[Array]] = [[] for _ in crowns]
    for _ in range(count):
        # Most stand at the front, where they are seen.
        r, a = near + deep * rng.uniform() ** 1.5, -np.pi / 2 + gap + turn * rng.uniform()
        spot = np.array([r * np.cos(a), r * np.sin(a)])
        clump = 0.5 * (1 + float(_swell(spot[:1], spot[1:], 9 * v["height"], int(v["seed"]) + 5)[0]))
        if clump < rng.uniform() * (1.1 - v["cover"]) * 1.2:
            continue
        size, b = v["height"] * rng.uniform(0.65, 1.15), rng.uniform(0, 2 * np.pi)
        matrix = np.eye(4)
        matrix[:3, :3] = size * np.array([[np.cos(b), -np.sin(b), 0], [np.sin(b), np.cos(b), 0], [0, 0, 1]])
        matrix[:3, 3] = [*spot, float(height(spot[:1], spot[1:])[0]) - 0.03 * size]
        places[int(rng.integers(len(crowns)))].append(matrix)
    for crown, at in zip(crowns, places, strict=True):
        if at:
            model.put(crown, at=at)


#: Trees of the distance, with their leaves in summer and in autumn.
_DISTANT = (
    ("lime", "pale foliage", "gold foliage"), ("beech", "foliage", "rust foliage"), ("birch", "pale foliage", "gold foliage"),
    ("spruce", "needles", "needles"), ("larch", "foliage", "gold foliage"),
)  # fmt: skip


def _crown(model: Model, season: int, number: int) -> Thing:
    """A tree 1 m high, as it is seen from far; bare ones stand between evergreens."""
    key, summer, autumn = _DISTANT[number]
    grown = trees.grow(key, 12.0, number + 1, trees.FAR, season < 2 or key == "spruce")
    tree = Thing(f"distant tree {number}").add(use(model, "bark")[0], grown.wood.scaled(1 / 12))
    if len(grown.leaves.triangles):
        tree.add(use(model, summer if season != 1 else autumn)[0], grown.leaves.scaled(1 / 12))
    return tree


def _valley(model: Model, thing: Thing, v: Values) -> None:
    """A valley between mountains that water has carved, with woods on its slopes. Its floor lies level about the building."""
    seed, free = int(v["seed"]), v["free"]
    ground = land.mountains(seed, 8000.0, 384, v["height"], v["floor"], 1400.0, 0.0, v["mouth"])
    span = 8000.0
    # What covers it is told once, as finely as its picture.
    fine = ground.window(span, 1024)
    covered = land.cover(fine, max(v["tree_line"] * v["height"], 1.0), seed)
    picture, rise = land.pictures(fine, covered, seed, rough_m=0.03 * v["height"])
    common = {"roughness": 0.95, "specular": 0.1, "texture": picture, "texture_m": span}
    green = Surface("Valley, green", leaf="grass", **common)  # type: ignore[arg-type]
    rock = Surface("Valley, rock", relief=rise, **common)  # type: ignore[arg-type]
    for surface in (green, rock):
        model.surface(surface)

    def height(x: Array, y: Array) -> Array:
        grows = np.clip(np.hypot(x, y) / max(free, 20.0) - 1.0, 0, 1)
        return np.asarray(grows * (ground.at(x, y) + land.roughness(ground, x, y, 0.03 * v["height"])))

    whole = land.mesh(height, np.geomspace(max(free, 5.0), 3900.0, 111), np.linspace(-np.pi, np.pi, 481))
    middle = land.middles(whole)
    grown, bare = land.parted(whole, fine.of(covered.bare, middle[:, 0], middle[:, 1]))
    for surface, shape in ((green, grown), (rock, bare)):
        thing.add(surface.name, shape.shifted_uv(span / 2, span / 2))
    if v["wood"] <= 0:
        return
    bark, needles = use(model, "bark", "needles")
    rng = np.random.default_rng(seed)
    stood = forest.stand(
        rng, height, lambda x, y: v["wood"] * fine.of(covered.trees, x, y), 15.0, (max(2 * free, 60.0), 1500.0)
    )
    for number in range(2):
        tree = trees.grow("spruce", 14.0, number + 1, trees.FAR)
        at = stood.matrices(np.floor(stood.chance * 2).astype(int) == number)
        if at:
            model.put(Thing(f"spruce of the slopes {number}").add(bark, tree.wood).add(needles, tree.leaves), at=at)


def _backdrop(model: Model, thing: Thing, v: Values) -> None:
    """An upright card on an arc about its zero, its picture lit by itself. It looks towards its zero, and stands to the +Y."""
    half, r = np.radians(v["arc"]) / 2, v["distance"]
    level = v["level"]
    model.surface(
        Surface(
            "Backdrop", (0.0, 0.0, 0.0), roughness=1.0, specular=0.0, emission_cd_m2=(level, level, level),
            shining=_hills_picture(int(v["seed"])),
        )
    )  # fmt: skip
    count = max(8, int(np.degrees(2 * half) / 2.5))
    angles = np.pi / 2 + np.linspace(half, -half, count + 1)  # from the left as it is seen
    low, high = -v["sunk"], v["height"] - v["sunk"]
    x, y = r * np.cos(angles), r * np.sin(angles)
    points = np.concatenate([np.stack([x, y, np.full_like(x, z)], 1) for z in (high, low)])
    inward = np.tile(np.stack([-np.cos(angles), -np.sin(angles), 0 * angles], 1), (2, 1))
    u = np.linspace(0, 1, count + 1)
    # The last texels of a picture must not run into its first ones.
    edge = 0.5 / 1024
    uv = np.concatenate([np.stack([edge + (1 - 2 * edge) * u, np.full_like(u, w)], 1) for w in (edge, 1 - edge)])
    k = np.arange(count)
    triangles = np.concatenate([np.stack([k, k + count + 1, k + count + 2], 1), np.stack([k, k + count + 2, k + 1], 1)])
    thing.add("Backdrop", Shape(points, inward, uv, triangles))


def _hills_picture(seed: int) -> NDArray[np.uint8]:
    """Hills behind hills in haze under a pale sky, (256, 1024, 3), to stand in until a picture of one's own is brought in."""
    x, y = np.arange(1024), np.arange(256)[:, None]
    turn = 2 * np.pi * x / 1024
    sky = np.stack([np.clip(168 + 0.28 * y + shift * (255 - y) / 255, 0, 255) + 0 * x for shift in (-40, -12, 30)], -1)
    picture = sky.astype(float)
    rng = np.random.default_rng(seed)
    for k in range(5):
        ridge = (
            118
            + 26 * k
            + sum((17 - 2 * k) / (j + 1) * np.sin((j + 1) * (2 + k) * turn + rng.uniform(0, 6.3)) for j in range(6))
        )
        tone = np.array([176, 190, 200]) * (1 - 0.1 * k) * (1 - 0.04 * k * np.array([1, 0.3, 2.0]))
        share = np.clip(y - ridge, 0, 1)[..., None]
        picture = picture * (1 - share) + tone * share
    return picture.astype(np.uint8)


FAMILIES = (
    Family("far-ground", "Ground to the horizon", "Surroundings", _far_ground, (length("reach", "Reach", 500, 40_000, 12_000, 500), length("free", "Left free about the building", 0, 400, 0, 5), length("swell", "Height of its swells", 0, 80, 4, 1), kinds("cover", "Cover", "meadow", "stubble", "earth", "snow"), SEED)),
    Family("distant-planting", "Distant planting", "Surroundings", _distant_planting, (length("distance", "Distance", 30, 3000, 160, 10), length("depth", "Depth", 10, 600, 60, 5), length("height", "Height of its trees", 3, 30, 12, 1), length("hills", "Height of its slopes", 0, 400, 14, 2), Parameter("cover", "Cover", "", 0.0, 1.0, 0.7, 0.05), Parameter("open", "Left open before it", "°", 0, 300, 0, 10), kinds("season", "Season", "summer", "autumn", "winter"), SEED)),
    Family("valley", "Mountain valley", "Surroundings", _valley, (length("height", "Height of its mountains", 100, 2500, 800, 25), length("floor", "Half width of its floor", 20, 600, 90, 10), length("free", "Left free about the building", 0, 300, 30, 5), Parameter("mouth", "Open at its ends", "", 0.0, 1.0, 0.3, 0.05), Parameter("tree_line", "Tree line over their height", "", 0.05, 1.0, 0.4, 0.05), Parameter("wood", "Woods", "", 0.0, 1.0, 0.7, 0.05), SEED)),
    Family("backdrop", "Backdrop card", "Surroundings", _backdrop, (length("distance", "Distance", 10, 3000, 150, 10), Parameter("arc", "Arc", "°", 10, 180, 90, 5), length("height", "Height", 2, 800, 45, 1), length("sunk", "Sunk below its zero", 0, 200, 3, 1), Parameter("level", "Luminance of white", "cd/m²", 0, 50_000, 9000, 100), SEED), only_seen=True),
)  # fmt: skip
