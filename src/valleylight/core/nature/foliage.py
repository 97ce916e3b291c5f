"""Leaves and needles as small folded shapes that light passes through, set along the twigs they grow on."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.making.shapes import Shape

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Leaf:
    """The outline of a leaf as kites: for each its foot along and across the leaf, its direction in degrees from the rib, its length
    and half width, all over the leaf's length. `widest` is where along a kite it is widest; `hangs` how far it points downwards."""

    length_m: float
    kites: tuple[tuple[float, float, float, float, float], ...] = ((0.0, 0.0, 0.0, 1.0, 0.32),)
    widest: float = 0.42
    fold: float = 0.22
    hangs: float = 0.25


OVAL = ((0.0, 0.0, 0.0, 1.0, 0.30),)
ROUND = ((0.0, 0.0, 0.0, 1.0, 0.44),)
HEART = ((0.06, 0.0, 0.0, 0.94, 0.34), (0.0, 0.0, 24.0, 0.62, 0.24), (0.0, 0.0, -24.0, 0.62, 0.24))
LANCE = ((0.0, 0.0, 0.0, 1.0, 0.15),)
LOBED = ((0.0, 0.0, 0.0, 1.0, 0.24), (0.05, 0.0, 52.0, 0.8, 0.2), (0.05, 0.0, -52.0, 0.8, 0.2))
TRIANGLE = ((0.0, 0.0, 0.0, 1.0, 0.42),)
FEATHERED = tuple(
    [(0.18 + 0.2 * k, 0.0, side * 62.0, 0.34, 0.075) for k in range(4) for side in (-1, 1)]
    + [(0.8, 0.0, 0.0, 0.32, 0.075)]
)

#: Leaves of the kinds, with their usual lengths (common practice).
LEAVES: dict[str, Leaf] = {
    "lime": Leaf(0.085, HEART), "maple": Leaf(0.12, LOBED), "birch": Leaf(0.055, TRIANGLE, widest=0.36), "beech": Leaf(0.075, OVAL),
    "alder": Leaf(0.08, ROUND, widest=0.55), "willow": Leaf(0.1, LANCE, hangs=0.6), "apple": Leaf(0.075, OVAL),
    "pear": Leaf(0.065, OVAL), "poplar": Leaf(0.07, TRIANGLE, widest=0.34), "hazel": Leaf(0.09, ROUND), "rowan": Leaf(0.17, FEATHERED),
    "box": Leaf(0.022, OVAL, hangs=0.0),
}  # fmt: skip


def along_twigs(
    rng: np.random.Generator, start: Array, end: Array, leaf: Leaf, per_m: float, size: float = 1.0, most: int = 60_000
) -> Shape:
    """Leaves set by turns on both sides of twigs from `start` to `end` (T, 3), so many to the metre, `size` times as large as the kind's
    own. They spread sideways and look up to the sky as leaves do."""
    way = end - start
    length = np.linalg.norm(way, axis=1)
    expected = length * per_m
    if expected.sum() > most:
        expected *= most / expected.sum()
    count = np.floor(expected + rng.random(len(expected))).astype(int)
    twig = np.repeat(np.arange(len(start)), count)
    n = len(twig)
    if not n:
        return Shape(np.zeros((0, 3)), np.zeros((0, 3)), np.zeros((0, 2)), np.zeros((0, 3), int))
    t = rng.random(n)
    # Side shoots that are not drawn carry them a little off the twig.
    root = start[twig] + t[:, None] * way[twig] + rng.normal(0, 0.5 * float(np.median(length)), (n, 3)) * [1, 1, 0.7]
    d = way[twig] / np.maximum(length[twig, None], 1e-9)
    turn = np.where(rng.random(n) < 0.5, 1.0, -1.0)
    flat = np.cross(d, [0.0, 0.0, 1.0])
    flat /= np.maximum(np.linalg.norm(flat, axis=1, keepdims=True), 1e-6)
    rib = (
        0.55 * d
        + turn[:, None] * flat * rng.uniform(0.5, 1.1, (n, 1))
        + rng.normal(0, 0.28, (n, 3))
        - [0, 0, leaf.hangs]
    )
    rib /= np.linalg.norm(rib, axis=1, keepdims=True)
    up = np.array([0, 0, 1.0]) + rng.normal(0, 0.42, (n, 3))
    return kites(rng, root + 0.012 * rib, rib, up, leaf, size * rng.uniform(0.7, 1.25, n) * leaf.length_m)


