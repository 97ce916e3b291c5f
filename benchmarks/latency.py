"""From the browser's event to the first picture that answers it, ms: the whole way, in a real Chromium on a real server.

The page's own WebSocket is listened to: a wish carries a number, a picture the number of the wish it answers. Time runs from
the event to the frame of the screen after that picture arrived.
"""

from __future__ import annotations

import os
import re
import signal
import socket
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING

from valleylight.core.project import LoadedProject
from valleylight.server.store import migrations, storage, tables
from valleylight.server.store.files import FileStore
from valleylight.server.store.mariadb import PrivateMariaDB

if TYPE_CHECKING:
    from playwright.sync_api import Page

ROOT = Path(__file__).resolve().parents[1]
FLAGS = [
    "--no-sandbox", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
]  # fmt: skip
ROUNDS = 3
DRAG_S = 5.0
#: Notes the last event of a hand, the wishes sent since, and when the first picture that answers one is on the screen.
WATCH = """
window.seen = { event: 0, asked: null, answered: null, frames: 0 };
for (const kind of ["keydown", "pointerdown", "pointermove", "click", "change"])
    window.addEventListener(kind, (e) => { if (!window.seen.asked) window.seen.event = performance.now(); }, true);
const Plain = window.WebSocket;
window.WebSocket = class extends Plain {
    constructor(...given) {
        super(...given);
        this.addEventListener("message", (m) => {
            if (!(m.data instanceof ArrayBuffer)) return;
            window.seen.frames++;
            const length = new DataView(m.data).getUint32(0);
            const header = JSON.parse(new TextDecoder().decode(new Uint8Array(m.data, 4, length)));
            const { asked, answered } = window.seen;
            if (asked !== null && answered === null && header.serial >= asked)
                requestAnimationFrame(() => { window.seen.answered ??= performance.now() - window.seen.event; });
        });
    }
    send(data) {
        const wish = JSON.parse(data);
        if (wish.type === "show" && window.seen.armed) window.seen.asked ??= wish.serial;
        super.send(data);
    }
};
"""


def latencies(project: LoadedProject, say: Callable[[str], None]) -> dict[str, float]:
    """Median of some rounds for each kind of input, and pictures a second while the ribbon is dragged."""
    from playwright.sync_api import sync_playwright

    with _server(project) as (address, slug), sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, base_url=address)
        page.set_default_timeout(120_000)
        page.add_init_script(WATCH)
        figures: dict[str, float] = {}
        for name, path, prepare, act in _inputs(slug):
            say(f"Latency: {name}")
            page.goto(path)
            _settled(page)
            prepare(page)
            figures[f"latency_{name}_ms"] = statistics.median(_once(page, act, turn) for turn in range(ROUNDS))
        page.goto(f"/p/{slug}/bench/long-view/june-morning")
        _settled(page)
        figures["drag_pictures_per_s"] = _dragged(page)
        browser.close()
    return figures


def _inputs(slug: str) -> Iterator[tuple[str, str, Callable[[Page], object], Callable[[Page, int], object]]]:
    """Name, address, what to do first, and the input itself (with the number of the round)."""
    room, outside, night = (
        f"/p/{slug}/bench/{cell}"
        for cell in ("long-view/june-morning", "from-the-pond/june-morning", "long-view/july-night")
    )

    def focus(role: str, name: str | re.Pattern[str]) -> Callable[[Page], object]:
        return lambda page: page.get_by_role(role, name=name).first.focus()  # type: ignore[arg-type]

    def key(name: str) -> Callable[[Page, int], object]:
        return lambda page, turn: page.keyboard.press(name)

    hour = focus("slider", "Hour of the day")
    yield "hour_inside", room, hour, key("ArrowRight")
    yield "hour_outside", outside, hour, key("ArrowRight")
    yield "look", f"{room}?step=finish", focus("slider", "White, rule"), key("ArrowRight")
    yield "f_number", f"{room}?step=lens", focus("spinbutton", "f-number"), key("ArrowUp")
    yield "level", f"{night}?step=fixtures", focus("slider", re.compile("^Level of .*, rule")), key("ArrowLeft")
    yield "fixture", f"{night}?step=fixtures", _choose_fixture, key("ArrowUp")
    yield "surface", f"{room}?step=stage", _choose_surface, key("ArrowUp")
    yield (
        "white_card",
        f"{room}?step=stage",
        lambda page: None,
        lambda page, turn: page.get_by_label(re.compile("^White card")).click(),
    )
    yield "sky", f"{outside}?tab=sky", lambda page: None, lambda page, turn: page.get_by_label("Sky", exact=True).select_option(
        ("cie", "measured", "atmosphere")[turn % 3]
    )  # fmt: skip


