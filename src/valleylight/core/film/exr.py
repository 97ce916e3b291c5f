"""The linear picture, its light groups and passes as one multi-layer OpenEXR file.

Source: OpenEXR technical introduction: channels named `layer.R`; values are scene-linear Rec. 709 in cd/m2; masks after
Cryptomatte. Large pictures are written band by band, so that no more than a band is held.
"""

from __future__ import annotations

import json
import mmap
import struct
from collections.abc import Mapping
from pathlib import Path
from types import TracebackType
from typing import Any

import Imath
import numpy as np
import OpenEXR
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.film import columns, cryptomatte
from valleylight.core.film.caption import Caption
from valleylight.core.film.film import Film, Level

_NOTE = "valleylight"
_HALF_MOST = 65000.0
ROWS = 128
#: Rec. 709 primaries and D65.
_RED, _GREEN, _BLUE, _WHITE = (0.64, 0.33), (0.30, 0.60), (0.15, 0.06), (0.3127, 0.3290)


def channels_of(
    film: Film, levels: Mapping[str, Level] | None = None, caption: Caption | None = None
) -> tuple[dict[str, NDArray[Any]], dict[str, str]]:
    """Every channel of a film by name, and the header entries that go with them.

    R, G, B are the balanced picture (float); one layer a light group (half; the sun's disc is cut at 65000 cd/m2 there),
    then surface_colour, normal, position (m), depth.Z (m), alpha.Y (share of the sky hidden), shadow.Y (share of direct light kept away), reflection
    (cd/m2), noise.Y (standard error, cd/m2) and the masks.
    """
    channels: dict[str, NDArray[Any]] = {}
    _put(channels, "", film.balanced(levels), np.float32)
    names = {}
    for name, picture in film.groups.items():
        layer = _layer_name(name)
        names[layer] = name
        _put(channels, layer + ".", np.minimum(picture, _HALF_MOST), np.float16)
    passes = film.passes
    _put(channels, "surface_colour.", passes["surface_colour"], np.float16)
    _put(channels, "reflection.", np.minimum(passes["reflection"], _HALF_MOST), np.float16)
    for axis, letter in enumerate("XYZ"):
        channels[f"normal.{letter}"] = np.ascontiguousarray(passes["normal"][..., axis], np.float16)
        channels[f"position.{letter}"] = np.ascontiguousarray(passes["position"][..., axis], np.float32)
    channels["depth.Z"] = np.ascontiguousarray(passes["depth"], np.float32)
    channels["alpha.Y"] = np.ascontiguousarray(passes["alpha"], np.float16)
    channels["shadow.Y"] = np.ascontiguousarray(passes["shadow"], np.float16)
    channels["noise.Y"] = np.ascontiguousarray(np.minimum(passes["noise"], _HALF_MOST), np.float16)
    masks, entries = cryptomatte.layers(film)
    note = {"groups": names, "samples": film.samples, "settings": film.settings, "unit": "cd/m2"}
    said = {} if caption is None else {"title": caption.title, "comments": caption.text, "capDate": caption.when_exif}
    return {**channels, **masks}, {_NOTE: json.dumps(note), **entries, **said}


def write_exr(
    film: Film, path: str | Path, levels: Mapping[str, Level] | None = None, caption: Caption | None = None
) -> None:
    """Write a film whole, some rows at a time so that little is held beside it; see `channels_of`."""
    (width, height), spread = film.size, film.spread
    with BandWriter(path, width, height) as file:
        for top in range(0, height, ROWS):
            file.add(*channels_of(film.rows(top, min(top + ROWS, height), spread), levels, caption))


