"""What an artist does, in a real browser on a real server."""

from __future__ import annotations

import re
import signal

import numpy as np
from PIL import Image
from playwright.sync_api import expect

from tests.browser.acts import BENCH, changed_picture, live, picture, take_model, until
from valleylight.demo.profiles import CATALOGUE, profile_file


def test_the_wall_opens_the_bench(page):
    page.goto("/")
    expect(page).to_have_url(re.compile("/p/small-room$"))
    expect(page.get_by_role("heading", name="Small room")).to_be_visible()
    page.get_by_role("link", name="Inside, Noon: not made yet").click()
    live(page)
    expect(page.get_by_role("heading", name="Daylight")).to_be_visible()


def test_the_hour_by_drag_keys_and_typing_with_undo(page):
    page.goto(BENCH)
    live(page)
    dayline = page.get_by_role("slider", name="Hour of the day")
    box = dayline.bounding_box()

    def drag():
        page.mouse.move(box["x"] + box["width"] * 13.33 / 24, box["y"] + 20)
        page.mouse.down()
        page.mouse.move(box["x"] + box["width"] * 16 / 24, box["y"] + 20, steps=6)
        page.mouse.move(box["x"] + box["width"] * 19.5 / 24, box["y"] + 20, steps=6)
        page.mouse.up()

    changed_picture(page, drag)
    expect(dayline).to_have_attribute("aria-valuetext", "19:30")
    dayline.focus()
    page.keyboard.press("ArrowLeft")
    expect(dayline).to_have_attribute("aria-valuetext", "19:25")
    hour = page.get_by_label("Hour", exact=True)
    hour.fill("9:15")
    hour.press("Enter")
    expect(dayline).to_have_attribute("aria-valuetext", "09:15")
    page.get_by_role("heading", name="Daylight").click()
    expect(page.get_by_role("button", name="Undo")).to_be_enabled()
    for expected in ("19:25", "19:30", "13:20"):
        page.keyboard.press("Control+z")
        expect(dayline).to_have_attribute("aria-valuetext", expected)
    page.keyboard.press("Control+y")
    expect(dayline).to_have_attribute("aria-valuetext", "19:30")
    page.reload()
    live(page)
    expect(page.get_by_role("slider", name="Hour of the day")).to_have_attribute("aria-valuetext", "19:30")
    page.keyboard.press("Control+z")
    expect(page.get_by_role("slider", name="Hour of the day")).to_have_attribute("aria-valuetext", "13:20")


def test_the_sun_by_hand(page):
    page.goto(BENCH)
    live(page)
    expect(page.get_by_text("true to date and place", exact=True)).to_be_visible()
    page.get_by_label("True to date and place").uncheck()
    expect(page.get_by_text("sun set by hand")).to_be_visible()
    sun = page.get_by_role("slider", name=re.compile("Sun, set by hand"))
    box = sun.bounding_box()
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)

    def drag():
        page.mouse.move(middle[0], middle[1] + 30)
        page.mouse.down()
        page.mouse.move(middle[0] + 62, middle[1] + 40, steps=5)
        page.mouse.up()

    changed_picture(page, drag)
    assert float(page.get_by_label("Altitude", exact=True).input_value().rstrip(" °")) < 25
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    expect(page.get_by_text("true to date and place", exact=True)).to_be_visible()


def test_a_date_that_cannot_be_is_refused_and_nothing_lost(page):
    page.goto(BENCH)
    live(page)
    date = page.get_by_label("Date", exact=True)
    date.fill("2300-06-21")
    date.press("Enter")
    alert = page.get_by_role("alert").first
    expect(alert).to_contain_text("1900 to 2100")
    expect(date).to_have_value("2026-06-21")


