"""Trees, shrubs, hedges, grass and flowers, in summer, in autumn and bare. Habits of the kinds are common practice."""

from __future__ import annotations

import numpy as np

from valleylight.core.making import plants
from valleylight.core.making.glb import Model, Thing
from valleylight.core.making.shapes import Shape
from valleylight.core.nature import grass, trees
from valleylight.core.objects.family import SEED, Family, Values, kinds, length, number
from valleylight.core.objects.surfaces import use, use_leaves

_SEASON = kinds("season", "Season", "summer", "autumn", "bare")


#: Surfaces of leaves in summer, in autumn where the season is chosen and not the date's, and of the bark.
_LEAVES = {"birch": ("pale foliage", "gold foliage", "birch bark"), "poplar": ("pale foliage", "gold foliage", "bark"), "lime": ("foliage", "gold foliage", "bark"),
           "larch": ("pale foliage", "gold foliage", "bark"), "willow": ("pale foliage", "gold foliage", "bark"), "hazel": ("pale foliage", "gold foliage", "bark"),
           "alder": ("dark foliage", "dark foliage", "bark"), "box": ("dark foliage", "dark foliage", "bark")}  # fmt: skip
_OTHERS = ("foliage", "rust foliage", "bark")
_DETAIL = kinds("detail", "Detail", "near", "some way off", "far")
_LEAN = number("lean", "Bent by wind", 0, 20, 0)


def _grown(key: str):  # type: ignore[no-untyped-def]
    def build(model: Model, thing: Thing, v: Values) -> None:
        kind, season = trees.KINDS[key], int(v.get("season", 0))
        evergreen = kind.leaf == "evergreen"
        grown = trees.grow(key, v["height"], int(v["seed"]), int(v["detail"]), season < 2 or evergreen, v["lean"] / 100)
        summer, autumn, bark = _LEAVES.get(key, _OTHERS)
        thing.add(use(model, bark)[0], grown.wood)
        if kind.conifer and evergreen:
            thing.add(use(model, "needles")[0], grown.leaves)
        elif len(grown.leaves.triangles):
            leaf = use(model, autumn)[0] if season == 1 and not evergreen else use_leaves(model, summer, kind.leaf)
            # In autumn a part of them is down already.
            whole = len(grown.leaves.triangles) // 2
            kept = np.random.default_rng(int(v["seed"])).random(whole) < (
                0.75 if season == 1 and not evergreen else 1.0
            )
            thing.add(leaf, grown.leaves.of(np.tile(kept, 2)))

    return build


def _tree_family(kind: trees.Kind) -> Family:
    changes = () if kind.leaf == "evergreen" else (_SEASON,)
    height = length("height", "Height", *kind.height_m, 0.5)
    return Family(
        kind.key, kind.name, "Trees and shrubs", _grown(kind.key), (height, *changes, SEED, _DETAIL, _LEAN), grows=True
    )


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
    thing.add(
        name, _in_round(grass.sward(rng, v["diameter"], 1400, v["height"], 0.006 + 0.02 * v["height"]), v["diameter"])
    )


def _in_round(shape: Shape, across: float) -> Shape:
    """What of a square patch stands within its circle."""
    return shape.of(np.hypot(*shape.points[shape.triangles][:, 0, :2].T) < 0.5 * across)


def _flowers(model: Model, thing: Thing, v: Values) -> None:
    rng = np.random.default_rng(int(v["seed"]))
    petal = use(model, ("petal", "violet petal", "yellow petal")[int(v["colour"])])[0]
    d, h = v["diameter"], v["height"]
    blade = use_leaves(model, "grass", "grass")
    stems, heads = grass.flowers(rng, max(int(60 * d * d), 3), h, d, 0.013)
    thing.add(blade, _in_round(grass.sward(rng, d, 260, 0.8 * h), d), _in_round(stems, d))
    thing.add(petal, _in_round(heads, d))


def _reeds(model: Model, thing: Thing, v: Values) -> None:
    rng = np.random.default_rng(int(v["seed"]))
    thing.add(
        use_leaves(model, "grass", "grass"),
        grass.reeds(rng, max(int(70 * v["diameter"] ** 2), 8), v["height"], v["diameter"]),
    )


def _fern(model: Model, thing: Thing, v: Values) -> None:
    thing.add(use_leaves(model, "grass", "grass"), grass.fern(np.random.default_rng(int(v["seed"])), 11, v["height"]))


FAMILIES = (
    *(_tree_family(kind) for kind in trees.KINDS.values()),
    Family("hedge", "Hedge", "Plants", _hedge, (length("length", "Length", 0.5, 8.0, 2.0, 0.1), length("width", "Width", 0.3, 1.5, 0.6), length("height", "Height", 0.3, 3.0, 1.2, 0.1), _SEASON, SEED)),
    Family("grass", "Patch of grass", "Plants", _grass, (length("diameter", "Diameter", 0.2, 3.0, 1.0, 0.1), length("height", "Height", 0.05, 0.9, 0.22), _SEASON, SEED), grows=True),
    Family("flowers", "Patch of flowers", "Plants", _flowers, (length("diameter", "Diameter", 0.2, 3.0, 0.8, 0.1), length("height", "Height", 0.1, 1.0, 0.35), kinds("colour", "Colour", "white", "violet", "yellow"), SEED), grows=True),
    Family("reeds", "Reeds", "Plants", _reeds, (length("diameter", "Diameter", 0.2, 3.0, 0.9, 0.1), length("height", "Height", 0.5, 2.5, 1.3), SEED), grows=True),
    Family("fern", "Fern", "Plants", _fern, (length("height", "Height", 0.2, 1.4, 0.55), SEED), grows=True),
)  # fmt: skip
