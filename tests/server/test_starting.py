"""Starting and the unforeseen: what was left half is swept, a bad row stops nothing, a fault tells nothing of the inside."""

from __future__ import annotations

import logging

from fastapi.testclient import TestClient

from valleylight.demo.profiles import CATALOGUE, profile_file
from valleylight.server.store import tables
from valleylight.server.store.files import FileStore
from valleylight.server.web import catalogue
from valleylight.server.web.app import create_app

PROBLEM = "application/problem+json"


def test_one_bad_row_does_not_keep_the_server_from_starting(settings, monkeypatch, caplog):
    with TestClient(create_app(settings), base_url="http://127.0.0.1:8600") as client:
        client.post("/api/profiles", params={"name": "good.ies"}, content=profile_file(CATALOGUE[0]))
        with tables.database.connection_context():
            tables.ProfileRow.delete().execute()
            bad = FileStore(settings.files).keep(b"no profile at all")
            tables.AssetRow.create(sha256=bad, kind="profile", bytes=1, given_name="bad.ies")
            tables.AssetRow.create(sha256="0" * 64, kind="profile", bytes=1, given_name="gone.ies")
    with caplog.at_level(logging.WARNING), TestClient(create_app(settings), base_url="http://127.0.0.1:8600") as client:
        assert client.get("/api/profiles").json()["total"] == 1
    assert bad[:12] in caplog.text


def test_leftovers_are_swept_and_nothing_that_was_kept(settings):
    with TestClient(create_app(settings), base_url="http://127.0.0.1:8600") as client:
        sha = client.post("/api/profiles", params={"name": "good.ies"}, content=profile_file(CATALOGUE[0])).json()[
            "sha256"
        ]
    files = FileStore(settings.files)
    other, aside = files.keep(b"known to another database"), files.set_aside(b"half")
    (files.scratch / "job-99999.npz").write_bytes(b"x")
    (files.scratch / "sample-1.png").write_bytes(b"kept for speed")
    (settings.files / "readme").write_text("someone's own")
    with TestClient(create_app(settings), base_url="http://127.0.0.1:8600"):
        pass
    assert (
        files.path(sha).is_file()
        and (files.scratch / "sample-1.png").is_file()
        and (settings.files / "readme").is_file()
    )
    assert files.path(other).is_file() and (files.scratch / "job-99999.npz").is_file()  # another database may know them
    assert not aside.exists()


def test_the_unforeseen_tells_a_number_and_nothing_else(settings, monkeypatch, caplog):
    def breaks(*_: object) -> None:
        raise ZeroDivisionError(f"secret of {settings.files}")

    with TestClient(create_app(settings), base_url="http://127.0.0.1:8600", raise_server_exceptions=False) as client:
        monkeypatch.setattr(catalogue, "search", breaks)
        with caplog.at_level(logging.ERROR):
            answer = client.get("/api/profiles")
    told = answer.json()
    assert answer.status_code == 500 and answer.headers["content-type"] == PROBLEM
    assert answer.headers["content-security-policy"] and answer.headers["x-content-type-options"] == "nosniff"
    assert "secret" not in answer.text and "Zero" not in answer.text and str(settings.files) not in answer.text
    number = told["remedy"].rsplit(" ", 1)[-1].rstrip(".")
    assert number in caplog.text and "secret" in caplog.text
