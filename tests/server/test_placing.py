"""Arranging fixtures, sections, readings, areas and the meter over REST."""

from __future__ import annotations

import json

import pytest


def fixtures(state):
    return state["description"]["fixtures"]


def arrange(client, room, **wanted):
    return client.post(f"/api/projects/{room}/arrange", json={"kind": "downlight-medium", **wanted})


def test_rows_and_arrays_hang_on_the_ceiling_in_one_step_of_undo(client, room):
    state = arrange(client, room, how="row", points=[[0, 2], [6, 2]], count=3).json()
    new = fixtures(state)[2:]
    assert [f["position"][0] for f in new] == [1, 3, 5]
    assert all(f["position"][2] == pytest.approx(2.98, abs=0.01) for f in new)  # the ceiling is at 3 m
    assert state["undo"] == "Place a row of 3"
    assert len(fixtures(client.post(f"/api/projects/{room}/undo").json())) == 2
    state = arrange(client, room, how="array", points=[[0, 0], [6, 4]], spacing_m=2, height_m=2.5).json()
    assert len(fixtures(state)) == 2 + 6 and fixtures(state)[-1]["position"][2] == 2.5
    state = arrange(client, room, how="curve", points=[[1, 1], [3, 2], [5, 1]], count=5, half_ends=False).json()
    assert [round(v, 2) for v in fixtures(state)[-1]["position"][:2]] == [5, 1]


def test_mirrors_and_objects(client, room):
    state = arrange(client, room, how="mirror", points=[[3, 2]], fixtures=["a"], axis="x").json()
    assert fixtures(state)[-1]["position"] == [4.5, 2, 2.9]
    state = arrange(client, room, how="objects", objects="ROOM").json()
    assert fixtures(state)[-1]["position"][:2] == [3.0, 2.0]
    for wrong in ({"how": "objects", "objects": "no such"}, {"how": "row", "points": [[0, 0]]}, {"how": "mirror"}):
        refused = arrange(client, room, **wrong)
        assert refused.status_code == 422, wrong
    assert arrange(client, room, how="row", points=[[0, 0], [1, 1]], kind="sofa").status_code == 404
    names = {o["name"] for o in client.get(f"/api/projects/{room}/objects").json()}
    assert {"room", "ground"} <= names


def test_a_section_shows_floor_and_ceiling(client, room):
    made = client.get(f"/api/projects/{room}/section", params={"axis": "y", "place_m": 2.5}).json()
    heights = {round(z, 1) for z in made["segments"][1::2]}
    assert {0.0, 3.0} <= heights
    assert client.get(f"/api/projects/{room}/section", params={"axis": "z", "place_m": 2}).status_code == 422


def test_lux_follows_a_draft_and_readings_a_fixture(client, room):
    saved = client.post(f"/api/projects/{room}/illuminance", json={"occasion": "night"}).json()
    lamp = fixtures(client.get(f"/api/projects/{room}").json())[0]
    draft = [{"part": "fixture", "key": "a", "value": {**lamp, "percent": 200}}]
    brighter = client.post(f"/api/projects/{room}/illuminance", json={"occasion": "night", "draft": draft}).json()
    assert max(brighter["lux"]) > 1.5 * max(saved["lux"])
    found = client.get(f"/api/projects/{room}/fixtures/a/readings", params={"occasion": "night"}).json()
    assert found["distance_m"] == pytest.approx(2.9, abs=0.02) and found["contact_lx"] > 100
    assert client.get(f"/api/projects/{room}/fixtures/zz/readings", params={"occasion": "night"}).status_code == 404


def test_an_area_is_measured_with_and_without_bounces(client, room):
    asked = {"occasion": "night", "corner": [0.5, 0.5, 0.8], "u": [5, 0, 0], "v": [0, 3, 0], "spacing_m": 0.5}
    whole = client.post(f"/api/projects/{room}/area", json=asked).json()
    direct = client.post(f"/api/projects/{room}/area", json={**asked, "direct_only": True}).json()
    assert (whole["rows"], whole["columns"]) == (6, 10) and whole["mean_lx"] > direct["mean_lx"] > 10
    assert 0 < whole["uniformity"] < 1
    assert client.post(f"/api/projects/{room}/area", json={**asked, "u": [0, 0, 0]}).status_code == 422
    assert len(client.get("/api/targets").json()) >= 8


