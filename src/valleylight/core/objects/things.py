"""Lamps, cloth, and things in use: shades about a bulb, curtains and blinds, rugs, crockery, pots."""

from __future__ import annotations

import numpy as np

from valleylight.core.making import plants
from valleylight.core.making.glb import Model, Thing
from valleylight.core.making.shapes import Shape, box, heightfield, lathe, tube
from valleylight.core.objects.family import SEED, Family, Parameter, Place, Values, kinds, length, number
from valleylight.core.objects.surfaces import use

_LUMENS = Parameter("lumens", "Light", "lm", 0, 3000, 600, 50)


#: How high above its foot, or below its zero, each holds its bulb.
def _in_floor_lamp(v: Values) -> Place:
    return 0.0, 0.0, v["height"] - 0.14


def _in_table_lamp(v: Values) -> Place:
    return 0.0, 0.0, v["height"] * 0.72


def _in_pendant(v: Values) -> Place:
    return 0.0, 0.0, -v["drop"] + 0.07


def _shade(model: Model, thing: Thing, low: float, high: float, at: float, tall: float) -> None:
    shade = use(model, "shade")[0]
    thing.add(shade, lathe([(low, at), (high, at + tall), (high - 0.0015, at + tall), (low - 0.0015, at)], 36, False))


def _floor_lamp(model: Model, thing: Thing, v: Values) -> None:
    metal = use(model, "brass")[0]
    h = v["height"]
    thing.add(
        metal,
        lathe([(0, 0), (0.15, 0), (0.15, 0.012), (0.02, 0.028), (0, 0.028)], 36),
        tube([(0, 0, 0.02), (0, 0, h - 0.2)], 0.009, 10),
    )
    _shade(model, thing, 0.2, 0.14, h - 0.28, 0.28)


def _table_lamp(model: Model, thing: Thing, v: Values) -> None:
    body = use(model, "dark glaze")[0]
    h = v["height"]
    thing.add(
        body,
        lathe(
            [(0, 0), (0.06, 0), (0.085, 0.08), (0.06, h * 0.45), (0.018, h * 0.52), (0.012, h * 0.6), (0, h * 0.6)], 32
        ),
    )
    _shade(model, thing, 0.15, 0.1, h * 0.56, h * 0.44)


def _pendant(model: Model, thing: Thing, v: Values) -> None:
    """It hangs below its own zero, which is the ceiling."""
    metal = use(model, "paint")[0]
    drop, r = v["drop"], v["diameter"] / 2
    thing.add(
        metal,
        tube([(0, 0, 0), (0, 0, -drop + 0.16)], 0.003, 6),
        lathe([(0, 0), (0.045, 0), (0.045, -0.02), (0, -0.03)], 24),
    )
    profile = [(0.02, -drop + 0.17), (0.05, -drop + 0.15), (r * 0.8, -drop + 0.07), (r, -drop)]
    inner = [(x - 0.003, z - 0.003) for x, z in profile[::-1]]
    thing.add(metal, lathe([*profile, (r - 0.003, -drop), *inner[1:]], 40))


def _rug(model: Model, thing: Thing, v: Values) -> None:
    a, b = v["length"] / 2, v["width"] / 2
    cloth, fringe = use(model, "rug", "linen")
    thing.add(cloth, box([-a, -b, 0], [a, b, 0.009], 0.003))
    for side in (-1, 1):
        for y in np.arange(-b + 0.015, b, 0.025):
            x = side * a
            thing.add(fringe, box([min(x, x + side * 0.05), y - 0.004, 0], [max(x, x + side * 0.05), y + 0.004, 0.003]))


def _folds(wide: float, high: float, full: float, deep: float, seed: int) -> Shape:
    """Cloth in folds hanging from z = high: deeper and less even towards the foot."""
    rng = np.random.default_rng(seed)
    columns, rows = max(40, int(wide * 90)), 14
    x = np.linspace(-wide / 2, wide / 2, columns)
    z = np.linspace(0.012, high, rows)
    phase = np.cumsum(rng.normal(1, 0.25, columns)) / columns * wide * full * 2 * np.pi / 0.16
    loose = (1 - z / high)[:, None]
    y = deep * (0.55 + 0.45 * loose) * np.sin(phase[None] + 0.5 * loose * rng.normal(0, 1, columns).cumsum()[None] / 6)
    flat = heightfield(x, z, y)  # over x and z, then stood upright
    p, n = flat.points[:, [0, 2, 1]], flat.normals[:, [0, 2, 1]]
    return Shape(p, n, flat.uv, flat.triangles[:, ::-1])