def test_place_aim_and_set_a_fixture_on_the_ceiling_plan(page):
    page.goto("/p/small-room/bench/inside/night")
    live(page)
    page.get_by_role("tab", name="Ceiling plan").click()
    plan = page.get_by_role("group", name="Ceiling plan")
    expect(plan.locator("path").first).to_be_attached()
    page.locator(".KindStrip_kind").filter(has_text="Downlight 36").click()
    box = plan.bounding_box()
    plan.click(position={"x": box["width"] * 0.55, "y": box["height"] * 0.5})
    placed = page.get_by_role("button", name=re.compile("^Downlight 36 at"))
    expect(placed).to_have_count(2)
    expect(page.get_by_role("heading", name="Downlight 36")).to_be_visible()
    for label, text, shown in (("Flux", "2400", "2400 lm"), ("Level", "50 %", "50 %"), ("Colour", "4000", "4000 K")):
        field = page.get_by_role("textbox", name=label, exact=True)
        field.fill(text)
        field.press("Enter")
        expect(field).to_have_value(shown)
    page.get_by_text("Aim and what it lights").click()
    aim = page.get_by_role("textbox", name="Aim x", exact=True)
    aim.fill("2.0")
    aim.press("Enter")
    expect(aim).to_have_value("2 m")
    page.get_by_role("tab", name="Picture").click()
    live(page)
    page.get_by_role("tab", name="Ceiling plan").click()
    placed.nth(1).focus()
    page.keyboard.press("Delete")
    expect(placed).to_have_count(1)
    page.keyboard.press("Control+z")
    expect(placed).to_have_count(2)


def test_an_overtaken_answer_does_not_bring_back_what_stood_before(page):
    """The project is asked for because someone else changed it, and the answer comes after a later edit's."""
    page.goto("/p/small-room/bench/inside/night")
    live(page)
    late = []

    def hold_back(route):
        late.append((route, route.fetch()))

    project = f"{page.url.split('/p/')[0]}/api/projects/small-room"
    page.route(project, lambda route: hold_back(route) if route.request.method == "GET" else route.continue_())
    before = page.request.get(project).json()
    name = before["description"]["name"]
    renamed = {"label": "Name", "changes": [{"part": "name", "value": f"{name}, renamed"}]}
    assert page.request.post(f"{project}/edits", data=renamed).ok
    until(page, lambda: late)
    hour = page.get_by_label("Hour", exact=True)
    hour.fill("9:15")
    hour.press("Enter")
    until(page, lambda: page.request.get(project).json()["revision"] == before["revision"] + 2)
    dayline = page.get_by_role("slider", name="Hour of the day")
    expect(dayline).to_have_attribute("aria-valuetext", "09:15")
    route, response = late[0]
    assert response.json()["revision"] == before["revision"] + 1
    route.fulfill(response=response)
    page.wait_for_timeout(500)
    expect(dayline).to_have_attribute("aria-valuetext", "09:15")
    page.unroute(project)
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    until(page, lambda: page.request.get(project).json()["description"]["name"] == name)


def test_upload_a_profile_and_a_broken_one(page):
    page.goto("/p/small-room/bench/inside/night")
    page.get_by_role("tab", name="Ceiling plan").click()
    chooser = page.locator('input[type="file"]')
    lamp = next(lu for lu in CATALOGUE if lu.key == "wall-washer")
    chooser.set_input_files({"name": "washer.ies", "mimeType": "text/plain", "buffer": profile_file(lamp)})
    expect(page.get_by_text("is in the catalogue")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("Wall washer")).first).to_be_visible()
    chooser.set_input_files({"name": "broken.ies", "mimeType": "text/plain", "buffer": profile_file(lamp)[:500]})
    expect(page.get_by_role("alert").first).to_contain_text("broken.ies, line")


