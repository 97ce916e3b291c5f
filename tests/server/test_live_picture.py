"""The live picture by itself: what is traced anew, what is kept, and what gives way to whom."""

from __future__ import annotations

import threading
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from tests import small
from valleylight.core.errors import InputError, StoppedError
from valleylight.core.project import Project
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.server.messages.events import LiveShown
from valleylight.server.messages.picture import LiveHeader
from valleylight.server.messages.wishes import ShowLive
from valleylight.server.worker import live
from valleylight.server.worker.live import LivePicture
from valleylight.server.worker.pace import FIRST_WIDTH, WIDTHS
from valleylight.server.worker.plates import CHUNK_S, LEAST_TILES, chunk_size

#: Smaller steps of refinement than the product's, where size does not matter.
FIRST, FINE = 160, 288


class Bench:
    """A live picture of the small room whose pictures are caught instead of sent."""

    def __init__(self, compiler, width: int = FINE, samples: int = 40) -> None:
        self.project = small.project()
        self.raw = self.project.description.model_dump(mode="json")
        self.sent: list[LiveShown] = []
        self.interrupt = threading.Event()
        files = type("Files", (), {"read": staticmethod(self.project.asset)})()
        self.picture = LivePicture(
            compiler, files, ThreadPoolExecutor(2), self.sent.append, self.interrupt, width=width, samples=samples
        )  # type: ignore[arg-type]

    def show(self, dragging: bool = False) -> None:
        self.picture.show(ShowLive(
            slug="s", serial=len(self.sent), project=Project.model_validate(self.raw), view="inside", occasion="noon",
            dragging=dragging,
        ))  # fmt: skip

    def until(self, width: int) -> LiveHeader:
        """Header of the first picture of a width from now on."""
        for _ in range(8):
            self.picture.step()
            header = self.sent[-1].header
            assert isinstance(header, LiveHeader)
            if header.width == width:
                return header
        raise AssertionError("it did not come")

    @property
    def film(self) -> np.ndarray:
        assert self.picture._film is not None
        return self.picture._film.balanced()


@pytest.fixture(scope="module")
def compiler():
    from valleylight.core.trace.scene.compiler import Compiler

    made = Compiler()
    made.stage(small.project())  # read beforehand: a busy machine takes longer than a step waits for it
    return made


@pytest.fixture
def bench(compiler, monkeypatch) -> Bench:
    monkeypatch.setattr(live, "FIRST_STEP", (FIRST, 1, "fast"))
    return Bench(compiler)


