"""Sequences as users make them: begun from a lens, stations moved in plan, scrubbed live, made, played, redone, saved; films of plates."""

from __future__ import annotations

import io
import re
import zipfile
from pathlib import Path

import numpy as np
from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.acts import BENCH, ROOM, description, open_bench, until


def sequences(page: Page) -> list[dict]:
    return description(page)["sequences"]


def screen(page: Page) -> np.ndarray:
    image = page.get_by_role("main").locator("img").first
    expect(image).to_have_js_property("complete", True)
    return np.asarray(Image.open(io.BytesIO(image.screenshot())).convert("RGB"), float)


def moment(page: Page):
    return page.get_by_role("slider", name="Moment")


def runs(page: Page) -> list[dict]:
    return page.request.get(f"{ROOM}/runs").json()


def test_a_sequence_is_begun_from_a_lens_and_its_path_is_set_in_plan(page):
    open_bench(page, f"{BENCH}?step=lens")
    page.get_by_role("link", name="Let this lens move: a sequence").click()
    expect(page.get_by_text("No sequence yet.")).to_be_visible()
    page.get_by_role("button", name="New sequence").click()
    until(page, lambda: len(sequences(page)) == 1)
    [one] = sequences(page)
    assert (one["view"], one["occasion"], len(one["stations"])) == ("inside", "noon", 2)
    expect(page.get_by_role("heading", name="Inside")).to_be_visible()
    expect(page.get_by_role("group", name="Path in plan")).to_be_visible()

    # A station is carried in plan, by hand and by keys, and what it looks at with it.
    second = page.get_by_role("button", name="Station 2", exact=True)
    box = second.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for k in range(1, 6):
        page.mouse.move(x - 6 * k, y)
        page.wait_for_timeout(60)
    page.mouse.up()
    until(page, lambda: sequences(page)[0]["stations"][1] != one["stations"][1])
    carried = sequences(page)[0]["stations"][1]
    gone = [a - b for a, b in zip(carried["position"], one["stations"][1]["position"], strict=True)]
    assert gone[0] < -0.2 and abs(gone[1]) < 0.1 and gone[2] == 0
    turned = [a - b for a, b in zip(carried["target"], one["stations"][1]["target"], strict=True)]
    assert max(abs(a - b) for a, b in zip(turned, gone, strict=True)) < 2e-3
    second.focus()
    page.keyboard.press("ArrowUp")
    until(page, lambda: abs(sequences(page)[0]["stations"][1]["position"][1] - carried["position"][1] - 0.05) < 1e-6)

    # Through a wall: told, with when.
    for _ in range(5):
        second.focus()
        page.keyboard.press("Shift+ArrowUp")
    expect(page.get_by_text(re.compile(r"The lens runs into room at \d\.\d s"))).to_be_visible()
    page.get_by_role("heading", name="Inside").click()
    page.keyboard.press("Control+z")
    expect(page.get_by_text(re.compile("The lens runs into"))).to_have_count(0)

    # A station more at the moment shown, and away again.
    moment(page).focus()
    for _ in range(3):
        page.keyboard.press("PageUp")
    page.get_by_role("button", name="Add station").click()
    until(page, lambda: len(sequences(page)[0]["stations"]) == 3)
    page.get_by_role("button", name="Station 2", exact=True).focus()
    page.get_by_role("button", name="Remove station 2").click()
    until(page, lambda: len(sequences(page)[0]["stations"]) == 2)


def test_a_moment_is_looked_at_live(page):
    page.goto("/p/small-room/sequences")
    expect(page.get_by_role("img", name=re.compile("at 0.00 s"))).to_be_visible()
    page.wait_for_timeout(1500)
    first = screen(page)
    moment(page).focus()
    page.keyboard.press("End")
    assert moment(page).get_attribute("aria-valuetext") == "6.00 s of 6 s"
    until(page, lambda: np.abs(screen(page) - first).mean() > 3)
    page.keyboard.press("ArrowLeft")
    assert abs(float(moment(page).get_attribute("aria-valuenow")) - 6 * 142 / 143) < 0.002


def test_sun_and_lamps_move_and_are_drawn(page):
    page.goto("/p/small-room/sequences")
    page.get_by_label("The sun moves").check()
    until(page, lambda: sequences(page)[0]["hours"] == [6, 20])
    expect(page.get_by_text("sun, 06:00")).to_be_visible()
    hour = page.get_by_role("textbox", name="Last hour")
    hour.fill("18:30")
    hour.press("Enter")
    until(page, lambda: sequences(page)[0]["hours"] == [6, 18.5])
    expect(page.get_by_text(re.compile("18:30, at most 67"))).to_be_visible()
    follows = page.get_by_role("textbox", name="Share of the change of daylight that the exposure follows")
    follows.fill("80")
    follows.press("Enter")
    until(page, lambda: sequences(page)[0]["follows"] == 0.8)
    page.get_by_label("The sun moves").uncheck()
    until(page, lambda: sequences(page)[0]["hours"] is None)


