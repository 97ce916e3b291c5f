"""Stages as the tracer has them: read once, and about their own origin."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass
from itertools import count

import numpy as np
from numpy.typing import NDArray

from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.description import Occasion, Project, View
from valleylight.core.stage import StageData, merge, read_glb
from valleylight.core.trace.scene.kept import Kept
from valleylight.core.trace.scene.origin import described_about, origin_of, stage_about

KEPT_STAGES = 2
_given = count()


@dataclass(frozen=True)
class Placed:
    """A stage, and what is described, about the stage's own origin (3,) in metres of the model; `key` names the stage."""

    key: Hashable
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
        self._read: Kept[StageData] = Kept(KEPT_STAGES)
        self._about: Kept[tuple[NDArray[np.float64], StageData]] = Kept(KEPT_STAGES)

    def key(self, project: LoadedProject) -> Hashable:
        """What the stage depends on."""
        return self._given_key if self._given is not None else tuple(m.asset for m in project.description.stage.models)

    def stage(self, project: LoadedProject) -> StageData:
        """The imported stage of a project, in the model's coordinates. Raises InputError for a file that cannot be read."""
        if self._given is not None:
            return self._given
        models = project.description.stage.models
        if not models:
            return StageData()
        return self._read.get(
            self.key(project), lambda: merge([read_glb(project.asset(m.asset), m.name) for m in models])
        )

    def has_read(self, project: LoadedProject) -> bool:
        """Whether the models of a project have been read: the first reading of large ones takes seconds."""
        return self._given is not None or not project.description.stage.models or self.key(project) in self._read

    def placed(self, project: LoadedProject, view: View, occasion: Occasion) -> Placed:
        """The stage and what is described, ready to be traced in single precision."""
        stage, key = self.stage(project), self.key(project)

        def make() -> tuple[NDArray[np.float64], StageData]:
            origin = origin_of(stage, project.description, view)
            return origin, stage_about(stage, origin)

        # Where nothing stands yet the lens itself says where the origin lies.
        origin, about = self._about.get(key, make) if stage.placements else make()
        return Placed(key, origin, about, *described_about(project.description, view, occasion, origin))
