"""Every operation of the API document refuses what it cannot do as a problem: with a status, in words, and a remedy. Nothing is stored."""

from __future__ import annotations

import itertools
import json
import re
from collections.abc import Iterator
from typing import Any

import pytest
from fastapi.testclient import TestClient

from tests import small
from valleylight.server.settings import Settings
from valleylight.server.store import storage, tables
from valleylight.server.store.files import FileStore
from valleylight.server.store.mariadb import PrivateMariaDB
from valleylight.server.web.app import create_app

DOCUMENT = create_app(Settings(database_url="mysql://none/none")).openapi()
#: What stands for a part of a path when it is there, and when it is not.
THERE = {
    "slug": "small-room", "view": "inside", "occasion": "noon", "fixture": "a", "suffix": "exr", "key": "calm", "side": "wall",
    "form": "picture.png", "family": "stool", "reading": "grey",
}  # fmt: skip
MISSING = {
    "slug": "no-such-project", "view": "no-such-view", "occasion": "no-such-occasion", "fixture": "no-such-fixture",
    "key": "no-such-key", "sha256": "0" * 64, "asset": "0" * 64, "plate_id": "999999", "job_id": "999999", "run_id": "999999", "version": "0",
    "name": "no-such-name", "suffix": "gif", "side": "ceiling", "form": "picture.gif", "family": "throne",
    "number": "999999", "reading": "purple", "ticket": "no-such-ticket", "file": "no-such-file",
}  # fmt: skip
WORDS_OF_LIBRARIES = re.compile(
    r"pydantic|Input should|Traceback|peewee|sqlalchemy|JSONDecode|/site-packages/|NoneType", re.I
)


def operations() -> Iterator[tuple[str, str, dict[str, Any]]]:
    for path, methods in DOCUMENT["paths"].items():
        for method, operation in methods.items():
            yield method.upper(), path, operation


OPERATIONS = list(operations())
NAMES = [f"{method} {path}" for method, path, _ in OPERATIONS]


@pytest.fixture(scope="module")
def client(database_server, tmp_path_factory) -> Iterator[TestClient]:
    var = tmp_path_factory.mktemp("refusals")
    settings = Settings(database_url=PrivateMariaDB(database_server.folder, "refusals").start(), var=var)
    with TestClient(create_app(settings), base_url="http://127.0.0.1:8600", raise_server_exceptions=False) as made:
        with tables.database.connection_context():
            storage.create_project("", small.project(), FileStore(settings.files))
        yield made


@pytest.fixture(autouse=True)
def nothing_is_stored(client) -> Iterator[None]:
    before = client.get("/api/projects/small-room").json(), client.get("/api/projects").json()
    yield
    assert (client.get("/api/projects/small-room").json(), client.get("/api/projects").json()) == before


def refused(answer: Any, *statuses: int) -> dict[str, Any]:
    """A problem as RFC 9457 has it, in words for people."""
    assert answer.status_code in statuses, f"{answer.status_code}: {answer.text[:300]}"
    assert answer.headers["content-type"] == "application/problem+json"
    problem = answer.json()
    assert problem["status"] == answer.status_code
    assert len(problem["title"]) > 5
    assert len(problem["detail"]) > 10
    assert not WORDS_OF_LIBRARIES.search(answer.text), answer.text
    return problem


def required(operation: dict[str, Any]) -> dict[str, str]:
    """Query parameters that must be given, with something that is good for each."""
    good = {
        "occasion": "noon", "axis": "x", "place_m": "1", "day": "2026-06-21", "year": "2026", "when": "2026-06-21T12:00:00",
        "azimuth_deg": "180", "altitude_deg": "40", "side": "left", "shadow": "2", "name": "file.glb", "view": "inside",
        "channel": "colour",
    }  # fmt: skip
    wanted = [p["name"] for p in operation.get("parameters", []) if p["in"] == "query" and p.get("required")]
    return {name: good[name] for name in wanted}


def filled(path: str, values: dict[str, str]) -> str:
    return re.sub(r"\{(\w+)(?::path)?\}", lambda m: values.get(m.group(1), MISSING[m.group(1)]), path)


def body_schema(operation: dict[str, Any]) -> dict[str, Any] | None:
    content = operation.get("requestBody", {}).get("content", {}).get("application/json")
    return None if content is None else content["schema"]


def example(schema: dict[str, Any]) -> Any:
    """Something small that a schema allows."""
    while "$ref" in schema:
        schema = DOCUMENT["components"]["schemas"][schema["$ref"].rsplit("/", 1)[1]]
    if "default" in schema:
        return schema["default"]
    for choice in ("anyOf", "oneOf", "allOf"):
        if choice in schema:
            return example(schema[choice][0])
    if "const" in schema:
        return schema["const"]
    if "enum" in schema:
        return schema["enum"][0]
    match schema.get("type"):
        case "object":
            # What says of which kind it is may have a value of its own, and is asked for all the same.
            told = [name for name, of in schema.get("properties", {}).items() if "const" in of]
            return {name: example(schema["properties"][name]) for name in [*told, *schema.get("required", [])]}
        case "array":
            if "prefixItems" in schema:
                return [float(k) for k, _ in enumerate(schema["prefixItems"])]
            return [example(schema["items"])] * schema.get("minItems", 0)
        case "string":
            if schema.get("format") == "date-time":
                return "2026-06-21T12:00:00"
            return "2026-06-21" if schema.get("format") == "date" else "a" * max(schema.get("minLength", 1), 1)
        case "integer" | "number":
            return schema.get("minimum", 1)
        case "boolean":
            return False
    return None