def test_a_sequence_is_made_played_redone_and_saved(page):
    page.goto("/p/small-room/sequences")
    lasts = page.get_by_role("textbox", name="Lasts")
    lasts.fill("0.5 s")
    lasts.press("Enter")
    until(page, lambda: sequences(page)[0]["seconds"] == 0.5)
    page.get_by_role("button", name=re.compile("^Make the quick version: about")).click()
    until(page, lambda: runs(page) and runs(page)[0]["status"] == "done", tries=1200)
    [run] = runs(page)
    assert run["made"] == [0, 2, 4, 6, 8, 10] and run["quality"] == "sketch"
    expect(page.get_by_text("6 of 6")).to_be_visible()
    expect(page.get_by_role("img", name=re.compile("^Frame 0 of"))).to_be_visible()

    # Played it goes on by itself, and over again.
    page.get_by_role("button", name="Play").click()
    seen = set()
    until(page, lambda: seen.add(page.get_by_role("main").locator("img").first.get_attribute("src")) or len(seen) > 3)
    page.get_by_role("button", name="Pause").click()

    # One frame is chosen in the strip and made again; the others stay.
    page.get_by_role("button", name="Frame 4", exact=True).first.click()
    expect(page.get_by_role("img", name=re.compile("^Frame 4 of"))).to_be_visible()
    page.get_by_role("button", name="Make this frame again").click()
    until(page, lambda: runs(page)[0]["status"] != "done" or runs(page)[0]["seconds_spent"] > run["seconds_spent"])
    until(page, lambda: runs(page)[0]["status"] == "done" and len(runs(page)[0]["made"]) == 6, tries=1200)
    # The page shows the new frame, not the one it had.
    expect(page.get_by_role("img", name=re.compile("^Frame 4 of"))).to_have_attribute(
        "src", re.compile(r"frames/4/screen\.jpg\?take=1$")
    )

    for label, name in (("Film, MP4 (H.264)", "Inside.mp4"), ("Frames, PNG in a zip", "Inside frames.zip")):
        page.get_by_role("button", name=re.compile("^Save .* as")).click()
        with page.expect_download() as waiting:
            page.get_by_role("button", name=label).click()
        kept = waiting.value
        assert kept.suggested_filename == name
        data = Path(kept.path()).read_bytes()
        if name.endswith("zip"):
            assert len(zipfile.ZipFile(io.BytesIO(data)).namelist()) == 6
        else:
            assert data[4:8] == b"ftyp"

    # Edited since, it says so; and the live picture comes back.
    lasts.fill("1 s")
    lasts.press("Enter")
    until(page, lambda: runs(page)[0]["changed"])
    page.get_by_role("button", name="Frames made").click()
    expect(page.get_by_text(re.compile("changed since"))).to_be_visible()
    page.get_by_role("button", name="Take away", exact=True).last.click()
    until(page, lambda: runs(page) == [])


def test_films_of_plates_are_made(page):
    page.goto("/p/small-room/sequences?from=plates")
    expect(page.get_by_text("There is no plate yet")).to_be_visible()
    for occasion in ("noon", "night"):
        page.request.post(f"{ROOM}/plates", data={"view": "inside", "occasion": occasion, "quality": "sketch"})
    until(page, lambda: len([p for p in page.request.get(f"{ROOM}/plates").json() if p["ready"]]) == 2, tries=1200)
    page.reload()
    film = page.get_by_role("region", name="Film of plates")
    film.get_by_role("group", name="First").get_by_role("button", name=re.compile("Inside, Noon")).click()
    expect(film.get_by_role("group", name="Second").get_by_role("button")).to_have_count(1)
    lasts = film.get_by_role("textbox", name="Lasts")
    lasts.fill("0.5 s")
    lasts.press("Enter")
    film.get_by_role("button", name="Make the film").click()
    until(page, lambda: runs(page) and runs(page)[0]["status"] == "done", tries=1200)
    expect(page.get_by_role("img", name=re.compile("Frame 0 of From day to night"))).to_be_visible()
    first = screen(page)
    page.get_by_role("slider", name="Frame").focus()
    page.keyboard.press("End")
    until(page, lambda: np.abs(screen(page) - first).mean() > 5)

    # A still is pushed into: where to is drawn on it.
    film.get_by_role("button", name="Push into a still").click()
    way = film.get_by_role("application")
    way.focus()
    page.keyboard.press("ArrowRight")
    expect(film.get_by_role("application", name="Where the lens goes: 0.05 to the right, 0 up")).to_be_visible()
    film.get_by_role("button", name="Make the film").click()
    until(page, lambda: len(runs(page)) == 2 and runs(page)[0]["status"] == "done", tries=1200)
    assert runs(page)[0]["wanted"]["right"] == 0.05
    expect(page.get_by_text("made from a still")).to_be_visible()


def test_a_sequence_is_copied_taken_away_and_brought_back(page):
    page.goto("/p/small-room/sequences")
    before = len(sequences(page))
    page.get_by_role("button", name=re.compile("^More: sequence")).click()
    page.get_by_role("button", name="Duplicate").click()
    until(page, lambda: len(sequences(page)) == before + 1)
    expect(page.get_by_role("heading", name="Inside 2", exact=True)).to_be_visible()
    page.get_by_role("button", name=re.compile("^More: sequence")).click()
    page.locator(".dropdown-menu.show").get_by_role("button", name="Take away").click()
    until(page, lambda: len(sequences(page)) == before)
    page.get_by_role("button", name="Undo").click()
    until(page, lambda: len(sequences(page)) == before + 1)
