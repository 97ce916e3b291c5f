"""What stands out of doors: benches, bollards, fences, bicycles, cars as plain volumes, stones, paving, and people as matt sculptures."""

from __future__ import annotations

import numpy as np

from valleylight.core.making.glb import Model, Thing
from valleylight.core.making.shapes import Shape, beam, box, join, lathe, of_triangles, pebble, tube
from valleylight.core.nature import masonry
from valleylight.core.objects.family import SEED, Family, Values, kinds, length, number
from valleylight.core.objects.surfaces import use


def _bench(model: Model, thing: Thing, v: Values) -> None:
    wood, iron = use(model, "grey timber", "steel")
    a = v["length"] / 2
    for k in range(4):
        y = -0.19 + 0.1 * k
        thing.add(wood, box([-a, y, 0.43], [a, y + 0.085, 0.46], 0.004, along=0).shifted_uv(0.3 * k, 0.4 * k))
    if v["back"] > 0:
        for k in range(2):
            thing.add(
                wood,
                box([-a, 0, 0], [a, 0.026, 0.1], 0.004, along=0)
                .turned(-10, "x")
                .moved([0, 0.235 + 0.025 * k, 0.6 + 0.14 * k]),
            )
    legs = max(2, round(v["length"] / 1.2) + 1)
    for k in range(legs):
        x = -a + 0.14 + (2 * a - 0.28) * k / (legs - 1)
        thing.add(
            iron,
            beam((x, -0.17, 0), (x, -0.17, 0.43), 0.05, 0.012),
            beam((x, 0.19, 0), (x, 0.19, 0.43), 0.05, 0.012),
            beam((x, -0.19, 0.424), (x, 0.22, 0.424), 0.05, 0.012),
        )
        if v["back"] > 0:
            thing.add(iron, beam((x, 0.2, 0.42), (x, 0.29, 0.85), 0.05, 0.012))


def _bollard(model: Model, thing: Thing, v: Values) -> None:
    h = v["height"]
    iron = use(model, "steel")[0]
    thing.add(
        iron,
        lathe(
            [
                (0, 0),
                (0.085, 0),
                (0.085, 0.02),
                (0.055, 0.05),
                (0.05, h - 0.12),
                (0.062, h - 0.1),
                (0.062, h - 0.06),
                (0.03, h),
                (0, h),
            ],
            28,
        ),
    )


def _fence(model: Model, thing: Thing, v: Values) -> None:
    wood = use(model, "grey timber")[0]
    a, h = v["length"] / 2, v["height"]
    posts = max(2, round(v["length"] / 2.0) + 1)
    for k in range(posts):
        x = -a + 2 * a * k / (posts - 1)
        thing.add(wood, box([x - 0.045, -0.045, 0], [x + 0.045, 0.045, h + 0.05], 0.005, along=2))
    for z in (0.25 * h, 0.82 * h):
        thing.add(wood, box([-a, -0.065, z], [a, -0.03, z + 0.07], 0.003, along=0))
    rng = np.random.default_rng(2)
    pitch = 0.09 / max(0.15, v["closed"])
    for x in np.arange(-a + 0.06, a - 0.02, pitch):
        thing.add(
            wood,
            box([x, -0.088, 0.05], [x + 0.085, -0.066, h + float(rng.normal(0, 0.004))], 0.002, along=2).shifted_uv(
                float(rng.uniform()), float(rng.uniform())
            ),
        )


def _ring(radius: float, thick: float, sides: int = 40) -> Shape:
    a = np.linspace(0, 2 * np.pi, sides + 1)
    return tube(np.column_stack([radius * np.cos(a), np.zeros(sides + 1), radius * np.sin(a)]), thick, 8)


