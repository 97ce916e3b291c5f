"""What stands before every route: whose page may ask, how much a body may hold, and what the unforeseen looks like from outside."""

from __future__ import annotations

import ipaddress
import re
import secrets
import time
from collections.abc import Awaitable, Callable
from typing import Any
from urllib.parse import quote, urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.exceptions import HTTPException
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from valleylight.server.web import problems
from valleylight.server import logs
from valleylight.server.settings import Settings

log = logs.log()

#: Nothing leaves the machine and nothing foreign gets in.
CONTENT_POLICY = (
    "default-src 'self'; img-src 'self' blob: data:; style-src 'self' 'unsafe-inline'; font-src 'self' data:; "
    "connect-src 'self' ws: ; frame-ancestors 'none'"
)
#: The ends of the paths that take a file as their body; all other bodies are small.
UPLOADS = ("/models", "/pictures", "/profiles")
LONGEST_PATH = 1000
#: A request's name in the log, told by whoever asks (a server before this one) or found here; it goes back with the answer.
REQUEST_ID = "X-Request-Id"
_GOOD_ID = re.compile(r"[A-Za-z0-9._-]{1,64}")


class Gate:
    """ASGI middleware around the application."""

    def __init__(self, app: ASGIApp, settings: Settings) -> None:
        self._app, self._settings = app, settings

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self._app(scope, receive, send)
            return
        told = Headers(scope=scope).get(REQUEST_ID, "")
        request = told if _GOOD_ID.fullmatch(told) else secrets.token_hex(4)
        with logs.about(request=request):
            await self._answer(scope, receive, send, request)

    async def _answer(self, scope: Scope, receive: Receive, send: Send, request: str) -> None:
        refused = self._refused(scope)
        if scope["type"] == "websocket":
            if refused is not None:
                await receive()
                await send({"type": "websocket.close", "code": 1008})
                return
            await self._app(scope, receive, send)
            return
        begun, start = False, time.monotonic()

        async def guarded(message: Message) -> None:
            nonlocal begun
            if message["type"] == "http.response.start":
                begun = True
                log.info(
                    "request", method=scope["method"], path=quote(scope["path"]), status=message["status"],
                    ms=round((time.monotonic() - start) * 1000),
                )  # fmt: skip
                headers = MutableHeaders(scope=message)
                headers[REQUEST_ID] = request
                headers["Content-Security-Policy"] = CONTENT_POLICY
                headers["X-Content-Type-Options"] = "nosniff"
                headers["Referrer-Policy"] = "no-referrer"
            await send(message)

        if refused is not None:
            await refused(scope, receive, guarded)
            return
        try:
            await self._app(scope, self._bounded(scope, receive), guarded)
        except Exception as error:
            if begun:
                raise
            await _unforeseen(error, request)(scope, receive, guarded)

    def _refused(self, scope: Scope) -> Response | None:
        """The answer to a request that does not come from a page of ours, or is larger than any may be."""
        headers = Headers(scope=scope)
        host = headers.get("host", "")
        if not self._is_ours(host):
            return problems.problem(
                421, "This server does not answer to that name", "Host",
                f"Open http://{self._settings.host}:{self._settings.port}, or name the host in VALLEYLIGHT_HOSTS",
            )  # fmt: skip
        origin = headers.get("origin")
        writes = scope["type"] == "websocket" or scope["method"] not in ("GET", "HEAD", "OPTIONS")
        if writes and origin is not None and urlsplit(origin).netloc.lower() != host.lower():
            return problems.problem(403, "The request comes from another site", remedy="Use Valleylight's own page")
        path = scope["path"]
        if len(path) > LONGEST_PATH or any(ord(c) < 32 or ord(c) == 127 for c in path):
            return problems.problem(404, "There is no such page", remedy="Check the address")
        announced = headers.get("content-length", "0")
        if announced.isdigit() and int(announced) > self._most(path):
            return self._too_large(path)
        return None

    def _is_ours(self, host: str) -> bool:
        """Whether a Host header names this server: by address, which no other site's name can lead to, or by a name it knows."""
        try:
            name = (urlsplit(f"//{host}").hostname or "").rstrip(".")
        except ValueError:
            return False
        try:
            ipaddress.ip_address(name)
        except ValueError:
            return name == "localhost" or name in (self._settings.host.lower(), *self._settings.hosts)
        return True

    def _most(self, path: str) -> int:
        s = self._settings
        return max(s.largest_model_bytes, s.largest_picture_bytes) if path.endswith(UPLOADS) else s.largest_json_bytes

    def _too_large(self, path: str) -> Response:
        return problems.problem(
            413, f"The body is larger than {self._most(path) / 2**20:g} MB", "body",
            "Send less at a time; nothing was stored",
        )  # fmt: skip

    def _bounded(self, scope: Scope, receive: Receive) -> Callable[[], Awaitable[Message]]:
        """Counts what really comes, whatever was announced."""
        most, taken = self._most(scope["path"]), 0

        async def bounded() -> Message:
            nonlocal taken
            message = await receive()
            taken += len(message.get("body", b""))
            if taken > most:
                raise HTTPException(413, f"The body is larger than {most / 2**20:g} MB")
            return message

        return bounded


def _unforeseen(error: Exception, request: str) -> Response:
    """The answer to what nobody foresaw: told by its request's name, which stands in the log, with nothing of the inside."""
    log.error("unforeseen", exc_info=error)
    told: Any = problems.problem(
        500, "Something went wrong that was not foreseen",
        remedy=f"Nothing that was saved is lost; try again. The server's log has it under {request}",
    )  # fmt: skip
    return told  # type: ignore[no-any-return]
