"""Objects are chosen by their picture, placed where one points, moved and turned by hand and by keys, repeated, and taken away."""

from __future__ import annotations

import re

import numpy as np
import trimesh
from playwright.sync_api import Page, expect

from tests.browser.acts import BENCH, changed_picture, description, live, open_bench, undone, until


def things(page: Page) -> list[dict]:
    return [p for p in description(page)["placements"] if p["made"]]


def at_plan(page: Page, x: float, y: float) -> tuple[float, float]:
    """Where a place of the plan lies on the screen."""
    expect(page.locator('svg[aria-label="Ceiling plan"]')).to_be_visible()
    return tuple(page.evaluate(
        """([x, y]) => {
            const svg = document.querySelector('svg[aria-label="Ceiling plan"]');
            const p = new DOMPoint(x, -y).matrixTransform(svg.getScreenCTM());
            return [p.x, p.y];
        }""", [x, y],
    ))  # fmt: skip


def test_an_object_is_placed_moved_turned_and_taken_away(page):
    open_bench(page, f"{BENCH}?step=stage")
    before = description(page)
    page.get_by_role("tab", name="Objects").click()
    family = page.get_by_role("button", name="Armchair")
    expect(family.locator("img")).to_have_js_property("complete", True)
    family.click()
    expect(page.get_by_role("region", name="About to be placed: Armchair")).to_be_visible()
    page.get_by_role("combobox", name="Cloth").select_option("slate blue")
    box = page.get_by_test_id("picture").bounding_box()
    changed_picture(page, lambda: page.mouse.click(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.8))
    until(page, lambda: len(things(page)) == 1)
    (chair,) = things(page)
    assert (
        chair["name"] == "Armchair" and chair["made"]["parameters"]["cloth"] == 1 and abs(chair["position"][2]) < 0.01
    )
    expect(page.get_by_role("region", name="Object Armchair")).to_be_visible()

    # Its numbers are typed; other numbers make it anew where it stands.
    field = page.get_by_role("textbox", name=re.compile("^Width, 0.7 to 1.1"))
    field.fill("1")
    field.press("Enter")
    until(page, lambda: things(page)[0]["made"]["parameters"]["width"] == 1)
    page.get_by_role("button", name="Turn by 15° to the left").click()
    until(page, lambda: things(page)[0]["turn_deg"] == 15)

    # Carried along in the picture, it stands on what is under the pointer.
    live(page)
    start = (box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.8)
    page.mouse.move(*start)
    page.mouse.down()
    for k in range(1, 9):
        page.mouse.move(start[0] + 12 * k, start[1] + k)
        page.wait_for_timeout(120)
    page.mouse.up()
    until(page, lambda: things(page)[0]["position"][:2] != chair["position"][:2])

    # On the plan it is dragged, turned by its grip, and moved by keys.
    page.get_by_role("tab", name="Ceiling plan").click()
    shape = page.locator("[data-thing=armchair]")
    expect(shape).to_have_attribute("aria-pressed", "true")
    now = things(page)[0]["position"]
    x, y = at_plan(page, *now[:2])
    to = at_plan(page, 2.0, 3.0)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move((x + to[0]) / 2, (y + to[1]) / 2, steps=4)
    page.mouse.move(*to, steps=4)
    page.mouse.up()
    until(page, lambda: np.allclose(things(page)[0]["position"][:2], [2, 3], atol=0.35))
    placed = things(page)[0]["position"]
    grip = page.locator("[data-grip=armchair]").bounding_box()
    x, y = at_plan(page, *placed[:2])
    page.mouse.move(grip["x"] + grip["width"] / 2, grip["y"] + grip["height"] / 2)
    page.mouse.down()
    page.mouse.move(x + 60, y, steps=6)
    page.mouse.up()
    until(page, lambda: things(page)[0]["turn_deg"] == 90)
    shape.press("ArrowRight")
    shape.press("[")
    until(
        page, lambda: np.isclose(things(page)[0]["position"][0], placed[0] + 0.05) and things(page)[0]["turn_deg"] == 95
    )

    # A linked copy, locked against moves; all alike; away again.
    page.get_by_role("button", name="Copy").click()
    until(page, lambda: len(things(page)) == 2)
    assert len({p["asset"] for p in things(page)}) == 1
    page.get_by_role("checkbox", name="Locked in its place").check()
    until(page, lambda: things(page)[1]["locked"])
    page.get_by_role("button", name="All 2 alike").click()
    page.get_by_role("button", name="Take away", exact=True).click()
    until(page, lambda: things(page) == [])
    undone(page, before)