def _bicycle(model: Model, thing: Thing, v: Values) -> None:
    frame, tyre, metal, saddle = use(
        model, ("paint", "lacquer", "steel")[int(v["colour"])], "rubber", "brushed", "walnut"
    )
    r, hub = 0.335, 0.34
    for x in (-0.52, 0.52):
        thing.add(tyre, _ring(r - 0.012, 0.014).moved([x, 0, hub]))
        thing.add(metal, _ring(r - 0.03, 0.006).moved([x, 0, hub]))
        for k in range(14):
            a = k * 2 * np.pi / 14
            thing.add(
                metal, tube([(x, 0, hub), (x + (r - 0.03) * np.cos(a), 0, hub + (r - 0.03) * np.sin(a))], 0.001, 4)
            )
    crank, head, seat, rear, front = (
        (-0.08, 0, 0.29),
        (0.36, 0, 0.86),
        (-0.23, 0, 0.88),
        (-0.52, 0, hub),
        (0.52, 0, hub),
    )
    for begin, end, t in ((crank, head, 0.017), (seat, head, 0.015), (crank, seat, 0.015)):
        thing.add(frame, tube([begin, end], t, 12))
    for y in (-0.05, 0.05):
        thing.add(
            frame,
            tube([(rear[0], y, hub), (crank[0], y * 0.4, crank[2])], 0.008, 8),
            tube([(rear[0], y, hub), (seat[0] + 0.02, y * 0.3, seat[2] - 0.05)], 0.007, 8),
        )
        thing.add(frame, tube([(front[0], y, hub), (0.43, y * 0.8, 0.62), (0.385, 0, 0.8)], 0.01, 8))
    thing.add(
        metal,
        tube([head, (0.34, 0, 1.0)], 0.012, 10),
        tube([(0.22, -0.29, 1.0), (0.36, -0.2, 1.03), (0.36, 0.2, 1.03), (0.22, 0.29, 1.0)], 0.011, 10),
    )
    thing.add(metal, tube([seat, (-0.26, 0, 0.96)], 0.012, 10), _ring(0.09, 0.004, 28).moved(crank))
    thing.add(
        saddle,
        box([-0.39, -0.075, 0.955], [-0.2, 0.075, 0.99], 0.016),
        box([-0.22, -0.03, 0.96], [-0.1, 0.03, 0.988], 0.012),
    )
    thing.add(
        metal,
        tube([(-0.08, 0, 0.29), (0.02, 0.06, 0.17)], 0.009, 8),
        tube([(-0.08, 0, 0.29), (-0.18, -0.06, 0.41)], 0.009, 8),
    )


def _car(model: Model, thing: Thing, v: Values) -> None:
    """A plain volume that reads as a car: body, glass, wheels."""
    paint, glass, tyre, metal = use(model, "car paint", "dark glass", "rubber", "brushed")
    a, b = v["length"] / 2, 0.9
    side = np.array(
        [
            (-a, 0.35),
            (-a, 0.75),
            (-a + 0.15, 0.92),
            (-0.62 * a, 0.98),
            (0.5 * a, 0.98),
            (0.93 * a, 0.86),
            (a, 0.7),
            (a, 0.35),
            (0.9 * a, 0.26),
            (-0.9 * a, 0.26),
        ]
    )
    top = np.array([(-0.78 * a, 0.96), (-0.6 * a, 1.42), (-0.1 * a, 1.48), (0.18 * a, 1.42), (0.52 * a, 0.97)])
    thing.add(paint, _extruded(side, b, 0.06), _extruded(top[1:4] - [0, -0.001], b - 0.2, 0.02))
    thing.add(glass, _extruded(top, b - 0.13, 0.1))
    for x in (-0.62 * a, 0.62 * a):
        for y in (-b + 0.1, b - 0.1):
            wheel = lathe(
                [
                    (0, -0.1),
                    (0.2, -0.1),
                    (0.29, -0.095),
                    (0.32, -0.06),
                    (0.32, 0.06),
                    (0.29, 0.095),
                    (0.2, 0.1),
                    (0, 0.1),
                ],
                36,
            ).turned(90, "x")
            thing.add(tyre, wheel.moved([x, y, 0.32]))
            thing.add(
                metal,
                lathe([(0, -0.104), (0.19, -0.103), (0.19, 0.103), (0, 0.104)], 28).turned(90, "x").moved([x, y, 0.32]),
            )


