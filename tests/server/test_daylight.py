"""Daylight over REST: days and years, skies, pictures of surroundings, which hour, shadow, and what bad values meet."""

from __future__ import annotations

import base64
import io

import numpy as np
import pytest
from PIL import Image

from tests.server.conftest import wait_for
from valleylight.core.sky.dome import cell_angles
from valleylight.core.sky.picture import read_picture, write_picture

WALL = {"name": "inner wall", "point": [3.0, 4.0, 1.5], "normal": [0.0, -1.0, 0.0], "reach_m": 0.3}
FLOOR = {"name": "floor", "point": [3.0, 0.8, 0.0], "normal": [0.0, 0.0, 1.0], "reach_m": 0.3}
OUTSIDE = {"name": "south wall", "point": [1.0, -0.2, 1.5], "normal": [0.0, -1.0, 0.0], "reach_m": 0.3}


def occasion(client, slug, key="noon"):
    described = client.get(f"/api/projects/{slug}").json()["description"]
    return next(o for o in described["occasions"] if o["key"] == key)


def change_sky(client, slug, key="noon", **patch):
    now = occasion(client, slug, key)
    value = {**now, "sky": {**now["sky"], **patch}}
    return client.post(
        f"/api/projects/{slug}/edits",
        json={"label": "Sky", "changes": [{"part": "occasion", "key": key, "value": value}]},
    )


@pytest.fixture
def hdr(tmp_path) -> bytes:
    """An even sky with a bright spot 60 degrees up in the middle of the picture."""
    rgb = np.full((64, 128, 3), 500.0, np.float32)
    altitude, _ = cell_angles(64)
    rgb[altitude < 0] = 60.0
    rgb[53, 63:65] = 2.0e7
    write_picture(np.minimum(rgb, 6e4), tmp_path / "sky.hdr")
    return (tmp_path / "sky.hdr").read_bytes()


def test_a_day_has_its_parts_and_a_year_its_skies(client, room):
    day = client.get(f"/api/projects/{room}/sun", params={"day": "2026-06-21"}).json()
    names = [p["name"] for p in day["parts"]]
    assert names.count("golden hour") == 2 and names.count("civil twilight") == 2
    assert 66 < day["noon_altitude_deg"] < 67.5
    assert len(day["year"]) == 7 and len(day["colours"]) == len(day["day"]["hours"])
    year = client.get(f"/api/projects/{room}/year", params={"year": 2026}).json()
    assert len(year) == 73
    assert year[34]["noon_altitude_deg"] > year[0]["noon_altitude_deg"] + 40
    here = client.get(f"/api/projects/{room}/sun-at", params={"when": "2026-06-21T13:20:00"}).json()
    assert here["altitude_deg"] == pytest.approx(66.8, abs=0.5)


def test_skies_of_the_catalogue_with_pictures_and_illuminances(client):
    lines = client.get("/api/skies/catalogue").json()
    assert len(lines) >= 12 and len({line["key"] for line in lines}) == len(lines)
    under = {"azimuth_deg": 151.0, "altitude_deg": 41.0}
    clear = client.get("/api/skies/catalogue/clear", params=under).json()
    dull = client.get("/api/skies/catalogue/overcast", params=under).json()
    picture = Image.open(io.BytesIO(base64.b64decode(clear["picture"].split(",")[1])))
    assert picture.size == (160, 160)
    assert clear["sun_share"] == 1.0 and dull["sun_share"] < 0.01
    assert 10_000 < clear["horizontal_lx"] < 25_000
    assert clear["sun_horizontal_lx"] > 30_000
    assert clear == client.get("/api/skies/catalogue/clear", params={**under, "altitude_deg": 40.3}).json()  # kept
    assert client.get("/api/skies/catalogue/plaid", params=under).status_code == 404
    assert client.get("/api/skies/catalogue/clear", params={**under, "altitude_deg": 120}).status_code == 422


def test_the_sky_meter_follows_the_sky(client, room):
    meter = client.get(f"/api/projects/{room}/occasions/noon/sky-meter").json()
    assert meter["direct_lx"] > 70_000 and 8_000 < meter["diffuse_lx"] < 25_000
    assert 4500 < meter["sun_kelvin"] < 6000 < meter["sky_kelvin"]
    assert len(meter["luminance"]) == meter["rows"] * meter["columns"]
    night = client.get(f"/api/projects/{room}/occasions/night/sky-meter").json()
    assert night["direct_lx"] + night["diffuse_lx"] < 1
    assert 0 <= night["moon"]["lit"] <= 1
    assert change_sky(
        client, room, model="measured", measured={"direct_normal_lx": 0, "diffuse_horizontal_lx": 9000}
    ).is_success
    measured = client.get(f"/api/projects/{room}/occasions/noon/sky-meter").json()
    assert measured["diffuse_lx"] == pytest.approx(9000, rel=0.02) and measured["direct_lx"] == 0


