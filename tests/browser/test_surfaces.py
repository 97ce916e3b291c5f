"""Surfaces by hand: pictures laid on them, bricks laid one by one, one object's surface apart, and the catalogue of one's own."""

from __future__ import annotations

import io

from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.acts import BENCH, at_rest, changed_picture, description, live, open_bench, undone, until


def surface(page: Page, name: str) -> dict:
    return description(page)["stage"]["surfaces"].get(name, {})


def png(left: tuple, right: tuple) -> bytes:
    made = Image.new("RGB", (32, 16), left)
    made.paste(right, (16, 0, 32, 16))
    out = io.BytesIO()
    made.save(out, "PNG")
    return out.getvalue()


def grab(page: Page, handle, by: tuple[float, float]) -> None:
    box = at_rest(page, handle)
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + by[0] / 2, y + by[1] / 2)
    page.mouse.move(x + by[0], y + by[1])
    page.mouse.up()


def test_pictures_and_layouts_are_laid_by_hand(page):
    open_bench(page, f"{BENCH}?step=stage")
    before = description(page)
    page.get_by_role("list", name="Surfaces of the stage").get_by_role("button").filter(has_text="plaster").click()
    sheet = page.get_by_role("region", name="Surface plaster")
    sheet.get_by_role("button", name="Colour: bring in a picture").click()
    wall = {"name": "wall.png", "mimeType": "image/png", "buffer": png((220, 30, 20), (20, 40, 200))}
    changed_picture(page, lambda: page.get_by_label("File of the picture").set_input_files(wall))
    until(page, lambda: (surface(page, "plaster").get("pictures") or {}).get("colour"))
    assert surface(page, "plaster")["laying"]["by"] == "box"
    expect(sheet.get_by_role("button", name="Colour: another picture").get_by_role("presentation")).to_be_visible()
    grab(page, sheet.get_by_test_id("turn-grip"), (-55, -60))
    until(page, lambda: 60 <= surface(page, "plaster")["laying"]["turn_deg"] <= 120)
    field = sheet.get_by_role("textbox", name="Width of a tile, m")
    field.fill("50 cm")
    field.press("Enter")
    until(page, lambda: surface(page, "plaster")["laying"]["tile_m"] == 0.5)
    grab(page, sheet.get_by_role("group", name="Layout on the surface"), (20, 10))
    until(page, lambda: surface(page, "plaster")["laying"]["shift_m"] != [0, 0])
    sheet.get_by_role("combobox", name="Layout of units").select_option(label="Flemish bond")
    until(page, lambda: (surface(page, "plaster").get("courses") or {}).get("bond") == "flemish")
    expect(sheet.get_by_role("textbox", name="Joint, m")).to_be_visible()
    grab(page, sheet.get_by_test_id("size-grip"), (25, -12))
    until(page, lambda: surface(page, "plaster")["courses"]["length_m"] > 0.22)
    sheet.get_by_role("button", name="Take the picture of colour away").click()
    until(page, lambda: surface(page, "plaster")["pictures"] is None)
    live(page)
    undone(page, before)


def test_one_object_s_surface_and_the_catalogue(page):
    open_bench(page, f"{BENCH}?step=stage")
    before = description(page)
    picture = page.get_by_test_id("picture").bounding_box()
    page.mouse.click(picture["x"] + picture["width"] * 0.3, picture["y"] + picture["height"] * 0.9)
    page.get_by_role("button", name="On room alone").click()
    until(page, lambda: description(page)["stage"]["apart"] != [])
    [apart] = description(page)["stage"]["apart"]
    sheet = page.get_by_role("region", name=f"Surface {apart['name']}")
    expect(sheet.get_by_text("On room alone.")).to_be_visible()
    sheet.get_by_label("Surface from the catalogue").select_option(label="Oak, herringbone")
    until(page, lambda: (surface(page, apart["name"]).get("courses") or {}).get("bond") == "herringbone")
    sheet.get_by_role("button", name="More: surface").click()
    page.get_by_role("button", name="Keep in the catalogue…").click()
    page.get_by_label("Keep it as").fill("My parquet")
    page.keyboard.press("Enter")
    expect(page.get_by_text("My parquet is in the catalogue now")).to_be_visible()
    with page.expect_download() as saved:
        sheet.get_by_role("button", name="More: surface").click()
        page.get_by_role("button", name="Save as glTF material").click()
    glb = saved.value.path().read_bytes()
    assert glb.startswith(b"glTF")
    sheet.get_by_role("button", name="Like the others again").click()
    until(page, lambda: description(page)["stage"]["apart"] == [])
    page.get_by_role("button", name="All surfaces").click()
    catalogue = page.get_by_role("list", name="Catalogue of surfaces")
    expect(catalogue.get_by_text("My parquet")).to_be_visible()
    page.get_by_label("Files of a surface").set_input_files(
        {"name": "parquet.glb", "mimeType": "model/gltf-binary", "buffer": glb}
    )
    expect(catalogue.get_by_role("listitem")).to_have_count(len(page.request.get("/api/surfaces").json()))
    page.get_by_label("Files of a surface").set_input_files(
        [
            {"name": f"Wall_{channel}.png", "mimeType": "image/png", "buffer": png((90, 90, 90), (130, 130, 130))}
            for channel in ("color", "rough", "disp")
        ]
    )
    expect(catalogue.get_by_text("Wall_color")).to_be_visible()
    own = [s for s in page.request.get("/api/surfaces").json() if s["own"]]
    assert {k for k, v in next(s for s in own if s["name"] == "Wall_color")["surface"]["pictures"].items() if v} >= {
        "colour", "roughness", "height",
    }  # fmt: skip
    page.get_by_label("Files of a surface").set_input_files(
        {"name": "nothing.zip", "mimeType": "application/zip", "buffer": b"PK\x05\x06" + b"\0" * 18}
    )
    expect(page.get_by_text("Name the pictures by what they say")).to_be_visible()
    page.get_by_role("button", name="More: surface My parquet").click()
    page.get_by_role("button", name="Take out of the catalogue").click()
    expect(catalogue.get_by_text("My parquet")).to_have_count(0)
    undone(page, before)
