"""The lens over HTTP: scales, readings, cuts, focus, where it stands; and its blur in the live picture."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image

from tests.server.test_looks import edit, project
from valleylight.core.lens import stops
from valleylight.core.project import View


def inside(client, room) -> dict:
    return next(v for v in project(client, room)["views"] if v["key"] == "inside")


def test_the_rings_are_told_in_third_stops(client):
    told = client.get("/api/lens").json()
    for name, clicks in stops.RINGS.items():
        assert [(c["value"], c["label"]) for c in told[name]["clicks"]] == [(c.value, c.label) for c in clicks]
    assert told["eye_heights_m"] == {"standing": 1.6, "seated": 1.2}


def test_a_reading_follows_the_lens_of_the_occasion(client, room):
    lens = inside(client, room) | {
        "focus_m": 2.0,
        "lens_at": {"night": {"f_number": 2.0, "shutter_s": 0.5, "iso": 400}},
    }
    day, night = (
        client.post("/api/lens/reading", json={"view": lens, "occasion": o}).json() for o in ("noon", "night")
    )
    assert (day["f_number"]["label"], night["f_number"]["label"]) == ("f/5.6", "f/2")
    assert night["ev100"] == pytest.approx(np.log2(4 / 0.5 / 4))
    assert night["near_m"] > day["near_m"]
    assert day["far_m"] is None or day["far_m"] > night["far_m"]


def test_cuts_and_horizons_are_views_and_nothing_is_stored(client, room):
    lens = inside(client, room)
    cut = client.post(
        "/api/lens/crop", json={"view": lens, "left": 0.1, "top": 0.2, "right": 0.6, "bottom": 0.7, "format": [1, 1]}
    )
    assert cut.status_code == 200
    assert View.model_validate(cut.json()).format == (1, 1)
    level = client.post("/api/lens/horizon", json={"view": cut.json(), "at": 0.25}).json()
    read = client.post("/api/lens/reading", json={"view": level}).json()
    assert read["horizon"] == pytest.approx(0.25, abs=1e-6)
    assert inside(client, room) == lens
    for wrong in ({"left": 0.6, "right": 0.1}, {"right": "NaN"}, {"right": 1e308}, {"format": [100, 1]}):
        asked = {"view": lens, "left": 0.1, "top": 0.2, "right": 0.6, "bottom": 0.7} | wrong
        answer = client.post("/api/lens/crop", json=asked)
        assert answer.status_code == 422, wrong
        assert answer.json()["where"]


def test_where_it_stands_and_its_section(client, room):
    told = client.get(f"/api/projects/{room}/views/inside/standing", params={"occasion": "noon"}).json()
    assert told["floor"] == pytest.approx(1.5, abs=1e-3)
    assert told["ceiling"] == pytest.approx(1.5, abs=1e-3)
    drawn = client.get(f"/api/projects/{room}/views/inside/section", params={"reach_m": 10}).json()
    heights = np.array(drawn["segments"]).reshape(-1, 4)[:, [1, 3]]
    assert heights.min() <= 0 <= 3 <= heights.max()
    assert client.get(f"/api/projects/{room}/views/inside/section", params={"reach_m": 0}).status_code == 422


def test_focus_is_set_by_pointing(client, room):
    """The middle of the picture looks at the floor near the table: along the axis it is nearer than along the sight."""
    at = {"occasion": "noon", "x": 0.1, "y": 0.9}
    found = client.post(f"/api/projects/{room}/views/inside/focus", json=at).json()
    met = client.post(
        f"/api/projects/{room}/pick", json={"view": "inside", "occasion": "noon", "picture": [0.1, 0.9]}
    ).json()
    assert 0 < found["focus_m"] < met["distance_m"]
    sky = client.post(
        f"/api/projects/{room}/views/outside/focus", json={"occasion": "noon", "x": 0.5, "y": 0.01}
    ).json()
    assert sky["focus_m"] is None


def test_a_kept_picture_holds_the_blur_of_its_lens(on_show):
    """The film was traced sharp: whoever finishes it, then and later, lays the blur."""
    client, room = on_show.client, on_show.room
    lens = {"f_number": 1.0, "shutter_s": 1 / 30 / 31.36, "iso": 200}

    def kept(focus_m: float | None) -> tuple[int, float]:
        changes = [
            {"part": "view", "key": "inside", "at": ["focus_m"], "value": focus_m},
            {"part": "view", "key": "inside", "at": ["lens_at", "night"], "value": lens},
        ]
        assert edit(client, room, *changes).status_code == 200
        on_show.show()
        made = client.post(f"/api/projects/{room}/plates/live", json={"view": "inside", "occasion": "night"})
        assert made.status_code == 201, made.text
        number = made.json()["id"]
        return number, detail(client.get(f"/api/plates/{number}/picture.png").content)

    (sharp, fine), (blurred, soft) = kept(None), kept(0.3)
    assert soft < 0.9 * fine
    look = next(p["look"] for p in client.get(f"/api/projects/{room}/plates").json() if p["id"] == blurred)
    anew = [client.post(f"/api/plates/{n}/finish", json={"look": look}).content for n in (sharp, blurred)]
    assert detail(anew[1]) == pytest.approx(soft, rel=0.05)
    assert detail(anew[1]) < 0.9 * detail(anew[0])


def detail(image: bytes) -> float:
    """How much neighbouring pixels differ."""
    return float(np.abs(np.diff(np.asarray(Image.open(io.BytesIO(image)).convert("RGB")).astype(float), axis=1)).mean())


def test_focus_is_tried_without_tracing_anew(on_show):
    """The same film, blurred by its distances: what was traced is not traced again, and f/1 blurs more than f/8."""

    def shown(serial: int, **view: object) -> tuple[np.ndarray, dict]:
        draft = [{"part": "view", "key": "inside", "at": [name], "value": v} for name, v in view.items()]
        on_show.serial = serial
        on_show.show(draft=draft, dragging=True)
        header, image = on_show.seen
        return np.asarray(Image.open(io.BytesIO(image))).astype(float), header

    lens = {"shutter_s": 1 / 30, "iso": 200}
    near, first = shown(10, focus_m=0.3, lens_at={"night": {**lens, "f_number": 5.6}})
    wide, second = shown(11, focus_m=0.3, lens_at={"night": {"f_number": 1.0, "shutter_s": 1 / 30 / 31.36, "iso": 200}})
    sharp, third = shown(12, focus_m=None, lens_at={"night": {**lens, "f_number": 5.6}})
    assert first["samples"] <= second["samples"] <= third["samples"]
    seen = [np.abs(np.diff(p, axis=1)).mean() for p in (sharp, near, wide)]
    assert seen[0] == pytest.approx(seen[1], rel=0.02)  # a circle below a pixel of a picture so small
    assert seen[2] < 0.92 * seen[0]
    assert wide.mean() == pytest.approx(sharp.mean(), rel=0.1)