def test_a_picture_stands_in_for_the_sky(client, room, hdr):
    made = client.post(f"/api/projects/{room}/pictures", params={"name": "meadow.hdr"}, content=hdr)
    assert made.status_code == 201, made.text
    figures = made.json()
    assert figures["width"] == 128 and figures["sun"]["azimuth_deg"] == pytest.approx(180, abs=3)
    picture = {"asset": figures["asset"], "name": "meadow.hdr", "horizontal_lx": 20_000}
    assert change_sky(client, room, model="picture", picture=picture).is_success
    meter = client.get(f"/api/projects/{room}/occasions/noon/sky-meter").json()
    assert meter["diffuse_lx"] + meter["direct_lx"] == pytest.approx(20_000, rel=0.03)
    again = client.get(f"/api/projects/{room}/pictures/{figures['asset']}", params={"name": "meadow.hdr"}).json()
    assert again == figures
    saved = client.get(f"/api/projects/{room}/occasions/noon/sky.hdr")
    assert read_picture(saved.content).size[0] == 128


@pytest.mark.parametrize(("name", "content", "word"), [
    ("house.hdr", b"\x89PNG\r\n\x1a\n", "neither"), ("cut.hdr", b"#?RADIANCE\n", "cannot be read"),
])  # fmt: skip
def test_what_is_no_picture_of_surroundings_is_refused(client, room, name, content, word):
    before = client.get(f"/api/projects/{room}").json()
    bad = client.post(f"/api/projects/{room}/pictures", params={"name": name}, content=content)
    assert bad.status_code == 422
    assert word in bad.json()["detail"] and name in bad.json()["detail"]
    assert change_sky(client, room, model="picture").status_code == 422  # without a picture
    assert client.get(f"/api/projects/{room}").json() == before


def test_which_hour(client, room):
    question = {"occasion": "noon", "year": 2026, "faces": [{**OUTSIDE, "lit": True}, {**WALL, "lit": False}]}
    answer = client.post(f"/api/projects/{room}/hours", json=question).json()
    levels = np.frombuffer(base64.b64decode(answer["levels"]), np.uint8).reshape(answer["days"], answer["slots"])
    assert levels.shape == (365, 96)
    assert (levels[:, 4] == 255).all()  # night
    best = answer["windows"][0]
    assert best["score"] > 0.9 and 90 < best["azimuth_deg"] < 270
    assert best["shares"][0] > 0.9 and best["shares"][1] < 0.1
    away = {**question, "faces": [{**OUTSIDE, "point": [1, -3, 12]}]}
    refused = client.post(f"/api/projects/{room}/hours", json=away)
    assert refused.status_code == 422 and "Pick the face anew" in refused.json()["remedy"]
    assert client.post(f"/api/projects/{room}/hours", json={**question, "faces": []}).status_code == 422


def test_hours_of_sun_and_the_horizon(client, room):
    question = {"occasion": "noon", "faces": [OUTSIDE, FLOOR], "days": ["2026-03-21", "2026-12-21"]}
    spring, winter = client.post(f"/api/projects/{room}/sun-hours", json=question).json()
    assert spring["hours"][0] == pytest.approx(12, abs=0.7)  # a free wall to the south at the equinox
    assert winter["hours"][0] == pytest.approx(8.5, abs=0.6)
    assert 0 < spring["hours"][1] < spring["hours"][0]
    mask = client.get(f"/api/projects/{room}/views/inside/horizon", params={"occasion": "noon"}).json()
    assert len(mask["hidden"]) == mask["azimuths"] * mask["altitudes"]
    assert 0.8 < mask["hidden"].count("1") / len(mask["hidden"]) < 1  # a room with one window
    free = client.get(f"/api/projects/{room}/views/outside/horizon", params={"occasion": "noon"}).json()
    assert free["hidden"].count("1") < 0.2 * len(free["hidden"])


def test_the_sun_by_hand_and_glimpses(client, room):
    hand = client.get(
        f"/api/projects/{room}/views/outside/sun-by-hand", params={"side": "left", "shadow": 2, "year": 2026}
    )
    assert hand.json()["altitude_deg"] == pytest.approx(26.6, abs=0.1)
    assert client.get(f"/api/projects/{room}/views/outside/sun-by-hand", params={"side": "up"}).status_code == 422
    at = f"/api/projects/{room}/views/outside/glimpse.jpg"
    pictures = [
        np.asarray(Image.open(io.BytesIO(client.get(at, params={"occasion": "noon", "when": when}).content)), float)
        for when in ("2026-06-21T12:00:00", "2026-06-21T21:10:00")
    ]
    assert pictures[0].shape == (180, 320, 3)
    assert pictures[0].mean() > pictures[1].mean() + 30


def test_a_series_of_hours_makes_plates(client, room):
    plates = [
        client.post(f"/api/projects/{room}/plates", json={
            "view": "outside", "occasion": "noon", "quality": "sketch", "when": f"2026-06-21T{hour:02d}:00:00",
        }).json()
        for hour in (9, 17)
    ]  # fmt: skip
    assert all("daylight" in p["changed"] for p in plates)
    wait_for(lambda: all(p["ready"] for p in client.get(f"/api/projects/{room}/plates").json()))
    assert occasion(client, room)["when"] == "2026-06-21T13:20:00"
    late = client.post(
        f"/api/projects/{room}/plates", json={"view": "outside", "occasion": "noon", "when": "2300-01-01T00:00:00"}
    )
    assert late.status_code == 422 and "1900 to 2100" in late.json()["detail"]


def test_places_to_start_from(client):
    places = client.get("/api/places").json()
    assert len(places) >= 15
    assert all(-90 <= p["latitude_deg"] <= 90 for p in places)
