"""Notes and stars of plates, what differs, settings back, and thinning, over HTTP."""

from __future__ import annotations

from datetime import timedelta

from tests.server.test_plates import make, plates, ready
from valleylight.core.history.thinning import NEWEST, OLDEST
from valleylight.server.store import tables
from valleylight.server.store.tables import PlateRow


def edit(client, room, *changes: dict):
    return client.post(f"/api/projects/{room}/edits", json={"label": "x", "changes": list(changes)})


def made(client, room) -> dict:
    return ready(client, room, make(client, room)["id"])


def described(client, room) -> dict:
    return client.get(f"/api/projects/{room}").json()["description"]


def one(client, room, number: int) -> dict:
    return next(p for p in plates(client, room) if p["id"] == number)


def test_plates_are_noted_and_starred_and_that_is_undone(client, room):
    number = made(client, room)["id"]
    note = {"part": "plate", "key": str(number), "at": ["note"], "value": "Too cold by the window"}
    star = {"part": "plate", "key": str(number), "at": ["starred"], "value": True}
    assert edit(client, room, note, star).status_code == 200
    plate = one(client, room, number)
    assert (plate["note"], plate["starred"], plate["name"]) == ("Too cold by the window", True, "")
    client.post(f"/api/projects/{room}/undo")
    plate = one(client, room, number)
    assert (plate["note"], plate["starred"]) == ("", False)
    for wrong in ({**note, "value": "x" * 501}, {**star, "value": "bright"}, {**star, "at": ["film"], "value": "0"}):
        assert edit(client, room, wrong).status_code == 422, wrong


def test_what_differs_is_told_against_now_and_against_another_plate(client, room):
    first = made(client, room)["id"]
    url = f"/api/plates/{first}/differences"
    assert client.get(url).json() == []
    edit(
        client, room, {"part": "occasion", "key": "night", "at": ["levels"], "value": {"Pendants": 50}},
        {"part": "view", "key": "inside", "at": ["focal_mm"], "value": 28},
    )  # fmt: skip
    told = [(d["step"], d["text"]) for d in client.get(url).json()]
    assert told == [("fixtures", "Pendants −1.0 stops"), ("lens", "28 mm instead of 20 mm")]
    second = made(client, room)["id"]
    assert [(d["step"], d["text"]) for d in client.get(url, params={"other": second}).json()] == told
    assert client.get(f"/api/plates/{second}/differences").json() == []
    other = client.post("/api/projects", json={"name": "Elsewhere"}).json()["slug"]
    assert client.get(url, params={"other": 999999}).status_code == 404
    edit(client, room, {"part": "view", "key": "inside", "value": None})
    gone = client.get(url)
    assert gone.status_code == 404
    assert "view" in gone.json()["detail"]
    assert other


def test_settings_come_back_over_now_and_are_undone(client, room):
    before = described(client, room)
    number = made(client, room)["id"]
    edit(
        client, room, {"part": "fixture", "key": "b", "value": None}, {"part": "stage", "at": ["white_card"], "value": True},
        {"part": "view", "key": "inside", "at": ["focal_mm"], "value": 60},
        {"part": "occasion", "key": "night", "at": ["when"], "value": "2026-03-01T20:00:00"},
    )  # fmt: skip
    changed = described(client, room)
    assert len(one(client, room, number)["changed"]) == 4
    answer = client.post(f"/api/plates/{number}/settings", json={})
    assert answer.status_code == 200
    assert (answer.json()["view"], answer.json()["occasion"]) == ("inside", "night")
    assert one(client, room, number)["changed"] == []
    back = described(client, room)
    assert [back[k] for k in ("stage", "fixtures", "occasions")] == [
        before[k] for k in ("stage", "fixtures", "occasions")
    ]
    client.post(f"/api/projects/{room}/undo")
    assert described(client, room) == changed


def test_settings_come_back_as_a_view_and_an_occasion_of_their_own(client, room):
    number = made(client, room)["id"]
    edit(client, room, {"part": "view", "key": "inside", "at": ["focal_mm"], "value": 60})
    now = described(client, room)
    answer = client.post(f"/api/plates/{number}/settings", json={"as_new": True}).json()
    assert (answer["view"], answer["occasion"]) == ("inside-2", "night-2")
    made_now = answer["project"]["description"]
    assert made_now["views"][: len(now["views"])] == now["views"]
    assert next(v for v in made_now["views"] if v["key"] == "inside-2")["focal_mm"] == 20
    client.post(f"/api/projects/{room}/undo")
    assert described(client, room) == now
    assert client.post("/api/plates/999999/settings", json={}).status_code == 404
    assert client.post(f"/api/plates/{number}/settings", json={"as_new": "perhaps"}).status_code == 422


def test_old_plates_are_thinned_by_rule_and_come_back(client, room):
    kept = made(client, room)["id"]
    with tables.database.connection_context():
        first = PlateRow.get_by_id(kept)
        old = tables.now() - OLDEST - timedelta(days=3)
        for k in range(NEWEST + 3):
            PlateRow.create(**{**_copied(first), "starred": k == 0, "name": "Kept" if k == 1 else ""})
        PlateRow.update(created=old).execute()
    told = client.get(f"/api/projects/{room}/thinning").json()
    assert told["plates"] == [kept, kept + 3]
    assert str(NEWEST) in told["rule"]
    assert client.post(f"/api/projects/{room}/thinning").status_code == 200
    assert {p["id"] for p in plates(client, room)}.isdisjoint(told["plates"])
    again = client.post(f"/api/projects/{room}/thinning")
    assert again.status_code == 422
    assert "nothing to thin" in again.json()["detail"]
    client.post(f"/api/projects/{room}/undo")
    assert {p["id"] for p in plates(client, room)} >= set(told["plates"])


def _copied(row: PlateRow) -> dict:
    return {name: value for name, value in row.__data__.items() if name not in ("id", "created")}
