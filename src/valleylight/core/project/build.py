"""A project put together in memory, from files and from what stands in a description."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.project import words
from valleylight.core.project.archive import LoadedProject, assets_of
from valleylight.core.project.description import FixtureKind, Placement, Project
from valleylight.core.project.keys import key_for

#: A file: where it lies, or what is in it.
File = str | os.PathLike[str] | bytes


def build(
    models: Mapping[str, File] | Iterable[str | os.PathLike[str]] = (),
    profiles: Mapping[str, File] | None = None,
    files: Iterable[File] = (),
    **description: Any,
) -> LoadedProject:
    """A project of models, measured profiles and a description, without an archive.

    `models` are GLB files, by path or by name and content; they stand on the stage together, as their files put them, beside those that
    `placements` gives. `profiles` (IES LM-63 or EULUMDAT) become
    kinds of fixture under their names, beside those that `kinds` gives. `files` are further ones that the description refers to by
    SHA-256 (see `name_of`), such as the picture of a `PictureSky`. All else are fields of `Project`: name, site, stage, layers, views,
    occasions, looks, fixtures, kinds, scenes. Raises InputError that names the field or file at fault; models are read when they are
    first traced.
    """
    kept: dict[str, bytes] = {}

    def keep(file: File) -> str:
        data = bytes(file) if isinstance(file, bytes) else _read(Path(file))
        kept[name_of(data)] = data
        return name_of(data)

    listed = models.items() if isinstance(models, Mapping) else [(Path(m).name, m) for m in models]
    placements = list(description.pop("placements", ()))
    for name, file in listed:
        key = key_for(name, {p.key for p in placements}, "model")
        placements.append(Placement(key=key, name=name[:80], asset=keep(file)))
    kinds = tuple(FixtureKind(key=key, name=key, profile=keep(file)) for key, file in (profiles or {}).items())
    for file in files:
        keep(file)
    kinds = (*description.pop("kinds", ()), *kinds)
    try:
        made = Project(**{"name": "Untitled", **description}, kinds=kinds, placements=tuple(placements))
    except ValidationError as error:
        raise InputError(
            words.plain(dict(error.errors()[0])), ".".join(map(str, error.errors()[0]["loc"])), "Correct it"
        ) from None
    missing = sorted(assets_of(made) - set(kept))
    if missing:
        raise InputError(
            f"the description names the file {missing[0][:12]}, which is not there",
            "files",
            "Hand it in as one of `files`",
        )
    return LoadedProject(made, kept.__getitem__)


def name_of(data: bytes) -> str:
    """The name by which a description refers to a file: the SHA-256 of its content."""
    return hashlib.sha256(data).hexdigest()


def _read(path: Path) -> bytes:
    try:
        return path.read_bytes()
    except OSError as error:
        raise NotFoundError(f"it cannot be read ({error.strerror})", str(path), "Check the path") from None
