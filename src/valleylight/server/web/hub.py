"""The browsers that listen: each project has any number of sockets; slow ones miss pictures, never the last."""

from __future__ import annotations

import asyncio

from valleylight.server.web.schemas.live import LiveFault, LiveHeader, News


class Listener:
    """One browser's outbox. Texts queue up; of pictures only the newest is kept."""

    def __init__(self, slug: str) -> None:
        self.slug = slug
        self._texts: list[str] = []
        self._picture: bytes | None = None
        self._ready = asyncio.Event()

    def tell(self, message: News) -> None:
        self._texts.append(message.model_dump_json())
        self._ready.set()

    def show(self, frame: bytes) -> None:
        self._picture = frame
        self._ready.set()

    async def next(self) -> list[str | bytes]:
        await self._ready.wait()
        self._ready.clear()
        out: list[str | bytes] = [*self._texts]
        self._texts = []
        if self._picture is not None:
            out.append(self._picture)
            self._picture = None
        return out


class Hub:
    """Who listens to what."""

    def __init__(self) -> None:
        self._listeners: set[Listener] = set()
        self.loop: asyncio.AbstractEventLoop | None = None

    def tell_soon(self, slug: str | None, message: News) -> None:
        """`tell` from any thread."""
        if self.loop is not None:
            self.loop.call_soon_threadsafe(self.tell, slug, message)

    def join(self, slug: str) -> Listener:
        listener = Listener(slug)
        self._listeners.add(listener)
        return listener

    def leave(self, listener: Listener) -> None:
        self._listeners.discard(listener)

    def anyone(self, slug: str) -> bool:
        return any(x.slug == slug for x in self._listeners)

    def tell(self, slug: str | None, message: News) -> None:
        """Tell all browsers on a project, or all of them."""
        for listener in list(self._listeners):
            if slug is None or listener.slug == slug:
                listener.tell(message)

    def show(self, slug: str, header: LiveHeader | LiveFault, image: bytes) -> None:
        """Send a picture: four bytes of header length, the header as JSON, the image."""
        text = header.model_dump_json(by_alias=True).encode()
        frame = len(text).to_bytes(4, "big") + text + image
        for listener in self._listeners:
            if listener.slug == slug:
                listener.show(frame)
