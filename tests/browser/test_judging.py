"""Judging: plates compared in four ways and looked at closely, read otherwise and on instruments, noted, starred, their settings back."""

from __future__ import annotations

import io
import json
import re

import numpy as np
import pytest
from PIL import Image, ImageCms
from playwright.sync_api import Page, expect

from tests.browser.acts import BENCH, description, live, part, until

SRGB = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()


def plates(page: Page) -> list[dict]:
    return page.request.get("/api/projects/small-room/plates").json()


def make(page: Page, count: int) -> list[int]:
    """So many sketches of the inside at noon, made; the newest first."""
    numbers = []
    for _ in range(count):
        asked = page.request.post(
            "/api/projects/small-room/plates",
            data=json.dumps({"view": "inside", "occasion": "noon", "quality": "sketch"}),
            headers={"Content-Type": "application/json"},
        ).json()
        numbers.append(asked["id"])
        until(page, lambda n=asked["id"]: next(p for p in plates(page) if p["id"] == n)["ready"], tries=1200)
    return numbers[::-1]


@pytest.fixture
def three(page) -> list[int]:
    page.goto(BENCH)
    live(page)
    return make(page, 3)


def looked_at(page: Page) -> np.ndarray:
    """What stands in the frame, as a screenshot."""
    return np.asarray(Image.open(io.BytesIO(page.get_by_test_id("picture").screenshot())).convert("RGB")).astype(float)


def test_plates_are_compared_in_four_ways_and_closely(page, three):
    page.goto(f"{BENCH}?step=finish&plate={three[0]}")
    expect(page.get_by_test_id("picture-state")).to_contain_text("sketch")
    page.keyboard.press("c")
    ways = page.get_by_role("group", name="How pictures are compared")
    area = page.get_by_role("group", name=re.compile("^Compared pictures"))
    expect(area.locator("img")).to_have_count(2)
    strip = page.get_by_role("group", name="Earlier plates")
    strip.get_by_role("button", name=re.compile("^sketch of")).nth(2).click(modifiers=["Shift"])
    ways.get_by_role("button", name="Side by side").click()
    expect(area.locator("img")).to_have_count(3)
    box = area.bounding_box()
    page.mouse.move(box["x"] + 40, box["y"] + 40)
    page.mouse.wheel(0, -300)
    moves = lambda: [i.evaluate("e => e.style.transform") for i in area.locator("img").all()]  # noqa: E731
    until(page, lambda: "scale(1)" not in moves()[0])
    assert len(set(moves())) == 1
    ways.get_by_role("button", name="Fit").click()
    ways.get_by_role("button", name="Difference").click()
    same = looked_at(page)[20:-80]
    assert same.mean() < 40  # three sketches of one seed differ in nothing but what lies over them
    ways.get_by_role("button", name="By turns").click()
    ways.get_by_role("button", name="Hold").click()
    ways.get_by_role("button", name="Loupe").click()
    page.mouse.move(box["x"] + 200, box["y"] + 120)
    expect(page.locator(".Comparison_loupe")).to_be_visible()
    page.keyboard.press("Escape")
    expect(area).to_have_count(0)


def test_a_picture_is_read_otherwise_on_instruments_and_in_print(page, three):
    page.goto(f"{BENCH}?step=finish&plate={three[0]}")
    expect(page.get_by_test_id("picture-state")).to_contain_text("sketch")
    page.keyboard.press("j")
    expect(page.get_by_role("img", name="Histogram")).to_be_visible()
    expect(page.get_by_role("img", name=re.compile("^Vectorscope"))).to_be_visible()
    page.get_by_role("button", name="Grey", exact=True).click()
    picture = page.get_by_test_id("picture").locator("img").first
    expect(picture).to_have_attribute("src", re.compile("/read/grey$"))
    until(page, lambda: np.ptp(looked_at(page)[40:-40, 40:-40], axis=-1).max() < 16)
    page.get_by_label("Print profile").set_input_files(
        {"name": "paper.icc", "mimeType": "application/vnd.iccprofile", "buffer": SRGB}
    )
    expect(picture).to_have_attribute("src", re.compile("/proof/"))
    page.get_by_label("white of the paper").click()
    expect(picture).to_have_attribute("src", re.compile("paper_white=true"))
    page.get_by_label("Printer and paper").select_option("")
    page.get_by_role("button", name="As it is").click()
    expect(picture).to_have_attribute("src", re.compile("picture.png"))
    # The live picture is read in the same ways.
    page.get_by_role("group", name="Earlier plates").get_by_role("button", name=re.compile("Live picture")).click()
    page.get_by_role("button", name="Zones", exact=True).click()
    until(page, lambda: len(np.unique(looked_at(page)[60:-60:3, 60:-60:3].round(-1))) < 40)
    page.get_by_role("button", name="As it is").click()


def test_a_plate_is_noted_starred_and_its_settings_come_back(page, three):
    before = description(page)
    page.goto(f"{BENCH}?step=lens&plate={three[0]}")
    expect(page.get_by_test_id("picture-state")).to_contain_text("sketch")
    page.keyboard.press("j")
    expect(page.get_by_text("Nothing: it has the same settings.")).to_be_visible()
    page.get_by_label("Note", exact=True).fill("Keep the shadow of the table")
    page.keyboard.press("Tab")
    until(page, lambda: next(p for p in plates(page) if p["id"] == three[0])["note"])
    menu = page.get_by_role("button", name=re.compile("^More: plate")).first
    menu.click()
    page.get_by_role("button", name="Star", exact=True).click()
    until(page, lambda: next(p for p in plates(page) if p["id"] == three[0])["starred"])
    change = {"part": "view", "key": "inside", "at": ["focal_mm"], "value": 40}
    page.request.post(
        "/api/projects/small-room/edits",
        data=json.dumps({"label": "Focal length", "changes": [change]}),
        headers={"Content-Type": "application/json"},
    )
    expect(page.get_by_role("list", name="Differences")).to_contain_text("40 mm instead of 20 mm")
    menu.click()
    page.get_by_role("button", name="Its settings, over these").click()
    until(page, lambda: part(page, "views", "inside")["focal_mm"] == 20)
    page.goto(f"{BENCH}?step=lens&plate={three[0]}")
    menu.click()
    page.get_by_role("button", name="Its settings, as a view of their own").click()
    page.wait_for_url("**/bench/inside-2/noon-2*")
    page.get_by_role("heading", name="Lens").click()
    for _ in range(5):
        page.keyboard.press("Control+z")
        page.wait_for_timeout(300)
    until(page, lambda: description(page) == before)
