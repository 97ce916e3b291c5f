"""Objects of the catalogue through the API: placed on floors and walls, made anew, linked, dropped, taken apart."""

from __future__ import annotations

import io

import numpy as np
import pytest
import trimesh
from PIL import Image

from valleylight.core.objects import FAMILIES


def place(client, slug: str, family: str, at=(3.0, 3.0, 0.0), **more) -> dict:
    answer = client.post(f"/api/projects/{slug}/things", json={"family": family, "position": at, **more})
    assert answer.status_code == 201, answer.text
    return answer.json()


def thing_of(state: dict, key: str) -> dict:
    return next(p for p in state["description"]["placements"] if p["key"] == key)


def edit(client, slug: str, key: str, field: str, value) -> None:
    change = {"part": "placement", "key": key, "at": [field], "value": value}
    answer = client.post(f"/api/projects/{slug}/edits", json={"label": "x", "changes": [change]})
    assert answer.status_code == 200, answer.text


def test_the_catalogue_is_listed(client):
    lines = client.get("/api/objects").json()
    assert [line["key"] for line in lines] == [f.key for f in FAMILIES]
    for line in lines:
        for p in line["parameters"]:
            assert p["least"] <= p["first"] <= p["most"] and (not p["words"] or len(p["words"]) == p["most"] + 1)


def test_a_family_is_pictured(client):
    answer = client.get("/api/objects/stool/picture.png", params={"values": '{"height": 0.8}'})
    assert answer.status_code == 200 and answer.headers["content-type"] == "image/png"
    picture = np.asarray(Image.open(io.BytesIO(answer.content)))
    assert picture.shape == (144, 144, 3) and picture.std() > 10
    assert client.get("/api/objects/stool/picture.png", params={"values": '{"height": 0.8}'}).content == answer.content


@pytest.mark.parametrize(
    "values",
    [
        "{",
        "[]",
        '{"height": 99}',
        '{"height": "tall"}',
        '{"height": NaN}',
        '{"height": true}',
        '{"wings": 2}',
        "[" * 1500,
    ],
)
def test_numbers_of_a_picture_are_checked(client, values):
    assert client.get("/api/objects/stool/picture.png", params={"values": values}).status_code == 422


def test_placing_is_one_step_and_names_differ(client, room):
    before = client.get(f"/api/projects/{room}").json()["description"]
    first, second = place(client, room, "chair"), place(client, room, "chair", at=(2.0, 3.0, 0.0))
    things = [thing_of(second["project"], made["key"]) for made in (first, second)]
    assert [t["name"] for t in things] == ["Chair", "Chair 2"]
    assert things[0]["asset"] == things[1]["asset"]  # linked copies share their file
    assert things[0]["made"]["family"] == "chair" and things[0]["made"]["parameters"]["seat"] == 0.46
    for _ in range(2):
        state = client.post(f"/api/projects/{room}/undo").json()
    assert state["description"] == before


@pytest.mark.parametrize(
    ("normal", "turn"),
    [
        ((0, 0, 1), 0.0),
        ((0, 0, -1), 0.0),
        ((0, -1, 0), 0.0),
        ((1, 0, 0), 90.0),
        ((-1, 0, 0.1), -90.0),
        ((0, 1, 0), 180.0),
    ],
)
def test_on_a_wall_it_faces_away_from_it(client, room, normal, turn):
    """Objects look towards -Y when they are not turned."""
    made = place(client, room, "blind", normal=normal)
    assert np.remainder(thing_of(made["project"], made["key"])["turn_deg"] - turn, 360) == pytest.approx(0, abs=0.01)


def test_other_numbers_reach_all_linked_copies(client, room):
    a, b = place(client, room, "table"), place(client, room, "table", at=(1, 1, 0))
    answer = client.put(
        f"/api/projects/{room}/things/{a['key']}/made", json={"family": "table", "parameters": {"length": 2.4}}
    )
    assert answer.status_code == 200
    tables = [thing_of(answer.json(), made["key"]) for made in (a, b)]
    assert {t["made"]["parameters"]["length"] for t in tables} == {2.4} and tables[0]["asset"] == tables[1]["asset"]
    boxes = {line["key"]: line for line in client.get(f"/api/projects/{room}/things").json()}
    assert boxes[a["key"]]["high"][0] - boxes[a["key"]]["low"][0] == pytest.approx(2.4, abs=0.01)
    # Another object in its place keeps where it stands.
    answer = client.put(f"/api/projects/{room}/things/{b['key']}/made", json={"family": "stool"})
    stool = thing_of(answer.json(), b["key"])
    assert stool["made"]["family"] == "stool" and stool["position"] == [1, 1, 0]
    assert client.post(f"/api/projects/{room}/undo").json()["description"]["placements"] == tables_of(answer, tables)


