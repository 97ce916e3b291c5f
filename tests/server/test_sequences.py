"""Sequences through the API: their course, made frame by frame, stopped, gone on with after a death, redone, saved as films; films of plates."""

from __future__ import annotations

import contextlib
import io
import itertools
import json
import os
import signal
import zipfile
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
from peewee import OperationalError
from PIL import Image

from tests import small
from tests.server.conftest import wait_for
from tests.server.watching import frames
from valleylight.core.project.sequence import Sequence
from valleylight.core.sequence.film_file import read_film
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.server.store import migrations, storage, tables
from valleylight.server.store.files import FileStore
from valleylight.server.store.runs import QUEUE, Frames
from valleylight.server.store.tables import RunRow
from valleylight.server.worker.sequences import SequenceMaker

FIRST = {"position": [4.5, 3.4, 1.5], "target": [2.5, 0.6, 1.2], "focal_mm": 20, "rest_s": 0}
LAST = {"position": [3.6, 3.4, 1.5], "target": [2.0, 0.6, 1.2], "focal_mm": 20, "rest_s": 0}


def walk(**more) -> dict:
    return {
        "key": "walk", "name": "Walk", "view": "inside", "occasion": "noon", "seconds": 0.5, "rate": 8, "stations": [FIRST, LAST], "width": 160,
        "quality": "sketch", **more,
    }  # fmt: skip


def put(client, slug: str, value: dict):
    change = {"part": "sequence", "key": value["key"], "value": value}
    return client.post(f"/api/projects/{slug}/edits", json={"label": "x", "changes": [change]})


def runs(client, slug: str) -> list[dict]:
    return client.get(f"/api/projects/{slug}/runs").json()


def run_of(client, slug: str, number: int) -> dict:
    return next(r for r in runs(client, slug) if r["id"] == number)


def make(client, slug: str, version: str = "final") -> int:
    answer = client.post(f"/api/projects/{slug}/sequences/walk/runs", json={"version": version})
    assert answer.status_code == 202, answer.text
    return answer.json()["id"]


def done(client, slug: str, number: int) -> dict:
    def there():
        run = run_of(client, slug, number)
        assert run["status"] != "failed", run["message"]
        return run if run["status"] == "done" else None

    return wait_for(there)


def test_a_sequence_is_kept_undone_and_refused_like_any_part(client, room):
    assert put(client, room, walk()).status_code == 200
    [kept] = client.get(f"/api/projects/{room}").json()["description"]["sequences"]
    assert kept["stations"][1]["position"] == LAST["position"] and kept["shutter_deg"] == 180
    for wrong in (
        {"rate": 0},
        {"seconds": 1e9},
        {"stations": [{**FIRST, "target": FIRST["position"]}]},
        {"hours": [7, 7]},
        {"more": 1},
    ):
        answer = put(client, room, walk(**wrong))
        assert answer.status_code == 422 and "Nothing was changed" in answer.json()["detail"]
    copied = client.post(f"/api/projects/{room}/copies", json={"part": "sequence", "key": "walk"})
    assert copied.status_code == 201 and len(copied.json()["project"]["description"]["sequences"]) == 2
    client.post(f"/api/projects/{room}/undo")
    client.post(f"/api/projects/{room}/undo")
    assert client.get(f"/api/projects/{room}").json()["description"]["sequences"] == []


def test_the_course_is_told_for_a_sequence_not_saved_yet(client, room):
    told = client.post(f"/api/projects/{room}/course", json={"sequence": walk(hours=[6, 18])}).json()
    # Before anything was made: two and a half seconds for a million samples, of which a frame has three or, quick, two frames of fewer pixels.
    assert told["final_s"] == pytest.approx(2.6 * 4 * 160 * 90 * 3 / 1e6) and told["quick_s"] == pytest.approx(
        told["final_s"] / 2
    )
    assert told["frames"] == 4 and told["moves"] and told["light_changes"]
    assert told["moments"][48]["speed_m_s"] == pytest.approx(
        0.9 / 0.5 * 4 / 3, rel=0.01
    )  # 0.9 m in half a second, eased over a quarter
    assert told["arrives"] == pytest.approx([0, 0.5], abs=1e-6)
    first, last = told["moments"][0], told["moments"][-1]
    assert first["position"] == pytest.approx(FIRST["position"]) and last["position"] == pytest.approx(LAST["position"])
    assert (first["when"], last["when"]) == ("2026-06-21T06:00:00", "2026-06-21T18:00:00")
    assert max(m["altitude_deg"] for m in told["moments"]) == pytest.approx(66.8, abs=0.5)  # 90 - 46.6 + 23.4 at noon
    assert set(first["levels"]) == {"Ceiling", "Pendants"}
    for wrong in ({"view": "nowhere"}, {"occasion": "never"}):
        assert client.post(f"/api/projects/{room}/course", json={"sequence": walk(**wrong)}).status_code == 404
    down = {"position": [1, 1, 3], "target": [1, 1, 0], "focal_mm": 20, "rest_s": 0}
    answer = client.post(f"/api/projects/{room}/course", json={"sequence": walk(stations=[FIRST, down])})
    assert answer.status_code == 422 and "straight up or down" in answer.json()["detail"]


