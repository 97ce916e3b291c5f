"""How two states of a picture differ, in words; settings back; which old plates go."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest

from tests import small
from valleylight.core.errors import NotFoundError
from valleylight.core.history.back import beside_now, over_now
from valleylight.core.history.differences import State, differences
from valleylight.core.history.steps import changed_steps
from valleylight.core.history.thinning import NEWEST, OLDEST, Kept, to_thin
from valleylight.core.project import Project
from valleylight.core.project.changes import Change, changed

ROOM = small.project().description


def one(part: str, key: str, *at: str | int, value) -> dict:
    return {"part": part, "key": key, "at": list(at), "value": value}


def after(*edits: dict | Change, project: Project = ROOM) -> Project:
    changes = [e if isinstance(e, Change) else Change.model_validate(e) for e in edits]
    return Project.model_validate(changed(project.model_dump(mode="json"), changes))


def told(*edits: dict, occasion: str = "noon") -> list[str]:
    found = differences(State(ROOM, "inside", occasion), State(after(*edits), "inside", occasion))
    return [f"{d.step}: {d.text}" for d in found]


SHIFTED = one("look", "plain", "treatments", 2, "kelvin", value=6900)
SAID = {
    "stage: room.glb moved by 0.50 m and turned by 10°": (
        one("placement", "room", "position", value=[0.3, 0.4, 0.0]), one("placement", "room", "turn_deg", value=10.0)),
    "stage: room.glb 2 times as large": (one("placement", "room", "scale", value=2.0),),
    "stage: surface oak changed": (one("stage", "", "surfaces", value={"oak": {"roughness": 0.2}}),),
    "stage: other flags of things or openings": (one("stage", "", "find_openings", value=False),),
    "daylight: other settings of the step Daylight": (one("occasion", "noon", "sky", "horizon", "height_deg", value=2.0),),
    "lens: other settings of the step Lens": (one("view", "inside", "blades", value=7),),
    "stage: all surfaces grey": (one("stage", "", "white_card", value=True),),
    "daylight: 17:20 instead of 13:20": (one("occasion", "noon", "when", value="2026-06-21T17:20:00"),),
    "daylight: 3 Oct 2026 instead of 21 Jun 2026": (one("occasion", "noon", "when", value="2026-10-03T13:20:00"),),
    "daylight: sun +1.0 stops": (one("occasion", "noon", "sun", "level_stops", value=1.0),),
    "daylight: sky −0.5 stops": (one("occasion", "noon", "sky", "level_stops", value=-0.5),),
    "daylight: sun at 4000 K": (one("occasion", "noon", "sun", "kelvin", value=4000),),
    "daylight: sky: CIE type 1 instead of computed, cloudless": (one("occasion", "noon", "sky", value={"model": "cie", "cie_type": 1}),),
    "daylight: air hazier (turbidity 5)": (one("occasion", "noon", "sky", "turbidity", value=5.0),),
    "daylight: north turned by +20°": (one("site", "", "north_deg", value=20.0),),
    "fixtures: Pendants −1.0 stops": (one("occasion", "noon", "levels", "Pendants", value=50.0),),
    "fixtures: Pendants off": (one("occasion", "noon", "levels", "Pendants", value=0.0),),
    "fixtures: Ceiling on at −1.0 stops": (one("occasion", "noon", "levels", "Ceiling", value=50.0),),
    "fixtures: Pendants at 2700 K": (one("occasion", "noon", "colours", value={"Pendants": 2700}),),
    "fixtures: the sun at 5000 K": (one("occasion", "noon", "colours", value={"sun": 5000}),),
    "fixtures: 1 fixture changed": (one("fixture", "a", "position", value=[1.6, 2, 2.9]),),
    "fixtures: 1 fewer fixture": ({"part": "fixture", "key": "a", "value": None},),
    "air: winter instead of summer": (one("occasion", "noon", "season", value="winter"),),
    "air: fog": (one("occasion", "noon", "air", "on", value=True),),
    "air: ground hidden": (one("occasion", "noon", "hidden_layers", value=["ground"]),),
    "lens: lens moved by 1.00 m": (one("view", "inside", "position", value=[5.5, 3.6, 2.5]),),
    "lens: lens turned": (one("view", "inside", "target", value=[2.5, 0.6, 1.4]),),
    "lens: 35 mm instead of 20 mm": (one("view", "inside", "focal_mm", value=35),),
    "lens: focused at 2.5 m": (one("view", "inside", "focus_m", value=2.5),),
    "lens: picture cut to 1 : 1": (one("view", "inside", "format", value=[1, 1]),),
    "lens: exposure +1.0 stops": (one("view", "inside", "lens", "iso", value=400),),
    "lens: f/8 instead of f/5.6": (one("view", "inside", "lens", "f_number", value=8.0),),
    "lens: verticals converge": (one("view", "inside", "keep_verticals", value=False),),
    "finish: look warmer by 400 K": (SHIFTED,),
    "finish: exposure +0.5 stops": (one("look", "plain", "treatments", 1, "stops", value=0.5),),
    "finish: with bloom": (one("look", "plain", "treatments", 0, "on", value=True),),
}  # fmt: skip


@pytest.mark.parametrize("said", SAID)
def test_what_differs_is_said_in_words(said):
    assert said in told(*SAID[said])


def test_like_states_differ_in_nothing_and_names_do_not_count():
    assert told() == []
    assert told(one("view", "inside", "name", value="Other"), one("occasion", "noon", "name", value="Other")) == []


def test_the_sun_is_told_by_where_it_stands():
    said = told(one("occasion", "noon", "when", value="2026-06-21T19:20:00"))
    assert any(s.startswith("daylight: sun ") and s.endswith("° lower") for s in said)
    assert any(s.endswith("° further west") for s in said)


def test_many_things_are_counted():
    room = ROOM.placements[0].model_dump(mode="json")
    more = [
        {"part": "placement", "key": f"p{k}", "value": {**room, "key": f"p{k}", "name": f"Thing {k}"}} for k in range(4)
    ]
    assert told(*more) == ["stage: 4 things added"]
    assert told(*more[:2]) == ["stage: Thing 0 added", "stage: Thing 1 added"]


def test_two_cells_are_told_apart_by_their_views_and_hours():
    found = [d.text for d in differences(State(ROOM, "inside", "noon"), State(ROOM, "outside", "night"))]
    assert "view Outside instead of Inside" in found
    assert "22:00 instead of 13:20" in found
    with pytest.raises(NotFoundError):
        differences(State(ROOM, "attic", "noon"), State(ROOM, "inside", "noon"))


EDITED = (
    one("placement", "room", "turn_deg", value=30.0), one("stage", "", "white_card", value=True), one("site", "", "north_deg", value=9.0),
    {"part": "fixture", "key": "a", "value": None}, one("view", "inside", "focal_mm", value=50),
    one("view", "inside", "lens_at", value={"noon": {"iso": 800}, "night": {"iso": 1600}}),
    one("occasion", "noon", "when", value="2026-12-21T09:00:00"), one("look", "plain", "treatments", 1, "stops", value=2.0),
    one("view", "outside", "focal_mm", value=85), one("view", "inside", "name", value="Renamed"),
)  # fmt: skip


def test_settings_back_are_all_that_the_picture_was_made_of_and_nothing_else():
    now = after(*EDITED)
    assert len(changed_steps(ROOM, now, "inside", "noon")) == 5
    back = after(*over_now(now, ROOM, "inside", "noon"), project=now)
    assert changed_steps(ROOM, back, "inside", "noon") == []
    assert differences(State(ROOM, "inside", "noon"), State(back, "inside", "noon"))[0].text.startswith("look ")
    # Other cells, names and looks in use stay what they are now.
    assert back.view("outside") == now.view("outside")
    assert back.view("inside").name == "Renamed"
    assert back.view("inside").lens_at["night"].iso == 1600
    assert back.look("plain") == now.look("plain")
    assert back.look_for(back.view("inside"), back.occasion("noon")).treatments == ROOM.looks[0].treatments


def test_settings_back_of_a_view_that_is_gone_bring_it_back():
    now = after({"part": "view", "key": "inside", "value": None}, {"part": "occasion", "key": "noon", "value": None})
    back = after(*over_now(now, ROOM, "inside", "noon"), project=now)
    assert changed_steps(ROOM, back, "inside", "noon") == []


def test_settings_beside_what_is_there_are_a_cell_of_their_own():
    now = after(*EDITED)
    view, occasion, changes = beside_now(now, ROOM, "inside", "noon", "proof of 12 Jun 14:05")
    made = after(*changes, project=now)
    assert (view, occasion) == ("inside-2", "noon-2")
    assert made.view(view).name == "Inside, proof of 12 Jun 14:05"
    assert set(changed_steps(ROOM, made, "inside", "noon")) == set(changed_steps(ROOM, now, "inside", "noon"))
    assert made.view(view).lens_for(occasion) == ROOM.view("inside").lens_for("noon")
    assert made.occasion(occasion).when == ROOM.occasion("noon").when
    again = beside_now(made, ROOM, "inside", "noon", "proof of 12 Jun 14:05")
    assert again[:2] == ("inside-3", "noon-3")
    assert after(*again[2], project=made).view("inside-3").name != made.view(view).name


NOW = datetime(2026, 11, 1, tzinfo=UTC)


def plate(number: int, days: float = 100, quality: str = "sketch", cell: str = "a", marked: bool = False) -> Kept:
    return Kept(number, (cell, "noon"), quality, NOW - timedelta(days=days), marked)


def test_old_plates_go_and_the_newest_of_each_cell_stay():
    plates = [plate(k) for k in range(1, 21)] + [plate(k, cell="b") for k in range(30, 30 + NEWEST)]
    assert to_thin(plates, NOW) == list(range(1, 21 - NEWEST))


def test_what_is_marked_fine_young_or_the_last_of_its_quality_never_goes():
    old = [
        plate(1, marked=True), plate(2, quality="press"), plate(3, days=OLDEST.days - 0.01), plate(4, quality="proof"),
        plate(5), plate(6, days=OLDEST.days + 0.01),
    ]  # fmt: skip
    newer = [plate(k) for k in range(10, 10 + NEWEST)]
    assert to_thin([*old, *newer], NOW) == [5, 6]
    assert to_thin([], NOW) == []