def _curtain(model: Model, thing: Thing, v: Values) -> None:
    cloth, rail = use(model, ("sheer", "heavy cloth")[int(v["cloth"])], "brushed")
    wide, high = v["width"], v["height"]
    thing.add(rail, tube([(-wide / 2 - 0.06, 0, high + 0.02), (wide / 2 + 0.06, 0, high + 0.02)], 0.011, 10))
    if v["drawn"] >= 0.95:
        thing.add(cloth, _folds(wide, high, 1.0, 0.045, 3))
        return
    each = max(0.12, wide / 2 * v["drawn"])
    for side in (-1, 1):
        thing.add(
            cloth, _folds(each, high, wide / 2 / each, 0.06, 4 + side).moved([side * (wide / 2 - each / 2), 0, 0])
        )


def _blind(model: Model, thing: Thing, v: Values) -> None:
    """Slats on cords, turned about their own length; let down from the top as far as is wanted."""
    slat, cord = use(model, "lacquer", "linen")
    wide, high, pitch = v["width"], v["height"], v["slat"] * 0.86
    count = max(1, int(high * v["down"] / pitch))
    for k in range(count):
        made = box([-wide / 2, -v["slat"] / 2, -0.0004], [wide / 2, v["slat"] / 2, 0.0004]).turned(v["turn"], "x")
        thing.add(slat, made.moved([0, 0, high - 0.05 - pitch * (k + 0.5)]))
    thing.add(slat, box([-wide / 2, -0.025, high - 0.04], [wide / 2, 0.025, high], 0.003))
    for x in (-wide * 0.38, wide * 0.38):
        thing.add(cord, box([x - 0.0008, -0.0008, high - 0.05 - pitch * count], [x + 0.0008, 0.0008, high]))


def _vase(model: Model, thing: Thing, v: Values) -> None:
    body, twig, leaf = use(model, ("glaze", "dark glaze", "clay")[int(v["glaze"])], "bark", "dark leaf")
    h = v["height"]
    thing.add(
        body,
        lathe(
            [
                (0, 0),
                (0.2 * h, 0),
                (0.34 * h, 0.26 * h),
                (0.3 * h, 0.6 * h),
                (0.14 * h, 0.86 * h),
                (0.18 * h, h),
                (0.165 * h, h),
                (0.12 * h, 0.86 * h),
                (0, 0.8 * h),
            ],
            36,
        ),
    )
    if v["twigs"] > 0:
        rng = np.random.default_rng(6)
        tips = []
        for _ in range(int(v["twigs"])):
            lean = rng.normal(0, 0.12, 2)
            path = np.array(
                [(0, 0, 0.8 * h), (*(lean * 0.8), 1.5 * h), (*(lean * 2.2), 2.3 * h + rng.uniform(-0.05, 0.05))]
            )
            thing.add(twig, tube(path, [0.003, 0.0025, 0.0012], 5))
            tips += [path[1] + (path[2] - path[1]) * t for t in (0.2, 0.5, 0.8, 1.0)]
        thing.add(leaf, plants.cards(rng, np.array(tips), 2, 0.01, 0.14))


def _crockery(model: Model, thing: Thing, v: Values) -> None:
    glaze = use(model, ("glaze", "dark glaze")[int(v["glaze"])])[0]
    plate = [
        (0, 0.004),
        (0.07, 0.004),
        (0.12, 0.018),
        (0.135, 0.024),
        (0.134, 0.027),
        (0.118, 0.021),
        (0.07, 0.008),
        (0, 0.008),
    ]
    bowl = [
        (0, 0.004),
        (0.04, 0.004),
        (0.075, 0.03),
        (0.085, 0.06),
        (0.082, 0.06),
        (0.07, 0.032),
        (0.038, 0.009),
        (0, 0.008),
    ]
    cup = [(0, 0), (0.026, 0), (0.034, 0.02), (0.041, 0.082), (0.038, 0.082), (0.031, 0.02), (0, 0.008)]
    for k in range(int(v["covers"])):
        x = 0.62 * (k - (int(v["covers"]) - 1) / 2)
        thing.add(
            glaze,
            lathe(plate, 40).moved([x, 0, 0]),
            lathe(bowl, 36).moved([x, 0, 0.01]),
            lathe(cup, 28).moved([x + 0.19, 0.1, 0]),
        )


