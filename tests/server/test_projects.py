"""Projects over REST: edits, undo, uploads, and every kind of bad input."""

from __future__ import annotations

import io
import zipfile

import pytest

from tests import small
from valleylight.demo.profiles import CATALOGUE, profile_file


def get(client, slug):
    return client.get(f"/api/projects/{slug}").json()


def view_with(client, slug, **patch):
    view = next(v for v in get(client, slug)["description"]["views"] if v["key"] == "inside")
    return {"part": "view", "key": "inside", "value": {**view, **patch}}


def test_a_new_project_and_its_list(client):
    made = client.post("/api/projects", json={"name": "  Hall  "})
    assert made.status_code == 201 and made.json()["slug"] == "hall"
    again = client.post("/api/projects", json={"name": "Hall"})
    assert again.json()["slug"] == "hall-2"
    assert [p["name"] for p in client.get("/api/projects").json()] == ["Hall", "Hall"]


def test_edits_undo_and_redo_survive_a_reload(client, room):
    before = get(client, room)
    edited = client.post(
        f"/api/projects/{room}/edits", json={"label": "Focal length", "changes": [view_with(client, room, focal_mm=50)]}
    )
    assert edited.status_code == 200 and edited.json()["undo"] == "Focal length"
    assert get(client, room)["description"]["views"][0]["focal_mm"] == 50
    undone = client.post(f"/api/projects/{room}/undo").json()
    assert undone["description"] == before["description"] and undone["redo"] == "Focal length"
    redone = client.post(f"/api/projects/{room}/redo").json()
    assert redone["description"] == edited.json()["description"]
    assert redone["revision"] == before["revision"] + 3


def test_undo_brings_a_removed_fixture_back_in_its_place(client, room):
    before = get(client, room)["description"]["fixtures"]
    gone = client.post(
        f"/api/projects/{room}/edits",
        json={"label": "Away", "changes": [{"part": "fixture", "key": "a", "value": None}]},
    )
    assert [f["key"] for f in gone.json()["description"]["fixtures"]] == ["b"]
    assert client.post(f"/api/projects/{room}/undo").json()["description"]["fixtures"] == before


def test_a_new_edit_forgets_what_was_undone(client, room):
    client.post(f"/api/projects/{room}/edits", json={"label": "One", "changes": [view_with(client, room, focal_mm=50)]})
    client.post(f"/api/projects/{room}/undo")
    client.post(f"/api/projects/{room}/edits", json={"label": "Two", "changes": [view_with(client, room, focal_mm=60)]})
    answer = client.post(f"/api/projects/{room}/redo")
    assert answer.status_code == 422 and "nothing to redo" in answer.json()["detail"]


def occasion(when):
    return {"part": "occasion", "key": "noon", "value": {"key": "noon", "name": "Noon", "when": when}}


BAD_EDITS = {
    "an impossible lens": ({"part": "view", "key": "inside", "value": {"key": "inside", "name": "x", "position": [0, 0, 1], "target": [0, 1, 1], "lens": {"f_number": 0}}}, "views.0.lens.f_number"),
    "a date outside the model": (occasion("2300-01-01T10:00:00"), "occasions.0.when"),
    "a date that is none": (occasion("tomorrow"), "occasions.0.when"),
    "a name of spaces": ({"part": "name", "value": "   "}, "name"),
    "an unknown field": ({"part": "site", "value": {"colour": 1}}, "site.colour"),
    "another key": ({"part": "view", "key": "inside", "value": {"key": "other"}}, "view.key"),
    "a fixture of no kind": ({"part": "fixture", "key": "z", "value": {"key": "z", "kind": "none", "position": [0, 0, 1], "aim": [0, 0, 0]}}, ""),
    "a profile never uploaded": ({"part": "kind", "key": "k", "value": {"key": "k", "name": "k", "profile": "a" * 64}}, "profile"),
}  # fmt: skip


