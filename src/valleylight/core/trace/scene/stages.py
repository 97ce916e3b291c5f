"""Stages as the tracer has them: read once, and about their own origin."""

from __future__ import annotations

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, replace
from itertools import count

import numpy as np
from numpy.typing import NDArray

from valleylight.core.lamps.along import every_lamp
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Occasion, Placement, Project, View
from valleylight.core.project.repeats import Strewn
from valleylight.core.stage import StageData, assembled, read_glb
from valleylight.core.stage.assembly import extended, matrix_of
from valleylight.core.stage.boxes import as_boxes
from valleylight.core.stage.dressing import set_apart
from valleylight.core.stage.strewing import strewn
from valleylight.core.trace.scene.kept import Kept
from valleylight.core.trace.scene.origin import described_about, origin_of, stage_about

KEPT_STAGES = 2
#: A stage may stand on so many files.
MOST_FILES = 100_000
_given = count()


@dataclass(frozen=True)
class Placed:
    """A stage, and what is described, about the stage's own origin (3,) in metres of the model. `key` names the stage, `files` what
    it is made of, wherever that stands. Its first `fast` instances, and the first
    `fast_materials`, named by `fast_key`, are of what is not moved by hand."""

    key: Hashable
    files: Hashable
    fast_key: Hashable
    fast: int
    fast_materials: int
    origin: NDArray[np.float64]
    stage: StageData
    description: Project
    view: View
    occasion: Occasion


def is_loose(p: Placement) -> bool:
    """Whether a thing is moved about while the rest of the stage stands."""
    return p.made is not None and p.repeat is None


def _standing(p: Placement) -> Hashable:
    """All of a placement that the stage depends on; its name is one of an object's, see stage/assembly.py."""
    own_name = p.name if p.made is not None else None
    return p.asset, p.position, p.turn_deg, p.scale, p.up, p.mirrored, p.layer, p.repeat, p.hidden, own_name


def _fast(files: Mapping[str, StageData], wanted: Project) -> StageData:
    """What stands fast, with what is strewn over it, which knows its ground first."""
    fast = [p for p in wanted.placements if not is_loose(p)]
    ground = assembled(files, fast, wanted.layers)
    places = {}
    for p in fast:
        if isinstance(p.repeat, Strewn) and not p.hidden:
            own = matrix_of(p.model_copy(update={"position": (0.0, 0.0, 0.0), "turn_deg": 0.0}))
            places[p.key] = strewn(p, p.repeat, ground, np.eye(4) if own is None else own)
    return assembled(files, fast, wanted.layers, places) if places else ground


def _changes(wanted: Project) -> tuple[Hashable, ...]:
    """What is done to a stage once it is put together depends on this; on layers that are known by their own names too."""
    return wanted.stage.apart, wanted.boxed()


def _changed(stage: StageData, wanted: Project) -> StageData:
    return as_boxes(set_apart(stage, wanted.stage.apart), wanted.boxed())


class Stages:
    """Reads the models of projects and keeps the stages of the last few; or has one that is given outright."""

    def __init__(self, given: StageData | None = None) -> None:
        self._given = given
        self._given_key = ("given", next(_given))
        self._files: Kept[StageData] = Kept(MOST_FILES)
        self._recent: Kept[frozenset[str]] = Kept(KEPT_STAGES)
        self._assembled: Kept[StageData] = Kept(KEPT_STAGES)
        self._fast: Kept[StageData] = Kept(KEPT_STAGES)
        self._about: Kept[tuple[NDArray[np.float64], StageData]] = Kept(KEPT_STAGES)

    def key(self, project: LoadedProject) -> Hashable:
        """What the stage depends on: names that people give do not change it."""
        if self._given is not None:
            return self._given_key
        wanted = project.description
        return self._fast_key(project), tuple(_standing(p) for p in wanted.placements if is_loose(p))

    def sizes_key(self, project: LoadedProject) -> Hashable:
        """What the sizes of things depend on: not where those stand that are moved about."""
        loose = tuple((p.asset, p.scale) for p in project.description.placements if is_loose(p))
        return self._fast_key(project), loose

    def _fast_key(self, project: LoadedProject) -> Hashable:
        if self._given is not None:
            return self._given_key
        wanted = project.description
        return (
            tuple((_standing(p), p.key if p.repeat else "") for p in wanted.placements if not is_loose(p)),
            frozenset((layer.in_models, layer.key) for layer in wanted.layers if layer.in_models), *_changes(wanted),
        )  # fmt: skip

    def stage(self, project: LoadedProject) -> StageData:
        """The stage of a project, in the model's coordinates. Raises InputError for a file that cannot be read."""
        if self._given is not None:
            return self._given
        wanted = project.description
        if not wanted.placements:
            return StageData()

        def make() -> StageData:
            fast = self._fast_stage(project)
            loose = [p for p in wanted.placements if is_loose(p)]
            more = assembled({p.asset: self._file(project, p) for p in loose}, loose, wanted.layers)
            return extended(fast, _changed(more, wanted)) if loose else fast

        key = self.key(project)
        made = self._assembled.get(key, make)
        # Files are kept for the stages used last: models of others are large, and replaced often.
        self._recent.get(key, lambda: frozenset(p.asset for p in wanted.placements))
        self._files.keep_only(frozenset().union(*self._recent.values()))
        return made

    def _fast_stage(self, project: LoadedProject) -> StageData:
        """What of the stage stands fast."""
        if self._given is not None:
            return self._given
        wanted = project.description

        def make() -> StageData:
            fast = _fast({p.asset: self._file(project, p) for p in wanted.placements if not is_loose(p)}, wanted)
            return _changed(fast, wanted)

        return self._fast.get(self._fast_key(project), make)

    def has_read(self, project: LoadedProject) -> bool:
        """Whether the files of a project's stage have been read: the first reading of large ones takes seconds."""
        if self._given is not None or self.key(project) in self._assembled:
            return True
        return all(p.asset in self._files for p in project.description.placements)

    def file(self, project: LoadedProject, placement: Placement) -> StageData:
        """What the file of a placement holds, in its own frame; of a stage that is given outright, all of it."""
        return self._given if self._given is not None else self._file(project, placement)

    def _file(self, project: LoadedProject, placement: Placement) -> StageData:
        return self._files.get(placement.asset, lambda: read_glb(project.asset(placement.asset), placement.name))

    def placed(self, project: LoadedProject, view: View, occasion: Occasion) -> Placed:
        """The stage and what is described, ready to be traced in single precision."""
        stage, key = self.stage(project), self.key(project)
        fast, fast_key = self._fast_stage(project), self._fast_key(project)

        def make() -> tuple[NDArray[np.float64], StageData]:
            origin = origin_of(fast if fast.instances else stage, project.description, view)
            return origin, stage_about(fast, origin)

        # Where nothing stands fast yet the lens, or what is loose, says where the origin lies.
        origin, about = self._about.get(fast_key, make) if fast.instances else make()
        if stage is not fast:
            loose = stage_about(replace(stage, instances=stage.instances[len(fast.instances) :]), origin)
            about = replace(
                stage,
                instances=(*about.instances, *loose.instances),
                openings=(*about.openings, *loose.openings[len(fast.openings) :]),
            )
        placements = project.description.placements
        both = (dict.fromkeys(p.asset for p in placements if is_loose(p) is loose) for loose in (False, True))
        files = (
            key if self._given is not None else (*(tuple(assets) for assets in both), *_changes(project.description))
        )
        described = described_about(every_lamp(project.description), view, occasion, origin)
        return Placed(key, files, fast_key, len(fast.instances), len(fast.materials), origin, about, *described)
