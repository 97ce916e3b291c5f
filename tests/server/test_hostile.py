"""Requests that mean harm, or come from tools gone wild: each is answered in one shape, and nothing stored is lost or half changed."""

from __future__ import annotations

import errno
import json
from collections.abc import Iterator
from urllib.parse import quote

import numpy as np
import pytest
from fastapi.testclient import TestClient
from starlette.websockets import WebSocketDisconnect

from tests import glb, small
from valleylight.core.photometry import PhotometryError
from valleylight.demo.profiles import CATALOGUE, profile_file
from valleylight.server.settings import Settings
from valleylight.server.store import storage, tables
from valleylight.server.store.files import FileStore
from valleylight.server.store.mariadb import PrivateMariaDB
from valleylight.server.web import catalogue, trial
from valleylight.server.web.app import create_app
from valleylight.server.web.downloads import attachment

PROBLEM = "application/problem+json"


@pytest.fixture(scope="module")
def settings(database_server, tmp_path_factory) -> Settings:
    """One server for all of these: what is refused leaves it as it was."""
    url = PrivateMariaDB(database_server.folder, "hostile").start()
    var = tmp_path_factory.mktemp("hostile")
    return Settings(
        database_url=url, var=var, largest_model_bytes=4 * 2**20, largest_profile_bytes=2**20, hosts=("testserver",)
    )


@pytest.fixture(scope="module")
def client(settings) -> Iterator[TestClient]:
    with TestClient(create_app(settings), base_url="http://127.0.0.1:8600", raise_server_exceptions=False) as made:
        yield made


@pytest.fixture(scope="module")
def room(client, settings) -> str:
    with tables.database.connection_context():
        return storage.create_project("", small.project(), FileStore(settings.files)).slug


def stored(settings) -> set[str]:
    return {
        p.name
        for p in settings.files.rglob("*")
        if p.is_file() and not p.name.startswith(("sky-", "sample-", "portrait-"))
    }


@pytest.mark.parametrize("name", [
    "/etc/passwd", "../../../../etc/passwd", "a" * 63, "g" * 64, "A" * 64, "a" * 65, "", "\0" * 64, "..", "a" * 64 + "\n",
])  # fmt: skip
def test_names_of_files_are_sixty_four_digits_everywhere(client, room, settings, name):
    secret = settings.files.parent / "secret.ies"
    secret.write_bytes(profile_file(CATALOGUE[0]))
    for asked in (name, str(secret)):
        answer = client.get("/api/profiles", params={"like": asked})
        assert answer.status_code == (404 if asked else 200), asked
        if asked:
            assert "root:" not in answer.text and str(settings.files) not in answer.text
            if asked == "..":
                continue  # a step in the address, not a name
            assert client.get(
                f"/api/projects/{room}/pictures/{quote(asked, safe='')}", params={"name": "x"}
            ).status_code in (404, 422)
    with pytest.raises(ValueError, match=r"no name of a file|missing"):
        FileStore(settings.files).read(name)


@pytest.mark.parametrize(
    "host",
    ["evil.example", "127.0.0.1.evil.example", "localhost.evil.example:8600", "", "a:b:c", "[::1", "valleylight"],
)
def test_other_hosts_are_not_answered(client, room, host):
    """A name that someone else made lead here (DNS rebinding) gets nothing, neither by reading nor by writing nor by socket."""
    for method, path in (("GET", "/api/projects"), ("GET", "/"), ("POST", f"/api/projects/{room}/undo")):
        answer = client.request(method, path, headers={"Host": host})
        assert answer.status_code == 421 and answer.headers["content-type"] == PROBLEM
    with (
        pytest.raises(WebSocketDisconnect),
        client.websocket_connect(f"/api/projects/{room}/live", headers={"Host": host}),
    ):
        pass


@pytest.mark.parametrize(
    "host", ["127.0.0.1:8600", "localhost:1234", "[::1]:8600", "192.168.4.7", "127.0.0.1", "testserver"]
)
def test_addresses_and_known_names_are_answered(client, host):
    assert client.get("/api/projects", headers={"Host": host}).status_code == 200


@pytest.mark.parametrize(("origin", "status"), [
    ("http://127.0.0.1:8600", 404), ("http://127.0.0.1:9000", 403), ("https://evil.example", 403), ("null", 403), ("", 403),
])  # fmt: skip
def test_writes_come_from_our_own_pages(client, origin, status):
    assert client.post("/api/projects/none/undo", headers={"Origin": origin}).status_code == status


