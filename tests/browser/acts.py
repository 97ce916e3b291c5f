"""What the browser tests do and ask again and again; everything waits for what it needs."""

from __future__ import annotations

import io
import re
from collections.abc import Callable
from typing import Any

import numpy as np
from PIL import Image
from playwright.sync_api import Locator, Page, expect

ROOM = "/api/projects/small-room"
BENCH = "/p/small-room/bench/inside/noon"


def open_bench(page: Page, path: str = BENCH) -> None:
    page.goto(path)
    live(page)


def live(page: Page) -> None:
    """Wait for the live picture."""
    expect(page.get_by_test_id("picture-state")).to_contain_text(re.compile(r"live \d+ × \d+, \d+ samples"))


def take_model(page: Page) -> None:
    """Put what has arrived on the stage, as its sheet proposes."""
    sheet = page.get_by_role("dialog")
    sheet.get_by_role("button", name=re.compile("^Put it ")).click()
    expect(sheet).to_have_count(0)


def undone(page: Page, before: dict, step: str = "Stage") -> None:
    """Take step after step back, at a step of the work, until the room is as it was."""
    page.get_by_role("heading", name=step).click()
    for _ in range(25):
        if description(page) == before:
            return
        with page.expect_response(lambda answer: "/undo" in answer.url):
            page.keyboard.press("Control+z")
    assert description(page) == before


def picture_state(page: Page) -> str:
    """What is told of the live picture."""
    return page.get_by_test_id("picture-state").inner_text()


def picture(page: Page) -> np.ndarray:
    """The picture as seen, once the browser has drawn it."""
    expect(page.get_by_test_id("picture").locator("img").first).to_have_js_property("complete", True)
    return np.asarray(Image.open(io.BytesIO(page.get_by_test_id("picture").screenshot())).convert("RGB"), float)


def changed_picture(page: Page, act: Callable[[], Any]) -> tuple[np.ndarray, np.ndarray]:
    """Do something and wait until the picture has changed: before and after."""
    before = picture(page)
    act()

    def now() -> np.ndarray | None:
        seen = picture(page)
        return seen if seen.shape == before.shape and np.abs(seen - before).mean() > 1.0 else None

    for _ in range(600):
        seen = now()
        if seen is not None:
            return before, seen
        page.wait_for_timeout(150)
    raise AssertionError("the picture did not change")


def state(page: Page, slug: str = "small-room") -> dict[str, Any]:
    """The project as the server has it."""
    return page.request.get(f"/api/projects/{slug}").json()


def description(page: Page, slug: str = "small-room") -> dict[str, Any]:
    return state(page, slug)["description"]


def part(page: Page, plural: str, key: str, slug: str = "small-room") -> dict[str, Any]:
    return next(p for p in description(page, slug)[plural] if p["key"] == key)


def until(page: Page, condition: Callable[[], Any], what: str = "it never came true", tries: int = 600) -> Any:
    """The condition's first true value; the page goes on meanwhile."""
    for _ in range(tries):
        value = condition()
        if value:
            return value
        page.evaluate("() => new Promise((done) => setTimeout(done, 100))")
    raise AssertionError(what)


def middle(box: dict[str, float]) -> tuple[float, float]:
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def at_rest(page: Page, target: Locator) -> dict[str, float]:
    """The box of something once it has not moved for a while: what comes late on a busy machine may move it under the pointer."""
    target.hover()
    box = target.bounding_box()
    for _ in range(60):
        page.wait_for_timeout(250)
        now = target.bounding_box()
        if now == box:
            return now
        target.hover()
        box = target.bounding_box()
    raise AssertionError("it does not come to rest")


def drag(page: Page, target: Locator, start: float, end: float, let_go: bool = True) -> None:
    """Drag along something with the mouse, from one share of its width to another."""
    box = at_rest(page, target)
    y = box["y"] + box["height"] / 2
    page.mouse.move(box["x"] + box["width"] * start, y)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * (start + end) / 2, y, steps=4)
    page.mouse.move(box["x"] + box["width"] * end, y, steps=4)
    if let_go:
        page.mouse.up()


def share_of(rule: Locator) -> float:
    """Where the thumb of a rule stands, 0 to 1 of its width."""
    low, high, value = (float(rule.evaluate(f"e => e.{name}")) for name in ("min", "max", "value"))
    return (value - low) / (high - low)


def more(page: Page, about: str, item: str) -> None:
    """Choose something of the menu of a part."""
    page.get_by_role("button", name=f"More: {about}").click()
    page.get_by_role("button", name=item, exact=True).click()


def rename(page: Page, about: str, name: str) -> None:
    more(page, about, "Rename…")
    field = page.get_by_label(f"Name of {about}")
    field.fill(name)
    field.press("Enter")


def tab_to(page: Page, target: Locator, most: int = 120) -> None:
    """Reach something by the Tab key alone."""
    for _ in range(most):
        if target.count() and target.first.evaluate("e => e === document.activeElement"):
            return
        page.keyboard.press("Tab")
    raise AssertionError(f"the Tab key does not lead to {target}")
