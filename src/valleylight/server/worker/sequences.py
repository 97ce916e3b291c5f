"""Sequences in the making: frame after frame, each kept as soon as it is done, so that whoever dies goes on from there."""

from __future__ import annotations

import time
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from peewee import PeeweeException

from valleylight.core.compose.composer import Composer
from valleylight.core.compose.sprites import Sprites
from valleylight.core.errors import InputError
from valleylight.core.film.exr import read_exr
from valleylight.core.film.png import png
from valleylight.core.finish.balance import balance_of
from valleylight.core.finish.between import Side
from valleylight.core.project.archive import LoadedProject
from valleylight.core.project.captions import caption_of
from valleylight.core.project.sequence import Sequence
from valleylight.core.sequence import of_plates
from valleylight.core.sequence.frame import FrameMaker, Traced
from valleylight.core.sequence.frame_file import read_frame, write_frame
from valleylight.core.sequence.steady import Remembered
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.server import logs
from valleylight.server.messages.events import Event, RunChanged
from valleylight.server.messages.films import FILM_OF_PLATES, Fade, Wipe
from valleylight.server.store import jobs
from valleylight.server.store.files import FileStore
from valleylight.server.store.runs import QUEUE, Frames, numbers_of
from valleylight.server.store.storage import plate_description
from valleylight.server.store.tables import PlateRow, RunRow
from valleylight.server.worker.heartbeat import Heartbeat
from valleylight.server.worker.plates import FIRST_TILES, TELL_EVERY_S, chunk_size
from valleylight.server.worker.reading import Reading

log = logs.log()
AFTER_A_STOP = "Interrupted when the server ended; going on from the last frame"


@dataclass
class _Making:
    run: RunRow
    frames: Frames
    missing: list[int]
    started: float
    spent_before: float
    told: float
    made_here: int = 0
    at_once: int = FIRST_TILES
    maker: FrameMaker | None = None  # of a traced sequence
    picture_at: Callable[[float], NDArray[np.uint8]] | None = None  # of one of plates
    begun: bool = False
    last: tuple[int, Remembered] | None = None
    finishing: Future[int] | None = None


