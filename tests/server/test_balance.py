"""Plates balanced from their own films, and the way from one to another, over HTTP."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image

from tests.server.test_plates import make, ready


@pytest.fixture
def plates(client, room) -> list[int]:
    return [
        ready(client, room, make(client, room, "sketch", "inside", occasion)["id"])["id"]
        for occasion in ("noon", "night")
    ]


def picture(answer) -> np.ndarray:
    assert answer.status_code == 200, answer.text
    return np.asarray(Image.open(io.BytesIO(answer.content)).convert("RGB")).astype(float)


def test_the_lights_of_a_plate_are_told_and_balanced(client, room, plates):
    lights = {line["name"]: line for line in client.get(f"/api/plates/{plates[1]}/lights").json()}
    assert {"sky", "Ceiling", "Pendants"} <= set(lights)
    assert lights["Pendants"]["cd_m2"] > lights["sky"]["cd_m2"]
    assert 2000 < lights["Pendants"]["kelvin"] < 4500
    assert lights["Pendants"]["colour"].startswith("#")
    plate = next(p for p in client.get(f"/api/projects/{room}/plates").json() if p["id"] == plates[1])

    def finished(levels=None, colours=None, **more):
        body = {"look": plate["look"], "levels": levels or {}, "colours": colours or {}, **more}
        return client.post(f"/api/plates/{plates[1]}/finish", json=body)

    own = picture(client.get(f"/api/plates/{plates[1]}/picture.png"))
    assert np.abs(picture(finished()) - own).max() <= 2  # the kept film holds groups at half precision
    dark = picture(finished({n: 0.0 for n in lights}))
    assert dark.max() == 0
    cold = picture(finished(colours={"Pendants": 12000.0, "Ceiling": 12000.0}))
    warm = picture(finished(colours={"Pendants": 2000.0, "Ceiling": 2000.0}, form="jpeg"))
    assert cold[..., 2].mean() > own[..., 2].mean() > warm[..., 2].mean()
    for wrong in ({"colours": {"Pendants": 20}}, {"levels": {"Pendants": -1}}, {"form": "bmp"}):
        assert client.post(f"/api/plates/{plates[1]}/finish", json={"look": plate["look"], **wrong}).status_code == 422


def test_from_day_to_night_the_ends_are_the_plates(client, room, plates):
    ends = [picture(client.get(f"/api/plates/{p}/picture.png")) for p in plates]
    url = f"/api/projects/{room}/between"
    way = [picture(client.post(url, json={"first": plates[0], "second": plates[1], "share": s})) for s in (0, 0.5, 1)]
    for made, end in ((way[0], ends[0]), (way[2], ends[1])):
        assert np.abs(made - end).mean() < 4  # JPEG
    assert way[1].shape == ends[0].shape
    assert np.abs(way[1] - ends[0]).mean() > 4


def test_what_has_no_way_between_is_refused(client, room, plates):
    url = f"/api/projects/{room}/between"
    outside = ready(client, room, make(client, room, "sketch", "outside", "noon")["id"])["id"]
    for body, status, told in (
        ({"first": plates[0], "second": outside, "share": 0.5}, 422, "two views"),
        ({"first": plates[0], "second": 999999, "share": 0.5}, 404, "no plate"),
        ({"first": plates[0], "second": plates[1], "share": 1.5}, 422, "share"),
    ):
        answer = client.post(url, json=body)
        assert answer.status_code == status
        assert told in answer.json()["detail"] + answer.json().get("where", "")
    other = client.post("/api/projects", json={"name": "Elsewhere"}).json()["slug"]
    answer = client.post(f"/api/projects/{other}/between", json={"first": plates[0], "second": plates[1], "share": 0.5})
    assert answer.status_code == 404


def test_colours_of_an_occasion_are_in_its_plates(client, room):
    before = ready(client, room, make(client, room)["id"])
    change = {"part": "occasion", "key": "night", "at": ["colours"], "value": {"Pendants": 9000, "Ceiling": 9000}}
    assert client.post(f"/api/projects/{room}/edits", json={"label": "x", "changes": [change]}).status_code == 200
    after = ready(client, room, make(client, room)["id"])
    assert after["colours"] == {"Pendants": 9000, "Ceiling": 9000}
    blue = [picture(client.get(f"/api/plates/{p['id']}/picture.png"))[..., 2].mean() for p in (before, after)]
    assert blue[1] > blue[0] + 5
    lines = client.get(f"/api/projects/{room}/plates").json()
    assert "fixtures" in next(p for p in lines if p["id"] == before["id"])["changed"]
