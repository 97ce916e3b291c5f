"""The ground: meadow, pond, lane and the valley's slopes."""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

from valleylight.core.making.glb import Model, Thing
from valleylight.core.making.shapes import heightfield, polygon
from valleylight.core.making.textures import noise
from valleylight.core.nature import land
from valleylight.demo.building import LENGTH, WALL, WIDTH

POND = (8.5, -12.6, 14.5, 7.2)  # centre x, y and half axes
WATER = -0.55
_ROUGH = noise((512, 512), (6, 6), 5, 6, 0.5)


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
    # Wheels have worn two tracks, and grass between them stands a little higher.
    tracks = 0.035 * np.exp(-((np.abs(x + 7.5) - 0.75) ** 2) / 0.06)
    near = near * (1 - lane) - (0.14 + tracks) * lane
    out = _smooth((d - 45) / 60)
    swells = (2.2 * _sample(_ROUGH, x, y, 240.0) + 0.5 * _sample(_ROUGH, x, y, 47.0)) * _smooth((d - 60) / 160)
    z = near + out * (valley().at(x, y) + swells + land.roughness(valley(), x, y, ROUGH_M))
    e = _pond_reach(x, y)
    basin = WATER - 1.0 * _smooth((1.06 - e) / 0.5) - 0.02
    bank = _smooth((e - 1.0) / 0.28)
    z = np.where(e < 1.28, basin * (1 - bank) + z * bank, z)
    race = (np.abs(x + 1.75) < 0.9) & (y > -9) & (y < 6.2)
    z = np.where(race, np.minimum(z, -0.95), z)
    house = (x > -0.7) & (x < LENGTH + 1.2) & (y > -5.6) & (y < WIDTH + 0.6)
    return np.where(house, np.minimum(z, -0.3), z)


#: Height above the valley floor up to which trees grow, and of ledges on steep ground.
TREE_LINE_M, ROUGH_M = 330.0, 26.0
#: Beyond the first the ground is seen coarser; within the second its picture is the finer one.
NEAR_M, FINE_M, FAR_M = 36.0, 430.0, 4300.0
SECTORS, RINGS = 960, 230


@cache
def valley() -> land.Land:
    """The valley and its mountains."""
    return land.mountains(3)


@cache
def covered() -> land.Cover:
    return land.cover(valley(), TREE_LINE_M)


#: Sides of the pictures that lie on the ground: the whole valley, and what is near, in m.
SPAN_M, FINE_SPAN_M = 9000.0, 1000.0


@cache
def pictures() -> dict[str, tuple[float, NDArray[np.uint8], NDArray[np.uint8]]]:
    """Pictures of the ground, colour and relief, with how many metres they span: near and far."""
    made = {}
    for name, span in ((", near", FINE_SPAN_M), ("", SPAN_M)):
        window = valley().window(span, 1536)
        made[name] = (span, *land.pictures(window, land.cover(window, TREE_LINE_M), rough_m=ROUGH_M))
    return made


def _split(shape, within):  # type: ignore[no-untyped-def]
    """A shape in two, by the middles of its triangles: what lies without, and what lies within."""
    middle = land.middles(shape)
    inside = within(middle[:, 0], middle[:, 1])
    return shape.of(~inside), shape.of(inside)


def _under_the_meadow(x, y):  # type: ignore[no-untyped-def]
    return (np.abs(x - 5) < 40) & (np.abs(y) < 41)


def build(model: Model) -> None:
    fine = np.arange(-36, 46.01, 0.55)
    near = heightfield(
        fine, np.arange(-42, 42.01, 0.55), ground_height(*np.meshgrid(fine, np.arange(-42, 42.01, 0.55)))
    )
    meadow, bed = _split(near, lambda x, y: _pond_reach(x, y) < 1.14)
    model.put(Thing("meadow").add("meadow", meadow), "ground")
    model.put(Thing("pond bed").add("pond gravel", bed))
    _slopes(model)
    y = np.arange(-45, 60.01, 0.4)
    x = np.linspace(-9.5, -5.5, 41)
    gx, gy = np.meshgrid(x, y)
    # The lane's edges are not drawn with a rule, and grass comes in from them.
    middle = 0.22 * np.sin(gy / 7.3) + 0.12 * np.sin(gy / 2.9 + 1) + 0.25 * _sample(_ROUGH, gx * 6, gy * 6, 60.0)
    z = ground_height(gx, gy) + 0.045 - 0.06 * _smooth((np.abs(gx + 7.5 + middle * 0.3) - 1.45 - 0.3 * middle) / 0.35)
    model.put(Thing("lane").add("gravel", heightfield(x, y, z)), "ground")
    cx, cy, a, b = POND
    water = Thing("pond").add("pond water", polygon([(cx - a * 1.2, cy - b * 1.25, WATER), (cx + a * 1.2, cy - b * 1.25, WATER),
                                                     (cx + a * 1.2, cy + b * 1.0, WATER), (cx - a * 1.2, cy + b * 1.0, WATER)]))  # fmt: skip
    water.add(
        "pond water", polygon([(-2.6, -6.2, WATER), (-0.95, -6.2, WATER), (-0.95, 6.2, WATER), (-2.6, 6.2, WATER)])
    )
    model.put(water)


def _slopes(model: Model) -> None:
    """The valley beyond the meadow: one mesh, finer near, in four materials."""

    def height(x, y):  # type: ignore[no-untyped-def]
        return np.where(_under_the_meadow(x, y), -4.0, ground_height(x, y) - 0.03)

    radii = np.geomspace(NEAR_M, FAR_M, RINGS)
    whole = land.mesh(height, radii, np.linspace(-np.pi, np.pi, SECTORS + 1))
    middle = land.middles(whole)
    bare = valley().of(covered().bare, middle[:, 0], middle[:, 1])
    green, stone = land.parted(whole, bare)
    for name, shape in (("slope", green), ("rock", stone)):
        distance = np.hypot(*land.middles(shape)[:, :2].T)
        close, far = land.parted(shape, np.clip((distance - 0.8 * FINE_M) / (0.4 * FINE_M), 0, 1))
        for which, piece in ((", near", close), ("", far)):
            span, material = pictures()[which][0], name + which
            # The picture's middle lies at zero.
            if len(piece.triangles):
                model.put(Thing(f"valley, {material}").add(material, piece.shifted_uv(span / 2, span / 2)), "ground")