def _pot_plant(model: Model, thing: Thing, v: Values) -> None:
    pot, soil, wood, leaf = use(model, "clay", "soil", "bark", "dark leaf")
    rng, h = np.random.default_rng(int(v["seed"])), v["height"]
    r = 0.1 + 0.1 * h
    thing.add(
        pot,
        lathe(
            [
                (0, 0),
                (0.75 * r, 0),
                (r, 1.5 * r),
                (1.06 * r, 1.5 * r),
                (1.06 * r, 1.7 * r),
                (0.98 * r, 1.7 * r),
                (0.9 * r, 1.4 * r),
                (0, 1.4 * r),
            ],
            40,
        ),
    )
    thing.add(soil, lathe([(0.92 * r, 1.5 * r), (0, 1.53 * r)], 24))
    branches, tips = plants.tree(rng, h, 0.012 + 0.01 * h, 0.9, 0.8, 1)
    thing.add(wood, branches.moved([0, 0, 1.5 * r]))
    thing.add(leaf, plants.cards(rng, tips + [0, 0, 1.5 * r], max(2, int(160 / len(tips))), 0.05 * h, 0.16 + 0.04 * h))


FAMILIES = (
    Family("floor-lamp", "Floor lamp", "Lamps", _floor_lamp, (length("height", "Height", 1.2, 1.9, 1.55), _LUMENS), lamp=_in_floor_lamp),
    Family("table-lamp", "Table lamp", "Lamps", _table_lamp, (length("height", "Height", 0.3, 0.7, 0.46, 0.02), Parameter("lumens", "Light", "lm", 0, 3000, 400, 50)), lamp=_in_table_lamp),
    Family("pendant", "Pendant", "Lamps", _pendant, (length("drop", "Drop", 0.4, 4.0, 1.2, 0.1), length("diameter", "Diameter", 0.2, 0.9, 0.38, 0.02), _LUMENS), lamp=_in_pendant),
    Family("rug", "Rug", "Cloth", _rug, (length("length", "Length", 0.8, 5.0, 2.4, 0.1), length("width", "Width", 0.5, 4.0, 1.6, 0.1))),
    Family("curtain", "Curtain", "Cloth", _curtain, (length("width", "Width", 0.5, 8.0, 2.0, 0.1), length("height", "Height", 1.0, 5.0, 2.4, 0.05), Parameter("drawn", "Drawn across", "", 0.1, 1.0, 0.4, 0.05), kinds("cloth", "Cloth", "sheer", "heavy"))),
    Family("blind", "Blind of slats", "Cloth", _blind, (length("width", "Width", 0.4, 4.0, 1.2, 0.1), length("height", "Height", 0.5, 3.5, 1.6, 0.05), length("slat", "Slat", 0.025, 0.1, 0.05, 0.005), Parameter("turn", "Turn of the slats", "°", -85, 85, 25, 5), Parameter("down", "Let down", "", 0.05, 1, 1, 0.05))),
    Family("vase", "Vase", "Small things", _vase, (length("height", "Height", 0.1, 0.6, 0.26, 0.02), number("twigs", "Twigs", 0, 15, 7), kinds("glaze", "Glaze", "chalk", "ink", "terracotta"))),
    Family("crockery", "Crockery", "Small things", _crockery, (number("covers", "Covers", 1, 6, 1), kinds("glaze", "Glaze", "chalk", "ink"))),
    Family("pot-plant", "Plant in a pot", "Plants", _pot_plant, (length("height", "Height", 0.3, 1.8, 0.9, 0.1), SEED)),
)  # fmt: skip
