"""Spruce, larch and juniper: monopodial trees whose shoots repeat in whorls (H. Honda, Description of the form of trees by the
parameters of the tree-like body, J. Theor. Biol. 31, 1971; P. Prusinkiewicz, A. Lindenmayer, The Algorithmic Beauty of Plants, 1990,
section 2.1). Each bough leaves the stem at an angle that opens with its age, hangs by its own weight, and carries side shoots that
shorten towards its tip."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from valleylight.core.making.shapes import Shape, join, tube
from valleylight.core.nature.foliage import needled

Array = NDArray[np.float64]
#: Of a level: whorls to the metre, boughs in a whorl, side shoots of a bough, shoots of a side shoot.
_COUNTS = ((2.6, 6, 20, 2), (2.2, 6, 8, 0), (1.25, 6, 2, 0))


def grow(
    key: str, height: float, seed: int, level: int, trunk: float, clear: float, wide: float
) -> tuple[Shape, Shape]:
    """Wood and needles of a spruce, larch or juniper, so high, at a level of detail; shares as in `trees.Kind`."""
    rng = np.random.default_rng([seed, len(key)])
    a_metre, boughs, sides, small = _COUNTS[level]
    whorls = int(np.clip(height * a_metre, 7, 40))
    if key == "juniper":
        whorls = max(whorls, 12)
    k = np.repeat(np.arange(whorls), boughs)
    n = len(k)
    share = (k + rng.uniform(0.1, 0.9, n)) / whorls  # of the crown's height
    share[-1] = 0.995
    old = 1 - share
    z = height * (clear + (1 - clear) * share)
    turn = 2 * np.pi * (np.tile(np.arange(boughs), whorls) / boughs) + 2.399963 * k + rng.normal(0, 0.16, n)
    out = np.stack([np.cos(turn), np.sin(turn), np.zeros(n)], 1)
    if key == "juniper":
        reach = wide * height * np.sin(np.pi * np.clip(0.12 + 0.85 * share, 0, 1)) ** 0.7 * rng.uniform(0.7, 1.25, n)
        rise = np.full(n, 1.3)
    else:
        reach = wide * height * (old**0.78 * (1 - 0.32 * old**4)) * rng.uniform(0.72, 1.22, n) + 0.003 * height
        # Young boughs rise, old ones hang and turn up at their tips.
        rise = (0.75 - 1.35 * old) if key == "spruce" else (0.6 - 0.8 * old)
    foot = np.stack([np.zeros(n), np.zeros(n), z], 1)
    lift = np.array([0, 0, 1.0])
    middle = foot + 0.5 * reach[:, None] * out + lift * (0.5 * reach * rise)[:, None]
    tip = foot + reach[:, None] * out + lift * (reach * (0.78 * rise + (0.02 if key == "spruce" else 0.12)))[:, None]

    def at(which: NDArray[np.int64], t: Array) -> Array:
        """Places along boughs at shares t."""
        u = t[:, None]
        return np.asarray(foot[which] * (1 - u) ** 2 + 2 * middle[which] * u * (1 - u) + tip[which] * u * u)

    blades: list[tuple[Array, Array, Array]] = []
    which = np.repeat(np.arange(n), sides)
    t = np.tile(np.linspace(0.16, 0.97, sides), n) + rng.normal(0, 0.02, n * sides)
    side = np.tile(np.where(np.arange(sides) % 2 == 0, 1.0, -1.0), n)
    if level == 2:
        t = np.where(side > 0, 0.25, 0.55)
        # At a distance a bough is three blades: itself and two that spread from it.
        blades.append((foot + 0.1 * (tip - foot), at(np.arange(n), np.ones(n)), np.maximum(0.62 * reach, 0.12)))
    across = np.stack([-out[:, 1], out[:, 0], np.zeros(n)], 1)[which]
    root = at(which, np.clip(t, 0, 1))
    long = reach[which] * (0.52 - 0.42 * t) * rng.uniform(0.75, 1.2, len(t)) + 0.012 * height
    hang = -0.42 if key == "spruce" else -0.12 if key == "larch" else 0.8
    if level == 2:
        long, hang = reach[which] * 0.62, -0.5
    way = side[:, None] * across * 0.85 + out[which] * 0.62 + lift * hang * rng.uniform(0.6, 1.3, (len(t), 1))
    way /= np.linalg.norm(way, axis=1, keepdims=True)
    end = root + long[:, None] * way
    needle = (0.055 if key != "juniper" else 0.035) * (height / 14) ** 0.25
    blades.append((root, end, np.maximum(0.0 * long if level == 0 else (0.34, 0.34, 0.5)[level] * long, needle)))
    if level == 0:
        blades.append((at(np.arange(n), np.full(n, 0.1)), at(np.arange(n), np.full(n, 0.6)), np.full(n, needle)))
        blades.append((at(np.arange(n), np.full(n, 0.5)), tip + 0.05 * reach[:, None] * out, np.full(n, needle)))
        for j in range(small):  # shoots of the third order hang from the side shoots
            for s in (-1.0, 1.0):
                u = (j + 0.5 + 0.2 * s) / small
                begin = root + (u * long)[:, None] * way
                aside = np.cross(way, lift) * s
                go = 0.55 * way + aside * 0.7 + lift * (0.7 * hang)
                go /= np.linalg.norm(go, axis=1, keepdims=True)
                blades.append(
                    (begin, begin + (long * (0.55 - 0.4 * u))[:, None] * go, np.full(len(u * long), 0.9 * needle))
                )
    leader = (
        np.array([[0, 0, 0.93 * height]]),
        np.array([[0, 0, height * 1.0]]),
        np.array([max(0.008 * height, needle)]),
    )
    blades.append(leader)
    needles = [needled(a, b, w, crossed=level != 2 or key != "spruce") for a, b, w in blades]
    wood = [tube([(0, 0, -0.1), (0, 0, 0.02 * height), (0, 0, 0.3 * height), (0, 0, 0.7 * height), (0, 0, height)],
                 [1.5 * trunk * height, trunk * height, 0.75 * trunk * height, 0.34 * trunk * height, 0.004], (12, 7, 5)[level])]  # fmt: skip
    if level < 2:
        along = np.linspace(0, 1, 4 if level == 0 else 3)
        for j in range(n):
            thick = trunk * height * (0.05 + 0.16 * old[j])
            wood.append(
                tube(at(np.full(len(along), j), along), thick * (1.05 - 0.95 * along) + 0.001, 4 if level == 0 else 3)
            )
        # Dead lower boughs, bare and broken off.
        for _ in range(int(3 + 0.5 * height)):
            a, h = rng.uniform(0, 2 * np.pi), height * rng.uniform(0.03, clear + 0.06)
            r = rng.uniform(0.25, 0.7) * wide * height * 0.6
            wood.append(tube([(0, 0, h), (0.6 * r * np.cos(a), 0.6 * r * np.sin(a), h - 0.05 * r), (r * np.cos(a), r * np.sin(a), h - 0.3 * r)],
                             [0.1 * trunk * height, 0.06 * trunk * height, 0.003], 3))  # fmt: skip
    every = join(needles)
    every.points[:, 2] = np.maximum(every.points[:, 2], 0.004 * height)  # old boughs lie on the ground
    return join(wood), every
