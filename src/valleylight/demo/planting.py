"""Trees, grass, reeds and stones: made once, placed many times."""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

from valleylight.core.making.glb import Model, Thing, place
from valleylight.core.making.shapes import pebble
from valleylight.core.nature import forest, grass, trees
from valleylight.demo.landscape import FAR_M, covered, ground_height, in_pond, near_building, valley

Array = NDArray[np.float64]

#: Trees about the mill: kind, x, y, height in m.
TREES = [
    ("lime", -13.5, -9.0, 10.5), ("birch", -11.0, -14.5, 11.0), ("maple", 25.5, 3.5, 10.5), ("alder", 22.5, 9.0, 9.5), ("birch", 29.0, -6.0, 11.5),
    ("lime", 9.0, 19.0, 12.0), ("beech", 2.0, 22.0, 13.0), ("birch", 16.5, 17.0, 11.0), ("maple", -19.0, 20.0, 12.0), ("alder", -17.5, 6.0, 9.0),
    ("birch", -21.0, -3.0, 12.0), ("lime", -4.0, -27.0, 11.0), ("willow", 6.5, -26.5, 8.5), ("alder", 18.5, -24.5, 10.0), ("maple", 36.0, -16.0, 12.5),
    ("beech", 34.0, 14.0, 14.0), ("birch", -28.0, -20.0, 13.0), ("lime", 24.0, 24.0, 13.0), ("larch", -12.0, 34.0, 15.0), ("birch", -26.0, 33.0, 13.0),
    ("spruce", 31.0, 27.0, 17.0), ("larch", 17.0, 31.0, 16.0), ("spruce", -33.0, 10.0, 18.0), ("apple", -15.5, 13.5, 4.6), ("apple", -12.2, 18.5, 4.2),
]  # fmt: skip
#: Wild stock between meadow and wood, and along the water.
SHRUBS = ("hazel", "willow", "rowan")


@cache
def _tree(key: str, level: int, seed: int, height_m: float) -> trees.Tree:
    return trees.grow(key, height_m, seed, level, lean=0.02 if level == trees.NEAR else 0.0)


def _material(key: str) -> str:
    kind = trees.KINDS[key].leaf
    return "leaf, box" if key == "box" else "needles" if kind == "evergreen" else f"leaf, {kind}"


def _thing(name: str, key: str, tree: trees.Tree) -> Thing:
    thing = Thing(name).add("bark, pale" if key == "birch" else "bark", tree.wood)
    return thing.add(_material(key), tree.leaves)


def _on_ground(spots: list[tuple[float, float, float, float]], sunk: float = 0.0) -> list[Array]:
    """Matrices of what stands at x, y, turned by degrees and scaled, so far in the ground."""
    if not spots:
        return []
    x, y, turn, scale = np.array(spots, float).T
    z = ground_height(x, y) + np.where(np.abs(x + 7.5) < 1.4, 0.04, 0.0)  # the lane's gravel lies on the ground
    return [
        place((a, b, c - sunk * e), d, e)
        for a, b, c, d, e in zip(x.tolist(), y.tolist(), z.tolist(), turn.tolist(), scale.tolist(), strict=True)
    ]


def build(model: Model) -> None:
    rng = np.random.default_rng(23)
    _about_the_mill(model, rng)
    _shrubs(model, rng)
    _wood(model, rng)
    _meadow(model, rng)
    _hay(model, rng)
    _bank(model, rng)


def _about_the_mill(model: Model, rng: np.random.Generator) -> None:
    for key in sorted({t[0] for t in TREES}):
        height = trees.KINDS[key].height_m[2]
        mine = [t for t in TREES if t[0] == key]
        seeds = (1, 2) if len(mine) > 2 else (1,)
        for seed in seeds:  # two of each common kind, turned and scaled
            spots = [
                (x, y, rng.uniform(0, 360), h / height)
                for k, (_, x, y, h) in enumerate(mine)
                if k % len(seeds) == seed - 1
            ]
            model.put(
                _thing(f"{key} {seed}", key, _tree(key, trees.NEAR, seed, height)), "planting", _on_ground(spots, 0.04)
            )
    # A rowan on the terrace throws the shadow of its leaves into the reading room; one stands by the lane.
    rowans = [place((8.6, -5.1, 0.0), 20.0, 1.0), *_on_ground([(-4.2, -8.5, 130.0, 1.1)], 0.04)]
    model.put(_thing("rowan", "rowan", _tree("rowan", trees.NEAR, 1, 5.6)), "planting", rowans)


