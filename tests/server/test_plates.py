"""Plates made by the real worker; live pictures over the WebSocket; what a dying worker leaves."""

from __future__ import annotations

import io
import json
import os
import signal
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image

from tests.server.conftest import wait_for
from tests.server.watching import frames
from valleylight.core.film.exr import read_channels
from valleylight.core.trace.scene.quality import QUALITIES
from valleylight.server.settings import Settings
from valleylight.server.store import tables
from valleylight.server.store.files import FileStore
from valleylight.server.store.tables import JobRow
from valleylight.server.web.routes import plates as plate_routes
from valleylight.server.worker.plates import PlateMaker


@pytest.fixture
def settings(settings, monkeypatch):
    """Plates of few pixels, so that many fit into a test run, and one that takes as long as it is let."""
    samples = {"sketch": 4, "proof": 16, "press": 4000}
    monkeypatch.setattr(
        plate_routes, "QUALITIES", {name: replace(q, samples=samples[name]) for name, q in QUALITIES.items()}
    )
    return settings.model_copy(update={"sketch_width": 64, "proof_width": 160, "press_width": 640})


def plates(client, slug):
    return client.get(f"/api/projects/{slug}/plates").json()


def make(client, slug, quality="sketch", view="inside", occasion="night"):
    answer = client.post(f"/api/projects/{slug}/plates", json={"view": view, "occasion": occasion, "quality": quality})
    assert answer.status_code == 202
    return answer.json()


def ready(client, slug, number):
    """The plate once its picture is there and its job has ended: the job ends a moment after its picture is kept."""
    ended = {"done", "failed"}
    return wait_for(
        lambda: next(
            (p for p in plates(client, slug) if p["id"] == number and p["ready"] and p["job"]["status"] in ended), None
        )
    )


def test_a_plate_and_its_files(client, room):
    plate = ready(client, room, make(client, room)["id"])
    assert plate["job"]["status"] == "done" and plate["changed"] == [] and plate["true_to_place"]
    picture = np.asarray(Image.open(io.BytesIO(client.get(f"/api/plates/{plate['id']}/picture.png").content)))
    assert picture.shape == (36, 64, 3) and picture.mean() > 5
    exr = client.get(f"/api/plates/{plate['id']}/linear.exr").content
    assert exr[:4] == b"\x76\x2f\x31\x01"  # OpenEXR magic number
    assert client.get(f"/api/plates/{plate['id']}/thumb.jpg").headers["content-type"] == "image/jpeg"
    estimate = client.get(f"/api/projects/{room}/estimate").json()
    assert 0 < estimate["sketch"] < estimate["press"]


def test_a_plate_has_the_format_of_its_view_when_it_was_asked_for(client, room, tmp_path):
    """Plates keep theirs, made again too, and say that the lens has changed since."""

    def give(format):
        edit = {"label": "Format", "changes": [{"part": "view", "key": "inside", "at": ["format"], "value": format}]}
        return client.post(f"/api/projects/{room}/edits", json=edit)

    exr = tmp_path / "film.exr"
    assert give([4, 5]).status_code == 200
    plate = ready(client, room, make(client, room)["id"])
    assert (plate["width"], plate["height"]) == (43, 54)
    picture = Image.open(io.BytesIO(client.get(f"/api/plates/{plate['id']}/picture.png").content))
    assert picture.size == (43, 54)
    exr.write_bytes(client.get(f"/api/plates/{plate['id']}/linear.exr").content)
    assert read_channels(exr)[1]["alpha.Y"].shape == (54, 43)
    refused = give([30, 1])
    assert refused.status_code == 422 and "8 to 1" in refused.json()["detail"]
    assert give([1, 1]).status_code == 200
    assert plates(client, room)[0]["changed"] == ["lens"]
    again = client.post(f"/api/plates/{plate['id']}/again", json={}).json()
    assert (again["width"], again["height"]) == (43, 54)
    with client.websocket_connect(f"/api/projects/{room}/live") as socket:
        socket.send_json({"type": "show", "serial": 1, "view": "inside", "occasion": "night", "draft": []})
        header, image = frames(socket, lambda h: h["serial"] == 1)
    assert (header["width"], header["height"]) == Image.open(io.BytesIO(image)).size == (360, 360)


