"""From fixtures of the description to the records that kernels read."""

from __future__ import annotations

import weakref
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import LUMINANCE, srgb_decode, xy_to_unit_rgb
from valleylight.core.colour.temperature import shifted_xy
from valleylight.core.errors import InputError
from valleylight.core.lamps.dimming import dimmed_kelvin
from valleylight.core.lamps.record import (
    C_STEPS,
    DISC,
    GAMMA_STEPS,
    LAMP_WIDTH,
    MESH,
    POINT,
    RECTANGLE,
    SPHERE,
)
from valleylight.core.photometry.model import LuminousOpening, Photometry
from valleylight.core.project.description import Fixture, FixtureKind, Occasion, Project

_SHAPES = {"point": POINT, "disc": DISC, "rectangle": RECTANGLE, "box": RECTANGLE, "sphere": SPHERE}
SMALLEST_HALF_M = 0.005
LINE_WIDTH_M = 0.02
#: Sides of the turned bodies (see bodies.py), and the area of such a polygon over that of its circle.
SIDES = 20
ROUND = float(np.sin(2 * np.pi / SIDES) / (2 * np.pi / SIDES))


@dataclass(frozen=True)
class Lamps:
    """Records (L, 25) and profile tables (F, 73, 361) in cd, with the fixture each record stands for."""

    records: NDArray[np.float32]
    profiles: NDArray[np.float32]
    fixtures: tuple[Fixture, ...]
    openings: tuple[tuple[str, float, float], ...]
    points: NDArray[np.float32] = field(default_factory=lambda: np.zeros((1, 6), np.float32))


NO_LAMPS = Lamps(np.zeros((0, LAMP_WIDTH), np.float32), np.zeros((1, C_STEPS + 1, GAMMA_STEPS + 1), np.float32), (), ())


def orientation(position: NDArray[np.float64], aim: NDArray[np.float64], turn_deg: float) -> NDArray[np.float64]:
    """Rows are the fixture's own X, Y and Z axes in the world; its nadir (-Z) points at the aim.

    X is turned by `turn_deg` counter-clockwise seen from above, then carried along by the least rotation from straight
    down to the aim.
    """
    down = aim - position
    down = down / np.linalg.norm(down)
    turn = np.radians(turn_deg)
    x = np.array([np.cos(turn), np.sin(turn), 0.0])
    y = np.array([-np.sin(turn), np.cos(turn), 0.0])
    axis = np.cross([0.0, 0.0, -1.0], down)
    sine, cosine = float(np.linalg.norm(axis)), float(-down[2])
    if sine < 1e-9:
        return np.stack([x, y, [0, 0, 1.0]]) if cosine > 0 else np.stack([x, -y, [0, 0, -1.0]])
    k = axis / sine
    cross = np.array([[0, -k[2], k[1]], [k[2], 0, -k[0]], [-k[1], k[0], 0]])
    rotation = np.eye(3) + sine * cross + (1 - cosine) * cross @ cross
    return np.stack([rotation @ x, rotation @ y, -down])


#: Tables made before, by the profile (which the reference keeps from being taken for another): a fixture that is moved needs them again.
_TABLES: dict[int, tuple[weakref.ref[Photometry], NDArray[np.float32]]] = {}
MOST_TABLES = 256


def profile_table(profile: Photometry) -> NDArray[np.float32]:
    """The intensity resampled to 5 degrees of C and half a degree of gamma, kept to the profile's flux."""
    kept = _TABLES.get(id(profile))
    if kept is not None and kept[0]() is profile:
        return kept[1]
    made = _resampled(profile)
    if len(_TABLES) >= MOST_TABLES:
        _TABLES.clear()
    _TABLES[id(profile)] = (weakref.ref(profile), made)
    return made


def _resampled(profile: Photometry) -> NDArray[np.float32]:
    c = np.linspace(0, 360, C_STEPS + 1)
    gamma = np.linspace(0, 180, GAMMA_STEPS + 1)
    table = profile.intensity(c[:, None], gamma[None, :])
    resampled = Photometry(c, gamma, table)
    return np.asarray(table * (profile.lumens / max(resampled.lumens, 1e-12)), np.float32)