def one_of(operation: dict[str, Any], name: str) -> str | None:
    """The first word of a closed list, where a part of the path is one."""
    schemas = [p["schema"] for p in operation.get("parameters", []) if p["in"] == "path" and p["name"] == name]
    return next((str(s["enum"][0]) for s in schemas if "enum" in s), None)


WITH_A_PLACE = [(m, p, o) for m, p, o in OPERATIONS if "{" in p]


@pytest.mark.parametrize(("method", "path", "operation"), WITH_A_PLACE, ids=[f"{m} {p}" for m, p, _ in WITH_A_PLACE])
def test_what_is_not_there_is_told_by_name(client, method, path, operation):
    """Each part of the path in turn names nothing, the parts before it being there."""
    parts = re.findall(r"\{(\w+)", path)
    schema = body_schema(operation)
    body = {} if schema is None else {"json": example(schema)}
    for k, part in enumerate(parts):
        before = {name: THERE[name] for name in parts[:k] if name in THERE}
        if len(before) < k:  # what stands before it is made by work that is tried elsewhere
            break
        after = {name: one_of(operation, name) or THERE.get(name, MISSING[name]) for name in parts[k + 1 :]}
        answer = client.request(
            method, filled(path, {**before, part: MISSING[part], **after}), params=required(operation), **body
        )
        # A closed list of words is part of the request's form; a key is looked up.
        refused(answer, *((404, 422) if part in ("suffix", "side", "form", "sha256", "asset") else (404,)))


WITH_A_BODY = [(m, p, o) for m, p, o in OPERATIONS if body_schema(o) is not None]
BODIES = {
    "none": {"content": b"", "headers": {"Content-Type": "application/json"}},
    "no JSON": {"content": b'{"a": ', "headers": {"Content-Type": "application/json"}},
    "a list": {"json": [1, 2, 3]},
    "a word": {"json": "all of it"},
    "unknown fields": {"json": {"colour of the moon": "green"}},
    "not a number": {"content": b'{"x": NaN}', "headers": {"Content-Type": "application/json"}},
    "deep": {"content": b"[" * 5000 + b"]" * 5000, "headers": {"Content-Type": "application/json"}},
    "another alphabet": {"content": "{\"x\": \"ä\"}".encode("utf-16"), "headers": {"Content-Type": "application/json"}},
}  # fmt: skip


@pytest.mark.parametrize("kind", BODIES)
@pytest.mark.parametrize(("method", "path", "operation"), WITH_A_BODY, ids=[f"{m} {p}" for m, p, _ in WITH_A_BODY])
def test_a_body_that_cannot_be_meant_is_refused(client, method, path, operation, kind):
    answer = client.request(method, filled(path, THERE), params=required(operation), **BODIES[kind])
    if kind == "none" and not operation["requestBody"].get("required"):
        assert answer.status_code < 500
        return
    refused(answer, 400, 404, 422)


MUST_ASK = [(m, p, o) for m, p, o in OPERATIONS if required(o)]


@pytest.mark.parametrize(("method", "path", "operation"), MUST_ASK, ids=[f"{m} {p}" for m, p, _ in MUST_ASK])
def test_what_must_be_asked_with_is_named_when_it_is_left_out(client, method, path, operation):
    for name in required(operation):
        given = {k: v for k, v in required(operation).items() if k != name}
        problem = refused(client.request(method, filled(path, THERE), params=given, content=b""), 404, 422)
        if problem["status"] == 422:
            assert name in json.dumps(problem)


NUMBERS = [
    (m, p, o, q["name"])
    for m, p, o in OPERATIONS
    for q in o.get("parameters", [])
    if q["in"] == "query" and "number" in json.dumps(q["schema"])
]


@pytest.mark.parametrize("value", ["many", "nan", "inf", "1e999", "--1", ""])
@pytest.mark.parametrize(
    ("method", "path", "operation", "name"), NUMBERS, ids=[f"{m} {p} {n}" for m, p, _, n in NUMBERS]
)
def test_a_number_that_is_none_is_refused(client, method, path, operation, name, value):
    answer = client.request(method, filled(path, THERE), params={**required(operation), name: value}, content=b"")
    problem = refused(answer, 404, 422)
    if problem["status"] == 422:
        assert problem["where"].endswith(name)


def test_a_wrong_method_says_so_everywhere(client):
    known: dict[str, set[str]] = {}
    for method, path, _ in OPERATIONS:
        known.setdefault(path, set()).add(method)
    for path, method in itertools.product(known, ("PUT", "PATCH", "DELETE", "POST")):
        if method in known[path]:
            continue
        answer = client.request(method, filled(path, THERE), content=b"")
        assert answer.status_code in (404, 405, 422), f"{method} {path}: {answer.status_code}"
        assert answer.headers["content-type"] == "application/problem+json"


def test_every_operation_was_tried_here():
    """One that takes nothing has nothing to refuse."""
    tried = {f"{m} {p}" for group in (WITH_A_PLACE, WITH_A_BODY, MUST_ASK) for m, p, *_ in group}
    assert set(NAMES) - tried <= {
        "GET /api/projects", "GET /api/skies", "GET /api/skies/catalogue", "GET /api/sources", "GET /api/surfaces",
        "GET /api/air", "GET /api/objects", "GET /api/cutouts", "GET /api/looks", "GET /api/lens", "GET /api/print-profiles", "GET /api/targets", "GET /api/treatments", "GET /api/profiles", "GET /api/places", "POST /api/profiles",
    }  # fmt: skip
    assert len(NAMES) > 50
