"""Settings come from one place and are told in the README; the log says of each line what request it belongs to."""

from __future__ import annotations

import json
import logging
import re
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from valleylight.core.errors import InputError
from valleylight.server import logs
from valleylight.server.settings import PREFIX, ROOT, Settings, settings
from valleylight.server.web import catalogue
from valleylight.server.web.app import create_app


def test_the_readme_tells_every_setting():
    told = (ROOT / "README.md").read_text()
    for name, field in Settings.model_fields.items():
        assert f"| `{PREFIX}{name.upper()}` | {field.description}" in told, f"README.md lacks {name} as it is described"


def test_what_is_given_comes_before_the_environment(monkeypatch, tmp_path):
    monkeypatch.setenv("VALLEYLIGHT_PORT", "9001")
    monkeypatch.setenv("VALLEYLIGHT_HOSTS", " Studio.example, other ,")
    monkeypatch.setenv("VALLEYLIGHT_LOG_LEVEL", "INFO")
    found = settings(var=str(tmp_path))
    assert (found.port, found.hosts, found.log_level) == (9001, ("studio.example", "other"), "info")
    assert found.files == tmp_path / "files"
    assert settings(port="9002").port == 9002
    monkeypatch.delenv("VALLEYLIGHT_PORT")
    assert settings().port == 8600
    assert settings().var == ROOT / "var"


@pytest.mark.parametrize(
    ("name", "value"),
    [("PORT", "eighty"), ("PORT", "70000"), ("LOG_LEVEL", "loud"), ("LARGEST_JSON_BYTES", "-1"), ("LOG_FORMAT", "xml")],
)
def test_a_wrong_variable_is_named(monkeypatch, name, value):
    monkeypatch.setenv(PREFIX + name, value)
    with pytest.raises(InputError) as error:
        settings()
    assert PREFIX + name in str(error.value)
    assert value in str(error.value)
    assert "pydantic" not in str(error.value)


def test_a_wrong_option_is_named_as_an_option():
    with pytest.raises(InputError, match="--port"):
        settings(port="0")


@pytest.fixture
def lines(capfd, monkeypatch):
    """What the log says, read back; the log is left as it was."""
    root, own = logging.getLogger(), logging.getLogger("valleylight")
    handlers, levels = list(root.handlers), (root.level, own.level)
    yield lambda: [json.loads(line) for line in capfd.readouterr().err.splitlines() if line.startswith("{")]
    root.handlers[:] = handlers
    root.setLevel(levels[0])
    own.setLevel(levels[1])


def test_lines_are_json_with_level_time_and_request(lines):
    logs.install(Settings(log_format="json", log_level="info"))
    with logs.about(request="one"):
        logs.log().info("opened", project="mill")
        logging.getLogger("some.library").warning("odd: %s", 3)
    logs.log().debug("too fine")
    logging.getLogger("some.library").info("chatter")
    first, second = lines()
    assert (first["event"], first["level"], first["request"], first["project"]) == ("opened", "info", "one", "mill")
    assert first["timestamp"].endswith("Z")
    assert (second["event"], second["level"], second["request"]) == ("odd: 3", "warning", "one")


def test_an_error_carries_its_traceback(lines):
    logs.install(Settings(log_format="json"))
    try:
        raise ZeroDivisionError("here")
    except ZeroDivisionError:
        logs.log().exception("it broke", job=7)
    [line] = lines()
    assert line["job"] == 7
    assert "ZeroDivisionError: here" in line["exception"]


def test_every_answer_names_its_request(lines, database_url, tmp_path, monkeypatch):
    """A name that a server before this one gave is kept when it is one; anything else gets a new one."""
    wanted = Settings(database_url=database_url, var=tmp_path, log_format="json", log_level="info")
    with TestClient(create_app(wanted), base_url="http://127.0.0.1:8600", raise_server_exceptions=False) as client:
        logs.install(wanted)
        assert (
            client.get("/api/projects", headers={"X-Request-Id": "from-before.1"}).headers["x-request-id"]
            == "from-before.1"
        )
        made = client.get("/api/projects", headers={"X-Request-Id": "two\twords"}).headers["x-request-id"]
        assert len(made) == 8
        refused = client.get("/api/projects/none-such")
        monkeypatch.setattr(catalogue, "search", lambda *_: 1 / 0)
        broken = client.get("/api/profiles")
    told = {line["request"]: line for line in lines() if "request" in line}
    line = told[refused.headers["x-request-id"]]
    assert (line["method"], line["path"], line["status"]) == ("GET", "/api/projects/none-such", 404)
    number = broken.headers["x-request-id"]
    assert broken.status_code == 500
    assert number in broken.json()["remedy"]


def test_text_for_people(capfd, lines):
    logs.install(Settings(log_level="info"))
    with logs.about(request="one"):
        logs.log().info("opened", project="mill")
    said = capfd.readouterr().err
    assert "opened" in said
    assert "project=mill" in said
    assert "request=one" in said
    assert "\x1b" not in said


def test_a_path_cannot_write_a_line_of_its_own(lines, settings):
    """What stands in an address stays within its field, in both forms of the log."""
    with TestClient(create_app(settings), base_url="http://127.0.0.1:8600") as client:
        logs.install(settings.model_copy(update={"log_level": "info", "log_format": "json"}))
        client.get("/p/one%0Atwo%20three")
    assert [line["path"] for line in lines() if line.get("event") == "request"] == ["/p/one%0Atwo%20three"]


def test_no_file_reads_the_environment_by_itself():
    """Kernels' cache apart, whose variables belong to the library."""
    source = ROOT / "src" / "valleylight"
    reading = [
        p for p in source.rglob("*.py") if re.search(r"os\.environ|getenv", p.read_text()) and p.name != "cache.py"
    ]
    assert [Path(p).relative_to(source).as_posix() for p in reading] == []
