"""Models on their way in: how far each is, and a stop. A page makes up a ticket, sends it with the file, and asks by it."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

from valleylight.core.errors import InputError, NotFoundError


@dataclass
class Underway:
    """One file on its way in: what is being done, and which share of it is."""

    words: str = "Waiting for its turn"
    share: float = 0.0
    stopped: asyncio.Event = field(default_factory=asyncio.Event)

    def tell(self, words: str, share: float) -> None:
        self.words, self.share = words, min(max(share, 0.0), 1.0)

    def check(self, name: str) -> None:
        """Raises InputError where it was stopped."""
        if self.stopped.is_set():
            raise InputError("reading it was stopped", name, "Nothing was stored; bring it in again when you like")

    async def counted(self, chunks: AsyncIterator[bytes], whole: int | None, name: str) -> AsyncIterator[bytes]:
        """The chunks of an upload as they come, told as a share of the whole where that is known."""
        come = 0
        async for chunk in chunks:
            self.check(name)
            come += len(chunk)
            self.tell("Sending it", come / whole if whole else 0.0)
            yield chunk


class AllUnderway:
    """Every file on its way in, by its ticket."""

    def __init__(self) -> None:
        self._held: dict[str, Underway] = {}

    @contextmanager
    def begun(self, ticket: str | None) -> Iterator[Underway]:
        """A file is on its way; nobody asks for one without a ticket. Raises InputError where the ticket is in use."""
        made = Underway()
        if ticket is None:
            yield made
            return
        if ticket in self._held:
            raise InputError("that ticket is in use", "ticket", "Make up another one")
        self._held[ticket] = made
        try:
            yield made
        finally:
            del self._held[ticket]

    def find(self, ticket: str) -> Underway:
        """Raises NotFoundError for one that is not, or no longer, on its way."""
        found = self._held.get(ticket)
        if found is None:
            raise NotFoundError("nothing is on its way by that ticket", "ticket", "It has arrived, or was refused")
        return found
