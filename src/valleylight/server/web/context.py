"""What routes need: settings, files, the worker and the listening browsers."""

from __future__ import annotations

import functools
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Annotated, ParamSpec, TypeVar

from fastapi import Depends, Header, Request
from fastapi.concurrency import run_in_threadpool

from valleylight.core.project.description import Project
from valleylight.server.store import storage
from valleylight.server.store.files import FileStore
from valleylight.server.web.hub import Hub
from valleylight.server.web.link import WorkerLink
from valleylight.server.web.underway import AllUnderway
from valleylight.server.settings import Settings
from valleylight.server.store.tables import database

P = ParamSpec("P")
R = TypeVar("R")


@dataclass
class Context:
    settings: Settings
    files: FileStore
    worker: WorkerLink
    hub: Hub
    underway: AllUnderway = field(default_factory=AllUnderway)


def _context(request: Request) -> Context:
    return request.app.state.context  # type: ignore[no-any-return]


Here = Annotated[Context, Depends(_context)]
#: Whose hand an edit comes from: a browser's window names itself, so that its own edits never meet each other.
Hand = Annotated[str, Header(alias="Valleylight-Hand", max_length=64)]


def with_database(function: Callable[P, R]) -> Callable[P, R]:
    """Run a function with a database connection of its own, given back to the pool afterwards."""

    @functools.wraps(function)
    def wrapped(*args: P.args, **kwargs: P.kwargs) -> R:
        with database.connection_context():
            return function(*args, **kwargs)

    return wrapped


async def described(slug: str) -> Project:
    """A project's description, for a question to the worker. Raises NotFoundError."""
    return await run_in_threadpool(_described, slug)


@with_database
def _described(slug: str) -> Project:
    return storage.description(storage.project_row(slug))
