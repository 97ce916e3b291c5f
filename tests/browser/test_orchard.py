"""From an empty project to a picture: Orchard House is brought in, set right, dressed, furnished and planted, all by hand."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.acts import live, take_model, until
from valleylight.demo.orchard_house import make_ifc

DRESSED = {
    "Outer leaf": "Brick, rust red", "Inner leaf": "Smooth plaster", "Ceiling": "Matt paint", "Floor": "Sawn oak",
    "Roof covering": "Split slate", "Paving": "Granite", "Ground": "Mown grass", "Frame": "Satin paint, dark green",
}  # fmt: skip
#: Objects placed on the plan, by family, place and numbers of their own.
FURNITURE = (
    ("Table", (6.6, 2.2), {"Length": "2"}), ("Chair", (6.1, 1.4), {}), ("Chair", (7.1, 1.4), {}), ("Sofa", (2.0, 5.4), {"Length": "2"}),
    ("Rug", (2.0, 3.6), {}), ("Shelves", (9.2, 5.2), {"Width": "1.4"}), ("Vase", (6.6, 2.2), {}),
)  # fmt: skip


def described(page: Page) -> dict:
    return page.request.get("/api/projects/orchard-house").json()["description"]


def things(page: Page) -> list[dict]:
    return [p for p in described(page)["placements"] if p["made"]]


def press_plan(page: Page, x: float, y: float) -> None:
    """Press a place of the plan, moved into sight by the wheel where it lies outside."""
    find = """([x, y]) => {
        const svg = document.querySelector('svg[aria-label="Ceiling plan"]');
        const p = new DOMPoint(x, -y).matrixTransform(svg.getScreenCTM()), r = svg.getBoundingClientRect();
        const inside = p.x > r.left + 4 && p.x < r.right - 4 && p.y > r.top + 4 && p.y < r.bottom - 4;
        return [p.x, p.y, inside, r.left + r.width / 2, r.top + r.height / 2];
    }"""
    for _ in range(12):
        px, py, inside, cx, cy = page.evaluate(find, [x, y])
        if inside:
            page.mouse.click(px, py)
            return
        page.mouse.move(cx, cy)
        page.mouse.wheel(0, 200)
        page.wait_for_timeout(100)
    raise AssertionError(f"{x}, {y} is not to be brought into sight")


def bring_in(page: Page) -> None:
    page.goto("/projects")
    page.get_by_label("Name of a new project").fill("Orchard House")
    page.get_by_role("combobox", name="Where it stands").fill("50 degrees north")
    page.get_by_role("option", name=re.compile("50 degrees north")).click()
    page.get_by_role("button", name="Begin").click()
    page.locator('input[type="file"]').set_input_files(
        {"name": "orchard-house.ifc", "mimeType": "application/octet-stream", "buffer": make_ifc()}
    )
    sheet = page.get_by_role("dialog", name="orchard-house.ifc")
    for offer in ("Where it stands", "True north", "2 lights, as fixtures"):
        sheet.get_by_role("checkbox", name=re.compile(offer)).check()
    take_model(page)


def dress(page: Page, materials: dict[str, str]) -> None:
    for material, surface in materials.items():
        page.get_by_role("button", name=re.compile(rf"^(\? )?{material}$")).click()
        page.get_by_role("combobox", name="Surface from the catalogue").select_option(label=surface)
        until(page, lambda name=material: name in described(page)["stage"]["surfaces"])
        page.get_by_role("button", name="All surfaces").click()


def furnish(page: Page, pieces) -> None:
    page.get_by_role("tab", name="Ceiling plan").click()
    expect(page.locator('svg[aria-label="Ceiling plan"]')).to_be_visible()
    for family, at, numbers in pieces:
        count = len(things(page))
        page.get_by_role("button", name=family, exact=True).click()
        armed = page.get_by_role("region", name=f"About to be placed: {family}")
        for name, value in numbers.items():
            field = armed.get_by_role("textbox", name=re.compile(f"^{name}"))
            field.fill(value)
            field.press("Enter")
        press_plan(page, *at)
        until(page, lambda n=count: len(things(page)) == n + 1)
        page.get_by_role("button", name="All objects").click()


def strew(page: Page, family: str, outline, density: str, first) -> None:
    """Place one, then strew it over an area drawn on the plan."""
    furnish(page, [(family, first, {})])
    key = things(page)[-1]["key"]
    page.get_by_text(re.compile("objects stand on the stage")).click()
    page.get_by_role("button", name=things(page)[-1]["name"], exact=True).first.click()
    page.get_by_role("combobox", name="How often it stands").select_option(
        label="strewn over an area, or along a line…"
    )
    for spot in outline:
        press_plan(page, *spot)
    page.get_by_role("button", name="Strew over it").click()
    field = page.get_by_role("textbox", name="To the square metre")
    field.fill(density)
    field.press("Enter")
    until(
        page,
        lambda: (next(p for p in things(page) if p["key"] == key)["repeat"] or {}).get("density_m2") == float(density),
    )
    page.get_by_role("button", name="All objects").click()


def test_from_an_empty_project_to_a_picture(page):
    bring_in(page)
    site = described(page)["site"]
    assert (site["place"], site["time_zone"]) == ("The orchard (invented)", "Europe/London")
    page.get_by_role("button", name="Add a view and an occasion").click()
    page.get_by_role("link", name="First view, June noon: not made yet").click()
    live(page)
    page.get_by_role("button", name=re.compile("^Stage")).click()
    dress(page, DRESSED)
    # Nothing stands on a placeholder now.
    lines = page.request.get("/api/projects/orchard-house/surfaces").json()
    assert [line["name"] for line in lines if line["doubt"] and "placeholder" in line["doubt"]] == []
    page.get_by_role("tab", name="Objects").click()
    furnish(page, FURNITURE)
    vase = things(page)[-1]
    assert abs(vase["position"][2] - 0.74) < 0.02  # it stands on the table that was placed before
    strew(page, "Apple tree", [(-9, -14), (18, -14), (18, -6), (-9, -6)], "0.03", (0, -9))
    page.get_by_role("tab", name="Picture").click()
    live(page)
    page.get_by_role("button", name="Sketch").click()
    page.get_by_role("button", name="Make plate").click()
    until(page, lambda: [p["ready"] for p in page.request.get("/api/projects/orchard-house/plates").json()] == [True])
    # Another day the architect sends a newer file: what was set stays, what is new is told.
    page.get_by_role("tab", name="Models and surfaces").click()
    before = described(page)
    newer = make_ifc().replace(b"'Window stair'", b"'Window landing'")
    page.get_by_label("File: Replace orchard-house.ifc").set_input_files(
        {"name": "orchard-house-b.ifc", "mimeType": "application/octet-stream", "buffer": newer}
    )
    expect(page.get_by_role("dialog").get_by_text("New: Window landing. Gone: Window stair.")).to_be_visible()
    take_model(page)
    after = described(page)
    assert [p["key"] for p in after["placements"]] == [p["key"] for p in before["placements"]]
    assert after["placements"][0]["name"] == "orchard-house-b.ifc"
    for part in ("fixtures", "views", "stage", "layers", "site"):
        assert after[part] == before[part]
