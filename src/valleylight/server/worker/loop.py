"""The worker process: one scheduler for the bench's live picture, plates in the making and small questions.

What the artist waits for comes first: questions, then the first live picture, then by turns its refinement and the small
pictures of catalogues, then plates, then sequences. A plate is made in chunks of a fraction of a second, so that the bench stays quick while one is in the making.
"""

from __future__ import annotations

import contextlib
import os
import queue
import signal
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from multiprocessing.connection import Connection
from typing import Any

from peewee import PeeweeException

from valleylight.core.compose.sprites import Sprites
from valleylight.core.errors import InputError, NotFoundError, StoppedError
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.server import logs
from valleylight.server.messages.events import Answer, Event, Failure, Ready, Refusal
from valleylight.server.messages.questions import AnyQuestion, KeepLive, LiveScopes, MarkLimit, Meter, TryLooks
from valleylight.server.messages.wishes import (
    Ask,
    CatalogueGrew,
    HideLive,
    PlateWaiting,
    RunWaiting,
    ShowLive,
    StopJob,
    StopRun,
    Wish,
)
from valleylight.server.settings import Settings
from valleylight.server.store import tables
from valleylight.server.store.files import FileStore
from valleylight.server.worker import answers
from valleylight.server.worker.desk import Desk
from valleylight.server.worker.live import LivePicture
from valleylight.server.worker.plates import PlateMaker
from valleylight.server.worker.portraits import PortraitMaker
from valleylight.server.worker.reading import Reading
from valleylight.server.worker.sequences import SequenceMaker

log = logs.log()

#: An idle worker looks so often whether another renderer left a plate behind.
LOOK_AGAIN_S = 15.0
#: How long the worker waits before it asks a database again that did not answer.
DATABASE_AWAY_S = 1.0
#: How far the tracer stands back (nice value) so that the server and the artist's browser answer while it fills all cores.
LESS_THAN_THE_SCREEN = 5


def run(link: Connection, settings: Settings) -> None:
    """Body of the process: serve until the link closes."""
    logs.install(settings)
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the server decides when we stop
    os.nice(LESS_THAN_THE_SCREEN)
    tables.connect(settings.database_url)
    worker = Worker(link, FileStore(settings.files), settings.live_width, settings.live_samples)
    signal.signal(signal.SIGTERM, lambda *_: worker.leave_soon())
    worker.serve()