def test_place_in_the_stage_view(page):
    page.goto("/p/small-room/bench/inside/night")
    expect(page.get_by_test_id("picture-state")).to_contain_text("samples")  # the fonts are in place
    page.get_by_role("tab", name="Stage view").click()
    view = page.get_by_test_id("working-view")
    expect(view).to_have_attribute("data-triangles", re.compile("[1-9]"))
    count = lambda: len(page.request.get("/api/projects/small-room").json()["description"]["fixtures"])  # noqa: E731
    before = count()
    box = view.bounding_box()
    page.mouse.click(box["x"] + box["width"] * 0.75, box["y"] + box["height"] * 0.35)
    for _ in range(50):
        page.wait_for_timeout(100)
        if count() == before + 1:
            break
    assert count() == before + 1
    page.keyboard.press("Control+z")


def test_lens_and_finish_change_the_picture_quickly(page):
    page.goto(BENCH)
    live(page)
    page.get_by_role("button", name=re.compile("^Lens")).click()

    def brighter():
        iso = page.get_by_label("ISO", exact=True)
        iso.fill("800")
        iso.press("Enter")

    before, after = changed_picture(page, brighter)
    assert after.mean() > before.mean()
    iso = page.get_by_label("ISO", exact=True)
    iso.fill("50")  # not burnt: colours can be told
    iso.press("Enter")
    until(page, lambda: picture(page).mean() < after.mean() - 20)
    page.get_by_role("button", name=re.compile("^Finish")).click()
    for label, text in (("White", "3500"), ("Shoulder", "0.9")):

        def change(label=label, text=text):
            field = page.get_by_role("textbox", name=label, exact=True)
            field.fill(text)
            field.press("Enter")

        changed_picture(page, change)
    bloom = (
        page.get_by_role("switch", name="Bloom").or_(page.get_by_label("Bloom").locator("input[type=checkbox]")).first
    )
    bloom.check()
    for section, text in (("Contrast", "0.5"), ("Saturation", "-0.8")):
        field = page.get_by_role("region", name=section).get_by_role("textbox")
        field.fill(text)
        field.press("Enter")
        expect(field).to_have_value(text)
    colourful = lambda: float(np.ptp(picture(page), axis=2).mean())  # noqa: E731
    until(page, lambda: colourful() < 30)
    page.get_by_role("heading", name="Finish").click()
    page.keyboard.press("Control+z")
    until(page, lambda: colourful() > 40)
    wrong = page.get_by_role("textbox", name="White", exact=True)
    wrong.fill("99999")
    expect(wrong).to_have_attribute("aria-invalid", "true")
    wrong.press("Escape")


def test_a_plate_with_progress_stop_compare_and_save(page, tmp_path):
    page.goto(BENCH)
    live(page)
    page.get_by_role("button", name="Sketch", exact=True).click()
    for number in (1, 2):
        page.get_by_role("button", name="Make plate").click()
        expect(page.locator(".PlateStrip_strip-plate")).to_have_count(number + 1, timeout=90_000)
        if number == 1:
            page.get_by_role("slider", name="Hour of the day").focus()
            page.keyboard.press("Shift+ArrowRight")
            page.wait_for_timeout(900)
    page.get_by_role("button", name="Press", exact=True).click()
    page.get_by_role("button", name="Make plate").click()
    progress = page.get_by_role("status")
    expect(progress).to_contain_text(re.compile("left|waiting"))
    expect(progress).to_contain_text(re.compile(r"[1-9]\d* of"), timeout=150_000)
    progress.get_by_role("button", name="Stop").click()
    expect(progress).to_contain_text("stopped at")
    progress.get_by_role("button", name="Go on").click()
    progress.get_by_role("button", name="Stop").click()
    expect(progress).to_contain_text("stopped at")
    page.locator(".PlateStrip_strip-plate").nth(1).click()
    expect(page.get_by_test_id("picture-state")).to_contain_text("sketch 320 × 180")
    page.get_by_role("heading", name="Daylight").click()
    page.keyboard.press("c")
    slider = page.get_by_role("slider", name="Slider between the two pictures")
    slider.focus()
    page.keyboard.press("Home")
    page.wait_for_timeout(300)
    right = picture(page)
    page.keyboard.press("End")
    page.wait_for_timeout(300)
    assert np.abs(picture(page) - right).mean() > 0.5  # two different hours
    page.keyboard.press("c")
    with page.expect_download() as download:
        page.get_by_role("link", name="Save PNG").click()
    download.value.save_as(tmp_path / "plate.png")
    assert Image.open(tmp_path / "plate.png").size == (320, 180)
    with page.expect_download() as download:
        page.get_by_role("link", name="Save EXR").click()
    download.value.save_as(tmp_path / "plate.exr")
    assert (tmp_path / "plate.exr").read_bytes()[:4] == b"\x76\x2f\x31\x01"


