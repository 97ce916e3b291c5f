"""Small glTF binary models, legal or not, put together from their description and bytes."""

from __future__ import annotations

import copy
import json
import struct
from typing import Any

import numpy as np

POINTS = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]], np.float32)
NORMALS = np.tile(np.array([0, 0, 1], np.float32), (4, 1))
UV = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], np.float32)
CORNERS = np.array([0, 1, 2, 0, 2, 3], np.uint16)
_TYPES = {1: "SCALAR", 2: "VEC2", 3: "VEC3", 4: "VEC4"}
_CODES = {"f": 5126, "H": 5123, "I": 5125, "B": 5121}


def packed(document: dict[str, Any], blob: bytes) -> bytes:
    """A GLB of a description and its bytes."""
    text = json.dumps(document).encode()
    text, blob = text + b" " * (-len(text) % 4), blob + b"\0" * (-len(blob) % 4)
    chunks = struct.pack("<I4s", len(text), b"JSON") + text + struct.pack("<I4s", len(blob), b"BIN\0") + blob
    return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks


def square(**arrays: np.ndarray) -> tuple[dict[str, Any], bytes]:
    """A square metre of one material in one node; `arrays` stand in for POSITION, NORMAL, TEXCOORD_0, indices."""
    parts = {"POSITION": POINTS, "NORMAL": NORMALS, "TEXCOORD_0": UV, "indices": CORNERS, **arrays}
    blob, views, accessors, numbers = b"", [], [], {}
    for name, values in parts.items():
        raw = np.ascontiguousarray(values)
        views.append({"buffer": 0, "byteOffset": len(blob), "byteLength": raw.nbytes})
        numbers[name] = len(accessors)
        width = raw.shape[1] if raw.ndim > 1 else 1
        accessors.append(
            {
                "bufferView": len(views) - 1,
                "componentType": _CODES[raw.dtype.char],
                "count": len(raw),
                "type": _TYPES[width],
            }
        )
        blob += raw.tobytes() + b"\0" * (-raw.nbytes % 4)
    indices = numbers.pop("indices")
    document = {
        "asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}], "nodes": [{"mesh": 0, "name": "square"}],
        "meshes": [{"primitives": [{"attributes": numbers, "indices": indices, "material": 0}]}],
        "materials": [{"name": "plain"}], "buffers": [{"byteLength": len(blob)}], "bufferViews": views, "accessors": accessors,
    }  # fmt: skip
    return document, blob


def changed(path: str, value: Any, **arrays: np.ndarray) -> bytes:
    """The square with one place of its description set, as "nodes.0.scale"."""
    document, blob = square(**arrays)
    document = copy.deepcopy(document)
    *way, last = path.split(".")
    place: Any = document
    for step in way:
        place = place[int(step)] if isinstance(place, list) else place.setdefault(step, {})
    if isinstance(place, list):
        place[int(last)] = value
    else:
        place[last] = value
    return packed(document, blob)