def _extruded(profile: np.ndarray, half: float, ease: float) -> Shape:
    """A profile in x and z drawn along y, narrower at both ends by an ease."""
    middle = profile.mean(0)
    inner = middle + (profile - middle) * (1 - ease)
    rings = [
        np.column_stack([ring[:, 0], np.full(len(ring), y), ring[:, 1]])
        for ring, y in ((inner, -half), (profile, -half + ease), (profile, half - ease), (inner, half))
    ]
    n = len(profile)
    points, triangles = np.concatenate(rings), []
    for k in range(3):
        for i in range(n):
            p, q = k * n + i, k * n + (i + 1) % n
            triangles += [(p, q, q + n), (p, q + n, p + n)]
    for k in range(1, n - 1):
        triangles += [(0, k + 1, k), (3 * n, 3 * n + k, 3 * n + k + 1)]
    made = of_triangles(points, triangles)
    outward = ((made.points - points.mean(0)) * made.normals).sum(1)
    return made if outward.sum() > 0 else of_triangles(points, np.array(triangles)[:, ::-1])


def _stones(model: Model, thing: Thing, v: Values) -> None:
    rng = np.random.default_rng(int(v["seed"]))
    names = use(model, "stone", "pale stone")
    count, size = int(v["count"]), v["size"]
    reach = size * np.sqrt(count) * 0.42
    for k in range(count):
        d, turn = reach * np.sqrt(rng.uniform()), rng.uniform(0, 2 * np.pi)
        s = size * float(np.clip(rng.lognormal(-0.2, 0.4), 0.3, 1.4))
        z = max(0.0, (reach - d) * 0.55) * rng.uniform(0.4, 1.0) + 0.18 * s
        thing.add(
            names[k % 2],
            pebble(rng, 7).scaled(s).turned(float(rng.uniform(0, 360))).moved([d * np.cos(turn), d * np.sin(turn), z]),
        )


def _paving(model: Model, thing: Thing, v: Values) -> None:
    rng = np.random.default_rng(3)
    names = use(model, "stone", "pale stone")
    a, b, slab = v["length"], v["width"], v["slab"]
    rows = max(1, round(b / slab))
    for r in range(rows):
        x = -a / 2 - (slab * 0.75 if r % 2 else 0)
        while x < a / 2:
            end = min(x + slab * 1.5, a / 2)
            begin = max(x, -a / 2)
            if end - begin > 0.05:
                y = -b / 2 + b * r / rows
                z = 0.05 + float(rng.normal(0, 0.0012))
                thing.add(
                    names[int(rng.random() < 0.3)],
                    box([begin + 0.003, y + 0.003, 0], [end - 0.003, y + b / rows - 0.003, z], 0.004),
                )
            x += slab * 1.5


