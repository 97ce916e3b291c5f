"""The mill itself: stone walls, windows, roof, timbers, floor, stair, wheel and terrace. Metres; X along the room."""

from __future__ import annotations

import numpy as np

from valleylight.core.making.glb import Model, Thing
from valleylight.core.making.shapes import Shape, beam, box, polygon, tube
from valleylight.core.nature import masonry
from valleylight.demo.ways import stair, terrace, wheel

LENGTH, WIDTH, WALL = 16.0, 7.0, 0.6
EAVES, RIDGE = 4.7, 7.7  # underside of the roof at the inner wall face and at the ridge
HALF = WIDTH / 2
SLOPE = (RIDGE - EAVES) / HALF
ROOF_DEPTH = 0.28
#: Openings of the south wall: left edge, right edge, sill, head.
WINDOWS = [(1.15 + 3.05 * k, 2.65 + 3.05 * k, 0.7, 3.5) for k in range(4)]
DOOR = (13.25, 14.95, 0.0, 3.5)
LUNETTE_Y, LUNETTE_Z, LUNETTE_R = 3.5, 3.9, 1.5
GLASS_DEPTH = -0.34
#: Mortar is set back so far from the plane of the wall.
JOINT = 0.012


def roof_height(y: float) -> float:
    """Underside of the roof at y."""
    return EAVES + SLOPE * (HALF - abs(y - HALF))


def build(model: Model) -> None:
    rng = np.random.default_rng(7)
    _south_wall(model, rng)
    _other_walls(model)
    _lunette(model)
    _floor(model, rng)
    _roof(model, rng)
    _timbers(model)
    stair(model)
    terrace(model, rng)
    wheel(model)


def _facade(shapes: list[Shape], y: float, low: float, high: float, top: float, front: bool) -> None:
    """One face of the south wall at y between x = low and high, cut by the openings. `front` faces outdoors (-Y)."""
    cuts = sorted([*WINDOWS, DOOR])
    edges = [low]
    for left, right, sill, head in cuts:
        pieces = [(edges[-1], left, -0.6, top)]
        pieces += [(left, right, head, top)]
        pieces += [(left, right, -0.6, sill)]
        edges.append(right)
        for a, b, c, d in pieces:
            _upright(shapes, y, a, b, c, d, front)
    _upright(shapes, y, edges[-1], high, -0.6, top, front)


def _upright(shapes: list[Shape], y: float, a: float, b: float, c: float, d: float, front: bool) -> None:
    if b - a < 1e-6 or d - c < 1e-6:
        return
    p = [(a, y, c), (b, y, c), (b, y, d), (a, y, d)]
    shapes.append(polygon(p if front else p[::-1]))