@pytest.mark.parametrize("name", BAD_EDITS)
def test_a_bad_edit_changes_nothing_and_says_where(client, room, name):
    change, where = BAD_EDITS[name]
    before = get(client, room)
    answer = client.post(
        f"/api/projects/{room}/edits", json={"label": "Bad", "changes": [view_with(client, room, focal_mm=99), change]}
    )
    assert answer.status_code == 422
    assert answer.headers["content-type"] == "application/problem+json"
    body = answer.json()
    assert body["title"] and body["status"] == 422 and where in body["where"]
    assert get(client, room) == before


def test_missing_things_are_404_in_the_same_shape(client, room):
    for path in (
        "/api/projects/none",
        f"/api/projects/{room}/illuminance?occasion=never",
        "/api/plates/77/picture.png",
        "/api/nothing",
    ):
        answer = client.get(path)
        assert answer.status_code == 404 and answer.headers["content-type"] == "application/problem+json"
    made = client.post(f"/api/projects/{room}/plates", json={"view": "attic", "occasion": "noon", "quality": "sketch"})
    assert made.status_code == 404 and "inside, outside" in made.json()["detail"]
    assert client.post("/api/projects", json={"name": "   "}).json()["where"] == "name"


def test_upload_a_profile(client, room):
    data = profile_file(next(lu for lu in CATALOGUE if lu.key == "shelf-line"))  # EULUMDAT under another name
    answer = client.post(f"/api/projects/{room}/profiles?name=C:%5Clamps%5Cspot.ies", content=data)
    assert answer.status_code == 201
    kind = answer.json()["description"]["kinds"][-1]
    figures = client.get(f"/api/projects/{room}/kinds").json()[-1]
    assert figures["kind"] == kind and figures["source_format"] == "EULUMDAT"
    assert figures["lumens"] == pytest.approx(840, rel=0.002)
    assert max(figures["along_cd"]) == pytest.approx(figures["peak_cd"], rel=0.02)
    assert client.post(f"/api/projects/{room}/undo").json()["description"]["kinds"][-1] != kind


BAD_PROFILES = {
    "broken": (profile_file(CATALOGUE[0])[:400], "line"),
    "a picture": (b"\x89PNG\r\n\x1a\n\0\0\0", "not text"),
    "empty": (b"", "empty"),
    "too large": (b"0 " * 2**20, "larger than 1 MB"),
}


@pytest.mark.parametrize("name", BAD_PROFILES)
def test_bad_profiles_are_refused(client, room, name):
    data, words = BAD_PROFILES[name]
    before = get(client, room)
    answer = client.post(f"/api/projects/{room}/profiles?name=lamp.ies", content=data)
    assert answer.status_code == (413 if name == "too large" else 422)
    assert words in answer.json()["detail"] and "lamp.ies" in answer.json()["where"]
    assert get(client, room) == before


def test_upload_a_model(client):
    slug = client.post("/api/projects", json={"name": "Empty"}).json()["slug"]
    answer = client.post(f"/api/projects/{slug}/models?name=room.glb", content=small.room_glb())
    assert answer.status_code == 201
    stage = client.get(f"/api/projects/{slug}/stage").json()
    assert stage["size_m"] == pytest.approx([60, 60, 3.2], abs=0.01) and "ground" in stage["layers"]


def test_models_of_other_formats_are_kept_as_gltf(client, room):
    """A zip of an OBJ in millimetres: its unit is taken as such, and can be overruled."""
    text = "mtllib a.mtl\no wall\nv 0 0 0\nv 8000 0 0\nv 8000 3000 0\nv 0 3000 0\nusemtl oak\nf 1 2 3 4\n"
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("house/house.obj", text)
        archive.writestr("house/a.mtl", "newmtl oak\nKd 0.5 0.3 0.1\n")
    answer = client.post(f"/api/projects/{room}/models?name=house.zip", content=out.getvalue())
    assert answer.status_code == 201, answer.text
    made = answer.json()["description"]["placements"][-1]
    assert (made["key"], made["name"], made["scale"]) == ("house", "house.zip", 0.001)
    stage = client.get(f"/api/projects/{room}/stage").json()
    assert stage["size_m"][0] == pytest.approx(60, abs=0.01)
    assert "oak" in stage["materials"]
    other = {"part": "placement", "key": "house", "at": ["scale"], "value": 1.0}
    assert client.post(f"/api/projects/{room}/edits", json={"label": "Unit", "changes": [other]}).status_code == 200
    assert client.get(f"/api/projects/{room}/stage").json()["size_m"][0] > 8000
    twice = client.post(f"/api/projects/{room}/models?name=again.zip", content=out.getvalue())
    assert twice.status_code == 422 and "house.zip" in twice.json()["detail"]