class BandWriter:
    """Writes a picture from the top, band of rows after band of rows; every band with the same channels.

    The manifest of the masks must be known with the first band: it names every object and material there is.
    """

    def __init__(self, path: str | Path, width: int, height: int) -> None:
        self._path, self._width, self._height = str(path), width, height
        self._file: Any = None

    def __enter__(self) -> BandWriter:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        if self._file is not None:
            self._file.close()
            _set_chromaticities(self._path)

    def add(self, channels: dict[str, NDArray[Any]], entries: dict[str, str]) -> None:
        """Write the next band: arrays (rows, W) by channel."""
        if self._file is None:
            header = OpenEXR.Header(self._width, self._height)
            half, full = (
                Imath.Channel(Imath.PixelType(Imath.PixelType.HALF)),
                Imath.Channel(Imath.PixelType(Imath.PixelType.FLOAT)),
            )
            header["channels"] = {n: half if c.dtype == np.float16 else full for n, c in channels.items()}
            r, g, b, w = (Imath.V2f(x, y) for x, y in (_RED, _GREEN, _BLUE, _WHITE))
            header["chromaticities"] = Imath.Chromaticities(r, g, b, w)
            header["compression"] = Imath.Compression(Imath.Compression.ZIP_COMPRESSION)
            header.update({key: value.encode() for key, value in entries.items()})
            self._file = OpenEXR.OutputFile(self._path, header)
        rows = len(next(iter(channels.values())))
        self._file.writePixels({n: np.ascontiguousarray(c).tobytes() for n, c in channels.items()}, rows)


def read_channels(path: str | Path) -> tuple[dict[str, Any], dict[str, NDArray[Any]]]:
    """Header and channels of any OpenEXR file. Raises InputError for another kind of file."""
    try:
        with OpenEXR.File(str(path), separate_channels=True) as file:
            # The file empties both when it is closed.
            return dict(file.header()), {name: np.array(c.pixels) for name, c in file.channels().items()}
    except (RuntimeError, OSError) as error:
        raise InputError("the file is no OpenEXR picture", str(path), "Choose a film saved by Valleylight") from error


def read_exr(path: str | Path) -> Film:
    """Read a film written here, free of noise as it was written. Raises InputError for another file."""
    header, channels = read_channels(path)
    if _NOTE not in header:
        raise InputError("the file holds no light groups", str(path), "Choose a film saved by Valleylight")
    text = header[_NOTE]
    note = json.loads(text.decode() if isinstance(text, bytes) else text)

    def rgb(prefix: str) -> NDArray[np.float32]:
        return np.stack([np.asarray(channels[prefix + c], np.float32) for c in "RGB"], -1)

    groups = {name: rgb(layer + ".") for layer, name in note["groups"].items()}
    height, width = channels["R"].shape
    film = Film.empty(width, height, tuple(groups))
    film.samples = 1
    film.counts[:] = 1
    film.settings = note["settings"]
    film.clean = groups
    film.auxiliary[..., columns.COLOUR] = rgb("surface_colour.")
    for axis, letter in enumerate("XYZ"):
        film.auxiliary[..., columns.PASS_NORMAL + axis] = channels[f"normal.{letter}"]
        film.auxiliary[..., columns.PASS_POSITION + axis] = channels[f"position.{letter}"]
    depth = np.asarray(channels["depth.Z"], np.float32)
    met = np.isfinite(depth)
    film.auxiliary[..., columns.POSITION] -= np.where(met[..., None], film.settings.get("origin_m", (0.0, 0.0, 0.0)), 0)
    film.auxiliary[..., columns.PASS_DEPTH], film.auxiliary[..., columns.PASS_HITS] = np.where(met, depth, 0), met
    # Films written before there was alpha know no more than where a surface was met.
    film.auxiliary[..., columns.PASS_BEYOND] = 1 - np.asarray(channels.get("alpha.Y", met), np.float32)
    film.masks, film.mask_names = cryptomatte.read_back(channels, header)
    return film


def _set_chromaticities(path: str) -> None:
    """Put the primaries into the closed file: the writer leaves eight zeros where they belong.

    Source: OpenEXR file layout: an attribute is its name, its type, its size in bytes, its value; here eight floats.
    """
    name = b"chromaticities\0chromaticities\0" + struct.pack("<i", 32)
    with open(path, "r+b") as file, mmap.mmap(file.fileno(), 0) as held:
        at = held.find(name)
        if at < 0:
            raise RuntimeError("the header holds no chromaticities")
        held[at + len(name) : at + len(name) + 32] = struct.pack("<8f", *_RED, *_GREEN, *_BLUE, *_WHITE)


def _put(channels: dict[str, NDArray[Any]], prefix: str, picture: NDArray[np.float32], kind: type) -> None:
    for k, letter in enumerate("RGB"):
        channels[prefix + letter] = np.ascontiguousarray(picture[..., k], kind)


def _layer_name(group: str) -> str:
    return "light " + group.replace(".", " ")
