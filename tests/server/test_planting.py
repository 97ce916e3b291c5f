"""What comes with things that are placed: trees offered for their shadow, layers as boxes, flags, groups, the fixtures within lamps."""

from __future__ import annotations

import base64
import io

import numpy as np
import pytest
from PIL import Image

from tests.server.test_things import edit, place, thing_of

#: Floor behind the south window, and ground before it, at the noon of a June day.
FLOOR = {"occasion": "noon", "point": [3.0, 0.35, 0.0], "normal": [0, 0, 1], "reach_m": 0.3}


def test_trees_are_offered_for_their_shadow_and_throw_it(client, room):
    """What is offered takes the share of the sun that is told: the patch is asked again with the tree planted."""
    offers = client.post(f"/api/projects/{room}/leafshadow", json=FLOOR).json()
    assert offers and [o["distance_m"] for o in offers] == sorted(o["distance_m"] for o in offers)
    for offer in offers:
        assert offer["position"][1] < -0.5 and abs(offer["position"][2] + 0.1) < 0.01  # on the ground outside
        assert 0.04 <= offer["shade"] <= 0.96 and offer["height_m"] == pytest.approx(offer["parameters"]["height"])
        assert offer["edge_m"] == pytest.approx(offer["distance_m"] * np.radians(0.533), rel=0.03)
        head, data = offer["picture"].split(",")
        assert head == "data:image/png;base64"
        picture = np.asarray(Image.open(io.BytesIO(base64.b64decode(data))).convert("L"))
        assert picture.shape == (192, 192) and picture.std() > 5
    first = offers[0]
    made = client.post(
        f"/api/projects/{room}/things",
        json={k: first[k] for k in ("family", "parameters", "position")} | {"turn_deg": 0},
    )
    assert made.status_code == 201
    after = client.post(f"/api/projects/{room}/leafshadow", json=FLOOR).json()
    assert after != offers  # the tree that stands there now is in the way of itself


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"point": [5.5, 3.8, 0.0]}, "stands in its way"), ({"normal": [0, 1, 0], "point": [3, 4.2, 1]}, "away from the sun"),
        ({"occasion": "night"}, "too low for a shadow"), ({"normal": [0, 0, 0]}, "normal is zero"),
    ],
)  # fmt: skip
def test_where_no_sun_comes_it_is_said_why(client, room, change, words):
    answer = client.post(f"/api/projects/{room}/leafshadow", json=FLOOR | change)
    assert answer.status_code == 422 and words in answer.json()["detail"], answer.text


def test_layers_tell_what_stands_on_them(client, room):
    edits = [
        {"part": "layer", "key": "trees", "value": {"key": "trees", "name": "Trees", "in_models": None}},
        {"part": "stage", "at": ["boxed"], "value": ["trees"]},
    ]
    assert client.post(f"/api/projects/{room}/edits", json={"label": "x", "changes": edits}).status_code == 200
    for x in (20.0, 24.0):
        place(client, room, "birch", (x, -20.0, -0.1), layer="trees")
    weights = {w["layer"]: w for w in client.get(f"/api/projects/{room}/stage").json()["weights"]}
    assert set(weights) == {"ground", "trees"}
    trees = weights["trees"]
    assert trees["pieces"] >= 2 and trees["triangles"] == 2 * trees["kept"] > 1000  # in their own shape, boxed or not
    assert weights["ground"] == {"layer": "ground", "pieces": 1, "triangles": 2, "kept": 2}


def test_a_box_is_pointed_at_where_the_picture_shows_it(client, room):
    """Beside its trunk a birch lets the line of sight through; its box does not, until the layer is shown whole again."""
    layer = {"part": "layer", "key": "trees", "value": {"key": "trees", "name": "Trees", "in_models": None}}
    client.post(f"/api/projects/{room}/edits", json={"label": "x", "changes": [layer]})
    tree = place(client, room, "birch", (3.0, -5.0, -0.1), layer="trees")["key"]
    line = next(t for t in client.get(f"/api/projects/{room}/things").json() if t["key"] == tree)
    beside = {
        "view": "outside",
        "occasion": "noon",
        "plan": [3.0 + 0.9 * line["high"][0], -5.0 + 0.9 * line["high"][1], 1.0],
    }
    above = [*beside["plan"][:2], 60.0]
    seen = []
    for boxed in ([], ["trees"], []):
        edit = {"part": "stage", "at": ["boxed"], "value": boxed}
        client.post(f"/api/projects/{room}/edits", json={"label": "x", "changes": [edit]})
        met = client.post(f"/api/projects/{room}/pick", json={**beside, "plan": above}).json()
        seen.append(met["thing"] == tree and met["point"][2] == pytest.approx(line["high"][2] - 0.1, abs=0.05))
    assert seen == [False, True, False]