def _shrubs(model: Model, rng: np.random.Generator) -> None:
    pots = [place((x, -0.95, 0.34), 50 * k, 0.62) for k, x in enumerate((0.4, 3.45, 6.5, 9.5, 12.75, 15.45))]
    model.put(_thing("box in a pot", "box", _tree("box", trees.MIDDLE, 1, 1.0)), "planting", pots)
    around: dict[str, list[tuple[float, float, float, float]]] = {key: [] for key in SHRUBS}
    while sum(map(len, around.values())) < 40:
        x, y = rng.uniform(-18, 34), rng.uniform(-24, 24)
        if (
            not near_building(x, y, 1.2)
            and not in_pond(x, y, 1.16)
            and np.hypot(x - 24.5, y + 18.2) > 9
            and np.hypot(x + 12.6, y + 7.4) > 5
        ):
            key = "willow" if in_pond(x, y, 1.4) else str(rng.choice(SHRUBS, p=(0.7, 0.1, 0.2)))
            low = 1.0 / trees.KINDS[key].height_m[2]
            around[key].append((x, y, rng.uniform(0, 360), low * rng.uniform(1.0, 2.6)))
    for key, spots in around.items():
        if spots:
            grown = _tree(key, trees.MIDDLE if key == "willow" else trees.NEAR, 3, trees.KINDS[key].height_m[2])
            model.put(_thing(f"{key} shrub", key, grown), "planting", _on_ground(spots, 0.04))


#: Kinds of the wood, with their share of it by how high it stands, and the height of a grown one in m.
WOOD = (("spruce", 17.0), ("larch", 16.0), ("pine", 14.0), ("birch", 11.0), ("beech", 14.0))
#: Beyond this distance trees stand in groves of so many, so many metres across.
GROVES_M, GROVE, GROVE_ACROSS_M = 750.0, 12, 26.0


def _kinds_at(stand: forest.Stand) -> NDArray[np.int64]:
    """Which kind of the wood each tree is: broad-leaved ones below, larches above, spruce everywhere."""
    height = stand.places[:, 2] / 330.0
    shares = np.stack([
        0.62 + 0 * height, 0.08 + 0.34 * np.clip(height, 0, 1), 0.05 + 0.06 * height, 0.22 * np.clip(1 - 2.5 * height, 0, 1) + 0.01,
        0.2 * np.clip(1 - 3 * height, 0, 1) + 0.002,
    ], 1)  # fmt: skip
    ends = np.cumsum(shares / shares.sum(1, keepdims=True), axis=1)
    return np.minimum((stand.chance[:, None] > ends).sum(1), len(WOOD) - 1)


def _density(x: Array, y: Array) -> Array:
    d, across = np.hypot(x - 8, y), np.abs(y + 0.1 * x)
    clear = np.sin(x * 0.021 + 1.3) + np.sin(y * 0.017 + x * 0.009)
    meadow = np.clip((across - 46) / 26, 0, 1) * np.clip((d - 60) / 30, 0, 1)
    edge = np.clip((across - 40) / 80, 0, 1) * (0.35 + 0.65 * np.clip(clear + 0.6, 0, 1))
    return np.asarray(meadow * np.maximum(valley().of(covered().trees, x, y), 0.8 * edge * (ground_height(x, y) < 40)))


def _wood(model: Model, rng: np.random.Generator) -> None:
    """Trees of the slopes, each as fine as it is seen; under snow they stand in a layer of their own."""
    near = forest.stand(rng, ground_height, _density, 5.6, (52.0, GROVES_M))
    kind = _kinds_at(near)
    for number, (key, height) in enumerate(WOOD):
        mine = kind == number
        level = forest.level_for(np.hypot(near.places[:, 0] - 8, near.places[:, 1]), height)
        for which in (trees.MIDDLE, trees.FAR):
            for seed in (1, 2, 3) if key == "spruce" else (1, 2):
                chosen = (
                    mine
                    & (np.maximum(level, trees.MIDDLE) == which)
                    & (np.floor(near.chance * 977).astype(int) % (3 if key == "spruce" else 2) == seed - 1)
                )
                if chosen.any():
                    made = _tree(key, which, seed, height)
                    _put_in_seasons(model, f"{key} {which} {seed}", key, made, near.matrices(chosen))
    far = forest.stand(rng, ground_height, _density, GROVE_ACROSS_M * 0.85, (GROVES_M, 0.55 * FAR_M), 0.8)
    chosen = np.floor(far.chance * 977).astype(int) % 3
    for k in range(3):
        shapes = [_tree("spruce", trees.FAR, s, 9.0).leaves.scaled(1.7) for s in (1, 2, 3)]
        thing = trees.Tree(_tree("spruce", trees.FAR, 1, 9.0).wood, forest.grove(rng, shapes, GROVE, GROVE_ACROSS_M))
        _put_in_seasons(model, f"grove {k}", "spruce", thing, far.matrices(chosen == k))


