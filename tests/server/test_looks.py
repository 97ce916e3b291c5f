"""Looks over HTTP: those that ship, as files, tried on the live picture, with lookup tables and limits."""

from __future__ import annotations

import base64
import io
import json

import numpy as np
import pytest
from PIL import Image

from tests.server.conftest import wait_for
from valleylight.core.finish.ready import READY_LOOKS
from valleylight.core.treatments.cube import Cube, read_cube, write_cube

WARM = write_cube(Cube(np.array([[0, 0, 0], [1, 0.9, 0.6]], np.float32), title="Warm")).encode()


def project(client, room) -> dict:
    return client.get(f"/api/projects/{room}").json()["description"]


def edit(client, room, *changes: dict):
    return client.post(f"/api/projects/{room}/edits", json={"label": "x", "changes": list(changes)})


def table(client, data: bytes = WARM, name: str = "warm.cube"):
    return client.post("/api/lookup-tables", params={"name": name}, content=data)


def pictures(answer) -> list[np.ndarray]:
    assert answer.status_code == 200, answer.text
    return [np.asarray(Image.open(io.BytesIO(base64.b64decode(p)))).astype(float) for p in answer.json()["pictures"]]


def look_with(**treatment) -> dict:
    return {"key": "tried", "name": "Tried", "treatments": [treatment]}


def test_the_looks_that_ship_are_tried_on_the_picture_in_one_go(on_show):
    """Each is another picture; nothing is stored."""
    before = project(on_show.client, on_show.room)
    ready = on_show.client.get("/api/looks").json()
    assert [o["key"] for o in ready] == [o.key for o in READY_LOOKS]
    made = pictures(on_show.tried(*ready))
    assert len(made) == 16 and {p.shape for p in made} == {made[0].shape}
    assert 64 <= made[0].shape[1] <= 160
    grey = made[[o["key"] for o in ready].index("graphite")]
    assert np.ptp(grey, axis=-1).max() <= 3
    assert project(on_show.client, on_show.room) == before


def test_three_values_of_a_treatment_are_told_apart_by_eye(on_show):
    dark, plain, light = pictures(on_show.tried(*(look_with(kind="exposure", stops=s) for s in (-1, 0, 1))))
    assert dark.mean() < plain.mean() < light.mean()


