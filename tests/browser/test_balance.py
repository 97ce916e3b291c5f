"""The balance as amounts: bands pulled, colours typed, plates balanced from their films, snapshots, the way from day to night."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, expect

from tests.browser.acts import BENCH, at_rest, changed_picture, description, live, open_bench, part, picture, until

NIGHT = "/p/small-room/bench/inside/night?step=finish"


@pytest.fixture(autouse=True)
def put_back(page: Page) -> Iterator[None]:
    """What a test leaves of the night is put back, whether it ends well or not."""
    before = json.dumps(next(o for o in project(page)["occasions"] if o["key"] == "night"))
    yield
    change = {"part": "occasion", "key": "night", "value": json.loads(before)}
    page.request.post(
        "/api/projects/small-room/edits",
        data=json.dumps({"label": "Put back", "changes": [change]}),
        headers={"Content-Type": "application/json"},
    )


def project(page: Page) -> dict:
    return page.request.get("/api/projects/small-room").json()["description"]


def row(page: Page, name: str):
    return page.get_by_role("group", name="Light of this picture by amounts").get_by_role(
        "slider", name=name, exact=True
    )


def moment(page: Page) -> dict:
    return part(page, "occasions", "night")


def plates(page: Page) -> list[dict]:
    return page.request.get("/api/projects/small-room/plates").json()


def made(page: Page, occasion: str) -> int:
    """A sketch of the inside, made."""
    asked = page.request.post(
        "/api/projects/small-room/plates",
        data=json.dumps({"view": "inside", "occasion": occasion, "quality": "sketch"}),
        headers={"Content-Type": "application/json"},
    ).json()
    until(page, lambda: next(p for p in plates(page) if p["id"] == asked["id"])["ready"], tries=1200)
    return asked["id"]


def test_a_band_is_pulled_and_a_colour_typed(page):
    open_bench(page, NIGHT)
    before = description(page)
    page.keyboard.press("b")
    expect(row(page, "Pendants")).to_be_visible()
    stack = page.get_by_role("group", name="Light of this picture by amounts")
    band = stack.locator("rect[data-light='Pendants']").first
    box = at_rest(page, band)
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

    def pull():
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x, y + box["height"] / 4, steps=3)
        page.mouse.move(x, y + box["height"] / 2, steps=3)
        page.mouse.up()

    was = picture(page)
    pull()
    # About half: the band may have grown or shrunk a little with a finer picture just before it was pressed.
    until(page, lambda: 30 < moment(page)["levels"].get("Pendants", 100) < 70)
    half = moment(page)["levels"]["Pendants"]
    until(page, lambda: picture(page).mean() < was.mean() - 1)
    row(page, "Pendants").focus()
    page.keyboard.press("PageUp")
    until(page, lambda: moment(page)["levels"]["Pendants"] == pytest.approx(2 * half, rel=0.03))
    card = page.get_by_role("region", name="Pendants", exact=True)
    colour = card.get_by_label("Colour", exact=True)

    def type_colour():
        colour.fill("10000 K")
        colour.press("Enter")

    changed_picture(page, type_colour)
    until(page, lambda: moment(page)["colours"] == {"Pendants": 10000})
    card.get_by_label("on", exact=True).click()
    until(page, lambda: moment(page)["levels"]["Pendants"] == 0)
    expect(row(page, "Pendants")).to_have_attribute("aria-valuetext", "off")
    page.get_by_role("button", name="Keep a snapshot").click()
    field = page.get_by_role("dialog").get_by_role("textbox")
    field.fill("Dark")
    field.press("Enter")
    until(page, lambda: any(s["name"] == "Dark" for s in description(page)["scenes"]))
    for _ in range(20):
        if description(page) == before:
            break
        page.keyboard.press("Control+z")
        page.wait_for_timeout(300)
    until(page, lambda: moment(page) == next(o for o in before["occasions"] if o["key"] == "night"))


def test_a_plate_is_balanced_from_its_film_and_kept_as_levels(page):
    number = made_in(page)
    page.goto(f"{NIGHT}&plate={number}")
    expect(page.get_by_test_id("picture-state")).to_contain_text("sketch")
    page.keyboard.press("b")
    expect(page.get_by_text("Of this plate, from its own film.")).to_be_visible()
    expect(row(page, "Pendants")).to_be_visible()
    before = moment(page)
    was = picture(page)
    row(page, "Pendants").focus()
    for _ in range(3):
        page.keyboard.press("PageDown")
    until(page, lambda: picture(page).mean() < was.mean() - 5)
    assert moment(page) == before  # the occasion is as it was
    page.get_by_role("button", name="Keep as the occasion's levels").click()
    until(page, lambda: moment(page)["levels"].get("Pendants") == pytest.approx(12.5, rel=0.02))
    page.get_by_role("button", name="As it was made").click()
    until(page, lambda: abs(picture(page).mean() - was.mean()) < 1)
    page.keyboard.press("Control+z")
    until(page, lambda: moment(page) == before)


def made_in(page: Page, occasion: str = "night") -> int:
    page.goto(BENCH)
    live(page)
    return made(page, occasion)


def test_the_way_from_day_to_night(page):
    day = made_in(page, "noon")
    night = made_in(page, "night")
    open_bench(page, NIGHT)
    page.keyboard.press("b")
    line = page.get_by_role("slider", name="On the way from day to night")
    page.get_by_label("From the plate").select_option(str(day))
    page.get_by_label("To the plate").select_option(str(night))
    now = picture(page)
    line.focus()
    page.keyboard.press("PageUp")
    until(page, lambda: (picture(page) - now).std() > 3)
    page.keyboard.press("End")
    expect(line).to_have_attribute("aria-valuenow", "100")
    page.get_by_role("button", name=re.compile("^Back to the live picture")).click()
    strip = page.get_by_role("group", name="Earlier plates").get_by_alt_text("Live picture")
    shown = page.get_by_test_id("picture").locator("img").first
    until(page, lambda: shown.get_attribute("src") == strip.get_attribute("src"))
