"""Heights of true land over HTTP: laid about the project's place, and refused by name without harm."""

from __future__ import annotations

import numpy as np

from tests.geotiff import DEGREES, geotiff

URL = "/api/projects/{}/models"


def valley(latitude: float, longitude: float, size: int = 120) -> bytes:
    """Heights of a degree's thousandth about a place, rising to the north."""
    z = 900.0 + 4.0 * np.arange(size)[::-1, None] + np.zeros((size, size))
    corner = (longitude - size / 2 * 0.001, latitude + size / 2 * 0.001)
    return geotiff(z.astype(np.float32), (0.001, 0.001), corner, DEGREES)


def held(client, slug) -> dict:
    return client.get(f"/api/projects/{slug}").json()["description"]


def test_heights_become_a_thing_of_the_stage_that_is_undone(client, room):
    before = held(client, room)
    site = before["site"]
    data = valley(site["latitude_deg"], site["longitude_deg"])
    sheet = client.post(f"/api/projects/{room}/arrivals?name=valley.tif", content=data)
    assert sheet.status_code == 201, sheet.text
    assert held(client, room) == before  # an arrival changes nothing
    assert sheet.json()["sheet"]["unit"]["metres"] == 1.0
    made = client.post(URL.format(room) + "?name=valley.tif", content=data)
    assert made.status_code == 201, made.text
    things = made.json()["description"]["placements"]
    assert len(things) == len(before["placements"]) + 1 and things[-1]["name"].startswith("valley")
    assert things[-1]["scale"] == 1.0 and things[-1]["position"] == [0.0, 0.0, 0.0]
    assert client.post(f"/api/projects/{room}/undo").json()["description"] == before


def test_heights_of_elsewhere_and_pictures_that_are_none_are_refused(client, room):
    before = held(client, room)
    site = before["site"]
    elsewhere = valley(site["latitude_deg"] - 20, site["longitude_deg"])
    for data, says in (
        (elsewhere, "outside"), (valley(site["latitude_deg"], site["longitude_deg"])[:300], "valley.tif"),
        (geotiff(np.zeros((30, 30, 3), np.uint8), (0.001, 0.001), (0, 0), DEGREES), "colours"),
    ):  # fmt: skip
        answer = client.post(URL.format(room) + "?name=valley.tif", content=data)
        assert answer.status_code == 422 and says in answer.text and answer.json()["remedy"], answer.text
    assert held(client, room) == before
