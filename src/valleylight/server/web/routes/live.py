"""The WebSocket of a project's page: live pictures, progress of plates, word of changes."""

from __future__ import annotations

import asyncio
import contextlib
import json

from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from fastapi.concurrency import run_in_threadpool
from pydantic import ValidationError

from valleylight.core.errors import InputError
from valleylight.core.lamps.along import with_lamps
from valleylight.core.project import words
from valleylight.core.project.changes import Change, changed
from valleylight.core.project.description import Project
from valleylight.core.sequence.course import Course
from valleylight.server.messages.wishes import HideLive, ShowLive
from valleylight.server.store import storage
from valleylight.server.web.context import Context, with_database
from valleylight.server.web.hub import Listener
from valleylight.server.web.schemas.live import Hide, RefusedNews, Said, Show

router = APIRouter()


@router.websocket("/api/projects/{slug}/live")
async def live(socket: WebSocket, slug: str) -> None:
    here: Context = socket.app.state.context
    slug = slug.lower()
    await socket.accept()
    listener = here.hub.join(slug)
    sender = asyncio.create_task(_send(socket, listener))
    try:
        while True:
            message = await socket.receive()
            if message["type"] == "websocket.disconnect":
                break
            await _hear(here, slug, message.get("text"), listener)
    except (WebSocketDisconnect, RuntimeError):
        pass
    finally:
        here.hub.leave(listener)
        sender.cancel()
        with contextlib.suppress(asyncio.CancelledError, Exception):
            await sender
        if not here.hub.anyone(slug):
            here.worker.send(HideLive())


async def _send(socket: WebSocket, listener: Listener) -> None:
    while True:
        for item in await listener.next():
            if isinstance(item, str):
                await socket.send_text(item)
            else:
                await socket.send_bytes(item)


async def _hear(here: Context, slug: str, text: str | None, listener: Listener) -> None:
    try:
        message = json.loads(text or "")
    except (ValueError, RecursionError):
        listener.tell(RefusedNews(serial=None, detail="What came is no JSON. Send a wish as the document's Show."))
        return
    serial = message.get("serial") if isinstance(message, dict) else None
    try:
        said = Said.validate_python(message)
        if isinstance(said, Hide):
            here.worker.send(HideLive())
            return
        project = await run_in_threadpool(_wished, slug, said)
    except ValidationError as error:
        detail = words.plain(dict(error.errors()[0]))
        listener.tell(RefusedNews(serial=serial if isinstance(serial, int) else None, detail=detail))
        return
    except InputError as error:
        listener.tell(RefusedNews(serial=serial, detail=str(error)))
        return
    here.worker.send(ShowLive(
        slug=slug, serial=said.serial, project=project, view=said.view, occasion=said.occasion, mode=said.mode,
        alone=said.alone, dragging=said.dragging,
    ))  # fmt: skip


def _wished(slug: str, said: Show) -> Project:
    """The description that is to be shown: at a moment of a sequence, where one is named."""
    project = with_draft(slug, said.draft)
    if said.moment is None:
        return project
    return Course(project, project.sequence(said.moment.sequence)).project_at(said.moment.second)


@with_database
def with_draft(slug: str, draft: list[Change]) -> Project:
    raw = storage.raw_description(storage.project_row(slug))
    changes = with_lamps(raw, [c for c in draft if c.part != "plate"], drafted=True)
    return storage.validated(changed(raw, changes, drafted=True))
