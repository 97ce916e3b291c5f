"""A page of a room as tests have one: it asks for live pictures and waits for them."""

from __future__ import annotations

import json

from valleylight.core.project import Look


def frames(socket, until, limit=60):
    """Live frames until one satisfies the condition."""
    for _ in range(limit):
        message = socket.receive()
        if '"type":"refused"' in (message.get("text") or ""):
            raise AssertionError(message["text"])
        if message.get("bytes"):
            data = message["bytes"]
            length = int.from_bytes(data[:4], "big")
            header = json.loads(data[4 : 4 + length])
            if until(header):
                return header, data[4 + length :]
    raise AssertionError("no such frame came")


class OnShow:
    """The page of a room: a live picture that is asked for and waited for."""

    def __init__(self, client, room: str) -> None:
        self.client, self.room = client, room
        self.socket = client.websocket_connect(f"/api/projects/{room}/live").__enter__()
        self.serial = 0

    def show(self, **draft) -> None:
        """Ask for the picture, and wait until one of it has come."""
        self.serial += 1
        self.socket.send_text(json.dumps({
            "type": "show", "serial": self.serial, "view": "inside", "occasion": "night", "draft": [], **draft,
        }))  # fmt: skip
        self.seen = frames(self.socket, lambda h: h["serial"] == self.serial and "error" not in h)

    def tried(self, *looks: Look | dict, width: int = 96):
        sent = [o if isinstance(o, dict) else o.model_dump(mode="json") for o in looks]
        wanted = {"view": "inside", "occasion": "night", "looks": sent, "width": width}
        return self.client.post(f"/api/projects/{self.room}/looks/tried", json=wanted)

    def limit(self, look: dict, number: int = 0, width: int = 96):
        wanted = {"view": "inside", "occasion": "night", "look": look, "number": number, "width": width}
        return self.client.post(f"/api/projects/{self.room}/looks/limit", json=wanted)
