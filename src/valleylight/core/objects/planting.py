"""Trees, shrubs, hedges, grass and flowers, in summer, in autumn and bare. Habits of the kinds are common practice."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from valleylight.core.making import plants
from valleylight.core.making.glb import Model, Thing
from valleylight.core.making.shapes import Shape, join, tube
from valleylight.core.objects.family import SEED, Family, Values, kinds, length
from valleylight.core.objects.surfaces import use, use_leaves

_SEASON = kinds("season", "Season", "summer", "autumn", "bare")


@dataclass(frozen=True)
class _Habit:
    """How a tree grows: trunk over height, how its branches rise and spread, cards of leaves, their size over height, its leaves."""

    key: str
    name: str
    height: tuple[float, float, float]
    trunk: float
    rise: float
    spread: float
    cards: int
    leaf: float
    summer: str
    autumn: str
    bark: str = "bark"
    evergreen: bool = False


_HABITS = (
    _Habit("lime", "Lime", (4, 22, 11), 0.020, 0.7, 1.0, 6100, 0.0265, "leaf", "gold leaf"),
    _Habit("maple", "Maple", (4, 20, 10), 0.019, 0.6, 1.1, 6100, 0.0281, "leaf", "rust leaf"),
    _Habit("birch", "Birch", (4, 18, 10), 0.013, 1.0, 0.62, 4400, 0.0203, "pale leaf", "gold leaf", "birch bark"),
    _Habit("apple", "Apple tree", (2.5, 7, 4.5), 0.028, 0.45, 1.25, 4100, 0.0312, "leaf", "rust leaf"),
    _Habit("pear", "Pear tree", (3, 10, 6), 0.020, 1.1, 0.75, 4100, 0.0281, "leaf", "gold leaf"),
    _Habit("poplar", "Poplar", (6, 26, 15), 0.014, 2.2, 0.34, 5100, 0.0203, "pale leaf", "gold leaf"),
    _Habit("rowan", "Rowan", (3, 10, 5.6), 0.013, 0.9, 0.8, 4400, 0.0328, "leaf", "rust leaf"),
    _Habit("hazel", "Hazel", (1.5, 5, 3), 0.02, 1.2, 1.0, 2700, 0.0468, "pale leaf", "gold leaf"),
    _Habit("box", "Box", (0.4, 2.5, 1.0), 0.02, 0.6, 1.0, 2600, 0.0546, "dark leaf", "dark leaf", evergreen=True),
    _Habit("alder", "Alder", (4, 18, 9), 0.017, 0.9, 0.75, 5100, 0.025, "dark leaf", "dark leaf"),
)  # fmt: skip


def _grown(habit: _Habit):  # type: ignore[no-untyped-def]
    def build(model: Model, thing: Thing, v: Values) -> None:
        rng, h = np.random.default_rng(int(v["seed"]) * 101 + len(habit.key)), v["height"]
        season = int(v["season"])
        bark = use(model, habit.bark)[0]
        wood, tips = plants.tree(rng, h, habit.trunk * h, habit.rise, habit.spread, 2)
        scale = h / float(wood.points[:, 2].max())  # what grew is as high as it is said to be
        wood, tips = wood.scaled(scale), tips * scale
        thing.add(bark, wood)
        if season == 2 and not habit.evergreen:
            return
        kind = "evergreen" if habit.evergreen else habit.key
        leaf = use(model, habit.autumn)[0] if season == 1 else use_leaves(model, habit.summer, kind)
        share = 0.75 if season == 1 and not habit.evergreen else 1.0
        each = max(1, int(habit.cards * share / len(tips)))
        thing.add(leaf, plants.cards(rng, tips, each, 0.03 * h, habit.leaf * h))

    return build


def _spruce(model: Model, thing: Thing, v: Values) -> None:
    """Whorls of drooping boughs along a straight stem, each a fan of needled twigs."""
    rng, h = np.random.default_rng(int(v["seed"])), v["height"]
    bark, needle = use(model, "bark", "needles")
    thing.add(bark, tube([(0, 0, 0), (0, 0, h * 0.6), (0, 0, h)], [0.016 * h, 0.009 * h, 0.002], 10))
    whorls = max(8, int(h * 3.0))
    boughs, twigs = [], []
    for k in range(whorls):
        share = (k + 0.6) / whorls
        z, reach = h * (0.1 + 0.89 * share), h * 0.24 * (1 - share) ** 0.8 + 0.06
        for j in range(6):
            a = 2 * np.pi * j / 6 + 2.4 * k + rng.normal(0, 0.15)
            r = reach * rng.uniform(0.8, 1.15)
            out = np.array([np.cos(a), np.sin(a), 0])
            path = np.array([[0, 0, z], out * r * 0.5 + [0, 0, z - 0.06 * r], out * r + [0, 0, z - 0.28 * r]])
            boughs.append(tube(path, [0.006 * h * (1 - share) + 0.004, 0.006, 0.002], 4))
            side = np.array([-out[1], out[0], 0])
            for t in np.linspace(0.15, 1.0, 10):
                base = path[0] * (1 - t) ** 2 + 2 * path[1] * t * (1 - t) + path[2] * t**2
                w = r * 0.34 * (1.15 - t) + 0.05
                for s in (-1, 1):
                    tip = base + (side * s * 0.9 + out * 0.6) * w - [0, 0, 0.12 * w]
                    twigs.append(_needled(base, tip, 0.035 + 0.09 * w))
    thing.add(bark, join(boughs))
    thing.add(needle, join(twigs))


def _needled(base: np.ndarray, tip: np.ndarray, wide: float) -> Shape:
    """A twig with its needles as two crossed blades that narrow to the tip."""
    along = tip - base
    flat = np.cross(along, [0, 0, 1.0])
    flat *= wide / max(float(np.linalg.norm(flat)), 1e-9)
    up = np.array([0, 0, wide * 0.7])
    middle = base + along * 0.45
    p = np.array([base, middle + flat, tip, middle - flat, base, middle + up, tip, middle - up])
    n = np.concatenate([np.tile([0, 0, 1.0], (4, 1)), np.tile(flat / max(float(np.linalg.norm(flat)), 1e-9), (4, 1))])
    return Shape(p, n, np.zeros((8, 2)), np.array([[0, 1, 2], [0, 2, 3], [4, 5, 6], [4, 6, 7]]))


def _hedge(model: Model, thing: Thing, v: Values) -> None:
    rng = np.random.default_rng(int(v["seed"]))
    leaf, wood = use(model, ("dark leaf", "rust leaf", "dark leaf")[int(v["season"])], "bark")
    a, b, h = v["length"] / 2, v["width"] / 2, v["height"]
    count = int(min(9000, 420 * (2 * a * 2 * b + 2 * (2 * a + 2 * b) * h)))
    spots = rng.uniform([-a, -b, 0.05], [a, b, h], (count, 3))
    # Leaves stand where the light is: near the faces.
    axis = rng.choice(3, count, p=[0.08, 0.47, 0.45])
    for k, (low, high) in enumerate(((-a, a), (-b, b), (None, h))):
        on = axis == k
        edge = np.where(rng.random(int(on.sum())) < 0.5, low if low is not None else high, high)
        spots[on, k] = edge + rng.normal(0, 0.03, int(on.sum()))
    thing.add(leaf, plants.cards(rng, spots, 1, 0.02, 0.16))
    for x in np.arange(-a + 0.2, a, 0.45):
        stem, _ = plants.tree(rng, h * 0.9, 0.015, 1.0, 0.5, 1)
        thing.add(wood, stem.moved([x, 0, 0]))


def _grass(model: Model, thing: Thing, v: Values) -> None:
    rng = np.random.default_rng(int(v["seed"]))
    name = use(model, "straw")[0] if v["season"] else use_leaves(model, "grass", "grass")
    r = v["diameter"] / 2
    tufts = max(1, int(26 * np.pi * r * r))
    parts = []
    for _ in range(tufts):
        d, a = r * np.sqrt(rng.uniform()), rng.uniform(0, 2 * np.pi)
        parts.append(plants.tuft(rng, 20, v["height"]).moved([d * np.cos(a), d * np.sin(a), 0]))
    thing.add(name, join(parts))


def _flowers(model: Model, thing: Thing, v: Values) -> None:
    rng = np.random.default_rng(int(v["seed"]))
    blade, petal = use(model, "grass", ("petal", "violet petal")[int(v["colour"])])
    r, h = v["diameter"] / 2, v["height"]
    parts, heads = [], []
    for _ in range(max(2, int(40 * np.pi * r * r))):
        d, a = r * np.sqrt(rng.uniform()), rng.uniform(0, 2 * np.pi)
        spot = np.array([d * np.cos(a), d * np.sin(a), 0])
        parts.append(plants.tuft(rng, 7, h * 0.8).moved(spot))
        head = spot + [*rng.normal(0, 0.03, 2), h * rng.uniform(0.8, 1.15)]
        heads.append(plants.leaves(rng, head[None], 6, 0.006, 0.028))
    thing.add(blade, join(parts))
    thing.add(petal, join(heads))


FAMILIES = (
    *(
        Family(h.key, h.name, "Trees and shrubs", _grown(h), (length("height", "Height", *h.height, 0.5), _SEASON, SEED), grows=True)
        for h in _HABITS
    ),
    Family("spruce", "Spruce", "Trees and shrubs", _spruce, (length("height", "Height", 2, 28, 12, 0.5), SEED), grows=True),
    Family("hedge", "Hedge", "Plants", _hedge, (length("length", "Length", 0.5, 8.0, 2.0, 0.1), length("width", "Width", 0.3, 1.5, 0.6), length("height", "Height", 0.3, 3.0, 1.2, 0.1), _SEASON, SEED)),
    Family("grass", "Patch of grass", "Plants", _grass, (length("diameter", "Diameter", 0.2, 3.0, 1.0, 0.1), length("height", "Height", 0.05, 0.9, 0.22), _SEASON, SEED), grows=True),
    Family("flowers", "Patch of flowers", "Plants", _flowers, (length("diameter", "Diameter", 0.2, 3.0, 0.8, 0.1), length("height", "Height", 0.1, 1.0, 0.35), kinds("colour", "Colour", "white", "violet"), SEED), grows=True),
)  # fmt: skip
