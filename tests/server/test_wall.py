"""Many cells of the wall at once, lens and look across, the order of the queue."""

from __future__ import annotations

import pytest

from tests import small
from tests.server.test_history import described
from tests.server.test_plates import plates, ready
from valleylight.core.errors import NotFoundError
from valleylight.core.project.across import across
from valleylight.server.store import jobs, tables
from valleylight.server.store.tables import JobRow

CELLS = [{"view": v, "occasion": o} for v in ("inside", "outside") for o in ("noon", "night")]


@pytest.fixture
def idle(client):
    """A renderer that takes nothing up: what waits goes on waiting."""
    client.app.state.context.worker.send = lambda wish: None
    return client


def test_plates_of_many_cells_go_into_the_queue_in_one(client, room):
    made = client.post(f"/api/projects/{room}/plates/many", json={"cells": CELLS, "quality": "sketch"})
    assert made.status_code == 202
    assert [(p["view"], p["occasion"]) for p in made.json()] == [(c["view"], c["occasion"]) for c in CELLS]
    for plate in made.json():
        assert ready(client, room, plate["id"])["job"]["status"] == "done"


@pytest.mark.parametrize("wrong", [
    {"cells": [*CELLS, {"view": "attic", "occasion": "noon"}]}, {"cells": []}, {"cells": CELLS, "quality": "live"}, {"cells": CELLS * 101},
])  # fmt: skip
def test_all_or_none_are_put_in_the_queue(client, room, wrong):
    assert client.post(f"/api/projects/{room}/plates/many", json=wrong).status_code in (404, 422)
    assert plates(client, room) == []


def test_the_queue_is_put_in_another_order(idle, room):
    made = idle.post(f"/api/projects/{room}/plates/many", json={"cells": CELLS}).json()
    numbers = [p["job"]["id"] for p in made]

    def order() -> list[int]:
        waiting = [p["job"] for p in plates(idle, room) if p["job"]["status"] == "waiting"]
        return [job["id"] for job in sorted(waiting, key=lambda job: job["rank"])]

    held = set(numbers) - set(order())  # one may have been taken up before the renderer was told nothing
    assert not held
    wanted = [numbers[2], numbers[0], numbers[3]]
    assert idle.post("/api/jobs/order", json={"jobs": wanted}).status_code == 202
    # The three take the places they had among them; the one not named keeps its own.
    assert order() == [numbers[2], numbers[1], numbers[0], numbers[3]]
    with tables.database.connection_context():
        assert jobs.next_waiting().id == numbers[2]
        JobRow.update(status="done").where(JobRow.id == numbers[2]).execute()
    for wrong in (wanted, [numbers[0], numbers[0]], [numbers[0], 999999], []):
        assert idle.post("/api/jobs/order", json={"jobs": wrong}).status_code == 422
    assert order() == [numbers[1], numbers[0], numbers[3]]


def test_exposure_and_look_are_copied_across_and_undone(client, room):
    before = described(client, room)
    source = {"view": "outside", "occasion": "noon"}
    url = f"/api/projects/{room}/across"
    assert client.post(url, json={"source": source, "cells": CELLS, "lens": True, "look": True}).status_code == 200
    views = {v["key"]: v for v in described(client, room)["views"]}
    assert {o: lens["f_number"] for o, lens in views["inside"]["lens_at"].items()} == {"noon": 11, "night": 11}
    assert views["inside"]["look_at"] == {"noon": "plain", "night": "plain"}
    assert "noon" not in views["outside"]["lens_at"]
    assert views["inside"]["position"] == next(v for v in before["views"] if v["key"] == "inside")["position"]
    again = client.post(url, json={"source": source, "cells": CELLS, "lens": True})
    assert again.status_code == 422
    assert "already" in again.json()["detail"]
    assert client.post(url, json={"source": source, "cells": CELLS}).status_code == 422
    client.post(f"/api/projects/{room}/undo")
    assert described(client, room) == before


def test_cells_that_are_not_there_are_named():
    project = small.project().description
    with pytest.raises(NotFoundError, match="attic"):
        across(project, ("inside", "noon"), [("attic", "noon")], True, True)
    with pytest.raises(NotFoundError, match="dawn"):
        across(project, ("inside", "noon"), [("inside", "dawn")], True, True)
    assert across(project, ("inside", "noon"), [("inside", "noon")], True, True) == []
