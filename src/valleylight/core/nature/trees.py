"""Trees and shrubs of sixteen kinds: how each grows, and how it is made in three levels of detail.

Broad-leaved kinds and pines fill their crown by space colonisation (`growth`); spruce, larch and juniper repeat their shoots in
whorls (`conifers`). Habits of the kinds are common practice.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from valleylight.core.making.shapes import Shape
from valleylight.core.nature import conifers
from valleylight.core.nature.foliage import LEAVES, along_twigs, kites, needled
from valleylight.core.nature.foliage import Leaf as LeafShape
from valleylight.core.nature.growth import Skeleton, colonise, thickness
from valleylight.core.nature.wood import bark

Array = NDArray[np.float64]
Crown = Literal["round", "egg", "broad", "column", "fan", "dome", "umbrella"]
#: Levels of detail: standing near, some way off, on a far slope.
NEAR, MIDDLE, FAR = 0, 1, 2
#: Exponent of the pipe model by which a tip is as thick as its stem allows: a little below Leonardo's 2, for the finest twigs are not grown.
PIPES = 1.8
_TWIG = LeafShape(0.3, ((0.0, 0.0, 0.0, 1.0, 0.011),), fold=0.4, hangs=-0.1)


@dataclass(frozen=True)
class Kind:
    """How a kind grows. Lengths are shares of its height unless they say metres.

    `clear` is the height of the lowest boughs, `wide` the crown's radius, `stem` how far up the stem goes on through it, `points` how
    much room there is in it, `leaves` how many a metre of twig carries. `name` is the kind as people say it, `leaf` its kind through
    the year.
    """

    key: str
    name: str
    height_m: tuple[float, float, float]
    crown: Crown
    clear: float
    wide: float
    stem: float
    leaf: str
    points: int = 3200
    lift: float = 0.06
    trunk: float = 0.020
    leaves: float = 150.0
    stems: int = 1
    conifer: bool = False


KINDS: dict[str, Kind] = {
    k.key: k
    for k in (
        Kind("lime", "Lime", (4, 24, 11), "egg", 0.17, 0.30, 0.62, "lime"),
        Kind("maple", "Maple", (4, 20, 10), "round", 0.20, 0.33, 0.45, "maple", leaves=110),
        Kind("birch", "Birch", (4, 18, 10), "egg", 0.24, 0.20, 0.88, "birch", lift=-0.10, trunk=0.013, leaves=190),
        Kind("beech", "Beech", (5, 26, 13), "egg", 0.14, 0.34, 0.6, "beech", points=3600, leaves=170),
        Kind("alder", "Alder", (4, 18, 9), "egg", 0.20, 0.22, 0.9, "alder", trunk=0.017, leaves=110),
        Kind("willow", "Willow", (3, 16, 8), "broad", 0.18, 0.40, 0.3, "willow", lift=-0.16, trunk=0.03, leaves=260),
        Kind("apple", "Apple tree", (2.5, 7, 4.5), "broad", 0.36, 0.37, 0.36, "apple", points=2200, trunk=0.028),
        Kind("pear", "Pear tree", (3, 10, 6), "egg", 0.25, 0.26, 0.75, "pear", points=2200),
        Kind("poplar", "Poplar", (6, 26, 15), "column", 0.07, 0.10, 0.95, "poplar", lift=0.5, trunk=0.014, leaves=130),
        Kind("rowan", "Rowan", (3, 10, 5.6), "egg", 0.25, 0.28, 0.6, "rowan", points=1900, trunk=0.013, leaves=24),
        Kind("hazel", "Hazel", (1.5, 5, 3), "fan", 0.02, 0.48, 0.2, "hazel", points=1900, trunk=0.014, leaves=70, stems=7),
        Kind("box", "Box", (0.4, 2.5, 1.0), "dome", 0.02, 0.42, 0.3, "evergreen", points=2200, trunk=0.02, leaves=220, stems=3),
        Kind("pine", "Pine", (4, 24, 12), "umbrella", 0.42, 0.25, 0.85, "evergreen", points=4200, trunk=0.018, leaves=0, conifer=True),
        Kind("spruce", "Spruce", (2, 32, 14), "egg", 0.06, 0.19, 1.0, "evergreen", trunk=0.016, conifer=True),
        Kind("larch", "Larch", (3, 28, 13), "egg", 0.12, 0.20, 1.0, "larch", trunk=0.017, conifer=True),
        Kind("juniper", "Juniper", (0.6, 5, 2.2), "column", 0.0, 0.2, 1.0, "evergreen", trunk=0.02, conifer=True),
    )
}  # fmt: skip


@dataclass(frozen=True)
class Tree:
    """A tree in shapes: its wood, and its leaves or needles; it stands on z = 0."""

    wood: Shape
    leaves: Shape


def _profile(crown: Crown, t: Array) -> Array:
    """Radius of a crown over its greatest, at a share t of the crown's height."""
    return {
        "round": lambda: np.sqrt(np.clip(1 - (2 * t - 1) ** 2, 0, 1)),
        "egg": lambda: np.sin(np.pi * np.clip(0.04 + 0.96 * t, 0, 1) ** 0.8) ** 0.65,
        "broad": lambda: np.sin(np.pi * np.clip(0.12 + 0.88 * t, 0, 1) ** 0.8) ** 0.6,
        "column": lambda: np.sin(np.pi * np.clip(0.06 + 0.94 * t, 0, 1) ** 0.6) ** 0.55,
        "fan": lambda: (0.25 + 0.75 * t**0.8) * np.sqrt(np.clip(1 - t**5, 0, 1)),
        "dome": lambda: np.sqrt(np.clip(1 - (0.15 + 0.85 * t) ** 3, 0, 1)),
        "umbrella": lambda: np.sin(np.pi * np.clip(0.1 + 0.9 * t, 0, 1) ** 1.2) ** 0.7,
    }[crown]()  # fmt: skip