def flux_lm(fixture: Fixture, kind: FixtureKind, profile: Photometry) -> float:
    """Flux in lm of a fixture at its own percent: its own figure, else its kind's, else its profile's; less what age and
    dirt take, and what the tilt of its lamp takes."""
    full = fixture.lumens or kind.lumens or profile.lumens
    tilt = 1.0
    if profile.tilt_angles_deg:
        down = np.array(fixture.aim) - np.array(fixture.position)
        tilt = profile.tilt_factor(float(np.degrees(np.arccos(np.clip(-down[2] / np.linalg.norm(down), -1, 1)))))
    return full * kind.depreciation * tilt * fixture.percent / 100.0


def unit_colour(fixture: Fixture, kind: FixtureKind, group_level: float = 1.0) -> NDArray[np.float64]:
    """Linear RGB (3,) at luminance 1 of a fixture whose group stands at a level (1: full)."""
    if kind.rgb and fixture.kelvin is None:
        rgb = srgb_decode(np.array([int(kind.rgb[k : k + 2], 16) for k in (1, 3, 5)]) / 255.0)
        return np.asarray(rgb / max(float(rgb @ LUMINANCE), 1e-4), np.float64)
    kelvin = dimmed_kelvin(fixture.kelvin or kind.kelvin, fixture.percent / 100.0 * group_level, kind.dimming)
    return np.maximum(xy_to_unit_rgb(*shifted_xy(kelvin, kind.duv)), 0.0)


def tinting_levels(project: Project, occasion: Occasion) -> dict[str, float]:
    """Levels (1: full) of the groups that hold fixtures whose colour follows their level."""
    follows = {kind.key for kind in project.kinds if kind.dimming != "steady"}
    groups = {f.group for f in project.fixtures if f.kind in follows}
    return {g: occasion.levels.get(g, 100.0) / 100.0 for g in sorted(groups)}


def compile_lamps(
    project: Project, read_profile: Callable[[str], Photometry], groups: dict[str, int], shut: frozenset[str],
    levels: dict[str, float] | None = None, objects: Callable[[str], list[NDArray[np.float64]]] = lambda name: [],
) -> Lamps:  # fmt: skip
    """Records of the fixtures that are on, at their own percent; groups in `shut` are left out.

    `groups` gives the film's number of each fixture group; `read_profile` a profile by SHA-256; `levels` (1: full) of
    groups tint lamps whose colour follows their level, and change nothing else: the balance does. `objects` gives points
    and normals (N, 6) on each object whose name begins so, for light that comes from a mesh. Raises InputError where there
    is none.
    """
    levels = levels or {}
    kinds = {kind.key: kind for kind in project.kinds}
    lit = [f for f in project.fixtures if f.on and f.percent > 0 and f.group not in shut]
    if not lit:
        return NO_LAMPS
    numbers: dict[str, int] = {}
    tables: list[NDArray[np.float32]] = []
    profiles: list[Photometry] = []
    rows = np.zeros((len(lit), LAMP_WIDTH), np.float32)
    shapes = []
    points = [np.zeros((1, 6))]
    for row, fixture in zip(rows, lit, strict=True):
        kind: FixtureKind = kinds[fixture.kind]
        if kind.profile not in numbers:
            numbers[kind.profile] = len(tables)
            profiles.append(read_profile(kind.profile))
            tables.append(profile_table(profiles[-1]))
        number = numbers[kind.profile]
        profile = profiles[number]
        position = np.array(fixture.position)
        row[0:3] = position
        row[3:12] = orientation(position, np.array(fixture.aim), fixture.turn_deg).ravel()
        level = flux_lm(fixture, kind, profile) / profile.lumens
        row[12:15] = unit_colour(fixture, kind, levels.get(fixture.group, 1.0)) * level
        row[15] = number
        o = _opening(kind, profile)
        row[16] = _SHAPES[o.shape]
        row[17] = max(o.width_m / 2, SMALLEST_HALF_M)
        row[18] = max(o.length_m / 2, SMALLEST_HALF_M)
        half_u, half_v = float(row[17]), float(row[18])
        if kind.emits_from is not None and kind.emits_from.shape == "mesh":
            row[16], row[17] = MESH, sum(len(p) for p in points)
            points.append(_nearest_object(objects(kind.emits_from.object), position, kind))
            row[18] = len(points[-1])
        row[19] = groups[fixture.group]
        row[20], row[24] = _face_areas_m2(kind.body, half_u, half_v)
        row[21] = profile.lumens / (4 * np.pi)
        row[22] = fixture.beam
        shapes.append((kind.body if kind.seen else "none", half_u, half_v))
    return Lamps(rows, np.stack(tables), tuple(lit), tuple(shapes), np.concatenate(points).astype(np.float32))


