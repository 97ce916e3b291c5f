"""The ground: meadow, pond, lane and the slopes of the valley, green and withered."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from valleylight.core.making.glb import Model, Thing
from valleylight.core.making.shapes import heightfield, polygon
from valleylight.core.making.textures import noise
from valleylight.demo.building import LENGTH, WALL, WIDTH

POND = (8.5, -12.6, 14.5, 7.2)  # centre x, y and half axes
WATER = -0.55
_ROUGH = noise((512, 512), (6, 6), 5, 6, 0.5)
_RIDGES = 1 - np.abs(noise((512, 512), (5, 5), 9, 6, 0.5))


def _sample(table, x, y, size):  # type: ignore[no-untyped-def]
    i = np.mod(np.asarray(x) / size * 512, 512)
    j = np.mod(np.asarray(y) / size * 512, 512)
    i0, j0 = np.floor(i).astype(int), np.floor(j).astype(int)
    s, t = i - i0, j - j0
    a, b = table[j0 % 512, i0 % 512], table[j0 % 512, (i0 + 1) % 512]
    c, d = table[(j0 + 1) % 512, i0 % 512], table[(j0 + 1) % 512, (i0 + 1) % 512]
    return (1 - t) * ((1 - s) * a + s * b) + t * ((1 - s) * c + s * d)


def _smooth(t):  # type: ignore[no-untyped-def]
    t = np.clip(t, 0, 1)
    return t * t * (3 - 2 * t)


def _pond_reach(x, y):  # type: ignore[no-untyped-def]
    cx, cy, a, b = POND
    angle = np.arctan2((np.asarray(y) - cy) / b, (np.asarray(x) - cx) / a)
    wobble = 1 + 0.05 * np.sin(3 * angle + 1) + 0.035 * np.sin(5 * angle)
    return np.hypot((np.asarray(x) - cx) / a, (np.asarray(y) - cy) / b) / wobble


def in_pond(x: float, y: float, reach: float = 1.0) -> bool:
    return bool(_pond_reach(x, y) < reach)


def near_building(x: float, y: float, margin: float) -> bool:
    """Within the building, its terrace, the lane or the mill race, widened by a margin."""
    return bool(
        (-3.2 - margin < x < LENGTH + 2.6 + margin and -6.0 - margin < y < WIDTH + WALL + margin)
        or (-9.2 - margin < x < -5.8 + margin)
    )


def ground_height(x, y):  # type: ignore[no-untyped-def]
    """Height of the ground; arrays or numbers."""
    x, y = np.asarray(x, float), np.asarray(y, float)
    d = np.hypot(x - 8, y)
    near = -0.16 + 0.5 * _sample(_ROUGH, x, y, 60.0) * _smooth((d - 14) / 25)
    lane = _smooth(1 - (np.abs(x + 7.5) - 1.9) / 1.5)
    near = near * (1 - lane) - 0.14 * lane
    across = np.abs(y + 0.1 * x)
    slopes = 230 * _smooth((across - 45) / 620) * (0.55 + 0.6 * _sample(_RIDGES, x, y, 1300.0))
    ends = 240 * _smooth((np.abs(x) - 500) / 1300) * (0.4 + 0.8 * _sample(_RIDGES, x + 300, y, 2100.0))
    far = slopes + ends + 9 * _sample(_ROUGH, x, y, 240.0) * _smooth((d - 60) / 200)
    z = near + far
    e = _pond_reach(x, y)
    basin = WATER - 1.0 * _smooth((1.06 - e) / 0.5) - 0.02
    bank = _smooth((e - 1.0) / 0.28)
    z = np.where(e < 1.28, basin * (1 - bank) + z * bank, z)
    race = (np.abs(x + 1.75) < 0.9) & (y > -9) & (y < 6.2)
    z = np.where(race, np.minimum(z, -0.95), z)
    house = (x > -0.7) & (x < LENGTH + 1.2) & (y > -5.6) & (y < WIDTH + 0.6)
    return np.where(house, np.minimum(z, -0.3), z)


def _split(shape, within):  # type: ignore[no-untyped-def]
    """A shape in two, by the middles of its triangles: what lies without, and what lies within."""
    middle = shape.points[shape.triangles].mean(1)
    inside = within(middle[:, 0], middle[:, 1])
    return replace(shape, triangles=shape.triangles[~inside]), replace(shape, triangles=shape.triangles[inside])


def build(model: Model) -> None:
    fine = np.concatenate([np.arange(-36, 46.01, 0.55)])
    near = heightfield(
        fine, np.arange(-42, 42.01, 0.55), ground_height(*np.meshgrid(fine, np.arange(-42, 42.01, 0.55)))
    )
    u = np.linspace(-1, 1, 181)
    wide = np.sign(u) * (np.abs(u) * 55 + np.abs(u) ** 4 * 2400)
    far_x, far_y = wide + 8, wide
    z = ground_height(*np.meshgrid(far_x, far_y))
    hidden = (np.abs(far_x - 5)[None, :] < 39) & (np.abs(far_y)[:, None] < 40)
    far = heightfield(far_x, far_y, np.where(hidden, -4.0, z - 0.02))
    for layer, meadow, hill in (
        ("summer ground", "meadow", "hillside"), ("autumn ground", "meadow, autumn", "hillside, autumn"),
    ):  # fmt: skip
        land, bed = _split(near, lambda x, y: _pond_reach(x, y) < 1.14)
        model.put(Thing(f"{layer}, near").add(meadow, land), layer)
        if layer == "summer ground":  # the bed is the same in every season
            model.put(Thing("pond bed").add("pond gravel", bed))
        model.put(Thing(f"{layer}, far").add(hill, far), layer)
    y = np.arange(-45, 60.01, 0.8)
    x = np.linspace(-9.3, -5.7, 9)
    z = ground_height(*np.meshgrid(x, y)) + 0.03 - 0.02 * np.cos((x[None, :] + 7.5) / 1.8 * np.pi)
    model.put(Thing("lane").add("gravel", heightfield(x, y, z)), "summer ground")
    model.put(Thing("lane, autumn").add("gravel", heightfield(x, y, z)), "autumn ground")
    cx, cy, a, b = POND
    water = Thing("pond").add("pond water", polygon([(cx - a * 1.2, cy - b * 1.25, WATER), (cx + a * 1.2, cy - b * 1.25, WATER),
                                                     (cx + a * 1.2, cy + b * 1.0, WATER), (cx - a * 1.2, cy + b * 1.0, WATER)]))  # fmt: skip
    water.add(
        "pond water", polygon([(-2.6, -6.2, WATER), (-0.95, -6.2, WATER), (-0.95, 6.2, WATER), (-2.6, 6.2, WATER)])
    )
    model.put(water)
