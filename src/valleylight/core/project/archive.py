"""A project on disk: `project.json` beside a folder `assets/` of files named by their SHA-256, or a zip of both."""

from __future__ import annotations

import hashlib
import os
import zipfile
import zlib
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from pydantic import ValidationError
from pydantic_core import from_json

from valleylight.core.errors import InputError, NotFoundError
from valleylight.core.project.description import Project
from valleylight.core.project.earlier import upgraded

DESCRIPTION_FILE = "project.json"
LARGEST_DESCRIPTION_BYTES, LARGEST_ASSET_BYTES = 256 * 2**20, 2 * 2**30


@dataclass(frozen=True)
class LoadedProject:
    """A project's description together with a way to fetch its files by SHA-256."""

    description: Project
    asset: Callable[[str], bytes]


def load(folder_or_archive: str | os.PathLike[str]) -> LoadedProject:
    """Load a project folder or zip archive.

    Raises InputError that names the file or field at fault; NotFoundError when the path does not exist.
    """
    path = Path(folder_or_archive)
    if path.is_dir():
        if not (path / DESCRIPTION_FILE).is_file():
            raise InputError(f"the folder holds no {DESCRIPTION_FILE}", str(path), "Choose a project folder")
        return LoadedProject(_parse((path / DESCRIPTION_FILE).read_bytes(), str(path)), _folder_assets(path / "assets"))
    if not path.is_file():
        raise NotFoundError("there is no such folder or archive", str(path), "Check the path")
    if not zipfile.is_zipfile(path):
        raise InputError("the file is not a project archive", str(path), "Choose a folder or a .zip written by save")
    described = _member(path, DESCRIPTION_FILE, LARGEST_DESCRIPTION_BYTES)
    if described is None:
        raise InputError(f"the archive holds no {DESCRIPTION_FILE}", str(path), "Choose a project archive")
    description = _parse(described, str(path))

    def asset(sha256: str) -> bytes:
        data = _member(path, f"assets/{sha256}", LARGEST_ASSET_BYTES)
        if data is None:
            raise NotFoundError(f"the archive lacks the file {sha256[:12]}", str(path), "Save it anew")
        return _checked(data, sha256)

    return LoadedProject(description, asset)


def _member(path: Path, name: str, largest: int) -> bytes | None:
    """A file of an archive, None where it is not there. Raises InputError that names the archive where it is damaged."""
    try:
        with zipfile.ZipFile(path) as archive:
            info = archive.getinfo(name)
            if info.file_size > largest:
                raise InputError(
                    f"{name} would be {info.file_size / 2**20:.0f} MB", str(path), "Choose a project archive"
                )
            return archive.read(info)
    except KeyError:
        return None
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, OSError) as error:
        raise InputError(
            f"{name} in the archive is damaged ({error})", str(path), "Copy or save the archive again"
        ) from None


def save(project: LoadedProject, target: str | os.PathLike[str]) -> None:
    """Write a project archive (.zip), first under a temporary name so that a failure leaves no half file."""
    path = Path(target)
    partial = path.with_name(path.name + ".part")
    try:
        with zipfile.ZipFile(partial, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr(DESCRIPTION_FILE, project.description.model_dump_json(indent=1))
            for sha256 in sorted(assets_of(project.description)):
                archive.writestr(f"assets/{sha256}", project.asset(sha256))
        partial.replace(path)
    finally:
        partial.unlink(missing_ok=True)


def assets_of(description: Project) -> set[str]:
    """SHA-256 of every file the description refers to."""
    skies = {o.sky.picture.asset for o in description.occasions if o.sky.picture is not None}
    surfaces = {asset for s in description.stage.surfaces.values() for asset in s.files}
    tables = {file for look in description.looks for file in look.files}
    cutouts = {c.picture for c in description.cutouts if c.picture is not None}
    placed = {p.asset for p in description.placements} | {k.profile for k in description.kinds}
    return placed | skies | surfaces | tables | cutouts


def _parse(data: bytes, where: str) -> Project:
    try:
        return Project.model_validate(upgraded(from_json(data)))
    except ValidationError as error:
        first = error.errors()[0]
        field = ".".join(str(part) for part in first["loc"]) or DESCRIPTION_FILE
        raise InputError(f"{field}: {first['msg']}", where, "Correct that field") from None
    except ValueError as error:
        raise InputError(f"{DESCRIPTION_FILE} is no JSON ({error})", where, "Restore it from a copy") from None


def _folder_assets(folder: Path) -> Callable[[str], bytes]:
    def asset(sha256: str) -> bytes:
        try:
            return _checked((folder / sha256).read_bytes(), sha256)
        except FileNotFoundError:
            raise NotFoundError(f"the file {sha256[:12]} is missing", str(folder), "Restore it") from None

    return asset


def _checked(data: bytes, sha256: str) -> bytes:
    if hashlib.sha256(data).hexdigest() != sha256:
        raise InputError(f"the file {sha256[:12]} is damaged", "assets", "Restore it from a copy")
    return data
