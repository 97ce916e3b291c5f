"""Changes as fine as one field, their order, and the words for what is wrong."""

from __future__ import annotations

import pytest
from pydantic import ValidationError

from tests import small
from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.project.changes import Change, changed, overlap, value_at
from valleylight.core.project.copies import copy_part
from valleylight.core.project.description import Layer, Lens, Project
from valleylight.core.project.words import place, plain


@pytest.fixture
def raw() -> dict:
    return small.project().description.model_dump(mode="json")


def one(**change) -> Change:
    return Change.model_validate(change)


def test_one_field_is_set_and_nothing_else(raw):
    after = changed(raw, [one(part="occasion", key="noon", at=["sun", "level_stops"], value=1.5)])
    assert after["occasions"][0]["sun"]["level_stops"] == 1.5
    assert raw["occasions"][0]["sun"]["level_stops"] == 0  # what stood before is not altered
    after["occasions"][0]["sun"]["level_stops"] = 0
    assert after == raw


def test_entries_of_tables_and_lists_come_and_go(raw):
    after = changed(raw, [one(part="occasion", key="noon", at=["levels", "Ceiling"], away=True)])
    assert after["occasions"][0]["levels"] == {}
    after = changed(after, [one(part="occasion", key="noon", at=["levels", "Shelves"], value=40)])
    assert after["occasions"][0]["levels"] == {"Shelves": 40}
    gap = {"centre": (0, 0, 1), "half_u": (1, 0, 0), "half_v": (0, 0, 1), "inward": (0, 1, 0)}
    two = changed(raw, [one(part="stage", at=["openings", k], value={**gap, "centre": (k, 0, 1)}) for k in range(2)])
    assert [o["centre"][0] for o in two["stage"]["openings"]] == [0, 1]
    left = changed(two, [one(part="stage", at=["openings", 0], away=True)])["stage"]["openings"]
    assert [o["centre"][0] for o in left] == [1]
    look = changed(raw, [one(part="look", key="plain", at=["treatments", 3, "shoulder"], value=0.9)])
    assert look["looks"][0]["treatments"][3]["shoulder"] == 0.9


@pytest.mark.parametrize(("key", "place", "order"), [
    ("outside", 0, ["outside", "inside"]), ("inside", 1, ["outside", "inside"]), ("inside", 99, ["outside", "inside"]),
    ("inside", 0, ["inside", "outside"]),
])  # fmt: skip
def test_a_part_is_moved_among_its_like(raw, key, place, order):
    assert [v["key"] for v in changed(raw, [one(part="view", key=key, place=place)])["views"]] == order


WRONG = {
    "a part that is not there": (one(part="view", key="attic", at=["name"], value="x"), NotFoundError),
    "a move of nothing": (one(part="view", key="attic", place=0), NotFoundError),
    "taking away nothing": (one(part="scene", key="none"), NotFoundError),
    "a path through a number": (one(part="view", key="inside", at=["focal_mm", "x"], value=1), InputError),
    "a path beyond a list": (one(part="stage", at=["openings", 7], value={}), InputError),
    "a number where a name belongs": (one(part="site", at=[0], value=1), InputError),
    "another key": (one(part="view", key="inside", at=["key"], value="other"), InputError),
}  # fmt: skip


@pytest.mark.parametrize("name", WRONG)
def test_paths_that_lead_nowhere_are_refused(raw, name):
    change, kind = WRONG[name]
    with pytest.raises(kind, match="Nothing was changed"):
        changed(raw, [change])


@pytest.mark.parametrize("part", ["name", "site", "stage", "plate"])
def test_what_stands_in_no_order_has_no_place(part):
    with pytest.raises(ValidationError, match="stands in no order"):
        one(part=part, key="1", place=0)


def test_drafts_forgive_what_is_gone_already(raw):
    gone = [one(part="scene", key="none"), one(part="view", key="attic", at=["name"], value="x")]
    assert changed(raw, gone, drafted=True) == raw


