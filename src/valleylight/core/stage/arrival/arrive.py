"""A model as it arrives: found in what was handed in, read, and turned into the glTF binary that is kept."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import PurePosixPath
from typing import TYPE_CHECKING

from valleylight.core.errors import InputError
from valleylight.core.stage.arrival.bundle import USD_KINDS, Bundle, opened
from valleylight.core.stage.arrival.evidence import guessed_unit_of, guessed_up, shapes_of
from valleylight.core.stage.arrival.pack import packed, with_words
from valleylight.core.stage.arrival.units import guessed_unit
from valleylight.core.stage.extent import SizeError
from valleylight.core.stage.gltf import read_glb
from valleylight.core.stage.model import StageData

if TYPE_CHECKING:
    from valleylight.core.stage.arrival.terrain import Where

READ = ("glb", "gltf", "obj", "ply", "stl", "dae", "ifc", "tif", *USD_KINDS)
_EXPORT = "Export it as glTF (.glb), USD, IFC, OBJ, COLLADA (.dae), PLY or STL"
#: Hears what is being done, and which share 0 to 1 of all is.
Tell = Callable[[str, float], None]
#: A model that is too large in the unit it is said to have is looked at once more in a thousandth of it.
_THOUSANDTH = 0.001


@dataclass(frozen=True)
class Arrived:
    """A model ready to be kept: its GLB, what it holds in its own unit, and the metres of that unit where the file states them; whether it is
    `land` about the site."""

    glb: bytes
    stage: StageData
    metres: float | None
    land: bool = False


def arrive(data: bytes, name: str, tell: Tell = lambda words, share: None, where: Where | None = None) -> Arrived:
    """Read a model of any kind of `READ`, alone or in a zip with its files. `tell` hears what is being done, and which share of all is;
    `where` the project stands is asked for by heights of land alone.
    Raises InputError that names the file at fault."""
    tell("Opening it", 0.02)
    bundle = opened(data, name)
    path, kind = _model_in(bundle, name)
    tell("Reading its shapes", 0.05)
    glb, metres, likely, words = _as_glb(
        bundle, path, kind, lambda share: tell("Reading its shapes", 0.05 + 0.4 * share), where
    )
    tell("Reading its surfaces and pictures", 0.45)
    stage, unit = _read(glb, path if len(bundle.files) > 1 else name, likely)
    glb = with_words(glb, words, unit)
    if words:
        stage = replace(stage, notes=(*words, *stage.notes))
    return Arrived(glb, stage, metres, kind == "tif")


def _as_glb(
    bundle: Bundle, path: str, kind: str, tell: Callable[[float], None], where: Where | None
) -> tuple[bytes, float | None, float, list[str]]:
    """A model as glTF, the metres of its unit where they are stated, those that are likely, and words. Readers are loaded when needed."""
    held = bundle.files[path]
    if kind == "glb":
        return held, 1.0, 1.0, []
    if kind == "gltf":
        glb = packed(held, bundle, path)
        return glb, 1.0, 1.0, [f"The file {named[:80]!r} it refers to is not there." for named in bundle.missing[:20]]
    if kind == "ifc":
        from valleylight.core.stage.arrival.ifc import read_ifc

        return (made := read_ifc(held, path, tell))[0], 1.0, 1.0, made[1]
    if kind == "tif":
        from valleylight.core.stage.arrival.terrain import read_terrain

        return (land := read_terrain(held, path, where))[0], 1.0, 1.0, land[1]
    if kind in USD_KINDS:
        from valleylight.core.stage.arrival.usd import read_usd

        glb, metres, words = read_usd(bundle, path)
        return glb, metres, metres, words
    from valleylight.core.stage.arrival.foreign import read_foreign

    foreign = read_foreign(held, kind, bundle, path)
    likely = foreign.metres or guessed_unit(foreign.extent, float(foreign.extent[1])).metres
    return foreign.glb, foreign.metres, likely, foreign.words


def _read(glb: bytes, name: str, metres: float) -> tuple[StageData, float]:
    """What a GLB holds, and the metres of the unit by whose limits it was read: another than `metres` only where it would be too large
    in that and is the size of a building in another."""
    try:
        return read_glb(glb, name, metres), metres
    except SizeError as error:
        if not error.too_large:
            raise
        shapes = shapes_of(read_glb(glb, name, metres * _THOUSANDTH))
        guess = guessed_unit_of(shapes, "xyz".index(guessed_up(shapes, False).up[-1]))
        if not guess.doubtful or guess.metres >= metres:
            raise
        return read_glb(glb, name, guess.metres), guess.metres


def _model_in(bundle: Bundle, name: str) -> tuple[str, str]:
    """Path and kind of the one model among the files."""
    kinds = {path: kind for path, data in bundle.files.items() if (kind := _kind_of(path, data)) in READ}
    if any(kind != "tif" for kind in kinds.values()):  # beside a model it is a picture of it
        kinds = {path: kind for path, kind in kinds.items() if kind != "tif"}
    if len(kinds) == 1:
        return next(iter(kinds.items()))
    usd = [path for path, found in kinds.items() if found in USD_KINDS]
    if len(usd) == len(kinds) > 1:
        # The first file of a package is its root (USDZ); in a folder it is the one that no other refers to.
        root = usd[0] if name.lower().endswith(".usdz") else _referred_by_none(bundle, usd)
        if root is not None:
            return root, kinds[root]
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


def _referred_by_none(bundle: Bundle, paths: list[str]) -> str | None:
    """The one of several layers whose file name stands in none of the others; of several such the one nearest the top; None where that
    is not one alone."""
    names = {path: PurePosixPath(path).name.encode() for path in paths}
    roots = [p for p in paths if not any(names[p] in bundle.files[other] for other in paths if other != p)]
    if len(roots) > 1:
        top = min(p.count("/") for p in roots)
        roots = [p for p in roots if p.count("/") == top]
    return roots[0] if len(roots) == 1 else None


def _kind_of(path: str, data: bytes) -> str:
    """The kind of a file: by its content where that tells, else by its suffix."""
    suffix = PurePosixPath(path).suffix.lower().removeprefix(".")
    if data[:4] == b"glTF":
        return "glb"
    if data[:4] in (b"II*\x00", b"MM\x00*", b"II+\x00", b"MM\x00+"):  # TIFF, and its kind for large files
        return "tif"
    head = data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    if head.startswith(b"ply\n") or head.startswith(b"ply\r"):
        return "ply"
    if b"<COLLADA" in head:
        return "dae"
    if head.startswith(b"ISO-10303-21"):
        return "ifc"
    if head.startswith(b"PXR-USDC"):
        return "usdc"
    if head.startswith(b"#usda "):
        return "usda"
    # A binary STL is exactly as long as its count of triangles says.
    if len(data) >= 84 and len(data) == 84 + 50 * int.from_bytes(data[80:84], "little"):
        return "stl"
    return suffix
