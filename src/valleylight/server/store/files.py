"""Large files in a folder addressed by content: named by SHA-256, written whole or not at all."""

from __future__ import annotations

import hashlib
import os
import re
import tempfile
from collections.abc import AsyncIterator
from pathlib import Path

from valleylight.core.errors import InputError, NotFoundError

_NAME = re.compile(r"[0-9a-f]{64}")
#: How scratch files begin that wait to be kept, and how those end that were not finished.
ASIDE, LEFT_OVER = "aside-", frozenset((".part", ".exr", ".new"))


class TooLargeError(InputError):
    """An upload above its limit."""


class FileStore:
    """Files under `folder`, two letters a sub-folder."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.scratch = folder / "scratch"
        self.scratch.mkdir(parents=True, exist_ok=True)

    def path(self, sha256: str) -> Path:
        """Where a file lies. Raises NotFoundError when it is missing, or where that is no name of a file."""
        path = self._place(sha256)
        if not path.is_file():
            raise NotFoundError(f"the file {sha256[:12]} is missing", "file", "Restore it from a copy")
        return path

    def read(self, sha256: str) -> bytes:
        return self.path(sha256).read_bytes()

    def keep(self, data: bytes) -> str:
        """Store bytes; returns their SHA-256."""
        sha256 = hashlib.sha256(data).hexdigest()
        target = self._place(sha256)
        if not target.is_file():
            self._move(self.set_aside(data), target)
        return sha256

    def set_aside(self, data: bytes) -> Path:
        """Write bytes to a file of the scratch folder, whole or not at all, to be looked at before they are kept."""
        handle, name = tempfile.mkstemp(dir=self.scratch, prefix=ASIDE)
        try:
            with os.fdopen(handle, "wb") as partial:
                partial.write(data)
                partial.flush()
                os.fsync(partial.fileno())
        except BaseException:
            Path(name).unlink(missing_ok=True)
            raise
        return Path(name)

    def sweep(self) -> int:
        """Delete what interrupted work has left half in the scratch folder; returns how many files went. What was kept is never
        touched: whether anything refers to it is known to the database alone, and another may have been in use before."""
        gone = 0
        for path in self.scratch.iterdir():
            if path.is_file() and (path.name.startswith(ASIDE) or path.suffix in LEFT_OVER):
                path.unlink(missing_ok=True)
                gone += 1
        return gone

    def _place(self, sha256: str) -> Path:
        """The one place where a name becomes a path."""
        if not _NAME.fullmatch(sha256):
            raise NotFoundError(
                f"{sha256[:80]!r} is no name of a file", "file", "Names of files are 64 digits and letters a to f"
            )
        return self.folder / sha256[:2] / sha256

    async def receive(self, chunks: AsyncIterator[bytes], largest: int, what: str) -> bytes:
        """The body of an upload, refused as soon as it grows past `largest` bytes."""
        data = bytearray()
        async for chunk in chunks:
            if len(data) + len(chunk) > largest:
                raise TooLargeError(
                    f"the file is larger than {largest // (1024 * 1024)} MB",
                    what,
                    "Choose a smaller file; nothing was stored",
                )
            data += chunk
        return bytes(data)

    def _move(self, partial: Path, target: Path) -> None:
        target.parent.mkdir(exist_ok=True)
        partial.replace(target)
        folder = os.open(target.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)
