"""Views, occasions, plates, projects and edits: named, copied, ordered, taken away and brought back; two windows at once."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.acts import (
    BENCH,
    ROOM,
    description,
    drag,
    more,
    open_bench,
    part,
    rename,
    take_model,
    until,
)


def test_two_windows_at_once_lose_no_edit(page):
    other = page.context.new_page()
    for window in (page, other):
        open_bench(window)
        window.wait_for_load_state("networkidle")
    before = part(page, "occasions", "noon")
    drag(page, page.get_by_role("slider", name="Sun level, rule"), 0.5, 0.7, let_go=False)
    hour = other.get_by_label("Hour", exact=True)
    hour.fill("16:00")
    hour.press("Enter")
    expect(page.get_by_role("slider", name="Hour of the day")).to_have_attribute("aria-valuetext", "16:00")
    page.mouse.up()
    until(page, lambda: part(page, "occasions", "noon")["sun"]["level_stops"] > 0)
    assert part(page, "occasions", "noon")["when"].endswith("T16:00:00")
    expect(page.get_by_text("Changed elsewhere: Hour")).to_be_visible()
    for _ in range(2):
        page.get_by_role("button", name=re.compile("^Undo")).first.click()
    until(page, lambda: part(page, "occasions", "noon") == before)


def test_the_same_field_in_two_windows_offers_both(page):
    other = page.context.new_page()
    for window in (page, other):
        open_bench(window)
    before = part(page, "occasions", "noon")["when"]
    # The first window does not hear of the other's edit before it sends its own.
    page.route(re.compile(r"/edits$"), lambda route: (_edit(other, "15:00"), route.continue_()))
    hour = page.get_by_label("Hour", exact=True)
    hour.fill("10:00")
    hour.press("Enter")
    notice = page.get_by_role("alert").filter(has_text="was changed elsewhere too")
    expect(notice).to_contain_text("It is 2026-06-21 15:00:00 now; yours was 2026-06-21 10:00:00")
    page.unroute(re.compile(r"/edits$"))
    expect(page.get_by_role("slider", name="Hour of the day")).to_have_attribute("aria-valuetext", "15:00")
    page.get_by_role("button", name="Put mine instead").click()
    until(page, lambda: part(page, "occasions", "noon")["when"].endswith("T10:00:00"))
    expect(other.get_by_role("slider", name="Hour of the day")).to_have_attribute("aria-valuetext", "10:00")
    _edit(other, before[11:16])


def _edit(page, hour: str) -> None:
    change = {"part": "occasion", "key": "noon", "at": ["when"], "value": f"2026-06-21T{hour}:00"}
    assert page.request.post(f"{ROOM}/edits", data={"label": "Hour", "changes": [change]}).ok


def test_views_and_occasions_are_named_copied_moved_and_taken_away(page):
    page.goto("/p/small-room")
    before = description(page)
    page.get_by_role("button", name="Add a view").click()
    more(page, "occasion “Noon”", "Duplicate")
    expect(page.get_by_role("heading", name="Noon 2")).to_be_visible()
    rename(page, "occasion “Noon 2”", "Evening")
    expect(page.get_by_role("heading", name="Evening")).to_be_visible()
    more(page, "occasion “Evening”", "Right")
    until(page, lambda: [o["name"] for o in description(page)["occasions"]] == ["Noon", "Night", "Evening"])
    more(page, "view “View 3”", "Up")
    until(page, lambda: [v["name"] for v in description(page)["views"]] == ["Inside", "View 3", "Outside"])
    more(page, "view “Inside”", "Take away")
    expect(page.get_by_text("View “Inside” is taken away.")).to_be_visible()
    page.get_by_role("button", name="Undo").last.click()
    until(page, lambda: [v["name"] for v in description(page)["views"]] == ["Inside", "View 3", "Outside"])
    page.get_by_role("button", name="Add an occasion").click()
    until(page, lambda: len(description(page)["occasions"]) == 4)
    page.get_by_role("heading", name="Small room").click()
    until(page, lambda: (page.keyboard.press("Control+z"), description(page) == before)[1])


def test_plates_are_kept_named_moved_made_again_and_taken_away(page):
    open_bench(page, "/p/small-room/bench/outside/noon")
    strip = page.locator(".PlateStrip_strip-plate")
    page.wait_for_load_state("networkidle")
    had = strip.count()
    for number in (1, 2):
        page.get_by_role("button", name="Keep live").click()
        expect(strip).to_have_count(had + number)
    kept = [p for p in page.request.get(f"{ROOM}/plates").json() if p["quality"] == "live"]
    assert kept[0]["samples"] >= 1 and kept[0]["ready"]
    page.get_by_role("button", name=re.compile("More: plate “live of")).first.click()
    page.get_by_role("button", name="Rename…").click()
    page.get_by_label(re.compile("^Name of plate")).fill("For the client")
    page.keyboard.press("Enter")
    expect(strip.nth(1)).to_contain_text("For the client")
    more(page, "plate “For the client”", "Right")
    expect(strip.nth(2)).to_contain_text("For the client")
    more(page, "plate “For the client”", "Take away")
    expect(strip).to_have_count(had + 1)
    page.get_by_role("heading", name="Daylight").click()
    page.keyboard.press("Control+z")
    expect(strip.nth(2)).to_contain_text("For the client")
    strip.nth(2).click()
    expect(page).to_have_url(re.compile(r"plate=\d+"))
    expect(page.get_by_test_id("picture-state")).to_contain_text(re.compile(r"live \d+ × \d+, \d+ samples, EV"))


def test_fixtures_are_copied_pasted_and_duplicated_with_level_and_aim(page):
    open_bench(page, "/p/small-room/bench/inside/night?step=fixtures")
    before = description(page)["fixtures"]
    page.get_by_role("button", name=re.compile(r"^Ceiling \d")).click()
    level = page.get_by_role("textbox", name="Level", exact=True)
    level.fill("60")
    level.press("Enter")
    page.get_by_role("heading", name="Downlight").click()
    page.keyboard.press("Control+c")
    expect(page.get_by_text("Fixture copied")).to_be_visible()
    page.keyboard.press("Control+v")
    page.keyboard.press("Control+v")
    page.get_by_role("button", name="Duplicate", exact=True).click()
    until(page, lambda: len(description(page)["fixtures"]) == len(before) + 3)
    made = [f for f in description(page)["fixtures"] if f["key"] not in {b["key"] for b in before}]
    assert {f["percent"] for f in made} == {60.0} and {f["group"] for f in made} == {"Ceiling"}
    assert all(f["position"][:2] == f["aim"][:2] for f in made)
    assert len({tuple(f["position"]) for f in made}) == 3
    page.get_by_role("heading", name="Downlight").click()
    until(page, lambda: (page.keyboard.press("Control+z"), description(page)["fixtures"] == before)[1])


def test_a_model_is_replaced_and_taken_away_and_never_stands_twice(page):
    from tests import small

    open_bench(page, f"{BENCH}?step=stage")
    before = description(page)["placements"]
    file = {"name": "again.glb", "mimeType": "model/gltf-binary", "buffer": small.room_glb()}
    page.get_by_label("Model file").set_input_files(file)
    page.get_by_role("button", name="Put it on the stage").click()
    expect(page.get_by_role("alert").first).to_contain_text('stands on the stage already, as "room.glb"')
    assert description(page)["placements"] == before
    page.get_by_role("button", name="Leave it").last.click()
    page.get_by_label("File: Replace room.glb").set_input_files(file)
    take_model(page)
    until(page, lambda: description(page)["placements"][0]["name"] == "again.glb")
    page.get_by_role("button", name="Take away again.glb").click()
    until(page, lambda: description(page)["placements"] == [])
    page.get_by_role("heading", name="Stage").click()
    for _ in range(2):
        page.keyboard.press("Control+z")
    until(page, lambda: description(page)["placements"] == before)


def test_stopped_plates_go_on_from_the_wall(page):
    page.goto("/p/small-room")
    page.get_by_role("button", name=re.compile("^Fill the empty cells")).click()
    expect(page.get_by_role("button", name=re.compile("^Fill the empty cells"))).to_have_count(0)
    stop = page.get_by_role("button", name="Stop", exact=True)
    stop.click()
    expect(stop).to_have_count(0)
    page.get_by_role("button", name=re.compile("^Go on with")).last.click()
    expect(page.get_by_role("button", name=re.compile("^Fill|^Go on|^Stop$"))).to_have_count(0, timeout=120_000)


def test_projects_are_named_copied_ordered_deleted_and_brought_back(page):
    page.goto("/projects")
    line = page.locator(".Projects_project-line")
    expect(line.first).to_be_visible()
    had = line.count()
    more(page, "project “Small room”", "Duplicate")
    expect(line).to_have_count(had + 1)
    copy = line.filter(has_text="Small room, copy")
    expect(copy).to_contain_text(re.compile(r"\d views · \d occasions · \d+ plates · .*[MkG]B · changed today"))
    long = "The long name of a project for a reading house at the upper pond behind the old mill"[:78]
    rename(page, "project “Small room, copy”", long)
    expect(line.filter(has_text=long)).to_have_count(1)
    wide = page.evaluate(
        "() => [...document.querySelectorAll('.Projects_project-line *')].every((e) => e.getBoundingClientRect().right <= e.closest('.sheet').getBoundingClientRect().right)"
    )
    assert wide and page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    more(page, f"project “{long}”", "Up")
    expect(line.first).to_contain_text(long)
    more(page, f"project “{long}”", "Delete")
    expect(line).to_have_count(had)
    page.get_by_role("button", name=f"Bring {long} back").click()
    expect(line).to_have_count(had + 1)
    more(page, f"project “{long}”", "Delete")
    expect(line).to_have_count(had)