#: Places of the joints of someone of 1 m, in x (to the left and right), y (behind) and z: hip, knee, foot, shoulder, elbow, hand of each side.
_POSES: dict[str, dict[str, tuple[float, float, float]]] = {
    "standing": {"l": (-0.055, 0, 0.27), "L": (-0.06, 0.01, 0.02), "r": (0.055, 0, 0.27), "R": (0.065, -0.02, 0.02), "a": (-0.135, 0.01, 0.63), "A": (-0.14, -0.02, 0.47), "b": (0.135, 0.01, 0.63), "B": (0.13, -0.04, 0.47)},
    "walking": {"l": (-0.05, -0.08, 0.28), "L": (-0.05, -0.17, 0.03), "r": (0.05, 0.03, 0.26), "R": (0.05, 0.17, 0.06), "a": (-0.13, 0.06, 0.64), "A": (-0.12, 0.06, 0.49), "b": (0.13, -0.05, 0.64), "B": (0.11, -0.13, 0.52)},
    "sitting": {"l": (-0.06, -0.25, 0.26), "L": (-0.06, -0.25, 0.02), "r": (0.06, -0.25, 0.26), "R": (0.06, -0.23, 0.02), "a": (-0.13, -0.04, 0.42), "A": (-0.08, -0.18, 0.32), "b": (0.13, -0.04, 0.42), "B": (0.08, -0.18, 0.32)},
    "leaning": {"l": (-0.055, -0.02, 0.27), "L": (-0.06, -0.1, 0.02), "r": (0.05, -0.04, 0.28), "R": (0.07, -0.14, 0.02), "a": (-0.14, -0.03, 0.64), "A": (-0.02, -0.08, 0.6), "b": (0.14, -0.03, 0.63), "B": (0.03, -0.09, 0.61)},
    "reading": {"l": (-0.055, 0, 0.27), "L": (-0.06, 0.01, 0.02), "r": (0.055, 0, 0.27), "R": (0.065, -0.02, 0.02), "a": (-0.13, -0.02, 0.65), "A": (-0.05, -0.15, 0.68), "b": (0.13, -0.02, 0.65), "B": (0.05, -0.15, 0.68)},
    "pointing": {"l": (-0.055, 0, 0.27), "L": (-0.06, 0.02, 0.02), "r": (0.055, -0.01, 0.27), "R": (0.07, -0.04, 0.02), "a": (-0.14, 0.01, 0.64), "A": (-0.14, -0.01, 0.47), "b": (0.2, -0.05, 0.76), "B": (0.3, -0.14, 0.8)},
}  # fmt: skip
POSES = tuple(_POSES)


def _figure(model: Model, thing: Thing, v: Values) -> None:
    """Someone as a matt sculpture: limbs of eased tubes about the joints of a pose."""
    matt = use(model, "matt")[0]
    pose = _POSES[POSES[int(v["pose"])]]
    low = 0.26 if POSES[int(v["pose"])] == "sitting" else 0.5
    lean = 0.05 if POSES[int(v["pose"])] == "leaning" else 0.0
    neck = low + 0.32

    def limb(*joints: tuple[tuple[float, float, float], float]) -> Shape:
        path, radii = np.array([j for j, _ in joints]), np.array([r for _, r in joints])
        t, fine = np.linspace(0, 1, len(path)), np.linspace(0, 1, 6 * len(path))
        smooth = np.column_stack([np.interp(fine, t, path[:, k]) for k in range(3)])
        return tube(smooth, np.interp(fine, t, radii), 14)

    parts = []
    for knee, foot, side in (("l", "L", -1), ("r", "R", 1)):
        x, y, z = pose[foot]
        parts.append(limb(((side * 0.05, 0.0, low), 0.058), (pose[knee], 0.038), ((x, y, z + 0.03), 0.024)))
        parts.append(limb(((x, y + 0.03, z + 0.012), 0.02), ((x, y - 0.1, z), 0.014)))
    for elbow, hand, side in (("a", "A", -1), ("b", "B", 1)):
        parts.append(limb(((side * 0.1, lean, neck - 0.03), 0.034), (pose[elbow], 0.026), (pose[hand], 0.018)))
    trunk = lathe(
        [
            (0, low - 0.05),
            (0.075, low - 0.035),
            (0.092, low + 0.03),
            (0.08, low + 0.12),
            (0.098, low + 0.24),
            (0.085, neck - 0.03),
            (0.03, neck + 0.005),
            (0.026, neck + 0.05),
            (0, neck + 0.05),
        ],
        24,
    )
    parts.append(trunk.scaled([1.12, 0.68, 1.0]).moved([0, lean / 2, 0]))
    angle = np.linspace(-np.pi / 2, np.pi / 2, 13)
    head = lathe([(0.055 * float(np.cos(a)), 0.07 * float(np.sin(a))) for a in angle], 20).scaled([0.9, 1.05, 1.0])
    tilt = -0.02 if POSES[int(v["pose"])] == "reading" else 0.0
    parts.append(head.moved([0, lean + tilt - 0.01, neck + 0.11]))
    thing.add(matt, join(parts).scaled(v["height"]))


