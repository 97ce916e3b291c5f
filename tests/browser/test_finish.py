"""The look as an instrument: treatments added by name, values and looks chosen by eye, limits laid in the picture."""

from __future__ import annotations

import json

import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.acts import BENCH, at_rest, changed_picture, description, open_bench, picture, undone, until


def look(page: Page) -> dict:
    d = description(page)
    view = next(v for v in d["views"] if v["key"] == "inside")
    key = view["look_at"].get("noon")
    return next((o for o in d["looks"] if o["key"] == key), d["looks"][0])


def held(page: Page, kind: str) -> list[dict]:
    return [t for t in look(page)["treatments"] if t["kind"] == kind and t["on"]]


def spot(page: Page, x: float, y: float) -> tuple[float, float]:
    box = at_rest(page, page.get_by_test_id("picture"))
    return box["x"] + x * box["width"], box["y"] + y * box["height"]


def stroke(page: Page, start: tuple[float, float], end: tuple[float, float]) -> None:
    page.mouse.move(*spot(page, *start))
    page.mouse.down()
    page.mouse.move(*spot_now(page, ((start[0] + end[0]) / 2, (start[1] + end[1]) / 2)), steps=3)
    page.mouse.move(*spot_now(page, end), steps=3)
    page.mouse.up()


def spot_now(page: Page, place: tuple[float, float]) -> tuple[float, float]:
    box = page.get_by_test_id("picture").bounding_box()
    return box["x"] + place[0] * box["width"], box["y"] + place[1] * box["height"]


def test_what_is_on_takes_room_and_the_rest_are_names(page):
    open_bench(page, f"{BENCH}?step=finish")
    before = description(page)
    assert page.get_by_role("region", name="Vignette").count() == 0
    page.get_by_role("button", name="Vignette", exact=True).click()
    card = page.get_by_role("region", name="Vignette", exact=True)
    expect(card.get_by_role("textbox", name="Corners")).to_be_visible()
    until(page, lambda: held(page, "vignette"))
    kinds = [t["kind"] for t in look(page)["treatments"]]
    assert kinds.index("vignette") < kinds.index("exposure")  # light before sight

    plain = picture(page)
    card.get_by_role("textbox", name="Corners").fill("-3")
    page.keyboard.press("Enter")
    until(page, lambda: picture(page)[:20, :20].mean() < plain[:20, :20].mean() - 20)
    # Another of its kind, limited by tones; both are told apart, folded and taken out.
    card.get_by_role("button", name="More: Vignette").click()
    page.get_by_role("button", name="Another one").click()
    expect(page.get_by_role("region", name="Vignette 2")).to_be_visible()
    card.get_by_role("button", name="Vignette", exact=True).click()
    expect(card.get_by_role("textbox", name="Corners")).to_have_count(0)
    card.get_by_role("button", name="More: Vignette").click()
    page.get_by_role("button", name="Take out of the look").click()
    until(page, lambda: len(held(page, "vignette")) == 1)
    undone(page, before, "Finish")


def test_a_value_is_chosen_by_eye_between_three(page):
    open_bench(page, f"{BENCH}?step=finish")
    before = description(page)
    page.get_by_role("region", name="Exposure", exact=True).get_by_role("textbox", name="Stops").focus()
    strip = page.get_by_role("region", name="Exposure: Stops, by eye")
    expect(strip.locator("img")).to_have_count(3, timeout=90_000)
    strip.get_by_role("button", name="0.65", exact=True).click()
    until(page, lambda: held(page, "exposure")[0]["stops"] == 0.65)
    expect(strip.get_by_role("button", name="1.3", exact=True)).to_be_enabled()
    strip.get_by_role("button", name="Close the three values").click()
    expect(strip).to_have_count(0)
    undone(page, before, "Finish")


def test_a_look_is_chosen_by_eye_saved_and_brought_back(page, tmp_path):
    open_bench(page, f"{BENCH}?step=finish")
    before = description(page)
    page.get_by_role("button", name="Looks by eye").click()
    tiles = page.get_by_role("group", name="Looks by eye")
    expect(tiles.locator("img")).to_have_count(17, timeout=90_000)
    _, grey = changed_picture(page, lambda: tiles.get_by_role("button", name="Graphite").click())
    assert np.ptp(grey[40:-40, 40:-40], axis=-1).max() < 12
    until(page, lambda: look(page)["name"] == "Graphite")
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save the look as JSON").click()
    path = tmp_path / "graphite.json"
    saved.value.save_as(path)
    assert json.loads(path.read_text())["look"]["name"] == "Graphite"
    with page.expect_download() as table:
        page.get_by_role("link", name="Save the look as a lookup table").click()
    table.value.save_as(tmp_path / "graphite.cube")
    page.get_by_label("File of a look").set_input_files(path)
    until(page, lambda: look(page)["name"] == "Graphite 2")
    # Its table, laid by another look, is a treatment with its file.
    page.get_by_role("button", name="Lookup table").click()
    page.get_by_label("File of the lookup table").set_input_files(tmp_path / "graphite.cube")
    until(page, lambda: held(page, "table") and held(page, "table")[0]["file"])
    page.get_by_label("File of the lookup table").set_input_files(
        {"name": "bad.cube", "mimeType": "text/plain", "buffer": b"nothing"}
    )
    expect(page.get_by_text("bad.cube")).to_be_visible()
    undone(page, before, "Finish")


