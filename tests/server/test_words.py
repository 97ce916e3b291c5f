"""No library's message reaches the screen: every refusal says in words what, where and that nothing was changed."""

from __future__ import annotations

import pytest

from tests.server.test_projects import get

#: Requests that are legal JSON but no sense: path, body, and what must be said.
WRONG = {
    "no quality": ("plates", {"view": "inside", "occasion": "noon", "quality": "best"}, "quality: 'best' is not one of"),
    "no view": ("plates", {"occasion": "noon"}, "view: is missing"),
    "a list for an edit": ("edits", [1, 2], "group of fields"),
    "no changes": ("edits", {"label": "x", "changes": []}, "changes: it must hold at least 1"),
    "an unknown part": ("edits", {"label": "x", "changes": [{"part": "roof"}]}, "change 1, part: 'roof' is not one of"),
    "a label too long": ("edits", {"label": "x" * 121, "changes": [{"part": "name", "value": "y"}]}, "120 letters at most"),
    "a place for a site": ("edits", {"label": "x", "changes": [{"part": "site", "place": 1}]}, "stands in no order"),
    "a path of pieces": ("edits", {"label": "x", "changes": [{"part": "site", "at": [{}], "value": 1}]}, "change 1, at, number 1"),
    "a path too deep": ("edits", {"label": "x", "changes": [{"part": "site", "at": ["a"] * 9, "value": 1}]}, "may hold 8 at most"),
    "a base before the start": ("edits", {"label": "x", "changes": [{"part": "name", "value": "y"}], "base": -1}, "must be 0 or more"),
    "a copy of a roof": ("copies", {"part": "roof", "key": "x"}, "'roof' is not one of"),
    "a height in words": ("illuminance", {"occasion": "noon", "height_m": "low"}, "height: 'low' must be a number"),
    "a draft of numbers": ("illuminance", {"occasion": "noon", "draft": [1]}, "group of fields"),
    "a point beside the picture": ("meter", {"view": "inside", "occasion": "noon", "x": 2, "y": 0}, "x: 2 must be 1 or less"),
}  # fmt: skip


@pytest.mark.parametrize("name", WRONG)
def test_refusals_are_said_in_words(client, room, name):
    path, body, words = WRONG[name]
    before = get(client, room)
    answer = client.post(f"/api/projects/{room}/{path}", json=body)
    said = answer.json()
    assert answer.status_code == 422 and words in said["detail"] and said["detail"].endswith("Nothing was changed.")
    assert not any(mark in str(said) for mark in ("Input should", "validation error", "body.", "pydantic"))
    assert get(client, room) == before


EDITS = {
    "a date": ({"part": "occasion", "key": "noon", "at": ["when"], "value": "soon"}, 'occasion "Noon", date and hour: \'soon\' cannot be read'),
    "a level": ({"part": "occasion", "key": "noon", "at": ["levels", "Ceiling"], "value": 900}, "must be 400 or less"),
    "a field that is none": ({"part": "view", "key": "inside", "at": ["colour"], "value": 1}, 'view "Inside", colour: is not known here'),
    "a needed field away": ({"part": "view", "key": "inside", "at": ["position"], "away": True}, 'view "Inside", position: is missing'),
    "a path to nowhere": ({"part": "view", "key": "inside", "at": ["lens", "glass", "kind"], "value": 1}, "there is no such field"),
    "a tone curve": ({"part": "look", "key": "plain", "at": ["treatments", 3, "toe"], "value": -1}, 'look "Plain", treatment 4'),
    "a look of no kind": ({"part": "look", "key": "plain", "at": ["treatments", 0, "kind"], "value": "sepia"}, "of no known kind"),
}  # fmt: skip


@pytest.mark.parametrize("name", EDITS)
def test_edits_that_cannot_be_say_what_and_where(client, room, name):
    change, words = EDITS[name]
    before = get(client, room)
    answer = client.post(f"/api/projects/{room}/edits", json={"label": "x", "changes": [change]})
    assert (
        answer.status_code == 422
        and words in answer.json()["detail"]
        and "Nothing was changed" in answer.json()["detail"]
    )
    assert get(client, room) == before
