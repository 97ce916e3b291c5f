"""Screens for everyone: axe-core's rules on every screen, windows of several sizes, the keyboard alone.

Source of the rules: WCAG 2.2 A and AA as axe-core tests them, with the 24 px of 2.5.8 (target size).
"""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from tests.browser.acts import BENCH, description, live, open_bench, part, tab_to, until
from tests.conftest import ROOT

AXE = (ROOT / "web" / "node_modules" / "axe-core" / "axe.min.js").read_text()
WINDOWS = {"desk": (1280, 800), "small": (1024, 700), "enlarged by half": (853, 533)}


def violations(page) -> list[str]:
    """What axe-core finds, by rule and place."""
    page.evaluate(AXE)
    found = page.evaluate("""async () => {
        const result = await axe.run(document, { rules: { "target-size": { enabled: true } } });
        return result.violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target.join(" ") + " " + (n.any[0]?.message ?? "")).join(" | ")}`);
    }""")
    return list(found)


def fixtures_chosen(page):
    page.get_by_role("button", name=re.compile(r"^Pendants \d")).click()
    expect(page.get_by_role("heading", name="Globe pendant")).to_be_visible()


SCREENS = {
    "projects": ("/projects", lambda page: expect(page.get_by_text("Small room").first).to_be_visible()),
    "wall": ("/p/small-room", lambda page: expect(page.get_by_role("heading", name="Small room")).to_be_visible()),
    "missing": ("/nowhere", lambda page: expect(page.get_by_text("Not here")).to_be_visible()),
    "catalogue": ("/p/small-room/catalogue", lambda page: expect(page.locator(".CataloguePage_profile").first).to_be_visible()),
    "sun": (BENCH, live),
    "sky": (f"{BENCH}?tab=sky", live),
    "which hour": (f"{BENCH}?tab=hour", live),
    "stage": (f"{BENCH}?step=stage", lambda page: expect(page.get_by_role("list", name="Surfaces of the stage")).to_be_visible()),
    "objects": (f"{BENCH}?step=stage", lambda page: (page.get_by_role("tab", name="Objects").click(), expect(page.get_by_role("region", name="Surroundings")).to_be_visible())),
    "layers": (f"{BENCH}?step=stage", lambda page: (page.get_by_role("tab", name="Layers").click(), expect(page.get_by_role("button", name="Make a layer")).to_be_visible())),
    "fixtures": (f"{BENCH}?step=fixtures", live),
    "a fixture": (f"{BENCH}?step=fixtures", fixtures_chosen),
    "air": (f"{BENCH}?step=air", live),
    "lens": (f"{BENCH}?step=lens", live),
    "finish": (f"{BENCH}?step=finish", live),
    "compose": (f"{BENCH}?step=compose", live),
    "sequences": ("/p/small-room/sequences", lambda page: (page.get_by_role("button", name="New sequence").click(), expect(page.get_by_role("group", name="Path in plan")).to_be_visible())),
    "plan": (f"{BENCH}?step=fixtures&sheet=plan", lambda page: expect(page.get_by_role("group", name="Ceiling plan")).to_be_visible()),
    "stage view": (f"{BENCH}?step=fixtures&sheet=stage", lambda page: expect(page.get_by_test_id("working-view").locator("canvas")).to_be_visible()),
    "meter": (BENCH, lambda page: (live(page), page.keyboard.press("m"), expect(page.get_by_role("heading", name="Meter")).to_be_visible())),
    "balance": (BENCH, lambda page: (live(page), page.keyboard.press("b"), expect(page.get_by_role("heading", name="Balance")).to_be_visible())),
    "keys": (BENCH, lambda page: (live(page), page.keyboard.press("?"), expect(page.get_by_role("dialog")).to_be_visible())),
    "a menu": ("/p/small-room", lambda page: page.get_by_role("button", name="More: view “Inside”").click()),
}  # fmt: skip


@pytest.mark.parametrize("name", SCREENS)
def test_axe_finds_nothing(page, name):
    path, ready = SCREENS[name]
    page.goto(path)
    ready(page)
    page.wait_for_load_state("networkidle")
    found = violations(page)
    assert not found, "\n".join(found)


@pytest.mark.parametrize("window", WINDOWS)
def test_nothing_is_cut_or_lies_over_anything_else(page, window):
    """Captions, tabs and heads at every size: no control outside the window or under another one."""
    width, height = WINDOWS[window]
    page.set_viewport_size({"width": width, "height": height})
    for path in (f"{BENCH}?step=lens", f"{BENCH}?step=fixtures&sheet=plan", "/p/small-room", "/projects"):
        page.goto(path)
        if "/bench/" in path and "sheet" not in path:
            live(page)
        expect(page.get_by_role("link", name="Valleylight")).to_be_visible()
        page.wait_for_load_state("networkidle")
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), path
        covered = page.evaluate("""() => {
            const controls = [...document.querySelectorAll(".top a, .top button, .top select, .Easel_caption a, .Easel_caption button, .Thread_thread button")];
            return controls.filter((e) => {
                const b = e.getBoundingClientRect();
                if (!b.width) return true;
                if (b.left < 0 || b.right > innerWidth + 0.5) return true;
                const scrolls = e.closest(".Thread_thread, .BenchPage_bench");
                if (scrolls && (b.bottom > scrolls.getBoundingClientRect().bottom || b.top < scrolls.getBoundingClientRect().top)) return false;
                const at = document.elementFromPoint(b.left + b.width / 2, b.top + b.height / 2);
                return at !== null && !e.contains(at) && !at.contains(e);
            }).map((e) => e.textContent || e.getAttribute("aria-label"));
        }""")
        assert covered == [], path


