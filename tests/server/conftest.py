"""The real application over a real database, called in process."""

from __future__ import annotations

import time
from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from tests import small
from valleylight.server import storage, tables
from valleylight.server.app import create_app
from valleylight.server.files import FileStore
from valleylight.server.settings import Settings


@pytest.fixture
def settings(database_url, tmp_path) -> Settings:
    return Settings(
        database_url=database_url, files=tmp_path / "files", largest_model_bytes=4 * 2**20, largest_profile_bytes=2**20,
        hosts=("testserver",),
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


def wait_for(condition, seconds: float = 120.0):
    """The condition's first true value."""
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        value = condition()
        if value:
            return value
        time.sleep(0.1)
    raise AssertionError("it never came true")
