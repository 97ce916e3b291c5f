"""A model as it arrives: found in what was handed in, read, and turned into the glTF binary that is kept."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import PurePosixPath

import numpy as np

from valleylight.core.errors import InputError
from valleylight.core.stage.arrival.bundle import Bundle, opened
from valleylight.core.stage.arrival.pack import packed, with_words
from valleylight.core.stage.arrival.units import guessed_unit
from valleylight.core.stage.gltf import read_glb
from valleylight.core.stage.model import StageData

READ = ("glb", "gltf", "obj", "ply", "stl", "dae")
_EXPORT = "Export it as glTF (.glb), OBJ, COLLADA (.dae), PLY or STL"


@dataclass(frozen=True)
class Arrived:
    """A model ready to be kept: its GLB, what it holds, and by how much it is to be scaled so that its unit is the metre."""

    glb: bytes
    stage: StageData
    scale: float


def arrive(data: bytes, name: str) -> Arrived:
    """Read a model of any kind of `READ`, alone or in a zip with its files. Raises InputError that names the file at fault."""
    bundle = opened(data, name)
    path, kind = _model_in(bundle, name)
    held = bundle.files[path]
    scale, words = 1.0, list[str]()
    if kind == "glb":
        glb = held
    elif kind == "gltf":
        glb = packed(held, bundle, path)
        words += [f"The file {named[:80]!r} it refers to is not there." for named in bundle.missing[:20]]
    else:
        from valleylight.core.stage.arrival.foreign import read_foreign

        made = read_foreign(held, kind, bundle, path)
        glb, words = made.glb, made.words
        if made.metres is not None:
            scale = made.metres
        else:
            guess = guessed_unit(made.extent, float(made.extent[1]))
            scale, words = guess.metres, [*([guess.reason] if guess.doubtful else []), *words]
    glb = with_words(glb, words)
    return Arrived(glb, read_glb(glb, path if len(bundle.files) > 1 else name), float(np.clip(scale, 1e-6, 1e6)))


def _model_in(bundle: Bundle, name: str) -> tuple[str, str]:
    """Path and kind of the one model among the files."""
    kinds = {path: kind for path, data in bundle.files.items() if (kind := _kind_of(path, data)) in READ}
    if len(kinds) == 1:
        return next(iter(kinds.items()))
    if len(kinds) > 1:
        listed = ", ".join(sorted(kinds)[:6])
        raise InputError(
            f"it holds {len(kinds)} models ({listed})",
            name,
            "Pack one model with its files, or bring each in by itself",
        )
    if not bundle.packed:
        path, data = next(iter(bundle.files.items()))
        suffix = PurePosixPath(path).suffix
        if data[:8] == b"\x89PNG\r\n\x1a\n" or data[:3] == b"\xff\xd8\xff":
            raise InputError("the content is a picture", name, _EXPORT)
        raise InputError(f"models of the kind {suffix or 'without a suffix'} are not read", name, _EXPORT)
    raise InputError("it holds no model that is read here", name, _EXPORT)


def _kind_of(path: str, data: bytes) -> str:
    """The kind of a file: by its content where that tells, else by its suffix."""
    suffix = PurePosixPath(path).suffix.lower().removeprefix(".")
    if data[:4] == b"glTF":
        return "glb"
    head = data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    if head.startswith(b"ply\n") or head.startswith(b"ply\r"):
        return "ply"
    if b"<COLLADA" in head:
        return "dae"
    # A binary STL is exactly as long as its count of triangles says.
    if len(data) >= 84 and len(data) == 84 + 50 * int.from_bytes(data[80:84], "little"):
        return "stl"
    return suffix
