"""Cut-outs through the API: the catalogue, pictures of one's own, edits, where they stand, and in live pictures and plates."""

from __future__ import annotations

import base64
import io
from dataclasses import replace

import numpy as np
import pytest
from PIL import Image

from tests import small
from tests.server.conftest import wait_for
from tests.server.watching import frames
from valleylight.core.compose.offers import OFFERS
from valleylight.core.errors import InputError
from valleylight.core.project.cutout import CutOut
from valleylight.core.project.placement import Made
from valleylight.server.store import storage, tables
from valleylight.server.store.files import FileStore

PERSON = {"family": "person", "parameters": {"pose": 0, "height": 1.7}}


def figure(size: int = 64, form: str = "PNG", alpha: bool = True) -> bytes:
    pixels = np.zeros((size, size // 2, 4), np.uint8)
    pixels[4:, 4:-4] = (180, 90, 40, 255)
    out = io.BytesIO()
    image = Image.fromarray(pixels)
    (image if alpha else image.convert("RGB")).save(out, form)
    return out.getvalue()


def cutout(key: str = "anna", **more) -> dict:
    return {
        "key": key,
        "name": key.title(),
        "view": "inside",
        "made": PERSON,
        "place": [3.0, 2.6, 0.0],
        "height_m": 1.7,
        **more,
    }


def edit(client, slug: str, *changes: dict):
    return client.post(f"/api/projects/{slug}/edits", json={"label": "x", "changes": list(changes)})


def put(client, slug: str, value: dict):
    return edit(client, slug, {"part": "cutout", "key": value["key"], "value": value})


def test_the_catalogue_is_listed_and_pictured(client):
    lines = client.get("/api/cutouts").json()
    assert [line["key"] for line in lines] == [o.key for o in OFFERS]
    answer = client.get("/api/cutouts/person-walking-dress/picture.png?side=4")
    assert answer.status_code == 200
    picture = np.asarray(Image.open(io.BytesIO(answer.content)))
    assert picture.shape[0] <= 160 and picture.shape[2] == 4
    assert 0.1 < (picture[..., 3] > 128).mean() < 0.9
    assert client.get("/api/cutouts/person-walking-dress/picture.png?side=99").status_code == 422
    assert client.get("/api/cutouts/nobody/picture.png").status_code == 404
    assert client.get("/api/cutouts/own-1/picture.png").status_code == 404


def test_pictures_of_ones_own_are_tried_kept_named_and_put_away(client, room):
    answer = client.post("/api/cutouts/file?name=neighbour.png", content=figure())
    assert answer.status_code == 201, answer.text
    line = answer.json()
    assert line["name"] == "neighbour" and line["own"] and len(line["picture"]) == 64
    small = client.get(f"/api/cutout-pictures/{line['picture']}/small.png")
    assert small.status_code == 200 and small.headers["content-type"] == "image/png"
    assert np.asarray(Image.open(io.BytesIO(small.content))).shape == (60, 24, 4)  # cut to what is seen
    assert client.get(f"/api/cutouts/{line['key']}/picture.png").content == small.content
    assert (
        client.put(f"/api/cutouts/own/{line['own']}", json={"name": "The neighbour"}).json()["name"] == "The neighbour"
    )
    placed = put(client, room, cutout("own", made=None, picture=line["picture"]))
    assert placed.status_code == 200, placed.text
    assert client.delete(f"/api/cutouts/own/{line['own']}").status_code == 204
    assert [o["key"] for o in client.get("/api/cutouts").json()] == [o.key for o in OFFERS]
    assert client.get(f"/api/projects/{room}").json()["description"]["cutouts"][0]["picture"] == line["picture"]


@pytest.mark.parametrize(
    ("data", "query", "what"),
    [
        (figure(alpha=False), "", "no alpha"),
        (b"GIF89a", "", "cannot be read"),
        (figure()[:70], "", "cannot be read"),
        (b"", "", ""),
        (figure(), "&ground=white", ""),
    ],
)
def test_pictures_that_cannot_stand_are_refused_and_not_kept(client, data, query, what):
    answer = client.post(f"/api/cutouts/file?name=a.png{query}", content=data)
    assert answer.status_code == 422
    assert what in answer.json()["detail"]
    assert len(client.get("/api/cutouts").json()) == len(OFFERS)


def test_a_plain_ground_is_taken_out(client):
    pixels = np.full((80, 60, 3), 255, np.uint8)
    pixels[20:, 20:40] = (20, 60, 30)
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG")
    answer = client.post("/api/cutouts/file?name=tree.png&ground=%23ffffff", content=out.getvalue())
    assert answer.status_code == 201, answer.text
    small = client.get(f"/api/cutout-pictures/{answer.json()['picture']}/small.png").content
    assert np.asarray(Image.open(io.BytesIO(small))).shape[:2] == (60, 20)


def test_edits_are_checked_undone_and_copied(client, room):
    assert put(client, room, cutout()).status_code == 200
    for wrong in (
        cutout("b", picture="0" * 64),
        cutout("b", made=None, picture="0" * 64),
        cutout("b", height_m=-1),
        cutout("b", place=[0, 0]),
        cutout("b", wings=2),
    ):
        answer = put(client, room, wrong)
        assert answer.status_code in (409, 422), answer.text
        assert answer.json()["detail"]
    for made, what in (
        ({"family": "dragon"}, "no family"),
        ({"family": "valley"}, "no cut-out"),
        ({"family": "person", "parameters": {"height": 9}}, "height"),
    ):
        refused = put(client, room, cutout("b", made=made))
        assert refused.status_code in (404, 422) and what in refused.json()["detail"], refused.text
    moved = edit(client, room, {"part": "cutout", "key": "anna", "at": ["place"], "value": [2.5, 2.0, 0.0]})
    assert moved.json()["description"]["cutouts"][0]["place"] == [2.5, 2.0, 0.0]
    copy = client.post(f"/api/projects/{room}/copies", json={"part": "cutout", "key": "anna"})
    assert copy.status_code == 201
    state = client.get(f"/api/projects/{room}").json()["description"]["cutouts"]
    assert [c["key"] for c in state] == ["anna", copy.json()["key"]] and state[1]["place"] == [3.0, 2.0, 0.0]
    for _ in range(3):
        assert client.post(f"/api/projects/{room}/undo").status_code == 200
    assert client.get(f"/api/projects/{room}").json()["description"]["cutouts"] == []
    # A picture of a surface or a model is no picture of a cut-out.
    model = client.get(f"/api/projects/{room}").json()["description"]["placements"][0]["asset"]
    refused = put(client, room, cutout("m", made=None, picture=model))
    assert refused.status_code == 422 and "never brought in for a cut-out" in refused.json()["detail"]


def test_where_they_stand_is_told(client, room):
    view = client.get(f"/api/projects/{room}").json()["description"]["views"][0]
    put(client, room, cutout(height_m=view["position"][2]))
    put(client, room, cutout("far", view="outside"))
    [line] = client.get(f"/api/projects/{room}/views/inside/cutouts?occasion=noon").json()
    assert line["key"] == "anna"
    assert line["eye_m"] == pytest.approx(view["position"][2])
    assert line["left"] < line["feet"][0] < line["right"] and line["top"] < line["feet"][1]
    assert client.get(f"/api/projects/{room}/views/nowhere/cutouts?occasion=noon").status_code == 404
    assert client.get(f"/api/projects/{room}/views/inside/cutouts?occasion=never").status_code == 404


def plate_of(client, slug: str) -> np.ndarray:
    number = client.post(
        f"/api/projects/{slug}/plates", json={"view": "inside", "occasion": "noon", "quality": "sketch"}
    ).json()["id"]

    def done():
        [plate] = [p for p in client.get(f"/api/projects/{slug}/plates").json() if p["id"] == number]
        return plate if plate["ready"] or (plate["job"] or {}).get("status") == "failed" else None

    plate = wait_for(done)
    assert plate["ready"], plate
    return np.asarray(Image.open(io.BytesIO(client.get(f"/api/plates/{number}/picture.png").content)), float)


def test_a_plate_has_them_in_it_and_knows_that_they_changed(client, room):
    empty = plate_of(client, room)
    put(client, room, cutout(manner="silhouette"))
    stood = plate_of(client, room)
    [line] = client.get(f"/api/projects/{room}/views/inside/cutouts?occasion=noon").json()
    h, w = stood.shape[:2]
    box = np.zeros((h, w), bool)
    box[
        max(int(line["top"] * h), 0) : int(line["feet"][1] * h), max(int(line["left"] * w), 0) : int(line["right"] * w)
    ] = True
    change = np.abs(stood - empty).mean(-1)
    assert change[box].mean() > 8 * max(change[~box].mean(), 0.3)
    assert stood[box].min() < 30  # a dark shape
    plates = client.get(f"/api/projects/{room}/plates").json()
    first = min(plates, key=lambda p: p["id"])
    assert first["changed"] == ["compose"]
    told = client.get(f"/api/plates/{first['id']}/differences").json()
    assert "Anna stands in it" in str(told)


def test_the_live_picture_shows_them_once_they_are_traced(client, room, on_show):
    """It comes at once without them, then with them, though nothing else is asked; and what was traced is there at once afterwards."""
    dark = cutout(manner="silhouette", place=[3.2, 2.9, 0.0])
    change = {"part": "cutout", "key": "anna", "value": dark}
    before = np.asarray(Image.open(io.BytesIO(on_show.seen[1])), float)
    on_show.show(draft=[change])

    def differs(picture: np.ndarray) -> float:
        old = np.asarray(Image.fromarray(before.astype(np.uint8)).resize(picture.shape[1::-1]), float)
        return float((np.abs(picture - old).mean(-1) > 60).mean())

    for _ in range(60):
        _, image = frames(on_show.socket, lambda h: h["serial"] == on_show.serial and "error" not in h)
        picture = np.asarray(Image.open(io.BytesIO(image)), float)
        if differs(picture) > 0.01:
            break
    else:
        raise AssertionError("it never came into the picture")
    # Its silhouette was traced: carried aside it is in the very next picture.
    moved = {**change, "value": {**dark, "place": [2.8, 2.9, 0.0]}}
    on_show.show(draft=[moved], dragging=True)
    assert differs(np.asarray(Image.open(io.BytesIO(on_show.seen[1])), float)) > 0.004


def test_a_project_with_a_cut_out_of_an_unknown_family_is_not_taken_in(client, room, settings):
    loaded = small.project()
    for made in (Made(family="dragon"), Made(family="person", parameters={"pose": 1e9})):
        who = CutOut(key="a", name="a", view="inside", made=made, place=(0, 0, 0), height_m=1.7)
        wrong = replace(loaded, description=loaded.description.model_copy(update={"cutouts": (who,)}))
        with tables.database.connection_context(), pytest.raises(InputError):
            storage.create_project("", wrong, FileStore(settings.files))
    assert [p["slug"] for p in client.get("/api/projects").json()] == [room]


def test_a_plate_in_the_making_shows_them_in_its_previews(client, room, settings):
    put(client, room, cutout(manner="silhouette", place=[3.2, 2.9, 0.0]))
    seen: list[bytes] = []
    hub = client.app.state.context.hub
    tell = hub.tell

    def heard(slug, message):
        if getattr(message, "type", "") == "preview":
            seen.append(message.image)
        tell(slug, message)

    hub.tell = heard
    plate_of(client, room)  # traces the sprites
    number = client.post(
        f"/api/projects/{room}/plates", json={"view": "inside", "occasion": "noon", "quality": "press"}
    ).json()["id"]
    wait_for(
        lambda: len(seen) > 1 and any(p["id"] == number for p in client.get(f"/api/projects/{room}/plates").json())
    )
    picture = np.asarray(Image.open(io.BytesIO(base64.b64decode(seen[-1].split(",")[1]))), float)
    [line] = client.get(f"/api/projects/{room}/views/inside/cutouts?occasion=noon").json()
    h, w = picture.shape[:2]
    box = picture[
        int(max(line["top"], 0) * h) : int(line["feet"][1] * h), int(line["left"] * w) : int(line["right"] * w)
    ]
    assert (box.mean(-1) < 40).mean() > 0.1
