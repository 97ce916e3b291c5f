"""The real application over a real database, called in process."""

from __future__ import annotations

import multiprocessing
import time
from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from tests import small
from tests.server.watching import OnShow
from valleylight.server.settings import Settings
from valleylight.server.store import storage, tables
from valleylight.server.store.files import FileStore
from valleylight.server.web import link
from valleylight.server.web.app import create_app

#: Every test's renderer is forked from one process that has imported the tracer: two seconds of work less for each.
_forks = multiprocessing.get_context("forkserver")
_forks.set_forkserver_preload(["valleylight.server.worker.loop"])
link._context = _forks  # type: ignore[assignment]


@pytest.fixture
def settings(database_url, tmp_path) -> Settings:
    return Settings(
        database_url=database_url,
        var=tmp_path,
        largest_model_bytes=4 * 2**20,
        largest_profile_bytes=2**20,
        hosts=("testserver",),
        # Pictures of few pixels: what is tried is how they are asked for and kept.
        sketch_width=240,
        proof_width=320,
        press_width=960,
        live_width=481,
        live_samples=4,
    )


@pytest.fixture
def client(settings) -> Iterator[TestClient]:
    with TestClient(create_app(settings), base_url="http://127.0.0.1:8600") as made:
        yield made


@pytest.fixture
def room(client, settings) -> str:
    """Slug of the small room, stored."""
    with tables.database.connection_context():
        return storage.create_project("", small.project(), FileStore(settings.files)).slug


@pytest.fixture
def on_show(client, room):
    made = OnShow(client, room)
    made.show()
    yield made
    made.socket.__exit__(None, None, None)


def wait_for(condition, seconds: float = 120.0):
    """The condition's first true value."""
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        value = condition()
        if value:
            return value
        time.sleep(0.1)
    raise AssertionError("it never came true")
