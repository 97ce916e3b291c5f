"""People in clothes: joints of a pose, limbs of eased tubes, and cloth laid about them. Nobody in particular.

Proportions are those of the eight-heads canon of drawing schools (common practice): head 1/8 of the height, crotch at a half, knee at a
little over a quarter; a child of 1.1 m has six heads.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.making.glb import Model, Thing
from valleylight.core.making.shapes import Shape, box, grid_triangles, join, lathe, tube
from valleylight.core.objects.family import Family, Values, kinds, length, number
from valleylight.core.objects.surfaces import use

Array = NDArray[np.float64]
Joint = tuple[float, float, float]
#: Sides of limbs and of cloth about the trunk.
LIMB_SIDES, CLOTH_SIDES = 16, 40


@dataclass(frozen=True)
class Pose:
    """Joints of someone 1 m high who looks towards -Y: knees, feet, elbows, hands (left, right); height of the hips and how far the
    shoulders lean forward."""

    knees: tuple[Joint, Joint]
    feet: tuple[Joint, Joint]
    elbows: tuple[Joint, Joint]
    hands: tuple[Joint, Joint]
    hips: float = 0.5
    lean: float = 0.0
    turn_deg: float = 0.0  # of the head


_DOWN = ((-0.145, 0.015, 0.645), (-0.15, -0.02, 0.5)), ((0.145, 0.015, 0.645), (0.145, -0.03, 0.5))
POSES: dict[str, Pose] = {
    "standing": Pose(((-0.06, -0.005, 0.275), (0.065, -0.02, 0.275)), ((-0.065, 0.01, 0.0), (0.085, -0.03, 0.0)), (_DOWN[0][0], _DOWN[1][0]), (_DOWN[0][1], _DOWN[1][1]), turn_deg=18),
    "walking": Pose(((-0.05, -0.09, 0.28), (0.05, 0.015, 0.265)), ((-0.05, -0.15, 0.005), (0.05, 0.17, 0.035)), ((-0.14, 0.07, 0.655), (0.14, -0.03, 0.65)), ((-0.135, 0.03, 0.52), (0.125, -0.14, 0.545)), 0.49, 0.02),
    "in talk": Pose(((-0.065, -0.01, 0.275), (0.06, -0.03, 0.275)), ((-0.075, 0.0, 0.0), (0.075, -0.06, 0.0)), ((-0.15, 0.01, 0.65), (0.155, -0.03, 0.655)), ((-0.09, -0.1, 0.59), (0.13, -0.16, 0.66)), turn_deg=-22),
    "with a bag": Pose(((-0.055, -0.05, 0.275), (0.055, 0.01, 0.27)), ((-0.06, -0.09, 0.0), (0.06, 0.1, 0.02)), ((-0.145, 0.02, 0.65), (0.15, 0.02, 0.645)), ((-0.14, -0.06, 0.53), (0.155, 0.0, 0.5)), 0.495, 0.01),
    "looking up": Pose(((-0.06, 0.0, 0.275), (0.065, -0.01, 0.275)), ((-0.075, 0.015, 0.0), (0.075, -0.02, 0.0)), ((-0.15, 0.03, 0.65), (0.17, -0.07, 0.72)), ((-0.1, 0.07, 0.54), (0.1, -0.17, 0.86)), 0.5, -0.015, 10),
    "sitting": Pose(((-0.06, -0.24, 0.275), (0.065, -0.235, 0.275)), ((-0.06, -0.25, 0.0), (0.07, -0.22, 0.0)), ((-0.14, -0.02, 0.44), (0.14, -0.02, 0.44)), ((-0.07, -0.18, 0.335), (0.07, -0.18, 0.335)), 0.29, 0.03, 8),
    "under an umbrella": Pose(((-0.055, -0.06, 0.275), (0.055, 0.01, 0.27)), ((-0.06, -0.1, 0.0), (0.06, 0.1, 0.02)), ((-0.145, 0.02, 0.65), (0.15, -0.04, 0.66)), ((-0.14, -0.03, 0.52), (0.1, -0.12, 0.74)), 0.495, 0.01),
}  # fmt: skip
DRESSES = ("jacket and trousers", "long coat", "dress", "pullover and trousers", "skirt and blouse")
CLOTHS = ("slate cloth", "ochre cloth", "rust cloth", "moss cloth", "chalk cloth", "charcoal cloth", "wine cloth")
_SKINS = ("pale skin", "olive skin", "brown skin")
_HAIRS = {
    "pale skin": ("brown hair", "fair hair"),
    "olive skin": ("dark hair", "brown hair"),
    "brown skin": ("dark hair", "dark hair"),
}


def _limb(*joints: tuple[Joint, float]) -> Shape:
    """An eased tube through joints, rounded at both ends; each with its radius."""
    path, radii = np.array([j for j, _ in joints]), np.array([r for _, r in joints])
    t, fine = np.linspace(0, 1, len(path)), np.linspace(0, 1, 7 * len(path))
    # The bend of a joint is rounded by the mean of a few points about it; the ends stay.
    smooth = np.column_stack([np.interp(fine, t, path[:, k]) for k in range(3)])
    inner = np.stack([np.convolve(smooth[:, k], np.ones(5) / 5, "valid") for k in range(3)], 1)
    smooth[2:-2] = inner
    r = np.interp(fine, t, radii)
    ends = []
    for end, step in ((0, 1), (-1, -1)):
        along = smooth[end] - smooth[end + step]
        along /= np.linalg.norm(along)
        round_ = [(smooth[end] + along * r[end] * np.sin(a) * 0.8, r[end] * np.cos(a)) for a in (0.4, 0.8, 1.2, 1.5)]
        ends.append(round_)
    first, last = ends
    smooth = np.concatenate([[p for p, _ in first[::-1]], smooth, [p for p, _ in last]])
    r = np.concatenate([[a for _, a in first[::-1]], r, [a for _, a in last]])
    return tube(smooth, r, LIMB_SIDES)


def _ball(at: Joint, half: tuple[float, float, float]) -> Shape:
    angle = np.linspace(-np.pi / 2, np.pi / 2, 15)
    return lathe([(float(np.cos(a)), float(np.sin(a))) for a in angle], 22).scaled(half).moved(at)


def _wrapped(rows: Sequence[tuple[float, float, float, float, float]], folds: int = 0) -> Shape:
    """Cloth about an upright body: rows of (height, half width, half depth, y of the middle, depth of folds) from below."""
    r = np.array(rows)
    fine = np.linspace(0, len(r) - 1, 6 * len(r))
    z, a, b, y, f = (np.interp(fine, np.arange(len(r)), r[:, k]) for k in range(5))
    angle = np.linspace(0, 2 * np.pi, CLOTH_SIDES * (2 if folds else 1) + 1)
    # A little squarer than an ellipse: shoulders and hips are.
    c, s = np.cos(angle), np.sin(angle)
    square = (np.abs(c) ** 2.4 + np.abs(s) ** 2.4) ** (-1 / 2.4)
    wave = 1 + f[:, None] * (np.sin(folds * angle + 0.6) + 0.4 * np.sin((2 * folds - 1) * angle + 2.0))[None]
    points = np.stack([a[:, None] * c * square * wave, y[:, None] + b[:, None] * s * square * wave,
                       np.broadcast_to(z[:, None], (len(z), len(angle)))], -1)  # fmt: skip
    across, up = np.gradient(points, axis=1), np.gradient(points, axis=0)
    # The seam is one line of two columns: both take the mean of what lies on either side.
    across[:, 0] = across[:, -1] = points[:, 1] - points[:, -2]
    normal = np.cross(across, up)
    normal /= np.maximum(np.linalg.norm(normal, axis=-1, keepdims=True), 1e-12)
    uv = np.stack(np.broadcast_arrays(angle[None] * 0.15, z[:, None]), -1)
    return Shape(points.reshape(-1, 3), normal.reshape(-1, 3), uv.reshape(-1, 2), grid_triangles(len(z), len(angle)))


def _person(model: Model, thing: Thing, v: Values) -> None:
    """Someone in clothes, standing on z = 0."""
    name = tuple(POSES)[int(v["pose"])]
    pose, dress, height = POSES[name], DRESSES[int(v["dress"])], v["height"]
    seed = int(v["seed"])
    rng = np.random.default_rng(seed)
    (upper, lower) = use(model, CLOTHS[int(v["upper"])], CLOTHS[int(v["lower"])])
    skin, hair, shoe, blouse = use(
        model,
        _SKINS[seed % 3],
        "grey hair" if seed % 4 == 0 else _HAIRS[_SKINS[seed % 3]][seed % 2],
        "shoe leather",
        "chalk cloth",
    )
    child = float(np.clip((1.45 - height) / 0.4, 0, 1))
    lean, sits = pose.lean, name == "sitting"
    # Those who sit are as high as told when they stand: only their trunk is above the seat.
    base, neck = pose.hips, pose.hips + 0.325 - 0.02 * child
    slim = float(rng.uniform(0.92, 1.08))
    legs = lower if dress in ("jacket and trousers", "pullover and trousers", "long coat") else skin
    width = 1.18 if legs == lower else 0.95

    def hip(side: int) -> Joint:
        return (side * 0.046, 0.0, base - 0.01)

    for side, knee, foot in ((-1, *_pair(pose.knees, pose.feet, 0)), (1, *_pair(pose.knees, pose.feet, 1))):
        ankle = (foot[0], foot[1] + 0.012, foot[2] + 0.04)
        hem = 0.036 if legs == lower else 0.022
        thing.add(legs, _limb((hip(side), 0.049 * width * slim), (knee, 0.041 * width), (ankle, hem)).scaled(height))
        way = np.array([0.25 * side, -1.0])
        way /= np.linalg.norm(way)
        heel = np.array([ankle[0], ankle[1], foot[2] + 0.018])
        toe = heel + [0.075 * way[0], 0.075 * way[1], -0.004]
        sole = _limb((tuple(heel), 0.021), (tuple((heel + toe) / 2), 0.024), (tuple(toe), 0.015))
        sole.points[:, 2] = np.maximum(sole.points[:, 2], foot[2])
        thing.add(shoe, sole.scaled(height))

    y = lean  # of the shoulders
    shoulders = 0.118 * slim * (1 - 0.1 * child)
    waist = 0.082 * slim * (1 + 0.12 * child)
    trunk = [
        (base - 0.045, 0.06, 0.05, 0, 0),
        (base - 0.02, 0.096 * slim, 0.068, 0, 0),
        (base + 0.03, 0.1 * slim, 0.07, 0.1 * y, 0),
        (base + 0.11, waist, 0.056, 0.3 * y, 0),
        (base + 0.2, 0.1 * slim, 0.068, 0.7 * y, 0),
        (base + 0.26, 0.11 * slim, 0.07, 0.9 * y, 0),
        (neck - 0.034, shoulders * 0.95, 0.058, y, 0),
        (neck - 0.014, shoulders * 0.7, 0.047, y, 0),
        (neck + 0.004, 0.036, 0.034, y, 0),
        (neck + 0.006, 0.001, 0.001, y, 0),
    ]
    body = upper if dress != "skirt and blouse" else blouse
    thing.add(body, _wrapped(trunk).scaled(height))
    bottom = 0.2 if dress == "long coat" else 0.24 if dress in ("dress", "skirt and blouse") else base - 0.085
    if sits:
        thing.add(upper if dress in ("dress", "long coat") else lower, _lap(base).scaled(height))
    else:
        stride = max(abs(f[1]) for f in pose.feet)
        flare = 1.0 if dress in ("jacket and trousers", "pullover and trousers") else 1.28
        fold = 0.0 if flare == 1.0 else 0.055
        skirt = [
            (bottom, 0.115 * flare * slim, 0.086 * flare + 0.55 * stride * (flare > 1.0), 0.0, fold),
            ((bottom + base) / 2, 0.114 * (1 + flare) / 2 * slim, 0.084 * (1 + flare) / 2 + 0.3 * stride * (flare > 1.0), 0.0, fold * 0.6),
            (base + 0.0, 0.112 * slim, 0.082, 0.0, fold * 0.2),
            (base + 0.1, waist + 0.008, 0.062, 0.3 * y, 0),
        ]  # fmt: skip
        thing.add(lower if dress == "skirt and blouse" else upper, _wrapped(skirt, 7).scaled(height))
    for side, elbow, hand in ((-1, *_pair(pose.elbows, pose.hands, 0)), (1, *_pair(pose.elbows, pose.hands, 1))):
        shoulder = (side * (shoulders - 0.022), y, neck - 0.048)
        loose = 1.15 if dress in ("long coat", "jacket and trousers") else 1.0
        thing.add(body, _limb((shoulder, 0.034 * loose), (elbow, 0.029 * loose), (hand, 0.022 * loose)).scaled(height))
        along = np.array(hand) - elbow
        along /= np.linalg.norm(along)
        palm = np.array(hand) + 0.02 * along
        thing.add(skin, _limb((tuple(palm), 0.016), (tuple(palm + 0.035 * along), 0.012)).scaled(height))
    _head(thing, skin, hair, neck, y, child, pose.turn_deg, dress in ("dress", "skirt and blouse"), height)
    if name == "with a bag":
        x, by, z = pose.hands[1]
        bag = box([x - 0.022, by - 0.09, z - 0.17], [x + 0.022, by + 0.09, z - 0.05], 0.012)
        thing.add(shoe, join([bag, _limb(((x, by - 0.05, z - 0.06), 0.004), ((x, by, z - 0.005), 0.004), ((x, by + 0.05, z - 0.06), 0.004))]).scaled(height))  # fmt: skip
    if name == "under an umbrella":
        thing.add(lower, _umbrella(pose.hands[1]).scaled(height))


def _pair(a: tuple[Joint, Joint], b: tuple[Joint, Joint], which: int) -> tuple[Joint, Joint]:
    return a[which], b[which]


def _lap(base: float) -> Shape:
    return (
        _limb(((0.0, 0.02, base - 0.005), 0.07), ((0.0, -0.1, base - 0.005), 0.062))
        .scaled([1.35, 1, 0.9])
        .moved([0, 0, 0.1 * base])
    )


def _head(
    thing: Thing, skin: str, hair: str, neck: float, y: float, child: float, turn: float, long_hair: bool, height: float
) -> None:
    big = 1.06 + 0.2 * child
    chin, middle = neck + 0.03, neck + 0.105 + 0.012 * child
    thing.add(skin, _limb(((0, y + 0.004, neck - 0.02), 0.028), ((0, y - 0.004, chin + 0.02), 0.026)).scaled(height))
    face = _ball((0, 0, 0), (0.045 * big, 0.055 * big, 0.066 * big))
    # The face narrows towards the chin.
    low = np.clip(-face.points[:, 2] / (0.066 * big), 0, 1)
    face.points[:, 0] *= 1 - 0.28 * low**1.5
    face.points[:, 1] = face.points[:, 1] * (1 - 0.16 * low) - 0.008 * low
    nose = _ball((0, -0.055 * big, -0.008), (0.008, 0.012, 0.014))
    cap = _ball((0, 0.008, 0.011), (0.0495 * big, 0.058 * big, 0.064 * big))
    # Hair leaves the face free: what lies before a slanting plane is drawn into the head.
    before = cap.points[:, 1] < -0.012 - 0.55 * (cap.points[:, 2] - 0.035)
    cap.points[before] *= 0.72
    parts = [cap]
    if long_hair:
        parts.append(_ball((0, 0.034, -0.03), (0.043 * big, 0.03, 0.062)))
    for surface, shapes in ((skin, [face, nose]), (hair, parts)):
        for shape in shapes:
            thing.add(surface, shape.turned(turn).moved([0, y - 0.008, middle]).scaled(height))


def _umbrella(hand: Joint) -> Shape:
    """A round one of eight ribs over the head, its stick in the hand. For someone 1 m high."""
    top = (hand[0] - 0.09, hand[1] + 0.1, 1.14)
    radius, rise = 0.31, 0.1
    angle, share = np.linspace(0, 2 * np.pi, 65), np.linspace(0.0, 1, 12)
    # Cloth between the ribs hangs in, towards the rim (eight panels).
    sag = 1 - 0.06 * share[:, None] ** 2 * np.abs(np.sin(4 * angle))[None]
    r = radius * np.sin(share * np.pi / 2 * 0.96)[:, None] * sag
    z = np.broadcast_to((rise * np.cos(share * np.pi / 2 * 0.96))[:, None], r.shape)
    points = np.stack([top[0] + r * np.cos(angle), top[1] + r * np.sin(angle), top[2] - rise + z], -1)
    normal = points - np.array([top[0], top[1], top[2] - 0.5])
    normal /= np.linalg.norm(normal, axis=-1, keepdims=True)
    triangles = grid_triangles(len(share), len(angle))[:, ::-1]
    uv = np.stack(np.broadcast_arrays(angle[None], share[:, None]), -1)
    cloth = Shape(points.reshape(-1, 3), normal.reshape(-1, 3), uv.reshape(-1, 2), triangles)
    return join([cloth, _limb((hand, 0.006), ((top[0], top[1], top[2] + 0.01), 0.004))])


FAMILIES: tuple[Family, ...] = (
    Family("person", "Person", "People", _person, (length("height", "Height", 0.9, 2.05, 1.7, 0.01), kinds("pose", "Pose", *POSES), kinds("dress", "Dress", *DRESSES), kinds("upper", "Cloth above", *(c.removesuffix(" cloth") for c in CLOTHS)), kinds("lower", "Cloth below", *(c.removesuffix(" cloth") for c in CLOTHS)), number("seed", "Another of its kind", 1, 99, 1))),
)  # fmt: skip
