"""Every movement of a hand is kept, can be undone and is answered; nothing else is."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Route, expect

from tests.browser.acts import (
    BENCH,
    ROOM,
    description,
    drag,
    live,
    middle,
    open_bench,
    part,
    share_of,
    state,
    until,
)

RULES = {
    "sun level": ("Daylight", "Sun level", lambda d: d["occasions"][0]["sun"]["level_stops"]),
    "hour": ("Daylight", "Hour", lambda d: d["occasions"][0]["when"]),
    "a group": ("Fixtures", "Level of Pendants", lambda d: d["occasions"][0]["levels"].get("Pendants", 100)),
    "focal length": ("Lens", "Focal length", lambda d: d["views"][0]["focal_mm"]),
    "white": ("Finish", "White", lambda d: d["looks"][0]["treatments"][2]["kelvin"]),
}


@pytest.mark.parametrize("name", RULES)
def test_a_rule_dragged_with_the_mouse_is_saved(page, name):
    """The value let go of is the one saved, undone as one step, and still there after a reload."""
    step, label, value = RULES[name]
    open_bench(page)
    page.get_by_role("button", name=re.compile(f"^{step}")).first.click()
    rule = page.get_by_role("slider", name=f"{label}, rule")
    before = state(page)
    start = share_of(rule)
    drag(page, rule, start, 0.75 if start < 0.5 else 0.3)
    shown = rule.get_attribute("aria-valuetext")
    until(page, lambda: state(page)["revision"] == before["revision"] + 1)
    saved = value(description(page))
    assert saved != value(before["description"])
    page.reload()
    live(page)
    rule = page.get_by_role("slider", name=f"{label}, rule")
    expect(rule).to_have_attribute("aria-valuetext", shown)
    page.keyboard.press("Control+z")
    until(page, lambda: value(description(page)) == value(before["description"]))


def test_a_second_rule_does_not_take_back_the_first(page):
    open_bench(page)
    before = part(page, "occasions", "noon")["sun"]
    drag(page, page.get_by_role("slider", name="Sun level, rule"), 0.5, 0.8)
    drag(
        page,
        page.get_by_role("slider", name="Sun size, rule"),
        share_of(page.get_by_role("slider", name="Sun size, rule")),
        0.7,
    )
    until(page, lambda: part(page, "occasions", "noon")["sun"]["size"] != before["size"])
    assert part(page, "occasions", "noon")["sun"]["level_stops"] > before["level_stops"]
    for _ in range(2):
        page.keyboard.press("Control+z")
    until(page, lambda: part(page, "occasions", "noon")["sun"] == before)


def test_escape_lets_go_of_a_drag_and_nothing_is_saved(page):
    open_bench(page)
    before = state(page)["revision"]
    dayline = page.get_by_role("slider", name="Hour of the day")
    drag(page, dayline, 0.5, 0.3, let_go=False)
    expect(dayline).not_to_have_attribute("aria-valuetext", "13:20")
    page.keyboard.press("Escape")
    expect(dayline).to_have_attribute("aria-valuetext", "13:20")
    page.mouse.up()
    rule = page.get_by_role("slider", name="Sun level, rule")
    drag(page, rule, 0.5, 0.9, let_go=False)
    page.keyboard.press("Escape")
    page.mouse.up()
    expect(rule).to_have_attribute("aria-valuetext", "0 stops")
    assert state(page)["revision"] == before


@pytest.mark.parametrize("name", ["Hour of the day", "Day of the year"])
def test_letting_go_over_a_ribbon_is_no_press_on_it(page, name):
    open_bench(page)
    ribbon = page.get_by_role("slider", name=name)
    shown, before = ribbon.get_attribute("aria-valuetext"), state(page)["revision"]
    x, y = middle(ribbon.bounding_box())
    page.mouse.move(*middle(page.get_by_test_id("picture").bounding_box()))
    page.mouse.down()
    page.mouse.move(x + 90, y, steps=4)
    page.mouse.up()
    expect(ribbon).to_have_attribute("aria-valuetext", shown)
    page.mouse.click(x, y, button="right")
    page.keyboard.press("Escape")
    expect(ribbon).to_have_attribute("aria-valuetext", shown)
    assert state(page)["revision"] == before


def test_pictures_keep_coming_while_the_ribbon_is_dragged(page):
    """However often the hand moves, pictures of where it is come before it rests."""
    open_bench(page)
    page.evaluate("""() => {
        window.frames_seen = 0;
        const image = document.querySelector('[data-testid="picture"] img');
        new MutationObserver(() => window.frames_seen++).observe(image, { attributes: true, attributeFilter: ["src"] });
    }""")
    box = page.get_by_role("slider", name="Hour of the day").bounding_box()
    y = box["y"] + 20
    page.mouse.move(box["x"] + box["width"] * 0.5, y)
    page.mouse.down()
    for step in range(1500):  # never at rest for longer than a frame of the screen
        page.mouse.move(box["x"] + box["width"] * (0.45 + 0.1 * (step % 40) / 40), y)
        if step % 10 == 0 and page.evaluate("window.frames_seen") >= 8:
            break
    seen = page.evaluate("window.frames_seen")
    page.keyboard.press("Escape")
    page.mouse.up()
    assert seen >= 8


def test_a_held_key_is_one_command_and_none_under_a_sheet(page):
    open_bench(page)
    plates = lambda: len(page.request.get(f"{ROOM}/plates").json())  # noqa: E731
    before = plates()
    page.get_by_role("button", name="Sketch", exact=True).click()
    page.get_by_role("heading", name="Daylight").click()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_be_visible()
    page.keyboard.press("p")
    page.keyboard.press("l")
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    assert plates() == before and page.locator("html").get_attribute("data-surround") == "light"
    page.get_by_role("heading", name="Daylight").click()
    for _ in range(6):
        page.keyboard.down("p")
    page.keyboard.up("p")
    until(page, lambda: plates() > before)
    page.get_by_role("button", name="Stop").first.click()
    assert plates() == before + 1


def test_undo_in_a_text_being_written_is_the_texts_own(page):
    open_bench(page)
    drag(page, page.get_by_role("slider", name="Sun level, rule"), 0.5, 0.7)
    until(page, lambda: part(page, "occasions", "noon")["sun"]["level_stops"] > 0)
    revision = state(page)["revision"]
    for field in (page.get_by_label("Hour", exact=True), page.get_by_label("Date", exact=True)):
        field.click()
        field.press_sequentially("9")
        page.keyboard.press("Control+z")
        page.keyboard.press("Control+y")
        page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("^Fixtures")).click()
    name = page.get_by_label("Name of a new scene")
    name.fill("Evening")
    name.press("Control+z")
    assert state(page)["revision"] == revision
    page.get_by_role("heading", name="Fixtures").click()
    page.keyboard.press("Control+z")
    until(page, lambda: part(page, "occasions", "noon")["sun"]["level_stops"] == 0)


def test_addresses_with_other_letters_or_less_lead_on_and_back_goes_back(page):
    open_bench(page, "/p/Small-Room/bench/Inside/NOON?step=Lens")
    expect(page).to_have_url(re.compile("/p/small-room/bench/inside/noon"))
    expect(page.get_by_role("heading", name="Lens")).to_be_visible()
    for short in ("/p/small-room/bench", "/p/small-room/bench/inside"):
        open_bench(page, short)
        expect(page).to_have_url(re.compile("/p/small-room/bench/inside/noon$"))
    page.get_by_role("button", name=re.compile("^Finish")).click()
    page.get_by_role("tab", name="Ceiling plan").click()
    expect(page).to_have_url(re.compile("step=fixtures&sheet=plan|sheet=plan&step=fixtures"))
    page.go_back()
    expect(page.get_by_role("heading", name="Finish")).to_be_visible()
    page.go_back()
    expect(page.get_by_role("heading", name="Daylight")).to_be_visible()
    page.goto("/p/SMALL-room")
    expect(page.get_by_role("heading", name="Small room")).to_be_visible()
    expect(page).to_have_url(re.compile("/p/small-room$"))


def test_compare_with_the_only_plate_says_why_not(page):
    open_bench(page, "/p/small-room/bench/outside/night")
    page.get_by_role("heading", name="Daylight").click()
    page.keyboard.press("c")
    expect(page.get_by_text("Make a plate first")).to_be_visible()
    page.keyboard.press("k")
    expect(page.locator(".PlateStrip_strip-plate")).to_have_count(2)
    page.locator(".PlateStrip_strip-plate").nth(1).click()
    expect(page.get_by_text("There is no other plate to compare with")).to_be_visible()


def test_a_fixture_of_a_dark_group_says_so(page):
    """Ceiling is at 0 percent at noon: its downlight is on and dark."""
    open_bench(page)
    page.get_by_role("button", name=re.compile("^Fixtures")).click()
    page.get_by_role("button", name=re.compile(r"^Ceiling \d")).click()
    expect(page.get_by_text("Dark here: its group Ceiling is at 0 %.")).to_be_visible()
    page.get_by_role("button", name="Switch the group on").click()
    until(page, lambda: part(page, "occasions", "noon")["levels"]["Ceiling"] == 100)
    expect(page.get_by_text("Dark here")).to_have_count(0)
    page.get_by_role("heading", name="Downlight").click()
    page.keyboard.press("Control+z")
    until(page, lambda: part(page, "occasions", "noon")["levels"]["Ceiling"] == 0)


def test_figures_that_come_late_move_nothing_from_under_the_pointer(page):
    """The room of the polar curve is kept until it is there: what was to be clicked stays where it is."""
    held: list[Route] = []
    page.route("**/kinds", lambda route: held.append(route))
    open_bench(page, BENCH + "?step=fixtures")
    page.get_by_role("button", name=re.compile(r"^Ceiling \d")).click()
    button = page.get_by_role("button", name="Switch the group on")
    expect(button).to_be_visible()
    curve = page.get_by_role("img", name=re.compile("^Polar curve"))
    assert held and curve.count() == 0
    before = button.bounding_box()
    for route in held:
        route.continue_()
    expect(curve).to_be_visible()
    assert button.bounding_box() == pytest.approx(before, abs=1)


def test_a_reload_right_after_a_key_loses_nothing(page):
    open_bench(page)
    before = part(page, "occasions", "noon")["when"]
    dayline = page.get_by_role("slider", name="Hour of the day")
    dayline.focus()
    for _ in range(3):
        page.keyboard.press("ArrowLeft")
    page.reload()
    live(page)
    until(page, lambda: part(page, "occasions", "noon")["when"] != before)
    assert part(page, "occasions", "noon")["when"].endswith("T13:05:00")
    expect(page.get_by_role("button", name=re.compile("^Undo"))).to_have_attribute("title", "Hour")
    page.get_by_role("heading", name="Daylight").click()
    page.keyboard.press("Control+z")
    until(page, lambda: part(page, "occasions", "noon")["when"] == before)


def test_hours_are_read_as_people_write_them(page):
    open_bench(page)
    hour, dayline = page.get_by_label("Hour", exact=True), page.get_by_role("slider", name="Hour of the day")
    for typed, shown in (
        ("5pm", "17:00"), ("0730", "07:30"), ("7,5", "07:30"), ("7h05", "07:05"), ("noon", "12:00"), ("12:15 a.m.", "00:15"),
        ("13.20", "13:20"),
    ):  # fmt: skip
        hour.fill(typed)
        hour.press("Enter")
        expect(dayline).to_have_attribute("aria-valuetext", shown)
        until(page, lambda shown=shown: part(page, "occasions", "noon")["when"][11:16] == shown)
    for wrong in ("25", "7:75", "13pm", "tea"):
        hour.fill(wrong)
        expect(hour).to_have_attribute("aria-invalid", "true")
        hour.press("Escape")
    expect(dayline).to_have_attribute("aria-valuetext", "13:20")


def test_numbers_and_dates_are_read_as_people_write_them(page):
    open_bench(page, f"{BENCH}?step=lens")
    number = page.get_by_label("f-number", exact=True)
    number.fill("f/5,6")
    number.press("Enter")
    expect(number).to_have_value("f/5.6")
    shutter = page.get_by_label("Shutter", exact=True)
    shutter.fill("0,5")
    shutter.press("Enter")
    expect(shutter).to_have_value("0.5 s")
    page.get_by_text("In numbers").click()
    height = page.get_by_label("Height", exact=True).first
    height.fill("165 cm")
    height.press("Enter")
    expect(height).to_have_value("1.65 m")
    number.fill("wide")
    expect(number).to_have_attribute("aria-invalid", "true")
    number.press("Escape")
    page.get_by_role("button", name=re.compile("^Daylight")).click()
    date = page.get_by_label("Date", exact=True)
    for typed, day in (("3 Sept", "2026-09-03"), ("1.2.2027", "2027-02-01"), ("20260621", "2026-06-21")):
        date.fill(typed)
        date.press("Enter")
        expect(date).to_have_value(day)
    date.fill("30 February")
    expect(page.get_by_text("No such day")).to_be_visible()
    date.press("Escape")
    expect(date).to_have_value("2026-06-21")
    until(page, lambda: part(page, "occasions", "noon")["when"].startswith("2026-06-21"))


def test_a_latitude_set_by_hand_is_another_place(page):
    open_bench(page)
    site = description(page)["site"]
    page.get_by_role("button", name=re.compile("^Nowhere")).click()
    latitude = page.get_by_label("Latitude", exact=True)
    latitude.fill("47,5")
    latitude.press("Enter")
    until(page, lambda: description(page)["site"]["latitude_deg"] == 47.5)
    assert description(page)["site"]["place"].startswith("By hand, 47.50° N")
    page.get_by_role("combobox", name="Place").fill("reykja")
    page.get_by_role("option", name=re.compile("^Reykjavík, Iceland")).click()
    until(page, lambda: description(page)["site"]["time_zone"] == "Atlantic/Reykjavik")
    page.get_by_role("heading", name="Daylight").click()
    for _ in range(2):
        page.keyboard.press("Control+z")
    until(page, lambda: description(page)["site"] == site)


def test_the_lens_is_moved_by_eye(page):
    open_bench(page, f"{BENCH}?step=lens")
    before = part(page, "views", "inside")
    picture = page.get_by_test_id("picture")
    x, y = middle(picture.bounding_box())
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 200, y + 30, steps=5)
    page.mouse.up()
    turned = until(page, lambda: (v := part(page, "views", "inside"))["target"] != before["target"] and v)
    assert turned["position"] == before["position"]
    page.mouse.move(x, y)
    page.mouse.wheel(0, -100)
    walked = until(page, lambda: (v := part(page, "views", "inside"))["position"] != before["position"] and v)
    picture.focus()
    page.keyboard.press("PageUp")
    raised = until(page, lambda: (v := part(page, "views", "inside"))["position"][2] > walked["position"][2] and v)
    assert abs(raised["position"][2] - walked["position"][2] - 0.1) < 1e-6
    page.get_by_role("tab", name="Stage view").click()
    view = page.get_by_test_id("working-view")
    expect(view.locator("canvas")).to_be_visible()
    view.focus()
    for key in ("ArrowLeft", "Shift+ArrowUp", "PageUp"):
        page.keyboard.press(key)
    page.get_by_role("button", name="Look from here").click()
    until(page, lambda: part(page, "views", "inside")["position"][2] > raised["position"][2] + 0.05)
    page.get_by_role("button", name="New view from here").click()
    until(page, lambda: len(description(page)["views"]) == 3)
    expect(page).to_have_url(re.compile("/bench/view/noon"))
    page.get_by_role("heading", name="Lens").click()
    until(page, lambda: (page.keyboard.press("Control+z"), part(page, "views", "inside") == before)[1])


def test_the_tone_curve_itself_is_bent(page):
    open_bench(page, f"{BENCH}?step=finish")
    tone = lambda: next(t for t in description(page)["looks"][0]["treatments"] if t["kind"] == "tone_curve")  # noqa: E731
    before = tone()
    for handle, across, down, field in (
        ("White point", 30, 0, "stops_above"),
        ("Shoulder", 18, 0, "shoulder"),
        ("Toe", 0, 22, "toe"),
    ):
        x, y = middle(page.get_by_role("slider", name=handle, exact=True).bounding_box())
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + across, y + down, steps=4)
        page.mouse.up()
        until(page, lambda field=field: tone()[field] != before[field], f"{handle} was not saved")
    page.get_by_role("slider", name="White point").focus()
    page.keyboard.press("ArrowLeft")
    page.get_by_role("heading", name="Finish").click()
    until(page, lambda: (page.keyboard.press("Control+z"), tone() == before)[1])
