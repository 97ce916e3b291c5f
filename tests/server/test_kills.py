"""Twenty kills at random moments: of the renderer, the server, and the database. What was acknowledged is there afterwards."""

from __future__ import annotations

import io
import os
import random
import signal
import threading
import time
from pathlib import Path
from typing import Any

import httpx
import pytest
from PIL import Image

from tests import small
from tests.running import Server
from valleylight.core.project import save
from valleylight.demo.profiles import CATALOGUE, profile_file

KILLS = ["renderer"] * 12 + ["server"] * 5 + ["database"] * 3
#: A renderer, a server or a database that was killed must answer again after so many seconds.
BACK_S = 40.0


class Hand:
    """Edits, plates and uploads one after the other, and what of them was acknowledged."""

    def __init__(self, server: Server, slug: str) -> None:
        self.address, self.slug = server.address, slug
        self.levels: dict[str, list[float]] = {"Ceiling": [], "Pendants": []}
        self.asked: dict[str, float] = {}
        self.plates: set[int] = set()
        self.stopped: set[int] = set()
        self.profiles: list[str] = []
        self.cutouts: list[str] = []
        self.runs: set[int] = set()
        self.faults: list[str] = []
        self._going = threading.Event()
        self._going.set()
        self._thread = threading.Thread(target=self._work, daemon=True)
        self._thread.start()

    def _work(self) -> None:
        turn = 0
        with httpx.Client(base_url=self.address, timeout=30) as client:
            while self._going.is_set():
                turn += 1
                try:
                    self._act(client, turn)
                except httpx.HTTPError:  # killed meanwhile: not acknowledged
                    time.sleep(0.05)

    def _act(self, client: httpx.Client, turn: int) -> None:
        if turn % 40 == 3 and len(self.plates) < 3:
            wanted = {"view": "inside", "occasion": "noon", "quality": "press"}
            answer = self._told(client.post(f"/api/projects/{self.slug}/plates", json=wanted))
            if answer.status_code == 202:
                self.plates.add(answer.json()["job"]["id"])
        elif turn % 40 == 23 and self.plates - self.stopped:
            number = max(self.plates - self.stopped)
            if self._told(client.post(f"/api/jobs/{number}/stop")).status_code == 202:
                self.stopped.add(number)
        elif turn % 25 == 7 and len(self.profiles) < len(CATALOGUE):
            data = profile_file(CATALOGUE[len(self.profiles)])
            answer = self._told(client.post("/api/profiles", params={"name": "p.ies"}, content=data))
            if answer.status_code == 201:
                self.profiles.append(answer.json()["sha256"])
        elif turn % 20 == 11:
            who = {
                "key": f"who-{time.monotonic_ns()}",
                "name": "Who",
                "view": "inside",
                "made": {"family": "person"},
                "place": [3, 2, 0],
                "height_m": 1.7,
            }
            change = {"part": "cutout", "key": who["key"], "value": who}
            answer = self._told(
                client.post(f"/api/projects/{self.slug}/edits", json={"label": "x", "changes": [change]})
            )
            if answer.status_code == 200:
                self.cutouts.append(who["key"])
        elif turn % 40 == 17 and not self.runs:
            answer = self._told(
                client.post(f"/api/projects/{self.slug}/sequences/walk/runs", json={"version": "quick"})
            )
            if answer.status_code == 202:
                self.runs.add(answer.json()["id"])
        else:
            group = "Ceiling" if turn % 2 else "Pendants"
            value = float(turn % 397)
            self.asked[group] = value
            change = {"part": "occasion", "key": "noon", "at": ["levels", group], "value": value}
            answer = self._told(
                client.post(f"/api/projects/{self.slug}/edits", json={"label": "x", "changes": [change]})
            )
            if answer.status_code == 200:
                self.levels[group].append(value)

    def _told(self, answer: httpx.Response) -> httpx.Response:
        if answer.status_code >= 400 and answer.status_code != 503:
            self.faults.append(f"{answer.status_code} {answer.text[:200]}")
        if answer.status_code == 503:
            time.sleep(0.05)
        return answer

    def rest(self) -> None:
        self._going.clear()
        self._thread.join(60)


def children(pid: int) -> list[int]:
    found = []
    for task in Path(f"/proc/{pid}/task").iterdir():
        found += [int(p) for p in (task / "children").read_text().split()]
    return found


def renderer(pid: int) -> int | None:
    """The process of the renderer, once there is one."""
    for child in children(pid):
        if b"spawn_main" in Path(f"/proc/{child}/cmdline").read_bytes():
            return child
    return None


def until(condition: Any, what: str) -> Any:
    deadline = time.monotonic() + BACK_S
    while time.monotonic() < deadline:
        try:
            value = condition()
        except (httpx.HTTPError, OSError, ValueError):
            value = None
        if value:
            return value
        time.sleep(0.1)
    raise AssertionError(f"{what} did not come back")


@pytest.mark.parametrize("seed", [3])
def test_twenty_kills_lose_nothing_that_was_acknowledged(tmp_path, seed):
    var = tmp_path / "var"
    server = Server(None, var)
    server.start()
    try:
        _play(server, var, random.Random(seed))
    finally:
        if server.process is not None and server.process.poll() is None:
            server.stop()


