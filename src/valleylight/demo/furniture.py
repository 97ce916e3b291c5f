"""What stands in the reading room: shelves and books, tables and chairs, things used and moved a little."""

from __future__ import annotations

import numpy as np

from valleylight.core.making.glb import Model, Thing, place
from valleylight.core.making.shapes import Shape, beam, box, lathe, polygon, tube
from valleylight.demo.building import WIDTH

SHELF_X0, BAY, BAYS, SHELF_DEPTH, LEVELS, SPACING = 0.45, 1.0, 13, 0.33, 8, 0.345
TABLES = [(4.3, 2.35), (7.9, 2.35), (11.5, 2.35)]
TABLE_LENGTH, TABLE_WIDTH, TABLE_HEIGHT = 2.7, 1.0, 0.745


def build(model: Model) -> None:
    rng = np.random.default_rng(11)
    _shelves(model)
    _books(model, rng)
    _tables(model, rng)
    _armchair(model)
    _small_things(model, rng)


def _shelves(model: Model) -> None:
    shelves = Thing("shelves")
    back, front = WIDTH - 0.005, WIDTH - SHELF_DEPTH
    top = 0.1 + LEVELS * SPACING
    for k in range(BAYS + 1):
        x = SHELF_X0 + k * BAY
        shelves.add(
            "oak", box([x - 0.016, front, 0], [x + 0.016, back, top], 0.002, along=2).shifted_uv(0.41 * k, 0.9 * k)
        )
    for bay in range(BAYS):
        x = SHELF_X0 + bay * BAY
        for level in range(LEVELS + 1):
            z = 0.1 + level * SPACING
            shelves.add("oak", box([x + 0.016, front + 0.004, z - 0.026], [x + BAY - 0.016, back, z], 0.002, along=0)
                        .shifted_uv(0.23 * level + bay, 0.7 * level))  # fmt: skip
    end = SHELF_X0 + BAYS * BAY
    shelves.add(
        "old oak",
        polygon(
            [
                (SHELF_X0, back - 0.004, 0),
                (end, back - 0.004, 0),
                (end, back - 0.004, top),
                (SHELF_X0, back - 0.004, top),
            ]
        ),
    )
    shelves.add("oak", box([SHELF_X0 - 0.03, front + 0.02, 0], [end + 0.03, front + 0.035, 0.075], 0.002))
    shelves.add("oak", box([SHELF_X0 - 0.05, front - 0.26, top], [end + 0.05, back, top + 0.05], 0.006))
    ladder = Thing("ladder")
    for side in (-0.21, 0.21):
        ladder.add("oak", beam((7.6 + side, front - 0.72, 0.0), (7.6 + side, front - 0.02, 2.6), 0.03, 0.055, 0.004))
    for k in range(1, 9):
        t = k / 9
        ladder.add(
            "oak", tube([(7.39, front - 0.72 + 0.70 * t, 2.6 * t), (7.81, front - 0.72 + 0.70 * t, 2.6 * t)], 0.014, 8)
        )
    ladder.add("brass", tube([(SHELF_X0, front - 0.03, 2.62), (end, front - 0.03, 2.62)], 0.011, 8))
    model.put(shelves)
    model.put(ladder)


def _book(rng: np.random.Generator, thick: float, high: float, deep: float) -> Shape:
    made = box([0, 0, 0], [thick, deep, high], 0.0)
    return made.fixed_uv(*((rng.integers(0, 16, 2) + 0.5) / 16))


def _books(model: Model, rng: np.random.Generator) -> None:
    books, pages = Thing("books"), Thing("book pages")
    for bay in range(BAYS):
        for level in range(LEVELS):
            x = SHELF_X0 + bay * BAY + 0.02
            end = SHELF_X0 + (bay + 1) * BAY - 0.02
            z = 0.1 + level * SPACING
            fill = rng.uniform(0.55, 1.0) if rng.random() < 0.85 else rng.uniform(0.15, 0.5)
            stop = x + (end - x) * fill
            typical = rng.uniform(0.2, 0.29)
            while x < stop:
                thick = float(np.clip(rng.lognormal(-3.45, 0.35), 0.014, 0.07))
                high = float(np.clip(typical + rng.normal(0, 0.022), 0.16, 0.30))
                deep = float(np.clip(high * 0.72, 0.12, 0.21))
                if x + thick > end:
                    break
                y = WIDTH - SHELF_DEPTH + 0.02 + rng.uniform(0, 0.022)
                if rng.random() < 0.025 and x + high < end:  # a few lie flat
                    height = z
                    for _ in range(int(rng.integers(2, 4))):
                        t = float(rng.uniform(0.02, 0.045))
                        flat = _book(rng, high, t, deep).turned(rng.uniform(-4, 4)).moved([x, y, height])
                        books.add("book cloth", flat)
                        height += t
                    x += high + 0.02
                    continue
                shape = _book(rng, thick, high, deep)
                if rng.random() < 0.04:
                    lean = rng.uniform(6, 13)
                    shape = shape.turned(-lean, "y").moved(
                        [high * np.sin(np.radians(lean)) * 0 + 0.0, 0, thick * np.sin(np.radians(lean))]
                    )
                    x += high * np.sin(np.radians(lean)) * 0.15
                books.add("book cloth", shape.moved([x, y, z]))
                pages.add(
                    "paper",
                    box(
                        [x + 0.003, y + 0.006, z + 0.003],
                        [x + thick - 0.003, y + deep - 0.004, z + high + 0.0006],
                        faces="Z",
                    ),
                )
                x += thick + rng.uniform(0.0006, 0.002)
                if rng.random() < 0.02:
                    x += rng.uniform(0.04, 0.16)
    model.put(books)
    model.put(pages)