@pytest.mark.parametrize(("old", "new"), [("1100", "1e308"), ("1100", "nan"), ("1100", "1e200")])
def test_a_profile_of_impossible_numbers_is_refused_before_it_is_kept(client, settings, old, new):
    lines = profile_file(CATALOGUE[0]).decode().splitlines()
    numbers = lines[-1].split()
    lines[-1] = " ".join([new, *numbers[1:]])
    before = stored(settings)
    answer = client.post("/api/profiles", params={"name": "wild.ies"}, content="\n".join(lines).encode())
    assert answer.status_code == 422 and "wild.ies" in answer.json()["detail"]
    assert stored(settings) == before


@pytest.mark.parametrize("data", [
    glb.changed("nodes", [{"mesh": 0, "children": [0]}]), glb.changed("extensionsRequired", ["EXT_meshopt_compression"]),
    glb.packed(*glb.square())[:300], b"glTF" + b"\0" * 40,
])  # fmt: skip
def test_nothing_is_left_of_a_model_that_was_refused(client, room, settings, data):
    before, state = stored(settings), client.get(f"/api/projects/{room}").json()
    answer = client.post(f"/api/projects/{room}/models", params={"name": "tower.glb"}, content=data)
    assert answer.status_code == 422 and "tower.glb" in answer.json()["detail"] and answer.json()["remedy"]
    assert stored(settings) == before and client.get(f"/api/projects/{room}").json() == state


def test_a_file_that_takes_too_much_ends_alone(client, room, settings, monkeypatch):
    before = stored(settings)
    good = glb.packed(*glb.square())
    for name, value, words in (("SECONDS", 0.01, "takes longer"), ("MEMORY_BYTES", 2**20, "memory")):
        with monkeypatch.context() as m:
            m.setattr(trial, name, value)
            if name == "MEMORY_BYTES":  # the child reads the module anew: it is told by its own text
                m.setattr(trial.sys, "executable", "/bin/false")
            answer = client.post(f"/api/projects/{room}/models", params={"name": "big.glb"}, content=good)
            assert answer.status_code == 422 and words in answer.json()["detail"]
    assert stored(settings) == before
    assert client.post(f"/api/projects/{room}/models", params={"name": "good.glb"}, content=good).status_code == 201


def test_bodies_are_bounded_whatever_they_announce(client, room, settings):
    large = b'{"label": "' + b"x" * (settings.largest_json_bytes + 10) + b'", "changes": []}'
    head = {"Content-Type": "application/json"}
    assert client.post(f"/api/projects/{room}/edits", content=large, headers=head).status_code == 413

    def unannounced():
        for k in range(0, len(large), 65536):
            yield large[k : k + 65536]

    assert client.post(f"/api/projects/{room}/edits", content=unannounced(), headers=head).status_code == 413
    many = json.dumps({"label": "x", "changes": [], **{f"f{k}": k for k in range(50_000)}})
    answer = client.post(f"/api/projects/{room}/edits", content=many, headers=head)
    assert answer.status_code == 422 and len(answer.content) < 20_000
    deep = b"[" * 100_000 + b"]" * 100_000
    assert client.post(f"/api/projects/{room}/edits", content=deep, headers=head).status_code in (400, 422)


@pytest.mark.parametrize("path", [
    "/%00", "/assets/%00", "/" + "a" * 400, "/" + "a" * 5000, "/api/%0d%0a", "/assets/" + "b" * 400, "/..%2f..%2fetc%2fpasswd",
    "/api/projects/%00", "/api/projects/" + "c" * 900, "/api/profiles/%ff%fe", "/api/plates/999999999999999999999/picture.png",
])  # fmt: skip
def test_odd_paths_are_answered(client, path):
    answer = client.get(path)
    assert answer.status_code < 500 and "root:" not in answer.text
    assert answer.headers["content-security-policy"]


@pytest.mark.parametrize("query", [
    "year=99999", "year=-1", "year=nan", "shadow=nan", "shadow=0", "shadow=1e400", "side=up",
])  # fmt: skip
def test_a_sun_by_hand_of_impossible_wishes(client, room, query):
    side = "" if query.startswith("side") else "&side=left"
    assert client.get(f"/api/projects/{room}/views/inside/sun-by-hand?{query}{side}").status_code == 422


BAD_NUMBERS = [float("nan"), float("inf"), -float("inf"), 1e300]


