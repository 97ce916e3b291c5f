"""A real server process, a real browser, and the page's complaints collected."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from tests import small
from tests.conftest import ROOT

FLAGS = [
    "--no-sandbox", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
]  # fmt: skip


expect.set_options(timeout=45_000)


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


class Server:
    """`valleylight serve` as its own process."""

    def __init__(self, url: str, var: Path) -> None:
        self.port, self._url, self._var = free_port(), url, var
        self.address = f"http://127.0.0.1:{self.port}"
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        environment = {**os.environ, "VALLEYLIGHT_DATABASE_URL": self._url, "PYTHONPATH": str(ROOT / "src")}
        command = [sys.executable, "-m", "valleylight", "serve", "--port", str(self.port), "--var", str(self._var)]
        self.process = subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL)
        deadline = time.monotonic() + 120
        while True:
            try:
                urllib.request.urlopen(self.address + "/api/skies", timeout=2).read()
                return
            except OSError:
                assert self.process.poll() is None, "the server ended"
                assert time.monotonic() < deadline, "the server did not answer"
                time.sleep(0.2)

    def stop(self, how: int = signal.SIGINT) -> None:
        assert self.process is not None
        self.process.send_signal(how)
        self.process.wait(40)


@pytest.fixture(scope="module")
def server(database_server, tmp_path_factory, request) -> Iterator[Server]:
    """A server with the small room in it."""
    from valleylight.server import migrations, storage, tables
    from valleylight.server.files import FileStore
    from valleylight.server.mariadb import PrivateMariaDB

    var = tmp_path_factory.mktemp("var")
    url = PrivateMariaDB(database_server.folder, request.module.__name__.rsplit(".", 1)[-1]).start()
    pool = tables.connect(url)
    with pool.connection_context():
        migrations.migrate(pool)
        storage.create_project("", small.project(), FileStore(var / "files"))
    pool.close_all()
    made = Server(url, var)
    made.start()
    yield made
    if made.process is not None and made.process.poll() is None:
        made.stop()


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        made = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield made
        made.close()


@pytest.fixture
def page(browser, server) -> Iterator[Page]:
    """A page of the server; any error on its console, or request to elsewhere, fails the test."""
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, base_url=server.address, accept_downloads=True
    )
    made = context.new_page()
    complaints: list[str] = []
    made.on("pageerror", lambda error: complaints.append(f"page error: {error}"))
    made.on(
        "request", lambda r: None if r.url.startswith((server.address, "data:", "blob:")) else complaints.append(r.url)
    )
    made.set_default_timeout(60_000)
    yield made
    context.close()
    assert complaints == []
