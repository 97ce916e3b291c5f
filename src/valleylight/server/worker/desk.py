"""What answering a question needs."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from valleylight.core.compose.sprites import Sprites
from valleylight.core.project.archive import LoadedProject
from valleylight.core.trace.scene.compiler import Compiler, without_boxes
from valleylight.server.messages.questions import OfProject
from valleylight.server.store.files import FileStore


@dataclass(frozen=True)
class Desk:
    """`stop` says whether a patient question is to give way."""

    compiler: Compiler
    files: FileStore
    sprites: Sprites
    stop: Callable[[], bool] = lambda: False

    def project(self, question: OfProject, boxes: bool = False) -> LoadedProject:
        """The project a question is about, with its files; everything in its own shape unless it is asked of what is seen as boxes."""
        project = LoadedProject(question.project, self.files.read)
        return project if boxes else without_boxes(project)
