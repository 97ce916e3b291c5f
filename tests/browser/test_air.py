"""Air, weather, leaves and light through water at the bench: by pointer and by keys, undone, and seen in the picture."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, expect

from tests.browser.acts import at_rest, description, open_bench, part, until

OUTSIDE = "/p/small-room/bench/outside/noon?step=air"


def edit(page: Page, label: str, change: dict) -> None:
    answer = page.request.post(
        "/api/projects/small-room/edits",
        data=json.dumps({"label": label, "changes": [change]}),
        headers={"Content-Type": "application/json"},
    )
    assert answer.ok, answer.text()


@pytest.fixture(autouse=True)
def put_back(page: Page) -> Iterator[None]:
    """What a test leaves of the project is put back, whether it ends well or not."""
    before = description(page)
    yield
    for name, key, value in (
        *(("occasion", o["key"], o) for o in before["occasions"]), *(("view", v["key"], v) for v in before["views"]),
        ("stage", "", before["stage"]),
    ):  # fmt: skip
        edit(page, "Put back", {"part": name, "key": key, "value": value})


def noon(page: Page) -> dict:
    return part(page, "occasions", "noon")


def met(page: Page) -> str:
    """The object that the picture shows low in its middle."""
    spot = {"view": "outside", "occasion": "noon", "picture": [0.5, 0.93], "as_seen": True}
    answer = page.request.post(
        "/api/projects/small-room/pick", data=json.dumps(spot), headers={"Content-Type": "application/json"}
    )
    return answer.json()["object"]


def test_snow_is_pulled_up_and_lies_in_the_picture(page):
    open_bench(page, OUTSIDE)
    snow = page.get_by_role("slider", name="Depth of the snow")
    assert met(page) != "lying snow"
    snow.focus()
    for _ in range(2):
        page.keyboard.press("Shift+ArrowUp")
    until(page, lambda: noon(page)["weather"]["snow"]["depth_cm"] == 20)
    assert met(page) == "lying snow"
    # By pointer: the surface of the snow is brought to a height of the staff.
    box = at_rest(page, snow)
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2 - 20, steps=4)
    page.mouse.up()
    until(page, lambda: noon(page)["weather"]["snow"]["depth_cm"] > 22)
    page.keyboard.press("Control+z")
    until(page, lambda: noon(page)["weather"]["snow"]["depth_cm"] == 20)
    expect(page.get_by_role("slider", name="Left bare")).to_be_visible()


def test_puddles_make_wet_and_the_wind_is_set_on_its_dial(page):
    open_bench(page, OUTSIDE)
    page.get_by_role("slider", name="Puddles").focus()
    for _ in range(3):
        page.keyboard.press("ArrowUp")
    until(page, lambda: noon(page)["weather"]["rain"]["puddles"] == 0.15)
    assert noon(page)["weather"]["rain"]["wet"] == 0.6
    box = at_rest(page, page.get_by_role("slider", name="Wind", exact=True))
    # Half way to the rim, to the east.
    page.mouse.click(box["x"] + box["width"] * 0.72, box["y"] + box["height"] / 2)
    until(page, lambda: noon(page)["weather"]["wind"]["speed_m_s"] == pytest.approx(10, abs=0.6))
    assert noon(page)["weather"]["wind"]["from_deg"] == pytest.approx(90, abs=2)


def test_fog_is_chosen_by_sight_drawn_as_a_box_and_switched_by_a_key(page):
    open_bench(page, OUTSIDE)
    page.get_by_role("tab", name="Fog").click()
    strengths = page.get_by_role("group", name="Strengths of fog")
    strengths.get_by_role("button").filter(has_text="mist").first.click()
    until(page, lambda: noon(page)["air"]["on"])
    assert noon(page)["air"]["extent"] == "box"
    high = noon(page)["air"]["high"][2]
    page.get_by_role("slider", name="Upper side of the box").focus()
    page.keyboard.press("Shift+ArrowUp")
    until(page, lambda: noon(page)["air"]["high"][2] == pytest.approx(high + 1, abs=0.02))
    plan = page.get_by_role("group", name="Fog in plan")
    low = noon(page)["air"]["low"][0]
    grip = at_rest(page, plan.get_by_role("slider", name="Place of the box"))
    page.mouse.move(grip["x"] + grip["width"] / 2, grip["y"] + grip["height"] / 2)
    page.mouse.down()
    page.mouse.move(grip["x"] + grip["width"] / 2 + 25, grip["y"] + grip["height"] / 2, steps=4)
    page.mouse.up()
    until(page, lambda: noon(page)["air"]["low"][0] > low + 0.2)
    page.get_by_role("tab", name="Fog").focus()
    page.keyboard.press("f")
    until(page, lambda: not noon(page)["air"]["on"])
    page.keyboard.press("f")
    until(page, lambda: noon(page)["air"]["on"])
    page.get_by_role("button", name="Smoke").click()
    until(page, lambda: noon(page)["air"]["forward"] == 0.45)


def test_a_recipe_is_laid_but_for_what_was_left_out(page):
    open_bench(page, OUTSIDE)
    page.get_by_role("button", name="First snow").click()
    page.get_by_role("checkbox", name="20 November, noon").uncheck()
    before = noon(page)
    page.get_by_role("button", name="Set these").click()
    until(page, lambda: part(page, "views", "outside")["look_at"].get("noon") == "weather-first-snow")
    assert noon(page)["when"] == before["when"]
    assert noon(page)["weather"]["snow"]["depth_cm"] == 5
    # Taken back line by line: first the look, then the snow.
    page.keyboard.press("Control+z")
    until(page, lambda: part(page, "views", "outside")["look_at"].get("noon") != "weather-first-snow")
    assert noon(page)["weather"]["snow"]["depth_cm"] == 5
    page.keyboard.press("Control+z")
    until(page, lambda: noon(page)["weather"]["snow"]["depth_cm"] == 0)


def test_leaves_follow_the_year_and_a_kind_is_held(page):
    edit(
        page,
        "Leaves",
        {"part": "stage", "at": ["surfaces", "oak"], "value": {"base": [0.3, 0.4, 0.1], "leaf": "birch"}},
    )
    open_bench(page, OUTSIDE)
    page.get_by_role("tab", name="Season").click()
    page.get_by_text("Leaves by the date").click()
    until(page, lambda: noon(page)["planting"]["by_date"])
    strip = page.get_by_role("slider", name="Day of the birch")
    strip.focus()
    page.keyboard.press("PageUp")
    until(page, lambda: "birch" in noon(page)["planting"]["held"])
    expect(strip).to_have_attribute("aria-valuetext", re.compile("held"))
    page.get_by_role("button", name="let go").click()
    until(page, lambda: noon(page)["planting"]["held"] == {})


def test_the_light_net_is_drawn_where_water_lies(page):
    open_bench(page, OUTSIDE)
    page.get_by_role("tab", name="Water").click()
    page.get_by_text("Follow light through water and glass").click()
    until(page, lambda: description(page)["stage"]["light_net"]["on"])
    before = description(page)["stage"]["light_net"]["low"][2]
    page.get_by_role("slider", name="Lower side of the box").focus()
    page.keyboard.press("ArrowDown")
    until(page, lambda: description(page)["stage"]["light_net"]["low"][2] == pytest.approx(before - 0.1, abs=0.01))
    page.keyboard.press("Control+z")
    until(page, lambda: description(page)["stage"]["light_net"]["low"][2] == before)
