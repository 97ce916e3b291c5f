"""Projects and plates as wholes: listed, copied, put in order, put away and brought back."""

from __future__ import annotations

import pytest

from tests import small
from tests.server.conftest import wait_for
from tests.server.test_hands import edit
from tests.server.test_projects import get
from valleylight.core.making.glb import Model, Surface, Thing, write_glb
from valleylight.core.making.shapes import box


def names(client, **query):
    return [p["slug"] for p in client.get("/api/projects", params=query).json()]


def test_the_list_tells_place_counts_size_and_date(client, room):
    line = client.get("/api/projects").json()[0]
    assert (line["views"], line["occasions"], line["plates"], line["picture"], line["away"]) == (2, 2, 0, None, None)
    assert line["place"] == "Nowhere" and line["bytes"] > len(small.room_glb())
    before = line["changed"]
    edit(client, room, {"part": "name", "value": "Other"})
    assert client.get("/api/projects").json()[0]["changed"] > before == line["changed"]


def test_a_project_begins_where_it_is_said_to_stand(client):
    site = {"place": "Quay", "latitude_deg": 53.9, "longitude_deg": 8.6, "time_zone": "Europe/Berlin"}
    made = client.post("/api/projects", json={"name": "Shed", "site": site}).json()
    assert made["description"]["site"]["latitude_deg"] == 53.9
    wrong = client.post("/api/projects", json={"name": "Shed", "site": {**site, "time_zone": "Moon/Base"}})
    assert wrong.status_code == 422 and "time zone" in wrong.json()["detail"] and names(client) == ["shed"]


def test_copies_stand_next_to_their_original_and_are_their_own(client, room):
    client.post("/api/projects", json={"name": "Last"})
    made = client.post(f"/api/projects/{room}/duplicate", json={}).json()
    assert made["slug"] == "small-room-copy" and made["undo"] is None
    again = client.post("/api/projects/small-room-copy/duplicate", json={"with_plates": True}).json()
    assert again["description"]["name"] == "Small room, copy 2"
    assert names(client) == [room, "small-room-copy", "small-room-copy-2", "last"]
    assert {**made["description"], "name": ""} == {**get(client, room)["description"], "name": ""}
    edit(client, "small-room-copy", {"part": "view", "key": "inside", "value": None})
    assert len(get(client, room)["description"]["views"]) == 2
    named = client.post(f"/api/projects/{room}/duplicate", json={"name": "Variant"}).json()
    assert named["slug"] == "variant"


def test_projects_are_put_in_order(client, room):
    for name in ("B", "C"):
        client.post("/api/projects", json={"name": name})
    client.post("/api/projects/c/place", json={"place": 0})
    assert names(client) == ["c", room, "b"]
    client.post("/api/projects/c/place", json={"place": 99})
    assert names(client) == [room, "b", "c"]
    assert client.post("/api/projects/nowhere/place", json={"place": 0}).status_code == 404


def test_a_deleted_project_comes_back_with_everything(client, room):
    before = get(client, room)
    gone = client.delete(f"/api/projects/{room}").json()
    assert gone["away"] and names(client) == [] and names(client, away=True) == [room]
    client.delete(f"/api/projects/{room}")  # twice is no harm
    assert client.post(f"/api/projects/{room}/restore").json()["away"] is None
    assert names(client) == [room] and get(client, room) == before
    assert client.delete("/api/projects/nowhere").status_code == 404


