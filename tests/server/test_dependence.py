"""What makes a live picture be traced anew, and what does not: one table of edits."""

from __future__ import annotations

import pytest

from tests import small
from valleylight.core.project import Project
from valleylight.core.project.changes import Change, changed
from valleylight.server.worker.dependence import scene_key, traced_for

LAYER = {"part": "layer", "key": "garden", "value": {"key": "garden", "name": "Garden", "in_models": "ground"}}
FOCUS = {"part": "view", "key": "inside", "at": ["focus_m"], "value": 2.0}


def one(part: str, key: str, *at: str, value) -> dict:
    return {"part": part, "key": key, "at": list(at), "value": value}


ANEW = {
    "a thing moved": one("placement", "room", "position", value=[0.0, 0.1, 0.0]),
    "a thing turned": one("placement", "room", "turn_deg", value=1.0),
    "a thing scaled": one("placement", "room", "scale", value=1.01),
    "another file": one("placement", "room", "asset", value="a" * 64),
    "a layer of the models": LAYER,
    "a layer hidden": one("occasion", "noon", "hidden_layers", value=["ground"]),
    "the hour": one("occasion", "noon", "when", value="2026-06-21T13:30:00"),
    "north": one("site", "", "north_deg", value=12.0),
    "a surface": one("stage", "", "surfaces", value={"oak": {"roughness": 0.2}}),
    "a fixture moved": one("fixture", "a", "position", value=[1.5, 2.1, 2.9]),
    "a group on that was off": one("occasion", "noon", "levels", "Ceiling", value=5.0),
    "a group off": one("occasion", "noon", "levels", "Pendants", value=0.0),
    "the lens moved": one("view", "inside", "position", value=[5.4, 3.6, 1.5]),
    "another format": one("view", "inside", "format", value=[1, 1]),
    "a tilted lens's focus": one("view", "inside", "tilt_deg", value=4.0),
}
AS_IT_WAS = {
    "a thing's name": one("placement", "room", "name", value="House"),
    "the project's name": {"part": "name", "value": "Other"},
    "the view's name": one("view", "inside", "name", value="Other"),
    "the occasion's name": one("occasion", "noon", "name", value="Other"),
    "exposure without blur": one("view", "inside", "lens", value={"f_number": 2.8}),
    "a level above zero": one("occasion", "noon", "levels", "Pendants", value=40.0),
    "the sun's level": one("occasion", "noon", "sun", "level_stops", value=1.0),
    "the sky's level": one("occasion", "noon", "sky", "level_stops", value=1.0),
    "the look": {"part": "look", "key": "plain", "value": {"key": "plain", "name": "Plain", "treatments": []}},
    "another view": one("view", "outside", "focal_mm", value=50.0),
    "another occasion": one("occasion", "night", "when", value="2026-01-12T23:00:00"),
    "focus, which is blurred afterwards": FOCUS,
    "a scene": {"part": "scene", "key": "all", "value": {"key": "all", "name": "All"}},
}  # fmt: skip


def key_after(*edits: dict) -> str:
    raw = changed(small.project().description.model_dump(mode="json"), [Change.model_validate(e) for e in edits])
    project = Project.model_validate(raw)
    return scene_key(project, project.view("inside"), project.occasion("noon"))


@pytest.mark.parametrize("name", ANEW)
def test_what_a_film_shows_makes_it_anew(name):
    assert key_after(ANEW[name]) != key_after()


@pytest.mark.parametrize("name", AS_IT_WAS)
def test_what_a_film_does_not_show_keeps_it(name):
    assert key_after(AS_IT_WAS[name]) == key_after()


def test_the_name_of_a_layer_changes_nothing():
    renamed = {"part": "layer", "key": "garden", "at": ["name"], "value": "Meadow"}
    assert key_after(LAYER, renamed) == key_after(LAYER)


def test_focus_and_aperture_are_the_lens_s_own_where_it_is_tilted():
    """A leaning plane of focus is traced; an upright one is laid by the film's distances."""
    tilted = one("view", "inside", "tilt_deg", value=4.0)
    wide = one("view", "inside", "lens", value={"f_number": 2.8})
    assert key_after(FOCUS, wide) == key_after(FOCUS)
    assert key_after(tilted, FOCUS) != key_after(tilted)
    assert key_after(tilted, FOCUS, wide) != key_after(tilted, FOCUS)


def test_exposure_and_warm_dimmers_are_told_apart_from_the_key():
    """Such a film may be shown for a while, and is traced anew at rest."""
    project = small.project().description
    ev, tints = traced_for(project, project.view("inside"), project.occasion("noon"))
    assert ev == pytest.approx(8.9, abs=0.1)  # ISO 2720: log2(5.6^2 x 30 / 2)
    warm = [k.model_copy(update={"dimming": "warm"}) for k in project.kinds]
    low = project.occasion("noon").model_copy(update={"levels": {"Pendants": 10.0}})
    other = project.model_copy(update={"kinds": tuple(warm)})
    assert traced_for(other, project.view("inside"), low)[1] != tints