def test_what_the_lens_runs_into_is_told(client, room):
    out = {**LAST, "position": [3.6, 6.0, 1.5]}
    [met] = client.post(f"/api/projects/{room}/course/way", json={"sequence": walk(stations=[FIRST, out])}).json()
    assert met["object"] == "room" and 0 < met["second"] < 0.5
    assert client.post(f"/api/projects/{room}/course/way", json={"sequence": walk()}).json() == []


def test_a_sequence_is_made_frame_by_frame_and_saved_in_every_form(client, room, settings):
    put(client, room, walk())
    number = make(client, room)
    run = done(client, room, number)
    assert run["numbers"] == run["made"] == [0, 1, 2, 3] and (run["width"], run["height"], run["rate"]) == (160, 90, 8)
    assert not run["changed"] and run["seconds_spent"] > 0
    pictures = []
    for n in run["made"]:
        answer = client.get(f"/api/runs/{number}/frames/{n}/picture.png")
        pictures.append(np.asarray(Image.open(io.BytesIO(answer.content)).convert("RGB")))
    assert pictures[0].shape == (90, 160, 3) and 20 < pictures[0].mean() < 250
    assert np.abs(pictures[0].astype(int) - pictures[3].astype(int)).mean() > 1  # the lens has moved
    strip = client.get(f"/api/runs/{number}/frames/0/strip.jpg")
    assert strip.headers["content-type"] == "image/jpeg" and Image.open(io.BytesIO(strip.content)).width == 160
    assert client.get(f"/api/runs/{number}/frames/0/linear.exr").content[:4] == b"\x76\x2f\x31\x01"

    for form in ("mp4", "webm"):
        told = client.post(f"/api/runs/{number}/film", json={"form": form}).json()
        assert told["name"] == f"Walk.{form}" and told["frames"] == 4
        answer = client.get(f"/api/exports/{told['file']}/{told['name']}")
        assert answer.status_code == 200 and len(answer.content) == told["bytes"]
        path = settings.var / f"film.{form}"
        path.write_bytes(answer.content)
        back, rate = read_film(path)
        assert len(back) == 4 and float(rate) == pytest.approx(8)
        for was, now in zip(pictures, back, strict=True):
            assert np.abs(was.astype(int) - now.astype(int)).mean() < 5
    for form, suffix in (("png", ".png"), ("exr", ".exr")):
        told = client.post(f"/api/runs/{number}/film", json={"form": form}).json()
        with zipfile.ZipFile(io.BytesIO(client.get(f"/api/exports/{told['file']}/x.zip").content)) as archive:
            assert archive.namelist() == [f"Walk {n:05d}{suffix}" for n in range(4)] and archive.testzip() is None
    told = client.post(f"/api/runs/{number}/film", json={"form": "webp"}).json()
    with Image.open(io.BytesIO(client.get(f"/api/exports/{told['file']}/x.webp").content)) as image:
        assert image.n_frames == 4

    told = client.post(f"/api/projects/{room}/course", json={"sequence": walk(seconds=1.0)}).json()
    assert told["final_s"] == pytest.approx(2 * run["seconds_spent"], rel=0.01)  # as it took here, twice as long

    # One frame made again: it alone, held steady by its neighbour, and much like it was.
    assert client.post(f"/api/runs/{number}/again", json={"frames": [2]}).status_code == 202
    again = done(client, room, number)
    assert again["made"] == [0, 1, 2, 3] and (run["takes"], again["takes"]) == (0, 1)
    redone = np.asarray(
        Image.open(io.BytesIO(client.get(f"/api/runs/{number}/frames/2/picture.png").content)).convert("RGB")
    )
    assert np.abs(redone.astype(int) - pictures[2].astype(int)).mean() < 4

    put(client, room, walk(seconds=1.0))
    assert run_of(client, room, number)["changed"]
    folder = Frames(FileStore(settings.files), number).folder
    assert folder.is_dir()
    assert client.delete(f"/api/runs/{number}").status_code == 204
    assert runs(client, room) == [] and not folder.exists()