@pytest.mark.parametrize("value", BAD_NUMBERS)
def test_what_is_no_quantity_is_refused_where_it_enters(client, room, value):
    before = client.get(f"/api/projects/{room}").json()
    opening = {"centre": [0, 0, 0], "half_u": [1, 0, 0], "half_v": [0, 0, value], "inward": [0, 1, 0]}
    for change in (
        {"part": "view", "key": "inside", "at": ["position"], "value": [value, 0, 1]},
        {"part": "stage", "at": ["openings"], "value": [opening]},
        {"part": "occasion", "key": "noon", "at": ["sun", "level_stops"], "value": value},
        {"part": "fixture", "key": "a", "at": ["lumens"], "value": value},
        {"part": "site", "at": ["latitude_deg"], "value": value},
    ):
        body = json.dumps({"label": "x", "changes": [change]})
        answer = client.post(f"/api/projects/{room}/edits", content=body, headers={"Content-Type": "application/json"})
        assert answer.status_code == 422, change
    area = {"occasion": "noon", "corner": [0, 0, value], "u": [1, 0, 0], "v": [0, 1, 0]}
    assert client.post(f"/api/projects/{room}/area", content=json.dumps(area)).status_code == 422
    face = {"occasion": "noon", "year": 2026, "faces": [{"point": [0, value, 0], "normal": [0, 0, 1]}]}
    assert client.post(f"/api/projects/{room}/hours", content=json.dumps(face)).status_code == 422
    assert client.get(f"/api/projects/{room}").json() == before


@pytest.mark.parametrize("opening", [
    {"half_u": [0, 0, 0]}, {"half_v": [2, 0, 0]}, {"inward": [0, 0, 0]},
])  # fmt: skip
def test_openings_without_area_or_direction_are_refused(client, room, opening):
    whole = {"centre": [0, 0, 0], "half_u": [1, 0, 0], "half_v": [0, 0, 1], "inward": [0, 1, 0], **opening}
    change = {"part": "stage", "at": ["openings"], "value": [whole]}
    assert client.post(f"/api/projects/{room}/edits", json={"label": "x", "changes": [change]}).status_code == 422


@pytest.mark.parametrize(
    "draft", [[1], ["x"], [None], [[]], [{"part": "wall"}], [{"part": "view", "key": "none", "value": 3}], {"a": 1}]
)
def test_drafts_that_are_none(client, room, draft):
    answer = client.post(f"/api/projects/{room}/illuminance", json={"occasion": "noon", "draft": draft})
    assert answer.status_code in (404, 422) and answer.headers["content-type"] == PROBLEM


def test_a_sky_picture_that_nobody_sent_is_refused(client, room):
    sky = {"model": "picture", "picture": {"asset": "ab" * 32, "name": "nowhere.hdr"}}
    change = {"part": "occasion", "key": "noon", "at": ["sky"], "value": sky}
    before = client.get(f"/api/projects/{room}").json()
    answer = client.post(f"/api/projects/{room}/edits", json={"label": "x", "changes": [change]})
    assert answer.status_code == 422 and "never uploaded" in answer.json()["detail"]
    assert client.get(f"/api/projects/{room}").json() == before


@pytest.mark.parametrize(
    "name", ["plain", "Früh, ½ past", 'a"b\\c', "\u202eevil\u2066\r\nX: y", "\0", "   ", "日の出", "x" * 400]
)
def test_downloads_have_names_that_any_header_can_carry(name):
    """RFC 6266 and RFC 8187: ASCII beside UTF-8, no control characters, no marks of direction."""
    head = attachment(name, "exr")
    assert head.isascii() and head.isprintable() and len(head) < 1600
    bare = head.split('filename="')[1].split('"')[0]
    assert bare.endswith(".exr") and len(bare) > 4 and "\\" not in bare


def test_a_full_disk_leaves_nothing_half(client, room, settings, monkeypatch):
    before = stored(settings)

    def full(_: int) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    with monkeypatch.context() as m:
        m.setattr("valleylight.server.store.files.os.fsync", full)
        answer = client.post("/api/profiles", params={"name": "good.ies"}, content=profile_file(CATALOGUE[0]))
        assert answer.status_code == 507 and "disk is full" in answer.json()["title"]
    assert stored(settings) == before
    assert (
        client.post("/api/profiles", params={"name": "good.ies"}, content=profile_file(CATALOGUE[0])).status_code == 201
    )


def test_figures_beyond_all_luminaires_are_refused():
    from valleylight.core.photometry import Photometry

    wild = Photometry(np.zeros(1), np.array([0.0, 90, 180]), np.full((1, 3), 1e305))
    with pytest.raises(PhotometryError, match="would be"):
        catalogue._facts(wild, "wild.ies")
