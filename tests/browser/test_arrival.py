"""A model of another format comes in packed, its unit is told and overruled, it is put where it belongs."""

from __future__ import annotations

import io
import re
import zipfile

import numpy as np
from playwright.sync_api import expect

from tests.browser.acts import BENCH, ROOM, description, live, open_bench, take_model, until
from valleylight.demo.orchard_house import make_ifc

SHED = (
    "mtllib shed.mtl\no wall\nv 0 0 0\nv 3000 0 0\nv 3000 2400 0\nv 0 2400 0\nv 0 0 -2000\nv 0 2400 -2000\n"
    "usemtl planks\nf 1 2 3 4\nf 5 1 4 6\n"
)


def packed() -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("shed/shed.obj", SHED)
        archive.writestr("shed/shed.mtl", "newmtl planks\nKd 0.45 0.32 0.2\n")
    return out.getvalue()


def shed(page) -> dict:
    return next(p for p in description(page)["placements"] if p["key"] == "shed")


def test_a_zip_in_millimetres_is_brought_in_and_put_in_its_place(page):
    open_bench(page, f"{BENCH}?step=stage")
    before = description(page)["placements"]
    page.get_by_label("Model file").set_input_files(
        {"name": "shed.zip", "mimeType": "application/zip", "buffer": packed()}
    )
    sheet = page.get_by_role("dialog", name="shed.zip")
    expect(sheet.get_by_role("radio", name="mm", exact=True)).to_be_checked()
    take_model(page)
    assert shed(page)["scale"] == 0.001
    expect(page.get_by_role("button", name="planks")).to_be_visible()  # its material is among the surfaces

    page.get_by_text("at 0, 0, 0 m, in mm").click()
    field = page.get_by_role("textbox", name="x of shed.zip")
    field.fill("4.5")
    field.press("Enter")
    until(page, lambda: shed(page)["position"] == [4.5, 0, 0])
    field = page.get_by_role("textbox", name="Turn of shed.zip")
    field.fill("90")
    field.press("Enter")
    until(page, lambda: shed(page)["turn_deg"] == 90)
    page.get_by_role("combobox", name="Axis that points up").last.select_option("x")
    until(page, lambda: shed(page)["up"] == "x")
    page.get_by_role("combobox", name="Axis that points up").last.select_option("z")
    page.get_by_role("combobox", name="Unit of the file").last.select_option("cm")
    until(page, lambda: shed(page)["scale"] == 0.01)
    live(page)
    size = page.request.get("/api/projects/small-room/stage").json()["size_m"]
    # Thirty metres of wall now stand across, twenty deep: the ground of sixty holds them, the height is theirs.
    assert np.allclose(size[2], 24.1, atol=0.1)

    page.get_by_role("heading", name="Stage").click()
    for _ in range(6):
        page.keyboard.press("Control+z")
    until(page, lambda: description(page)["placements"] == before)
    expect(page.get_by_text("it was taken as mm: 3 m")).to_have_count(0)


DROP = """(files) => {
    const data = new DataTransfer();
    for (const [name, text] of Object.entries(files)) data.items.add(new File([text], name));
    for (const type of ["dragover", "drop"])
        window.dispatchEvent(new DragEvent(type, { dataTransfer: data, bubbles: true, cancelable: true }));
}"""


def test_a_model_and_its_files_are_dropped_together(page):
    page.goto("/p/small-room")
    expect(page.get_by_role("link", name=re.compile("^Inside, Noon"))).to_be_visible()
    before = description(page)["placements"]
    page.evaluate(DROP, {"shed.obj": SHED, "shed.mtl": "newmtl planks\nKd 0.45 0.32 0.2\n"})
    take_model(page)
    until(page, lambda: len(description(page)["placements"]) == len(before) + 1)
    assert shed(page)["name"] == "shed.zip"
    assert "planks" in page.request.get("/api/projects/small-room/stage").json()["materials"]
    page.keyboard.press("Control+z")
    until(page, lambda: description(page)["placements"] == before)


