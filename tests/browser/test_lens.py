"""The lens where it is drawn: rings and the rule of exposure, plan and section, guides, cuts, the horizon, focus by pointing."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.acts import BENCH, at_rest, changed_picture, description, live, open_bench, picture, undone, until

LENS = f"{BENCH}?step=lens"


def inside(page: Page) -> dict:
    return next(v for v in description(page)["views"] if v["key"] == "inside")


def lens(page: Page) -> dict:
    view = inside(page)
    return view["lens_at"].get("noon", view["lens"])


def pulled(page: Page, box: dict, start: tuple[float, float], end: tuple[float, float]) -> None:
    """A drag from one place of a box to another, in shares of it."""
    at = [(box["x"] + x * box["width"], box["y"] + y * box["height"]) for x, y in (start, end)]
    page.mouse.move(*at[0])
    page.mouse.down()
    page.mouse.move((at[0][0] + at[1][0]) / 2, (at[0][1] + at[1][1]) / 2, steps=3)
    page.mouse.move(*at[1], steps=3)
    page.mouse.up()


def test_rings_click_in_thirds_and_may_hold_the_exposure(page):
    open_bench(page, LENS)
    before = description(page)
    was = lens(page)
    ring = page.get_by_role("spinbutton", name="f-number")
    expect(ring).to_have_value("f/5.6")
    ring.press("ArrowUp")
    until(page, lambda: lens(page)["f_number"] == pytest.approx(2 ** (16 / 6)))
    expect(ring).to_have_value("f/6.3")
    page.get_by_label("Hold the exposure: the shutter follows").click()
    ring.press("PageDown")
    until(page, lambda: lens(page)["f_number"] < 5)
    now = lens(page)
    light = lambda o: o["shutter_s"] * o["iso"] / o["f_number"] ** 2  # noqa: E731
    assert light(now) == pytest.approx(was["shutter_s"] * was["iso"] / 2 ** (16 / 3), rel=0.01)
    face = page.get_by_role("spinbutton", name="ISO").locator("..")
    box = at_rest(page, face)
    pulled(page, box, (0.5, 0.5), (0.5 - 84 / box["width"], 0.5))
    until(page, lambda: lens(page)["iso"] > was["iso"] * 1.5)
    undone(page, before, "Lens")


def test_the_exposure_is_dragged_on_its_rule_and_set_as_advised(page):
    open_bench(page, LENS)
    before = description(page)
    rule = page.get_by_role("slider", name="Exposure")
    ev = float(rule.get_attribute("aria-valuenow"))
    box = at_rest(page, rule)
    _, brighter = changed_picture(page, lambda: pulled(page, box, (0.5, 0.3), (0.38, 0.3)))
    until(page, lambda: float(rule.get_attribute("aria-valuenow")) < ev - 2)
    assert lens(page)["f_number"] == 5.6  # the shutter alone
    advised = page.get_by_role("group", name="Exposure as advised")
    changed_picture(page, advised.get_by_role("button", name=re.compile("^highlights kept")).click)
    until(page, lambda: picture(page).mean() < brighter.mean() - 10)
    advised.get_by_role("button", name="key area").click()
    shown = at_rest(page, page.get_by_test_id("picture"))
    page.mouse.click(shown["x"] + shown["width"] * 0.5, shown["y"] + shown["height"] * 0.85)
    expect(advised.get_by_role("button", name="key area")).to_have_attribute("aria-pressed", "false")
    undone(page, before, "Lens")


def test_the_lens_is_moved_turned_and_focused_where_it_is_drawn(page):
    open_bench(page, LENS)
    before = description(page)
    was = inside(page)
    plan = page.get_by_role("group", name="Lens in plan")
    plan.scroll_into_view_if_needed()
    target = plan.get_by_role("button", name=re.compile("^Target"))
    box, middle = at_rest(page, plan), at_rest(page, target)
    start = ((middle["x"] + middle["width"] / 2 - box["x"]) / box["width"], 0.5)
    pulled(page, box, start, (start[0], 0.25))
    until(page, lambda: inside(page)["target"] != was["target"])
    assert inside(page)["position"] == was["position"]
    page.get_by_role("button", name="Focus by pointing").click()
    shown = at_rest(page, page.get_by_test_id("picture"))
    page.mouse.click(shown["x"] + shown["width"] * 0.4, shown["y"] + shown["height"] * 0.8)
    until(page, lambda: inside(page)["focus_m"])
    found = inside(page)["focus_m"]
    expect(page.get_by_text("Sharp from")).to_be_visible()
    focus = plan.get_by_role("slider", name="Focus in plan")
    focus.focus()
    page.keyboard.press("ArrowRight")
    until(page, lambda: inside(page)["focus_m"] > found)
    section = page.get_by_role("group", name="Lens in section")
    section.get_by_role("button", name=re.compile("^Lens")).focus()
    page.keyboard.press("ArrowUp")
    until(page, lambda: inside(page)["position"][2] == pytest.approx(was["position"][2] + 0.1, abs=1e-3))
    page.get_by_role("button", name="seated 1.20 m").click()
    until(page, lambda: inside(page)["position"][2] == pytest.approx(1.2, abs=2e-3))
    undone(page, before, "Lens")


def test_the_picture_is_cut_and_its_horizon_dragged(page):
    open_bench(page, LENS)
    before = description(page)
    page.get_by_role("button", name="Cut the picture").click()
    shown = at_rest(page, page.get_by_test_id("picture"))
    pulled(page, shown, (0.9, 0.5), (0.7, 0.5))
    page.get_by_label("Format of the frame").select_option("1 : 1")
    page.get_by_role("group", name=re.compile("^Frame")).press("ArrowUp")
    page.get_by_role("button", name="Cut", exact=True).click()
    until(page, lambda: inside(page)["format"] == [1, 1])
    assert inside(page)["film_width_mm"] < 25
    assert inside(page)["focal_mm"] == 20
    live(page)
    page.get_by_role("button", name="horizon", exact=True).click()
    line = page.get_by_role("slider", name=re.compile("^Horizon"))
    was = int(line.get_attribute("aria-valuenow"))
    line.press("PageDown")
    until(page, lambda: int(line.get_attribute("aria-valuenow")) == was + 10)
    shown = at_rest(page, page.get_by_test_id("picture"))
    pulled(page, shown, (0.5, (was + 10) / 100), (0.5, 0.3))
    until(page, lambda: abs(int(line.get_attribute("aria-valuenow")) - 30) <= 1)
    page.get_by_role("button", name="Whole film").click()
    until(page, lambda: inside(page)["film_width_mm"] == 36)
    undone(page, before, "Lens")
