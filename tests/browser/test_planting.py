"""Layers by hand, leaf shadow from the patch to the tree, surroundings, and surfaces let go over the picture."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.acts import BENCH, changed_picture, description, live, open_bench, undone, until


def things(page: Page) -> list[dict]:
    return [p for p in description(page)["placements"] if p["made"]]


def press_picture(page: Page, x: float, y: float) -> None:
    box = page.get_by_test_id("picture").bounding_box()
    page.mouse.click(box["x"] + box["width"] * x, box["y"] + box["height"] * y)


def test_a_layer_is_made_furnished_boxed_and_hidden(page):
    open_bench(page, f"{BENCH}?step=stage")
    before = description(page)
    page.get_by_role("tab", name="Layers").click()
    page.get_by_role("button", name="Make a layer").click()
    name = page.get_by_role("textbox", name="Name of the new layer")
    expect(name).to_be_focused()
    name.fill("Chairs")
    name.press("Enter")
    until(page, lambda: [layer["name"] for layer in description(page)["layers"]] == ["Chairs"])
    expect(page.get_by_role("radio", name="Chairs")).to_be_checked()
    page.get_by_role("tab", name="Objects").click()
    page.get_by_role("button", name="Armchair").click()
    expect(page.get_by_role("region", name="About to be placed: Armchair")).to_be_visible()
    changed_picture(page, lambda: press_picture(page, 0.5, 0.8))
    until(page, lambda: [p["layer"] for p in things(page)] == ["chairs"])
    page.get_by_role("tab", name="Layers").click()
    line = page.get_by_role("listitem", name="Chairs")
    expect(line.get_by_text(re.compile(r"\d pieces?, [\d,]+ triangles"))).to_be_visible()
    # What stands as a box is seen as one, and the cost is told; its own shape comes back.
    changed_picture(page, lambda: line.get_by_role("checkbox", name="As boxes").click())
    expect(page.get_by_text(re.compile("triangles less in the live picture"))).to_be_visible()
    assert description(page)["stage"]["boxed"] == ["chairs"]
    changed_picture(page, lambda: line.get_by_role("checkbox", name="As boxes").click())
    changed_picture(page, lambda: line.get_by_role("checkbox", name="Shown at Noon").click())
    assert description(page)["occasions"][0]["hidden_layers"] == ["chairs"]
    line.get_by_role("button", name=re.compile("^More")).click()
    page.get_by_role("button", name="Take away", exact=True).click()
    until(page, lambda: description(page)["layers"] == [])
    assert [p["layer"] for p in things(page)] == [None] and not description(page)["occasions"][0]["hidden_layers"]
    undone(page, before)


def test_a_floor_is_dappled_by_a_tree(page):
    open_bench(page, f"{BENCH}?step=stage")
    before = description(page)
    page.get_by_role("tab", name="Objects").click()
    page.get_by_role("button", name="Leaf shadow…").click()
    panel = page.get_by_role("region", name="Leaf shadow")
    expect(panel.get_by_text(re.compile("^Point at the floor or wall"))).to_be_visible()
    # A wall that looks away from the sun: it is said why there are no trees, and what to do.
    press_picture(page, 0.5, 0.25)
    expect(panel.get_by_text(re.compile("(away from the sun|in its way|does not come)"))).to_be_visible()
    page.get_by_role("tab", name="Objects").focus()
    page.get_by_role("tab", name="Objects").press("Escape")
    expect(panel).to_have_count(0)
    # The floor behind the window, pointed at on the plan.
    page.get_by_role("button", name="Leaf shadow…").click()
    page.get_by_role("tab", name="Ceiling plan").click()
    plan = page.locator('svg[aria-label="Ceiling plan"]')
    expect(plan).to_be_visible()
    x, y = page.evaluate(
        """() => {
            const svg = document.querySelector('svg[aria-label="Ceiling plan"]');
            const p = new DOMPoint(3, -0.35).matrixTransform(svg.getScreenCTM());
            return [p.x, p.y];
        }"""
    )
    page.mouse.click(x, y)
    offer = panel.get_by_role("button", name=re.compile(r"m high .* of the sun$")).first
    expect(offer).to_be_visible()
    expect(offer.locator("img")).to_have_js_property("naturalWidth", 192)
    offer.click()
    until(page, lambda: len(things(page)) == 1)
    tree = things(page)[0]
    assert tree["position"][1] < -0.5 and tree["made"]["parameters"]["height"] > 0.5
    expect(page.get_by_role("region", name=f"Object {tree['name']}")).to_be_visible()
    undone(page, before)


def test_a_surface_is_let_go_over_the_picture(page):
    open_bench(page, f"{BENCH}?step=stage")
    before = description(page)
    entry = (
        page.get_by_role("list", name="Catalogue of surfaces").get_by_role("listitem").first.locator("[draggable=true]")
    )
    entry.scroll_into_view_if_needed()
    picture = page.get_by_test_id("picture")
    box = picture.bounding_box()
    floor = {"x": box["width"] * 0.5, "y": box["height"] * 0.9}
    changed_picture(page, lambda: entry.drag_to(picture, target_position=floor))
    until(page, lambda: len(description(page)["stage"]["surfaces"]) == 1)
    (name,) = description(page)["stage"]["surfaces"]
    expect(page.get_by_role("region", name=f"Surface {name}")).to_be_visible()
    assert description(page)["stage"]["apart"] == []
    undone(page, before)


def test_ground_to_the_horizon_and_a_backdrop_that_is_only_seen(page):
    open_bench(page, f"{BENCH.replace('inside', 'outside')}?step=stage")
    before = description(page)
    page.get_by_role("tab", name="Objects").click()
    page.get_by_role("region", name="Surroundings").get_by_role("button", name="Backdrop card").click()
    expect(page.get_by_role("region", name="About to be placed: Backdrop card")).to_be_visible()
    changed_picture(page, lambda: press_picture(page, 0.3, 0.9))
    live(page)
    until(page, lambda: len(things(page)) == 1)
    name = things(page)[0]["name"]
    flags = description(page)["stage"]["objects"][name]
    assert flags["seen"] and not flags["sends"] and not flags["casts_shadow"]
    page.get_by_text("How it takes part").click()
    page.get_by_role("checkbox", name="Sends light on").click()
    until(page, lambda: description(page)["stage"]["objects"][name]["sends"])
    undone(page, before)