def test_what_is_not_read_says_what_to_do_and_changes_nothing(page):
    open_bench(page, f"{BENCH}?step=stage")
    before = description(page)
    for name, data, words in (
        ("house.xyz", b"whatever", "models of the kind .xyz are not read"),
        ("two.zip", _zip({"a.obj": SHED, "b.obj": SHED}), "it holds 2 models"),
    ):
        page.get_by_label("Model file").set_input_files(
            {"name": name, "mimeType": "application/octet-stream", "buffer": data}
        )
        expect(page.get_by_role("alert").last).to_contain_text(words)
    assert description(page) == before


def _zip(files: dict[str, str]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, text in files.items():
            archive.writestr(name, text)
    return out.getvalue()


def test_the_sheet_is_looked_at_and_overruled(page):
    """A building model is drawn beside things of known size; its unit and axis are overruled, a doubt is shown where it is, north is
    dragged, its lights come along, and one undo takes all of it back."""
    open_bench(page, f"{BENCH}?step=stage")
    before = description(page)
    page.get_by_label("Model file").set_input_files(
        {"name": "orchard.ifc", "mimeType": "application/octet-stream", "buffer": make_ifc()}
    )
    sheet = page.get_by_role("dialog", name="orchard.ifc")
    expect(sheet.get_by_text("130 m × 120 m × 6.92 m")).to_be_visible()
    sheet.get_by_role("radio", name="cm", exact=True).click()
    expect(sheet.get_by_text("1.3 m × 1.2 m × 69.2 mm")).to_be_visible()
    sheet.get_by_role("radio", name="y", exact=True).click()
    expect(sheet.get_by_text("1.3 m × 69.2 mm × 1.2 m")).to_be_visible()
    sheet.get_by_role("radio", name="m", exact=True).click()
    sheet.get_by_role("radio", name="z", exact=True).click()
    doubt = sheet.get_by_role("button", name=re.compile("^Frame still has a placeholder"))
    doubt.click()
    expect(doubt).to_have_attribute("aria-pressed", "true")
    expect(sheet.locator("svg [data-pointed]")).to_have_count(2)
    sheet.get_by_role("checkbox", name=re.compile("^2 lights, as fixtures")).check()
    dial = sheet.get_by_role("slider", name="North on the plan")
    box = dial.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + 6)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] - 6, box["y"] + box["height"] / 2, steps=6)
    page.mouse.up()
    expect(dial).to_have_attribute("aria-valuenow", "-90")
    dial.press("ArrowLeft")
    take_model(page)
    until(page, lambda: len(description(page)["fixtures"]) == len(before["fixtures"]) + 2)
    assert description(page)["site"]["north_deg"] == -89
    live(page)
    page.get_by_role("heading", name="Stage").click()
    page.keyboard.press("Control+z")
    until(page, lambda: description(page) == before)


def test_a_newer_file_takes_the_place_of_the_old_one(page):
    open_bench(page, f"{BENCH}?step=stage")
    before = description(page)
    chooser = page.get_by_label("Model file")
    chooser.set_input_files({"name": "orchard.ifc", "mimeType": "application/octet-stream", "buffer": make_ifc()})
    take_model(page)
    brick = {"part": "stage", "at": ["surfaces", "Inner leaf"], "value": {"base": [0.35, 0.14, 0.09]}}
    assert page.request.post(f"{ROOM}/edits", data={"label": "Brick", "changes": [brick]}).ok
    newer = make_ifc().replace(b"'Inner leaf'", b"'Inner leaf 02'").replace(b"'Partition'", b"'Partition pantry'")
    page.get_by_label("File: Replace orchard.ifc").set_input_files(
        {"name": "orchard-b.ifc", "mimeType": "application/octet-stream", "buffer": newer}
    )
    sheet = page.get_by_role("dialog", name="orchard-b.ifc")
    expect(sheet.get_by_text("New: Partition pantry. Gone: Partition.")).to_be_visible()
    expect(sheet.get_by_role("combobox", name=re.compile("The surface set for “Inner leaf” goes to"))).to_have_value(
        "Inner leaf 02"
    )
    take_model(page)
    until(page, lambda: "Inner leaf 02" in description(page)["stage"]["surfaces"])
    page.get_by_role("heading", name="Stage").click()
    for _ in range(3):
        page.keyboard.press("Control+z")
    until(page, lambda: description(page) == before)