def _south_wall(model: Model, rng: np.random.Generator) -> None:
    outer: list[Shape] = []
    inner: list[Shape] = []
    _facade(outer, -WALL, -WALL, LENGTH + WALL, EAVES - 0.2, True)
    _facade(inner, 0.0, 0.0, LENGTH, EAVES, False)
    stone = Thing("south wall, stone").add("mortar", *[shape.moved([0, JOINT, 0]) for shape in outer])
    holes = [
        (left - 0.02 + WALL, sill + 0.6 if sill else 0.0, right + 0.02 + WALL, head + 0.6)
        for left, right, sill, head in [*WINDOWS, DOOR]
    ]
    _lay(stone, rng, (-WALL, -WALL, -0.6), "-y", LENGTH + 2 * WALL, EAVES - 0.2 + 0.6, holes)
    plaster = Thing("south wall, limewash").add("limewash", *inner)
    dressed = Thing("window surrounds")
    joinery = Thing("windows")
    panes = Thing("window glass")
    for k, (left, right, sill, head) in enumerate([*WINDOWS, DOOR]):
        ease = 0.004
        for x, sign in ((left, 1), (right, -1)):  # reveals: limewash within, dressed stone without
            p = [(x, GLASS_DEPTH, sill), (x, 0, sill), (x, 0, head), (x, GLASS_DEPTH, head)]
            plaster.add("limewash", polygon(p[::-1] if sign > 0 else p))
            z = sill
            while z < head - 0.05:  # quoins, long and short
                h = min(rng.uniform(0.26, 0.40), head - z)
                w = rng.uniform(0.16, 0.34)
                low_x, high_x = (x - w, x) if sign > 0 else (x, x + w)
                dressed.add(
                    "dressed stone",
                    box([low_x, -WALL - 0.015, z + 0.004], [high_x, GLASS_DEPTH, z + h - 0.004], ease).shifted_uv(
                        *rng.uniform(0, 3, 2)
                    ),
                )
                z += h
        p = [(left, GLASS_DEPTH, head), (left, 0, head), (right, 0, head), (right, GLASS_DEPTH, head)]
        plaster.add("limewash", polygon(p))
        dressed.add(
            "dressed stone",
            box([left - 0.32, -WALL - 0.015, head], [right + 0.32, GLASS_DEPTH, head + 0.3], ease).shifted_uv(k, 0.3),
        )
        if sill > 0:
            dressed.add(
                "dressed stone", box([left - 0.1, -WALL - 0.09, sill - 0.1], [right + 0.1, GLASS_DEPTH, sill], ease)
            )
            joinery.add(
                "oak", box([left, GLASS_DEPTH, sill - 0.02], [right, 0.06, sill + 0.025], 0.004).shifted_uv(k, k)
            )
        _window(joinery, panes, left, right, max(sill, 0.02) + (0.025 if sill else 0.0), head, 3 if k < 4 else 2)
        model.openings.append({
            "centre": [(left + right) / 2, GLASS_DEPTH, (sill + head) / 2],
            "half_u": [(right - left) / 2, 0, 0], "half_v": [0, 0, (head - sill) / 2], "inward": [0, 1, 0],
        })  # fmt: skip
    for x, sign in ((-WALL, 1), (LENGTH + WALL, -1)):  # corner quoins
        for y, facing in ((-WALL, 1), (WIDTH + WALL, -1)):
            z, long = -0.5, True
            while z < EAVES - 0.4:
                h = rng.uniform(0.28, 0.42)
                u, v = (0.5, 0.28) if long else (0.28, 0.5)
                a = [min(x - 0.015 * sign, x + u * sign), min(y - 0.015 * facing, y + v * facing), z + 0.004]
                b = [max(x - 0.015 * sign, x + u * sign), max(y - 0.015 * facing, y + v * facing), z + h - 0.004]
                dressed.add("dressed stone", box(a, b, 0.006).shifted_uv(*rng.uniform(0, 3, 2)))
                z, long = z + h, not long
    for thing in (stone, plaster, dressed, joinery, panes):
        model.put(thing)


def _lay(
    thing: Thing, rng: np.random.Generator, corner: tuple[float, float, float], facing: str, wide: float, high: float,
    holes: list[tuple[float, float, float, float]],
) -> None:  # fmt: skip
    """Rubble laid stone by stone over a wall, from its lower left corner as it is seen; holes are left, low, right, top from there."""
    cells = masonry.around(masonry.stones(rng, wide, high), holes)
    for tone, shape in zip(("stone", "stone, warm", "stone, dark"), masonry.laid(rng, cells), strict=True):
        thing.add(tone, masonry.turned_to(shape, corner, facing))


def _window(joinery: Thing, panes: Thing, left: float, right: float, low: float, high: float, columns: int) -> None:
    """Frame, bars and one thin sheet of glass."""
    y, f, bar = GLASS_DEPTH, 0.055, 0.026
    for a, b in (
        ([left, y - 0.03, low], [left + f, y + 0.03, high]), ([right - f, y - 0.03, low], [right, y + 0.03, high]),
        ([left, y - 0.03, low], [right, y + 0.03, low + f]), ([left, y - 0.03, high - f], [right, y + 0.03, high]),
    ):  # fmt: skip
        joinery.add("painted timber", box(a, b, 0.003))
    for k in range(1, columns):
        x = left + (right - left) * k / columns
        joinery.add("painted timber", box([x - bar / 2, y - 0.022, low], [x + bar / 2, y + 0.022, high], 0.003))
    rows = 4
    for k in range(1, rows):
        z = low + (high - low) * k / rows
        joinery.add("painted timber", box([left, y - 0.02, z - bar / 2], [right, y + 0.02, z + bar / 2], 0.003))
    panes.add("window glass", polygon([(left, y, low), (right, y, low), (right, y, high), (left, y, high)]))
    if low < 0.1:
        joinery.add("brass", tube([(left + 0.78, y + 0.09, 1.0), (left + 0.78, y + 0.09, 1.35)], 0.012, 10))


