"""Fixtures go along with the lamps that hold them, and shine wherever those stand."""

from __future__ import annotations

import math

import numpy as np
import pytest

from tests import small
from valleylight.core.lamps.along import every_lamp, with_lamps
from valleylight.core.measure.direct import direct_lux
from valleylight.core.project import LoadedProject
from valleylight.core.project.changes import Change, changed
from valleylight.core.project.description import Fixture, Placement, Project
from valleylight.core.project.repeats import Along, Grid, Row
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import SKETCH

SHA = "a" * 64
LAMP = Placement(key="lamp", name="Lamp", asset=SHA, position=(1, 2, 0), lamp="bulb")
CHAIR = Placement(key="chair", name="Chair", asset=SHA, position=(4, 4, 0))
BULB = Fixture(key="bulb", kind="opal", group="Lamps", position=(1.5, 2, 1.4), aim=(1.5, 2, 0.4))
OTHER = BULB.model_copy(update={"key": "other", "position": (9, 9, 9)})
BEFORE = {
    "placements": [p.model_dump(mode="json") for p in (LAMP, CHAIR)],
    "fixtures": [f.model_dump(mode="json") for f in (BULB, OTHER)],
}


def set_to(field: str, value: object, key: str = "lamp") -> Change:
    return Change(part="placement", key=key, at=[field], value=value)


def after(*changes: Change, before: dict = BEFORE, drafted: bool = False) -> dict:
    return changed(before, with_lamps(before, list(changes), drafted), drafted)


def fixture(raw: dict, key: str = "bulb") -> dict | None:
    return next((f for f in raw["fixtures"] if f["key"] == key), None)


@pytest.mark.parametrize(
    ("changes", "position", "aim"),
    [
        ([("position", [2, 2, 0.5])], [2.5, 2, 1.9], [2.5, 2, 0.9]),
        ([("turn_deg", 90)], [1, 2.5, 1.4], [1, 2.5, 0.4]),
        ([("turn_deg", 90), ("scale", 2)], [1, 3, 2.8], [1, 3, 0.8]),
        ([("scale", 0.5)], [1.25, 2, 0.7], [1.25, 2, 0.2]),
        ([("mirrored", True)], [0.5, 2, 1.4], [0.5, 2, 0.4]),
        # With its file's -z up, the lamp hangs upside down: half a turn about the file's x.
        ([("up", "-z")], [1.5, 2, -1.4], [1.5, 2, -0.4]),
        ([("position", [1e6, 2, 0])], [1e6 + 0.5, 2, 1.4], [1e6 + 0.5, 2, 0.4]),
    ],
)
def test_a_fixture_is_carried_by_its_lamp(changes, position, aim):
    now = after(*(set_to(*change) for change in changes))
    assert fixture(now)["position"] == pytest.approx(position) and fixture(now)["aim"] == pytest.approx(aim)
    assert fixture(now, "other") == BEFORE["fixtures"][1]
    # The whole of it set at once is the same movement.
    whole = {**BEFORE["placements"][0], **dict(changes)}
    at_once = after(Change(part="placement", key="lamp", value=whole))
    assert fixture(at_once) == fixture(now)


def test_there_and_back_is_where_it_was():
    away = after(set_to("turn_deg", 77.0), set_to("position", [-3, 8.5, 2]), set_to("scale", 1.7))
    back = after(set_to("turn_deg", 0), set_to("position", [1, 2, 0]), set_to("scale", 1), before=away)
    assert fixture(back)["position"] == pytest.approx(BULB.position, abs=2e-4)


def test_a_fixture_is_put_out_and_taken_away_with_its_lamp():
    assert fixture(after(set_to("hidden", True)))["on"] is False
    assert fixture(after(set_to("hidden", False), before=after(set_to("hidden", True))))["on"] is True
    gone = after(Change(part="placement", key="lamp"))
    assert [f["key"] for f in gone["fixtures"]] == ["other"]


def test_a_copy_holds_a_fixture_of_its_own():
    value = {**BEFORE["placements"][0], "key": "lamp-2", "position": [1.5, 2.5, 0], "turn_deg": 180}
    now = after(Change(part="placement", key="lamp-2", value=value))
    copy = next(p for p in now["placements"] if p["key"] == "lamp-2")
    assert copy["lamp"] not in ("bulb", "other", None)
    assert fixture(now, copy["lamp"])["position"] == pytest.approx([1.0, 2.5, 1.4])
    assert fixture(now) == BEFORE["fixtures"][0]
    # Two in one edit hold two; cut and put elsewhere, it is the same one.
    values = [{**value, "key": f"copy-{k}"} for k in range(2)]
    both = after(*(Change(part="placement", key=v["key"], value=v) for v in values))
    assert len({p["lamp"] for p in both["placements"] if p["lamp"]}) == 3
    cut = after(Change(part="placement", key="lamp"), Change(part="placement", key="lamp-2", value=value))
    assert len(cut["fixtures"]) == 2 and fixture(cut)["position"] == pytest.approx([1.0, 2.5, 1.4])


