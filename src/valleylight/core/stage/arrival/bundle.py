"""What was handed in: one file, or a zip of a model with the files it refers to. Nothing outside it is ever looked at."""

from __future__ import annotations

import io
import zipfile
import zlib
from pathlib import PurePosixPath
from urllib.parse import unquote

from valleylight.core.errors import InputError

#: What a zip may hold: files, bytes in all, and so many times its own size.
MOST_FILES, MOST_BYTES, MOST_RATIO = 5000, 3 * 2**30, 200
#: Suffixes of OpenUSD; the last is a zip of the others.
USD_KINDS = ("usd", "usda", "usdc", "usdz")
#: Files that systems put beside those of people.
_HIDDEN = ("__MACOSX/", ".DS_Store", "Thumbs.db")


class Bundle:
    """Files by their paths; they are found by path as a file among them names it, and by name alone where that is clear."""

    def __init__(self, files: dict[str, bytes], packed: bool = True) -> None:
        self.files, self.packed = files, packed
        self.missing: list[str] = []

    def find(self, named: str, beside: str = "") -> bytes | None:
        """A file that another one refers to; None where it is not here, which is then told."""
        path = unquote(named.replace("\\", "/"))
        here = (
            _plain(str(PurePosixPath(beside).parent / path)) if not path.startswith("/") and "://" not in path else None
        )
        if here is not None and here in self.files:
            return self.files[here]
        name = PurePosixPath(path).name.lower()
        alike = [key for key in self.files if PurePosixPath(key).name.lower() == name]
        if len(alike) == 1 and "://" not in path:
            return self.files[alike[0]]
        if named not in self.missing:
            self.missing.append(named)
        return None


def opened(data: bytes, name: str) -> Bundle:
    """The files of a zip, or the one file that was handed in. Raises InputError that names the archive and what is wrong with it."""
    if data[:4] not in (b"PK\x03\x04", b"PK\x05\x06"):  # the second is that of an empty one
        return Bundle({PurePosixPath(name).name or "model": data}, packed=False)
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            infos = [i for i in archive.infolist() if not i.is_dir() and not i.filename.startswith(_HIDDEN)]
            if len(infos) > MOST_FILES:
                raise InputError(
                    f"it holds {len(infos)} files", name, f"Pack the model with at most {MOST_FILES} files"
                )
            whole = sum(i.file_size for i in infos)
            if whole > MOST_BYTES or whole > MOST_RATIO * max(len(data), 1 << 20):
                raise InputError(
                    f"unpacked it would be {whole / 2**20:.0f} MB", name, "Pack the model alone, with smaller pictures"
                )
            files = {}
            for info in infos:
                path = _plain(info.filename.replace("\\", "/"))
                if path is None:
                    raise InputError(
                        f"{info.filename[:80]!r} leads out of the archive", name, "Pack the folder of the model itself"
                    )
                with archive.open(info) as stream:
                    files[path] = stream.read(info.file_size + 1)
                if len(files[path]) > info.file_size:
                    raise InputError(f"{path} is larger than the archive says", name, "Pack the model again")
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, OSError) as error:
        raise InputError(f"the archive cannot be unpacked ({error})", name, "Pack the model again") from None
    return Bundle(files)


def _plain(path: str) -> str | None:
    """A path without dots; None where it leads out."""
    parts: list[str] = []
    for part in path.split("/"):
        if part == "..":
            if not parts:
                return None
            parts.pop()
        elif part not in ("", "."):
            parts.append(part)
    return "/".join(parts) if parts and not path.startswith("/") and ":" not in parts[0] else None
