"""The catalogue of cut-outs that ships: people at various things, trees, shrubs, and what stands about, all made by our own families."""

from __future__ import annotations

from dataclasses import dataclass

from valleylight.core.compose.sides import STANDING
from valleylight.core.objects import FAMILIES, family_of
from valleylight.core.objects.people import POSES
from valleylight.core.project.placement import Made


@dataclass(frozen=True)
class Offer:
    """A cut-out to place: its key, name and group, how it is made, and how high it stands in m."""

    key: str
    name: str
    group: str
    made: Made
    height_m: float


#: Words, pose, dress, cloth above and below, height in m and number of each person that is offered.
_PEOPLE = (
    ("Walking, long coat", "walking", 1, 5, 0, 1.72, 3), ("Walking, jacket", "walking", 0, 0, 5, 1.8, 4), ("Walking, dress", "walking", 2, 2, 2, 1.66, 7),
    ("Standing", "standing", 3, 3, 0, 1.78, 2), ("Standing, skirt", "standing", 4, 4, 6, 1.64, 5), ("In talk", "in talk", 0, 5, 5, 1.76, 9),
    ("In talk, dress", "in talk", 2, 1, 1, 1.68, 10), ("With a bag", "with a bag", 1, 0, 5, 1.7, 12), ("Looking up", "looking up", 3, 2, 0, 1.74, 14),
    ("Sitting", "sitting", 3, 3, 5, 1.72, 15), ("Child, standing", "standing", 3, 1, 0, 1.16, 16), ("Child, walking", "walking", 3, 2, 5, 1.25, 17),
    ("Under an umbrella", "under an umbrella", 1, 0, 2, 1.72, 19), ("Under an umbrella, dress", "under an umbrella", 2, 6, 5, 1.66, 20),
)  # fmt: skip


def _people() -> list[Offer]:
    poses = tuple(POSES)
    made = []
    for name, pose, dress, upper, lower, height, seed in _PEOPLE:
        numbers = {
            "pose": poses.index(pose),
            "dress": dress,
            "upper": upper,
            "lower": lower,
            "height": height,
            "seed": seed,
        }
        key = f"person-{name.lower().replace(',', '').replace(' ', '-')}"
        made.append(Offer(key, name, "People", Made(family="person", parameters=numbers), _drawn_height(height, pose)))
    return made


def _drawn_height(height: float, pose: str) -> float:
    """How high someone's picture is: who sits is lower, and an umbrella stands over the head."""
    return round(height * {"sitting": 0.795, "under an umbrella": 1.153}.get(pose, 1.0), 3)


#: How high families stand that have no height among their numbers, or grow to another, in m.
_STANDS_M = {
    "birch": 9.78, "hazel": 3.08, "box": 1.04, "juniper": 2.43, "pot-plant": 1.3, "hedge": 1.48, "grass": 0.43, "flowers": 0.52, "reeds": 1.45,
    "fern": 0.34, "armchair": 0.837, "sofa": 0.837, "bench": 0.85, "fence": 1.25, "bicycle": 1.04, "car": 1.48, "stone-wall": 1.32, "stones": 0.38,
}  # fmt: skip
#: What lies flat, or is offered in clothes.
_LEFT_OUT = ("person", "figure", "paving")


def _families() -> list[Offer]:
    groups = {name: k for k, name in enumerate(STANDING)}
    found = [f for f in FAMILIES if f.group in groups and f.key not in _LEFT_OUT]
    made = []
    for family in sorted(found, key=lambda f: groups[f.group]):
        height = _STANDS_M.get(family.key) or next(
            (p.first for p in family.parameters if p.key in ("height", "back")), 1.0
        )
        made.append(Offer(family.key, family.name, family.group, Made(family=family.key), height))
    return made


OFFERS: tuple[Offer, ...] = (*_people(), *_families())


def true_height_m(what: Made) -> float:
    """How high a member of a family stands, in m, by its own numbers. Raises NotFoundError, InputError."""
    from valleylight.core.objects import made
    from valleylight.core.stage import read_glb

    low, high = read_glb(made(family_of(what.family), what.parameters), what.family).bounds()
    return float(high[2] - low[2])