def _tables(model: Model, rng: np.random.Generator) -> None:
    table = Thing("table")
    a, b, h = TABLE_LENGTH / 2, TABLE_WIDTH / 2, TABLE_HEIGHT
    boards = 5
    for k in range(boards):
        y0, y1 = -b + TABLE_WIDTH * k / boards, -b + TABLE_WIDTH * (k + 1) / boards
        table.add(
            "table oak",
            box([-a, y0 + 0.0006, h - 0.036], [a, y1 - 0.0006, h], 0.003, along=0).shifted_uv(0.37 * k + 0.1, 1.3 * k),
        )
    for x in (-a + 0.12, a - 0.12):
        for y in (-b + 0.1, b - 0.1):
            table.add("table oak", box([x - 0.035, y - 0.035, 0], [x + 0.035, y + 0.035, h - 0.036], 0.006, along=2))
    for y in (-b + 0.1, b - 0.1):
        table.add("table oak", box([-a + 0.15, y - 0.012, h - 0.13], [a - 0.15, y + 0.012, h - 0.036], 0.003, along=0))
    for x in (-a + 0.12, a - 0.12):
        table.add("table oak", box([x - 0.012, -b + 0.12, h - 0.13], [x + 0.012, b - 0.12, h - 0.036], 0.003, along=1))
    model.put(table, at=[place((x, y, 0), rng.uniform(-0.6, 0.6)) for x, y in TABLES])

    chair = Thing("chair")  # faces +Y
    chair.add("chair oak", box([-0.215, -0.2, 0.435], [0.215, 0.21, 0.46], 0.008, along=1))
    for x in (-0.19, 0.19):
        chair.add("chair oak", beam((x, 0.18, 0), (x * 0.96, 0.175, 0.44), 0.034, 0.034, 0.005))
        chair.add("chair oak", beam((x, -0.22, 0), (x * 0.98, -0.175, 0.45), 0.034, 0.034, 0.005))
        chair.add("chair oak", beam((x * 0.98, -0.175, 0.44), (x * 0.95, -0.26, 0.86), 0.032, 0.032, 0.005))
        chair.add("chair oak", beam((x, 0.17, 0.2), (x, -0.2, 0.2), 0.02, 0.03, 0.004))
    chair.add("chair oak", beam((-0.185, -0.253, 0.80), (0.185, -0.253, 0.80), 0.018, 0.10, 0.004))
    chair.add("chair oak", beam((-0.185, -0.226, 0.64), (0.185, -0.226, 0.64), 0.016, 0.06, 0.004))
    chair.add("seat cloth", box([-0.195, -0.17, 0.46], [0.195, 0.195, 0.478], 0.008))
    spots = []
    for x, y in TABLES:
        for k in (-1, 0, 1):
            for side in (-1, 1):
                if rng.random() < 0.1:
                    continue
                turn = (0 if side < 0 else 180) + rng.normal(0, 7)
                gap = rng.choice([0.5, 0.56, 0.72], p=[0.55, 0.3, 0.15])
                spots.append(place((x + 0.86 * k + rng.normal(0, 0.05), y + side * (gap + 0.12), 0), turn))
    model.put(chair, at=spots)


