"""What one sits on, at and in: chairs, benches, sofas, tables, beds, shelves."""

from __future__ import annotations

import numpy as np

from valleylight.core.making.glb import Model, Thing
from valleylight.core.making.shapes import Shape, beam, box, lathe, tube
from valleylight.core.objects.family import Family, Values, kinds, length, number
from valleylight.core.objects.surfaces import use

_WOODS = ("oak", "ash", "walnut")


def _wood(model: Model, v: Values) -> str:
    return use(model, _WOODS[int(v["wood"])])[0]


_WOOD = kinds("wood", "Wood", "oak", "ash", "walnut")


def _chair(model: Model, thing: Thing, v: Values) -> None:
    wood, cloth = _wood(model, v), use(model, "linen")[0]
    wide, seat, back = v["width"] / 2, v["seat"], v["back"]
    thing.add(wood, box([-wide, -0.21, seat - 0.035], [wide, 0.21, seat - 0.012], 0.006, along=1))
    thing.add(cloth, box([-wide + 0.02, -0.195, seat - 0.012], [wide - 0.02, 0.18, seat + 0.012], 0.01))
    for side in (-1, 1):
        x = side * (wide - 0.025)
        thing.add(wood, beam((x, -0.185, 0), (x, -0.18, seat - 0.03), 0.034, 0.034, 0.005))
        thing.add(wood, beam((x, 0.215, 0), (x, 0.18, seat - 0.02), 0.034, 0.034, 0.005))
        thing.add(wood, beam((x, 0.18, seat - 0.03), (x * 0.98, 0.27, back), 0.032, 0.032, 0.005))
        thing.add(wood, beam((x, -0.17, 0.2), (x, 0.2, 0.2), 0.02, 0.028, 0.004))
    for share in (0.55, 0.92):
        z = seat + (back - seat) * share
        y = 0.18 + 0.09 * (z - seat) / (back - seat)
        thing.add(wood, beam((-wide + 0.03, y, z), (wide - 0.03, y, z), 0.016, 0.075, 0.004))


def _armchair(model: Model, thing: Thing, v: Values) -> None:
    cloth, wood = use(model, ("wool", "blue wool", "linen")[int(v["cloth"])], "oak")
    _upholstered(thing, cloth, wood, v["width"], 1)


def _sofa(model: Model, thing: Thing, v: Values) -> None:
    cloth, wood = use(model, ("wool", "blue wool", "linen")[int(v["cloth"])], "oak")
    _upholstered(thing, cloth, wood, v["length"], max(1, round((v["length"] - 0.3) / 0.72)))


def _upholstered(thing: Thing, cloth: str, wood: str, wide: float, seats: int) -> None:
    half, arm, deep = wide / 2, 0.14, 0.42
    thing.add(cloth, box([-half, -deep, 0.14], [half, deep, 0.3], 0.03))
    for side in (-1, 1):
        a, b = sorted((side * half, side * (half - arm)))
        thing.add(cloth, box([a, -deep, 0.16], [b, deep, 0.6], 0.04))
    each = (wide - 2 * arm) / seats
    for k in range(seats):
        x = -half + arm + k * each
        thing.add(cloth, box([x + 0.006, -deep + 0.01, 0.3], [x + each - 0.006, deep - 0.2, 0.44], 0.04))
        back = box([x + 0.01, -0.08, 0.0], [x + each - 0.01, 0.08, 0.44], 0.05).turned(-12, "x")
        thing.add(cloth, back.moved([0, deep - 0.2, 0.4]))
    thing.add(cloth, box([-half + arm, deep - 0.12, 0.2], [half - arm, deep, 0.78], 0.04))
    for x in (-half + 0.06, half - 0.06):
        for y in (-deep + 0.06, deep - 0.06):
            thing.add(wood, beam((x, y, 0), (x, y, 0.15), 0.04, 0.04, 0.004))


def _stool(model: Model, thing: Thing, v: Values) -> None:
    wood = _wood(model, v)
    high = v["height"]
    thing.add(
        wood,
        lathe(
            [
                (0, high - 0.03),
                (0.15, high - 0.03),
                (0.165, high - 0.018),
                (0.165, high - 0.006),
                (0.15, high),
                (0, high),
            ],
            28,
        ),
    )
    for k in range(4):
        a = np.pi / 4 + k * np.pi / 2
        foot, top = np.array([np.cos(a), np.sin(a)]) * (0.13 + 0.08 * high), np.array([np.cos(a), np.sin(a)]) * 0.11
        thing.add(wood, tube([(*foot, 0), (*top, high - 0.02)], [0.013, 0.017], 10))