def test_relighting_a_plate_is_a_new_balance(client, room):
    plate = ready(client, room, make(client, room)["id"])

    def mean(levels):
        answer = client.post(f"/api/plates/{plate['id']}/finish", json={"look": plate["look"], "levels": levels})
        assert answer.status_code == 200
        return np.asarray(Image.open(io.BytesIO(answer.content))).mean()

    assert (
        mean({"Ceiling": 0, "Pendants": 1}) < mean({"Ceiling": 1, "Pendants": 1}) < mean({"Ceiling": 4, "Pendants": 4})
    )
    refused = client.post(f"/api/plates/{plate['id']}/finish", json={"look": plate["look"], "levels": {"Ceiling": -1}})
    assert refused.status_code == 422 and "levels.Ceiling" in refused.json()["where"]


def test_a_plate_knows_what_changed_since(client, room):
    number = make(client, room)["id"]
    ready(client, room, number)
    description = client.get(f"/api/projects/{room}").json()["description"]
    night = description["occasions"][1]
    changes = [{"part": "occasion", "key": "night", "value": {**night, "when": "2026-01-12T20:00:00"}}]
    client.post(f"/api/projects/{room}/edits", json={"label": "Hour", "changes": changes})
    assert ready(client, room, number)["changed"] == ["daylight"]
    client.post(f"/api/projects/{room}/undo")
    assert ready(client, room, number)["changed"] == []


def test_stopping_a_long_plate(client, room):
    plate = make(client, room, "press")
    number = plate["job"]["id"]
    assert client.post(f"/api/jobs/{number}/resume").status_code == 422  # it is not stopped
    wait_for(lambda: plates(client, room)[0]["job"]["samples_done"] >= 4)
    assert client.post(f"/api/jobs/{number}/stop").status_code == 202
    halted = wait_for(lambda: next((p["job"] for p in plates(client, room) if p["job"]["status"] == "stopped"), None))
    done = ready(client, room, make(client, room)["id"])  # and the next one is made
    assert done["ready"]
    assert client.post(f"/api/jobs/{number}/resume").status_code == 202  # gone on with, not begun anew
    running = wait_for(lambda: next((p["job"] for p in plates(client, room) if p["job"]["status"] == "running"), None))
    assert running["samples_done"] >= halted["samples_done"]
    client.post(f"/api/jobs/{number}/stop")


def test_a_killed_worker_goes_on_from_the_saved_film(client, room, settings, monkeypatch):
    """Kill the worker in the middle of a plate: the plate is made all the same and says it was interrupted; what was
    saved before is untouched."""
    first = ready(client, room, make(client, room)["id"])
    before = client.get(f"/api/plates/{first['id']}/picture.png").content
    plate = make(client, room, "press")
    checkpoint = settings.files / "scratch" / f"job-{plate['job']['id']}.npz"
    wait_for(checkpoint.is_file)
    worker = client.app.state.context.worker
    os.kill(worker.pid, signal.SIGKILL)
    wait_for(lambda: "Interrupted" in plates(client, room)[0]["job"]["message"])
    resumed = wait_for(lambda: next((p for p in plates(client, room) if p["job"]["status"] == "running"), None))
    assert "last saved film" in resumed["job"]["message"]
    with np.load(checkpoint) as kept:
        assert wait_for(lambda: plates(client, room)[0]["job"]["samples_done"] >= int(kept["samples"]))
    assert client.get(f"/api/plates/{first['id']}/picture.png").content == before
    client.post(f"/api/jobs/{plate['job']['id']}/stop")
    wait_for(lambda: plates(client, room)[0]["job"]["status"] == "stopped")
    assert checkpoint.exists()  # to go on from


