"""Plain bodies of luminaires, so that a fixture is seen where it is placed.

Bodies are seen and cast the shadow of daylight, but not that of fixtures: a measured profile already holds what the
body does to its light. Every triangle knows its fixture; those of luminous faces by a positive number.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from valleylight.core.lamps.compile import SIDES, Lamps
from valleylight.core.stage.model import Material

_METAL, _WHITE, _BRASS, _FACE = range(4)
MATERIALS = (
    Material(name="fixture, dark", base=(0.03, 0.03, 0.032), roughness=0.45),
    Material(name="fixture, white", base=(0.75, 0.75, 0.73), roughness=0.5),
    Material(name="fixture, brass", conductor="brass", roughness=0.28, metal=1.0),
    # Opal glass with a glaze over it.
    Material(
        name="fixture, face",
        base=(0.6, 0.6, 0.58),
        roughness=0.6,
        coat=1.0,
        coat_roughness=0.08,
        emission=(1.0, 1.0, 1.0),
    ),
)


class _Builder:
    """Collects lathed and boxed parts in the fixture's frame: Z up, luminous point at the origin."""

    def __init__(self) -> None:
        self.points: list[NDArray[np.float64]] = []
        self.normals: list[NDArray[np.float64]] = []
        self.triangles: list[NDArray[np.int64]] = []
        self.material: list[NDArray[np.int32]] = []
        self.count = 0

    def _add(self, p: NDArray[np.float64], n: NDArray[np.float64], t: NDArray[np.int64], material: int) -> None:
        self.points.append(p)
        self.normals.append(n)
        self.triangles.append(t + self.count)
        self.material.append(np.full(len(t), material, np.int32))
        self.count += len(p)

    def lathe(self, profile: list[tuple[float, float]], material: int) -> None:
        """Turn a polyline of (radius, height) about Z; each segment has its own flat-across normals."""
        angle = np.linspace(0, 2 * np.pi, SIDES + 1)
        for (r0, z0), (r1, z1) in zip(profile, profile[1:], strict=False):
            slope = np.array([z1 - z0, r0 - r1])
            slope = slope / (np.linalg.norm(slope) or 1.0)
            ring = np.stack([np.cos(angle), np.sin(angle)], 1)
            p = np.concatenate([
                np.column_stack([ring * r0, np.full(SIDES + 1, z0)]),
                np.column_stack([ring * r1, np.full(SIDES + 1, z1)]),
            ])  # fmt: skip
            n = np.column_stack([ring * slope[0], np.full(SIDES + 1, slope[1])])
            k = np.arange(SIDES)
            t = np.concatenate([
                np.column_stack([k, k + 1, k + SIDES + 2]), np.column_stack([k, k + SIDES + 2, k + SIDES + 1])
            ])  # fmt: skip
            self._add(p, np.concatenate([n, n]), t, material)

    def box(self, low: tuple[float, float, float], high: tuple[float, float, float], material: int) -> None:
        a, b = np.array(low), np.array(high)
        for axis in range(3):
            for side, sign in ((a, -1.0), (b, 1.0)):
                u, v = (axis + 1) % 3, (axis + 2) % 3
                p = np.tile(side, (4, 1))
                p[:, u] = [a[u], b[u], b[u], a[u]]
                p[:, v] = [a[v], a[v], b[v], b[v]]
                n = np.zeros((4, 3))
                n[:, axis] = sign
                order = [[0, 1, 2], [0, 2, 3]] if sign > 0 else [[0, 2, 1], [0, 3, 2]]
                self._add(p, n, np.array(order), material)


def _sphere(radius: float) -> list[tuple[float, float]]:
    return [(radius * np.cos(a), radius * np.sin(a)) for a in np.linspace(-np.pi / 2, np.pi / 2, 13)]


@lru_cache(maxsize=128)
def _build(body: str, half_u: float, half_v: float, above_m: float) -> _Builder:
    """The body's parts around a luminous opening of the given half sizes; `above_m` is the length of a cord."""
    made = _Builder()
    r = half_u
    if body in ("downlight", "washer"):
        made.lathe([(0, 0.012), (r, 0.012)], _FACE)
        made.lathe([(r, 0.014), (r + 0.006, 0.0), (r + 0.014, -0.003), (r + 0.018, 0.012)], _WHITE)
    elif body == "pendant":
        made.lathe(_sphere(max(r, 0.05)), _FACE)
        made.lathe([(0.03, r + 0.05), (0.03, r - 0.01)], _BRASS)
        made.lathe([(0.003, r + above_m), (0.003, r + 0.05)], _METAL)
    elif body == "bulb":
        made.lathe(_sphere(max(r, 0.015)), _FACE)
    elif body == "line":
        made.box((-half_u, -half_v, 0.001), (half_u, half_v, 0.003), _FACE)
        made.box((-half_u - 0.003, -half_v, 0.003), (half_u + 0.003, half_v, 0.02), _METAL)
    elif body == "table":
        made.lathe([(0.09, -0.40), (0.085, -0.38), (0.012, -0.37), (0.009, -0.10)], _BRASS)
        made.lathe([(0.15, -0.09), (0.10, 0.11)], _FACE)
        made.lathe([(0.148, -0.09), (0.098, 0.11)], _WHITE)
    elif body == "lantern":
        made.lathe([(0.10, -0.16), (0.13, 0.10)], _FACE)
        made.lathe([(0.16, 0.10), (0.02, 0.22), (0.0, 0.24)], _METAL)
        made.lathe([(0.0, -0.20), (0.06, -0.19), (0.10, -0.16)], _METAL)
        made.lathe([(0.035, -above_m), (0.028, -0.20)], _METAL)
    return made


@dataclass(frozen=True)
class BodyMesh:
    """The visible body of fixtures, already in the world: points, normals, triangles, material index within
    `materials`, and for each triangle the number of its fixture plus 1 where it is a luminous face, else the negative of
    that."""

    points: NDArray[np.float32]
    normals: NDArray[np.float32]
    triangles: NDArray[np.uint32]
    material: NDArray[np.int32]
    fixture: NDArray[np.int32]
    materials: tuple[Material, ...]


def build_bodies(lamps: Lamps, cord_m: float = 0.9) -> BodyMesh | None:
    """Bodies of all fixtures that have one, in the world; None where there is none."""
    points, normals, triangles, material, fixture = [], [], [], [], []
    count = 0
    for number, (body, half_u, half_v) in enumerate(lamps.openings):
        if body == "none":
            continue
        record = lamps.records[number].astype(float)
        height = round(float(record[2]), 3) if body == "lantern" else cord_m
        made = _build(body, half_u, half_v, height)
        axes = record[3:12].reshape(3, 3) if body not in ("pendant", "table", "lantern", "bulb") else np.eye(3)
        p = np.concatenate(made.points) @ axes + record[0:3]
        faces = np.concatenate(made.material)
        points.append(p)
        normals.append(np.concatenate(made.normals) @ axes)
        triangles.append(np.concatenate(made.triangles) + count)
        material.append(faces)
        fixture.append(np.where(faces == _FACE, number + 1, -number - 1).astype(np.int32))
        count += len(p)
    if not points:
        return None
    return BodyMesh(
        np.concatenate(points).astype(np.float32), np.concatenate(normals).astype(np.float32),
        np.concatenate(triangles).astype(np.uint32), np.concatenate(material), np.concatenate(fixture), MATERIALS,
    )  # fmt: skip