def test_one_is_made_independent_of_those_alike(client, room):
    first = place(client, room, "table")["key"]
    second = place(client, room, "table", (1.0, 3.0, 0.0))["key"]
    made = {"family": "table", "parameters": {"length": 2.2}, "alone": True}
    state = client.put(f"/api/projects/{room}/things/{first}/made", json=made).json()
    assert thing_of(state, first)["made"]["parameters"]["length"] == 2.2
    assert thing_of(state, second)["made"]["parameters"]["length"] != 2.2
    assert thing_of(state, first)["asset"] != thing_of(state, second)["asset"]
    # From now on they are no copies of each other.
    made = {"family": "table", "parameters": {"length": 1.4}}
    state = client.put(f"/api/projects/{room}/things/{second}/made", json=made).json()
    assert thing_of(state, first)["made"]["parameters"]["length"] == 2.2


def test_a_backdrop_is_only_seen_until_it_is_asked_for_more(client, room):
    made = place(client, room, "backdrop", (0.0, 0.0, 0.0))
    name = thing_of(made["project"], made["key"])["name"]
    flags = made["project"]["description"]["stage"]["objects"][name]
    assert (flags["seen"], flags["sends"], flags["casts_shadow"]) == (True, False, False)
    back = client.post(f"/api/projects/{room}/undo").json()["description"]  # one step
    assert name not in back["stage"]["objects"] and all(p["key"] != made["key"] for p in back["placements"])
    assert "chair" not in str(place(client, room, "chair")["project"]["description"]["stage"]["objects"])


def test_groups_are_kept_and_change_nothing_of_the_stage(client, room):
    keys = [place(client, room, "stool", (x, 3.0, 0.0))["key"] for x in (1.0, 2.0)]
    before = client.get(f"/api/projects/{room}/stage").json()
    for key in keys:
        edit(client, room, key, "group", "stools")
    state = client.get(f"/api/projects/{room}").json()
    assert [thing_of(state, key)["group"] for key in keys] == ["stools"] * 2
    assert client.get(f"/api/projects/{room}/stage").json() == before
    bad = {"part": "placement", "key": keys[0], "at": ["group"], "value": "not a key!"}
    assert client.post(f"/api/projects/{room}/edits", json={"label": "x", "changes": [bad]}).status_code == 422


def fixture_of(state: dict, thing: dict) -> dict:
    return next(f for f in state["description"]["fixtures"] if f["key"] == thing["lamp"])


def test_a_lamp_comes_with_a_fixture_that_works(client, room):
    before = client.get(f"/api/projects/{room}").json()["description"]
    made = place(client, room, "floor-lamp", (3.0, 3.0, 0.0), parameters={"height": 1.6, "lumens": 800.0}, turn_deg=0)
    state = made["project"]
    thing = thing_of(state, made["key"])
    fixture = fixture_of(state, thing)
    assert fixture["position"] == pytest.approx([3.0, 3.0, 1.46]) and fixture["aim"] == pytest.approx([3.0, 3.0, 0.46])
    assert (fixture["lumens"], fixture["on"], fixture["group"]) == (800.0, True, "Lamps")
    kind = next(k for k in state["description"]["kinds"] if k["key"] == fixture["kind"])
    assert kind["body"] == "bulb"
    # It lights: a metre below it there is light, and none once it is put out.
    area = {
        "occasion": "night",
        "corner": [3.3, 2.9, 0.75],
        "u": [0.2, 0, 0],
        "v": [0, 0.2, 0],
        "spacing_m": 0.1,
        "direct_only": True,
    }
    lit = client.post(f"/api/projects/{room}/area", json=area).json()["mean_lx"]
    for change in ({"part": "fixture", "key": fixture["key"], "at": ["on"], "value": False},):
        client.post(f"/api/projects/{room}/edits", json={"label": "x", "changes": [change]})
    dark = client.post(f"/api/projects/{room}/area", json=area).json()["mean_lx"]
    assert lit > dark + 1
    # One kind for all, one step of undo for each.
    other = place(client, room, "table-lamp", (1.0, 1.0, 0.75))
    assert len(other["project"]["description"]["kinds"]) == len(before["kinds"]) + 1
    assert fixture_of(other["project"], thing_of(other["project"], other["key"]))["kind"] == kind["key"]
    for _ in range(3):
        after = client.post(f"/api/projects/{room}/undo").json()["description"]
    assert after == before


