"""Two hands at one project: finer parts, revisions, and what is told when they meet."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

import pytest

from tests.server.test_projects import get
from valleylight.server.store import edits, storage
from valleylight.server.store.edits import Edit
from valleylight.server.store.tables import database


def edit(client, slug, *changes, base=None, hand="", label="Edit"):
    headers = {"Valleylight-Hand": hand} if hand else {}
    body = {"label": label, "changes": list(changes), "base": base}
    return client.post(f"/api/projects/{slug}/edits", json=body, headers=headers)


def field(part, key, *at, value):
    return {"part": part, "key": key, "at": list(at), "value": value}


HOUR = field("occasion", "noon", "when", value="2026-06-21T09:00:00")
LEVEL = field("occasion", "noon", "sun", "level_stops", value=1.0)


def test_different_fields_of_one_part_hold_side_by_side(client, room):
    base = get(client, room)["revision"]
    assert edit(client, room, HOUR, base=base, hand="one").status_code == 200
    assert edit(client, room, LEVEL, base=base, hand="two").status_code == 200
    noon = get(client, room)["description"]["occasions"][0]
    assert noon["when"].startswith("2026-06-21T09") and noon["sun"]["level_stops"] == 1.0


def test_the_same_field_is_refused_with_what_is_there_now(client, room):
    base = get(client, room)["revision"]
    edit(client, room, HOUR, base=base, hand="one", label="Hour")
    later = field("occasion", "noon", "when", value="2026-06-21T18:30:00")
    refused = edit(client, room, later, LEVEL, base=base, hand="two")
    assert refused.status_code == 409 and refused.headers["content-type"] == "application/problem+json"
    said = refused.json()
    assert said["revision"] == base + 1 and said["label"] == "Hour"
    assert [(c["at"], c["value"]) for c in said["now"]] == [(["when"], "2026-06-21T09:00:00")]
    held = get(client, room)
    assert held["revision"] == base + 1 and held["description"]["occasions"][0]["sun"]["level_stops"] == 0
    assert edit(client, room, later, LEVEL, base=said["revision"], hand="two").status_code == 200


def test_ones_own_edits_never_meet_and_equal_values_do_not_either(client, room):
    base = get(client, room)["revision"]
    for hour in (8, 9, 10):
        change = field("occasion", "noon", "when", value=f"2026-06-21T{hour:02}:00:00")
        assert edit(client, room, change, base=base, hand="one").status_code == 200
    same = field("occasion", "noon", "when", value="2026-06-21T10:00:00")
    assert edit(client, room, same, base=base, hand="two").status_code == 200


@pytest.mark.parametrize(("mine", "theirs", "meets"), [
    (HOUR, {"part": "occasion", "key": "noon", "value": None}, True),
    ({"part": "occasion", "key": "noon", "value": None}, HOUR, True),
    (HOUR, field("occasion", "night", "when", value="2026-01-01T20:00:00"), False),
    (field("view", "inside", "position", value=[1, 1, 1]), field("view", "inside", "focal_mm", value=30), False),
    ({"part": "view", "key": "outside", "place": 0}, {"part": "view", "key": "inside", "place": 1}, False),
    (field("stage", "", "white_card", value=True), field("stage", "", "find_openings", value=False), False),
    (field("stage", "", "surfaces", "oak", value={"base": [0.2, 0.2, 0.2]}), field("stage", "", "surfaces", "plaster", value={"base": [0.6, 0.6, 0.6]}), False),
])  # fmt: skip
def test_what_meets_and_what_does_not(client, room, mine, theirs, meets):
    base = get(client, room)["revision"]
    assert edit(client, room, theirs, base=base, hand="two").status_code == 200
    assert (edit(client, room, mine, base=base, hand="one").status_code == 409) == meets


def test_undo_of_an_edit_not_yet_seen_is_asked_first(client, room):
    base = get(client, room)["revision"]
    edit(client, room, HOUR, base=base, hand="one", label="Hour")
    edit(client, room, LEVEL, base=base, hand="two", label="Sun level")
    refused = client.post(f"/api/projects/{room}/undo?base={base + 1}", headers={"Valleylight-Hand": "one"})
    assert refused.status_code == 409 and refused.json()["label"] == "Sun level"
    taken = client.post(f"/api/projects/{room}/undo?base={base + 2}", headers={"Valleylight-Hand": "one"})
    assert taken.status_code == 200 and taken.json()["undo"] == "Hour"


def test_an_undo_counts_as_a_touch(client, room):
    edit(client, room, HOUR, hand="one")
    base = get(client, room)["revision"]
    client.post(f"/api/projects/{room}/undo", headers={"Valleylight-Hand": "one"})
    assert (
        edit(
            client, room, field("occasion", "noon", "when", value="2026-06-21T07:00:00"), base=base, hand="two"
        ).status_code
        == 409
    )
    assert edit(client, room, LEVEL, base=base, hand="two").status_code == 200


def test_a_base_older_than_what_is_remembered_is_refused(client, room, monkeypatch):
    monkeypatch.setattr(edits, "KEPT_TOUCHES", 3)
    base = get(client, room)["revision"]
    for focal in range(20, 26):
        edit(client, room, field("view", "inside", "focal_mm", value=focal))
    assert edit(client, room, HOUR, base=base, hand="two").status_code == 409


def test_many_hands_at_once_lose_nothing(client, room):
    """Forty edits at the same moment, each of a field of its own: every one is kept, and every one is a step of undo."""
    base = get(client, room)["revision"]
    names = [f"Group {k}" for k in range(40)]

    def send(k):
        change = field("occasion", "noon", "levels", names[k], value=k)
        return edit(client, room, change, base=base, hand=f"hand {k}").status_code

    with ThreadPoolExecutor(40) as pool:
        assert set(pool.map(send, range(40))) == {200}
    state = get(client, room)
    levels = state["description"]["occasions"][0]["levels"]
    assert state["revision"] == base + 40 and {n: levels[n] for n in names} == {
        n: float(k) for k, n in enumerate(names)
    }


def test_a_copy_made_twice_at_once_is_two_copies(client, room):
    with ThreadPoolExecutor(4) as pool:
        made = list(
            pool.map(
                lambda _: client.post(f"/api/projects/{room}/copies", json={"part": "occasion", "key": "noon"}),
                range(4),
            )
        )
    assert len({m.json()["key"] for m in made}) == 4
    assert len(get(client, room)["description"]["occasions"]) == 6


def test_order_survives_taking_away_undo_and_redo(client, room):
    """Whatever is moved, taken away and brought back, undo leads through the same orders backwards."""

    def order():
        return [v["key"] for v in get(client, room)["description"]["views"]]

    for number in range(3):
        client.post(f"/api/projects/{room}/copies", json={"part": "view", "key": "inside", "name": f"Copy {number}"})
    seen = [order()]
    for change in (
        {"part": "view", "key": seen[0][0], "value": None}, {"part": "view", "key": seen[0][1], "value": None},
        {"part": "view", "key": "outside", "place": 0}, {"part": "view", "key": seen[0][2], "place": 2},
    ):  # fmt: skip
        assert edit(client, room, change).status_code == 200
        seen.append(order())
    for expected in reversed(seen[:-1]):
        client.post(f"/api/projects/{room}/undo")
        assert order() == expected
    for expected in seen[1:]:
        client.post(f"/api/projects/{room}/redo")
        assert order() == expected


def test_the_last_look_stays(client, room):
    refused = edit(client, room, {"part": "look", "key": "plain", "value": None})
    assert refused.status_code == 422 and "last look" in refused.json()["detail"]


def test_journals_of_before_are_still_undone(client, room):
    """A step kept before orders were journalled carries a place of its own."""
    from valleylight.server.store.tables import EditRow, FixtureRow, ProjectRow

    with database.connection_context():
        row = ProjectRow.get(ProjectRow.slug == room)
        before = get(client, room)["description"]["fixtures"][0]
        edits.apply_edit(room, Edit.model_validate({"label": "Away", "changes": [{"part": "fixture", "key": "a"}]}))
        last = EditRow.select().where(EditRow.project == row).order_by(EditRow.id.desc()).get()
        last.changes = [
            {"part": "fixture", "key": "a", "before": before, "after": None, "before_place": 0, "after_place": 0}
        ]
        last.save()
        FixtureRow.update(place=1).where(FixtureRow.project == row).execute()  # places had gaps then
    assert client.post(f"/api/projects/{room}/undo").json()["description"]["fixtures"][0]["key"] == "a"


def test_a_project_is_read_whole_while_parts_go(client, room, monkeypatch):
    """A thing and the layer it stands on are taken away between two tables being read: the reader still finds both."""
    thing = client.get(f"/api/projects/{room}").json()["description"]["placements"][0]
    layer = {"part": "layer", "key": "on", "value": {"key": "on", "name": "On"}}
    twin = {"part": "placement", "key": "twin", "value": {**thing, "key": "twin", "name": "twin", "layer": "on"}}
    gone = [{"part": "placement", "key": "twin", "value": None}, {"part": "layer", "key": "on", "value": None}]
    assert edit(client, room, layer, twin).status_code == 200
    done = []

    class Meanwhile(dict):
        """The lists of parts, in whose midst another hand takes two parts away."""

        def items(self):
            parts = sorted(super().items(), key=lambda item: item[0] != "placement")
            for number, item in enumerate(parts):
                yield item
                if number == 0 and not done:
                    done.append(True)
                    with ThreadPoolExecutor(1) as other:
                        assert other.submit(edit, client, room, *gone).result().status_code == 200

    monkeypatch.setattr(storage, "LISTED", Meanwhile(storage.LISTED))
    with database.connection_context():
        told = storage.description(storage.project_row(room))
    assert done
    assert ([p.key for p in told.placements], [layer.key for layer in told.layers]) == ([thing["key"], "twin"], ["on"])
    after = client.get(f"/api/projects/{room}").json()["description"]
    assert (len(after["placements"]), after["layers"]) == (1, [])