def test_nothing_is_left_of_a_zip_that_was_refused(client, room, settings):
    before = sorted(p.name for p in settings.files.rglob("*") if p.is_file())
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("../../evil.obj", "v 0 0 0\n")
    answer = client.post(f"/api/projects/{room}/models?name=evil.zip", content=out.getvalue())
    assert answer.status_code == 422 and "leads out" in answer.json()["detail"]
    assert sorted(p.name for p in settings.files.rglob("*") if p.is_file()) == before


BAD_MODELS = {
    "a picture named as a model": (b"\x89PNG\r\n\x1a\n\0\0\0", 422, "a picture"),
    "cut off": (small.room_glb()[:3000], 422, "cut off"),
    "too large": (b"glTF" + b"\0" * (5 * 2**20), 413, "larger than 4 MB"),
}


@pytest.mark.parametrize("name", BAD_MODELS)
def test_bad_models_are_refused(client, room, name):
    data, status, words = BAD_MODELS[name]
    before = get(client, room)
    answer = client.post(f"/api/projects/{room}/models?name=house.glb", content=data)
    assert answer.status_code == status and words in answer.json()["detail"]
    assert get(client, room) == before


def test_an_endless_body_is_cut_at_the_limit(client, room):
    """Sent in pieces without a length, a body is refused as soon as it passes the limit."""

    def pieces():
        yield b"glTF"
        for _ in range(40):  # ten times the limit
            yield b"\0" * 2**20

    answer = client.post(f"/api/projects/{room}/models?name=big.glb", content=pieces())
    assert answer.status_code == 413


def test_two_gigabytes_are_refused_by_their_announcement(client, room):
    answer = client.post(
        f"/api/projects/{room}/models?name=big.glb", content=b"x", headers={"Content-Length": str(2 * 2**30)}
    )
    assert answer.status_code == 413


def test_pages_of_other_sites_cannot_write(client, room):
    answer = client.post("/api/projects", json={"name": "x"}, headers={"Origin": "http://elsewhere.example"})
    assert answer.status_code == 403
    assert client.get("/api/projects").headers["content-security-policy"].startswith("default-src 'self'")


def test_a_curve_is_drawn_and_bent(client):
    tone = {"kind": "tone_curve", "stops_above": 3.0}
    shown = client.post("/api/treatments/curve", json={"treatment": tone}).json()
    assert [h["field"] for h in shown["handles"]] == ["toe", "shoulder", "stops_above"] and len(shown["points"]) == 97
    bend = {"field": "stops_above", "stops": 4.0, "value": 1.0}
    bent = client.post("/api/treatments/curve", json={"treatment": tone, "bend": bend}).json()
    assert bent["treatment"]["stops_above"] == 4 and bent["handles"][2]["stops"] == 4
    for wrong in ({"treatment": {"kind": "exposure"}}, {"treatment": {"kind": "exposure"}, "bend": bend},
                  {"treatment": tone, "bend": {**bend, "field": "knee"}}, {"treatment": tone, "bend": {**bend, "stops": "NaN"}},
                  {"treatment": {**tone, "toe": 7}}):  # fmt: skip
        answer = client.post("/api/treatments/curve", json=wrong)
        assert answer.status_code == 422 and answer.headers["content-type"] == "application/problem+json", wrong
