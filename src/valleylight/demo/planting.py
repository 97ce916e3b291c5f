"""Trees, grass and stones: made once, placed many times."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.making import plants
from valleylight.core.making.glb import Model, Thing, place
from valleylight.core.making.shapes import Shape, join, pebble
from valleylight.demo.landscape import ground_height, in_pond, near_building

Array = NDArray[np.float64]


def _conifer(rng: np.random.Generator) -> Shape:
    """A far spruce, 1 m tall: ragged skirts of boughs."""
    parts = []
    for k in range(9):
        z = 0.08 + 0.1 * k
        r = 0.24 * (1 - z) * rng.uniform(0.85, 1.15)
        sides = 9
        a = np.linspace(0, 2 * np.pi, sides, endpoint=False) + rng.uniform(0, 1)
        ring = np.column_stack([np.cos(a), np.sin(a)]) * (r * rng.uniform(0.65, 1.2, (sides, 1)))
        p = np.concatenate([[[0, 0, z + 0.17]], np.column_stack([ring, z - rng.uniform(0, 0.04, sides)])])
        n = np.concatenate([[[0, 0, 1]], np.column_stack([np.cos(a), np.sin(a), np.full(sides, 0.5)])])
        n /= np.linalg.norm(n, axis=1, keepdims=True)
        j = np.arange(sides)
        parts.append(
            Shape(
                p,
                n,
                np.zeros((sides + 1, 2)) + rng.uniform(0, 1),
                np.column_stack([np.zeros(sides, int), 1 + j, 1 + (j + 1) % sides]),
            )
        )
    return join(parts)


#: Broadleaf trees near the mill: kind, x, y, scale.
TREES = [
    (0, -13.5, -9.0, 1.1), (1, -11.0, -14.5, 1.0), (0, 25.5, 3.5, 1.15), (2, 22.5, 9.0, 1.0), (1, 29.0, -6.0, 1.05),
    (0, 9.0, 19.0, 1.2), (2, 2.0, 22.0, 1.1), (1, 16.5, 17.0, 1.0), (0, -19.0, 20.0, 1.25), (2, -17.5, 6.0, 1.0),
    (1, -21.0, -3.0, 1.1), (0, -4.0, -24.0, 1.1), (2, 6.5, -26.5, 1.0), (1, 16.5, -25.5, 1.15), (0, 36.0, -16.0, 1.3),
    (2, 34.0, 14.0, 1.2), (1, -28.0, -20.0, 1.2), (0, 24.0, 24.0, 1.3), (2, -12.0, 34.0, 1.2), (1, -26.0, 33.0, 1.2),
]  # fmt: skip


def build(model: Model) -> None:
    rng = np.random.default_rng(23)
    kinds = [(9.5, 0.20, 0.7, 1.0, 2), (11.0, 0.13, 1.0, 0.62, 2), (7.0, 0.13, 0.5, 1.15, 2)]
    for number, (height, trunk, rise, spread, levels) in enumerate(kinds):
        wood, tips = plants.tree(rng, height, trunk, rise, spread, levels)
        at = [
            place((x, y, ground_height(x, y) - 0.05), 77.0 * k, s)
            for k, (kind, x, y, s) in enumerate(TREES)
            if kind == number
        ]
        model.put(Thing(f"tree {number} wood").add("bark, pale" if number == 1 else "bark", wood), at=at)
        each = int(15_000 / len(tips))
        leaves = plants.leaves(rng, tips, each, 0.34, 0.125)
        model.put(
            Thing(f"tree {number} leaves").add(("leaf", "leaf, birch", "leaf, lime")[number], leaves),
            "summer planting",
            at,
        )
        fewer = plants.leaves(rng, tips, int(each * 0.6), 0.36, 0.125)
        model.put(
            Thing(f"tree {number} autumn leaves").add(("leaf, rust", "leaf, gold", "leaf, amber")[number], fewer),
            "autumn planting",
            at,
        )

    shrub_wood, tips = plants.tree(rng, 1.1, 0.02, 0.5, 1.1, 2)
    shrub = plants.leaves(rng, tips, 26, 0.10, 0.05)
    in_pots = [place((x, -0.95, 0.32), 50 * k, 0.55) for k, x in enumerate((0.4, 3.45, 6.5, 9.5, 12.75, 15.45))]
    around: list[Array] = []
    while len(around) < 34:
        x, y = rng.uniform(-16, 32), rng.uniform(-22, 20)
        if (
            not near_building(x, y, 1.2)
            and not in_pond(x, y, 1.12)
            and np.hypot(x - 24.5, y + 18.2) > 9
            and np.hypot(x + 12.6, y + 7.4) > 5
        ):
            around.append(place((x, y, ground_height(x, y) - 0.05), rng.uniform(0, 360), rng.uniform(0.7, 1.6)))
    model.put(Thing("shrub wood").add("bark", shrub_wood), at=in_pots + around)
    model.put(Thing("shrub leaves").add("leaf, dark", shrub), "summer planting", in_pots + around)
    model.put(Thing("shrub autumn leaves").add("leaf, rust", shrub), "autumn planting", in_pots + around)

    # A rowan on the terrace throws the shadow of its leaves into the reading room; one stands by the lane.
    wood, tips = plants.tree(rng, 5.6, 0.07, 0.9, 0.8, 2)
    rowans = [place((8.6, -5.1, 0.0), 20.0, 1.0), place((-4.2, -8.5, float(ground_height(-4.2, -8.5))), 130.0, 1.1)]
    model.put(Thing("rowan wood").add("bark", wood), at=rowans)
    sprays = plants.cards(rng, tips, max(int(2600 / len(tips)), 1), 0.16, 0.24)
    model.put(Thing("rowan leaves").add("leaf spray", sprays), "summer planting", rowans)
    model.put(Thing("rowan autumn leaves").add("leaf spray, red", sprays), "autumn planting", rowans)
    fern_tips = np.column_stack(
        [0.05 * np.cos(np.arange(9) * 0.7), 0.05 * np.sin(np.arange(9) * 0.7), np.full(9, 0.05)]
    )
    fern = plants.cards(rng, fern_tips, 3, 0.02, 0.5)
    ferns: list[Array] = []
    while len(ferns) < 60:
        x, y = rng.uniform(-9, 26), rng.uniform(-22, 3)
        if in_pond(x, y, 1.35) and not in_pond(x, y, 1.1) and not near_building(x, y, 0.6):
            ferns.append(place((x, y, ground_height(x, y)), rng.uniform(0, 360), rng.uniform(0.6, 1.2)))
    model.put(Thing("fern").add("leaf spray", fern), "summer planting", ferns)
    model.put(Thing("fern in autumn").add("leaf spray, red", fern), "autumn planting", ferns)

    spruce = Thing("spruce").add("needles", _conifer(rng))
    snowy = Thing("spruce under snow").add("needles, snow", _conifer(rng))
    far: list[Array] = []
    while len(far) < 7000:
        x, y = rng.normal(8, 230), rng.normal(0, 210)
        d = np.hypot(x - 8, y)
        cover = np.sin(x * 0.021 + 1.3) + np.sin(y * 0.017 + x * 0.009)
        if d > 72 and abs(y + 0.1 * x) > 48 and cover > -0.5:
            far.append(place((x, y, ground_height(x, y) - 0.4), rng.uniform(0, 360), rng.uniform(9, 19)))
    model.put(spruce, "summer planting", far)
    model.put(spruce, "autumn planting", far)
    model.put(snowy, "winter planting", far)

    tufts = [Thing(f"grass {k}").add("grass", plants.tuft(rng, 46, h)) for k, h in enumerate((0.20, 0.32))]
    dry = [Thing(f"dry grass {k}").add("grass, dry", plants.tuft(rng, 40, h)) for k, h in enumerate((0.20, 0.36))]
    spots: list[list[Array]] = [[], []]
    centres = [(24.0, -18.0, 9.0), (-13.0, 10.0, 8.0), (8.0, -20.0, 10.0), (20.0, -8.0, 6.0), (-5.0, 1.0, 5.0)]
    for x0, y0, reach in centres:
        for _ in range(1500):
            x, y = rng.normal(x0, reach), rng.normal(y0, reach * 0.7)
            if near_building(x, y, 0.3) or in_pond(x, y, 1.04) or -9.4 < x < -5.6:
                continue
            kind = int(in_pond(x, y, 1.35) or rng.random() < 0.25)
            spots[kind].append(place((x, y, ground_height(x, y) - 0.01), rng.uniform(0, 360), rng.uniform(0.7, 1.35)))
    for k in (0, 1):
        model.put(tufts[k], "summer planting", spots[k])
        model.put(dry[k], "autumn planting", spots[k])

    stones = [Thing(f"stone {k}").add("pond stone" if k % 2 else "pond stone, pale", pebble(rng, 8)) for k in range(4)]
    where: list[list[Array]] = [[], [], [], []]
    while sum(map(len, where)) < 1500:
        x, y = rng.uniform(-7, 24), rng.uniform(-20.5, -5.0)
        if in_pond(x, y, 1.1) and y < -5.4:
            size = float(np.clip(rng.lognormal(-1.7, 0.55), 0.06, 0.8))
            where[int(rng.integers(4))].append(
                place((x, y, ground_height(x, y) + 0.08 * size), rng.uniform(0, 360), size)
            )
    for thing, at in zip(stones, where, strict=True):
        model.put(thing, at=at)