class Worker:
    def __init__(self, link: Connection, files: FileStore, width: int, samples: int) -> None:
        self._link = link
        self._send_lock = threading.Lock()
        self._inbox: queue.SimpleQueue[Wish] = queue.SimpleQueue()
        self._patient: list[Ask] = []
        self._answered = False  # the last piece of work was a patient question's
        self._interrupt = threading.Event()
        compiler, pool = Compiler(), ThreadPoolExecutor(os.cpu_count() or 1)
        self._files = files
        self._compiler = compiler
        reading = Reading(compiler)
        self._sprites = Sprites(files.read, files.scratch)
        self._live = LivePicture(
            compiler, files, pool, self.send, self._interrupt, reading, width, samples, self._sprites
        )
        self._plates = PlateMaker(compiler, files, pool, self.send, reading, sprites=self._sprites)
        self._runs = SequenceMaker(compiler, files, pool, self.send, reading, sprites=self._sprites)
        self._portraits = PortraitMaker(files, self.send)
        self._pictured = False  # the last piece of work in the background was a portrait

    def send(self, event: Event) -> None:
        """Send an event to the server; when it is gone there is nobody left to tell."""
        try:
            with self._send_lock:
                self._link.send(event)
        except (BrokenPipeError, OSError):
            self._leave()

    def serve(self) -> None:
        threading.Thread(target=self._listen, daemon=True).start()
        self._adopt()
        self.send(Ready())
        while True:
            background = self._plates.has_work or self._portraits.has_work or self._runs.has_work
            busy = self._live.has_work or background or bool(self._patient)
            try:
                message = self._inbox.get(block=not busy, timeout=LOOK_AGAIN_S)
            except queue.Empty:
                self._work(self._step if busy else self._look_again)
                continue
            self._interrupt.clear()
            try:
                self._handle(message)
            except PeeweeException:
                log.exception("a message could not be handled: the database is away")
                tables.database.close_all()

    def _look_again(self) -> None:
        """Another renderer may have left a plate or a sequence."""
        self._plates.look_again()
        self._runs.look_again()

    def _adopt(self) -> None:
        while True:
            try:
                self._plates.adopt()
                self._runs.adopt()
                return
            except PeeweeException:
                tables.database.close_all()
                time.sleep(DATABASE_AWAY_S)

    def _listen(self) -> None:
        while True:
            try:
                message = self._link.recv()
            except (EOFError, OSError):
                self._leave()
            self._inbox.put(message)
            if self._interrupts(message):
                self._interrupt.set()

    def _interrupts(self, wish: Wish) -> bool:
        """Whether the live picture is left at once; its last refinements give way to any question."""
        if isinstance(wish, Ask):
            return not (wish.question.patient and self._live.is_rough)
        return isinstance(wish, ShowLive | HideLive)

    def leave_soon(self) -> None:
        """Asked to end: a thread of its own does it, for the one at work may be amid a question to the database."""
        threading.Thread(target=self._leave, daemon=True).start()

    def _leave(self) -> None:
        """The server is gone: end at once, whatever is in hand."""
        with contextlib.suppress(Exception), tables.database.connection_context():
            self._plates.leave()
            self._runs.leave()
        os._exit(0)

    def _work(self, step: Callable[[], None]) -> None:
        try:
            step()
        except PeeweeException:  # the database is away: it is being started again
            log.exception("work waits: the database is away")
            tables.database.close_all()
            time.sleep(DATABASE_AWAY_S)

    def _step(self) -> None:
        background = self._plates.has_work or self._portraits.has_work or self._runs.has_work
        live_first = self._live.is_rough or not background
        live_is_new = self._live.is_new and not self._live.is_reading
        if self._patient and not (live_is_new or (self._live.is_rough and self._answered)):
            self._answered = True
            self._answer(self._patient.pop())  # the newest: what is looked at now
        elif live_first:
            self._answered = False
            self._live.step()
        elif self._portraits.has_work and not (self._pictured and (self._plates.has_work or self._runs.has_work)):
            self._pictured = True
            self._portraits.step()
        else:
            self._pictured = False
            # A sequence is made for hours: plates, which take minutes, go before it.
            (self._plates if self._plates.has_work else self._runs).step()

    def _handle(self, wish: Wish) -> None:
        match wish:
            case ShowLive():
                self._live.show(wish)
            case HideLive():
                self._live.off()
            case PlateWaiting():
                self._plates.wake()
            case CatalogueGrew():
                self._portraits.wake()
            case StopJob():
                self._plates.stop(wish.job)
            case RunWaiting():
                self._runs.wake()
            case StopRun():
                self._runs.stop(wish.run)
            case Ask() if wish.question.patient:
                self._patient.append(wish)
            case Ask():
                self._answer(wish)

    def _answer(self, ask: Ask) -> None:
        number = ask.number
        try:
            self.send(Answer(number=number, value=self._value(ask.question)))
        except StoppedError:  # a patient question gives way and is asked again
            self._interrupt.clear()
            self._patient.append(ask)
        except InputError as error:
            missing = type(error) is NotFoundError
            self.send(Refusal(number=number, missing=missing, what=error.what, where=error.where, remedy=error.remedy))
        except Exception as error:  # the worker must outlive any single question
            log.exception("a question could not be answered", question=type(ask.question).__name__)
            self.send(Failure(number=number, reason=f"{type(error).__name__}: {error}"))

    def _value(self, question: AnyQuestion) -> Any:
        match question:
            case Meter():
                return self._live.meter(question)
            case TryLooks() | MarkLimit():
                return self._live.choose(question)
            case LiveScopes():
                return self._live.scopes(question)
            case KeepLive():
                return self._live.keep(question)
            case _:
                stop = self._interrupt.is_set if question.patient else lambda: False
                return answers.answer_question(question, Desk(self._compiler, self._files, self._sprites, stop))