def _nearest_object(
    found: list[NDArray[np.float64]], position: NDArray[np.float64], kind: FixtureKind
) -> NDArray[np.float64]:
    """Points of the object nearest to a fixture."""
    if not found:
        name = kind.emits_from.object if kind.emits_from else ""
        raise InputError(
            f"there is no object {name!r} for the light of {kind.name}",
            "emits_from.object",
            "Name an object of the stage",
        )
    return min(found, key=lambda p: float(np.linalg.norm(p[:, :3].mean(0) - position)))


def _face_areas_m2(body: str, half_u: float, half_v: float) -> tuple[float, float]:
    """Luminous area in m2 of a plain body seen along its axis and from the side."""
    if body == "pendant":
        area = np.pi * max(half_u, 0.05) ** 2 * ROUND
        return area, area
    if body == "bulb":
        area = np.pi * max(half_u, 0.015) ** 2 * ROUND
        return area, area
    if body == "table":
        return np.pi * (0.15**2 - 0.10**2), 0.25 * 0.20
    if body == "lantern":
        return np.pi * (0.13**2 - 0.10**2), 0.23 * 0.26
    if body == "line":
        return 4 * half_u * half_v, 0.0
    return np.pi * half_u**2 * ROUND, 0.0


def _opening(kind: FixtureKind, profile: Photometry) -> LuminousOpening:
    """What the light of a kind comes from near by."""
    chosen = kind.emits_from
    if chosen is None or chosen.shape == "mesh":
        return profile.opening
    if chosen.shape in ("disc", "sphere"):
        return LuminousOpening(chosen.shape, chosen.width_m, chosen.width_m, chosen.width_m)
    if chosen.shape == "line":
        return LuminousOpening("rectangle", min(chosen.width_m, LINE_WIDTH_M), chosen.length_m)
    return LuminousOpening(chosen.shape, chosen.width_m, chosen.length_m)


def standing_lamps(project: Project, read_profile: Callable[[str], Photometry]) -> Lamps:
    """Records of all fixtures of a project, lit or not, for their bodies."""
    fixtures = tuple(f.model_copy(update={"on": True, "percent": 100.0}) for f in project.fixtures)
    lit = project.model_copy(update={"fixtures": fixtures})
    plain = tuple(
        k.model_copy(update={"emits_from": None}) if k.emits_from and k.emits_from.shape == "mesh" else k
        for k in lit.kinds
    )
    lit = lit.model_copy(update={"kinds": plain})
    return compile_lamps(lit, read_profile, dict.fromkeys(project.groups(), 0), frozenset())


def lit_records(project: Project, lamps: Lamps) -> NDArray[np.int64]:
    """For each fixture of the project its row among the records of the lit ones, -1 where it is off; shape (N,), at
    least one long."""
    row = {fixture.key: k for k, fixture in enumerate(lamps.fixtures)}
    return np.array([row.get(f.key, -1) for f in project.fixtures] or [-1], np.int64)
