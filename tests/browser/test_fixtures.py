"""Fixtures in a real browser: the catalogue, placing many, scenes, and the meter."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from tests.browser.acts import BENCH, changed_picture, live, until
from valleylight.demo.more_profiles import files

CATALOGUE = "/p/small-room/catalogue"


@pytest.fixture
def folder(tmp_path):
    """A dozen profiles and two files that are none."""
    for name, data in files()[:12]:
        (tmp_path / name).write_bytes(data)
    (tmp_path / "broken.ies").write_text(
        "IESNA:LM-63-2002\nTILT=NONE\n1 -1 1 3 1 1 2 0 0 0\n1 1 1\n0 45 ninety\n0\n1 1 1\n"
    )
    (tmp_path / "notes.ldt").write_text("hello\n")
    return tmp_path


def test_a_folder_of_profiles_is_taken_in_and_chosen_from_by_eye(page, folder):
    page.goto(CATALOGUE)
    page.get_by_label("Profile files").set_input_files([str(p) for p in sorted(folder.iterdir())])
    status = page.get_by_role("status").filter(has_text="refused")
    expect(status).to_contain_text("14 of 14 read, 2 refused")
    expect(status).to_contain_text(re.compile("broken.ies, line 5"))
    profiles = page.get_by_role("region", name="Profiles")
    page.get_by_label("Search").fill("spot")
    expect(profiles.get_by_role("button", name=re.compile("^Spot 12"))).to_be_visible()
    expect(profiles.get_by_role("button", name=re.compile("^Oval"))).to_have_count(0)
    page.get_by_label("Beam from").fill("15")
    expect(profiles.get_by_role("button", name=re.compile("^Spot 8"))).to_have_count(0)
    page.get_by_role("button", name="Show all").click()
    profiles.get_by_role("button", name=re.compile("^Spot 8")).click()
    sheet = page.get_by_role("complementary", name="Profile Spot 8")
    expect(sheet).to_contain_text("narrow spot")
    expect(sheet).to_contain_text("Flux code")
    floor = sheet.get_by_role("img", name=re.compile("on a floor"))
    until(page, lambda: floor.evaluate("i => i.naturalWidth") == 400)
    sheet.get_by_role("button", name="Similar to this").click()
    expect(profiles.get_by_role("button").first).to_contain_text("Spot 8")
    expect(profiles.get_by_role("button").nth(1)).to_contain_text(re.compile("Spot 1[28]|Downlight 15"))
    sheet.get_by_role("button", name="Compare").click()
    profiles.get_by_role("button", name=re.compile("^Downlight 65")).click()
    page.get_by_role("complementary", name="Profile Downlight 65").get_by_role("button", name="Compare").click()
    page.get_by_role("button", name="Compare (2)").click()
    both = page.get_by_role("region", name="Compared profiles")
    expect(both.get_by_role("article")).to_have_count(2)
    wall = both.get_by_role("img", name=re.compile("Spot 8 on a wall"))
    until(page, lambda: wall.evaluate("i => i.naturalWidth") == 240)


def test_a_drawn_distribution_and_a_usual_source(page):
    page.goto(CATALOGUE)
    page.get_by_role("button", name="Make one").click()
    point = page.get_by_role("slider", name="C0, 30 degrees")
    before = int(point.get_attribute("aria-valuenow"))
    point.focus()
    page.keyboard.press("ArrowDown")
    expect(point).to_have_attribute("aria-valuenow", str(before - 2))
    page.get_by_label("Name of the profile").fill("My curve")
    page.get_by_role("button", name="Keep in the catalogue").first.click()
    expect(page.get_by_role("complementary", name="Profile My curve")).to_be_visible()
    page.get_by_role("button", name="Make one").click()
    page.get_by_role("button", name="Add Candle").click()
    expect(page.get_by_text("Candle is among the project's fixtures.")).to_be_visible()


def test_a_row_on_the_plan_linked_light_and_independence(page):
    page.goto(BENCH)
    live(page)
    page.get_by_role("tab", name="Ceiling plan").click()
    page.locator(".KindStrip_kind").filter(has_text="Downlight 36").click()
    page.get_by_role("button", name="Row", exact=True).click()
    page.get_by_label("Count", exact=True).fill("3")
    plan = page.get_by_role("group", name="Ceiling plan")
    box = plan.bounding_box()
    x, y = box["x"] + 0.3 * box["width"], box["y"] + 0.45 * box["height"]
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 0.3 * box["width"], y, steps=5)
    page.mouse.up()
    expect(page.get_by_role("button", name=re.compile("^Undo"))).to_have_attribute("title", re.compile("row of 3"))
    expect(page.get_by_text("3 chosen")).to_be_visible()
    page.get_by_role("button", name=re.compile(r"Choose all \d+ alike")).click()
    expect(page.get_by_text("4 chosen")).to_be_visible()
    flux = page.get_by_role("textbox", name="Flux")
    flux.fill("2000 lm")
    flux.press("Enter")
    expect(page.get_by_role("button", name=re.compile("^Undo"))).to_have_attribute("title", re.compile("Flux"))
    page.get_by_role("button", name="all fixtures").click()
    plan.get_by_role("button", name=re.compile("^Downlight 36 at")).first.click()
    page.get_by_role("button", name="Make independent").click()
    expect(page.get_by_label("Kind of fixture")).to_have_value(re.compile(".*-2$"))
    for _ in range(3):
        page.keyboard.press("Control+z")
    expect(plan.get_by_role("button", name=re.compile("^Downlight 36 at"))).to_have_count(1)


def test_scenes_alone_and_shares(page):
    page.goto("/p/small-room/bench/inside/night")
    live(page)
    page.get_by_role("button", name=re.compile("^Fixtures")).click()
    page.get_by_label("Name of a new scene").fill("Evening")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_text("Evening")).to_be_visible()

    changed_picture(page, page.get_by_role("button", name="Pendants alone").click)
    expect(page.get_by_role("button", name=re.compile("^Undo"))).to_have_attribute("title", re.compile("Keep scene"))
    changed_picture(page, page.get_by_role("button", name="Pendants alone").click)
    page.get_by_label("Ceiling on").uncheck()
    expect(page.get_by_role("button", name=re.compile("^Undo"))).to_have_attribute(
        "title", re.compile("Switch Ceiling")
    )
    page.get_by_role("button", name="Set scene Evening").click()
    expect(page.get_by_label("Ceiling on")).to_be_checked()


def test_the_meter_and_false_colour(page):
    page.goto("/p/small-room/bench/inside/night")
    live(page)
    page.get_by_role("heading", name="Daylight").click()
    changed_picture(page, page.get_by_role("button", name="Illuminance").click)
    expect(page.get_by_label("Scale in lx")).to_be_visible()
    page.get_by_role("heading", name="Daylight").click()
    page.keyboard.press("m")
    box = page.get_by_test_id("picture").bounding_box()
    page.mouse.click(box["x"] + 0.5 * box["width"], box["y"] + 0.9 * box["height"])
    meter = page.get_by_role("complementary", name="Instrument")
    expect(meter).to_contain_text(re.compile(r"Illuminance\s*[\d.]+ lx"))
    page.get_by_role("button", name=re.compile("^Measure 2")).click()
    area = page.get_by_role("region", name="Measured area")
    expect(area).to_contain_text("Uniformity")
    page.get_by_label("Usual values").select_option("Reading area")
    expect(area).to_contain_text(re.compile("reached|short"))
    page.get_by_role("button", name="put away").click()
    changed_picture(page, page.get_by_role("button", name="Picture", exact=True).click)
