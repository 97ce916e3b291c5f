"""Fixtures as the tracer has them: profiles, records, the grid that chooses them, and their bodies."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from valleylight.core.lamps import record
from valleylight.core.lamps.bodies import BodyMesh, build_bodies
from valleylight.core.lamps.compile import Lamps, compile_lamps, lit_records, standing_lamps, tinting_levels
from valleylight.core.lamps.emitting import objects_of
from valleylight.core.photometry import Photometry
from valleylight.core.photometry import read as read_photometry
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import SURFACE_GROUP, Occasion, Project
from valleylight.core.stage import Material
from valleylight.core.trace.scene.kept import Kept, digest
from valleylight.core.trace.scene.lampgrid import LampGrid, lamp_grid
from valleylight.core.trace.scene.stages import Placed

KEPT_LAMPS = 8


@dataclass(frozen=True)
class LightGroups:
    """The light groups of a film: daylight first, then emitting surfaces, then the groups of fixtures that are on; those in
    `shut` bring nothing and are not traced."""

    daylight: tuple[str, ...]
    names: tuple[str, ...]
    shut: frozenset[str]


def light_groups(description: Project, occasion: Occasion, materials: tuple[Material, ...]) -> LightGroups:
    """Which lights a film of an occasion keeps apart."""
    lit = {f.group for f in description.fixtures if f.on and f.percent > 0}
    shut = frozenset(g for g in description.groups() if occasion.levels.get(g, 100.0) <= 0 or g not in lit)
    emits = (SURFACE_GROUP,) if any(m.emits for m in materials) else ()
    daylight = occasion.daylight_groups()
    return LightGroups(daylight, (*daylight, *emits, *(g for g in description.groups() if g not in shut)), shut)


class Fixtures:
    """Reads the profiles of projects and compiles their fixtures; or has one profile, given outright, for all."""

    def __init__(self, given: Photometry | None = None) -> None:
        self._given = given
        self._profiles: dict[str, Photometry] = {}
        self._lamps: Kept[tuple[Lamps, LampGrid]] = Kept(KEPT_LAMPS)

    def profile(self, project: LoadedProject, sha256: str) -> Photometry:
        """A measured profile by the SHA-256 of its file. Raises InputError for a file that cannot be read."""
        if self._given is not None:
            return self._given
        if sha256 not in self._profiles:
            self._profiles[sha256] = read_photometry(project.asset(sha256))
        return self._profiles[sha256]

    def lamps(self, project: LoadedProject, placed: Placed, groups: LightGroups) -> tuple[Lamps, LampGrid]:
        """The records of what shines, and the grid that chooses among them."""
        description = placed.description
        levels = tinting_levels(description, placed.occasion)
        key = digest(description.fixtures, description.kinds, sorted(groups.shut), groups.names, sorted(levels.items()))

        def make() -> tuple[Lamps, LampGrid]:
            made = compile_lamps(
                description, lambda sha: self.profile(project, sha), {name: k for k, name in enumerate(groups.names)},
                groups.shut, levels, lambda name: objects_of(placed.stage, name),
            )  # fmt: skip
            before = self._lamps.newest()
            return made, lamp_grid(made.records, made.profiles, before[1] if before else None)

        return self._lamps.get((placed.key, key), make)

    def bodies(self, project: LoadedProject, description: Project) -> BodyMesh | None:
        """The bodies of all fixtures: they stand whether they are lit or not."""
        return build_bodies(standing_lamps(description, lambda sha: self.profile(project, sha)))


def bodies_key(description: Project) -> str:
    """What the bodies depend on: only moving a fixture makes the uppermost ray structure anew."""
    return digest(
        [(f.kind, f.position, f.aim, f.turn_deg) for f in description.fixtures],
        [(k.key, k.profile, k.body, k.seen, k.emits_from) for k in description.kinds],
    )


def lamp_arrays(description: Project, lamps: Lamps, grid: LampGrid, objects: tuple[str, ...]) -> dict[str, object]:
    """The fixtures as fields of SceneArrays; `objects` names those of the stage, in order."""
    only, inclusion = inclusion_lists(lamps, objects)
    records = lamps.records
    if only.any():
        records = records.copy()
        records[:, record.INCLUSION] = only
    return {
        "lamps": records, "lamp_of": lit_records(description, lamps), "profiles": lamps.profiles,
        "lamp_points": lamps.points, "inclusion": inclusion,
        "beam_lamps": np.flatnonzero(lamps.records[:, record.BEAM] > 0).astype(np.int64), **grid.arrays,
    }  # fmt: skip


def inclusion_lists(lamps: Lamps, objects: tuple[str, ...]) -> tuple[NDArray[np.float32], NDArray[np.uint8]]:
    """For each fixture the row of its list in the second table (S, O), 0 for none; 1 there means the object is lit."""
    rows = [np.zeros(len(objects), np.uint8)]
    only = np.zeros(len(lamps.fixtures), np.float32)
    known: dict[tuple[str, ...], int] = {}
    for k, fixture in enumerate(lamps.fixtures):
        if fixture.lights_only:
            if fixture.lights_only not in known:
                known[fixture.lights_only] = len(rows)
                rows.append(np.isin(objects, fixture.lights_only).astype(np.uint8))
            only[k] = known[fixture.lights_only]
    return only, np.stack(rows)
