"""Measured luminaire profiles: read, write and judge them."""

from __future__ import annotations

import os
from pathlib import Path

from valleylight.core.photometry.errors import PhotometryError
from valleylight.core.photometry.eulumdat import read_eulumdat, write_eulumdat
from valleylight.core.photometry.lm63 import read_lm63, write_lm63
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


def read(path_or_bytes: str | os.PathLike[str] | bytes, file: str = "") -> Photometry:
    """Read a photometric file, told apart by content and never by its name.

    Raises PhotometryError that names the line and what was expected there; OSError when a path cannot be opened.
    """
    if isinstance(path_or_bytes, bytes):
        data, file = path_or_bytes, file or "profile"
    else:
        path = Path(path_or_bytes)
        data, file = path.read_bytes(), file or path.name
    if len(data) > LARGEST_FILE_BYTES:
        raise PhotometryError(
            f"the file holds {len(data) / 1e6:.0f} MB", file, "A profile is far smaller; choose another file."
        )
    if b"\0" in data[:4096]:
        raise PhotometryError("the file is not text", file, "Choose an IES LM-63 (.ies) or EULUMDAT (.ldt) file.")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    if not text.strip():
        raise PhotometryError("the file is empty", file, "Choose an IES LM-63 (.ies) or EULUMDAT (.ldt) file.")
    if "TILT=" in text.upper() or text.lstrip().upper().startswith("IES"):
        return read_lm63(text, file)
    return read_eulumdat(text, file)
