"""Surfaces picked in the picture, skies of the catalogue, which hour, advice, a picture all round."""

from __future__ import annotations

import re

import numpy as np
from playwright.sync_api import expect

from tests.browser.acts import BENCH, changed_picture, live, picture, until


def test_a_surface_is_picked_in_the_picture_and_edited(page):
    page.goto(BENCH)
    live(page)
    page.get_by_role("button", name=re.compile("^Stage")).click()
    expect(page.get_by_role("list", name="Surfaces of the stage")).to_be_visible()
    box = page.get_by_test_id("picture").bounding_box()
    page.mouse.click(box["x"] + 0.05 * box["width"], box["y"] + 0.1 * box["height"])
    chosen = page.get_by_role("region", name="Surface plaster")
    expect(chosen).to_be_visible()

    def take_slate():
        chosen.get_by_label("Surface from the catalogue").select_option(label="Split slate")

    before = picture(page)
    take_slate()
    until(page, lambda: picture(page).mean() < before.mean() - 5)
    rough = chosen.get_by_label("Roughness", exact=True)
    rough.fill("2")
    expect(rough).to_have_attribute("aria-invalid", "true")
    rough.fill("0.2")
    rough.press("Enter")
    expect(page.get_by_role("button", name=re.compile("^Undo"))).to_have_attribute(
        "title", re.compile("Roughness of plaster")
    )
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    expect(chosen.get_by_role("button", name="As it came")).to_have_count(0)
    page.get_by_role("tab", name="Ceiling plan").click()
    page.get_by_role("button", name="All surfaces").click()
    expect(page.get_by_role("list", name="Catalogue of surfaces")).to_be_visible()


def test_a_sky_of_the_catalogue_and_its_clouds(page):
    page.goto("/p/small-room/bench/outside/noon")
    live(page)
    page.get_by_role("tab", name="Sky", exact=True).click()
    page.get_by_role("button", name="Choose a sky").click()
    overcast = page.get_by_role("radio", name=re.compile("^Overcast"))
    expect(overcast).to_contain_text("upright", timeout=150_000)
    changed_picture(page, overcast.click)
    expect(overcast).to_have_attribute("aria-checked", "true")
    page.get_by_role("tab", name="Sun", exact=True).click()
    expect(page.get_by_text(re.compile("clouds let 0 % of the sun by"))).to_be_visible(timeout=30_000)
    page.keyboard.press("Control+z")
    expect(page.get_by_text(re.compile("clouds let"))).to_have_count(0, timeout=30_000)


def test_which_hour_by_pointing_at_faces(page):
    page.goto("/p/small-room/bench/outside/noon")
    live(page)
    page.get_by_role("tab", name="Which hour").click()
    find = page.get_by_role("button", name="Find the hours")
    expect(find).to_be_disabled()
    page.get_by_role("button", name="Point at sun").click()
    page.get_by_test_id("picture").click(position={"x": 420, "y": 235})
    expect(page.locator(".HourTab_faces li")).to_have_count(1)
    find.click()
    expect(page.get_by_label("Best hours").get_by_role("button").first).to_be_visible(timeout=60_000)
    page.get_by_label("Best hours").get_by_role("button").first.click()
    slider = page.get_by_role("slider", name="Hour of the day")
    expect(slider).not_to_have_attribute("aria-valuetext", "13:20")
    page.locator(".HeatMap_heat canvas").focus()
    before = slider.get_attribute("aria-valuetext")
    page.keyboard.press("ArrowDown")
    expect(slider).not_to_have_attribute("aria-valuetext", before)
    page.get_by_role("button", name="Hours of sun").click()
    expect(page.locator(".HourTab_study td").first).to_be_visible(timeout=30_000)
    page.get_by_role("button", name="Set", exact=True).click()
    expect(page.get_by_text("sun set by hand")).to_be_visible()


def test_a_burnt_picture_explains_itself_and_night_asks_for_lamps(page):
    page.goto("/p/small-room/bench/outside/noon")
    live(page)
    page.get_by_role("button", name=re.compile("^Lens")).click()
    iso = page.get_by_label("ISO", exact=True)
    iso.fill("6400")
    iso.press("Enter")
    advice = page.locator(".Easel_advice")
    expect(advice).to_contain_text("stops over: set the lens to EV", timeout=30_000)
    changed_picture(page, advice.get_by_role("button", name="Do it").click)
    expect(advice).to_have_count(0, timeout=30_000)
    page.get_by_role("button", name=re.compile("^Daylight")).click()
    changed_picture(page, page.get_by_role("button", name="Turn to night").click)
    expect(page.get_by_role("slider", name="Hour of the day")).to_have_attribute(
        "aria-valuetext", re.compile("^(1[6-9]|2[0-2]):")
    )


def test_a_picture_all_round(page, tmp_path):
    from valleylight.core.sky.picture import write_picture

    write_picture(np.full((64, 128, 3), (900.0, 500.0, 300.0), np.float32), tmp_path / "warm.hdr")
    page.goto("/p/small-room/bench/outside/noon")
    live(page)
    page.get_by_role("tab", name="Sky", exact=True).click()
    page.get_by_label("Sky", exact=True).select_option("picture")
    expect(page.get_by_text("gives background, light and reflection")).to_be_visible()
    page.locator("#surroundings-file").set_input_files(
        {"name": "house.hdr", "mimeType": "image/vnd.radiance", "buffer": b"\x89PNG\r\n\x1a\n0000"}
    )
    expect(page.get_by_role("alert").first).to_contain_text("house.hdr")
    changed_picture(page, lambda: page.locator("#surroundings-file").set_input_files(tmp_path / "warm.hdr"))
    expect(page.get_by_text("Overcast picture: no cast shadow.")).to_be_visible()
    page.get_by_label("Calibrated on level ground").check()
    expect(page.get_by_label("Gives", exact=True)).to_be_visible()
