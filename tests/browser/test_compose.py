"""Composing: a figure is chosen, placed where one points, carried, turned, made higher, drawn otherwise, and taken away; a crowd along a path."""

from __future__ import annotations

import io
import re

import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.acts import BENCH, changed_picture, description, live, open_bench, undone, until

COMPOSE = f"{BENCH}?step=compose"


def cutouts(page: Page) -> list[dict]:
    return description(page).get("cutouts", [])


def box_of(page: Page) -> tuple[float, float, float, float]:
    b = page.get_by_test_id("picture").bounding_box()
    return b["x"], b["y"], b["width"], b["height"]


def place(page: Page, name: str, x: float, y: float) -> None:
    page.get_by_role("button", name=name, exact=True).click()
    expect(page.get_by_role("region", name=f"About to be placed: {name}")).to_be_visible()
    left, top, w, h = box_of(page)
    page.mouse.click(left + x * w, top + y * h)


def test_a_figure_is_placed_carried_turned_and_taken_away(page):
    open_bench(page, COMPOSE)
    before = description(page)
    left, top, w, h = box_of(page)
    # It comes into the picture though it must be traced first.
    changed_picture(page, lambda: place(page, "Walking, dress", 0.5, 0.86))
    until(page, lambda: len(cutouts(page)) == 1)
    [one] = cutouts(page)
    assert one["name"] == "Walking, dress" and one["view"] == "inside" and abs(one["place"][2]) < 0.01
    expect(page.get_by_role("region", name="Cut-out Walking, dress")).to_be_visible()

    # Carried in the picture it stands on what is under the pointer.
    live(page)
    edge = page.get_by_role("button", name=re.compile("^Walking, dress, .* m off"))
    expect(edge).to_be_attached()
    start = (left + 0.5 * w, top + 0.84 * h)
    page.mouse.move(*start)
    page.mouse.down()
    for k in range(1, 7):
        page.mouse.move(start[0] - 14 * k, start[1])
        page.wait_for_timeout(120)
    page.mouse.up()
    until(page, lambda: cutouts(page)[0]["place"] != one["place"])

    # By keys: aside, turned, higher.
    edge.focus()
    was = cutouts(page)[0]
    page.keyboard.press("ArrowRight")
    until(page, lambda: cutouts(page)[0]["place"] != was["place"])
    edge.focus()
    page.keyboard.press("[")
    until(page, lambda: cutouts(page)[0]["turn_deg"] != was["turn_deg"])
    grip = page.get_by_role("slider", name="Height of Walking, dress")
    grip.focus()
    page.keyboard.press("ArrowUp")
    until(page, lambda: abs(cutouts(page)[0]["height_m"] - was["height_m"] - 0.01) < 1e-6)

    # In plan it is turned by its grip.
    dial = page.get_by_role("slider", name=re.compile("^Which way it faces"))
    dial.focus()
    turned = cutouts(page)[0]["turn_deg"]
    page.keyboard.press("ArrowLeft")
    until(page, lambda: cutouts(page)[0]["turn_deg"] != turned)

    changed_picture(page, lambda: page.get_by_role("combobox", name="How it is drawn").select_option("Silhouette"))
    until(page, lambda: cutouts(page)[0]["manner"] == "silhouette")
    page.get_by_role("button", name="Copy", exact=True).click()
    until(page, lambda: len(cutouts(page)) == 2)
    page.get_by_role("button", name="All 2 alike").click()
    page.get_by_role("button", name="Take away").click()
    until(page, lambda: cutouts(page) == [])
    undone(page, before, "Compose")


def test_those_of_an_occasion_are_not_at_others_and_may_stand_on_the_stage(page):
    open_bench(page, COMPOSE)
    before = description(page)
    place(page, "Standing", 0.45, 0.85)
    until(page, lambda: len(cutouts(page)) == 1)
    page.get_by_role("button", name=re.compile("^Not at ")).click()
    until(page, lambda: cutouts(page)[0]["hidden_at"] == ["noon"])
    page.get_by_text(re.compile("1 cut-out in this view")).click()
    page.get_by_role("button", name="Show here").click()
    until(page, lambda: cutouts(page)[0]["hidden_at"] == [])
    page.get_by_role("button", name="Standing", exact=True).first.click()
    page.get_by_role("button", name="Stand it on the stage").click()
    until(
        page,
        lambda: (
            cutouts(page) == []
            and any((p["made"] or {}).get("family") == "person" for p in description(page)["placements"])
        ),
    )
    undone(page, before, "Compose")


def test_a_crowd_walks_along_a_path(page):
    open_bench(page, COMPOSE)
    before = description(page)
    page.get_by_role("button", name="Crowd…").click()
    left, top, w, h = box_of(page)
    for x, y in ((0.3, 0.88), (0.62, 0.8)):
        page.mouse.click(left + x * w, top + y * h)
        page.wait_for_timeout(400)
    button = page.get_by_role("button", name=re.compile(r"^Place \d+$"))
    expect(button).to_be_enabled()
    count = int(button.inner_text().split()[1])
    button.click()
    until(page, lambda: len(cutouts(page)) == count)
    assert count >= 1 and len({c["group"] for c in cutouts(page)}) == 1
    undone(page, before, "Compose")


def test_a_picture_of_ones_own_is_brought_in_and_one_without_alpha_is_refused(page):
    open_bench(page, COMPOSE)
    pixels = np.zeros((80, 40, 4), np.uint8)
    pixels[4:, 8:32] = (150, 70, 40, 255)
    files = []
    for name, image in (
        ("Neighbour.png", Image.fromarray(pixels)),
        ("Board.png", Image.fromarray(pixels[..., :3].copy())),
    ):
        out = io.BytesIO()
        image.save(out, "PNG")
        files.append({"name": name, "mimeType": "image/png", "buffer": out.getvalue()})
    chooser = page.get_by_label("Pictures of cut-outs")
    chooser.set_input_files(files[0])
    expect(page.get_by_role("button", name="Neighbour", exact=True)).to_be_visible()
    chooser.set_input_files(files[1])
    expect(page.get_by_text("has no alpha")).to_be_visible()
    assert all(o["name"] != "Board" for o in page.request.get("/api/cutouts").json())
    [own] = [o for o in page.request.get("/api/cutouts").json() if o["own"]]
    assert page.request.delete(f"/api/cutouts/own/{own['own']}").ok