def _gable(x: float, outer: bool, hole: bool) -> list[Shape]:
    """A gable wall face at x; the outer one spans the wall's thickness on both sides."""
    low, high = (-WALL, WIDTH + WALL) if outer else (0.0, WIDTH)
    flip = outer == (x > LENGTH / 2)  # faces +X where the outer east or the inner west wall is meant

    def face(p: list[tuple[float, float]]) -> Shape:
        points = [(x, y, z) for y, z in p]
        return polygon(points if flip else points[::-1])

    eave_low, eave_high = roof_height(low), roof_height(high)
    if not hole:
        return [face([(low, -0.6), (high, -0.6), (high, eave_high), (HALF, RIDGE), (low, eave_low)])]
    y0, y1, z0, z1 = LUNETTE_Y - LUNETTE_R, LUNETTE_Y + LUNETTE_R, LUNETTE_Z, LUNETTE_Z + LUNETTE_R
    shapes = [
        face([(low, -0.6), (high, -0.6), (high, min(z0, eave_high)), (low, min(z0, eave_low))]),
        face([(low, min(z0, eave_low)), (y0, z0), (y0, roof_height(y0)), (low, eave_low + 1e-4)]),
        face([(y1, z0), (high, min(z0, eave_high)), (high, eave_high + 1e-4), (y1, roof_height(y1))]),
        face([(y0, z1), (y1, z1), (y1, roof_height(y1)), (HALF, RIDGE), (y0, roof_height(y0))]),
    ]
    arc = [(LUNETTE_Y - LUNETTE_R * np.cos(a), z0 + LUNETTE_R * np.sin(a)) for a in np.linspace(0, np.pi, 33)]
    for (ya, za), (yb, zb) in zip(arc, arc[1:], strict=False):
        if min(z1 - za, z1 - zb) < 1e-6:
            p = [(ya, za), (yb, zb), (ya, z1)] if z1 - za > z1 - zb else [(ya, za), (yb, zb), (yb, z1)]
        else:
            p = [(ya, za), (yb, zb), (yb, z1), (ya, z1)]
        if abs(za - zb) > 1e-9 or z1 - za > 1e-6:
            shapes.append(face(p))
    return shapes


def _other_walls(model: Model) -> None:
    north_top = EAVES - 0.2
    rng = np.random.default_rng(17)
    outer = Thing("outer walls")
    y = WIDTH + WALL
    back = polygon([(LENGTH + WALL, y, -0.6), (-WALL, y, -0.6), (-WALL, y, north_top), (LENGTH + WALL, y, north_top)])
    outer.add("mortar", back.moved([0, -JOINT, 0]))
    outer.add("mortar", *(g.moved([JOINT, 0, 0]) for g in _gable(-WALL, True, False)))
    outer.add("mortar", *(g.moved([-JOINT, 0, 0]) for g in _gable(LENGTH + WALL, True, True)))
    _lay(outer, rng, (LENGTH + WALL, y, -0.6), "+y", LENGTH + 2 * WALL, north_top + 0.6, [])
    deep = WIDTH + 2 * WALL
    _lay(outer, rng, (-WALL, y, -0.6), "-x", deep, EAVES - 0.2 + 0.6, [])
    # About the lunette stones are cut to its curve by standing on edge; its own ring covers their ends.
    steps = np.linspace(-LUNETTE_R, LUNETTE_R, 13)
    ring = [
        (
            LUNETTE_Y + WALL + a,
            LUNETTE_Z + 0.6 - 0.02,
            LUNETTE_Y + WALL + b,
            LUNETTE_Z + 0.62 + float(np.sqrt(max(LUNETTE_R**2 - min(abs(a), abs(b)) ** 2, 0.0))),
        )
        for a, b in zip(steps, steps[1:], strict=False)
    ]
    _lay(outer, rng, (LENGTH + WALL, -WALL, -0.6), "+x", deep, EAVES - 0.2 + 0.6, ring)
    inner = Thing("inner walls")
    inner.add("limewash", polygon([(0, WIDTH, -0.1), (LENGTH, WIDTH, -0.1), (LENGTH, WIDTH, EAVES), (0, WIDTH, EAVES)]))
    inner.add("limewash", *_gable(0.0, False, False), *_gable(LENGTH, False, True))
    model.put(outer)
    model.put(inner)
    skirting = Thing("skirtings")
    for a, b in (((0, 0, 0), (13.25, 0.02, 0.14)), ((14.95, 0, 0), (LENGTH, 0.02, 0.14)), ((0, 0, 0), (0.02, WIDTH, 0.14)),
                 ((LENGTH - 0.02, 0, 0), (LENGTH, WIDTH, 0.14))):  # fmt: skip
        skirting.add("painted timber", box(a, b, 0.003))
    model.put(skirting)
    cladding = Thing("gable cladding")
    for x, out in ((-WALL, -1), (LENGTH + WALL, 1)):
        for k, left in enumerate(np.arange(-WALL - 0.3, WIDTH + WALL + 0.3, 0.155)):
            right = left + 0.148
            top = min(roof_height(left), roof_height(right)) + 0.05
            arch = x > 8 and abs((left + right) / 2 - LUNETTE_Y) < LUNETTE_R + 0.25
            bottom = LUNETTE_Z + LUNETTE_R + 0.3 if arch else EAVES - 0.55 + 0.004 * (k % 3)
            if top - bottom < 0.12:
                continue
            near, far = sorted((x + out * 0.012, x + out * (0.036 + 0.002 * (k % 2))))
            cladding.add(
                "weathered timber",
                box([near, left, bottom], [far, right, top], 0.002, along=2).shifted_uv(0.37 * k, 0.7 * k),
            )
    model.put(cladding)