def _table(model: Model, thing: Thing, v: Values) -> None:
    wood = _wood(model, v)
    a, b, h = v["length"] / 2, v["width"] / 2, v["height"]
    boards = max(2, round(v["width"] / 0.18))
    for k in range(boards):
        y0, y1 = -b + v["width"] * k / boards, -b + v["width"] * (k + 1) / boards
        board = box([-a, y0 + 0.0006, h - 0.034], [a, y1 - 0.0006, h], 0.003, along=0)
        thing.add(wood, board.shifted_uv(0.37 * k + 0.1, 1.3 * k))
    x, y = a - 0.1, b - 0.09
    for sx in (-1, 1):
        for sy in (-1, 1):
            thing.add(
                wood,
                box([sx * x - 0.034, sy * y - 0.034, 0], [sx * x + 0.034, sy * y + 0.034, h - 0.034], 0.005, along=2),
            )
    for s in (-1, 1):
        thing.add(wood, box([-x, s * y - 0.011, h - 0.12], [x, s * y + 0.011, h - 0.034], 0.003, along=0))
        thing.add(wood, box([s * x - 0.011, -y, h - 0.12], [s * x + 0.011, y, h - 0.034], 0.003, along=1))


def _round_table(model: Model, thing: Thing, v: Values) -> None:
    wood, steel = _wood(model, v), use(model, "steel")[0]
    r, h = v["diameter"] / 2, v["height"]
    thing.add(
        wood,
        lathe(
            [(0, h - 0.028), (r - 0.006, h - 0.028), (r, h - 0.02), (r, h - 0.006), (r - 0.006, h), (0, h)], 56, False
        ),
    )
    foot = min(0.75 * r, 0.36)
    thing.add(
        steel,
        tube([(0, 0, 0.01), (0, 0, h - 0.028)], 0.03, 16),
        lathe([(0, 0), (foot, 0), (foot, 0.012), (0.03, 0.03)], 40),
    )


def _bed(model: Model, thing: Thing, v: Values) -> None:
    wood, sheet, cover = _wood(model, v), *use(model, "linen", "blue wool")
    a, b = v["width"] / 2, 1.02
    for sx in (-1, 1):
        thing.add(wood, box([sx * a - 0.02, -b, 0.2], [sx * a + 0.02, b, 0.34], 0.004, along=1))
        for y in (-b + 0.03, b - 0.03):
            thing.add(wood, box([sx * a - 0.035, y - 0.035, 0], [sx * a + 0.035, y + 0.035, 0.36], 0.005, along=2))
    thing.add(
        wood,
        box([-a, -b - 0.02, 0.2], [a, -b + 0.02, 0.34], 0.004, along=0),
        box([-a - 0.03, b - 0.03, 0.2], [a + 0.03, b + 0.02, 0.85], 0.006, along=0),
    )
    thing.add(sheet, box([-a + 0.025, -b + 0.03, 0.28], [a - 0.025, b - 0.04, 0.48], 0.05))
    thing.add(cover, box([-a - 0.01, -b + 0.02, 0.44], [a + 0.01, b - 0.62, 0.52], 0.035))
    pillows = 1 if v["width"] < 1.2 else 2
    for k in range(pillows):
        x = (k - (pillows - 1) / 2) * v["width"] / pillows
        thing.add(sheet, box([-0.3, -0.2, 0], [0.3, 0.2, 0.13], 0.06).turned(-14, "x").moved([x, b - 0.32, 0.48]))


def _shelves(model: Model, thing: Thing, v: Values) -> None:
    wood = _wood(model, v)
    a, h, deep = v["width"] / 2, v["height"], v["depth"] / 2
    levels = max(1, round(h / 0.36))
    for x in (-a, a):
        thing.add(wood, box([x - 0.011, -deep, 0], [x + 0.011, deep, h], 0.002, along=2))
    for k in range(levels + 1):
        z = 0.07 + (h - 0.09) * k / levels
        thing.add(
            wood,
            box([-a + 0.011, -deep + 0.002, z - 0.011], [a - 0.011, deep, z + 0.011], 0.002, along=0).shifted_uv(
                0.3 * k, 0.7 * k
            ),
        )
    thing.add(wood, box([-a, deep - 0.008, 0.05], [a, deep - 0.002, h - 0.01], along=2))
    if v["books"] > 0:
        cloth, paper = use(model, "book cloth", "paper")
        rng = np.random.default_rng(8)
        for k in range(levels):
            z, room = 0.081 + (h - 0.09) * k / levels, (h - 0.09) / levels - 0.03
            end = -a + 0.02 + (2 * a - 0.04) * min(1.0, v["books"] * rng.uniform(0.8, 1.2))
            _row_of_books(thing, cloth, paper, rng, -a + 0.02, end, -deep + 0.03, z, room)


def _row_of_books(
    thing: Thing,
    cloth: str,
    paper: str,
    rng: np.random.Generator,
    x: float,
    end: float,
    y: float,
    z: float,
    room: float,
) -> None:
    while True:
        thick = float(np.clip(rng.lognormal(-3.5, 0.35), 0.013, 0.06))
        high = float(np.clip(rng.normal(0.75, 0.09), 0.5, 0.96)) * room
        deep = float(np.clip(high * 0.72, 0.1, 0.2))
        if x + thick > end:
            return
        front = y + rng.uniform(0, 0.02)
        thing.add(cloth, _book(thick, high, deep, rng).moved([x, front, z]))
        thing.add(
            paper,
            box(
                [x + 0.003, front + 0.006, z + 0.003],
                [x + thick - 0.003, front + deep - 0.004, z + high + 0.0006],
                faces="Z",
            ),
        )
        x += thick + rng.uniform(0.0005, 0.0018)


