"""One private MariaDB for the whole run, on its own port and folder."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[1]


@pytest.fixture(scope="session")
def database_server() -> Iterator[object]:
    from valleylight.server.store.mariadb import PrivateMariaDB

    folder = ROOT / "var" / f"test-{os.getpid()}"
    server = PrivateMariaDB(folder, "trial")
    server.start()
    yield server
    server.stop()
    shutil.rmtree(server.folder, ignore_errors=True)


@pytest.fixture
def database_url(database_server, request) -> str:
    """A fresh, empty database."""
    import hashlib

    from valleylight.server.store.mariadb import PrivateMariaDB

    name = "t" + hashlib.sha256(request.node.nodeid.encode()).hexdigest()[:16]
    other = PrivateMariaDB(database_server.folder, name)
    return other.start()