def tables_of(answer, tables) -> list[dict]:
    others = [p for p in answer.json()["description"]["placements"] if p["key"] not in {t["key"] for t in tables}]
    return [*others, *tables]


def test_a_thing_is_dropped_on_what_lies_below(client, room):
    """On the table of the room, 75 cm high, beside it on the floor, and outside on the ground, 10 cm lower."""
    for (x, y), height in (((3.0, 1.6), 0.75), ((1.0, 3.0), 0.0), ((-4.0, -4.0), -0.1)):
        made = place(client, room, "vase", at=(x, y, 1.9))
        answer = client.post(f"/api/projects/{room}/things/{made['key']}/drop")
        assert answer.status_code == 200, answer.text
        assert thing_of(answer.json(), made["key"])["position"] == pytest.approx([x, y, height], abs=2e-3)
    made = place(client, room, "vase", at=(500.0, 0.0, 1.0))
    answer = client.post(f"/api/projects/{room}/things/{made['key']}/drop")
    assert answer.status_code == 422 and "nothing lies below Vase" in answer.json()["detail"]


def test_a_row_is_taken_apart_and_put_back(client, room):
    made = place(client, room, "bollard", at=(0, -3, -0.1))
    assert client.post(f"/api/projects/{room}/things/{made['key']}/apart").status_code == 422
    edit(client, room, made["key"], "repeat", {"kind": "row", "count": 4, "step": [1.5, 0, 0]})
    counts = {line["key"]: line["count"] for line in client.get(f"/api/projects/{room}/things").json()}
    assert counts[made["key"]] == 4
    row = client.get(f"/api/projects/{room}").json()["description"]
    after = client.post(f"/api/projects/{room}/things/{made['key']}/apart").json()["description"]
    singles = [p for p in after["placements"] if p["made"] and p["made"]["family"] == "bollard"]
    assert [p["position"][0] for p in singles] == [0, 1.5, 3.0, 4.5] and len({p["name"] for p in singles}) == 4
    assert all(p["repeat"] is None for p in singles)
    assert client.post(f"/api/projects/{room}/undo").json()["description"] == row
    edit(client, room, made["key"], "repeat", {"kind": "row", "count": 2000, "step": [1, 0, 0]})
    answer = client.post(f"/api/projects/{room}/things/{made['key']}/apart")
    assert answer.status_code == 422 and "at most 300" in answer.json()["detail"]


def test_strewn_trees_stand_on_the_stage(client, room):
    made = place(client, room, "hazel", at=(0, 0, 0))
    outline = [[-20, -20], [-5, -20], [-5, -5], [-20, -5]]
    edit(client, room, made["key"], "repeat", {"kind": "strewn", "outline": outline, "density_m2": 0.2})
    line = next(x for x in client.get(f"/api/projects/{room}/things").json() if x["key"] == made["key"])
    figures = client.get(f"/api/projects/{room}/stage").json()
    assert figures["triangles"] > 45 * line["triangles"]
    wrong = {"kind": "strewn", "outline": outline, "density_m2": 900}
    change = {"part": "placement", "key": made["key"], "at": ["repeat"], "value": wrong}
    answer = client.post(f"/api/projects/{room}/edits", json={"label": "x", "changes": [change]})
    assert answer.status_code == 422 and "too many" in answer.json()["detail"]


def test_pointing_finds_the_object_and_what_stands_behind_it(client, room):
    made = place(client, room, "armchair", at=(3.0, 3.0, 0.0))
    spot = {"view": "inside", "occasion": "noon", "plan": [3.0, 3.0, 2.5]}
    met = client.post(f"/api/projects/{room}/pick", json=spot).json()
    assert met["thing"] == made["key"] and met["object"] == "Armchair" and met["point"][2] > 0.3
    behind = client.post(f"/api/projects/{room}/pick", json={**spot, "without": made["key"]}).json()
    assert behind["thing"] is None and behind["point"][2] == pytest.approx(0.0, abs=1e-3)


@pytest.mark.parametrize(("path", "body", "status"), [
    ("things", {"family": "throne", "position": [0, 0, 0]}, 404), ("things", {"family": "chair", "position": [0, 0]}, 422),
    ("things", {"family": "chair", "position": [0, 0, 1e12]}, 422), ("things", {"family": "chair", "position": [0, 0, 0], "parameters": {"seat": 9}}, 422),
    ("things", {"family": "chair", "position": [0, 0, 0], "layer": "nowhere"}, 422),
    ("things/nothing/drop", None, 404), ("things/nothing/apart", None, 404),
])  # fmt: skip
def test_refusals(client, room, path, body, status):
    before = client.get(f"/api/projects/{room}").json()["description"]
    answer = client.post(f"/api/projects/{room}/{path}", json=body)
    assert answer.status_code == status, answer.text
    assert client.get(f"/api/projects/{room}").json()["description"] == before


