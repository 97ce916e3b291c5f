"""Air, weather and the year of leaves through the API."""

from __future__ import annotations

import pytest


def described(client, room):
    return client.get(f"/api/projects/{room}").json()["description"]


def edited(client, room, label, changes):
    answer = client.post(f"/api/projects/{room}/edits", json={"label": label, "changes": changes})
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_air_is_offered_for_a_view_and_kept_with_the_occasion(client, room):
    made = client.get(f"/api/projects/{room}/views/inside/air").json()
    assert [o["name"] for o in made] == ["haze", "mist", "fog", "ground mist", "valley mist"]
    scales = client.get("/api/air").json()
    for offer in made:  # in rooms as on lanes the first picture is neither black nor milk
        assert offer["sight_m"] == pytest.approx(scales["sight_over_free_path"] * offer["air"]["free_path_m"], rel=1e-3)
        assert offer["sight_m"] > 1.5 * offer["length_m"]
    occasion = described(client, room)["occasions"][0]
    change = {"part": "occasion", "key": occasion["key"], "value": {**occasion, "air": made[1]["air"]}}
    kept = edited(client, room, "Mist", [change])
    assert kept["description"]["occasions"][0]["air"] == made[1]["air"]


def test_kinds_of_air_scatter_the_more_forward_the_larger_they_are(client):
    kinds = sorted(client.get("/api/air").json()["kinds"], key=lambda k: k["radius_um"])
    assert [k["forward"] for k in kinds] == sorted(k["forward"] for k in kinds)
    assert {k["key"] for k in kinds} == {"mist", "haze", "dust", "smoke"}


def test_a_recipe_is_laid_line_by_line_and_taken_back_line_by_line(client, room):
    before = described(client, room)
    recipes = client.get(f"/api/projects/{room}/views/inside/occasions/noon/recipes").json()
    chosen = next(r for r in recipes if r["key"] == "first-snow")
    for line in chosen["lines"]:
        edited(client, room, line["says"], line["changes"])
    after = described(client, room)
    noon = next(o for o in after["occasions"] if o["key"] == "noon")
    assert noon["weather"]["snow"]["depth_cm"] == 5
    assert noon["air"]["on"]
    view = next(v for v in after["views"] if v["key"] == "inside")
    assert view["look_at"]["noon"] == "weather-first-snow"
    for _ in chosen["lines"]:
        assert client.post(f"/api/projects/{room}/undo").status_code == 200
    assert described(client, room) == before


@pytest.mark.parametrize(
    ("at", "value", "named"),
    [
        (["weather", "snow", "depth_cm"], -3, "depth_cm"), (["weather", "rain", "mm_h"], 1e9, "mm_h"),
        (["weather", "wind", "speed_m_s"], "strong", "speed_m_s"), (["planting", "held", "lime"], 400, "lime"),
        (["weather"], {"hail": 1}, "hail"), (["planting", "early_days"], 90, "early_days"),
    ],
)  # fmt: skip
def test_weather_that_cannot_be_is_refused_by_its_field(client, room, at, value, named):
    before = described(client, room)
    change = {"part": "occasion", "key": "noon", "at": at, "value": value}
    answer = client.post(f"/api/projects/{room}/edits", json={"label": "Weather", "changes": [change]})
    assert answer.status_code == 422
    assert named in answer.text
    assert described(client, room) == before


def test_the_year_of_leaves_is_told_for_those_that_stand_there(client, room):
    assert client.get(f"/api/projects/{room}/occasions/noon/leaves").json() == []
    surface = {"base": [0.3, 0.4, 0.1], "leaf": "maple"}
    edited(client, room, "Leaves", [{"part": "stage", "at": ["surfaces", "oak"], "value": surface}])
    (maple,) = client.get(f"/api/projects/{room}/occasions/noon/leaves").json()
    assert maple["kind"] == "maple"
    assert not maple["held"]
    assert len(maple["year"]) == 74
    assert all(len(colour) == 7 and 0 <= share <= 1 for colour, share in maple["year"])
    held = {"part": "occasion", "key": "noon", "at": ["planting", "held", "maple"], "value": 15}
    edited(client, room, "Held", [held])
    (maple,) = client.get(f"/api/projects/{room}/occasions/noon/leaves").json()
    assert (maple["day"], maple["held"], maple["stage"]) == (15, True, "bare")
    unknown = {"part": "stage", "at": ["surfaces", "oak"], "value": {**surface, "leaf": "plastic"}}
    assert client.post(f"/api/projects/{room}/edits", json={"label": "x", "changes": [unknown]}).status_code == 422


def test_a_project_of_before_has_neither_snow_nor_leaves_by_the_date(client, room):
    noon = described(client, room)["occasions"][0]
    assert noon["weather"]["snow"]["depth_cm"] == 0
    assert noon["weather"]["rain"] == {"mm_h": 0, "wet": 0, "puddles": 0, "hollow_mm": 12}
    assert not noon["planting"]["by_date"]


def test_one_points_at_the_ground_under_snow_unless_the_picture_is_meant(client, room):
    snow = {"part": "occasion", "key": "noon", "at": ["weather", "snow", "depth_cm"], "value": 20}
    edited(client, room, "Snow", [snow])
    spot = {"view": "outside", "occasion": "noon", "picture": [0.5, 0.93]}
    under = client.post(f"/api/projects/{room}/pick", json=spot).json()
    seen = client.post(f"/api/projects/{room}/pick", json={**spot, "as_seen": True}).json()
    assert under["object"] != "lying snow"
    assert seen["object"] == "lying snow"
    assert seen["point"][2] == pytest.approx(under["point"][2] + 0.2, abs=0.08)
    assert seen["distance_m"] < under["distance_m"]
