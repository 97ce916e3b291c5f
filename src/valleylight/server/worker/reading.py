"""Models are read beside the worker's other work: a large one takes seconds, in which others want answers."""

from __future__ import annotations

import threading

from valleylight.core.project.archive import LoadedProject
from valleylight.core.trace.scene.compiler import Compiler

#: So long is waited for a reading to end before the worker turns to others: most models are read in that time.
PATIENCE_S = 0.05


class Reading:
    """Reads a project's models on a thread of its own, one project after the other."""

    def __init__(self, compiler: Compiler) -> None:
        self._compiler = compiler
        self._thread: threading.Thread | None = None
        self._assets: tuple[str, ...] = ()
        self._failed: Exception | None = None

    def is_done(self, project: LoadedProject) -> bool:
        """Whether the project's models are read; begins to read them. Raises what reading them raised."""
        if self._compiler.has_read(project):
            return True
        assets = tuple(p.asset for p in project.description.placements)
        if self._thread is None:
            self._assets, self._failed = assets, None
            self._thread = threading.Thread(target=self._read, args=(project,), daemon=True)
            self._thread.start()
        self._thread.join(PATIENCE_S)
        if self._thread.is_alive():
            return False
        self._thread, failed = None, self._failed
        if failed is not None and self._assets == assets:
            raise failed
        return self._compiler.has_read(project)

    def _read(self, project: LoadedProject) -> None:
        try:
            self._compiler.stage(project)
        except Exception as error:
            self._failed = error
