"""The queue of plates: claimed once, held by a lease, taken over when its holder is gone, never written by two."""

from __future__ import annotations

import threading
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

import pytest

from tests import small
from tests.server.conftest import wait_for
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.server.settings import Settings
from valleylight.server.store import jobs, migrations, storage, tables
from valleylight.server.store.files import FileStore
from valleylight.server.store.tables import JobRow, PlateRow, ProjectRow, now
from valleylight.server.web.routes import plates as plate_routes
from valleylight.server.web.schemas.plates import NewPlate
from valleylight.server.worker.heartbeat import Heartbeat
from valleylight.server.worker.plates import PlateMaker


@pytest.fixture
def queue(database_url, tmp_path):
    """A database with the small room; makes so many waiting plates and returns their jobs."""
    size = {"sketch_width": 64}
    pool = tables.connect(database_url)
    pool.connect()
    migrations.migrate(pool)
    storage.create_project("", small.project(), FileStore(tmp_path))

    def waiting(count: int = 1, **more: int) -> list[JobRow]:
        for _ in range(count):
            wanted = NewPlate(view="inside", occasion="noon", quality="sketch")
            plate_routes.enqueue(ProjectRow.get(), wanted, Settings(**{**size, **more}))
        return list(JobRow.select().where(JobRow.status == "waiting").order_by(JobRow.id))

    yield waiting
    pool.close_all()


def fresh(job: JobRow) -> JobRow:
    return JobRow.get_by_id(job.id)


def test_a_job_is_held_by_one_however_many_ask_at_once(queue):
    [job] = queue()
    start = threading.Barrier(8)

    def ask(name: str) -> bool:
        with tables.database.connection_context():
            mine = fresh(job)
            start.wait()
            return jobs.hold(mine, name)

    with ThreadPoolExecutor(8) as pool:
        got = list(pool.map(ask, [f"holder {k}" for k in range(8)]))
    assert sum(got) == 1
    assert (fresh(job).status, fresh(job).holder) == ("running", f"holder {got.index(True)}")
    assert jobs.next_waiting() is None


def test_several_renderers_share_a_queue(queue):
    """Each job goes to one of them, the oldest first, and none is left."""
    wanted = [job.id for job in queue(12)]
    taken: list[int] = []

    def work(name: str) -> None:
        with tables.database.connection_context():
            while (job := jobs.next_waiting()) is not None:
                if jobs.hold(job, name):
                    taken.append(job.id)

    with ThreadPoolExecutor(3) as pool:
        list(pool.map(work, "abc"))
    assert sorted(taken) == wanted


def test_what_is_to_stop_is_not_begun(queue):
    [job] = queue()
    JobRow.update(stop_asked=True).execute()
    assert jobs.next_waiting() is None
    assert not jobs.hold(job, "a")
    assert [j.id for j in jobs.stops_unheard()] == [job.id]


def test_a_lease_is_the_holders_until_it_runs_out(queue):
    [job] = queue()
    jobs.hold(job, "a")
    assert jobs.forsaken("b") == []
    assert [j.id for j in jobs.forsaken("a")] == [job.id]  # a starts anew: its forerunner is gone
    JobRow.update(held_until=now() - timedelta(seconds=0.001)).execute()
    [left] = jobs.forsaken("b")
    jobs.take_back(left, "Interrupted")
    assert (fresh(job).status, fresh(job).interruptions, fresh(job).holder) == ("waiting", 1, "")
    jobs.take_back(left, "Interrupted")  # twice at once counts once
    assert fresh(job).interruptions == 1


def test_who_has_lost_a_job_writes_nothing_of_it(queue):
    [job] = queue()
    jobs.hold(job, "a")
    other = fresh(job)
    jobs.take_back(other, "Interrupted")
    assert jobs.hold(fresh(job), "b")
    before = fresh(job).__data__
    job.samples_done, job.message = 99, "mine"
    for write in (
        lambda: jobs.tell(job, "a"),
        lambda: jobs.renew(job.id, "a"),
        lambda: jobs.end(job, "done", ""),
        lambda: jobs.end(other, "failed", ""),
    ):
        with pytest.raises(jobs.LeaseLostError):
            write()
    jobs.let_go("a", "gone")
    assert fresh(job).__data__ == before


