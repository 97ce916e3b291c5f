"""The queue of plates to be made, and the order it is put in by hand."""

from __future__ import annotations

from valleylight.core.errors import InputError
from valleylight.server.store.lease import LEASE_S as LEASE_S
from valleylight.server.store.lease import MOST_DEATHS as MOST_DEATHS
from valleylight.server.store.lease import RENEW_S as RENEW_S
from valleylight.server.store.lease import UNDERWAY as UNDERWAY
from valleylight.server.store.lease import LeaseLostError as LeaseLostError
from valleylight.server.store.lease import Queue
from valleylight.server.store.lease import holder_of as holder_of
from valleylight.server.store.tables import JobRow, database

QUEUE = Queue(JobRow)
next_waiting, hold, renew, tell, let_go = QUEUE.next_waiting, QUEUE.hold, QUEUE.renew, QUEUE.tell, QUEUE.let_go
forsaken, stops_unheard, take_back, end = QUEUE.forsaken, QUEUE.stops_unheard, QUEUE.take_back, QUEUE.end
stopped_before = QUEUE.stopped_before


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