def _lunette(model: Model) -> None:
    """The half-round window over the stair: seven tinted panes between lead bars."""
    x = LENGTH + 0.3
    tints = ["amber glass", "pale glass", "blue glass", "amber glass", "green glass", "pale glass", "rose glass"]
    panes, bars, reveal = Thing("lunette glass"), Thing("lunette bars"), Thing("lunette reveal")
    inner_r = 0.55
    for k, tint in enumerate(tints):
        a, b = np.pi * k / 7, np.pi * (k + 1) / 7
        for s, t in zip(np.linspace(a, b, 5), np.linspace(a, b, 5)[1:], strict=False):
            ring = [(x, LUNETTE_Y - r * np.cos(g), LUNETTE_Z + r * np.sin(g)) for r, g in
                    ((inner_r, s), (LUNETTE_R, s), (LUNETTE_R, t), (inner_r, t))]  # fmt: skip
            panes.add(tint, polygon(ring))
            panes.add("pale glass" if k % 2 else "amber glass", polygon([
                (x, LUNETTE_Y, LUNETTE_Z), ring[0], ring[3]
            ]))  # fmt: skip
            for s0, s1 in ((LENGTH, LENGTH + WALL),):
                p = [
                    (s0, ring[1][1], ring[1][2]),
                    (s1, ring[1][1], ring[1][2]),
                    (s1, ring[2][1], ring[2][2]),
                    (s0, ring[2][1], ring[2][2]),
                ]
                reveal.add("limewash", polygon(p))
        if k:
            bars.add("lead", beam((x, LUNETTE_Y - inner_r * np.cos(a), LUNETTE_Z + inner_r * np.sin(a)),
                                  (x, LUNETTE_Y - LUNETTE_R * np.cos(a), LUNETTE_Z + LUNETTE_R * np.sin(a)), 0.03, 0.03))  # fmt: skip
    for r in (inner_r, LUNETTE_R - 0.02):
        arc = [(x, LUNETTE_Y - r * np.cos(g), LUNETTE_Z + r * np.sin(g)) for g in np.linspace(0, np.pi, 25)]
        bars.add("lead", tube(arc, 0.018, 6))
    bars.add(
        "lead",
        box([x - 0.03, LUNETTE_Y - LUNETTE_R, LUNETTE_Z - 0.02], [x + 0.03, LUNETTE_Y + LUNETTE_R, LUNETTE_Z + 0.03]),
    )
    sill = polygon(
        [
            (LENGTH, 2.0, LUNETTE_Z),
            (LENGTH + WALL, 2.0, LUNETTE_Z),
            (LENGTH + WALL, 5.0, LUNETTE_Z),
            (LENGTH, 5.0, LUNETTE_Z),
        ]
    )
    reveal.add("limewash", sill)
    for thing in (panes, bars, reveal):
        model.put(thing)
    model.openings.append({
        "centre": [x, LUNETTE_Y, LUNETTE_Z + LUNETTE_R / 2], "half_u": [0, LUNETTE_R, 0],
        "half_v": [0, 0, LUNETTE_R / 2], "inward": [-1, 0, 0],
    })  # fmt: skip


