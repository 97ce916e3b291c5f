"""A day's work from an empty list to saved pictures: once with the pointer, once with the keyboard alone. Nothing sleeps."""

from __future__ import annotations

import io
import re

import OpenEXR
import pytest
from PIL import Image
from playwright.sync_api import expect

from tests import small
from tests.browser.acts import (
    description,
    drag,
    live,
    middle,
    more,
    part,
    rename,
    share_of,
    state,
    tab_to,
    take_model,
    until,
)

DROP = """([bytes, name]) => {
    const data = new DataTransfer();
    data.items.add(new File([new Uint8Array(bytes)], name, { type: "model/gltf-binary" }));
    for (const type of ["dragover", "drop"])
        window.dispatchEvent(new DragEvent(type, { dataTransfer: data, bubbles: true, cancelable: true }));
}"""

#: Step of work, rule to drag, and where its value is kept.
RULES = (
    ("Daylight", "Sun level", lambda d: d["occasions"][0]["sun"]["level_stops"]),
    ("Fixtures", "Level", lambda d: d["fixtures"][0]["percent"]),
    ("Lens", "Focal length", lambda d: d["views"][0]["focal_mm"]),
    ("Finish", "Shoulder", lambda d: tone(d)["shoulder"]),
)


def tone(d):
    return next(t for t in d["looks"][0]["treatments"] if t["kind"] == "tone_curve")


def checked_files(png: bytes, exr, slug_name: str, view: str) -> None:
    """Headers by other readers: Pillow for the PNG, OpenEXR for the film. Primaries and white: ITU-R BT.709."""
    picture = Image.open(io.BytesIO(png))
    picture.load()
    assert picture.info["srgb"] == 0 and picture.info["gamma"] == pytest.approx(1 / 2.2, abs=1e-3)
    assert picture.info["Title"].startswith(f"{slug_name}: {view}, ") and re.match(
        r"\d{4}-\d\d-\d\dT", picture.info["Creation Time"]
    )
    assert "true to date and place" in picture.info["Description"]
    with OpenEXR.File(str(exr)) as film:
        header = dict(film.header())
    assert tuple(header["chromaticities"]) == pytest.approx(
        (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290), abs=1e-6
    )
    assert header["title"] == picture.info["Title"]