def _book(thick: float, high: float, deep: float, rng: np.random.Generator) -> Shape:
    return box([0, 0, 0], [thick, deep, high]).fixed_uv(*((rng.integers(0, 16, 2) + 0.5) / 16))


def _books(model: Model, thing: Thing, v: Values) -> None:
    cloth, paper = use(model, "book cloth", "paper")
    rng = np.random.default_rng(int(v["seed"]))
    z = 0.0
    for _ in range(int(v["count"])):
        t, wide, deep = float(rng.uniform(0.014, 0.045)), float(rng.uniform(0.2, 0.29)), float(rng.uniform(0.14, 0.2))
        turn = float(rng.normal(0, 12))
        flat = box([-wide / 2, -deep / 2, 0], [wide / 2, deep / 2, t], 0.001).fixed_uv(
            *((rng.integers(0, 16, 2) + 0.5) / 16)
        )
        leaves = box([-wide / 2 + 0.004, -deep / 2 - 0.0005, 0.003], [wide / 2 + 0.0005, deep / 2 - 0.004, t - 0.003])
        thing.add(cloth, flat.turned(turn).moved([0, 0, z]))
        thing.add(paper, leaves.turned(turn).moved([0, 0, z]))
        z += t


def _cupboard(model: Model, thing: Thing, v: Values) -> None:
    wood, knob = _wood(model, v), use(model, "brass")[0]
    a, h, deep = v["width"] / 2, v["height"], v["depth"] / 2
    thing.add(wood, box([-a, -deep + 0.02, 0.08], [a, deep, h], 0.003, along=2))
    thing.add(wood, box([-a + 0.03, -deep + 0.05, 0], [a - 0.03, deep - 0.02, 0.08]))
    doors = max(1, round(v["width"] / 0.5))
    for k in range(doors):
        x0, x1 = -a + v["width"] * k / doors, -a + v["width"] * (k + 1) / doors
        thing.add(
            wood,
            box([x0 + 0.002, -deep, 0.085], [x1 - 0.002, -deep + 0.019, h - 0.003], 0.002, along=2).shifted_uv(
                0.3 * k, 0.2 * k
            ),
        )
        x = x1 - 0.05 if k % 2 == 0 else x0 + 0.05
        thing.add(
            knob,
            lathe([(0, 0), (0.006, 0), (0.006, 0.012), (0.013, 0.018), (0.012, 0.026), (0, 0.029)], 16)
            .turned(90, "x")
            .moved([x, -deep, 0.52 * h]),
        )


FAMILIES = (
    Family("chair", "Chair", "Seats", _chair, (length("width", "Width", 0.38, 0.6, 0.45, 0.01), length("seat", "Height of the seat", 0.4, 0.5, 0.46, 0.01), length("back", "Height of the back", 0.7, 1.1, 0.84, 0.01), _WOOD)),
    Family("armchair", "Armchair", "Seats", _armchair, (length("width", "Width", 0.7, 1.1, 0.82), kinds("cloth", "Cloth", "moss", "slate blue", "oat"))),
    Family("sofa", "Sofa", "Seats", _sofa, (length("length", "Length", 1.2, 3.6, 2.1, 0.1), kinds("cloth", "Cloth", "moss", "slate blue", "oat"))),
    Family("stool", "Stool", "Seats", _stool, (length("height", "Height", 0.35, 0.85, 0.45), _WOOD)),
    Family("table", "Table", "Tables", _table, (length("length", "Length", 0.6, 4.0, 1.8, 0.1), length("width", "Width", 0.5, 1.4, 0.9), length("height", "Height", 0.35, 1.1, 0.74, 0.01), _WOOD)),
    Family("round-table", "Round table", "Tables", _round_table, (length("diameter", "Diameter", 0.35, 2.0, 1.1), length("height", "Height", 0.35, 1.1, 0.74, 0.01), _WOOD)),
    Family("bed", "Bed", "Tables", _bed, (length("width", "Width", 0.8, 2.0, 1.6, 0.1), _WOOD)),
    Family("shelves", "Shelves", "Storage", _shelves, (length("width", "Width", 0.3, 3.0, 1.0, 0.1), length("height", "Height", 0.4, 2.8, 2.0, 0.1), length("depth", "Depth", 0.2, 0.6, 0.32, 0.01), number("books", "Books", 0, 1, 1), _WOOD)),
    Family("cupboard", "Cupboard", "Storage", _cupboard, (length("width", "Width", 0.3, 3.0, 1.2, 0.1), length("height", "Height", 0.4, 2.6, 1.9, 0.1), length("depth", "Depth", 0.25, 0.7, 0.45), _WOOD)),
    Family("books", "Pile of books", "Small things", _books, (number("count", "Books", 1, 20, 4), number("seed", "Another of its kind", 1, 99, 1))),
)  # fmt: skip