def _armchair(model: Model) -> None:
    chair = Thing("armchair")
    chair.add("wool", box([-0.32, -0.3, 0.2], [0.32, 0.34, 0.42], 0.05))
    chair.add("wool", box([-0.42, -0.36, 0.14], [-0.3, 0.34, 0.60], 0.045))
    chair.add("wool", box([0.3, -0.36, 0.14], [0.42, 0.34, 0.60], 0.045))
    chair.add("wool", box([-0.36, -0.12, 0.0], [0.36, 0.06, 0.62], 0.05).turned(12, "x").moved([0, -0.26, 0.3]))
    chair.add(
        "wool, pale", box([-0.2, -0.05, 0.0], [0.2, 0.06, 0.34], 0.045).turned(16, "x").moved([0.02, -0.14, 0.44])
    )
    for x in (-0.34, 0.34):
        for y in (-0.3, 0.28):
            chair.add("chair oak", beam((x, y, 0.0), (x, y, 0.16), 0.04, 0.04, 0.004))
    model.put(chair, at=[place((1.75, 0.95, 0), -52), place((3.0, 0.62, 0), 20)])
    side = Thing("side table")
    side.add(
        "table oak", lathe([(0, 0.5), (0.235, 0.5), (0.24, 0.506), (0.24, 0.52), (0.235, 0.526), (0, 0.526)], 32, False)
    )
    side.add(
        "blackened steel",
        tube([(0, 0, 0), (0, 0, 0.5)], 0.016, 10),
        lathe([(0.17, 0.0), (0.17, 0.008), (0, 0.012)], 24),
    )
    model.put(side, at=[place((2.42, 0.5, 0))])
    rug = Thing("rug").add("rug", box([1.1, 0.3, 0.0], [3.5, 1.75, 0.012], 0.004))
    model.put(rug)


def _small_things(model: Model, rng: np.random.Generator) -> None:
    things = Thing("table things")
    for x, y in TABLES:
        for _ in range(2):  # open books
            bx, by, turn = (
                x + rng.uniform(-1.1, 1.1),
                y + rng.choice([-0.25, 0.25]) + rng.normal(0, 0.03),
                rng.uniform(-25, 25),
            )
            steps = np.linspace(0, 0.155, 7)
            bulge = 0.012 + 0.012 * np.sin(np.pi * np.minimum(steps / 0.155 * 1.15, 1))
            for sign in (-1, 1):
                for i in range(6):
                    p = [(sign * steps[i], -0.115, bulge[i]), (sign * steps[i + 1], -0.115, bulge[i + 1]),
                         (sign * steps[i + 1], 0.115, bulge[i + 1]), (sign * steps[i], 0.115, bulge[i])]  # fmt: skip
                    page = polygon(p if sign > 0 else p[::-1])
                    things.add("paper", page.turned(turn).moved([bx, by, TABLE_HEIGHT]))
            cover = box([-0.16, -0.12, 0.0], [0.16, 0.12, 0.008], 0.002).fixed_uv(0.22, 0.53)
            things.add("book cloth", cover.turned(turn).moved([bx, by, TABLE_HEIGHT]))
        height = TABLE_HEIGHT
        sx, sy = x + rng.uniform(-1.0, 1.0), y + rng.normal(0, 0.12)
        for _ in range(int(rng.integers(2, 5))):
            t = float(rng.uniform(0.018, 0.04))
            flat = _book(rng, 0.24, t, 0.17).moved([-0.12, -0.085, 0]).turned(rng.uniform(-20, 20))
            things.add("book cloth", flat.moved([sx, sy, height]))
            height += t
    cup = [(0.0, 0.0), (0.028, 0.0), (0.036, 0.02), (0.042, 0.085), (0.039, 0.085), (0.033, 0.02), (0.0, 0.012)]
    things.add("glaze", lathe(cup, 24).moved([5.05, 2.1, TABLE_HEIGHT]), lathe(cup, 24).moved([2.46, 0.44, 0.526]))
    vase = [
        (0, 0),
        (0.05, 0),
        (0.085, 0.06),
        (0.075, 0.14),
        (0.035, 0.2),
        (0.045, 0.23),
        (0.038, 0.23),
        (0.028, 0.2),
        (0, 0.19),
    ]
    things.add("glaze, dark", lathe(vase, 28).moved([7.9, 2.38, TABLE_HEIGHT]))
    for _ in range(9):
        lean = rng.normal(0, 0.09, 2)
        path = [(0, 0, 0.18), (lean[0], lean[1], 0.42), (2.4 * lean[0], 2.4 * lean[1], 0.62 + rng.uniform(-0.06, 0.06))]
        things.add("twig", tube(path, [0.003, 0.0025, 0.0015], 5).moved([7.9, 2.38, TABLE_HEIGHT]))
        for t in np.linspace(0.4, 1.0, 6):
            c = np.array(path[1]) * (1 - t) + np.array(path[2]) * t
            d = rng.normal(0, 1, 3)
            d /= np.linalg.norm(d)
            e = np.cross(d, [0.3, 0.2, 1.0])
            e /= np.linalg.norm(e)
            leaf = polygon([c, c + 0.02 * d + 0.011 * e, c + 0.05 * d, c + 0.02 * d - 0.011 * e])
            things.add("dry leaf", leaf.moved([7.9, 2.38, TABLE_HEIGHT]))
    basket = [(0, 0.0), (0.17, 0.0), (0.2, 0.3), (0.205, 0.3), (0.176, -0.004), (0, -0.004)]
    things.add("wicker", lathe(basket, 24).moved([0.62, 0.45, 0.005]))
    model.put(things)