def test_an_ended_job_is_free_and_ends_once(queue):
    [job] = queue()
    jobs.hold(job, "a")
    job.samples_done = 8
    jobs.end(job, "done", "x" * 400)
    done = fresh(job)
    assert (done.status, done.holder, done.held_until, done.samples_done, len(done.message)) == (
        "done",
        "",
        None,
        8,
        255,
    )
    with pytest.raises(jobs.LeaseLostError):
        jobs.end(done, "stopped", "")
    assert jobs.forsaken("a") == []


def test_the_heart_keeps_a_lease_through_a_long_step(queue, monkeypatch):
    monkeypatch.setattr(jobs, "RENEW_S", 0.02)
    [job] = queue()
    jobs.hold(job, "a")
    first, heart = fresh(job).held_until, Heartbeat("a")
    heart.hold(job.id)
    wait_for(lambda: fresh(job).held_until > first + timedelta(seconds=0.1))
    JobRow.update(stop_asked=True).execute()
    wait_for(lambda: heart.is_to_stop)
    JobRow.update(holder="b").execute()
    wait_for(lambda: heart.lost)
    heart.let_go()
    assert not heart.lost


def test_the_name_of_a_holder_is_that_of_its_folder(tmp_path):
    assert jobs.holder_of(tmp_path) == jobs.holder_of(tmp_path / "x" / "..")
    assert jobs.holder_of(tmp_path) != jobs.holder_of(tmp_path / "x")
    assert len(jobs.holder_of(tmp_path)) <= 64


@pytest.fixture
def makers(tmp_path):
    """Two renderers of the same files under different names, as on two machines."""
    with ThreadPoolExecutor(2) as pool:
        yield [
            PlateMaker(Compiler(), FileStore(tmp_path), pool, lambda _: None, holder=name) for name in ("one", "other")
        ]


def test_a_plate_goes_on_with_another_renderer_when_its_own_is_gone(queue, makers):
    [job] = queue()
    one, other = makers
    wait_for(lambda: (one.step(), fresh(job).status)[1] == "running")
    other.look_again()
    assert not other.has_work  # the lease is good
    JobRow.update(held_until=now()).execute()
    other.look_again()
    assert other.has_work and fresh(job).interruptions == 1
    wait_for(lambda: (other.step(), fresh(job).status)[1] == "done")
    one.step()  # it wakes up again, finds the plate gone, and drops it
    one.step()
    assert (fresh(job).status, fresh(job).holder) == ("done", "")
    assert PlateRow.get_by_id(job.plate_id).picture is not None


def test_a_renderer_stops_what_is_asked_elsewhere(queue, makers, monkeypatch):
    """The server that hears the wish may be another than the one whose renderer has the plate."""
    monkeypatch.setattr(jobs, "RENEW_S", 0.02)
    [job] = queue(sketch_width=1600)
    one, other = makers
    wait_for(lambda: (one.step(), fresh(job).status)[1] == "running")
    other.stop(job.id)
    assert fresh(job).status == "running"  # not its own
    JobRow.update(stop_asked=True).execute()
    wait_for(lambda: (one.step(), fresh(job).status)[1] == "stopped")
    assert one._checkpoint(job).is_file()


def test_a_stop_that_comes_when_the_lease_is_lost_stops_nobody_else(queue, makers):
    """The renderer outlives it and drops the plate; who has it now reads the wish in the queue."""
    [job] = queue(sketch_width=1600)
    one, _ = makers
    wait_for(lambda: (one.step(), fresh(job).status)[1] == "running")
    JobRow.update(holder="other").execute()
    one.stop(job.id)
    assert (fresh(job).status, fresh(job).holder) == ("running", "other")
    assert one._making is None


def test_a_plate_that_ends_renderers_is_set_aside(queue, makers):
    [job] = queue()
    for deaths in range(1, jobs.MOST_DEATHS + 1):
        assert jobs.hold(fresh(job), "one")
        makers[0].adopt()
        assert fresh(job).interruptions == deaths
    assert fresh(job).status == "failed"
    assert "set aside" in fresh(job).message