def test_keys_surround_and_missing_pages(page):
    page.goto(BENCH)
    live(page)
    page.get_by_role("heading", name="Daylight").click()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("move the hour")
    page.keyboard.press("Escape")
    page.keyboard.press("l")
    expect(page.locator("html")).to_have_attribute("data-surround", "middle")
    page.keyboard.press("b")
    expect(page.get_by_role("heading", name="Balance")).to_be_visible()
    page.goto("/p/small-room/bench/attic/noon")
    expect(page.get_by_text('no view "attic"')).to_be_visible()
    page.goto("/p/nowhere")
    expect(page.get_by_role("paragraph").filter(has_text="there is no project 'nowhere'")).to_be_visible()


def test_a_picture_named_as_a_model_and_an_empty_name(page):
    page.goto("/p/small-room")
    page.locator('input[type="file"]').set_input_files(
        {"name": "house.glb", "mimeType": "model/gltf-binary", "buffer": b"\x89PNG\r\n\x1a\n0000"}
    )
    expect(page.get_by_role("alert").first).to_contain_text("house.glb")
    page.goto("/projects")
    page.get_by_label("Name of a new project").fill("   ")
    page.get_by_role("button", name="Begin").click()
    expect(page.get_by_role("alert")).to_contain_text("name")


def test_a_new_project_from_a_model(page):
    from tests import small

    page.goto("/projects")
    page.get_by_label("Name of a new project").fill("Shed")
    page.get_by_role("button", name="Begin").click()
    expect(page.get_by_role("alert")).to_contain_text("where it stands")
    page.get_by_role("combobox", name="Where it stands").fill("Saltmarsh")
    page.get_by_role("option", name="Saltmarsh quay").click()
    page.get_by_role("button", name="Begin").click()
    expect(page.get_by_text("Nothing stands on the stage yet")).to_be_visible()
    page.locator('input[type="file"]').set_input_files(
        {"name": "shed.glb", "mimeType": "model/gltf-binary", "buffer": small.room_glb()}
    )
    take_model(page)
    page.get_by_role("button", name="Add a view and an occasion").click()
    page.get_by_role("link", name="First view, June noon: not made yet").click()
    live(page)


def test_a_killed_server_loses_nothing_and_goes_on(page, server):
    """kill -9 in the middle of a press plate; after a new start the page comes back by itself and the job goes on."""
    page.goto(BENCH)
    live(page)
    saved = page.request.get("/api/projects/small-room").json()
    plates = page.request.get("/api/projects/small-room/plates").json()
    page.get_by_role("button", name="Press", exact=True).click()
    page.get_by_role("button", name="Make plate").click()
    expect(page.get_by_role("status")).to_contain_text("samples ·")
    server.stop(signal.SIGKILL)
    expect(page.get_by_test_id("picture-state")).to_contain_text("no connection")
    server.start()
    expect(page.get_by_role("status")).to_contain_text("Interrupted")
    live(page)
    assert page.request.get("/api/projects/small-room").json() == saved
    again = [p for p in page.request.get("/api/projects/small-room/plates").json() if p["ready"]]
    assert [p["id"] for p in again] == [p["id"] for p in plates if p["ready"]]
    page.get_by_role("status").get_by_role("button", name="Stop").click()
    expect(page.get_by_role("button", name="Stop")).to_have_count(0)