def test_what_is_set_by_hand_in_the_same_edit_is_left():
    by_hand = Change(part="fixture", key="bulb", at=["position"], value=[7, 7, 7])
    assert fixture(after(set_to("position", [2, 2, 0]), by_hand))["position"] == [7, 7, 7]


@pytest.mark.parametrize(
    "change",
    [
        set_to("name", "Reading lamp"), set_to("position", [5, 5, 5], "chair"), set_to("lamp", None),
        Change(part="placement", key="chair"), Change(part="placement", key="lamp", place=1),
        Change(part="site", at=["north_deg"], value=3), set_to("position", ["a", None, []]), set_to("scale", -1),
    ],
)  # fmt: skip
def test_other_changes_bring_nothing_along(change):
    """Poses that are none are left to the check of the description."""
    assert with_lamps({**BEFORE, "site": {}}, [change]) == [change]


def test_a_draft_may_name_what_is_gone():
    """It is on its way to being saved; a lamp without its fixture is moved alone."""
    gone = set_to("position", [1, 1, 1], "no-such")
    assert with_lamps(BEFORE, [gone], drafted=True) == [gone]
    lost = {**BEFORE, "fixtures": BEFORE["fixtures"][1:]}
    assert with_lamps(lost, [set_to("position", [0, 0, 0])]) == [set_to("position", [0, 0, 0])]


@pytest.mark.parametrize(
    ("repeat", "places"),
    [
        (Row(count=3, step=(0.5, 0, 0.25)), [(1.5, 2, 1.4), (2.0, 2, 1.65), (2.5, 2, 1.9)]),
        (Row(count=1), [(1.5, 2, 1.4)]),
        (Grid(columns=2, rows=2, apart=(1.0, 3.0)), [(1.5, 2, 1.4), (2.5, 2, 1.4), (1.5, 5, 1.4), (2.5, 5, 1.4)]),
        # Turned with the line, which runs along y: what stood half a metre out along x stands so along y.
        (Along(points=((0, 0, 0), (0, 2, 0)), spacing_m=1.0), [(0, 0.5, 1.4), (0, 1.5, 1.4), (0, 2.5, 1.4)]),
        (Along(points=((0, 0, 0), (0, 2, 0)), spacing_m=2.0, facing=False), [(0.5, 0, 1.4), (0.5, 2, 1.4)]),
    ],
)
def test_a_lamp_that_stands_many_times_shines_in_each_place(repeat, places):
    project = Project(
        name="p", placements=(LAMP.model_copy(update={"repeat": repeat}), CHAIR), fixtures=(BULB, OTHER),
        kinds=(small.project().description.kinds[0].model_copy(update={"key": "opal"}),),
    )  # fmt: skip
    every = every_lamp(project).fixtures
    assert [f.key for f in every[:2]] == ["bulb", "other"] and every[1] == OTHER
    assert len({f.key for f in every}) == len(every) == len(places) + 1
    found = [every[0].position, *(f.position for f in every[2:])]
    assert np.allclose(found, places, atol=1e-4)
    assert all(
        f.aim == pytest.approx((f.position[0], f.position[1], f.position[2] - 1)) for f in (every[0], *every[2:])
    )
    once = project.model_copy(update={"placements": (LAMP, CHAIR)})
    assert every_lamp(once) is once


def test_the_light_of_a_row_is_the_sum_of_its_lamps():
    """Against the inverse-square law with the cosine (CIE 17-21-033), in the tracer, by points of light one by one."""
    project = small.project()
    d = project.description
    bulb = d.fixtures[0].model_copy(update={"position": (2.0, 2.0, 2.0), "aim": (2.0, 2.0, 1.0)})
    row = Row(count=4, step=(0.0, 0.6, 0.0))
    files = {p.asset: project.asset(p.asset) for p in d.placements}
    first = d.placements[0].model_copy(update={"lamp": bulb.key})
    one = d.model_copy(update={"fixtures": (bulb,), "placements": (first, *d.placements[1:])})
    # The building itself is the lamp; its copies stand one in the other, so only the fixtures are compared.
    points, up = np.array([[2.0, 2.9, 1.0], [2.4, 2.2, 1.0]]), np.tile([0.0, 0.0, 1.0], (2, 1))

    def lux(description: Project) -> np.ndarray:
        whole = LoadedProject(description, lambda sha: files.get(sha) or project.asset(sha))
        scene = Compiler().scene(whole, d.view("inside"), d.occasion("night"), 16, 9, 1, SKETCH)
        return direct_lux(scene, {}, points, up)

    each = sum(
        lux(one.model_copy(update={"fixtures": (bulb.model_copy(update={
            "position": (2.0, 2.0 + 0.6 * k, 2.0), "aim": (2.0, 2.0 + 0.6 * k, 1.0)}),), "placements": d.placements}))
        for k in range(4)
    )  # fmt: skip
    thing = Placement(key="lamp", name="Lamp", asset=first.asset, hidden=True, lamp=bulb.key, repeat=row)
    together = lux(one.model_copy(update={"placements": (*d.placements, thing)}))
    assert (each > 1).all() and together == pytest.approx(each, rel=1e-4)
    assert math.isfinite(float(together.sum()))
