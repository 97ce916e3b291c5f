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


def png(colour=(200, 30, 20), size=(8, 4)) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, colour).save(out, "PNG")
    return out.getvalue()


def brought(client, channel="colour", **more) -> dict:
    answer = client.post(f"/api/surface-pictures?channel={channel}&name=wall.png", content=png(**more))
    assert answer.status_code == 201, answer.text
    return answer.json()


def set_surface(client, slug, name, surface):
    edit = {"part": "stage", "at": ["surfaces", name], "value": surface}
    return client.post(f"/api/projects/{slug}/edits", json={"label": "Surface", "changes": [edit]})


def test_a_picture_is_brought_in_and_lies_on_a_surface(client, room):
    before = client.get("/api/projects").json()[0]["bytes"]
    picture = brought(client)
    assert (picture["width"], picture["height"], picture["words"]) == (8, 4, [])
    surface = {"base": [1, 1, 1], "pictures": {"colour": picture["asset"]}, "laying": {"by": "box", "tile_m": 0.5}}
    assert set_surface(client, room, "oak", surface).status_code == 200
    line = lines(client, room)["oak"]
    assert line["surface"]["pictures"]["colour"] == picture["asset"]
    made = client.get(f"/api/projects/{room}/surfaces/{line['version']}/sample.png", params={"name": "oak"})
    r, g, b = np.asarray(Image.open(io.BytesIO(made.content)))[44:84, 44:84].reshape(-1, 3).mean(0)
    assert r > 2 * g > b  # the tile is red
    assert client.get("/api/projects").json()[0]["bytes"] > before
    # The same numbers with another picture are another sample.
    other = {**surface, "pictures": {"colour": brought(client, colour=(10, 30, 200))["asset"]}}
    set_surface(client, room, "oak", other)
    assert lines(client, room)["oak"]["version"] != line["version"]


def test_pictures_that_were_never_brought_in_are_refused(client, room):
    picture = brought(client)
    model = client.get(f"/api/projects/{room}").json()["description"]["placements"][0]["asset"]
    before = client.get(f"/api/projects/{room}").json()
    for bad in ("0" * 64, model):  # a file of another kind is none either
        answer = set_surface(client, room, "oak", {"pictures": {"colour": bad}})
        assert answer.status_code == 422, answer.text
        assert "never brought in" in answer.text
        kept = client.post("/api/surfaces", json={"name": "Bad", "surface": {"pictures": {"colour": bad}}})
        assert kept.status_code == 422
    assert set_surface(client, room, "oak", {"pictures": {"colour": picture["asset"], "tile": 3}}).status_code == 422
    assert client.get(f"/api/projects/{room}").json() == before


def test_what_is_no_picture_is_refused_and_nothing_is_left(client, settings):
    for data in (b"", b"GIF89a" + b"\0" * 30, png()[:40]):
        answer = client.post("/api/surface-pictures?channel=height&name=wall.png", content=data)
        assert answer.status_code == 422
        assert answer.json()["where"] == "wall.png"
    assert client.post("/api/surface-pictures?channel=smell&name=wall.png", content=png()).status_code == 422
    assert [p.name for p in (settings.files / "scratch").iterdir() if p.name.startswith("aside")] == []


def test_a_surface_of_one_s_own_is_kept_shared_and_put_away(client, room):
    picture = brought(client)
    surface = {"base": [1, 0.9, 0.8], "pictures": {"colour": picture["asset"]}, "laying": {"tile_m": 2.0}}
    kept = client.post("/api/surfaces", json={"name": "Mill plaster", "surface": surface}).json()
    again = client.post("/api/surfaces", json={"name": "mill plaster", "surface": surface}).json()
    assert (kept["name"], again["name"], kept["family"]) == ("Mill plaster", "mill plaster 2", "own")
    listed = client.get("/api/surfaces").json()
    assert [s["key"] for s in listed[:2]] == [kept["key"], again["key"]]
    assert client.get(f"/api/surfaces/{kept['key']}/sample.png").headers["content-type"] == "image/png"
    assert client.put(f"/api/surfaces/own/{again['own']}", json={"name": "Mill plaster"}).status_code == 422
    assert client.put(f"/api/surfaces/own/{again['own']}", json={"name": "Grey"}).json()["name"] == "Grey"
    assert client.delete(f"/api/surfaces/own/{again['own']}").status_code == 204
    assert client.delete(f"/api/surfaces/own/{again['own']}").status_code == 404
    assert set_surface(client, room, "oak", kept["surface"]).status_code == 200


def test_surfaces_go_out_as_files_and_come_back(client):
    for channel in ("colour", "roughness", "opacity"):
        brought(client, channel)
    picture = brought(client)
    surface = {
        "base": [1, 0.9, 0.8],
        "pictures": {"colour": picture["asset"]},
        "laying": {"tile_m": 2.0},
        "courses": {"bond": "stack"},
    }
    kept = client.post("/api/surfaces", json={"name": "Wände / 1", "surface": surface}).json()
    for suffix in ("glb", "zip"):
        made = client.get(f"/api/surfaces/{kept['key']}/surface.{suffix}")
        assert made.status_code == 200
        assert f".{suffix}" in made.headers["content-disposition"]
        back = client.post(f"/api/surfaces/file?name=wall.{suffix}", content=made.content)
        assert back.status_code == 201, back.text
        assert back.json()["surface"] == kept["surface"]
        straight = client.post(f"/api/surfaces/file.{suffix}", json={"name": "x", "surface": surface})
        assert straight.status_code == 200
    refused = client.post("/api/surfaces/file?name=nothing.zip", content=b"PK\x05\x06" + b"\0" * 18)
    assert refused.status_code == 422
    assert len([s for s in client.get("/api/surfaces").json() if s["own"]]) == 3


def test_what_a_view_shows_is_told(client, room):
    seen = {s["name"]: s["seen"] for s in client.get(f"/api/projects/{room}/surfaces?view=inside&occasion=noon").json()}
    assert 0.5 < seen["plaster"] <= 1
    assert sum(seen.values()) <= 1.0001
    assert all(s["seen"] is None for s in lines(client, room).values())
    assert client.get(f"/api/projects/{room}/surfaces?view=none&occasion=noon").status_code == 404


def test_one_object_s_surface_stands_apart(client, room):
    """The table's oak keeps its surface while the room's plaster goes by a name of its own; undone in one step."""
    before = lines(client, room)
    apart = [{"object": "room", "material": "plaster", "name": "plaster of the room"}]
    edit = {"part": "stage", "at": ["apart"], "value": apart}
    assert client.post(f"/api/projects/{room}/edits", json={"label": "Apart", "changes": [edit]}).status_code == 200
    after = lines(client, room)
    assert set(after) == {*before, "plaster of the room"}
    assert after["plaster of the room"]["surface"] == before["plaster"]["surface"]
    spot = {"view": "inside", "occasion": "noon", "plan": [1.0, 3.0, 1.2]}
    assert client.post(f"/api/projects/{room}/pick", json=spot).json()["material"] == "plaster of the room"
    twice = {"part": "stage", "at": ["apart"], "value": [*apart, {**apart[0], "object": "ground"}]}
    assert client.post(f"/api/projects/{room}/edits", json={"label": "Apart", "changes": [twice]}).status_code == 422
    client.post(f"/api/projects/{room}/undo")
    assert lines(client, room) == before
