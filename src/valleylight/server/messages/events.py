"""What the renderer tells."""

from __future__ import annotations

from typing import Any, Literal

from valleylight.server.messages.message import Message
from valleylight.server.messages.picture import LiveFault, LiveHeader


class Ready(Message):
    """It has started, and hears."""


class Died(Message):
    """It is gone; said by the web process, which starts the next one."""


class LiveShown(Message):
    """A live picture (JPEG) with what it shows, or why there is none."""

    slug: str
    header: LiveHeader | LiveFault
    image: bytes


class JobChanged(Message):
    """Something was written of a job."""

    job: int
    status: Literal["running", "done", "stopped", "failed"]


class JobPreview(Message):
    """The plate in the making, as JPEG."""

    job: int
    image: bytes


class RunChanged(Message):
    """Something was written of a sequence in the making, or a frame of it is there."""

    run: int


class CataloguePictured(Message):
    """Profiles have pictures now that had none."""


class Answer(Message):
    """The value of an answered question."""

    number: int
    value: Any


class Refusal(Message):
    """A question that cannot be answered, by what a user can mend."""

    number: int
    missing: bool  # what was asked for is not there
    what: str
    where: str
    remedy: str


class Failure(Message):
    """A question at which the renderer failed."""

    number: int
    reason: str


Event = Ready | Died | LiveShown | JobChanged | JobPreview | RunChanged | CataloguePictured | Answer | Refusal | Failure