def test_a_limit_is_shown_where_it_holds(on_show):
    half = {"gradient": {"start": [0.49, 0.5], "end": [0.51, 0.5]}}
    answer = on_show.limit(look_with(kind="exposure", stops=1, limit=half))
    assert answer.headers["content-type"] == "image/png"
    overlay = np.asarray(Image.open(io.BytesIO(answer.content)))
    width = overlay.shape[1]
    assert (
        overlay.shape[2] == 4
        and overlay[:, : width // 2 - 4, 3].max() == 0
        and overlay[:, width // 2 + 4 :, 3].min() > 100
    )
    none = np.asarray(Image.open(io.BytesIO(on_show.limit(look_with(kind="exposure", stops=1)).content)))
    assert none[..., 3].max() == 0


def test_a_limit_by_things_is_known_once_the_look_is_the_picture_s(on_show):
    """The film is traced anew with what is seen where; a thing's share of the picture is then the picture's own."""
    client, room = on_show.client, on_show.room
    names = {s["name"] for s in client.get(f"/api/projects/{room}/surfaces").json()}
    limit = {"surfaces": sorted(names)[:1]}
    look = {**project(client, room)["looks"][0], "treatments": [{"kind": "exposure", "stops": 2, "limit": limit}]}
    assert len(pictures(on_show.tried(look, look_with(kind="exposure")))) == 2  # for choosing it need not be known
    refused = on_show.limit(look)
    assert refused.status_code == 422 and "which thing is seen" in refused.json()["detail"]
    assert edit(client, room, {"part": "look", "key": look["key"], "value": look}).status_code == 200
    on_show.show()
    shown = wait_for(lambda: next((a for a in [on_show.limit(look)] if a.status_code == 200), None))
    alpha = np.asarray(Image.open(io.BytesIO(shown.content)))[..., 3]
    every = {"surfaces": sorted(names)}
    whole = np.asarray(
        Image.open(io.BytesIO(on_show.limit({**look, "treatments": [{"kind": "exposure", "limit": every}]}).content))
    )[..., 3]
    assert 0 < (whole > 0).mean() <= 1 and (alpha <= whole + 2).all()


def test_what_cannot_be_tried_is_refused_in_words(on_show):
    client, room = on_show.client, on_show.room
    for answer, status in (
        (on_show.tried(look_with(kind="magic")), 422), (on_show.tried(*[look_with(kind="exposure")] * 17), 422),
        (on_show.tried(look_with(kind="exposure", stops=99)), 422), (on_show.tried(look_with(kind="table", file="0" * 64)), 422),
        (on_show.limit(look_with(kind="exposure"), number=1), 422), (on_show.tried(look_with(kind="exposure"), width=99999), 422),
        (client.post(f"/api/projects/{room}/looks/tried", json={"view": "outside", "occasion": "night", "looks": [look_with(kind="exposure")]}), 422),
        (client.post("/api/projects/none/looks/tried", json={"view": "a", "occasion": "b", "looks": [look_with(kind="exposure")]}), 404),
        (on_show.limit(look_with(kind="exposure", limit={"distance_m": {"low": 5, "high": 1}})), 422),
        (on_show.limit(look_with(kind="exposure", limit={"strokes": [{"points": []}]})), 422),
    ):  # fmt: skip
        assert answer.status_code == status and answer.headers["content-type"] == "application/problem+json", (
            answer.text
        )


def test_a_lookup_table_is_brought_in_named_and_laid_on_the_picture(on_show):
    client, room = on_show.client, on_show.room
    found = table(client)
    assert found.status_code == 201
    told = found.json()
    assert (told["name"], told["size"], told["solid"]) == ("Warm", 2, False)
    warm, plain = pictures(on_show.tried(look_with(kind="table", file=told["file"]), look_with(kind="table")))
    lit = plain.min(-1) > 40
    assert (
        warm[lit][:, 2].mean() < 0.8 * plain[lit][:, 2].mean()
        and warm[lit][:, 0].mean() > 0.9 * plain[lit][:, 0].mean()
    )
    look = {
        **project(client, room)["looks"][0],
        "treatments": [{"kind": "table", "file": told["file"], "name": "Warm"}],
    }
    assert edit(client, room, {"part": "look", "key": look["key"], "value": look}).status_code == 200
    assert client.get("/api/projects").json()[0]["bytes"] > 0
    on_show.show()
    # The table goes along in an archive of the project, and comes in again.
    copy = client.post(f"/api/projects/{room}/duplicate", json={"name": "Second"})
    assert copy.status_code == 201
    assert copy.json()["description"]["looks"][0]["treatments"][0]["file"] == told["file"]


@pytest.mark.parametrize(
    ("data", "said"),
    [(b"", "no size"), (b"LUT_3D_SIZE 2\n0 0 0\n", "1 rows"), (b"LUT_1D_SIZE 2\n0 0 0\n1 x 1\n", "line 3"), (b"\x89PNG\r\n", "line 1")],
)  # fmt: skip
def test_a_file_that_is_no_table_is_refused_and_not_kept(client, data, said):
    answer = table(client, data, "bad.cube")
    assert answer.status_code == 422 and said in answer.text and "bad.cube" in answer.text


def test_an_edit_may_not_name_a_table_that_is_none(client, room):
    """Neither one never brought in, nor a file of another kind."""
    look = project(client, room)["looks"][0]
    model = project(client, room)["placements"][0]["asset"]
    for file in ("0" * 64, model, "../../etc/passwd"):
        value = {**look, "treatments": [{"kind": "table", "file": file}]}
        answer = edit(client, room, {"part": "look", "key": look["key"], "value": value})
        assert answer.status_code == 422
    assert project(client, room)["looks"][0] == look


def test_a_look_goes_to_another_project_as_a_file(client, room):
    url = f"/api/projects/{room}/looks"
    late = next(o for o in READY_LOOKS if o.key == "late-sun")
    assert (
        edit(client, room, {"part": "look", "key": "late-sun", "value": late.model_dump(mode="json")}).status_code
        == 200
    )
    saved = client.get(f"{url}/late-sun/look.json")
    assert (
        saved.headers["content-disposition"].endswith('late-sun.json"')
        or "late-sun.json" in saved.headers["content-disposition"]
    )
    other = client.post("/api/projects", json={"name": "Other"}).json()["slug"]
    made = client.post(f"/api/projects/{other}/looks", params={"name": "late-sun.json"}, content=saved.content)
    assert made.status_code == 201
    assert next(o for o in project(client, other)["looks"] if o["key"] == made.json()["key"])["name"] == "Late sun"
    again = client.post(f"/api/projects/{other}/looks", params={"name": "late-sun.json"}, content=saved.content).json()
    names = [o["name"] for o in project(client, other)["looks"]]
    assert again["key"] != made.json()["key"] and len(set(names)) == len(names)
    assert client.post(f"/api/projects/{other}/undo").status_code == 200
    for bad in (b"{}", b"not json", b'{"format": "valleylight-look", "version": 1, "look": {"treatments": 3}}'):
        answer = client.post(f"/api/projects/{other}/looks", params={"name": "bad.json"}, content=bad)
        assert answer.status_code == 422 and "bad.json" in answer.text
    cube = read_cube(client.get(f"{url}/late-sun/look.cube").content)
    assert cube.is_solid and len(cube.values) == 33 and cube.title == "Late sun"
    assert client.get(f"{url}/no-such/look.json").status_code == 404
    plain = {"key": "bare", "name": "Bare", "treatments": [{"kind": "exposure"}]}
    edit(client, room, {"part": "look", "key": "bare", "value": plain})
    assert client.get(f"{url}/bare/look.cube").status_code == 422


def test_a_look_file_that_names_a_table_unknown_here_is_refused(client, room):
    look = {
        "format": "valleylight-look",
        "version": 1,
        "look": {"key": "t", "name": "T", "treatments": [{"kind": "table", "file": "1" * 64}]},
    }
    answer = client.post(f"/api/projects/{room}/looks", params={"name": "t.json"}, content=json.dumps(look).encode())
    assert answer.status_code == 422 and ".cube" in answer.text
    assert len(project(client, room)["looks"]) == 1