def test_the_live_picture_refines_and_follows_a_draft(client, room):
    occasion = client.get(f"/api/projects/{room}").json()["description"]["occasions"][0]
    with client.websocket_connect(f"/api/projects/{room}/live") as socket:
        socket.send_json({"type": "show", "serial": 1, "view": "outside", "occasion": "noon", "draft": []})
        rough, image = frames(socket, lambda h: h["serial"] == 1)
        assert rough["samples"] == 1 and rough["width"] == 480 and rough["altitude_deg"] > 60
        assert np.asarray(Image.open(io.BytesIO(image))).shape == (270, 480, 3)
        better, _ = frames(socket, lambda h: h["width"] > 480)
        assert better["samples"] >= 2
        evening = {**occasion, "when": "2026-06-21T20:30:00"}
        draft = [{"part": "occasion", "key": "noon", "value": evening}]
        socket.send_json({"type": "show", "serial": 2, "view": "outside", "occasion": "noon", "draft": draft})
        low, dark = frames(socket, lambda h: h["serial"] == 2)
        assert low["altitude_deg"] < 10 and low["sun_lx"] < rough["sun_lx"] / 5
        assert np.asarray(Image.open(io.BytesIO(dark))).mean() < np.asarray(Image.open(io.BytesIO(image))).mean()
    assert client.get(f"/api/projects/{room}").json()["description"]["occasions"][0] == occasion  # nothing was saved


def test_a_bad_draft_is_refused_in_words(client, room):
    with client.websocket_connect(f"/api/projects/{room}/live") as socket:
        draft = [{"part": "site", "value": {"latitude_deg": 100}}]
        socket.send_json({"type": "show", "serial": 3, "view": "outside", "occasion": "noon", "draft": draft})
        answer = socket.receive_json()
        while answer["type"] == "worker":  # it had just begun
            answer = socket.receive_json()
        assert answer["type"] == "refused" and "latitude: 100 must be 90 or less" in answer["detail"]


def test_a_draft_may_take_away_what_is_gone_already(client, room):
    """The removal has been saved, but its answer has not reached the browser yet."""
    gone = [{"part": "fixture", "key": "taken-away", "value": None}]
    with client.websocket_connect(f"/api/projects/{room}/live") as socket:
        socket.send_json({"type": "show", "serial": 4, "view": "outside", "occasion": "noon", "draft": gone})
        assert frames(socket, lambda h: h["serial"] == 4)[0]["samples"] == 1
    refused = client.post(f"/api/projects/{room}/edits", json={"label": "Take away", "changes": gone})
    assert refused.status_code == 404 and "taken-away" in refused.json()["detail"]


def test_instruments(client, room):
    sun = client.get(f"/api/projects/{room}/sun?day=2026-06-21").json()
    assert len(sun["colours"]) == len(sun["day"]["hours"]) == 145
    assert 5 < sun["day"]["sunrise"] < 6 < 21 < sun["day"]["sunset"] < 22
    assert client.get(f"/api/projects/{room}/sun?day=2201-06-21").status_code == 422
    plan = client.get(f"/api/projects/{room}/plan").json()
    assert len(plan["segments"]) % 4 == 0 and len(plan["segments"]) > 40
    lux = client.get(f"/api/projects/{room}/illuminance?occasion=night").json()
    grid = np.array(lux["lux"]).reshape(lux["rows"], lux["columns"])
    row, column = np.unravel_index(grid.argmax(), grid.shape)
    x, y = lux["x0"] + column * lux["step_m"], lux["y0"] + row * lux["step_m"]
    assert (x, y) == pytest.approx((1.5, 2.0), abs=2 * lux["step_m"])  # under the downlight
    data = client.get(f"/api/projects/{room}/mesh").content
    count, letters = (int(v) for v in np.frombuffer(data, "<u4", 2, 24))
    mesh = np.frombuffer(data, "<f4", 9 * count, 32).reshape(-1, 3, 3) + np.frombuffer(data, "<f8", 3)
    assert len(mesh) > 60 and mesh[..., 2].max() == pytest.approx(3.1, abs=1e-5)
    objects = np.frombuffer(data, "<u2", count, 32 + 40 * count)
    names = json.loads(data[32 + 42 * count :])
    assert len(data) == 32 + 42 * count + letters
    assert [names[k] for k in np.unique(objects)] == ["room"]  # the ground is on a layer


