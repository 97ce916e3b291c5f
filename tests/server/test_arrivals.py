"""A model is read and looked at before anything of the project changes; what is then taken of it is one step of undo."""

from __future__ import annotations

import numpy as np
import pytest

from tests import small
from tests.core.test_offers import LIGHTS, with_nodes
from tests.glb import packed
from valleylight.demo.orchard_house import make_ifc

HOUSE = make_ifc()


def received(client, slug: str, data: bytes, name: str, **params) -> dict:
    answer = client.post(f"/api/projects/{slug}/arrivals", params={"name": name, **params}, content=data)
    assert answer.status_code == 201, answer.text
    return answer.json()


def taken(client, slug: str, arrival: dict, **choices):
    sheet = arrival["sheet"]
    wanted = {"metres": sheet["unit"]["metres"], "up": sheet["up"]["up"], **choices}
    return client.post(f"/api/projects/{slug}/arrivals/{arrival['key']}", json=wanted)


def described(client, slug: str) -> dict:
    return client.get(f"/api/projects/{slug}").json()["description"]


def test_reading_changes_nothing_and_taking_is_one_step(client, room):
    before = client.get(f"/api/projects/{room}").json()
    arrival = received(client, room, HOUSE, "house.ifc")
    assert client.get(f"/api/projects/{room}").json() == before
    assert (
        arrival["sheet"]["objects"] == 18 and arrival["units"][0] == ["m", 1.0] and len(arrival["sheet"]["lines"]) > 100
    )
    after = taken(
        client, room, arrival, lights=[0, 1], site=True, north_deg=arrival["sheet"]["site"]["north_deg"], turn_deg=30
    ).json()["description"]
    assert [p["name"] for p in after["placements"]][-1] == "house.ifc" and after["placements"][-1]["turn_deg"] == 30
    assert {layer["in_models"] for layer in after["layers"]} >= {"Ground floor / Wall", "Roof / Roof"}
    site = after["site"]
    assert (site["place"], site["time_zone"]) == ("The orchard (invented)", "Europe/London") and site[
        "north_deg"
    ] == pytest.approx(-14.452)
    new = [f for f in after["fixtures"] if f["group"] == "From the model"]
    assert len(new) == 2 and new[0]["kind"] == new[1]["kind"]
    # They turned with the model: 2.4, 3.2 by 30 degrees.
    c, s = np.cos(np.radians(30)), np.sin(np.radians(30))
    assert new[0]["position"] == pytest.approx([2.4 * c - 3.2 * s, 2.4 * s + 3.2 * c, 2.35], abs=1e-3)
    assert new[0]["aim"] == pytest.approx([*new[0]["position"][:2], 0.35], abs=1e-3)
    assert client.post(f"/api/projects/{room}/undo").json()["description"] == before["description"]


def test_cameras_and_lights_of_a_gltf_are_taken(client, room):
    doc = with_nodes(
        {"camera": 0, "name": "Hall", "translation": [1, 1.6, 3]}, {"camera": 0, "name": "Inside"},
        *({"name": f"lamp {k}", "translation": [0, 3, k], "extensions": {"KHR_lights_punctual": {"light": k}}} for k in range(3)),
        cameras=[{"type": "perspective", "perspective": {"yfov": 0.8, "znear": 0.1}}], extensions=LIGHTS,
    )  # fmt: skip
    arrival = received(client, room, packed(doc.json, doc.blob), "hall.glb")
    assert [light["kind"] for light in arrival["sheet"]["lights"]] == ["spot", "point", "distant"]
    after = taken(client, room, arrival, cameras=[0, 1], lights=[0, 1, 2]).json()["description"]
    views = {v["key"]: v for v in after["views"]}
    assert views["hall"]["position"] == [1, -3, 1.6] and not views["hall"]["keep_verticals"]
    assert views["inside-2"]["name"] == "Inside 2"  # the room has a view of that name
    kinds = {k["key"]: k for k in after["kinds"]}
    spot, point = [f for f in after["fixtures"] if f["group"] == "From the model"]  # light from afar is the sun's
    assert kinds[spot["kind"]]["rgb"] is not None and kinds[point["kind"]]["rgb"] is None
    shown = {k["kind"]["key"]: k for k in client.get(f"/api/projects/{room}/kinds").json()}
    assert shown[spot["kind"]]["peak_cd"] == pytest.approx(800, rel=1e-3)
    assert shown[point["kind"]]["lumens"] == pytest.approx(400 * np.pi, rel=1e-2)


@pytest.mark.parametrize("choices", [{"cameras": [0]}, {"lights": [5]}])
def test_what_is_not_offered_cannot_be_taken(client, room, choices):
    arrival = received(client, room, HOUSE, "house.ifc")
    before = described(client, room)
    answer = taken(client, room, arrival, **choices)
    assert answer.status_code == 422 and "offers no" in answer.json()["detail"]
    assert described(client, room) == before


