"""The catalogue of profiles over REST: uploads, search, likeness, pictures, files, and profiles of one's own."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image

from tests.server.conftest import wait_for
from valleylight.core.photometry import read, write_lm63
from valleylight.core.photometry.invent import plain_spot
from valleylight.demo.more_profiles import files as invented

FILES = dict(invented())


def take(client, name, data, **more):
    return client.post("/api/profiles", params={"name": name, **more}, content=data)


@pytest.fixture
def stocked(client):
    """A catalogue with the invented profiles; their lines by file name."""
    lines = {}
    for name, data in FILES.items():
        answer = take(client, name, data)
        assert answer.status_code == 201, answer.text
        lines[name] = answer.json()
    return lines


def found(client, **wanted):
    return client.get("/api/profiles", params=wanted).json()


def test_profiles_are_found_by_what_they_are(client, stocked):
    assert found(client)["total"] >= len(FILES)
    assert [p["name"] for p in found(client, text="opal ball")["profiles"]] == ["Opal ball"]
    spots = found(client, beam_to=20, beam_from=5)["profiles"]
    assert {"Spot 8", "Spot 12", "Spot 18"} <= {p["name"] for p in spots} and all(p["beam_deg"][0] < 20 for p in spots)
    assert all(p["lumens"] > 3000 for p in found(client, lumens_from=3000)["profiles"])
    assert all(p["kelvin"] == 4000 for p in found(client, kelvin_from=3900, kelvin_to=4100)["profiles"])
    washers = found(client, shape="wall washer", text="washer")["profiles"]
    assert {p["name"] for p in washers} >= {"Wall washer 24", "Wall washer 30", "Wall washer 38"}
    assert all(p["mounting"] == "hung" for p in found(client, mounting="hung")["profiles"])
    assert found(client, text="no such thing")["total"] == 0
    assert len(found(client, limit=3, offset=2)["profiles"]) == 3


def test_the_most_alike_come_first(client, stocked):
    names = [p["name"] for p in found(client, like=stocked["spot-12.ies"]["sha256"], limit=4)["profiles"]]
    assert names[0] == "Spot 12" and {"Spot 8", "Spot 18"} & set(names[1:3])


def test_figures_and_files_of_a_profile(client, stocked):
    line = stocked["panel-opal.ldt"]
    figures = client.get(f"/api/profiles/{line['sha256']}").json()
    assert figures["flux_code"] == [44, 75, 94, 100, 100] and figures["symmetry"] == "rotational"
    assert len(figures["glare"]["rooms"]) == 19 and figures["no_glare"] is None
    assert figures["zones_lm"][-1] == pytest.approx(line["lumens"], rel=1e-6)
    spot = client.get(f"/api/profiles/{stocked['spot-8.ies']['sha256']}").json()
    assert spot["glare"] is None and "luminous area" in spot["no_glare"]
    for suffix in ("ies", "ldt"):
        answer = client.get(f"/api/profiles/{line['sha256']}/file.{suffix}")
        assert f'.{suffix}"' in answer.headers["content-disposition"]
        assert read(answer.content).lumens == pytest.approx(line["lumens"], rel=1e-3)
    assert client.get(f"/api/profiles/{'0' * 64}").status_code == 404


def test_pictures_are_made_and_kept(client):
    few = [take(client, name, FILES[name]).json() for name in ("wall-washer-30.ies", "spot-8.ies", "opal-ball.ies")]
    sha = few[0]["sha256"]
    for side, size in (("wall", (240, 160)), ("floor", (400, 320))):
        answer = client.get(f"/api/profiles/{sha}/{side}.jpg")
        picture = np.asarray(Image.open(io.BytesIO(answer.content)).convert("L"), float)
        assert picture.shape == size[::-1] and picture.std() > 15
    dark, light = (
        np.asarray(Image.open(io.BytesIO(client.get(f"/api/profiles/{sha}/wall.jpg?ev={ev}").content)), float).mean()
        for ev in (11, 6)
    )
    assert light > dark + 20
    wait_for(lambda: found(client)["waiting"] == 0, 150)


def test_a_broken_file_is_refused_and_a_doubtful_one_told(client):
    good = write_lm63(plain_spot(20, 40, 0.4, 300))
    broken = take(client, "broken.ies", good.replace("TILT=NONE", "TILT=NONE\nnonsense").encode())
    assert broken.status_code == 422
    assert "broken.ies, line" in broken.json()["where"] and "number" in broken.json()["detail"]
    assert take(client, "picture.ies", b"\x89PNG\r\n\x1a\n\0\0").status_code == 422
    doubtful = take(client, "doubtful.ies", good.replace("\n1 -1 1 ", "\n1 1200 1 ").encode())
    assert doubtful.status_code == 201 and "Flux stated 1200 lm, integrated 300 lm" in doubtful.json()["warnings"][0]


def test_a_tilt_file_goes_with_its_profile(client):
    text = write_lm63(plain_spot(21, 40, 0.4, 300)).replace("TILT=NONE", "TILT=hall.tlt").encode()
    assert "hall.tlt" in take(client, "a.ies", text).json()["warnings"][0]
    made = take(client, "a.ies", text, tilt="1\n2\n0 90\n1 0.8\n").json()
    assert made["warnings"] == []
    assert read(client.get(f"/api/profiles/{made['sha256']}/file.ies").content).lumens == pytest.approx(300, rel=1e-3)
    assert take(client, "a.ies", text, tilt="1\n2\n0 x\n1 0.8\n").status_code == 422


def test_profiles_of_ones_own_and_templates(client, room):
    cone = client.post(
        "/api/profiles/plain",
        json={"name": "Cone", "beam_deg": 30, "field_deg": 55, "softness": 0.2, "lumens": 700},
    ).json()
    assert cone["lumens"] == pytest.approx(700, rel=1e-3) and cone["beam_deg"][0] == pytest.approx(30, rel=0.03)
    refused = client.post(
        "/api/profiles/plain", json={"name": "x", "beam_deg": 60, "field_deg": 55, "lumens": 700, "softness": 0}
    )
    assert refused.status_code == 422 and "wider" in refused.json()["detail"]
    curve = {"name": "By hand", "angles_deg": [0, 40, 80], "across": [1, 0.5, 0], "along": [1, 0, 0], "lumens": 400}
    assert client.post("/api/profiles/drawn", json=curve).json()["shape"].startswith("oval")
    assert client.post("/api/profiles/drawn", json={**curve, "across": [0, 0, 0], "along": None}).status_code == 422

    state = client.post(f"/api/projects/{room}/kinds", json={"profile": cone["sha256"]}).json()
    assert state["description"]["kinds"][-1]["name"] == "Cone" and state["undo"].startswith("Add fixture")
    sources = {s["key"] for s in client.get("/api/sources").json()}
    assert {"incandescent-60", "candle", "fireplace", "led-strip"} <= sources
    state = client.post(f"/api/projects/{room}/kinds", json={"template": "incandescent-60"}).json()
    assert state["description"]["kinds"][-1]["dimming"] == "incandescent"
    assert client.post(f"/api/projects/{room}/kinds", json={"template": "sun"}).status_code == 404


def test_the_goniometer_puts_a_fixture_into_the_catalogue(client, room):
    made = client.post(f"/api/projects/{room}/goniometer", json={"fixture": "a", "name": "Measured downlight"}).json()
    assert made["name"] == "Measured downlight" and made["lumens"] == pytest.approx(1100, rel=0.05)
    dark = client.post(f"/api/projects/{room}/goniometer", json={"objects": ["room"]})
    assert dark.status_code == 422 and "no light" in dark.json()["detail"]
    assert client.post(f"/api/projects/{room}/goniometer", json={}).status_code == 422
    assert client.post(f"/api/projects/{room}/goniometer", json={"objects": ["sofa"]}).status_code == 422