def test_rows_and_strewing_from_the_plan(page):
    open_bench(page, f"{BENCH}?step=stage")
    page.get_by_role("tab", name="Ceiling plan").click()
    before = description(page)
    page.get_by_role("tab", name="Objects").click()
    page.get_by_role("button", name="Stones").click()
    page.mouse.click(*at_plan(page, 1.0, 2.6))
    until(page, lambda: len(things(page)) == 1)
    assert things(page)[0]["position"] == [1.0, 2.6, 0.0] or np.allclose(
        things(page)[0]["position"], [1, 2.6, 0], atol=0.06
    )
    how = page.get_by_role("combobox", name="How often it stands")
    how.select_option("in a row")
    until(page, lambda: things(page)[0]["repeat"] == {"kind": "row", "count": 4, "step": [1, 0, 0]})
    field = page.get_by_role("textbox", name="How many")
    field.fill("3")
    field.press("Enter")
    until(page, lambda: things(page)[0]["repeat"]["count"] == 3)
    page.get_by_role("button", name="Make them independent").click()
    until(page, lambda: len(things(page)) == 3 and all(p["repeat"] is None for p in things(page)))
    page.get_by_role("heading", name="Stage").click()
    page.keyboard.press("Control+z")
    until(page, lambda: len(things(page)) == 1)

    how.select_option(label="strewn over an area, or along a line…")
    expect(page.get_by_role("button", name="Strew over it")).to_be_disabled()
    for x, y in ((0.5, 2.2), (5.5, 2.2), (5.5, 3.8), (0.5, 3.8)):
        page.mouse.click(*at_plan(page, x, y))
    expect(page.get_by_text("(4 so far)")).to_be_visible()
    page.get_by_role("button", name="Strew over it").click()
    until(page, lambda: (things(page)[0]["repeat"] or {}).get("kind") == "strewn")
    field = page.get_by_role("textbox", name="To the square metre")
    field.fill("1.5")
    field.press("Enter")
    until(page, lambda: things(page)[0]["repeat"]["density_m2"] == 1.5)
    field = page.get_by_role("textbox", name="Only on these objects")
    field.fill("room")
    field.press("Enter")
    until(page, lambda: things(page)[0]["repeat"]["on"] == ["room"])
    page.get_by_role("tab", name="Picture").click()
    live(page)
    page.get_by_role("button", name="Take away", exact=True).click()
    undone(page, before)


def test_placed_in_the_stage_view_and_replaced_by_another(page):
    open_bench(page, f"{BENCH}?step=stage")
    page.get_by_role("tab", name="Stage view").click()
    before = len(things(page))
    page.get_by_role("tab", name="Objects").click()
    page.get_by_role("button", name="Stool").click()
    view = page.get_by_test_id("working-view").locator("canvas")
    expect(view).to_be_visible()
    expect(page.get_by_test_id("working-view")).to_have_attribute("data-triangles", re.compile("[1-9]"))
    box = view.bounding_box()
    page.mouse.click(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.85)
    until(page, lambda: len(things(page)) == before + 1)
    page.get_by_role("button", name="Replace", exact=True).click()
    page.get_by_role("button", name="Bollard").click()
    until(page, lambda: things(page)[-1]["made"]["family"] == "bollard")
    page.get_by_role("button", name="Drop to the ground").click()
    page.get_by_role("button", name="Take away", exact=True).click()
    until(page, lambda: len(things(page)) == before)


def test_objects_are_dragged_in_the_stage_view_and_the_stage_is_cut_open(page):
    open_bench(page, f"{BENCH}?step=stage")
    before = description(page)
    page.get_by_role("tab", name="Stage view").click()
    view = page.get_by_test_id("working-view")
    expect(view.locator("canvas")).to_be_visible()
    page.get_by_role("tab", name="Objects").click()
    page.get_by_role("button", name="Armchair").first.click()
    page.get_by_label("Look without perspective").select_option(label="Plan")
    expect(page.get_by_text(re.compile("^cut at "))).to_be_visible()
    triangles = lambda: int(view.get_attribute("data-triangles") or 0)  # noqa: E731
    empty = until(page, triangles)
    box = view.bounding_box()
    x, y = box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.5
    page.mouse.click(x, y)
    until(page, lambda: len(things(page)) == 1)
    until(page, lambda: triangles() > empty)
    place = things(page)[0]["position"]
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 30, y + 4, steps=3)
    page.mouse.up()
    until(page, lambda: things(page)[0]["position"] != place)
    moved = things(page)[0]["position"]
    assert moved[0] > place[0] + 0.1
    assert moved[2] == place[2]
    page.get_by_label("Section").select_option(label="Section along X")
    section = page.get_by_role("textbox", name=re.compile("Place of the section"))
    section.fill("1.5")
    section.press("Enter")
    page.get_by_label("Look without perspective").select_option(label="From the south")
    expect(page.get_by_text("uncut")).to_be_visible()
    page.get_by_role("slider", name="Cut height").press("PageDown")
    expect(page.get_by_text(re.compile("^cut at "))).to_be_visible()
    page.get_by_role("button", name="Back to the lens").click()
    expect(page.get_by_label("Look without perspective")).to_have_value("")
    undone(page, before)


def test_an_object_of_one_s_own_joins_the_catalogue(page):
    open_bench(page, f"{BENCH}?step=stage")
    before = description(page)
    page.get_by_role("tab", name="Objects").click()
    crate = trimesh.creation.box([600.0, 400.0, 500.0]).export(file_type="stl")
    page.get_by_label("Files of an object").set_input_files(
        {"name": "crate.stl", "mimeType": "model/stl", "buffer": crate}
    )
    own = page.get_by_role("region", name="Your own")
    expect(own.get_by_role("button", name="crate", exact=True)).to_be_visible()
    own.get_by_role("button", name="crate", exact=True).click()
    page.get_by_role("tab", name="Ceiling plan").click()
    page.mouse.click(*at_plan(page, 1.0, 2.6))
    until(page, lambda: len(things(page)) == 1)
    assert things(page)[0]["made"]["family"].startswith("own-")
    assert np.isclose(things(page)[0]["scale"], 0.001)
    page.get_by_role("button", name="All objects").click()
    own.get_by_role("button", name="More: object crate").click()
    page.get_by_role("button", name="Take out of the catalogue").click()
    expect(own).to_have_count(0)
    page.get_by_label("Files of an object").set_input_files(
        {"name": "nothing.glb", "mimeType": "model/gltf-binary", "buffer": b"glTF"}
    )
    expect(page.get_by_role("region", name="Notices").get_by_text(re.compile("nothing.glb"))).to_be_visible()
    page.get_by_role("tab", name="Picture").click()
    undone(page, before)
