"""The server's side of the worker: start it, ask it, pass its events on, and start it again when it dies."""

from __future__ import annotations

import asyncio
import itertools
import multiprocessing
import threading
from collections.abc import Callable
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from typing import Any

from valleylight.core.errors import InputError, NotFoundError
from valleylight.server.messages.events import Answer, Died, Event, Failure, Refusal
from valleylight.server.messages.questions import AnyQuestion
from valleylight.server.messages.wishes import Ask, Wish
from valleylight.server.settings import Settings

ANSWER_SECONDS = 180.0
RESTART_SECONDS = 0.5  # a worker that cannot start must not keep a core busy
_context = multiprocessing.get_context("spawn")


class WorkerGoneError(RuntimeError):
    """The worker died before it answered; it is being started again."""


class WorkerLink:
    """Owns the worker process. Events go to `on_event` on the event loop."""

    def __init__(self, settings: Settings, on_event: Callable[[Event], None]) -> None:
        self._settings, self._on_event = settings, on_event
        self._loop: asyncio.AbstractEventLoop | None = None
        self._process: BaseProcess | None = None
        self._link: Connection | None = None
        self._closing = False
        self._numbers = itertools.count(1)
        self._waiting: dict[int, asyncio.Future[Any]] = {}
        self._lock = threading.Lock()
        self.pid: int | None = None

    def start(self, loop: asyncio.AbstractEventLoop) -> None:
        self._loop = loop
        self._spawn()

    def stop(self) -> None:
        """End the worker; a job in the making goes on at the next start."""
        self._closing = True
        if self._process is not None:
            self._process.terminate()
            self._process.join(10)
            if self._process.is_alive():
                self._process.kill()

    def send(self, wish: Wish) -> bool:
        """Tell the worker something. Returns False when it is just being started again."""
        with self._lock:
            try:
                if self._link is None:
                    return False
                self._link.send(wish)
            except (BrokenPipeError, OSError):
                return False
        return True

    async def ask(self, question: AnyQuestion) -> Any:
        """Ask and wait. Raises InputError from the worker, WorkerGoneError, or TimeoutError."""
        number = next(self._numbers)
        future: asyncio.Future[Any] = asyncio.get_running_loop().create_future()
        self._waiting[number] = future
        try:
            if not self.send(Ask(number=number, question=question)):
                raise WorkerGoneError("the renderer stopped; it is being started again")
            return await asyncio.wait_for(future, ANSWER_SECONDS)
        finally:
            self._waiting.pop(number, None)

    def _spawn(self) -> None:
        from valleylight.server.worker import loop as worker

        ours, theirs = _context.Pipe()
        self._process = _context.Process(
            target=worker.run, args=(theirs, self._settings), name="valleylight-worker", daemon=True
        )
        self._process.start()
        self.pid = self._process.pid
        theirs.close()
        self._link = ours
        threading.Thread(target=self._listen, args=(ours,), daemon=True).start()

    def _listen(self, link: Connection) -> None:
        assert self._loop is not None
        while True:
            try:
                event = link.recv()
            except (EOFError, OSError):
                break
            self._call(self._dispatch, event)
        if not self._closing:
            self._call(self._died)

    def _call(self, function: Callable[..., None], *arguments: Any) -> None:
        assert self._loop is not None
        if not self._loop.is_closed():
            self._loop.call_soon_threadsafe(function, *arguments)

    def _dispatch(self, event: Event) -> None:
        if not isinstance(event, Answer | Refusal | Failure):
            self._on_event(event)
            return
        future = self._waiting.get(event.number)
        if future is None or future.done():
            return
        match event:
            case Answer():
                future.set_result(event.value)
            case Refusal():
                future.set_exception((NotFoundError if event.missing else InputError)(event.what, event.where, event.remedy))
            case Failure():
                future.set_exception(RuntimeError(event.reason))

    def _died(self) -> None:
        for future in self._waiting.values():
            if not future.done():
                future.set_exception(WorkerGoneError("the renderer stopped; it is being started again"))
        self._link = None
        self._on_event(Died())
        assert self._loop is not None
        self._loop.call_later(RESTART_SECONDS, self._restart)

    def _restart(self) -> None:
        if not self._closing:
            self._spawn()
