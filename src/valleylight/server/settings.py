"""Where the server keeps things and listens."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

#: The clone's root folder.
ROOT = Path(__file__).resolve().parents[3]


@dataclass(frozen=True)
class Settings:
    """What a server needs to start."""

    database_url: str
    files: Path
    host: str = "127.0.0.1"
    port: int = 8600
    hosts: tuple[str, ...] = ()  # further names this server is known by
    web: Path = ROOT / "web" / "dist"
    largest_model_bytes: int = 512 * 1024 * 1024
    largest_picture_bytes: int = 768 * 1024 * 1024
    largest_profile_bytes: int = 16 * 1024 * 1024
    largest_json_bytes: int = 4 * 1024 * 1024
