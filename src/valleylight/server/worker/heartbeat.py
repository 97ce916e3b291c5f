"""Renews the lease of the work in hand from a thread of its own, however long one step of the work takes."""

from __future__ import annotations

import threading
from typing import Any

from peewee import PeeweeException
from playhouse.pool import MaxConnectionsExceeded

from valleylight.server.store import jobs, tables
from valleylight.server.store.lease import Queue


class Heartbeat:
    """Holds on to one job at a time. `lost` and `is_to_stop` say what the queue answered."""

    def __init__(self, holder: str, queue: Queue[Any] = jobs.QUEUE) -> None:
        self._holder, self._queue = holder, queue
        self._job: int | None = None
        self._changed = threading.Condition()
        self.lost = self.is_to_stop = False
        self._thread: threading.Thread | None = None

    def hold(self, job_id: int) -> None:
        with self._changed:
            self._job, self.lost, self.is_to_stop = job_id, False, False
            if self._thread is None:
                self._thread = threading.Thread(target=self._beat, name="heartbeat", daemon=True)
                self._thread.start()

    def let_go(self) -> None:
        with self._changed:
            self._job, self.lost, self.is_to_stop = None, False, False

    def _beat(self) -> None:
        while True:
            with self._changed:
                self._changed.wait(jobs.RENEW_S)
                job = self._job
            if job is not None:
                self._renew(job)

    def _renew(self, job: int) -> None:
        lost = stop = False
        try:
            with tables.database.connection_context():
                stop = self._queue.renew(job, self._holder)
        except jobs.LeaseLostError:
            lost = True
        except (PeeweeException, MaxConnectionsExceeded):
            return  # the database is away: nobody else can have the job meanwhile
        with self._changed:
            if self._job == job:
                self.lost, self.is_to_stop = lost, stop