def test_models_are_not_made_anew_and_locked_things_not_dropped(client, room):
    answer = client.put(f"/api/projects/{room}/things/room/made", json={"family": "chair"})
    assert answer.status_code == 422 and "room.glb is a model" in answer.json()["detail"]
    made = place(client, room, "vase", at=(3, 1.6, 2))
    edit(client, room, made["key"], "locked", True)
    answer = client.post(f"/api/projects/{room}/things/{made['key']}/drop")
    assert answer.status_code == 422 and "Unlock it first" in answer.json()["detail"]


def test_a_thing_that_is_not_there_is_not_made_anew(client, room):
    answer = client.put(f"/api/projects/{room}/things/nothing/made", json={"family": "chair"})
    assert answer.status_code == 404


def stl(size=(0.6, 0.4, 0.9)) -> bytes:
    """A box in millimetres, as a scanner's program would write it; trimesh writes it."""
    return trimesh.creation.box([1000 * v for v in size]).export(file_type="stl")


def taken(client, data: bytes, name: str) -> dict:
    answer = client.post(f"/api/objects/own?name={name}", content=data)
    assert answer.status_code == 201, answer.text
    return answer.json()


def test_an_object_of_one_s_own_is_kept_and_placed(client, room):
    """It comes in its own unit and stands in metres, upright, in every project; its picture is made like any."""
    line = taken(client, stl(), "Cabinet.stl")
    assert (line["name"], line["group"], line["parameters"]) == ("Cabinet", "Your own", [])
    again = taken(client, stl((0.2, 0.2, 0.2)), "cabinet.stl")
    assert again["name"] == "cabinet 2"
    assert [f["key"] for f in client.get("/api/objects").json()[:2]] == [line["key"], again["key"]]
    picture = client.get(f"/api/objects/{line['key']}/picture.png")
    assert np.asarray(Image.open(io.BytesIO(picture.content))).std() > 8
    made = place(client, room, line["key"], at=(1.0, 2.0, 0.0))
    thing = thing_of(made["project"], made["key"])
    assert thing["made"] == {"family": line["key"], "parameters": {}}
    [box] = [b for b in client.get(f"/api/projects/{room}/things").json() if b["key"] == made["key"]]
    size = (np.array(box["high"]) - box["low"]) * thing["scale"]
    assert sorted(size) == pytest.approx([0.4, 0.6, 0.9], rel=1e-5)
    # Another object in its place stands in metres again, and back.
    other = client.put(f"/api/projects/{room}/things/{made['key']}/made", json={"family": "stool"}).json()
    assert (thing_of(other, made["key"])["scale"], thing_of(other, made["key"])["up"]) == (1.0, "z")
    back = client.put(f"/api/projects/{room}/things/{made['key']}/made", json={"family": line["key"]}).json()
    assert thing_of(back, made["key"])["scale"] == thing["scale"]
    assert client.put(f"/api/objects/own/{line['own']}", json={"name": "Oak cabinet"}).json()["name"] == "Oak cabinet"
    assert client.delete(f"/api/objects/own/{line['own']}").status_code == 204
    # What stands stays; a new one cannot be placed.
    assert thing_of(client.get(f"/api/projects/{room}").json(), made["key"])["asset"] == thing["asset"]
    gone = client.post(f"/api/projects/{room}/things", json={"family": line["key"], "position": [0, 0, 0]})
    assert gone.status_code == 404
    assert client.get(f"/api/objects/{line['key']}/picture.png").status_code == 404


@pytest.mark.parametrize("data", [b"", b"solid nothing", b"glTF\x02", b"PK\x05\x06" + b"\0" * 18])
def test_what_is_no_object_is_refused_and_nothing_is_left(client, settings, data):
    before = client.get("/api/objects").json()
    answer = client.post("/api/objects/own?name=thing.glb", content=data)
    assert answer.status_code == 422
    assert "thing.glb" in answer.text
    assert client.get("/api/objects").json() == before
    assert [p.name for p in (settings.files / "scratch").iterdir() if p.name.startswith("aside")] == []


@pytest.mark.parametrize("key", ["own-", "own-x", "own-99999", "own-1e3", "own--1"])
def test_objects_that_nobody_kept_are_not_there(client, room, key):
    answer = client.post(f"/api/projects/{room}/things", json={"family": key, "position": [0, 0, 0]})
    assert answer.status_code in (404, 422)
    assert client.get(f"/api/objects/{key}/picture.png").status_code == 404
