"""What the renderer is told."""

from __future__ import annotations

from valleylight.core.project.description import Project
from valleylight.server.messages.message import Message
from valleylight.server.messages.picture import PictureMode
from valleylight.server.messages.questions import AnyQuestion


class ShowLive(Message):
    """Show this view and occasion of a description, drafts included; the newest wish counts."""

    slug: str
    serial: int
    project: Project
    view: str
    occasion: str
    mode: PictureMode = "picture"
    alone: str | None = None
    dragging: bool = False


class HideLive(Message):
    """Nobody looks any more."""


class PlateWaiting(Message):
    """A plate was put in the queue."""


class CatalogueGrew(Message):
    """Profiles came in that have no picture yet."""


class StopJob(Message):
    """Stop the making of a plate."""

    job: int


class RunWaiting(Message):
    """A sequence is to be made, or gone on with."""


class StopRun(Message):
    """Stop the making of a sequence."""

    run: int


class Ask(Message):
    """A question, answered by an `Answer` with its number."""

    number: int
    question: AnyQuestion


Wish = ShowLive | HideLive | PlateWaiting | CatalogueGrew | StopJob | RunWaiting | StopRun | Ask
