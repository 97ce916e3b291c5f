"""The linear picture and its light groups as one multi-layer OpenEXR file.

Source: OpenEXR technical introduction: channels named `layer.R`; values are scene-linear Rec. 709 in cd/m2.
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.film.film import Film

_NOTE = "valleylight"
_HALF_MOST = 65000.0


def write_exr(film: Film, path: str | Path, levels: dict[str, float] | None = None) -> None:
    """Write the film: R, G, B are the balanced picture (float); one layer a light group (half), then the passes.

    Values are cd/m2. A group above 65000 cd/m2 (the sun's disc) is cut there; the balanced picture is not.
    """
    channels: dict[str, NDArray[Any]] = {}
    _put(channels, "", film.balanced(levels), np.float32)
    layers = {}
    for name, picture in film.groups.items():
        layer = _layer_name(name)
        layers[layer] = name
        _put(channels, layer + ".", np.minimum(picture, _HALF_MOST), np.float16)
    passes = film.passes
    _put(channels, "surface_colour.", passes["surface_colour"], np.float16)
    for axis, letter in enumerate("XYZ"):
        channels[f"normal.{letter}"] = np.ascontiguousarray(passes["normal"][..., axis], np.float16)
    channels["depth.Z"] = np.ascontiguousarray(passes["depth"], np.float32)
    note = {"groups": layers, "samples": film.samples, "settings": film.settings, "unit": "cd/m2"}
    header = {
        "compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage, _NOTE: json.dumps(note),
        "chromaticities": (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290),
    }  # fmt: skip
    with OpenEXR.File(header, channels) as file:
        file.write(str(path))


def read_exr(path: str | Path) -> Film:
    """Read a film written by `write_exr`, free of noise as it was written. Raises InputError for another file."""
    try:
        with OpenEXR.File(str(path), separate_channels=True) as file:
            # The file empties both when it is closed.
            header = dict(file.header())
            channels = {name: np.array(c.pixels) for name, c in file.channels().items()}
    except (RuntimeError, OSError) as error:
        raise InputError("the file is no OpenEXR picture", str(path), "Choose a film saved by Valleylight") from error
    if _NOTE not in header:
        raise InputError("the file holds no light groups", str(path), "Choose a film saved by Valleylight")
    note = json.loads(header[_NOTE])

    def rgb(prefix: str) -> NDArray[np.float32]:
        return np.stack([np.asarray(channels[prefix + c], np.float32) for c in "RGB"], -1)

    groups = {name: rgb(layer + ".") for layer, name in note["groups"].items()}
    height, width = channels["R"].shape
    film = Film.empty(width, height, tuple(groups))
    film.samples = 1
    film.counts[:] = 1
    film.settings = note["settings"]
    film.clean = groups
    film.auxiliary[..., 0:3] = rgb("surface_colour.")
    for axis, letter in enumerate("XYZ"):
        film.auxiliary[..., 3 + axis] = channels[f"normal.{letter}"]
    depth = np.asarray(channels["depth.Z"], np.float32)
    met = np.isfinite(depth)
    film.auxiliary[..., 6], film.auxiliary[..., 7] = np.where(met, depth, 0), met
    return film


def _put(channels: dict[str, NDArray[Any]], prefix: str, picture: NDArray[np.float32], kind: type) -> None:
    for k, letter in enumerate("RGB"):
        channels[prefix + letter] = np.ascontiguousarray(picture[..., k], kind)


def _layer_name(group: str) -> str:
    return "light " + group.replace(".", " ")