@pytest.mark.parametrize(
    "choices", [{"metres": 0}, {"metres": 1e9}, {"up": "w"}, {"turn_deg": 1e6}, {"cameras": [-1]}, {"wings": 2}]
)
def test_choices_are_checked(client, room, choices):
    arrival = received(client, room, HOUSE, "house.ifc")
    assert taken(client, room, arrival, **choices).status_code == 422


def test_an_arrival_that_never_was(client, room):
    answer = client.post(f"/api/projects/{room}/arrivals/{'0' * 64}", json={"metres": 1.0})
    assert answer.status_code == 404 and "Send the model again" in answer.json()["detail"]
    # A model is none, and an arrival is no model.
    asset = described(client, room)["placements"][0]["asset"]
    assert client.post(f"/api/projects/{room}/arrivals/{asset}", json={"metres": 1.0}).status_code == 404
    key = received(client, room, HOUSE, "house.ifc")["key"]
    change = {"part": "placement", "key": "x", "value": {"key": "x", "name": "x", "asset": key}}
    answer = client.post(f"/api/projects/{room}/edits", json={"label": "x", "changes": [change]})
    assert answer.status_code == 422 and "never uploaded" in answer.json()["detail"]


def test_a_newer_file_keeps_what_was_set(client, room):
    """Place and turn, the surface under its material's new name, layers, fixtures and views stay; undone in one step."""
    taken(client, room, received(client, room, HOUSE, "house.ifc"))
    wall = {"base": [0.5, 0.2, 0.1]}
    changes = [
        {"part": "stage", "at": ["surfaces", "Inner leaf"], "value": wall}, {"part": "stage", "at": ["surfaces", "Glass"], "value": {"glass": "thin"}},
        {"part": "placement", "key": "house", "at": ["position"], "value": [5, 6, 0]},
    ]  # fmt: skip
    assert client.post(f"/api/projects/{room}/edits", json={"label": "set", "changes": changes}).status_code == 200
    before = described(client, room)
    newer = HOUSE.replace(b"'Inner leaf'", b"'Inner leaf 02'").replace(b"'Partition'", b"'Partition pantry'")
    arrival = received(client, room, newer, "house-b.ifc", replace="house")
    compared = arrival["sheet"]["compared"]
    assert (compared["new"], compared["gone"]) == (["Partition pantry"], ["Partition"])
    assert compared["lost"] == [{"name": "Inner leaf", "likely": "Inner leaf 02"}]
    after = taken(client, room, arrival, renamed={"Inner leaf": "Inner leaf 02"}).json()["description"]
    thing = next(p for p in after["placements"] if p["key"] == "house")
    assert thing["position"] == [5, 6, 0] and thing["name"] == "house-b.ifc"
    assert (
        set(after["stage"]["surfaces"]) == {"Inner leaf 02", "Glass"}
        and after["stage"]["surfaces"]["Inner leaf 02"]["base"] == wall["base"]
    )
    for part in ("views", "fixtures", "layers", "occasions"):
        assert after[part] == before[part]
    assert client.post(f"/api/projects/{room}/undo").json()["description"] == before


def test_an_arrival_for_a_thing_that_is_not_there(client, room):
    answer = client.post(
        f"/api/projects/{room}/arrivals", params={"name": "a.glb", "replace": "attic"}, content=small.room_glb()
    )
    assert answer.status_code == 404


def test_a_model_altogether_on_layers_is_drawn(client, room):
    """Plan, section and stage view leave layers out where a building stands on none, and show all where it stands on layers itself."""
    slug = client.post("/api/projects", json={"name": "Layers"}).json()["slug"]
    taken(client, slug, received(client, slug, HOUSE, "house.ifc"))
    plan = client.get(f"/api/projects/{slug}/plan").json()
    assert len(plan["segments"]) > 4 * 40
    section = client.get(f"/api/projects/{slug}/section", params={"axis": "y", "place_m": 3.2}).json()
    assert len(section["segments"]) > 4 * 10
    mesh = client.get(f"/api/projects/{slug}/mesh").content
    count = int(np.frombuffer(mesh, "<u4", 1, 24)[0])
    triangles = np.frombuffer(mesh, "<f4", 9 * count, 32).reshape(-1, 3, 3)
    assert len(triangles) > 800
    # The ground below is there as well, though its triangles reach far beyond.
    assert np.ptp(triangles[:, :, 0]) > 100
    client.post(f"/api/projects/{slug}/things", json={"family": "chair", "position": [3, 2, 0]})
    assert len(client.get(f"/api/projects/{slug}/plan").json()["segments"]) > 4 * 40