def _room(rng: np.random.Generator, kind: Kind, height: float, count: int) -> Array:
    """Points of free room in a crown with bulges of its own, denser towards its surface, where light is."""
    t = rng.random(8 * count)
    t = t[rng.random(len(t)) < _profile(kind.crown, t) ** 2][:count]
    a = rng.uniform(0, 2 * np.pi, len(t))
    bulges = rng.normal(size=(5, 3))
    towards = np.stack([np.cos(a), np.sin(a), 2 * t - 1], 1)
    swell = 1 + 0.22 * np.cos(2.2 * towards @ bulges.T + np.arange(5)).mean(1)
    r = kind.wide * height * _profile(kind.crown, t) * swell * rng.random(len(t)) ** 0.38
    z = height * (kind.clear + (1 - kind.clear) * t)
    if kind.crown == "umbrella":  # a pine's crown is of clouds with sky between
        clouds = rng.random((14, 1)) * [1, 1, 1]
        clouds = np.stack([rng.uniform(-1, 1, 14), rng.uniform(-1, 1, 14), rng.uniform(0.1, 1, 14)], 1)
        p = np.stack([np.cos(a) * r / (kind.wide * height), np.sin(a) * r / (kind.wide * height), t], 1)
        near = np.min(np.linalg.norm((p[:, None] - clouds) * [1, 1, 2.4], axis=2), axis=1)
        keep = near < 0.5
        a, r, z = a[keep], r[keep], z[keep]
    return np.stack([r * np.cos(a), r * np.sin(a), z], 1)


def _stem(rng: np.random.Generator, height: float, share: float, step: float, out: Array) -> Array:
    """A stem that rises with a slow sway, leaning `out` (2,) over its height."""
    n = max(int(height * share / step), 2)
    z = np.linspace(0, height * share, n + 1)
    sway = np.cumsum(rng.normal(0, 0.035 * step, (n + 1, 2)), axis=0)
    sway -= sway[0]
    return np.column_stack([sway + out * (z / height)[:, None] ** 1.3 * height, z])


@lru_cache(maxsize=8)
def skeleton(key: str, height_m: float, seed: int, lean: float = 0.0) -> Skeleton:
    """The skeleton of a kind that grows by space colonisation. `lean` is how far wind has bent it, over its height, towards +X."""
    kind = KINDS[key]
    rng = np.random.default_rng([seed, sum(map(ord, key))])
    room = _room(rng, kind, height_m, kind.points)
    spacing = (np.prod(np.ptp(room, axis=0)) * 0.5 / len(room)) ** (1 / 3)
    step = 0.55 * spacing
    if lean:
        room[:, 0] += lean * height_m * (room[:, 2] / height_m) ** 1.6
    if kind.stems == 1:
        stem = _stem(rng, height_m, max(kind.stem, kind.clear), step, np.array([lean, 0.0]))
        return colonise(rng, room, stem, step, 9 * spacing, 1.1 * spacing, kind.lift)
    # Several stems from one stool: each colonises the room on its side.
    stems = []
    for k in range(kind.stems):
        a = 2 * np.pi * (k + rng.uniform(0.2, 0.8)) / kind.stems
        lean_out = rng.uniform(0.25, 0.6) * np.array([np.cos(a), np.sin(a)])
        stems.append(_stem(rng, height_m, kind.stem + 0.12, step, lean_out)[1:] + [*(0.02 * height_m * lean_out), 0])
    points, parent = [np.zeros(3)], [-1]
    for s in stems:
        parent += [0, *range(len(points), len(points) + len(s) - 1)]
        points += list(s)
    grown = colonise(rng, room, np.array(points), step, 9 * spacing, 1.1 * spacing, kind.lift)
    fixed = grown.parent.copy()
    fixed[: len(parent)] = parent
    return Skeleton(grown.points, fixed)