def test_a_day_with_the_pointer(page, tmp_path):
    slug = "boat-house"
    # A project, with its place asked for.
    page.goto("/projects")
    page.get_by_label("Name of a new project").fill("Boat house")
    page.get_by_role("button", name="Begin").click()
    expect(page.get_by_role("alert")).to_contain_text("where it stands")
    page.get_by_role("combobox", name="Where it stands").fill("long fj")
    page.get_by_role("option", name=re.compile("^Long fjord")).click()
    page.get_by_role("button", name="Begin").click()
    expect(page.get_by_text("Nothing stands on the stage yet")).to_be_visible()
    assert description(page, slug)["site"]["time_zone"] == "Europe/Oslo"
    # The model is dropped in, a view is found by walking.
    page.evaluate(DROP, [list(small.room_glb()), "boat-house.glb"])
    take_model(page)
    page.get_by_role("button", name="Add a view and an occasion").click()
    page.get_by_role("link", name="First view, June noon: not made yet").click()
    live(page)
    page.get_by_role("button", name=re.compile("^Lens")).click()
    found = part(page, "views", "first-view", slug)
    x, y = middle(page.get_by_test_id("picture").bounding_box())
    page.mouse.move(x, y)
    page.mouse.wheel(0, -400)
    page.mouse.down()
    page.mouse.move(x + 60, y, steps=4)
    page.mouse.up()
    until(
        page,
        lambda: (
            (v := part(page, "views", "first-view", slug))["position"] != found["position"]
            and v["target"] != found["target"]
        ),
    )
    page.get_by_role("tab", name="Stage view").click()
    expect(page.get_by_test_id("working-view").locator("canvas")).to_be_visible()
    before = part(page, "views", "first-view", slug)
    page.get_by_test_id("working-view").hover()
    page.mouse.wheel(0, -300)
    page.get_by_role("button", name="Look from here").click()
    until(page, lambda: part(page, "views", "first-view", slug)["position"] != before["position"])
    # Occasions: one added, one duplicated and renamed.
    page.get_by_role("link", name="Boat house").click()
    page.get_by_role("button", name="Add an occasion").click()
    more(page, "occasion “June noon”", "Duplicate")
    rename(page, "occasion “June noon 2”", "Evening")
    until(
        page,
        lambda: [o["name"] for o in description(page, slug)["occasions"]] == ["June noon", "Evening", "Occasion 2"],
    )
    page.get_by_role("link", name="First view, June noon: not made yet").click()
    live(page)
    # A fixture is placed and copied.
    page.get_by_role("tab", name="Ceiling plan").click()
    page.get_by_role("link", name="Catalogue").click()
    page.get_by_role("button", name="Make one").click()
    page.get_by_role("button", name=re.compile("^Add ")).first.click()
    until(page, lambda: description(page, slug)["kinds"])
    page.goto(f"/p/{slug}/bench/first-view/first-occasion?step=fixtures&sheet=plan")
    plan = page.get_by_role("group", name="Ceiling plan")
    page.locator(".KindStrip_kind").first.click()
    plan.click(position={"x": 300, "y": 200})
    until(page, lambda: len(description(page, slug)["fixtures"]) == 1)
    page.get_by_role("button", name="Duplicate", exact=True).click()
    until(page, lambda: len(description(page, slug)["fixtures"]) == 2)
    page.get_by_role("tab", name="Picture").click()
    live(page)
    # A rule of every step is dragged and found saved after a reload.
    for step, label, value in RULES:
        page.get_by_role("button", name=re.compile(f"^{step}")).first.click()
        if step == "Fixtures" and page.get_by_role("textbox", name="Level", exact=True).count() == 0:
            page.get_by_role("button", name=re.compile(r" \d$")).first.click()
        rule = page.get_by_role("slider", name=f"{label}, rule")
        was, start = value(description(page, slug)), share_of(rule)
        drag(page, rule, start, 0.7 if start < 0.5 else 0.3)
        until(page, lambda value=value, was=was: value(description(page, slug)) != was, f"{label} was not saved")
        shown = rule.get_attribute("aria-valuetext")
        page.reload()
        live(page)
        if step == "Fixtures":
            page.get_by_role("button", name=re.compile(r" \d$")).first.click()
        expect(page.get_by_role("slider", name=f"{label}, rule")).to_have_attribute("aria-valuetext", shown)
    # The look is bent by its curve.
    was = tone(description(page, slug))["stops_above"]
    x, y = middle(page.get_by_role("slider", name="White point", exact=True).bounding_box())
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 25, y, steps=4)
    page.mouse.up()
    until(page, lambda: tone(description(page, slug))["stops_above"] > was)
    # A plate is made, compared with the live picture kept before, and saved.
    page.get_by_role("button", name="Keep live").click()
    expect(page.locator(".PlateStrip_strip-plate")).to_have_count(2)
    page.get_by_role("button", name="Sketch", exact=True).click()
    page.get_by_role("button", name="Make plate").click()
    expect(page.locator(".PlateStrip_strip-plate")).to_have_count(3, timeout=90_000)
    page.locator(".PlateStrip_strip-plate").nth(1).click()
    page.get_by_role("button", name=re.compile("^Compare")).click()
    expect(page.get_by_role("slider", name="Slider between the two pictures")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Compare")).click()
    _save_and_check(page, tmp_path, "Boat house", "First view")
    # The project is duplicated and deleted, and the deletion taken back.
    page.get_by_role("link", name="Valleylight").click()
    more(page, "project “Boat house”", "Duplicate")
    expect(page.get_by_role("link", name="Boat house, copy")).to_be_visible()
    more(page, "project “Boat house, copy”", "Delete")
    expect(page.get_by_role("link", name="Boat house, copy")).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(page.get_by_role("link", name="Boat house, copy")).to_be_visible()
    assert len(state(page, "boat-house-copy")["description"]["fixtures"]) == 2


def _save_and_check(page, tmp_path, name, view):
    with page.expect_download() as download:
        page.get_by_role("link", name="Save PNG").press("Enter")
    download.value.save_as(tmp_path / "plate.png")
    with page.expect_download() as download:
        page.get_by_role("link", name="Save EXR").press("Enter")
    download.value.save_as(tmp_path / "plate.exr")
    checked_files((tmp_path / "plate.png").read_bytes(), tmp_path / "plate.exr", name, view)


def test_a_day_with_the_keyboard_alone(page, tmp_path):
    """The same day; the file chooser, which belongs to the system, is answered for the hand."""
    slug = "net-loft"
    press, write = page.keyboard.press, page.keyboard.type

    def choose_in_menu(about, item):
        tab_to(page, page.get_by_role("button", name=f"More: {about}"))
        press("Enter")
        expect(page.locator(".dropdown-menu.show")).to_be_visible()
        for _ in range(8):
            press("ArrowDown")
            if page.evaluate("document.activeElement.textContent") == item:
                press("Enter")
                return
        raise AssertionError(f"the arrow keys do not lead to {item}")

    page.goto("/projects")
    expect(page.get_by_role("heading", name="New project")).to_be_visible()
    tab_to(page, page.get_by_label("Name of a new project"))
    write("Net loft")
    press("Tab")
    write("wind harb")
    expect(page.get_by_role("option", name=re.compile("^Wind harbour"))).to_be_visible()
    press("Enter")
    tab_to(page, page.get_by_role("button", name="Begin"))
    press("Enter")
    expect(page.get_by_text("Nothing stands on the stage yet")).to_be_visible()
    tab_to(page, page.get_by_role("button", name="Open model"))
    page.get_by_label("Model file").set_input_files(
        {"name": "loft.glb", "mimeType": "model/gltf-binary", "buffer": small.room_glb()}
    )
    expect(page.get_by_role("button", name="Put it on the stage")).to_be_focused()
    press("Enter")
    begin = page.get_by_role("button", name="Add a view and an occasion")
    expect(begin).to_be_visible()
    tab_to(page, begin)
    press("Enter")
    cell = page.get_by_role("link", name="First view, June noon: not made yet")
    expect(cell).to_be_visible()
    choose_in_menu("occasion “June noon”", "Duplicate")
    expect(page.get_by_role("heading", name="June noon 2")).to_be_visible()
    choose_in_menu("occasion “June noon 2”", "Rename…")
    expect(page.get_by_label("Name of occasion “June noon 2”")).to_be_focused()
    write("Evening")
    press("Enter")
    until(page, lambda: [o["name"] for o in description(page, slug)["occasions"]] == ["June noon", "Evening"])
    tab_to(page, cell)
    press("Enter")
    live(page)
    # Walk in the picture, turn a number of every step, bend the curve.
    tab_to(page, page.get_by_role("button", name=re.compile("^Lens")))
    press("Enter")
    before = part(page, "views", "first-view", slug)
    tab_to(page, page.get_by_test_id("picture"))
    for key in ("Shift+ArrowUp", "ArrowRight", "PageUp"):
        press(key)
    until(
        page,
        lambda: (
            (v := part(page, "views", "first-view", slug))["position"][2] > before["position"][2]
            and v["target"] != before["target"]
        ),
    )
    tab_to(page, page.get_by_role("slider", name="Focal length, rule"))
    press("ArrowRight")
    until(page, lambda: part(page, "views", "first-view", slug)["focal_mm"] > 24)
    tab_to(page, page.get_by_role("button", name=re.compile("^Daylight")))
    press("Enter")
    tab_to(page, page.get_by_role("slider", name="Hour of the day"))
    press("PageUp")
    until(page, lambda: part(page, "occasions", "first-occasion", slug)["when"].endswith("T13:00:00"))
    tab_to(page, page.get_by_role("button", name=re.compile("^Finish")))
    press("Enter")
    tab_to(page, page.get_by_role("slider", name="Toe", exact=True))
    press("Shift+ArrowUp")
    until(page, lambda: tone(description(page, slug))["toe"] == 0.4)
    press("Control+z")
    until(page, lambda: tone(description(page, slug))["toe"] == 0.2)
    # Plates by their keys, compared, saved.
    press("k")
    expect(page.locator(".PlateStrip_strip-plate")).to_have_count(2)
    tab_to(page, page.get_by_role("button", name="Sketch", exact=True))
    press("Enter")
    press("p")
    expect(page.locator(".PlateStrip_strip-plate")).to_have_count(3, timeout=90_000)
    tab_to(page, page.locator(".PlateStrip_strip-plate").nth(1))
    press("Enter")
    press("c")
    slider = page.get_by_role("slider", name="Slider between the two pictures")
    tab_to(page, slider)
    press("End")
    press("c")
    expect(slider).to_have_count(0)
    tab_to(page, page.get_by_role("link", name="Save PNG"))
    _save_and_check(page, tmp_path, "Net loft", "First view")
    # The project copied, deleted, and the deletion taken back.
    tab_to(page, page.get_by_role("link", name="Valleylight"))
    press("Enter")
    expect(page.get_by_role("heading", name="Projects")).to_be_visible()
    choose_in_menu("project “Net loft”", "Duplicate")
    copy = page.get_by_role("link", name="Net loft, copy")
    expect(copy).to_be_visible()
    choose_in_menu("project “Net loft, copy”", "Delete")
    expect(copy).to_have_count(0)
    press("Control+z")
    expect(copy).to_be_visible()
