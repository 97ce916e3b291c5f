"""A real server process, a real browser, and the page's complaints collected."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from tests import small
from tests.running import Server

FLAGS = [
    "--no-sandbox", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
]  # fmt: skip


#: Pictures of few pixels: what is tried here is how they are asked for and shown.
SMALL = {"sketch_width": 320, "proof_width": 480, "press_width": 640, "live_width": 481, "live_samples": 1}

#: A machine that others use as well may be five times as slow as alone.
expect.set_options(timeout=90_000)


@pytest.fixture(scope="session")
def running(database_server, tmp_path_factory) -> Iterator[Server]:
    """One server for the whole run, over a database of its own."""
    from valleylight.server.store import migrations, tables
    from valleylight.server.store.mariadb import PrivateMariaDB

    var = tmp_path_factory.mktemp("var")
    url = PrivateMariaDB(database_server.folder, "browser").start()
    pool = tables.connect(url)
    with pool.connection_context():
        migrations.migrate(pool)
    made = Server(url, var, **SMALL)
    yield made
    if made.process is not None and made.process.poll() is None:
        made.stop()
    pool.close_all()


@pytest.fixture(scope="module")
def server(running) -> Server:
    """The server with nothing but the small room in it, as if it were new."""
    from valleylight.server.store import storage, tables
    from valleylight.server.store.files import FileStore

    with tables.database.connection_context():
        for table in reversed(tables.ALL):
            table.delete().execute()
        storage.create_project("", small.project(), FileStore(running.var / "files"))
    if running.process is None or running.process.poll() is not None:
        running.start()
    return running


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
    made.set_default_timeout(90_000)
    yield made
    context.close()
    assert complaints == []
