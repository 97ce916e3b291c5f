"""Stone walls laid stone by stone: where each stone lies, and its shape with a broken face, chipped edges and a joint set back.

Layouts are rubble brought to courses: beds of uneven height, in which stones are one or two high, joints do not meet over each other,
and a through-stone lies here and there (common practice of masons).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.making.shapes import Shape
from valleylight.core.making.textures import noise

Array = NDArray[np.float64]
#: Points along the face of a stone, in both directions.
FACE = 6


@dataclass(frozen=True)
class Laying:
    """How stones are laid: height of a bed and length of a stone (m; least, most), width of a joint, how far it is set back, how far the
    middle of a face stands out, and how uneven it is."""

    bed_m: tuple[float, float] = (0.20, 0.36)
    length_m: tuple[float, float] = (0.18, 0.52)
    joint_m: float = 0.016
    recess_m: float = 0.022
    bulge_m: float = 0.022
    rough_m: float = 0.010
    through: float = 0.06


RUBBLE = Laying()


def stones(rng: np.random.Generator, wide_m: float, high_m: float, laying: Laying = RUBBLE) -> Array:
    """Rectangles of stones (N, 4): left, low, right, top, that fill a wall so wide and high without overlap."""
    if not (0.05 < wide_m < 400 and 0.05 < high_m < 200):
        raise InputError(
            f"a wall of {wide_m:g} x {high_m:g} m", "wide_m", "Choose 0.1 to 400 m, and at most 200 m of height"
        )
    found: list[tuple[float, float, float, float]] = []
    z, joints = 0.0, np.array([-1.0])
    while z < high_m - 1e-6:
        h = min(float(rng.uniform(*laying.bed_m)), high_m - z)
        if high_m - z - h < 0.5 * laying.bed_m[0]:
            h = high_m - z
        x, mine = 0.0, []
        while x < wide_m - 1e-6:
            w = float(rng.uniform(*laying.length_m)) * (1.5 if rng.random() < laying.through else 1.0)
            end = x + w
            # A joint is not laid over a joint.
            if np.abs(joints - end).min() < 0.07:
                end += 0.09
            if wide_m - end < 0.6 * laying.length_m[0]:
                end = wide_m
            if end - x > 0.3 * h and rng.random() < 0.42 and h > 0.22:  # two flat ones in the place of a high one
                cut = z + h * rng.uniform(0.35, 0.65)
                found.append((x, z, end, cut))
                if end - x > 0.42 and rng.random() < 0.6:
                    middle = x + (end - x) * rng.uniform(0.38, 0.62)
                    found += [(x, cut, middle, z + h), (middle, cut, end, z + h)]
                else:
                    found.append((x, cut, end, z + h))
            else:
                found.append((x, z, end, z + h))
            mine.append(end)
            x = end
        joints, z = np.array(mine), z + h
    return np.array(found)


def around(cells: Array, holes: list[tuple[float, float, float, float]], least_m: float = 0.06) -> Array:
    """Rectangles cut by holes (left, low, right, top): what is left of each, without slivers below `least_m`."""
    for left, low, right, top in holes:
        kept = []
        for a, b, c, d in cells:
            if c <= left or a >= right or d <= low or b >= top:
                kept.append((a, b, c, d))
                continue
            kept += [
                (a, b, left, d),
                (right, b, c, d),
                (max(a, left), b, min(c, right), low),
                (max(a, left), top, min(c, right), d),
            ]
        cells = np.array([r for r in kept if r[2] - r[0] > least_m and r[3] - r[1] > least_m]).reshape(-1, 4)
    return cells


def laid(rng: np.random.Generator, cells: Array, laying: Laying = RUBBLE, face: int = FACE) -> list[Shape]:
    """Stones over rectangles (N, 4) of a wall in the plane y = 0 that looks to -Y, x to the right, z up. Returned as three shapes, by which
    their tones differ; uv in metres, each stone with its own piece of the picture."""
    n = len(cells)
    if not n:
        return []
    table = noise((256, 256), (16, 16), int(rng.integers(1 << 30)), 5, 0.55)
    s = np.linspace(-1, 1, face)
    u, v = np.meshgrid(s, s)
    half = 0.5 * (cells[:, 2:] - cells[:, :2]) - 0.5 * laying.joint_m
    middle = 0.5 * (cells[:, 2:] + cells[:, :2])
    # Corners stray: no stone is a rectangle.
    stray = rng.normal(0, 0.05, (n, 2, 4)) * half.min(1)[:, None, None]
    stray = np.clip(stray, -0.4 * laying.joint_m - 0.006, None)
    blend = np.stack([(1 - u) * (1 - v), (1 + u) * (1 - v), (1 + u) * (1 + v), (1 - u) * (1 + v)]) / 4
    sign = np.array([[1, -1, -1, 1], [1, 1, -1, -1]])  # inwards
    inward = np.einsum("nck,kij->ncij", np.abs(stray) * sign * 0.8, blend)
    # Edges are chipped: the outline of a face bends in between its corners.
    edge = np.maximum(np.abs(u), np.abs(v))
    place = (rng.random((n, 2)) * 256)[:, :, None, None]
    du, dv = u * half[:, 0, None, None], v * half[:, 1, None, None]
    i, j = np.floor(place[:, 0] + dv * 90).astype(int) % 256, np.floor(place[:, 1] + du * 90).astype(int) % 256
    rough = table[i, j]
    chip = 0.5 * laying.joint_m * rough * (edge > 0.99)
    x = middle[:, 0, None, None] + du + inward[:, 0] - np.sign(u) * np.abs(chip) * (np.abs(u) > 0.99)
    z = middle[:, 1, None, None] + dv + inward[:, 1] - np.sign(v) * np.abs(chip) * (np.abs(v) > 0.99)
    # A face stands out most near its middle, leans a little, and falls off to the joint in a worn round.
    round_off = np.clip((1 - edge) / 0.34, 0, 1) ** 0.6
    lean = rng.normal(0, 0.35, (n, 2, 1, 1))
    out = laying.bulge_m * rng.uniform(0.4, 1.3, (n, 1, 1)) * (1 - 0.35 * (u**2 + v**2)) + laying.bulge_m * 0.35 * (
        lean[:, 0] * u + lean[:, 1] * v
    )
    out = (out + laying.rough_m * rough + 0.006) * round_off - laying.recess_m * (1 - round_off) * 0.55
    sunk = edge > 0.99
    out = np.where(sunk, -laying.recess_m, out)
    points = np.stack([x, -out, z], -1)
    a, b = np.gradient(points, axis=2), np.gradient(points, axis=1)
    normal = np.cross(a, b)
    normal /= np.maximum(np.linalg.norm(normal, axis=-1, keepdims=True), 1e-12)
    shift = rng.uniform(0, 3, (n, 2))[:, None, None]
    turned = rng.random(n)[:, None, None] < 0.5  # so that beds of the stone lie as they come
    uv = np.stack([np.where(turned, du, dv), np.where(turned, -dv, du)], -1) + shift
    k = (np.arange(face - 1)[:, None] * face + np.arange(face - 1)).ravel()
    one = np.concatenate([np.stack([k, k + 1, k + face + 1], 1), np.stack([k, k + face + 1, k + face], 1)])
    size = face * face
    kind = rng.choice(3, n, p=[0.52, 0.3, 0.18])
    made = []
    for tone in range(3):
        which = np.flatnonzero(kind == tone)
        triangles = (one[None] + size * np.arange(len(which))[:, None, None]).reshape(-1, 3)
        made.append(
            Shape(points[which].reshape(-1, 3), normal[which].reshape(-1, 3), uv[which].reshape(-1, 2), triangles)
        )
    return made


def turned_to(shape: Shape, origin: tuple[float, float, float], facing: str) -> Shape:
    """A wall made about zero, set up at `origin` (its lower left corner as it is seen) facing "-y", "+y", "-x" or "+x"."""
    degrees = {"-y": 0.0, "+x": 90.0, "+y": 180.0, "-x": -90.0}[facing]
    return shape.turned(degrees).moved(origin)
