"""News of plates in the making, told to the browsers of their project."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

from valleylight.server.web.context import with_database
from valleylight.server.web.hub import Hub
from valleylight.server.web.schemas.live import JobNews, RunsNews
from valleylight.server.store.tables import JobRow, RunRow

#: One teller, so that news arrives in the order in which it happened.
_teller = ThreadPoolExecutor(1, "news")


def tell_job_soon(hub: Hub, job_id: int) -> None:
    """Tell how a job stands, from a thread of its own."""
    _teller.submit(_tell_job, hub, job_id)


@with_database
def _tell_job(hub: Hub, job_id: int) -> None:
    job = JobRow.get_or_none(JobRow.id == job_id)
    if job is None:
        return
    plate = job.plate
    hub.tell_soon(plate.project.slug, JobNews(
        id=job.id, plate=plate.id, view=plate.view_key, occasion=plate.occasion_key, status=job.status,
        samples_done=job.samples_done, samples=plate.samples, message=job.message, seconds_spent=job.seconds_spent,
        seconds_left=job.seconds_left,
    ))  # fmt: skip


def tell_run_soon(hub: Hub, run_id: int) -> None:
    """Tell that a sequence in the making is further on."""
    _teller.submit(_tell_run, hub, run_id)


@with_database
def _tell_run(hub: Hub, run_id: int) -> None:
    run = RunRow.get_or_none(RunRow.id == run_id)
    if run is not None:
        hub.tell_soon(run.project.slug, RunsNews())
