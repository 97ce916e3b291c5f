"""Sequences in the making: their queue, and the folders in which their frames lie."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterable
from pathlib import Path

from valleylight.core.errors import InputError, NotFoundError
from valleylight.server.store.files import FileStore
from valleylight.server.store.lease import Queue
from valleylight.server.store.tables import RunRow

QUEUE = Queue(RunRow)
#: With less room on the disk no further frame is made.
LEAST_FREE_BYTES = 300_000_000


class Frames:
    """The frames of a run: `00012.png` as it is shown, `00012.exr` as it was traced (see core/sequence/frame_file.py)."""

    def __init__(self, files: FileStore, run: int) -> None:
        self.folder = files.folder / "runs" / str(run)

    def picture(self, number: int) -> Path:
        return self.folder / f"{number:05d}.png"

    def linear(self, number: int) -> Path:
        return self.folder / f"{number:05d}.exr"

    def made(self) -> list[int]:
        """Numbers of the frames that are there whole."""
        if not self.folder.is_dir():
            return []
        return sorted(int(path.stem) for path in self.folder.glob("*.png") if path.stem.isdigit())

    def there(self, number: int, suffix: str) -> Path:
        """The file of a frame. Raises NotFoundError where it is not made yet."""
        path = self.picture(number) if suffix == "png" else self.linear(number)
        if not path.is_file():
            raise NotFoundError(
                f"frame {number} is not made yet", "frame", "Wait until it is, or go on with the sequence"
            )
        return path

    def begin(self) -> None:
        """Make the folder. Raises InputError where the disk is all but full."""
        self.folder.mkdir(parents=True, exist_ok=True)
        free = shutil.disk_usage(self.folder).free
        if free < LEAST_FREE_BYTES:
            raise InputError(
                f"the disk has only {free // 1_000_000} MB left",
                "disk",
                "Take old sequences away, then go on with this one",
            )

    def keep(self, number: int, png: bytes) -> None:
        """Keep the picture of a frame, whole or not at all: with that it is made."""
        partial = self.picture(number).with_suffix(".part-png")
        with partial.open("wb") as file:
            file.write(png)
            file.flush()
            os.fsync(file.fileno())
        partial.replace(self.picture(number))

    def forget(self, numbers: Iterable[int]) -> None:
        """Take frames away, to be made again."""
        for number in numbers:
            self.picture(number).unlink(missing_ok=True)
            self.linear(number).unlink(missing_ok=True)

    def remove(self) -> None:
        """Take all of them away."""
        shutil.rmtree(self.folder, ignore_errors=True)


def numbers_of(run: RunRow) -> list[int]:
    """The numbers of the frames that a run has, in their order: all of the sequence's, or every second."""
    return list(range(0, run.frames * run.step, run.step))
