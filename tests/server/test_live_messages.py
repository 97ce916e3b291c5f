"""What goes over the WebSocket is of a stated shape, both ways; what is not is refused in words and the page goes on."""

from __future__ import annotations

import json
from typing import Any, get_args

import pytest
from pydantic import TypeAdapter

from valleylight.server.messages.picture import Histogram, LiveFault, LiveHeader
from valleylight.server.web.hub import Hub
from valleylight.server.web.schemas import live
from valleylight.server.web.schemas.live import News, PlatesNews, ProjectNews

SHOW = {"type": "show", "serial": 1, "view": "inside", "occasion": "noon"}


def wish(**other: Any) -> dict[str, Any]:
    return {**SHOW, **other}


def news(socket: Any, kind: str) -> dict[str, Any]:
    """The next text of a kind; pictures and others are passed over."""
    while True:
        message = socket.receive()
        if message.get("text") and (told := json.loads(message["text"]))["type"] == kind:
            return told


def picture(socket: Any, serial: int) -> LiveHeader | LiveFault:
    """The next picture that answers a wish, read as its schema says."""
    while True:
        message = socket.receive()
        if data := message.get("bytes"):
            length = int.from_bytes(data[:4], "big")
            read = TypeAdapter(LiveHeader | LiveFault).validate_json(data[4 : 4 + length])
            if read.serial == serial:
                return read


WRONG = [
    [], 7, None, "show", {}, {"type": "dance"}, {"type": "show"}, wish(serial="x"), wish(serial=None), wish(view=3),
    wish(draft={}), wish(draft=[{"part": "roof"}]), wish(mode="x-ray"), wish(alone="x" * 81), wish(more=1), {"type": "hide", "view": "x"},
    wish(draft=[{"part": "view", "key": "inside", "at": ["focal_mm"], "value": -3}]),
]  # fmt: skip


def test_wishes_that_are_none_are_refused_in_words_and_the_page_goes_on(client, room):
    with client.websocket_connect(f"/api/projects/{room}/live") as socket:
        for wrong in ("{", "", "NaN and more", "[" * 100_000, b"\x00\x01"):
            socket.send_bytes(wrong) if isinstance(wrong, bytes) else socket.send_text(wrong)
            assert "no JSON" in news(socket, "refused")["detail"]
        for wrong in WRONG:
            socket.send_json(wrong)
            refused = news(socket, "refused")
            assert refused["detail"] and "pydantic" not in refused["detail"].lower(), wrong
            given = wrong.get("serial") if isinstance(wrong, dict) else None
            assert refused["serial"] == (given if isinstance(given, int) else None), wrong
        socket.send_json(wish(serial=5))
        shown = picture(socket, 5)
        assert isinstance(shown, LiveHeader) and shown.mode == "picture"


def test_headers_and_faults_are_as_stated(client, room):
    """False colour has its scale; a view that is not there is a fault that names what there is."""
    with client.websocket_connect(f"/api/projects/{room}/live") as socket:
        socket.send_json(wish(serial=2, mode="illuminance"))
        shown = picture(socket, 2)
        assert isinstance(shown, LiveHeader) and shown.legend is not None and shown.legend.unit == "lx"
        assert sum(shown.shares.values()) == pytest.approx(1, abs=0.02)
        assert isinstance(shown.histogram, Histogram) and sum(shown.histogram.shares) == pytest.approx(1, abs=0.02)
        for serial, mode in enumerate(("luminance", "clipped", "picture"), 10):
            socket.send_json(wish(serial=serial, mode=mode))
            shown = picture(socket, serial)
            assert isinstance(shown, LiveHeader) and shown.mode == mode
            assert (shown.legend is not None) == (mode == "luminance")
        socket.send_json(wish(serial=3, view="attic"))
        fault = picture(socket, 3)
        assert isinstance(fault, LiveFault) and "inside, outside" in fault.error


def test_capital_letters_in_an_address_are_no_other_project(client, room):
    """Its picture comes, and the meter reads it."""
    with client.websocket_connect(f"/api/projects/{room.upper()}/live") as socket:
        socket.send_json(wish(serial=4))
        assert isinstance(picture(socket, 4), LiveHeader)
        read = client.post(
            f"/api/projects/{room.title()}/meter", json={"view": "inside", "occasion": "noon", "x": 0.5, "y": 0.8}
        )
        assert read.status_code == 200 and read.json()["luminance_cd_m2"] > 0


def test_an_edit_is_told_to_all_with_the_hand_it_came_from(client, room):
    with client.websocket_connect(f"/api/projects/{room}/live") as socket:
        change = {"part": "occasion", "key": "noon", "at": ["levels", "Ceiling"], "value": 30}
        client.post(
            f"/api/projects/{room}/edits",
            json={"label": "Level", "changes": [change]},
            headers={"Valleylight-Hand": "left"},
        )
        told = ProjectNews.model_validate(news(socket, "project"))
        assert (told.label, told.hand) == ("Level", "left")
        client.delete(f"/api/projects/{room}")
        assert news(socket, "away") == {"type": "away"}


def test_the_document_tells_all_of_it():
    """Every message has its schema among the components, so that a client's types are made, not written."""
    known = live.schemas()
    names = {kind.__name__ for kind in get_args(News)} | {
        "Show",
        "Hide",
        "LiveHeader",
        "LiveFault",
        "Histogram",
        "Legend",
        "Advice",
    }
    assert names <= known.keys()
    assert known["Histogram"]["required"] == ["from", "to", "shares"]


def test_news_goes_to_its_project_alone_or_to_all():
    hub = Hub()
    here, there = hub.join("here"), hub.join("there")
    hub.tell("here", PlatesNews())
    hub.tell(None, live.CatalogueNews())
    assert [json.loads(t)["type"] for t in here._texts] == ["plates", "catalogue"]
    assert [json.loads(t)["type"] for t in there._texts] == ["catalogue"]
    for serial in (1, 2):  # of pictures only the newest is kept for one who is slow
        hub.show("here", LiveFault(serial=serial, error="x"), b"")
    assert json.loads(here._picture[4:])["serial"] == 2 and there._picture is None
    hub.leave(here)
    assert not hub.anyone("here") and hub.anyone("there")
