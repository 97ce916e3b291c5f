"""A queue of long work in a table: each piece is claimed under a lease that its holder renews, so that several renderers may share it.

A holder is one renderer of one folder of files; a lease that was not renewed in time is anybody's. Everything a holder writes
of a piece is written only while the lease is its own.
"""

from __future__ import annotations

import hashlib
import socket
from datetime import timedelta
from pathlib import Path
from typing import Any, Generic, TypeVar

from peewee import fn

from valleylight.server.store.tables import JobRow, RunRow, now

#: A lease holds for so long, and is renewed so often; a renderer that is only slow keeps its work.
LEASE_S, RENEW_S = 30.0, 5.0
#: Work at which a renderer died so many times is set aside, so that other work gets its turn.
MOST_DEATHS = 2
UNDERWAY = ("waiting", "running")
R = TypeVar("R", JobRow, RunRow)


class LeaseLostError(Exception):
    """The work is another's now, or is no more: what is at hand of it is dropped."""


def holder_of(folder: Path) -> str:
    """Name of the renderer of a folder on this machine: the same after a restart, for one server at a time has the folder."""
    place = hashlib.sha256(str(folder.resolve()).encode()).hexdigest()[:12]
    return f"{socket.gethostname()[:40]}-{place}"


class Queue(Generic[R]):
    """The waiting and running rows of a table of work."""

    def __init__(self, table: type[R]) -> None:
        self._table: Any = table
        #: In the order put by hand, where the table knows one, else by age.
        self._rank = fn.COALESCE(self._table.rank, self._table.id) if hasattr(table, "rank") else self._table.id

    def next_waiting(self) -> R | None:
        """The first waiting job of the queue, not yet held: in the order put by hand, else by age."""
        waiting = self._table.select().where(self._table.status == "waiting", ~self._table.stop_asked)
        return waiting.order_by(self._rank, self._table.id).first()

    def hold(self, job: R, holder: str) -> bool:
        """Take one waiting job. False where another was quicker, or it was stopped meanwhile."""
        fields = {"status": "running", "holder": holder, "held_until": self._lease(), "changed": now()}
        taken = (
            self._table.update(fields)
            .where(self._table.id == job.id, self._table.status == "waiting", ~self._table.stop_asked)
            .execute()
        )
        if taken:
            for name, value in fields.items():
                setattr(job, name, value)
            self._written(job)
        return bool(taken)

    def renew(self, job_id: int, holder: str) -> bool:
        """Hold on to a job for another while. Returns whether it is to stop; raises LeaseLostError when it is another's."""
        self._mine(job_id, holder, held_until=self._lease())
        return bool(self._table.get_by_id(job_id).stop_asked)

    def tell(self, job: R, holder: str) -> None:
        """Write what has changed of a held job. Raises LeaseLostError when it is another's."""
        job.changed = now()
        self._mine(job.id, holder, **{field.name: getattr(job, field.name) for field in job.dirty_fields})
        self._written(job)

    def let_go(self, holder: str, message: str) -> None:
        """What this renderer holds waits for the next one. That is no death."""
        self._table.update(status="waiting", message=message, holder="", held_until=None).where(
            self._table.status == "running", self._table.holder == holder
        ).execute()

    def forsaken(self, holder: str) -> list[R]:
        """Jobs that nobody works on: left by this renderer's forerunner, or by another whose lease has run out."""
        free = (self._table.holder == holder) | self._table.held_until.is_null() | (self._table.held_until < now())
        return list(self._table.select().where(self._table.status == "running", free).order_by(self._table.id))

    def stops_unheard(self) -> list[R]:
        """Jobs that wait and were asked to stop before anybody had them."""
        return list(self._table.select().where(self._table.stop_asked, self._table.status == "waiting"))

    def take_back(self, job: R, message: str) -> None:
        """Put a forsaken job in the queue again: one death more."""
        left = self._table.update(
            status="waiting", holder="", held_until=None, message=message, interruptions=self._table.interruptions + 1
        )
        left.where(self._table.id == job.id, self._table.status == "running", self._as_held(job)).execute()

    def end(self, job: R, status: str, message: str) -> None:
        """Write that a job is over, whoever has it. Raises LeaseLostError where it has changed hands since it was read."""
        fields = {
            **{field.name: getattr(job, field.name) for field in job.dirty_fields}, "status": status, "message": message[:255],
            "changed": now(), "seconds_left": 0.0, "holder": "", "held_until": None,
        }  # fmt: skip
        if (
            not self._table.update(fields)
            .where(self._table.id == job.id, self._table.status.in_(UNDERWAY), self._as_held(job))
            .execute()
        ):
            raise LeaseLostError
        job.status, job.message = status, message[:255]
        self._written(job)

    def stopped_before(self, kept: int, most: int = 20) -> list[R]:
        """Jobs that were stopped, but for the last few."""
        stopped = (
            self._table.select()
            .where(self._table.status == "stopped")
            .order_by(self._table.changed.desc(), self._table.id.desc())
        )
        return list(stopped.offset(kept).limit(most))

    def _written(self, job: Any) -> None:
        job._dirty.clear()  # peewee knows this for its own saves only

    def _as_held(self, job: R) -> Any:
        return self._table.holder == job.holder

    def _mine(self, job_id: int, holder: str, **fields: Any) -> None:
        changed = self._table.update(fields).where(
            self._table.id == job_id, self._table.status == "running", self._table.holder == holder
        )
        # Every write moves a moment, so a row that is ours counts as changed.
        if fields and not changed.execute():
            raise LeaseLostError

    def _lease(self) -> Any:
        return now() + timedelta(seconds=LEASE_S)
