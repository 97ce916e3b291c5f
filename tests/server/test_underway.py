"""Models on their way in are told of and can be stopped: while they are sent, while they are read; nothing is left of those."""

from __future__ import annotations

import asyncio
import os
from concurrent.futures import ThreadPoolExecutor

import pytest

from tests import glb
from tests.server.conftest import wait_for
from valleylight.core.errors import InputError
from valleylight.server.web import trial
from valleylight.server.web.underway import AllUnderway, Underway

TICKET = "ticket-of-this-test"
GOOD = glb.packed(*glb.square())


def stored(settings) -> set[str]:
    return {str(p) for p in settings.files.rglob("*") if p.is_file()}


def progress(client, ticket=TICKET):
    answer = client.get(f"/api/underway/{ticket}")
    return answer.json() if answer.status_code == 200 else None


@pytest.fixture
def slow_reader(monkeypatch, tmp_path):
    """A reader that tells how far it is, and then takes its time; the file of its process's number."""
    number = tmp_path / "number"
    script = tmp_path / "reader"
    script.write_text(
        f"#!/bin/sh\necho $$ > {number}.part; mv {number}.part {number}\n"
        "echo 'told [\"Reading its shapes\", 0.25]'\necho 'a library says something'\nexec sleep 60\n"
    )
    script.chmod(0o755)
    monkeypatch.setattr(trial.sys, "executable", str(script))
    return number


def gone(number: int) -> bool:
    try:
        os.kill(number, 0)
    except ProcessLookupError:
        return True
    return False


def test_what_is_being_read_is_told_of_and_stopped(client, room, settings, slow_reader):
    before, state = stored(settings), client.get(f"/api/projects/{room}").json()
    with ThreadPoolExecutor(1) as pool:
        sent = pool.submit(
            client.post, f"/api/projects/{room}/arrivals", params={"name": "tower.glb", "ticket": TICKET}, content=GOOD
        )
        wait_for(lambda: progress(client) == {"words": "Reading its shapes", "share": 0.25}, 30)
        assert client.delete(f"/api/underway/{TICKET}").status_code == 204
        answer = sent.result(30)
    assert answer.status_code == 422 and "tower.glb: reading it was stopped" in answer.json()["detail"]
    assert progress(client) is None and client.delete(f"/api/underway/{TICKET}").status_code == 404
    wait_for(lambda: gone(int(slow_reader.read_text())), 10)
    assert stored(settings) == before and client.get(f"/api/projects/{room}").json() == state


@pytest.mark.parametrize("whole", [1000, None, 0])
def test_what_is_still_being_sent_is_told_of_and_stopped(whole):
    """Chunks go through as they come; after the stop none does. Without a length nothing is told of the share."""

    async def chunks():
        for _ in range(10):
            yield b"x" * 100

    async def take(one: Underway, stop_after: int) -> tuple[int, list[float]]:
        come, shares = 0, []
        async for chunk in one.counted(chunks(), whole, "tower.glb"):
            come += len(chunk)
            shares.append(one.share)
            if come >= stop_after:
                one.stopped.set()
        return come, shares

    come, shares = asyncio.run(take(Underway(), 10_000))
    assert come == 1000 and shares == pytest.approx([0.1 * k for k in range(1, 11)] if whole else [0.0] * 10)
    with pytest.raises(InputError, match="reading it was stopped") as refused:
        asyncio.run(take(Underway(), 300))
    assert refused.value.where == "tower.glb"


def test_a_ticket_is_free_again_and_arrivals_without_one_go_as_ever(client, room):
    for params in ({"ticket": TICKET}, {"ticket": TICKET}, {}):
        answer = client.post(f"/api/projects/{room}/arrivals", params={"name": "a.glb", **params}, content=GOOD)
        assert answer.status_code == 201, answer.text
        assert answer.json()["sheet"]["triangles"] == 2


@pytest.mark.parametrize("ticket", ["short", "with spaces in it", "a" * 65, "../../../etc/passwd"])
def test_tickets_are_checked(client, room, ticket):
    answer = client.post(f"/api/projects/{room}/arrivals", params={"name": "a.glb", "ticket": ticket}, content=GOOD)
    assert answer.status_code == 422 and answer.json()["where"].endswith("ticket")


def test_one_ticket_is_for_one_file():
    every = AllUnderway()
    with every.begun("one-and-the-same") as first:
        assert every.find("one-and-the-same") is first
        with pytest.raises(InputError, match="in use"), every.begun("one-and-the-same"):
            pass
        assert every.find("one-and-the-same") is first  # the refused one has not taken it away
        with every.begun(None) as other:
            assert other is not first
    with every.begun("one-and-the-same") as again:
        assert again is not first


def test_shares_stay_between_nothing_and_all():
    one = Underway()
    for told, kept in ((-1.0, 0.0), (0.4, 0.4), (7.0, 1.0)):
        one.tell("x", told)
        assert one.share == kept