def _play(server: Server, var: Path, chance: random.Random) -> None:
    with httpx.Client(base_url=server.address, timeout=30) as client:
        slug = _room(client)
        database = next(
            p
            for p in (var / "mariadb", *Path("/var/lib/valleylight").glob("*"))
            if (p / "m.pid").is_file() and _young(p)
        )
        kills = list(KILLS)
        chance.shuffle(kills)
        for what in kills:
            hand = Hand(server, slug)
            time.sleep(chance.uniform(0.2, 1.5))
            assert server.process is not None
            if what == "renderer":
                pid = until(lambda: renderer(server.process.pid), "the renderer")  # type: ignore[union-attr]
                os.kill(pid, signal.SIGKILL)
            elif what == "server":
                server.stop(signal.SIGKILL)
                server.start()
            else:
                os.kill(int((database / "m.pid").read_text()), signal.SIGKILL)
            until(lambda: client.get(f"/api/projects/{slug}").status_code == 200, what)
            time.sleep(0.3)
            hand.rest()
            _compare(client, slug, hand)
        until(lambda: client.get(f"/api/projects/{slug}/plan").status_code == 200, "the renderer")


def _room(client: httpx.Client) -> str:
    """A project of two occasions' worth of levels, made by hand of what the API takes."""
    made = client.post("/api/projects", json={"name": "Small room"}).json()
    raw = small.project().description.model_dump(mode="json")
    profiles = {lu.key: client.post("/api/profiles", params={"name": f"{lu.key}.ies"}, content=profile_file(lu)).json()["sha256"]
                for lu in CATALOGUE if lu.key in {k["key"] for k in raw["kinds"]}}  # fmt: skip
    changes = [{"part": "view", "key": v["key"], "value": v} for v in raw["views"]]
    changes += [{"part": "occasion", "key": o["key"], "value": o} for o in raw["occasions"]]
    changes += [{"part": "kind", "key": k["key"], "value": {**k, "profile": profiles[k["key"]]}} for k in raw["kinds"]]
    changes += [{"part": "fixture", "key": f["key"], "value": f} for f in raw["fixtures"]]
    ends = [{"position": [x, 3.4, 1.5], "target": [x - 2, 0.6, 1.2]} for x in (4.5, 3.6)]
    walk = {
        "key": "walk",
        "name": "Walk",
        "view": "inside",
        "occasion": "night",
        "seconds": 30,
        "rate": 24,
        "stations": ends,
        "width": 160,
    }
    changes.append({"part": "sequence", "key": "walk", "value": walk})
    answer = client.post(f"/api/projects/{made['slug']}/edits", json={"label": "All", "changes": changes})
    assert answer.status_code == 200, answer.text
    answer = client.post(f"/api/projects/{made['slug']}/models", params={"name": "room.glb"}, content=small.room_glb())
    assert answer.status_code == 201, answer.text
    return str(made["slug"])


def _young(folder: Path) -> bool:
    return time.time() - (folder / "m.pid").stat().st_mtime < 120


def _compare(client: httpx.Client, slug: str, hand: Hand) -> None:
    assert hand.faults == []
    described = client.get(f"/api/projects/{slug}").json()["description"]
    levels = described["occasions"][0]["levels"]
    assert set(hand.cutouts) <= {c["key"] for c in described["cutouts"]}
    runs = {run["id"]: run for run in client.get(f"/api/projects/{slug}/runs").json()}
    assert hand.runs <= set(runs)
    for run in runs.values():
        assert run["made"] == run["numbers"][: len(run["made"])], "a frame is missing between others"
        for number in run["made"][-2:]:
            picture = client.get(f"/api/runs/{run['id']}/frames/{number}/picture.png").content
            Image.open(io.BytesIO(picture)).load()
    for group, acknowledged in hand.levels.items():
        if acknowledged:  # what was last asked may have been done before the kill, without a word of it
            assert levels[group] in (acknowledged[-1], hand.asked[group]), group
    jobs = {p["job"]["id"]: p["job"] for p in client.get(f"/api/projects/{slug}/plates").json()}
    assert hand.plates <= set(jobs)
    for number in hand.stopped:
        until(lambda n=number: {p["job"]["id"]: p["job"]["status"] for p in client.get(f"/api/projects/{slug}/plates").json()}[n]
              in ("stopped", "done"), f"plate {number}")  # fmt: skip
    for sha in hand.profiles:
        assert client.get(f"/api/profiles/{sha}").status_code == 200
    for number in hand.plates - hand.stopped:
        client.post(f"/api/jobs/{number}/stop")


def test_saving_an_archive_is_whole_or_nothing(tmp_path, monkeypatch):
    target = tmp_path / "room.zip"
    save(small.project(), target)
    whole = target.read_bytes()

    def fails(*_: object, **__: object) -> None:
        raise OSError("No space left on device")

    monkeypatch.setattr("zipfile.ZipFile.writestr", fails)
    with pytest.raises(OSError, match="No space"):
        save(small.project(), target)
    assert target.read_bytes() == whole and [p.name for p in tmp_path.iterdir()] == ["room.zip"]