def test_touched_paths_meet_when_one_lies_within_the_other(raw):
    hour = one(part="occasion", key="noon", at=["when"], value="2026-01-01T00:00:00").touches()
    whole = one(part="occasion", key="noon", value={"key": "noon"}).touches()
    level = one(part="occasion", key="noon", at=["sun", "level_stops"], value=1).touches()
    assert overlap(hour, whole) and overlap(whole, level) and not overlap(hour, level)
    assert not overlap(hour, one(part="occasion", key="night", at=["when"], value=1).touches())
    assert overlap(one(part="view", key="a", place=0).touches(), one(part="view", key="b", place=1).touches())
    assert value_at(raw, level) == 0 and value_at(raw, ("view", "attic", "name")) is None
    assert value_at(raw, ("order of", "view")) == ["inside", "outside"]


def test_a_copied_occasion_keeps_lens_and_look_of_every_view():
    project = small.project().description
    view = project.views[0].model_copy(update={"lens_at": {"noon": Lens(f_number=4)}, "look_at": {"noon": "plain"}})
    project = project.model_copy(update={"views": (view, *project.views[1:])})
    key, changes = copy_part(project, "occasion", "noon")
    after = Project.model_validate(changed(project.model_dump(mode="json"), changes))
    assert [o.key for o in after.occasions] == ["noon", "noon-2", "night"]
    assert after.occasions[1].name == "Noon 2" and after.occasions[1].levels == project.occasions[0].levels
    assert after.views[0].lens_for(key).f_number == 4 and after.views[0].look_at[key] == "plain"
    assert after.views[1].lens_at == {}


def test_a_copied_fixture_stands_beside_with_its_aim():
    project = small.project().description
    _, changes = copy_part(project, "fixture", "a")
    made = Project.model_validate(changed(project.model_dump(mode="json"), changes)).fixtures[1]
    assert made.position == (2.0, 2, 2.9) and made.aim == (2.0, 2, 0) and made.group == "Ceiling"
    with pytest.raises(NotFoundError):
        copy_part(project, "view", "attic")


def test_a_copied_thing_stands_beside_on_its_layer():
    project = small.project().description.model_copy(update={"layers": (Layer(key="garden", name="Garden"),)})
    placed = project.placements[0].model_copy(update={"layer": "garden", "turn_deg": 30.0, "position": (1, 2, 3)})
    project = project.model_copy(update={"placements": (placed,)})
    key, changes = copy_part(project, "placement", "room")
    made = Project.model_validate(changed(project.model_dump(mode="json"), changes)).placements
    assert [p.key for p in made] == ["room", "room-2"] and key == "room-2"
    assert (made[1].position, made[1].turn_deg, made[1].layer) == ((1.5, 2, 3), 30, "garden")


def wrong(raw) -> tuple[list, dict]:
    with pytest.raises(ValidationError) as caught:
        Project.model_validate(raw)
    first = caught.value.errors()[0]
    return list(first["loc"]), dict(first)


SAID = {
    "a date": (("occasions", 0, "when"), "tomorrow", 'occasion "Noon", date and hour', "cannot be read as a date"),
    "a lens": (("views", 1, "lens", "f_number"), 0, 'view "Outside", lens, f-number', "must be 0.7 or more"),
    "a latitude": (("site", "latitude_deg"), 95, "site, latitude", "95 must be 90 or less"),
    "a name": (("name",), "n" * 81, "name", "80 letters at most"),
    "a word": (("fixtures", 0, "percent"), "much", 'fixture "a", percent', "must be a number"),
    "a treatment": (("looks", 0, "treatments", 3, "shoulder"), 2, 'look "Plain", treatment 4', "must be 1 or less"),
    "infinity": (("views", 0, "position", 2), float("inf"), 'view "Inside", position, number 3', "finite"),
}  # fmt: skip


@pytest.mark.parametrize("name", SAID)
def test_errors_are_said_in_words(raw, name):
    path, value, where, what = SAID[name]
    holder = raw
    for step in path[:-1]:
        holder = holder[step]
    holder[path[-1]] = value
    found, error = wrong(raw)
    assert where in place(found, raw)
    assert what in plain(error) and "Input should" not in plain(error)


def test_unknown_and_missing_fields_are_said_in_words(raw):
    raw["site"]["colour"] = 1
    assert plain(wrong(raw)[1]) == "is not known here"
    del raw["site"]["colour"], raw["views"][0]["position"]
    found, error = wrong(raw)
    assert place(found, raw) == 'view "Inside", position' and plain(error) == "is missing"
