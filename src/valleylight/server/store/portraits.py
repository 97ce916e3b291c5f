"""Where pictures of profiles are kept."""

from __future__ import annotations

from pathlib import Path

from valleylight.server.store.files import FileStore


def path_of(files: FileStore, sha256: str, side: str, ev100: float | None) -> Path:
    """The file of a profile's picture, whether it is there yet or not."""
    exposure = "metered" if ev100 is None else f"ev{ev100:+.1f}"
    return files.scratch / f"portrait-{sha256}-{side}-{exposure}.jpg"