class SequenceMaker:
    """Makes waiting sequences one after the other, when no plate waits."""

    def __init__(
        self, compiler: Compiler, files: FileStore, pool: ThreadPoolExecutor, send: Callable[[Event], None],
        reading: Reading | None = None, holder: str = "", sprites: Sprites | None = None,
    ) -> None:  # fmt: skip
        self._composer = Composer(sprites or Sprites(files.read))
        self._compiler, self._files, self._pool, self._send = compiler, files, pool, send
        self._holder = holder or jobs.holder_of(files.folder)
        self._heart = Heartbeat(self._holder, QUEUE)
        self._reading = reading or Reading(compiler)
        self._making: _Making | None = None
        #: Finishes a frame while the next is traced.
        self._finisher = ThreadPoolExecutor(1, "frames")
        self._maybe_more = True

    @property
    def has_work(self) -> bool:
        return self._making is not None or self._maybe_more

    def wake(self) -> None:
        self._maybe_more = True

    def look_again(self) -> None:
        """Take up what another renderer let lie, if its lease has run out."""
        self.adopt()
        self._maybe_more = QUEUE.next_waiting() is not None

    def adopt(self) -> None:
        """Forsaken runs go back in the queue, and say so; those that were to stop are stopped."""
        for run in QUEUE.stops_unheard():
            self._end(run, "stopped", "Stopped")
        for run in QUEUE.forsaken(self._holder):
            if run.stop_asked:
                self._end(run, "stopped", "Stopped")
            elif run.interruptions + 1 >= jobs.MOST_DEATHS:
                run.interruptions += 1
                message = f"The renderer died {run.interruptions} times at one frame; the sequence was set aside. Look for what is new on the stage, then go on"
                self._end(run, "failed", message)
            else:
                QUEUE.take_back(run, "Interrupted; going on from the last frame")

    def leave(self) -> None:
        """The server goes, and this process with it. That is no death."""
        QUEUE.let_go(self._holder, AFTER_A_STOP)

    def stop(self, run_id: int) -> None:
        """Stop a run, running or waiting; its frames stay."""
        run = RunRow.get_or_none(RunRow.id == run_id)
        if run is None or run.status not in jobs.UNDERWAY:
            return
        making = self._making
        if making is not None and making.run.id == run_id:
            try:
                self._tell(making)
            except jobs.LeaseLostError:
                self._put_down()
                return
            run = making.run
            self._put_down()
        elif run.status == "running" and run.holder != self._holder:
            return  # another renderer has it, and reads in the queue that it is to stop
        self._end(run, "stopped", "Stopped")

    def step(self) -> None:
        """The next chunk of the frame in hand, or the start of the next one."""
        making = self._making
        if making is None:
            run = QUEUE.next_waiting()
            if run is None:
                self._maybe_more = False
                return
            self._guarded(run, lambda: self._begin(run))
            return
        if self._heart.lost:
            self._put_down()
        elif self._heart.is_to_stop:
            self.stop(making.run.id)
        else:
            self._guarded(making.run, lambda: self._chunk(making))

    def _put_down(self) -> None:
        self._making = None
        self._heart.let_go()

    def _guarded(self, run: RunRow, work: Callable[[], None]) -> None:
        try:
            work()
        except PeeweeException:
            raise  # the database is away for a moment: the frame at hand is kept, and the work goes on afterwards
        except jobs.LeaseLostError:
            self._put_down()
        except InputError as error:
            self._put_down()
            self._end(run, "failed", str(error))
        except Exception as error:
            log.exception("a sequence failed", run=run.id)
            self._put_down()
            self._end(run, "failed", f"The sequence could not be made ({type(error).__name__}: {error})")

    def _begin(self, run: RunRow) -> None:
        project = (
            None if run.kind != "traced" else LoadedProject(plate_description(str(run.settings_id)), self._files.read)
        )
        if project is not None and not self._reading.is_done(project):
            return
        # Written down before anything is set up: a stage that ends the process must be counted against its run.
        if not QUEUE.hold(run, self._holder):
            return
        self._heart.hold(run.id)
        frames = Frames(self._files, run.id)
        frames.begin()
        done = set(frames.made())
        missing = [n for n in numbers_of(run) if n not in done]
        clock = time.monotonic()
        making = _Making(run, frames, missing, clock, run.seconds_spent, clock)
        if project is not None:
            making.maker = FrameMaker(
                self._compiler, self._composer, self._pool, project, Sequence.model_validate(run.wanted),
                (run.width, run.height), run.quality, run.step,
            )  # fmt: skip
        else:
            making.picture_at = self._of_plates(run)
        self._making = making
        self._tell(making)

    def _chunk(self, m: _Making) -> None:
        if m.finishing is not None and (m.finishing.done() or not m.missing):
            m.finishing.result()
            m.finishing = None
            self._made(m)
        if not m.missing:
            there = set(m.frames.made())
            m.missing = [n for n in numbers_of(m.run) if n not in there]
        if not m.missing:
            self._put_down()
            self._end(m.run, "done", "")
            return
        number = m.missing[0]
        if m.maker is None:
            assert m.picture_at is not None
            share = number / max((m.run.frames - 1) * m.run.step, 1)
            m.frames.keep(number, png(m.picture_at(share), effort=3))
            m.missing.pop(0)
            self._made(m)
            return
        if not m.begun:
            before = number - m.run.step
            m.maker.begin(number, m.finishing is not None or m.frames.linear(before).is_file())
            m.begun = True
        began = time.monotonic()
        done = m.maker.trace_some(m.at_once)
        m.at_once = chunk_size(m.at_once, time.monotonic() - began)
        if done:
            traced = m.maker.take()
            m.missing.pop(0)
            m.begun = False
            last, m.finishing = m.finishing, self._finisher.submit(self._finish, m, traced)
            if (
                last is not None
            ):  # told at the end: the database may be away, and what is traced must not be lost by that
                last.result()
                self._made(m)
        elif time.monotonic() - m.told > TELL_EVERY_S:
            self._tell(m)

    def _finish(self, m: _Making, traced: Traced) -> int:
        """Finish a frame and keep it, beside the tracing of the next."""
        assert m.maker is not None
        frame = m.maker.finish(traced, self._before(m, traced.number))
        description = m.maker.course.project_at(m.maker.course.second_of(traced.number))
        sequence = m.maker.course.sequence
        caption = caption_of(description, description.view(sequence.view), description.occasion(sequence.occasion))
        write_frame(frame.kept, m.frames.linear(traced.number), caption.title)
        m.frames.keep(traced.number, png(frame.picture, caption, effort=3))
        m.last = (traced.number, frame.kept)
        return traced.number

    def _made(self, m: _Making) -> None:
        """A frame more is there."""
        m.made_here += 1
        m.run.interruptions = 0  # what has made a frame since did not die of the stage
        m.frames.begin()
        self._tell(m)

    def _before(self, m: _Making, number: int) -> Remembered | None:
        """What is kept of the frame before one, in memory or on the disk."""
        before = number - m.run.step
        if m.last is not None and m.last[0] == before:
            return m.last[1]
        path = m.frames.linear(before) if before >= 0 else None
        if path is None or m.maker is None or not path.is_file():
            return None
        try:
            return read_frame(path, m.maker.camera(before))
        except InputError:
            return None  # damaged: the frame begins by itself

    def _of_plates(self, run: RunRow) -> Callable[[float], NDArray[np.uint8]]:
        wanted = FILM_OF_PLATES.validate_python(run.wanted)
        first = self._shown(wanted.first)
        if isinstance(wanted, Fade):
            second = self._shown(wanted.second)
            return lambda share: of_plates.faded(first, second, share, self._files.read)
        if isinstance(wanted, Wipe):
            return of_plates.Wipe(first, self._shown(wanted.second), self._files.read).at
        return of_plates.Push(first, wanted.ahead, wanted.right, wanted.up, self._files.read).at

    def _shown(self, plate_id: int) -> of_plates.Shown:
        plate = PlateRow.get_or_none(PlateRow.id == plate_id)
        if plate is None or plate.film is None:
            raise InputError(f"plate {plate_id} is not there any more", "plate", "Choose plates that are made")
        project = plate_description(plate.settings_id)
        view, occasion = project.view(plate.view_key), project.occasion(plate.occasion_key)
        film = read_exr(self._files.path(plate.film))
        white = float(film.settings.get("saturation_cd_m2", 1.0))
        return of_plates.Shown(Side(film, balance_of(occasion).gains(film), white), project.look_for(view, occasion))

    def _tell(self, m: _Making) -> None:
        m.told = time.monotonic()
        spent = m.told - m.started
        here = m.made_here + (m.maker.progress if m.maker is not None and m.begun else 0.0)
        left = len(m.missing) + (m.finishing is not None)
        m.run.frames_done = m.run.frames - left
        m.run.seconds_spent = m.spent_before + spent
        m.run.seconds_left = spent / here * (m.made_here + left - here) if here > 0.2 else None
        QUEUE.tell(m.run, self._holder)
        self._send(RunChanged(run=m.run.id))

    def _end(self, run: RunRow, status: str, message: str) -> None:
        try:
            QUEUE.end(run, status, message)
        except jobs.LeaseLostError:
            return
        self._send(RunChanged(run=run.id))