def _put_in_seasons(model: Model, name: str, key: str, tree: trees.Tree, at: list[Array]) -> None:
    """Evergreens stand in two layers, open and under snow; the leaves of all others follow the date."""
    if not at:
        return
    evergreen = trees.KINDS[key].leaf == "evergreen"
    model.put(_thing(name, key, tree), "forest" if evergreen else "planting", at)
    if evergreen:
        half = len(tree.leaves.triangles) // 2
        laden = Thing(f"{name}, under snow").add("bark", tree.wood)
        laden.add("needles, snow", tree.leaves.of(slice(0, half))).add("needles", tree.leaves.of(slice(half, None)))
        model.put(laden, "winter forest", at)


#: Edge of a patch of sward, and how high it stands.
PATCH_M, SWARD_M = 1.5, 0.11


def _meadow(model: Model, rng: np.random.Generator) -> None:
    """Sward by blades about the mill, long grass along edges and water, flowers here and there."""
    patches = [Thing(f"sward {k}").add("grass", grass.sward(rng, PATCH_M, 1300, SWARD_M, 0.009)) for k in range(3)]
    blooming = []
    for k in range(2):
        stems, petals = grass.flowers(rng, 26, 0.16, PATCH_M)
        blooming.append(Thing(f"flowers {k}").add("grass", stems).add("petal" if k else "petal, yellow", petals))
    long = [Thing(f"long grass {k}").add("grass", grass.tuft(rng, 60, h)) for k, h in enumerate((0.26, 0.42))]
    sward: list[list[tuple[float, float, float, float]]] = [[], [], []]
    flowers: list[list[tuple[float, float, float, float]]] = [[], []]
    tufts: list[list[tuple[float, float, float, float]]] = [[], []]
    for x0 in np.arange(-30, 40, PATCH_M):
        for y0 in np.arange(-30, 30, PATCH_M):
            x, y = x0 + rng.uniform(-0.2, 0.2), y0 + rng.uniform(-0.2, 0.2)
            if near_building(x, y, 0.55) or in_pond(x, y, 1.13) or -9.6 < x < -5.4:
                continue
            turn = float(rng.integers(4)) * 90.0
            sward[int(rng.integers(3))].append((x, y, turn, rng.uniform(0.95, 1.15)))
            if rng.random() < 0.10 + 0.25 * (np.sin(0.3 * x) * np.cos(0.23 * y) > 0.3):
                flowers[int(rng.integers(2))].append((x, y, turn, 1.0))
    # Where a whole patch does not fit, small ones close up to walls, water and wheel tracks, and stand on the lane between them.
    scrap = [Thing(f"sward, small {k}").add("grass", grass.sward(rng, 0.5, 1200, SWARD_M, 0.009)) for k in range(2)]
    small: list[list[tuple[float, float, float, float]]] = [[], []]
    for x in np.arange(-30, 40, 0.45):
        for y in np.arange(-30, 30, 0.45):
            whole = not (near_building(x, y, 0.55) or in_pond(x, y, 1.13) or -9.6 < x < -5.4)
            if whole or near_building(x, y, 0.1) or in_pond(x, y, 1.085):
                continue
            track = abs(x + 7.5)
            thin = 0.0 if 0.3 < track < 1.4 else 0.55 if track <= 0.3 else min((track - 1.4) / 0.35, 1.0)
            if rng.random() < thin:
                small[int(rng.integers(2))].append(
                    (x + rng.uniform(-0.15, 0.15), y, rng.uniform(0, 360), rng.uniform(0.6, 1.0) * (0.5 + 0.5 * thin))
                )
    centres = [
        (24.0, -18.0, 9.0),
        (-13.0, 10.0, 8.0),
        (8.0, -20.0, 10.0),
        (20.0, -8.0, 6.0),
        (-5.0, 1.0, 5.0),
        (-12.0, -10.0, 7.0),
    ]
    for x0, y0, reach in centres:
        for _ in range(520):
            x, y = rng.normal(x0, reach), rng.normal(y0, reach * 0.7)
            if near_building(x, y, 0.25) or in_pond(x, y, 1.05) or -9.3 < x < -5.7:
                continue
            bank = in_pond(x, y, 1.35)
            # Long grass stays where nobody mows: by the water, along the lane, about trees.
            left = bank or -10.4 < x < -4.6 or min(np.hypot(x - t[1], y - t[2]) for t in TREES) < 1.6
            if left or rng.random() < 0.12:
                tufts[int(bank)].append((x, y, rng.uniform(0, 360), rng.uniform(0.7, 1.3)))
    for things, spots in ((patches, sward), (scrap, small), (blooming, flowers), (long, tufts)):
        for thing, at in zip(things, spots, strict=True):
            model.put(thing, "planting", _on_ground(at))