def test_the_meter_reads_the_live_picture_in_every_way_of_showing_it(client, room):
    def show(socket, serial, mode):
        socket.send_json({"type": "show", "serial": serial, "view": "inside", "occasion": "night", "mode": mode})
        while True:
            message = socket.receive()
            if message.get("bytes"):
                length = int.from_bytes(message["bytes"][:4], "big")
                header = json.loads(message["bytes"][4 : 4 + length])
                if header.get("serial") == serial:
                    return header

    early = client.post(f"/api/projects/{room}/meter", json={"view": "inside", "occasion": "night", "x": 0.5, "y": 0.5})
    assert early.status_code == 422 and "not there yet" in early.json()["detail"]
    with client.websocket_connect(f"/api/projects/{room}/live") as socket:
        plain = show(socket, 1, "picture")
        assert plain["legend"] is None and plain["shares"]["Ceiling"] > 0.05
        assert sum(plain["shares"].values()) == pytest.approx(1.0, abs=1e-3)
        lux = show(socket, 2, "illuminance")["legend"]
        assert lux["unit"] == "lx" and len(lux["steps"]) == 8
        assert show(socket, 3, "luminance")["legend"]["unit"] == "cd/m2"
        assert show(socket, 4, "clipped")["mode"] == "clipped"
        spot = {"view": "inside", "occasion": "night", "x": 0.5, "y": 0.9}
        read = client.post(f"/api/projects/{room}/meter", json=spot).json()
        assert "luminance_cd_m2" in read, read
        assert read["luminance_cd_m2"] > 0 and read["lux"] > 5 and read["material"] in ("plaster", "oak")
        assert sum(read["lux_by_group"].values()) == pytest.approx(read["lux"], rel=0.01)
        wide = client.post(f"/api/projects/{room}/meter", json={**spot, "radius": 0.1}).json()
        assert wide["least_cd_m2"] < wide["luminance_cd_m2"] < wide["greatest_cd_m2"]


def test_a_kind_tells_its_flux_in_other_quantities(client, room):
    kind = client.get(f"/api/projects/{room}/kinds").json()[0]
    per = kind["lumens_per"]
    assert per["lm"] == 1 and per["W"] == 100
    assert per["cd"] == pytest.approx(kind["lumens"] / kind["peak_cd"]) and per["lx"] == pytest.approx(4 * per["cd"])


def test_one_fixture_is_placed_as_its_neighbours_or_under_the_ceiling(client, room):
    """Where nothing is said: height, group and turn of the nearest of its kind; the first one on a ceiling finds it."""
    before = client.get(f"/api/projects/{room}").json()["description"]
    place = lambda **more: client.post(f"/api/projects/{room}/fixtures", json={"at": [3, 1], **more})  # noqa: E731
    made = place(kind="downlight-medium").json()
    one = next(f for f in made["project"]["description"]["fixtures"] if f["key"] == made["key"])
    like = next(f for f in before["fixtures"] if f["kind"] == "downlight-medium")
    assert (one["position"], one["aim"], one["group"]) == ([3, 1, like["position"][2]], [3, 1, 0], like["group"])
    aimed = place(kind="downlight-medium", height_m=1.5, aim=[0, 0, 1.5]).json()
    lamp = next(f for f in aimed["project"]["description"]["fixtures"] if f["key"] == aimed["key"])
    assert (lamp["position"], lamp["aim"]) == ([3, 1, 1.5], [0, 0, 1.5])
    assert made["project"]["undo"].startswith("Place ")
    for _ in (1, 2):
        client.post(f"/api/projects/{room}/undo")
    assert client.get(f"/api/projects/{room}").json()["description"]["fixtures"] == before["fixtures"]
    gone = [{"part": "fixture", "key": f["key"], "value": None} for f in before["fixtures"]]
    client.post(f"/api/projects/{room}/edits", json={"label": "Clear", "changes": gone})
    first = place(kind="downlight-medium").json()
    [hung] = first["project"]["description"]["fixtures"]
    assert hung["position"] == pytest.approx([3, 1, 2.98], abs=1e-3)  # the ceiling is at 3 m


@pytest.mark.parametrize(
    ("wanted", "status", "words"),
    [
        ({"kind": "no-such-kind"}, 404, "no-such-kind"),
        ({"kind": "downlight-medium", "height_m": 2, "aim": [3, 1, 2]}, 422, "aim"),
        ({"kind": "downlight-medium", "height_m": 1e9}, 422, "height_m"),
        ({"kind": "downlight-medium", "colour": "red"}, 422, "colour"),
    ],
)
def test_a_fixture_that_cannot_stand_is_refused(client, room, wanted, status, words):
    before = client.get(f"/api/projects/{room}").json()
    answer = client.post(f"/api/projects/{room}/fixtures", json={"at": [3, 1], **wanted})
    assert answer.status_code == status and words in answer.text
    assert client.get(f"/api/projects/{room}").json() == before
