"""The wall: cells chosen by rows and columns, plates of all of them, the queue in another order and paused, exposure across."""

from __future__ import annotations

import json

from playwright.sync_api import Page, expect

from tests.browser.acts import description, until


def plates(page: Page) -> list[dict]:
    return page.request.get("/api/projects/small-room/plates").json()


def lens_at(page: Page, view: str) -> dict:
    return next(v for v in description(page)["views"] if v["key"] == view)["lens_at"]


def test_cells_are_chosen_made_ordered_and_paused(page):
    page.goto("/p/small-room")
    page.get_by_label("Inside at all occasions").check()
    page.get_by_label("All views at Night").check()
    acts = page.get_by_role("region", name="Chosen cells")
    expect(acts).to_contain_text("3 cells")
    page.get_by_label("Choose Outside, Night").uncheck()
    expect(acts).to_contain_text("2 cells")
    page.get_by_label("Choose Outside, Noon").check()
    acts.get_by_role("button", name="Press").click()
    acts.get_by_role("button", name="Make 3 plates").click()
    expect(acts).to_have_count(0)
    until(
        page, lambda: len([p for p in plates(page) if p["job"] and p["job"]["status"] in ("waiting", "running")]) == 3
    )
    page.get_by_role("button", name="Queue").click()
    waiting = page.get_by_role("list", name="Plates that wait")
    rows = waiting.get_by_role("listitem")
    until(page, lambda: rows.count() >= 2)
    last = rows.last.locator("span").inner_text()
    rows.last.get_by_role("button", name="Earlier").click()
    until(page, lambda: rows.first.locator("span").inner_text() == last)
    page.get_by_role("button", name="Pause all").click()
    until(page, lambda: all(p["job"]["status"] == "stopped" for p in plates(page) if p["job"] and not p["ready"]))
    expect(page.get_by_role("button", name="Go on with 3 plates stopped")).to_be_visible()
    for plate in plates(page):
        if not plate["ready"]:
            page.request.post(
                "/api/projects/small-room/edits",
                data=json.dumps(
                    {"label": "away", "changes": [{"part": "plate", "key": str(plate["id"]), "value": None}]}
                ),
                headers={"Content-Type": "application/json"},
            )


def test_exposure_is_copied_across(page):
    page.goto("/p/small-room")
    expect(page.get_by_label("Choose Inside, Noon")).to_be_visible()
    before = description(page)
    page.get_by_label("Choose Outside, Noon").check()
    page.get_by_label("Choose Inside, Night").check()
    acts = page.get_by_role("region", name="Chosen cells")
    expect(acts).to_contain_text("of Outside, Noon to the others")
    acts.get_by_role("button", name="Exposure").click()
    until(page, lambda: lens_at(page, "inside").get("night", {}).get("f_number") == 11)
    page.keyboard.press("Escape")
    expect(acts).to_have_count(0)
    page.get_by_role("button", name="Undo", exact=True).first.click()
    until(page, lambda: description(page) == before)