def _choose_fixture(page: Page) -> None:
    page.get_by_role("button", name=re.compile(r" \d+$")).first.click()
    page.get_by_role("textbox", name="X", exact=True).focus()


def _choose_surface(page: Page) -> None:
    page.get_by_role("list", name="Surfaces of the stage").get_by_role("button").first.click()
    page.get_by_role("textbox", name="Roughness", exact=True).focus()


def _settled(page: Page) -> None:
    """Wait for the fine picture, so that every round begins alike."""
    _until(page, "document.querySelector('[data-testid=picture-state]')?.textContent.includes('848') ?? false")


def _until(page: Page, condition: str) -> None:
    """Wait for a condition of the page, asked from outside: its content policy allows no script to be made of text."""
    deadline = time.monotonic() + 120
    while not page.evaluate(condition):
        if time.monotonic() > deadline:
            raise RuntimeError(f"it never came true: {condition}")
        time.sleep(0.02)


def _once(page: Page, act: Callable[[Page, int], object], turn: int) -> float:
    _settled(page)
    page.evaluate("Object.assign(window.seen, { asked: null, answered: null, armed: true })")
    act(page, turn)
    _until(page, "window.seen.answered !== null")
    taken = float(page.evaluate("window.seen.answered"))
    page.evaluate("window.seen.armed = false")
    time.sleep(0.6)  # a run of key presses is saved
    return taken


def _dragged(page: Page) -> float:
    box = page.get_by_role("slider", name="Hour of the day").bounding_box()
    assert box is not None
    y = box["y"] + 20
    page.mouse.move(box["x"] + box["width"] * 0.4, y)
    page.mouse.down()
    page.evaluate("window.seen.frames = 0")
    began, step = time.monotonic(), 0
    while time.monotonic() - began < DRAG_S:
        step += 1
        page.mouse.move(box["x"] + box["width"] * (0.4 + 0.15 * (step % 60) / 60), y)
    frames = int(page.evaluate("window.seen.frames"))
    page.keyboard.press("Escape")
    page.mouse.up()
    return frames / DRAG_S


@contextmanager
def _server(project: LoadedProject) -> Iterator[tuple[str, str]]:
    """A server of its own with the project in it; yields its address and the project's slug."""
    with tempfile.TemporaryDirectory(prefix="valleylight-latency-", ignore_cleanup_errors=True) as folder:
        var = Path(folder)
        os.chmod(var, 0o755)  # the database runs as another user
        database = PrivateMariaDB(var / "mariadb", "latency")
        url = database.start()
        try:
            pool = tables.connect(url)
            with pool.connection_context():
                migrations.migrate(pool)
                slug = storage.create_project("", project, FileStore(var / "files")).slug
            pool.close_all()
            with socket.socket() as probe:
                probe.bind(("127.0.0.1", 0))
                port = probe.getsockname()[1]
            environment = {**os.environ, "VALLEYLIGHT_DATABASE_URL": url, "PYTHONPATH": str(ROOT / "src")}
            command = [sys.executable, "-m", "valleylight", "serve", "--port", str(port), "--var", str(var)]
            process = subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL)
            try:
                _answers(f"http://127.0.0.1:{port}/api/skies", process)
                yield f"http://127.0.0.1:{port}", slug
            finally:
                process.send_signal(signal.SIGINT)
                process.wait(40)
        finally:
            database.stop()


def _answers(url: str, process: subprocess.Popen[bytes]) -> None:
    deadline = time.monotonic() + 300
    while True:
        try:
            urllib.request.urlopen(url, timeout=2).read()
            return
        except OSError:
            if process.poll() is not None or time.monotonic() > deadline:
                raise RuntimeError("the server did not start") from None
            time.sleep(0.2)
