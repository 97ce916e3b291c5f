"""Large files in a folder addressed by content: named by SHA-256, written whole or not at all."""

from __future__ import annotations

import hashlib
import os
import tempfile
from collections.abc import AsyncIterator
from pathlib import Path

from valleylight.core.errors import InputError, NotFoundError


class TooLargeError(InputError):
    """An upload above its limit."""


class FileStore:
    """Files under `folder`, two letters a sub-folder."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.scratch = folder / "scratch"
        self.scratch.mkdir(parents=True, exist_ok=True)

    def path(self, sha256: str) -> Path:
        """Where a file lies. Raises NotFoundError when it is missing."""
        path = self.folder / sha256[:2] / sha256
        if not path.is_file():
            raise NotFoundError(f"the file {sha256[:12]} is missing", str(self.folder), "Restore it from a copy")
        return path

    def read(self, sha256: str) -> bytes:
        return self.path(sha256).read_bytes()

    def keep(self, data: bytes) -> str:
        """Store bytes; returns their SHA-256."""
        sha256 = hashlib.sha256(data).hexdigest()
        target = self.folder / sha256[:2] / sha256
        if not target.is_file():
            with tempfile.NamedTemporaryFile(dir=self.scratch, delete=False) as partial:
                partial.write(data)
                partial.flush()
                os.fsync(partial.fileno())
            self._move(Path(partial.name), target)
        return sha256

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