def test_plates_are_kept_live_named_ranked_made_again_and_put_away(client, room):
    with client.websocket_connect(f"/api/projects/{room}/live") as socket:
        socket.send_json({"type": "show", "serial": 1, "view": "inside", "occasion": "noon"})
        early = client.post(f"/api/projects/{room}/plates/live", json={"view": "outside", "occasion": "noon"})
        assert early.status_code == 422 and "not there yet" in early.json()["detail"]
        kept = wait_for(
            lambda: (
                (
                    a := client.post(f"/api/projects/{room}/plates/live", json={"view": "inside", "occasion": "noon"})
                ).status_code
                == 201
                and a.json()
            )
        )
    assert kept["ready"] and kept["quality"] == "live" and kept["samples"] >= 1 and kept["changed"] == []
    assert client.get(f"/api/plates/{kept['id']}/picture.png").content[:4] == b"\x89PNG"
    key = str(kept["id"])
    again = client.post(f"/api/plates/{key}/again", json={"quality": "sketch"}).json()
    client.post(f"/api/jobs/{again['job']['id']}/stop")
    listed = lambda: [(p["id"], p["name"]) for p in client.get(f"/api/projects/{room}/plates").json()]  # noqa: E731
    assert (
        edit(client, room, {"part": "plate", "key": key, "at": ["name"], "value": "For the client"}).status_code == 200
    )
    assert (
        edit(client, room, {"part": "plate", "key": key, "at": ["rank"], "value": again["id"] + 1}).status_code == 200
    )
    assert listed() == [(kept["id"], "For the client"), (again["id"], "")]
    edit(client, room, {"part": "plate", "key": key, "value": None})
    assert listed() == [(again["id"], "")]
    for expected in (
        [(kept["id"], "For the client"), (again["id"], "")],
        [(again["id"], ""), (kept["id"], "For the client")],
        [(again["id"], ""), (kept["id"], "")],
    ):
        client.post(f"/api/projects/{room}/undo")
        assert listed() == expected


def test_a_picture_kept_right_after_an_edit_shows_the_edit(client, room):
    """The plate's settings and its light belong together, however soon after an edit it is kept: noon, then night."""
    import io

    import numpy as np
    from PIL import Image

    wanted = {"view": "outside", "occasion": "noon"}
    means = []
    with client.websocket_connect(f"/api/projects/{room}/live") as socket:
        for serial, when in enumerate(("2026-06-21T13:00:00", "2026-01-12T23:30:00")):
            edit(client, room, {"part": "occasion", "key": "noon", "at": ["when"], "value": when})
            socket.send_json({"type": "show", "serial": serial, **wanted})
            kept = wait_for(
                lambda: (
                    (a := client.post(f"/api/projects/{room}/plates/live", json=wanted)).status_code == 201 and a.json()
                )
            )
            assert kept["changed"] == []
            picture = client.get(f"/api/plates/{kept['id']}/picture.png").content
            means.append(float(np.asarray(Image.open(io.BytesIO(picture))).mean()))
    assert means[1] < 0.2 * means[0]


BAD_LABELS = {
    "no number": ({"part": "plate", "key": "one", "at": ["name"], "value": "x"}, 404),
    "of another project": ({"part": "plate", "key": "999999", "at": ["name"], "value": "x"}, 404),
    "too long": ({"part": "plate", "key": "{key}", "at": ["name"], "value": "x" * 81}, 422),
    "not finite": ({"part": "plate", "key": "{key}", "at": ["rank"], "value": "first"}, 422),
    "its picture": ({"part": "plate", "key": "{key}", "at": ["picture"], "value": "a" * 64}, 422),
}  # fmt: skip


@pytest.mark.parametrize("name", BAD_LABELS)
def test_bad_labels_of_plates_change_nothing(client, room, name):
    made = client.post(
        f"/api/projects/{room}/plates", json={"view": "inside", "occasion": "noon", "quality": "sketch"}
    ).json()
    client.post(f"/api/jobs/{made['job']['id']}/stop")
    change, status = BAD_LABELS[name]
    before = get(client, room)
    assert edit(client, room, {**change, "key": change["key"].format(key=made["id"])}).status_code == status
    assert get(client, room) == before