def test_the_quick_version_is_a_sketch_of_every_second_frame(client, room):
    put(client, room, walk(width=320, quality="press"))
    number = make(client, room, "quick")
    run = done(client, room, number)
    assert (run["numbers"], run["rate"], run["quality"], run["version"], run["width"]) == (
        [0, 2],
        4,
        "sketch",
        "quick",
        320,
    )


def test_what_is_asked_amiss_is_refused_and_nothing_is_stored(client, room):
    put(client, room, walk())
    assert client.post(f"/api/projects/{room}/sequences/other/runs", json={"version": "final"}).status_code == 404
    assert client.post(f"/api/projects/{room}/sequences/walk/runs", json={"version": "best"}).status_code == 422
    put(client, room, walk(stations=[FIRST]))
    answer = client.post(f"/api/projects/{room}/sequences/walk/runs", json={"version": "final"})
    assert answer.status_code == 422 and "nothing changes" in answer.json()["detail"]
    put(client, room, walk(view="nowhere"))
    assert client.post(f"/api/projects/{room}/sequences/walk/runs", json={"version": "final"}).status_code == 404
    assert runs(client, room) == []
    for path in ("/api/runs/99/stop", "/api/runs/99/resume"):
        assert client.post(path).status_code == 404
    assert client.post("/api/runs/99/film", json={"form": "mp4"}).status_code == 404
    assert client.post("/api/runs/99/again", json={"frames": [0]}).status_code == 404
    assert client.get("/api/runs/99/frames/0/picture.png").status_code == 404
    assert client.delete("/api/runs/99").status_code == 404


def test_a_sequence_is_stopped_and_gone_on_with(client, room):
    put(client, room, walk(seconds=40.0, rate=24, width=480))
    number = make(client, room)
    wait_for(lambda: run_of(client, room, number)["made"])
    assert client.delete(f"/api/runs/{number}").status_code == 422  # not while it is made
    assert client.post(f"/api/runs/{number}/again", json={"frames": [0]}).status_code == 422
    client.post(f"/api/runs/{number}/stop")
    wait_for(lambda: run_of(client, room, number)["status"] == "stopped")
    made = run_of(client, room, number)["made"]
    assert 0 < len(made) < 960 and made == list(range(len(made)))
    assert client.post(f"/api/runs/{number}/again", json={"frames": [5000]}).status_code == 422
    assert client.post(f"/api/runs/{number}/resume").status_code == 202
    wait_for(lambda: len(run_of(client, room, number)["made"]) > len(made) + 1)
    assert client.post(f"/api/runs/{number}/resume").status_code == 422  # it is being made
    client.post(f"/api/runs/{number}/stop")
    wait_for(lambda: run_of(client, room, number)["status"] == "stopped")


def test_a_sequence_goes_on_where_the_renderer_died(client, room):
    put(client, room, walk(seconds=4.0, rate=24, width=320))
    number = make(client, room)
    wait_for(lambda: len(run_of(client, room, number)["made"]) > 2)
    worker = client.app.state.context.worker
    for _ in range(3):  # more deaths than are allowed at one frame, with frames made between
        before = len(run_of(client, room, number)["made"])
        pid = worker.pid
        os.kill(pid, signal.SIGKILL)
        wait_for(lambda pid=pid: worker.pid != pid)
        wait_for(lambda before=before: len(run_of(client, room, number)["made"]) > before + 1)
        run = run_of(client, room, number)
        assert run["status"] in ("running", "waiting"), run["message"]
        assert run["made"] == list(range(len(run["made"])))
    client.post(f"/api/runs/{number}/stop")
    wait_for(lambda: run_of(client, room, number)["status"] == "stopped")
    for n in run_of(client, room, number)["made"]:
        Image.open(io.BytesIO(client.get(f"/api/runs/{number}/frames/{n}/picture.png").content)).load()


def test_a_moment_of_a_sequence_is_shown_live(client, room, on_show):
    put(client, room, walk())
    seen = []
    for serial, second in ((50, 0.0), (51, 0.5)):
        moment = {"sequence": "walk", "second": second}
        wish = {"type": "show", "serial": serial, "view": "inside", "occasion": "noon", "draft": [], "moment": moment}
        on_show.socket.send_text(json.dumps(wish))
        _, image = frames(on_show.socket, lambda h, serial=serial: h["serial"] == serial and "error" not in h)
        seen.append(np.asarray(Image.open(io.BytesIO(image)).convert("L").resize((60, 34))).astype(int))
    assert np.abs(seen[0] - seen[1]).mean() > 2
    on_show.socket.send_text(json.dumps({
        "type": "show", "serial": 52, "view": "inside", "occasion": "noon", "draft": [], "moment": {"sequence": "none", "second": 0},
    }))  # fmt: skip
    with pytest.raises(AssertionError, match="there is no sequence"):
        frames(on_show.socket, lambda h: h["serial"] == 52)