def test_what_has_the_focus_shows_it(page):
    """Every stop of the Tab key on the bench has an outline."""
    open_bench(page)
    seen = 0
    for _ in range(45):
        page.keyboard.press("Tab")
        shown = page.evaluate("""() => {
            const e = document.activeElement;
            if (e === document.body) return null;
            const own = getComputedStyle(e);
            const frame = e.classList.contains("Comparison_compare") ? getComputedStyle(e.closest(".Comparison_area")) : own;
            return [e.outerHTML.slice(0, 120), parseFloat(frame.outlineWidth), frame.outlineStyle];
        }""")
        if shown is None:
            continue
        seen += 1
        assert shown[1] >= 1 and shown[2] != "none", shown[0]
    assert seen > 30


def test_the_plan_by_keyboard_alone(page):
    """One stop of the Tab key; arrows, Enter, N, Delete and the zoom inside."""
    page.goto("/p/small-room/bench/inside/night?step=fixtures&sheet=plan")
    plan = page.get_by_role("group", name="Ceiling plan")
    expect(plan).to_be_visible()
    before = description(page)["fixtures"]
    page.locator(".KindStrip_kind").filter(has_text="Downlight").focus()
    page.keyboard.press("Enter")
    tab_to(page, plan)
    for key in ("ArrowLeft", "ArrowLeft", "ArrowUp", "Enter"):
        page.keyboard.press(key)
    until(page, lambda: len(description(page)["fixtures"]) == len(before) + 1)
    box = plan.get_attribute("viewBox")
    plan.focus()
    page.keyboard.press("+")
    expect(plan).not_to_have_attribute("viewBox", box)
    page.keyboard.press("n")
    page.keyboard.press("Shift+ArrowRight")
    moved = until(
        page,
        lambda: [
            f for f in description(page)["fixtures"] if f not in before and f["key"] in {b["key"] for b in before}
        ],
    )
    page.keyboard.press("Alt+ArrowUp")
    until(page, lambda: part(page, "fixtures", moved[0]["key"])["aim"] != moved[0]["aim"])
    page.keyboard.press("Escape")
    page.keyboard.press("Tab")  # the plan is left in one stop
    assert not page.evaluate("document.activeElement.closest('svg')")
    page.get_by_role("heading", level=2).first.click()
    until(page, lambda: (page.keyboard.press("Control+z"), description(page)["fixtures"] == before)[1])


def test_pointing_at_the_picture_by_keyboard(page):
    """The meter and the picking of a surface follow a cross."""
    open_bench(page)
    page.keyboard.press("m")
    picture = page.get_by_test_id("picture")
    picture.focus()
    for key in ("ArrowRight", "Shift+ArrowDown", "Enter"):
        page.keyboard.press(key)
    expect(page.get_by_text(re.compile(r"cd/m²")).first).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("heading", name="Daylight")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Stage")).first.click()
    expect(page.get_by_role("list", name="Surfaces of the stage")).to_be_visible()
    picture.focus()
    page.keyboard.press("Enter")
    expect(page.get_by_role("region", name=re.compile("^Surface "))).to_be_visible()


def test_ribbons_answer_home_end_and_the_page_keys(page):
    open_bench(page)
    before = part(page, "occasions", "noon")["when"]
    for ribbon, key, shown in (
        ("Hour of the day", "PageUp", "14:20"), ("Hour of the day", "Home", "00:00"), ("Hour of the day", "End", "23:55"),
        ("Day of the year", "PageDown", "22 May"), ("Day of the year", "Home", "1 Jan"), ("Day of the year", "End", "31 Dec"),
    ):  # fmt: skip
        slider = page.get_by_role("slider", name=ribbon)
        slider.focus()
        page.keyboard.press(key)
        expect(slider).to_have_attribute("aria-valuetext", shown)
    until(page, lambda: part(page, "occasions", "noon")["when"] == "2026-12-31T23:55:00")
    until(page, lambda: (page.keyboard.press("Control+z"), part(page, "occasions", "noon")["when"] == before)[1])


def test_a_lost_connection_is_announced_and_clears_by_itself(page, server):
    open_bench(page)
    server.stop()
    expect(page.get_by_test_id("picture-state")).to_contain_text("no connection to the server")
    hour = page.get_by_label("Hour", exact=True)
    hour.fill("11:00")
    hour.press("Enter")
    expect(page.get_by_text("edits are sent as soon as it is back")).to_be_visible()
    server.start()
    expect(page.get_by_text("edits are sent as soon as it is back")).to_have_count(0)
    expect(page.get_by_test_id("picture-state")).to_contain_text("live")
    until(page, lambda: part(page, "occasions", "noon")["when"].endswith("T11:00:00"))
    page.keyboard.press("Control+z")


@pytest.mark.parametrize("step", ["daylight", "fixtures", "lens", "stage"])
def test_switches_and_ticks_stand_in_their_lines(page, step):
    """What is drawn of them is placed within them: they must hold it, and lie within the line that names them."""
    page.goto(f"/p/small-room/bench/inside/noon?step={step}")
    ticks = page.locator(".form-check-input")
    expect(ticks.first).to_be_visible()
    for tick in ticks.all():
        box, line = tick.bounding_box(), tick.locator("xpath=..").bounding_box()
        assert tick.evaluate("e => getComputedStyle(e).position") == "relative"
        assert (
            box["height"] >= 24
            and line["x"] - 1 <= box["x"]
            and box["x"] + box["width"] <= line["x"] + line["width"] + 1
        )