def test_a_model_is_refused_twice_and_replaced_in_its_place(client, room):
    data = small.room_glb()
    twice = client.post(f"/api/projects/{room}/models?name=twin.glb", content=data)
    assert twice.status_code == 422 and "stands on the stage already" in twice.json()["detail"]
    put = client.post(f"/api/projects/{room}/models?name=new.glb&replace=room", content=data)
    assert put.status_code == 201 and [m["name"] for m in put.json()["description"]["placements"]] == ["new.glb"]
    assert put.json()["undo"] == "Replace model new.glb"
    assert client.post(f"/api/projects/{room}/models?name=new.glb&replace=attic", content=data).status_code == 404


def test_layers_of_a_model_join_those_of_the_project(client, room):
    """Once, and under names of their own: what people call a layer may change, what its model calls it does not."""
    model = Model()
    model.surface(Surface("s", (0.5, 0.5, 0.5)))
    for layer in ("Première neige", "ground", ""):
        model.put(Thing(layer or "none").add("s", box([0, 0, 0], [1, 1, 1])), layer)
    data = write_glb(model)
    first = client.post(f"/api/projects/{room}/models?name=more.glb", content=data).json()["description"]
    assert [p["key"] for p in first["placements"]] == ["room", "more"]
    assert {(layer["key"], layer["in_models"]) for layer in first["layers"]} == {
        ("premi-re-neige", "Première neige"), ("ground", "ground"),
    }  # fmt: skip
    renamed = edit(client, room, {"part": "layer", "key": "ground", "at": ["name"], "value": "Meadow"}).json()
    assert client.post(f"/api/projects/{room}/undo").json()["description"]["layers"] == first["layers"]
    assert renamed["description"]["layers"] != first["layers"]
    client.post(f"/api/projects/{room}/redo")
    again = client.post(f"/api/projects/{room}/models?name=other.glb&replace=more", content=small.room_glb() + b"")
    assert again.status_code == 422  # the room stands there already
    away = edit(client, room, {"part": "layer", "key": "ground", "value": None}).json()["description"]
    assert [layer["key"] for layer in away["layers"]] == ["premi-re-neige"]


def test_a_thing_stands_on_a_layer_that_is_there(client, room):
    wrong = edit(client, room, {"part": "placement", "key": "room", "at": ["layer"], "value": "attic"})
    assert wrong.status_code == 422 and "unknown layer" in wrong.text
    layer = {"part": "layer", "key": "attic", "value": {"key": "attic", "name": "Attic"}}
    moved = [layer, {"part": "placement", "key": "room", "at": ["layer"], "value": "attic"}]
    assert edit(client, room, *moved).status_code == 200
    gone = edit(client, room, {"part": "layer", "key": "attic", "value": None})
    assert gone.status_code == 422 and "room.glb" in gone.text
    assert client.post(f"/api/projects/{room}/undo").json()["description"]["layers"] == []


def test_a_stopped_plate_stays_to_go_on_with(client, room):
    made = client.post(
        f"/api/projects/{room}/plates", json={"view": "inside", "occasion": "noon", "quality": "press"}
    ).json()
    client.post(f"/api/jobs/{made['job']['id']}/stop")
    stopped = wait_for(
        lambda: [p for p in client.get(f"/api/projects/{room}/plates").json() if p["job"]["status"] == "stopped"]
    )
    assert [p["id"] for p in stopped] == [made["id"]]


def test_one_slow_plate_does_not_swing_the_estimate(client, room, settings):
    from valleylight.server.store.tables import PlateRow, ProjectRow, database

    width, samples = settings.sketch_width, 6
    with database.connection_context():
        row = ProjectRow.get(ProjectRow.slug == room)
        for seconds in (3.0, 3.2, 3.1, 60.0, 2.9):
            PlateRow.create(project=row, view_key="inside", occasion_key="noon", quality="sketch", width=width, height=round(width * 9 / 16),
                            samples=samples, ev100=10, true_to_place=True, picture="a" * 64, seconds=seconds)  # fmt: skip
    assert client.get(f"/api/projects/{room}/estimate").json()["sketch"] == pytest.approx(3.1)
