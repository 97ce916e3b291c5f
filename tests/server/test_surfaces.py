"""Surfaces over REST: the stage's and the catalogue's, their pictures, picking, and what bad values meet."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image

from tests.glb import packed, square


def stage_with(client, slug, **patch):
    stage = client.get(f"/api/projects/{slug}").json()["description"]["stage"]
    return {"label": "Surface", "changes": [{"part": "stage", "key": "", "value": {**stage, **patch}}]}


def lines(client, slug):
    return {line["name"]: line for line in client.get(f"/api/projects/{slug}/surfaces").json()}


def test_surfaces_of_the_stage_change_and_come_back(client, room):
    before = lines(client, room)
    assert {"plaster", "oak", "glass"} <= set(before)
    assert before["glass"]["surface"]["glass"] == "thin"
    oak = {**before["oak"]["surface"], "coat": 0.8, "base": [0.2, 0.1, 0.05]}
    assert (
        client.post(f"/api/projects/{room}/edits", json=stage_with(client, room, surfaces={"oak": oak})).status_code
        == 200
    )
    after = lines(client, room)["oak"]
    assert after["changed"]
    assert after["surface"]["coat"] == 0.8
    assert after["came_as"] == before["oak"]["came_as"]
    assert after["version"] != before["oak"]["version"]
    client.post(f"/api/projects/{room}/undo")
    assert lines(client, room) == before


def test_an_impossible_surface_is_refused_whole(client, room):
    before = client.get(f"/api/projects/{room}").json()
    bad = client.post(f"/api/projects/{room}/edits", json=stage_with(client, room, surfaces={"oak": {"roughness": 3}}))
    assert bad.status_code == 422
    assert "roughness" in bad.json()["detail"]
    assert client.get(f"/api/projects/{room}").json() == before


def test_sample_pictures(client, room):
    listed = client.get("/api/surfaces").json()
    assert len(listed) >= 24
    brass = client.get("/api/surfaces/brass/sample.png")
    assert brass.headers["content-type"] == "image/png"
    picture = np.asarray(Image.open(io.BytesIO(brass.content)))
    assert picture.shape == (128, 128, 3)
    assert picture.std() > 10
    assert client.get("/api/surfaces/brass/sample.png").content == brass.content  # kept
    assert client.get("/api/surfaces/nothing/sample.png").status_code == 404
    oak = lines(client, room)["oak"]
    made = client.get(f"/api/projects/{room}/surfaces/{oak['version']}/sample.png", params={"name": "oak"})
    assert Image.open(io.BytesIO(made.content)).size == (128, 128)
    gone = client.get(f"/api/projects/{room}/surfaces/x/sample.png", params={"name": "no such"})
    assert gone.status_code == 404


def test_picking_in_the_picture_and_in_the_plan(client, room):
    spot = {"view": "inside", "occasion": "noon"}
    floor = client.post(f"/api/projects/{room}/pick", json={**spot, "plan": [1.0, 3.0, 1.2]}).json()
    assert (floor["object"], floor["material"]) == ("room", "plaster")
    assert floor["point"][2] == 0.0 or abs(floor["point"][2]) < 1e-4
    table = client.post(f"/api/projects/{room}/pick", json={**spot, "plan": [3.0, 1.6, 1.2]}).json()
    assert table["material"] == "oak"
    wall = client.post(f"/api/projects/{room}/pick", json={**spot, "picture": [0.05, 0.1]}).json()
    assert wall["material"] == "plaster"
    assert wall["distance_m"] > 0.5
    assert (
        client.post(
            f"/api/projects/{room}/pick", json={"view": "outside", "occasion": "noon", "picture": [0.5, 0.01]}
        ).json()
        is None
    )
    assert client.post(f"/api/projects/{room}/pick", json=spot).status_code in (400, 422)


def test_air_is_offered_for_a_view_and_kept_with_the_occasion(client, room):
    made = client.get(f"/api/projects/{room}/views/inside/air").json()
    assert [o["name"] for o in made] == ["haze", "mist", "fog"]
    occasion = client.get(f"/api/projects/{room}").json()["description"]["occasions"][0]
    change = {"part": "occasion", "key": occasion["key"], "value": {**occasion, "air": made[1]["air"]}}
    kept = client.post(f"/api/projects/{room}/edits", json={"label": "Mist", "changes": [change]}).json()
    assert kept["description"]["occasions"][0]["air"] == made[1]["air"]


def test_materials_of_one_name_are_one_line_and_long_names_are_edited(client, room):
    """Painted parts of a material, and that of a second model, go by one name and are dressed together."""
    name = "Eiche, geölt, Werkstatt Süd / " + "x" * 150
    colours = np.linspace(0.1, 0.9, 12).reshape(4, 3).astype(np.float32)
    document, blob = square(COLOR_0=colours)
    plain = {k: v for k, v in document["meshes"][0]["primitives"][0]["attributes"].items() if k != "COLOR_0"}
    document["meshes"][0]["primitives"].append({**document["meshes"][0]["primitives"][0], "attributes": plain})
    document["materials"][0]["name"] = name
    for number in range(2):
        document["asset"]["generator"] = f"test {number}"
        answer = client.post(f"/api/projects/{room}/models?name={number}.glb", content=packed(document, blob))
        assert answer.status_code == 201
    lines = client.get(f"/api/projects/{room}/surfaces").json()
    assert [line["name"] for line in lines].count(name) == 1
    edit = {"part": "stage", "at": ["surfaces", name], "value": {"base": [0.2, 0.3, 0.4]}}
    assert client.post(f"/api/projects/{room}/edits", json={"label": "Surface", "changes": [edit]}).status_code == 200
    line = next(line for line in client.get(f"/api/projects/{room}/surfaces").json() if line["name"] == name)
    assert line["changed"] and line["surface"]["base"] == [0.2, 0.3, 0.4]
