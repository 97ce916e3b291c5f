"""Names of files by a pattern, and the files that wait in the scratch folder to be fetched."""

from __future__ import annotations

import re
import secrets
import time
import unicodedata
import zipfile
from collections.abc import Sequence
from pathlib import Path

from valleylight.core.errors import InputError, NotFoundError
from valleylight.server.store.files import ASIDE

_WORD = re.compile(r"\{([^{}]*)\}")
#: Files wait so long; a mark tells them from all else that is set aside.
KEPT_S, MARK = 3600.0, f"{ASIDE}export-"
LONGEST_NAME = 100


def named(pattern: str, values: dict[str, str], taken: set[str]) -> str:
    """A name by a pattern, fit for a file and not `taken`, to which it is added. Raises InputError for a word that stands for nothing."""
    for word in _WORD.findall(pattern):
        if word not in values:
            known = ", ".join(f"{{{name}}}" for name in values)
            raise InputError(f"{{{word[:40]}}} stands for nothing", "pattern", f"Use {known}")
    if "{" in _WORD.sub("", pattern) or "}" in _WORD.sub("", pattern):
        raise InputError("a brace stands alone", "pattern", "Write {view} for the name of the view, and so on")
    text = _WORD.sub(lambda m: values[m.group(1)], pattern)
    text = "".join(c for c in text if unicodedata.category(c)[0] != "C")
    text = re.sub(r'[\\/:*?"<>|]', "_", text).strip(" .")[:LONGEST_NAME].strip(" .") or "picture"
    name, number = text, 2
    while name.lower() in taken:
        name, number = f"{text} {number}", number + 1
    taken.add(name.lower())
    return name


def place_for(scratch: Path, suffix: str) -> Path:
    """Where a file is written that is fetched later; those of an hour ago go."""
    for old in scratch.glob(f"{MARK}*"):
        if time.time() - old.stat().st_mtime > KEPT_S:
            old.unlink(missing_ok=True)
    return scratch / f"{MARK}{secrets.token_hex(16)}{suffix}"


def file_of(path: Path) -> str:
    """What a file that waits is fetched by."""
    return path.name.removeprefix(MARK)


def waiting(scratch: Path, file: str) -> Path:
    """A file that waits. Raises NotFoundError for one that is gone, or never was."""
    path = scratch / f"{MARK}{file}"
    if not re.fullmatch(r"[0-9a-f]{32}\.[a-z0-9]{3,4}", file) or not path.is_file():
        raise NotFoundError("there is no such file any more", "file", "Save the plates again")
    return path


def zipped(files: Sequence[tuple[Path, str]], target: Path) -> None:
    """Files under names in one zip, not packed again: pictures are packed already."""
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as archive:
        for path, name in files:
            archive.write(path, name)