def _floor(model: Model, rng: np.random.Generator) -> None:
    """Oak boards laid one by one, each with its own piece of timber and a hair of difference in level."""
    boards = Thing("floor boards")
    width = 0.175
    for y in np.arange(0, WIDTH, width):
        x = -rng.uniform(0, 2)
        while x < LENGTH:
            length = rng.uniform(1.8, 3.4)
            a, b = max(x, 0.0), min(x + length, LENGTH)
            if b - a > 0.05:
                top = rng.uniform(-0.0008, 0.0008)
                made = box(
                    [a + 0.0008, y + 0.0008, -0.03], [b - 0.0008, min(y + width, WIDTH) - 0.0008, top], 0.0018, along=0
                )
                boards.add(rng.choice(["floor oak", "floor oak, pale", "floor oak, dark"], p=[0.5, 0.3, 0.2]),
                           made.shifted_uv(*rng.uniform(0, 5, 2)))  # fmt: skip
            x += length
    boards.add("lead", polygon([(0, 0, -0.02), (LENGTH, 0, -0.02), (LENGTH, WIDTH, -0.02), (0, WIDTH, -0.02)]))
    model.put(boards)


def _roof(model: Model, rng: np.random.Generator) -> None:
    low = -WALL - 0.35
    x0, x1 = -WALL - 0.4, LENGTH + WALL + 0.4
    angle = np.arctan(SLOPE)
    lift = ROOF_DEPTH / np.cos(angle)
    under, top = Thing("roof boards"), Thing("roof slates")
    run = (HALF - low) / np.cos(angle)
    course, gauge = 0.24, 0.30
    for side in (-1, 1):

        def at(s: float, x: float, up: float, side: int = side) -> tuple[float, float, float]:
            """A point s metres down the slope from the ridge, raised by `up`."""
            return (x, HALF + side * s * np.cos(angle), RIDGE - s * np.sin(angle) + up)

        for k, s in enumerate(np.arange(0, run, 0.19)):  # ceiling boards along the room
            t = min(s + 0.186, run)
            p = [at(s, x0, 0), at(t, x0, 0), at(t, x1, 0), at(s, x1, 0)]
            shape = polygon(p if side > 0 else p[::-1])
            shape.uv = np.column_stack([shape.points[:, 1] * 1.2, shape.points[:, 0]]) + [0.31 * k, 0.77 * k]
            under.add("ceiling boards", shape)
        p = [at(run, x0, -0.005), at(run, x0, lift), at(run, x1, lift), at(run, x1, -0.005)]
        under.add("weathered timber", polygon(p if side > 0 else p[::-1]))
        p = [at(0, x0, lift), at(run, x0, lift), at(run, x1, lift), at(0, x1, lift)]
        under.add("lead", polygon(p[::-1] if side > 0 else p))
        for x, out in ((x0, -1), (x1, 1)):
            p = [at(0, x, 0), at(run, x, 0), at(run, x, lift), at(0, x, lift)]
            under.add("weathered timber", polygon(p if (side > 0) == (out < 0) else p[::-1]))
        for s in np.arange(0.02, run, course):
            x = x0 - rng.uniform(0, gauge)
            while x < x1:
                w = gauge * rng.uniform(0.75, 1.2)
                a, b = max(x, x0) + 0.002, min(x + w, x1) - 0.002
                end = min(s + course + 0.06, run + 0.05)
                if b - a > 0.03:
                    u = lift + 0.012 + rng.uniform(0, 0.004)
                    v = lift + 0.030 + rng.uniform(0, 0.006)
                    e = end + rng.uniform(-0.008, 0.008)
                    quad = [at(s, a, u), at(e, a, v), at(e, b, v), at(s, b, u)]
                    face = polygon(quad[::-1] if side < 0 else quad)
                    if face.normals[0, 2] < 0:
                        face = polygon(quad if side < 0 else quad[::-1])
                    edge = [at(e, a, v - 0.018), at(e, b, v - 0.018), at(e, b, v), at(e, a, v)]
                    front = polygon(edge if side < 0 else edge[::-1])
                    du, dv = rng.uniform(0, 4, 2)
                    name = "slate" if rng.random() < 0.72 else "slate, warm"
                    face.uv = np.column_stack([face.points[:, 0], face.points[:, 1] * 1.3])
                    top.add(name, face.shifted_uv(du, dv), front.shifted_uv(du, dv))
                x += w
        gutter_y, gutter_z = at(run + 0.07, 0, -0.02)[1:]
        under.add("lead", tube([(x0, gutter_y, gutter_z), (x1, gutter_y, gutter_z)], 0.062, 12))
    for x in np.arange(x0, x1 - 0.3, 0.45):
        top.add(
            "slate", box([x, HALF - 0.14, RIDGE + lift - 0.05], [x + 0.44, HALF + 0.14, RIDGE + lift + 0.055], 0.03)
        )
    model.put(under)
    model.put(top)
    _chimney(model, rng)