@pytest.fixture
def two_plates(client, room) -> list[int]:
    made = []
    for occasion in ("noon", "night"):
        answer = client.post(
            f"/api/projects/{room}/plates", json={"view": "inside", "occasion": occasion, "quality": "sketch"}
        )
        made.append(answer.json()["id"])
    wait_for(lambda: all(p["ready"] for p in client.get(f"/api/projects/{room}/plates").json()))
    return made


def test_films_are_made_of_plates_without_tracing(client, room, two_plates):
    a, b = two_plates
    pictures = [
        np.asarray(Image.open(io.BytesIO(client.get(f"/api/plates/{p}/picture.png").content)).convert("RGB")).astype(
            int
        )
        for p in two_plates
    ]
    films = (
        {"kind": "fade", "first": a, "second": b}, {"kind": "wipe", "first": a, "second": b}, {"kind": "push", "first": a, "ahead": 1.0, "right": 0.3},
    )  # fmt: skip
    for film in films:
        answer = client.post(f"/api/projects/{room}/films", json={"film": {**film, "seconds": 0.5, "rate": 10}})
        assert answer.status_code == 202, answer.text
        run = done(client, room, answer.json()["id"])
        assert run["numbers"] == [0, 1, 2, 3, 4] and run["kind"] == film["kind"]

        def frame(n: int, run=run) -> np.ndarray:
            return np.asarray(
                Image.open(io.BytesIO(client.get(f"/api/runs/{run['id']}/frames/{n}/picture.png").content)).convert(
                    "RGB"
                )
            ).astype(int)

        assert np.abs(frame(0) - pictures[0]).mean() < 1.5
        if film["kind"] != "push":
            assert np.abs(frame(4) - pictures[1]).mean() < 1.5
        else:
            assert np.abs(frame(4) - pictures[0]).mean() > 1
        refused = client.post(f"/api/runs/{run['id']}/film", json={"form": "exr"})
        assert refused.status_code == 422 and "no linear frames" in refused.json()["detail"]


def test_films_of_plates_that_do_not_fit_are_refused(client, room, two_plates):
    a, b = two_plates
    wrong = (
        {"kind": "fade", "first": a, "second": a}, {"kind": "fade", "first": a, "second": 999_999}, {"kind": "push", "first": a, "ahead": 0.0},
        {"kind": "push", "first": a, "ahead": 3.0}, {"kind": "wipe", "first": a, "second": b, "seconds": 1e6}, {"kind": "dance", "first": a},
    )  # fmt: skip
    for film in wrong:
        assert client.post(f"/api/projects/{room}/films", json={"film": film}).status_code in (404, 422), film
    assert runs(client, room) == []


def test_no_frame_is_lost_while_the_database_is_away(database_url, tmp_path, monkeypatch):
    """What cannot be told is told later; what was traced is kept. And a frame that was lost from the disk is made once more."""
    pool = tables.connect(database_url)
    pool.connect()
    migrations.migrate(pool)
    files, loaded = FileStore(tmp_path), small.project()
    wanted = Sequence.model_validate(walk(seconds=0.75))
    row = storage.create_project("", loaded, files)
    described = loaded.description.model_copy(update={"sequences": (wanted,)})
    run = RunRow.create(
        project=row, sequence_key="walk", name="Walk", kind="traced", version="final", wanted=wanted.model_dump(mode="json"),
        settings=storage.keep_settings(described), quality="sketch", width=96, height=54, rate=8.0, frames=6,
    )  # fmt: skip
    told, turns = QUEUE.tell, itertools.count()

    def now_and_then(job, holder):
        if next(turns) % 2:
            raise OperationalError("the database is away")
        told(job, holder)

    monkeypatch.setattr(QUEUE, "tell", now_and_then)
    with ThreadPoolExecutor(2) as threads:
        maker = SequenceMaker(Compiler(), files, threads, lambda event: None)
        frames, lost = Frames(files, run.id), False
        for _ in range(4000):
            with contextlib.suppress(OperationalError):
                maker.step()
            if not lost and len(frames.made()) == 3:
                frames.forget([1])
                lost = True
            if RunRow.get_by_id(run.id).status == "done":
                break
    assert RunRow.get_by_id(run.id).status == "done" and lost
    assert frames.made() == list(range(6))
    pool.close_all()