def _stone_wall(model: Model, thing: Thing, v: Values) -> None:
    """A wall laid stone by stone on both sides and at its ends, on a core of mortar, under flat coping stones or without."""
    rng = np.random.default_rng(int(v["seed"]))
    tones, (mortar, coping) = (
        use(model, "wall stone", "warm wall stone", "dark wall stone"),
        use(model, "mortar", "wall coping"),
    )
    a, b, h, back = v["length"] / 2, v["thickness"] / 2, v["height"], 0.012
    thing.add(mortar, box([-a + back, -b + back, -0.15], [a - back, b - back, h - 0.01]))
    faces = (
        ((-a, -b, -0.15), "-y", 2 * a),
        ((a, -b, -0.15), "+x", 2 * b),
        ((a, b, -0.15), "+y", 2 * a),
        ((-a, b, -0.15), "-x", 2 * b),
    )
    for corner, facing, wide in faces:
        laid = masonry.laid(rng, masonry.stones(rng, wide, h + 0.15), face=masonry.FACE if a * h < 12 else 4)
        for tone, shape in zip(tones, laid, strict=True):
            thing.add(tone, masonry.turned_to(shape, corner, facing))
    x = -a
    while v["coping"] > 0 and x < a - 1e-6:
        w = min(float(rng.uniform(0.45, 0.8)), a - x)
        top = float(rng.uniform(0.055, 0.075))
        thing.add(
            coping,
            box([x + 0.004, -b - 0.04, h - 0.01], [x + w - 0.004, b + 0.04, h + top], 0.01).shifted_uv(
                *rng.uniform(0, 3, 2)
            ),
        )
        x += w


FAMILIES = (
    Family("bench", "Bench", "Outdoors", _bench, (length("length", "Length", 0.8, 5.0, 1.8, 0.1), number("back", "Back", 0, 1, 1))),
    Family("bollard", "Bollard", "Outdoors", _bollard, (length("height", "Height", 0.4, 1.2, 0.9),)),
    Family("fence", "Fence of pales", "Outdoors", _fence, (length("length", "Length", 1.0, 30.0, 4.0, 0.5), length("height", "Height", 0.6, 2.4, 1.2, 0.1), length("closed", "Closed", 0.2, 1.0, 0.7))),
    Family("bicycle", "Bicycle", "Outdoors", _bicycle, (kinds("colour", "Colour", "dark green", "off-white", "black"),)),
    Family("car", "Car, plain volume", "Outdoors", _car, (length("length", "Length", 3.4, 5.2, 4.3, 0.1),)),
    Family("stone-wall", "Stone wall", "Outdoors", _stone_wall, (length("length", "Length", 0.5, 20.0, 4.0, 0.1), length("height", "Height", 0.3, 5.0, 1.1, 0.1), length("thickness", "Thickness", 0.3, 1.2, 0.5), number("coping", "Coping stones", 0, 1, 1), SEED)),
    Family("stones", "Stones", "Outdoors", _stones, (number("count", "Stones", 1, 60, 14), length("size", "Size", 0.05, 1.2, 0.35), SEED), grows=True),
    Family("paving", "Paving", "Outdoors", _paving, (length("length", "Length", 0.6, 30.0, 4.0, 0.5), length("width", "Width", 0.4, 15.0, 1.6, 0.2), length("slab", "Slab", 0.2, 1.0, 0.4))),
    Family("figure", "Figure", "People", _figure, (length("height", "Height", 1.0, 2.0, 1.7, 0.01), kinds("pose", "Pose", *POSES))),
)  # fmt: skip
