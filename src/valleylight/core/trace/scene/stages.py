"""Stages as the tracer has them: read once, and about their own origin."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass
from itertools import count

import numpy as np
from numpy.typing import NDArray

from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Occasion, Placement, Project, View
from valleylight.core.stage import StageData, assembled, read_glb
from valleylight.core.trace.scene.kept import Kept
from valleylight.core.trace.scene.origin import described_about, origin_of, stage_about

KEPT_STAGES = 2
#: A stage may stand on so many files.
MOST_FILES = 100_000
_given = count()


@dataclass(frozen=True)
class Placed:
    """A stage, and what is described, about the stage's own origin (3,) in metres of the model. `key` names the stage, `files` what
    it is made of, wherever that stands."""

    key: Hashable
    files: Hashable
    origin: NDArray[np.float64]
    stage: StageData
    description: Project
    view: View
    occasion: Occasion


class Stages:
    """Reads the models of projects and keeps the stages of the last few; or has one that is given outright."""

    def __init__(self, given: StageData | None = None) -> None:
        self._given = given
        self._given_key = ("given", next(_given))
        self._files: Kept[StageData] = Kept(MOST_FILES)
        self._recent: Kept[frozenset[str]] = Kept(KEPT_STAGES)
        self._assembled: Kept[StageData] = Kept(KEPT_STAGES)
        self._about: Kept[tuple[NDArray[np.float64], StageData]] = Kept(KEPT_STAGES)

    def key(self, project: LoadedProject) -> Hashable:
        """What the stage depends on: names that people give do not change it."""
        if self._given is not None:
            return self._given_key
        wanted = project.description
        return (
            tuple((p.asset, p.position, p.turn_deg, p.scale, p.layer) for p in wanted.placements),
            tuple((layer.in_models, layer.key) for layer in wanted.layers if layer.in_models),
        )

    def stage(self, project: LoadedProject) -> StageData:
        """The stage of a project, in the model's coordinates. Raises InputError for a file that cannot be read."""
        if self._given is not None:
            return self._given
        wanted = project.description
        if not wanted.placements:
            return StageData()

        def make() -> StageData:
            files = {p.asset: self._file(project, p) for p in wanted.placements}
            return assembled(files, wanted.placements, wanted.layers)

        key = self.key(project)
        made = self._assembled.get(key, make)
        # Files are kept for the stages used last: models of others are large, and replaced often.
        self._recent.get(key, lambda: frozenset(p.asset for p in wanted.placements))
        self._files.keep_only(frozenset().union(*self._recent.values()))
        return made

    def has_read(self, project: LoadedProject) -> bool:
        """Whether the files of a project's stage have been read: the first reading of large ones takes seconds."""
        if self._given is not None or self.key(project) in self._assembled:
            return True
        return all(p.asset in self._files for p in project.description.placements)

    def _file(self, project: LoadedProject, placement: Placement) -> StageData:
        return self._files.get(placement.asset, lambda: read_glb(project.asset(placement.asset), placement.name))

    def placed(self, project: LoadedProject, view: View, occasion: Occasion) -> Placed:
        """The stage and what is described, ready to be traced in single precision."""
        stage, key = self.stage(project), self.key(project)

        def make() -> tuple[NDArray[np.float64], StageData]:
            origin = origin_of(stage, project.description, view)
            return origin, stage_about(stage, origin)

        # Where nothing stands yet the lens itself says where the origin lies.
        origin, about = self._about.get(key, make) if stage.instances else make()
        files = (
            key if self._given is not None else tuple(dict.fromkeys(p.asset for p in project.description.placements))
        )
        return Placed(key, files, origin, about, *described_about(project.description, view, occasion, origin))