def test_the_fixture_follows_what_its_lamp_is_made_into(client, room):
    keys = [place(client, room, "floor-lamp", (x, 3.0, 0.0), turn_deg=0)["key"] for x in (2.0, 4.0)]
    url = f"/api/projects/{room}/things/{keys[0]}/made"
    state = client.put(url, json={"family": "floor-lamp", "parameters": {"height": 1.3, "lumens": 0.0}}).json()
    for key, x in zip(keys, (2.0, 4.0), strict=True):  # linked copies follow
        fixture = fixture_of(state, thing_of(state, key))
        assert fixture["position"] == pytest.approx([x, 3.0, 1.16]) and not fixture["on"]
    state = client.put(url, json={"family": "stool"}).json()
    lamps = [f for f in state["description"]["fixtures"] if f["group"] == "Lamps"]
    assert lamps == [] and [thing_of(state, key)["lamp"] for key in keys] == [None, None]
    state = client.put(url, json={"family": "table-lamp"}).json()
    held = [thing_of(state, key)["lamp"] for key in keys]
    assert None not in held and len(set(held)) == 2  # each a fixture of its own


def test_a_dropped_lamp_takes_its_fixture_along(client, room):
    key = place(client, room, "table-lamp", (3.0, 1.6, 2.0), turn_deg=0)["key"]
    state = client.post(f"/api/projects/{room}/things/{key}/drop").json()
    thing = thing_of(state, key)
    fixture = fixture_of(state, thing)
    assert thing["position"][2] == pytest.approx(0.75, abs=0.01)
    assert fixture["position"][2] - thing["position"][2] == pytest.approx(0.46 * 0.72, abs=1e-3)


def test_an_edit_of_a_lamp_takes_its_fixture_along_and_back(client, room):
    """Whoever moves it: the page, another program, undo and redo."""
    key = place(client, room, "table-lamp", (3.0, 1.6, 0.75), turn_deg=0)["key"]

    def at() -> tuple:
        state = client.get(f"/api/projects/{room}").json()
        thing = thing_of(state, key)
        fixture = fixture_of(state, thing)
        return tuple(round(b - a, 4) for a, b in zip(thing["position"], fixture["position"], strict=True)), fixture[
            "on"
        ]

    def edit(*changes: dict) -> None:
        changes = [{"part": "placement", "key": key, **change} for change in changes]
        assert client.post(f"/api/projects/{room}/edits", json={"label": "x", "changes": changes}).status_code == 200

    stood = at()
    edit({"at": ["position"], "value": [1.0, 3.0, 0.5]})
    assert at() == stood
    edit({"at": ["hidden"], "value": True})
    assert at() == (stood[0], False)
    client.post(f"/api/projects/{room}/undo")
    assert at() == stood
    client.post(f"/api/projects/{room}/undo")
    assert at() == stood and thing_of(client.get(f"/api/projects/{room}").json(), key)["position"] == [3.0, 1.6, 0.75]
    client.post(f"/api/projects/{room}/redo")
    assert at() == stood
    bad = {"label": "x", "changes": [{"part": "placement", "key": key, "at": ["position"], "value": "there"}]}
    assert client.post(f"/api/projects/{room}/edits", json=bad).status_code == 422
    assert at() == stood
    edit({"value": None})
    assert not [
        f for f in client.get(f"/api/projects/{room}").json()["description"]["fixtures"] if f["group"] == "Lamps"
    ]


def test_lamps_of_a_row_taken_apart_hold_a_fixture_each(client, room):
    key = place(client, room, "table-lamp", (1.0, 1.0, 0.75), turn_deg=0)["key"]
    row = {"kind": "row", "count": 3, "step": [1.0, 0.0, 0.0]}
    edit = {"label": "x", "changes": [{"part": "placement", "key": key, "at": ["repeat"], "value": row}]}
    assert client.post(f"/api/projects/{room}/edits", json=edit).status_code == 200
    state = client.post(f"/api/projects/{room}/things/{key}/apart").json()
    lamps = [p for p in state["description"]["placements"] if p["lamp"]]
    assert len({p["lamp"] for p in lamps}) == 3
    for thing in lamps:
        assert fixture_of(state, thing)["position"][:2] == pytest.approx(thing["position"][:2])


def test_the_stage_view_leaves_out_what_the_occasion_hides(client, room):
    def triangles(**params) -> int:
        data = client.get(f"/api/projects/{room}/mesh", params=params).content
        return int(np.frombuffer(data, "<u4", 1, 24)[0])

    layer = {"part": "layer", "key": "stools", "value": {"key": "stools", "name": "Stools", "in_models": None}}
    client.post(f"/api/projects/{room}/edits", json={"label": "x", "changes": [layer]})
    bare = triangles()
    place(client, room, "stool", (3.0, 3.0, 0.0), layer="stools")
    furnished = triangles(occasion="noon")
    assert furnished == triangles() > bare
    hide = {"part": "occasion", "key": "noon", "at": ["hidden_layers"], "value": ["stools"]}
    client.post(f"/api/projects/{room}/edits", json={"label": "x", "changes": [hide]})
    assert (triangles(occasion="noon"), triangles(occasion="night"), triangles()) == (bare, furnished, furnished)
    answer = client.get(f"/api/projects/{room}/mesh", params={"occasion": "dusk"})
    assert answer.status_code == 404 and "dusk" in answer.json()["detail"]