def test_migrations_run_once_and_refuse_a_later_version(client):
    from valleylight.core.errors import InputError
    from valleylight.server.store.migrations import STEPS, migrate

    with tables.database.connection_context():
        assert migrate(tables.database) == []
        tables.database.execute_sql("INSERT INTO schema_version (number, name) VALUES (%s, 'later')", (len(STEPS) + 1,))
        with pytest.raises(InputError, match="newer Valleylight"):
            migrate(tables.database)


def test_sizes_on_offer_are_those_of_the_qualities():
    """Unless a studio sets its own."""
    for name, quality in QUALITIES.items():
        assert Settings().width_of(name) == quality.width
    assert Settings(press_width=3840).width_of("press") == 3840


def test_ordinary_stops_of_the_server_are_no_deaths(settings, room, client):
    """Stopped and started again and again, a plate waits and goes on; only a renderer that dies counts."""
    number = make(client, room, "press")["job"]["id"]
    wait_for(lambda: plates(client, room)[0]["job"]["status"] == "running")
    client.app.state.context.worker.stop()
    job = lambda: JobRow.get_by_id(number)  # noqa: E731
    with tables.database.connection_context():
        wait_for(lambda: job().status == "waiting")
        assert job().interruptions == 0 and "Interrupted" in job().message
        maker = PlateMaker(None, FileStore(settings.files), None, lambda _: None)  # type: ignore[arg-type]
        for deaths in (1, 2):
            JobRow.update(status="running", holder="gone", held_until=None).where(JobRow.id == number).execute()
            maker.adopt()
            assert (job().interruptions, job().status) == (deaths, "waiting" if deaths == 1 else "failed")
        assert "died 2 times" in job().message and "set aside" in job().message


def test_a_stop_that_the_renderer_never_heard_is_kept(settings, room, client):
    """Written down before it is acknowledged: a renderer killed at that moment, or just being started, stops it all the same."""
    number = make(client, room, "press")["job"]["id"]
    wait_for(lambda: plates(client, room)[0]["job"]["status"] == "running")
    worker = client.app.state.context.worker
    os.kill(worker.pid, signal.SIGKILL)
    assert client.post(f"/api/jobs/{number}/stop").status_code == 202
    wait_for(lambda: plates(client, room)[0]["job"]["status"] == "stopped")
    assert client.post(f"/api/jobs/{number}/resume").status_code == 202
    wait_for(lambda: plates(client, room)[0]["job"]["status"] == "running")
    client.post(f"/api/jobs/{number}/stop")


def test_the_time_of_a_plate_is_foretold(client, room):
    url = f"/api/projects/{room}/foretold"
    told = client.post(url, json={"view": "inside", "occasion": "night", "quality": "proof", "parts": True})
    assert told.status_code == 200, told.text
    figures = told.json()
    assert figures["samples"] == QUALITIES["proof"].samples
    assert figures["width"] / figures["height"] == pytest.approx(16 / 9, rel=0.02)
    assert figures["seconds"] > 0
    assert [p["name"] for p in figures["parts"]] == ["lamps"]
    assert client.post(url, json={"view": "attic", "occasion": "night"}).status_code == 404
    assert client.post(url, json={"view": "inside", "occasion": "night", "quality": "live"}).status_code == 422
    assert plates(client, room) == []


def test_a_renderer_that_dies_while_it_is_asked_says_so_and_answers_the_next(client, room):
    """The time foretold and the way between plates are asked of it, as everything that needs its films."""
    first, second = (ready(client, room, make(client, room, occasion=o)["id"])["id"] for o in ("noon", "night"))
    asked = [
        (f"/api/projects/{room}/foretold", {"view": "inside", "occasion": "night", "quality": "proof"}),
        (f"/api/projects/{room}/between", {"first": first, "second": second, "share": 0.5}),
    ]
    for url, body in asked:
        os.kill(client.app.state.context.worker.pid, signal.SIGKILL)
        broken = client.post(url, json=body)
        assert broken.status_code in (200, 503)  # the next renderer may have taken it up
        wait_for(lambda u=url, b=body: client.post(u, json=b).status_code == 200, 90)
    assert {p["id"] for p in plates(client, room)} == {first, second}
