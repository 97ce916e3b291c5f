"""Branches that grow towards light and room: space colonisation (A. Runions, B. Lane, P. Prusinkiewicz, Modeling Trees with a Space
Colonization Algorithm, Eurographics Workshop on Natural Phenomena 2007).

Points of free room fill the crown that a kind of tree makes. Each draws the nearest node of the tree within its reach; a node that
is drawn grows a step towards the mean of those directions; a point that a node has come near is used up.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

Array = NDArray[np.float64]
#: More steps than any crown takes.
MOST_STEPS = 400
#: Shoots that leave one node at most.
MOST_SHOOTS = 4


@dataclass(frozen=True)
class Skeleton:
    """Nodes of a tree: places (N, 3) in m, and the node each grew from (N,), -1 for the root. A node comes after its parent."""

    points: Array
    parent: NDArray[np.int64]

    def children(self) -> NDArray[np.int64]:
        """How many shoots leave each node (N,)."""
        return np.bincount(self.parent[self.parent >= 0], minlength=len(self.points))

    def orders(self) -> NDArray[np.int64]:
        """Order of branching of each node (N,): 0 along the stem, one more wherever a shoot is not its parent's strongest."""
        strength = self.tips()
        order = np.zeros(len(self.points), int)
        heir = self.heirs(strength)
        for k in range(1, len(self.points)):
            p = self.parent[k]
            order[k] = order[p] + (heir[p] != k)
        return order

    def tips(self) -> Array:
        """How many tips each node carries (N,)."""
        count = np.where(self.children() == 0, 1.0, 0.0)
        for k in range(len(self.points) - 1, 0, -1):
            count[self.parent[k]] += count[k]
        return count

    def heirs(self, strength: Array) -> NDArray[np.int64]:
        """The shoot that goes on from each node (N,), the strongest of them; -1 at a tip."""
        heir = np.full(len(self.points), -1)
        for k in range(1, len(self.points)):
            p = self.parent[k]
            if heir[p] < 0 or strength[k] > strength[heir[p]]:
                heir[p] = k
        return heir


def colonise(
    rng: np.random.Generator, room: Array, stem: Array, step: float, reach: float, used_up: float, lift: float = 0.0
) -> Skeleton:
    """The skeleton that grows from a stem (S, 3) into points of room (P, 3). Steps, reach and the distance at which a point is used up
    are in m; `lift` bends each step upwards (below 0: downwards)."""
    points = [np.asarray(p, float) for p in stem]
    parent = list(range(-1, len(stem) - 1))
    shoots = np.zeros(len(points), int)
    shoots[:-1] = 1
    room = np.asarray(room, float)
    nearest, at = cKDTree(np.array(points)).query(room)
    for _ in range(MOST_STEPS):
        alive = nearest > used_up
        room, nearest, at = room[alive], nearest[alive], at[alive]
        drawn = nearest < reach
        if not len(room):
            break
        if not drawn.any():  # the crown lies beyond its reach: its nearest point leads the way
            drawn = nearest == nearest.min()
        place = np.array(points)
        towards = (room[drawn] - place[at[drawn]]) / nearest[drawn, None]
        total = np.zeros((len(points), 3))
        np.add.at(total, at[drawn], towards)
        growing = np.unique(at[drawn])
        growing = growing[shoots[growing] < MOST_SHOOTS]
        if not len(growing):
            break
        way = total[growing]
        way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)
        way += [0, 0, lift] + rng.normal(0, 0.12, way.shape)
        way /= np.linalg.norm(way, axis=1, keepdims=True)
        new = place[growing] + step * way
        shoots[growing] += 1
        first = len(points)
        points.extend(new)
        parent.extend(growing.tolist())
        shoots = np.concatenate([shoots, np.zeros(len(new), int)])
        near, k = cKDTree(new).query(room)
        closer = near < nearest
        nearest, at = np.where(closer, near, nearest), np.where(closer, first + k, at)
        # A node that is drawn both ways does not get on: its points are given up.
        stuck = shoots[at] >= MOST_SHOOTS
        nearest = np.where(stuck, 0.0, nearest)
    return Skeleton(np.array(points), np.array(parent))


def thickness(skeleton: Skeleton, base: float, tip: float) -> Array:
    """Radius of each node (N,) in m by the pipe model: r^e of a branch is the sum of r^e of its shoots (C. Murray, J. Gen. Physiol. 10,
    1927; Leonardo's rule has e = 2). The exponent is the one that brings `tip` to `base` over all tips."""
    tips = skeleton.tips()
    exponent = float(np.clip(np.log(max(tips[0], 2.0)) / np.log(base / tip), 1.2, 3.2))
    radius = tip * tips ** (1 / exponent)
    return radius * min(base / radius[0], 1.0) if radius[0] > base else radius