def test_a_limit_is_laid_in_the_picture(page):
    open_bench(page, f"{BENCH}?step=finish")
    before = description(page)
    card = page.get_by_role("region", name="Exposure", exact=True)
    plain = picture(page)
    card.get_by_role("textbox", name="Stops").fill("-3")
    page.keyboard.press("Enter")
    until(page, lambda: held(page, "exposure")[0]["stops"] == -3)
    until(page, lambda: picture(page).mean() < 0.7 * plain.mean(), "it did not grow dark")
    whole = picture(page)
    card.get_by_role("button", name="How much, and where").click()
    card.get_by_role("button", name="Gradient", exact=True).click()
    stroke(page, (0.45, 0.5), (0.55, 0.5))
    limit = until(page, lambda: held(page, "exposure")[0]["limit"])
    assert limit["gradient"]["start"][0] < 0.47 < 0.53 < limit["gradient"]["end"][0]
    expect(page.get_by_alt_text("Where the treatment holds")).to_be_visible(timeout=90_000)
    card.get_by_label("Show in the picture").uncheck()
    until(page, lambda: picture(page)[:, :60].mean() > 1.5 * whole[:, :60].mean(), "the left was not let go")
    assert abs(picture(page)[:, -60:].mean() - whole[:, -60:].mean()) < 6
    # Brushed as well: the two narrow each other; a stroke may be taken off again.
    card.get_by_role("button", name="Brush", exact=True).click()
    stroke(page, (0.7, 0.4), (0.9, 0.4))
    until(page, lambda: len(held(page, "exposure")[0]["limit"]["strokes"]) == 1)
    assert len(held(page, "exposure")[0]["limit"]["strokes"][0]["points"]) >= 3
    card.get_by_role("button", name="Last stroke off").click()
    until(page, lambda: held(page, "exposure")[0]["limit"]["strokes"] == [])
    page.get_by_role("heading", name="Finish").click()
    page.keyboard.press("Escape")
    expect(card.get_by_role("button", name="Brush", exact=True)).to_have_attribute("aria-pressed", "false")
    undone(page, before, "Finish")


def test_a_surface_is_made_lighter_by_dragging_on_it(page):
    open_bench(page, f"{BENCH}?step=finish")
    before = description(page)
    page.get_by_role("button", name="Light", exact=True).click()
    stroke(page, (0.3, 0.9), (0.3, 0.7))
    lighter = until(page, lambda: next((t for t in held(page, "exposure") if t["limit"]), None))
    assert lighter["stops"] > 0.5 and len(lighter["limit"]["surfaces"]) == 1
    # Again on the same surface: the same treatment goes on, no second one comes.
    stroke(page, (0.3, 0.7), (0.3, 0.9))
    until(page, lambda: next(t for t in held(page, "exposure") if t["limit"])["stops"] < lighter["stops"] - 0.5)
    assert len(held(page, "exposure")) == 2
    page.get_by_role("button", name="Grey", exact=True).click()
    page.mouse.click(*spot(page, 0.5, 0.5))
    until(page, lambda: held(page, "white_balance")[0]["kelvin"] != 6500)
    undone(page, before, "Finish")


def test_a_curve_is_bent_by_points_with_pointer_and_keys(page):
    open_bench(page, f"{BENCH}?step=finish")
    before = description(page)
    page.get_by_role("button", name="Curve by points").click()
    curve = page.get_by_role("group", name="Curve by points")
    box = at_rest(page, curve)
    page.mouse.move(box["x"] + 0.5 * box["width"], box["y"] + 0.45 * box["height"])
    page.mouse.down()
    page.mouse.move(box["x"] + 0.5 * box["width"], box["y"] + 0.3 * box["height"], steps=4)
    page.mouse.up()
    until(page, lambda: len(held(page, "bent_curve")[0]["points"]) == 5)
    assert held(page, "bent_curve")[0]["points"][2][1] > 0.6
    curve.get_by_role("slider", name="Point 3").focus()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Delete")
    until(page, lambda: len(held(page, "bent_curve")[0]["points"]) == 4)
    page.get_by_role("button", name="Eight hues").click()
    page.get_by_role("button", name="green", exact=True).click()
    page.get_by_role("textbox", name="Green: fullness").fill("-0.5")
    page.keyboard.press("Enter")
    until(page, lambda: held(page, "hue_ranges")[0]["green_full"] == -0.5)
    undone(page, before, "Finish")


def test_a_plate_is_saved_in_another_form_and_size(page, tmp_path):
    open_bench(page)
    before = page.request.get("/api/projects/small-room/plates").json()
    page.get_by_role("button", name="Keep live").click()
    made = until(
        page,
        lambda: [
            p for p in page.request.get("/api/projects/small-room/plates").json() if p["ready"] and p not in before
        ],
    )
    page.goto(f"{BENCH}?plate={made[0]['id']}")
    page.get_by_role("button", name="Save as…").click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_label("Form").select_option("tiff16")
    sheet.get_by_label("Size").select_option("a4")
    sheet.get_by_label("Dots to the inch").fill("72")
    page.keyboard.press("Enter")
    sheet.get_by_label("Name").fill("{moon}")
    sheet.get_by_role("button", name="Save", exact=True).click()
    expect(sheet.get_by_role("alert")).to_contain_text("{moon} stands for nothing")
    sheet.get_by_label("Name").fill("{view} for print")
    with page.expect_download() as saved:
        sheet.get_by_role("button", name="Save", exact=True).click()
    assert saved.value.suggested_filename == "Inside for print.tif"
    saved.value.save_as(tmp_path / "print.tif")
    with Image.open(tmp_path / "print.tif") as picture:
        assert max(picture.size) == 842 and picture.info["dpi"][0] == 72