def test_a_first_picture_is_never_left_midway_but_refinement_is(bench):
    bench.show()
    bench.interrupt.set()
    assert bench.until(FIRST).samples == 1
    before = bench.film.copy()
    shown = len(bench.sent)
    bench.interrupt.set()
    bench.picture.step()
    assert len(bench.sent) == shown and not bench.interrupt.is_set()
    assert bench.until(FINE).samples == 2
    assert before.shape == (FIRST * 9 // 16, FIRST, 3)


def test_a_new_look_traces_nothing(bench, monkeypatch):
    bench.show()
    bench.until(FINE)
    monkeypatch.setattr(live, "trace", lambda *_: pytest.fail("it was traced"))
    monkeypatch.setattr(live, "CleanedFilm", lambda *_: pytest.fail("it was cleaned"))
    bench.raw["looks"][0]["treatments"][2]["kelvin"] = 4000
    bench.show()
    bench.picture.step()
    assert bench.sent[-1].header.width == FINE and bench.sent[-1].image != bench.sent[-2].image


def test_a_level_is_met_at_once_and_made_exact_at_rest(bench, monkeypatch):
    bench.show()
    bench.until(FINE)
    bench.picture._plan = []
    bench.raw["occasions"][0]["sun"]["level_stops"] = -2.0
    bench.show(dragging=True)
    bench.picture.step()
    at_once = np.asarray(bench.picture._cleaned.picture)
    assert not bench.picture._cleaned.is_exact and bench.picture.has_work
    monkeypatch.setattr(live, "REST_S", 0.0)
    bench.picture.step()
    at_rest = np.asarray(bench.picture._cleaned.picture)
    assert bench.picture._cleaned.is_exact and not bench.picture._owes
    assert at_once.mean() == pytest.approx(at_rest.mean(), rel=0.02)
    assert np.abs(at_once - at_rest).mean() < 0.08 * at_rest.mean()


def test_a_pass_that_was_not_cleaned_yet_does_not_keep_the_hand_waiting(bench, monkeypatch):
    """What was cleaned of the film before will do for a look or a level; the pass is shown when the hand rests."""
    bench.show()
    bench.until(FINE)
    with monkeypatch.context() as m:
        m.setattr(live, "CleanedFilm", lambda *_: (_ for _ in ()).throw(StoppedError))
        bench.picture.step()
    samples = bench.picture._film.samples
    assert not bench.picture._cleaned.is_of(bench.picture._film)
    bench.raw["looks"][0]["treatments"][2]["kelvin"] = 4000
    with monkeypatch.context() as m:
        m.setattr(live, "CleanedFilm", lambda *_: pytest.fail("it was cleaned"))
        bench.show()
        bench.picture.step()
    bench.picture._plan = []
    assert bench.picture.has_work
    monkeypatch.setattr(live, "REST_S", 0.0)
    bench.picture.step()
    assert bench.picture._cleaned.is_of(bench.picture._film) and not bench.picture._owes
    assert bench.sent[-1].header.samples == samples


@pytest.mark.parametrize(("iso", "anew"), [(300.0, False), (3200.0, True), (12.0, True)])
def test_another_exposure_is_shown_at_once_and_far_off_traced_anew(compiler, bench, iso, anew):
    """The firefly limit follows the lens: a film of another exposure would stay too dark or too bright."""
    bench.show()
    bench.until(FINE)
    bench.raw["views"][0]["lens"]["iso"] = iso  # it was 200
    bench.show()
    bench.picture.step()
    assert bench.sent[-1].header.width == FINE
    assert bench.picture._renewing == anew
    if not anew:
        return
    bench.until(FIRST)
    bench.until(FINE)
    fresh = Bench(compiler)
    fresh.raw = bench.raw
    fresh.show()
    fresh.until(FINE)
    assert np.array_equal(bench.film, fresh.film)


@pytest.mark.parametrize("dimming", ["steady", "warm", "incandescent"])
def test_a_dimmer_that_warms_its_light_is_shown_at_once_and_traced_anew_at_rest(compiler, bench, dimming):
    bench.raw["kinds"][1]["dimming"] = dimming
    bench.raw["occasions"][0]["sun"]["level_stops"] = bench.raw["occasions"][0]["sky"]["level_stops"] = -8.0
    bench.show()
    bench.until(FINE)
    bench.raw["occasions"][0]["levels"]["Pendants"] = 30.0
    bench.show(dragging=True)
    bench.picture.step()
    assert bench.sent[-1].header.width == FINE
    assert bench.picture._film is not None  # while in hand nothing is traced
    before = bench.picture._cleaned.picture.mean((0, 1))
    bench.show()
    bench.picture.step()
    assert bench.picture._renewing == (dimming != "steady")
    if dimming == "steady":
        return
    bench.until(FIRST)
    bench.until(FINE)
    after = bench.picture._cleaned.picture.mean((0, 1))
    assert after[0] / after[2] > 1.05 * before[0] / before[2]  # warmer, as dimmed lamps are
    fresh = Bench(compiler)
    fresh.raw = bench.raw
    fresh.show()
    fresh.until(FINE)
    assert np.array_equal(bench.film, fresh.film)


def test_a_film_that_is_traced_anew_answers_until_the_new_one_is_there(bench):
    """Pressing on while the first pass for another exposure is traced is answered from the film at hand, not by a small new one."""
    bench.show()
    bench.until(FINE)
    old = bench.picture._film
    for iso in (3200.0, 6400.0):
        bench.raw["views"][0]["lens"]["iso"] = iso
        bench.show()
        bench.picture.step()
        assert bench.sent[-1].header.width == FINE and bench.picture._film is old
        bench.interrupt.set()  # the next press comes amid the new film's first pass
        bench.picture.step()
        assert bench.picture._film is old and bench.picture._renewing
    assert bench.until(FIRST).samples == 1
    assert bench.picture._film is not old and not bench.picture._renewing


def test_pictures_of_a_drag_follow_the_pace_of_the_machine(bench):
    for _ in range(8):
        bench.picture._pace.learn(FIRST_WIDTH, 0.05, 4.0)
    bench.show(dragging=True)
    bench.picture.step()
    assert bench.sent[-1].header.width == min(WIDTHS) and bench.sent[-1].header.samples == 1
    assert bench.picture._pace.pixel_s < 4.0 / (FIRST_WIDTH**2 * 9 / 16)  # and it was quicker than believed


def test_nothing_is_refined_while_the_hand_moves(bench, monkeypatch):
    """The next wish of a drag is on its way: what is begun between two would only be thrown away."""
    monkeypatch.setattr(live, "DRAG_REST_S", 1000.0)
    bench.show(dragging=True)
    bench.picture.step()
    shown = len(bench.sent)
    for _ in range(5):
        bench.picture.step()
    assert len(bench.sent) == shown and bench.picture.has_work
    monkeypatch.setattr(live, "DRAG_REST_S", 0.0)
    assert bench.until(FINE).samples == 2


def test_steps_of_refinement_are_equally_bright(compiler, monkeypatch):
    """From the smallest to the fine picture the mean stays within what one sample's noise leaves."""
    monkeypatch.setattr(live, "DRAG_REST_S", 0.0)
    bench = Bench(compiler, 848)
    for _ in range(8):
        bench.picture._pace.learn(FIRST_WIDTH, 0.05, 4.0)
    bench.show(dragging=True)
    means = []
    for width in (min(WIDTHS), 480, 848):
        bench.until(width)
        means.append(float(bench.film.mean()))
    assert means == pytest.approx([means[-1]] * 3, rel=0.07)


@pytest.mark.parametrize(("done", "seconds"), [(8, 0.02), (8, 0.12), (40, 3.0), (1, 0.0), (900, 1e-6)])
def test_chunks_of_plates_come_near_their_time(done, seconds):
    wanted = chunk_size(done, seconds)
    assert wanted >= LEAST_TILES or wanted == 2 * done
    assert wanted <= max(2 * done, LEAST_TILES)
    if LEAST_TILES < wanted < 2 * done:
        assert wanted * seconds / done == pytest.approx(CHUNK_S, rel=0.2)


def test_levels_are_made_ready_at_rest_and_give_way(bench, monkeypatch):
    """What the next level needs is worked out while nothing else is to be done, is left at once, and changes no picture."""
    bench.show()
    bench.until(FINE)
    bench.picture._plan = []
    monkeypatch.setattr(live, "REST_S", 0.0)
    bench.picture._interrupt.set()
    waiting = list(bench.picture._cleaned.not_ready)
    while bench.picture._owes:
        bench.picture.step()
    bench.picture._interrupt.set()
    bench.picture.step()
    assert len(bench.picture._cleaned.not_ready) >= len(waiting) - 1 and not bench.picture._interrupt.is_set()
    shown, steps = len(bench.sent), 0
    while bench.picture.has_work:
        bench.picture.step()
        steps += 1
    assert bench.picture._cleaned.not_ready == [] and 0 < steps <= len(waiting) + 1
    assert len(bench.sent) == shown
    with monkeypatch.context() as m:
        m.setattr("valleylight.server.worker.cleaned.clean_picture", lambda *_: pytest.fail("it was cleaned again"))
        bench.raw["occasions"][0]["sun"]["level_stops"] = -1.0
        bench.show(dragging=True)
        bench.picture.step()
    assert len(bench.sent) == shown + 1


class SlowCompiler(Compiler):
    """Reads no model before it may."""

    def __init__(self) -> None:
        super().__init__()
        self.may, self.fault = threading.Event(), None

    def stage(self, project):
        if not self.has_read(project):
            self.may.wait(20)
            if self.fault:
                raise self.fault
        return super().stage(project)


def test_while_a_model_is_read_there_is_time_for_others():
    slow = SlowCompiler()
    bench = Bench(slow)
    bench.show()
    for _ in range(3):
        bench.picture.step()  # comes back although nothing was read
    assert bench.picture.is_reading and bench.picture.has_work and bench.sent == []
    slow.may.set()
    while not bench.sent:
        bench.picture.step()
    assert not bench.picture.is_reading and isinstance(bench.sent[0].header, LiveHeader)


def test_a_model_that_cannot_be_read_is_told_and_asked_for_anew():
    slow = SlowCompiler()
    slow.fault = InputError("the file is cut off", "tower.glb", "Copy it again")
    slow.may.set()
    bench = Bench(slow)
    bench.show()
    while not bench.sent:
        bench.picture.step()
    assert "cut off" in bench.sent[0].header.error and "tower.glb" in bench.sent[0].header.error
    assert not bench.picture.has_work
    slow.fault = None
    bench.raw["occasions"][0]["sun"]["size"] = 2.0
    bench.show()
    while len(bench.sent) < 2:
        bench.picture.step()
    assert isinstance(bench.sent[1].header, LiveHeader)


@pytest.mark.parametrize(
    ("samples", "counts"), [(40, [2, 3, 5, 10, 20]), (4, [2, 2]), (1, [1]), (99, [2, 3, 5, 10, 20, 20, 20, 19])]
)
def test_refinement_takes_as_many_samples_as_are_wanted(samples, counts):
    """A studio's machine may take more than the usual 40, or fewer."""
    assert live.passes(samples) == counts


def test_refinement_ends_where_it_is_set_to(compiler, monkeypatch):
    monkeypatch.setattr(live, "FIRST_STEP", (FIRST, 1, "fast"))
    bench = Bench(compiler, samples=4)
    bench.show()
    while bench.picture._plan:
        bench.picture.step()
    last = bench.sent[-1].header
    assert (last.width, last.samples, last.last) == (FINE, 4, True)