@dataclass(frozen=True)
class _Detail:
    """Of a level: sides of stem, branches and twigs, thinnest wood in m, leaves at most and how much larger they stand for several."""

    sides: tuple[int, int, int]
    thinnest_m: float
    most_leaves: int
    twigs: int


_DETAILS = (
    _Detail((12, 6, 3), 0.0, 30_000, 3500),
    _Detail((7, 4, 3), 0.008, 6500, 0),
    _Detail((5, 3, 3), 0.03, 800, 0),
)


def grow(key: str, height_m: float, seed: int = 1, level: int = NEAR, leafy: bool = True, lean: float = 0.0) -> Tree:
    """A tree of a kind, so high, at a level of detail; without leaves where it is bare. The same numbers give the same tree, and its
    levels are of one tree: the coarser ones leave out what is thin, and stand for several leaves by one."""
    kind = KINDS[key]
    if key in ("spruce", "larch", "juniper"):
        made = conifers.grow(key, height_m, seed, level, kind.trunk, kind.clear, kind.wide)
        return Tree(made[0], made[1] if leafy else _empty())
    frame, detail = skeleton(key, height_m, seed, lean), _DETAILS[level]
    base = kind.trunk * height_m
    radius = thickness(frame, base, base * float(frame.tips()[0]) ** (-1 / PIPES))
    rng = np.random.default_rng([seed, 7])
    children = frame.children()
    thin = np.flatnonzero((radius[1:] < 3.2 * radius.min()) & (frame.points[1:, 2] > 0.5 * kind.clear * height_m)) + 1
    start, end = frame.points[frame.parent[thin]], frame.points[thin].copy()
    tips = children[thin] == 0
    end[tips] += 0.6 * (end[tips] - start[tips])
    wood = bark(frame, radius, detail.sides, detail.thinnest_m * min(1.0, height_m / 8))
    if detail.twigs:
        wood = _with_twigs(rng, wood, start, end, detail.twigs, min(1.0, height_m / 6))
    if not leafy:
        return Tree(wood, _empty())
    if key == "pine":
        return Tree(wood, _pine_shoots(rng, start, end, level, height_m))
    leaf = LEAVES["box" if key == "box" else kind.leaf]
    length = float(np.linalg.norm(end - start, axis=1).sum())
    wanted = length * kind.leaves
    # Fewer leaves are larger, so that they shade as much.
    if level != NEAR and len(leaf.kites) > 1:
        leaf = replace(leaf, kites=((0.0, 0.0, 0.0, 1.0, 0.36),))
    most = max(detail.most_leaves // len(leaf.kites), 1)
    size = 1.4 * float(np.sqrt(max(wanted / most, 1.0)))
    return Tree(wood, along_twigs(rng, start, end, leaf, kind.leaves, size, most))


def _empty() -> Shape:
    return Shape(np.zeros((0, 3)), np.zeros((0, 3)), np.zeros((0, 2)), np.zeros((0, 3), int))


def _with_twigs(rng: np.random.Generator, wood: Shape, start: Array, end: Array, count: int, size: float) -> Shape:
    """Wood with the finest twigs set along the thin branches, as blades a few millimetres wide."""
    k = rng.integers(0, len(start), count)
    way = end[k] - start[k]
    length = np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)
    rib = way / length + rng.normal(0, 0.55, (count, 3)) + [0, 0, 0.15]
    rib /= np.linalg.norm(rib, axis=1, keepdims=True)
    root = start[k] + rng.random((count, 1)) * way
    twigs = kites(
        rng, root, rib, rng.normal(size=(count, 3)), _TWIG, size * rng.uniform(0.4, 1.2, count) * _TWIG.length_m
    )
    return Shape(
        np.concatenate([wood.points, twigs.points]), np.concatenate([wood.normals, twigs.normals]), np.concatenate([wood.uv, twigs.uv]),
        np.concatenate([wood.triangles, twigs.triangles + len(wood.points)]),
    )  # fmt: skip


def _pine_shoots(rng: np.random.Generator, start: Array, end: Array, level: int, height: float) -> Shape:
    """Tufts of long needles at the ends of a pine's shoots."""
    each = (24, 3, 1)[level]
    root = np.repeat(end, each, 0)
    way = np.repeat(end - start, each, 0)
    way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)
    rib = 0.6 * way + rng.normal(0, 0.6, way.shape) + [0, 0, 0.25]
    rib /= np.linalg.norm(rib, axis=1, keepdims=True)
    long = 0.03 * height * rng.uniform(0.7, 1.2, (len(root), 1)) * (1.0, 1.5, 2.2)[level]
    return needled(root - 0.2 * long * rib, root + long * rib, long[:, 0] * (0.12, 0.5, 0.9)[level], level != NEAR)