def _chimney(model: Model, rng: np.random.Generator) -> None:
    """A stack that stands on the roof: its stones begin where the slope has passed, below them lies lead."""
    (x0, x1), (y0, y1), top = (11.2, 12.2), (2.6, 3.4), 9.5
    low, high = roof_height(y0) + 0.06, roof_height(y1) + 0.06
    chimney = Thing("chimney").add("mortar", box([x0 + JOINT, y0 + JOINT, high], [x1 - JOINT, y1 - JOINT, top]))
    chimney.add("lead", polygon([(x0, y0, low), (x1, y0, low), (x1, y0, high), (x0, y0, high)]))
    for x, side in ((x0, -1), (x1, 1)):
        flashing = [(x, y0, low), (x, y1, high), (x, y0, high)]
        chimney.add("lead", polygon(flashing if side > 0 else flashing[::-1]))
    for corner, facing, wide in (
        ((x0, y0, high), "-y", x1 - x0), ((x1, y0, high), "+x", y1 - y0), ((x1, y1, high), "+y", x1 - x0), ((x0, y1, high), "-x", y1 - y0)
    ):  # fmt: skip
        _lay(chimney, rng, corner, facing, wide, top - high, [])
    chimney.add("dressed stone", box([11.12, 2.52, 9.5], [12.28, 3.48, 9.62], 0.01))
    model.put(chimney)


def _timbers(model: Model) -> None:
    timbers = Thing("roof timbers")
    for k, x in enumerate((3.42, 6.47, 9.52, 12.57)):
        timbers.add(
            "old oak", box([x - 0.11, -0.2, 4.28], [x + 0.11, WIDTH + 0.2, 4.56], 0.012, along=1).shifted_uv(k, k * 0.7)
        )
        timbers.add("old oak", box([x - 0.09, HALF - 0.09, 4.56], [x + 0.09, HALF + 0.09, RIDGE - 0.1], 0.01, along=2))
        for side in (-1, 1):
            a = (x, HALF + side * (HALF + 0.1), EAVES - 0.12)
            b = (x, HALF + side * 0.05, RIDGE - 0.14)
            timbers.add("old oak", beam(a, b, 0.18, 0.20, 0.01).shifted_uv(0.3 * side, k))
            timbers.add("old oak", beam((x, HALF + side * 1.25, 4.5), (x, HALF + side * 0.1, 5.7), 0.12, 0.14, 0.008))
    timbers.add("old oak", box([0, HALF - 0.08, RIDGE - 0.26], [LENGTH, HALF + 0.08, RIDGE - 0.04], 0.01))
    for y in (1.4, WIDTH - 1.4):
        z = roof_height(y) - 0.1
        timbers.add("old oak", box([0, y - 0.07, z - 0.16], [LENGTH, y + 0.07, z], 0.01))
    rail = Thing("lamp rail")
    rail.add("blackened steel", box([3.3, 2.33, 3.03], [12.7, 2.37, 3.06], 0.003))
    for x in (3.42, 6.47, 9.52, 12.57):
        rail.add("blackened steel", tube([(x, 2.35, 3.05), (x, 2.35, 4.3)], 0.005, 6))
    model.put(timbers)
    model.put(rail)
