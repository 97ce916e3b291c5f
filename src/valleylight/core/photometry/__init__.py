"""Measured luminaire profiles: read, write and judge them."""

from __future__ import annotations

import os
import re
from pathlib import Path

from valleylight.core.photometry.errors import PhotometryError
from valleylight.core.photometry.eulumdat import read_eulumdat, write_eulumdat
from valleylight.core.photometry.lm63 import Beside, read_lm63, write_lm63
from valleylight.core.photometry.model import LuminousOpening, Photometry

__all__ = [
    "LuminousOpening",
    "Photometry",
    "PhotometryError",
    "read",
    "read_eulumdat",
    "read_lm63",
    "write_eulumdat",
    "write_lm63",
]

LARGEST_FILE_BYTES = 16 * 1024 * 1024


def read(path_or_bytes: str | os.PathLike[str] | bytes, file: str = "", beside: Beside | None = None) -> Photometry:
    """Read a photometric file, told apart by content and never by its name.

    `beside` gives the text of a tilt file by name; for a path, the files of its own folder are at hand.

    Raises PhotometryError that names the line and what was expected there; OSError when a path cannot be opened.
    """
    if isinstance(path_or_bytes, bytes):
        data, file = path_or_bytes, file or "profile"
    else:
        path = Path(path_or_bytes)
        data, file = path.read_bytes(), file or path.name
        beside = beside or _of_folder(path.parent)
    if len(data) > LARGEST_FILE_BYTES:
        raise PhotometryError(
            f"the file holds {len(data) / 1e6:.0f} MB", file, "A profile is far smaller; choose another file."
        )
    if b"\0" in data[:4096]:
        raise PhotometryError("the file is not text", file, "Choose an IES LM-63 (.ies) or EULUMDAT (.ldt) file.")
    text = decoded(data)
    if not text.strip():
        raise PhotometryError("the file is empty", file, "Choose an IES LM-63 (.ies) or EULUMDAT (.ldt) file.")
    if re.search(r"^\s*TILT\s*=", text, re.IGNORECASE | re.MULTILINE) or text.lstrip().upper().startswith("IES"):
        return read_lm63(text, file, beside)
    return read_eulumdat(text, file)


def decoded(data: bytes) -> str:
    """Text in UTF-8 or, where it is none, Latin-1."""
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def _of_folder(folder: Path) -> Beside:
    """Tilt files of a folder, by their bare name whatever its case."""

    def find(name: str) -> str | None:
        bare = Path(name.replace("\\", "/")).name.lower()
        match = next((p for p in folder.iterdir() if p.name.lower() == bare and p.is_file()), None)
        return decoded(match.read_bytes()) if match else None

    return find
