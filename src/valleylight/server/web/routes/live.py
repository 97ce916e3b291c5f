"""The WebSocket of a project's page: live pictures, progress of plates, word of changes."""

from __future__ import annotations

import asyncio
import contextlib
from typing import Any, Literal

from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from valleylight.core.errors import InputError
from valleylight.core.project import words
from valleylight.core.project.changes import Change, changed
from valleylight.server.store import storage
from valleylight.server.web.context import Context, with_database

router = APIRouter()


class Show(BaseModel):
    """Show a view at an occasion, with changes not saved yet."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)
    type: Literal["show"]
    serial: int
    view: str
    occasion: str
    draft: list[Change] = Field([], max_length=2000)
    dragging: bool = Field(False, description="Something is being dragged: pictures may be smaller, but must keep coming")
    mode: Literal["picture", "luminance", "illuminance", "clipped"] = "picture"
    alone: str | None = Field(None, max_length=80, description="The only fixture group that is shown")


@router.websocket("/api/projects/{slug}/live")
async def live(socket: WebSocket, slug: str) -> None:
    here: Context = socket.app.state.context
    await socket.accept()
    listener = here.hub.join(slug.lower())
    sender = asyncio.create_task(_send(socket, listener))
    try:
        while True:
            message = await socket.receive_json()
            if message.get("type") == "hide":
                here.worker.send({"do": "live_off"})
            else:
                await _show(here, slug, message, listener)
    except (WebSocketDisconnect, RuntimeError, ValueError):
        pass
    finally:
        here.hub.leave(listener)
        sender.cancel()
        with contextlib.suppress(asyncio.CancelledError, Exception):
            await sender
        if not here.hub.anyone(slug):
            here.worker.send({"do": "live_off"})


async def _send(socket: WebSocket, listener: Any) -> None:
    while True:
        for item in await listener.next():
            if isinstance(item, str):
                await socket.send_text(item)
            else:
                await socket.send_bytes(item)


async def _show(here: Context, slug: str, message: Any, listener: Any) -> None:
    try:
        show = Show.model_validate(message)
        raw = await run_in_threadpool(with_draft, slug, show.draft)
    except ValidationError as error:
        listener.tell({"type": "refused", "serial": message.get("serial"), "detail": words.plain(dict(error.errors()[0]))})
        return
    except InputError as error:
        listener.tell({"type": "refused", "serial": message.get("serial"), "detail": str(error)})
        return
    here.worker.send({
        "do": "live", "slug": slug, "serial": show.serial, "description": raw, "view": show.view, "occasion": show.occasion,
        "mode": show.mode, "alone": show.alone, "dragging": show.dragging,
    })  # fmt: skip


@with_database
def with_draft(slug: str, draft: list[Change]) -> dict[str, Any]:
    raw = storage.raw_description(storage.project_row(slug))
    return storage.validated(changed(raw, [c for c in draft if c.part != "plate"], drafted=True)).model_dump(mode="json")
