"""The queue of plates to be made: each is claimed under a lease that its holder renews, so that several renderers may share it.

A holder is one renderer of one folder of files; a lease that was not renewed in time is anybody's. Everything a holder writes
of a job is written only while the lease is its own.
"""

from __future__ import annotations

import hashlib
import socket
from datetime import timedelta
from pathlib import Path
from typing import Any

from peewee import fn

from valleylight.core.errors import InputError
from valleylight.server.store.tables import JobRow, database, now

#: A lease holds for so long, and is renewed so often; a renderer that is only slow keeps its plate.
LEASE_S, RENEW_S = 30.0, 5.0
#: A plate at which a renderer died so many times is set aside, so that others get their turn.
MOST_DEATHS = 2
_RANK = fn.COALESCE(JobRow.rank, JobRow.id)
UNDERWAY = ("waiting", "running")


class LeaseLostError(Exception):
    """The job is another's now, or is no more: what is at hand of it is dropped."""


def holder_of(folder: Path) -> str:
    """Name of the renderer of a folder on this machine: the same after a restart, for one server at a time has the folder."""
    place = hashlib.sha256(str(folder.resolve()).encode()).hexdigest()[:12]
    return f"{socket.gethostname()[:40]}-{place}"


def next_waiting() -> JobRow | None:
    """The first waiting job of the queue, not yet held: in the order put by hand, else by age."""
    waiting = JobRow.select().where(JobRow.status == "waiting", ~JobRow.stop_asked)
    return waiting.order_by(_RANK, JobRow.id).first()


def put_in_order(numbers: list[int]) -> set[str]:
    """Waiting jobs take the places that they have among them in another order; returns the slugs of their projects. Raises InputError
    where one of them waits no longer."""
    with database.atomic():
        # In one order for all, so that two who put the queue in order at once do not wait for each other.
        rows = {row.id: row for row in JobRow.select().where(JobRow.id.in_(numbers)).order_by(JobRow.id).for_update()}
        if len(set(numbers)) < len(numbers) or any(
            number not in rows or rows[number].status != "waiting" for number in numbers
        ):
            raise InputError("one of the plates waits no longer", "jobs", "Reload the page")
        places = sorted(row.id if row.rank is None else row.rank for row in rows.values())
        for number, place in zip(numbers, places, strict=True):
            JobRow.update(rank=place).where(JobRow.id == number).execute()
        return {row.plate.project.slug for row in rows.values()}


def hold(job: JobRow, holder: str) -> bool:
    """Take one waiting job. False where another was quicker, or it was stopped meanwhile."""
    fields = {"status": "running", "holder": holder, "held_until": _lease(), "changed": now()}
    taken = JobRow.update(fields).where(JobRow.id == job.id, JobRow.status == "waiting", ~JobRow.stop_asked).execute()
    if taken:
        for name, value in fields.items():
            setattr(job, name, value)
        _written(job)
    return bool(taken)


def renew(job_id: int, holder: str) -> bool:
    """Hold on to a job for another while. Returns whether it is to stop; raises LeaseLostError when it is another's."""
    _mine(job_id, holder, held_until=_lease())
    return bool(JobRow.get_by_id(job_id).stop_asked)


def tell(job: JobRow, holder: str) -> None:
    """Write what has changed of a held job. Raises LeaseLostError when it is another's."""
    job.changed = now()
    _mine(job.id, holder, **{field.name: getattr(job, field.name) for field in job.dirty_fields})
    _written(job)


def let_go(holder: str, message: str) -> None:
    """What this renderer holds waits for the next one. That is no death."""
    JobRow.update(status="waiting", message=message, holder="", held_until=None).where(
        JobRow.status == "running", JobRow.holder == holder
    ).execute()


def forsaken(holder: str) -> list[JobRow]:
    """Jobs that nobody works on: left by this renderer's forerunner, or by another whose lease has run out."""
    free = (JobRow.holder == holder) | JobRow.held_until.is_null() | (JobRow.held_until < now())
    return list(JobRow.select().where(JobRow.status == "running", free).order_by(JobRow.id))


def stops_unheard() -> list[JobRow]:
    """Jobs that wait and were asked to stop before anybody had them."""
    return list(JobRow.select().where(JobRow.stop_asked, JobRow.status == "waiting"))


def take_back(job: JobRow, message: str) -> None:
    """Put a forsaken job in the queue again: one death more."""
    left = JobRow.update(
        status="waiting", holder="", held_until=None, message=message, interruptions=JobRow.interruptions + 1
    )
    left.where(JobRow.id == job.id, JobRow.status == "running", _as_held(job)).execute()


def end(job: JobRow, status: str, message: str) -> None:
    """Write that a job is over, whoever has it. Raises LeaseLostError where it has changed hands since it was read."""
    fields = {
        **{field.name: getattr(job, field.name) for field in job.dirty_fields}, "status": status, "message": message[:255],
        "changed": now(), "seconds_left": 0.0, "holder": "", "held_until": None,
    }  # fmt: skip
    if not JobRow.update(fields).where(JobRow.id == job.id, JobRow.status.in_(UNDERWAY), _as_held(job)).execute():
        raise LeaseLostError
    job.status, job.message = status, message[:255]
    _written(job)


def stopped_before(kept: int, most: int = 20) -> list[JobRow]:
    """Jobs that were stopped, but for the last few."""
    stopped = JobRow.select().where(JobRow.status == "stopped").order_by(JobRow.changed.desc(), JobRow.id.desc())
    return list(stopped.offset(kept).limit(most))


def _written(job: Any) -> None:
    job._dirty.clear()  # peewee knows this for its own saves only


def _as_held(job: JobRow) -> Any:
    return JobRow.holder == job.holder


def _mine(job_id: int, holder: str, **fields: Any) -> None:
    changed = JobRow.update(fields).where(JobRow.id == job_id, JobRow.status == "running", JobRow.holder == holder)
    # Every write moves a moment, so a row that is ours counts as changed.
    if fields and not changed.execute():
        raise LeaseLostError


def _lease() -> Any:
    return now() + timedelta(seconds=LEASE_S)