#: Hay meadow beyond the mown grass: edge of a patch, height, and how far it is seen by its blades.
HAY_PATCH_M, HAY_M, HAY_REACH_M = 6.0, 0.34, 150.0


def _hay(model: Model, rng: np.random.Generator) -> None:
    """High grass on the floor of the valley, by broad blades that stand for many; farther off the ground's picture tells it."""
    kinds = [Thing(f"hay meadow {k}").add("grass", grass.sward(rng, HAY_PATCH_M, 42, HAY_M, 0.035)) for k in range(3)]
    steps = np.arange(-HAY_REACH_M, HAY_REACH_M, HAY_PATCH_M * 0.95)
    x, y = (v.ravel() + rng.uniform(-0.6, 0.6, v.size) for v in np.meshgrid(steps, steps))
    d = np.hypot(x - 5, y)
    mown = (np.abs(x - 5) < 36) & (np.abs(y) < 31)
    lane = np.abs(x + 7.5) < 5.0
    kept = (
        (d < HAY_REACH_M)
        & ~mown
        & ~lane
        & (_density(x, y) < 0.25)
        & (rng.random(len(x)) < np.clip(1.4 - d / HAY_REACH_M, 0.15, 1.0))
    )
    which = rng.integers(len(kinds), size=len(x))
    for number, thing in enumerate(kinds):
        chosen = kept & (which == number)
        spots = np.stack([x, y, rng.uniform(0, 360, len(x)), rng.uniform(0.75, 1.15, len(x))], 1)[chosen]
        model.put(thing, "planting", _on_ground([(a, b, c, e) for a, b, c, e in spots.tolist()]))


def _bank(model: Model, rng: np.random.Generator) -> None:
    """Reeds and ferns along the water, stones half sunk in bank and bed."""
    reed = Thing("reeds").add("grass", grass.reeds(rng, 46, 1.25, 0.9))
    fern = Thing("fern").add("grass", grass.fern(rng, 11, 0.5))
    beds: list[Array] = []
    ferns: list[tuple[float, float, float, float]] = []
    while len(beds) < 34:
        a = rng.choice([rng.normal(2.6, 0.35), rng.normal(-0.5, 0.22), rng.normal(-1.9, 0.2)])
        x, y = 8.5 + 14.6 * np.cos(a), -12.6 + 7.3 * np.sin(a)
        if in_pond(x, y, 1.08) and not in_pond(x, y, 0.93) and y < -6.4 and np.hypot(x - 24.5, y + 18.2) > 4.5:
            beds.append(place((x, y, -0.62), rng.uniform(0, 360), float(rng.uniform(0.6, 1.1))))
    while len(ferns) < 60:
        x, y = rng.uniform(-9, 26), rng.uniform(-22, 3)
        if in_pond(x, y, 1.35) and not in_pond(x, y, 1.1) and not near_building(x, y, 0.6):
            ferns.append((x, y, rng.uniform(0, 360), rng.uniform(0.6, 1.3)))
    model.put(reed, "planting", beds)
    model.put(fern, "planting", _on_ground(ferns))
    stones = [Thing(f"stone {k}").add("pond stone" if k % 2 else "pond stone, pale", pebble(rng, 10)) for k in range(4)]
    where: list[list[tuple[float, float, float, float]]] = [[], [], [], []]
    while sum(map(len, where)) < 1500:
        x, y = rng.uniform(-7, 24), rng.uniform(-20.5, -5.0)
        if in_pond(x, y, 1.1) and y < -5.4:
            size = float(np.clip(rng.lognormal(-1.7, 0.55), 0.06, 0.8))
            where[int(rng.integers(4))].append((x, y, rng.uniform(0, 360), size))
    # Loose stones on the lane, most of them off the wheel tracks.
    for _ in range(900):
        off = (
            float(rng.choice([-1.0, 1.0]) * rng.normal(1.25, 0.3)) if rng.random() < 0.7 else float(rng.normal(0, 0.25))
        )
        size = float(np.clip(rng.lognormal(-3.5, 0.45), 0.012, 0.09))
        where[int(rng.integers(4))].append((-7.5 + off, rng.uniform(-24, 16), rng.uniform(0, 360), size))
    for thing, at in zip(stones, where, strict=True):
        model.put(thing, at=_on_ground(at, -0.03))