def kites(rng: np.random.Generator, root: Array, rib: Array, up: Array, leaf: Leaf, length: Array) -> Shape:
    """Leaves at `root` along `rib`, looking `up` (N, 3), so long (N,). Each kite is folded along its middle; both halves share that edge
    as their longest, by which leaves are told apart as they fall. u is the leaf's tone."""
    across = np.cross(up, rib)
    across /= np.maximum(np.linalg.norm(across, axis=1, keepdims=True), 1e-9)
    normal = np.cross(rib, across)
    tone = rng.random(len(root))
    points, normals, uv = [], [], []
    for along, aside, degrees, long, wide in leaf.kites:
        a = np.radians(degrees)
        x = np.cos(a) * rib + np.sin(a) * across
        y = np.cos(a) * across - np.sin(a) * rib
        s = length[:, None]
        foot = root + s * (along * rib + aside * across)
        curl = -0.10 * s * long * normal
        tip = foot + s * long * x + curl
        side, lift = s * wide * y, s * wide * leaf.fold * normal
        middle = foot + s * long * leaf.widest * x
        points.append(np.stack([foot, middle + side + lift, tip, middle - side + lift], 1))
        lean = leaf.fold * y
        n = np.stack([normal, normal - lean, normal, normal + lean], 1)
        normals.append(n / np.linalg.norm(n, axis=2, keepdims=True))
        uv.append(np.broadcast_to(np.stack([tone, 0 * tone], 1)[:, None], (len(tone), 4, 2)))
    p, n, w = (np.concatenate(v).reshape(-1, v[0].shape[-1]) for v in (points, normals, uv))
    k = np.arange(len(p) // 4)[:, None] * 4
    return Shape(p, n, np.array(w), np.concatenate([k + [0, 1, 2], k + [0, 2, 3]]))


def needled(start: Array, end: Array, wide: Array, crossed: bool = True) -> Shape:
    """Shoots with their needles as blades from `start` to `end` (N, 3) that narrow to the tip, so wide (N,) at most; `crossed` by a second,
    upright one, so that they are seen from every side."""
    way = end - start
    flat = np.cross(way, [0.0, 0.0, 1.0])
    aside = np.linalg.norm(flat, axis=1, keepdims=True)
    flat = np.where(aside > 1e-9, flat / np.maximum(aside, 1e-9), [1.0, 0.0, 0.0])
    up = np.cross(flat, way)
    up /= np.maximum(np.linalg.norm(up, axis=1, keepdims=True), 1e-9)
    middle = start + 0.4 * way
    points, normals = [], []
    for side, face in ((flat, up), (up, flat))[: 2 if crossed else 1]:
        half = 0.5 * wide[:, None] * side
        points.append(np.stack([start, middle + half, end, middle - half], 1))
        # Needles stand about the shoot: the blade is shaded as the round thing it stands for.
        lean = 0.8 * side
        n = np.stack([face, face + lean, face, face - lean], 1)
        normals.append(n / np.linalg.norm(n, axis=2, keepdims=True))
    p, n = np.concatenate(points).reshape(-1, 3), np.concatenate(normals).reshape(-1, 3)
    k = np.arange(len(p) // 4)[:, None] * 4
    tone = np.repeat((np.arange(len(p) // 4) * 0.618) % 1.0, 4)
    return Shape(p, n, np.stack([tone, 0 * tone], 1), np.concatenate([k + [0, 1, 2], k + [0, 2, 3]]))
