"""A glTF description with its files beside it, packed into one binary."""

from __future__ import annotations

import json
import struct
from typing import Any

from valleylight.core.errors import InputError
from valleylight.core.stage.arrival.bundle import Bundle
from valleylight.core.stage.gltf.values import of_data_uri

_REMEDY = "Export the model again, as .glb or with all its files in one zip"


def packed(text: bytes, bundle: Bundle, path: str) -> bytes:
    """A GLB of a `.gltf` and the buffers and pictures it names. A picture that is not there is left out; a buffer is needed.

    Raises InputError that names what is missing.
    """
    try:
        document = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise InputError(f"it is no JSON ({error})", path, _REMEDY) from None
    if not isinstance(document, dict):
        raise InputError("the model cannot be parsed", path, _REMEDY)
    blob = bytearray()
    begins = []
    for buffer in _tables(document, "buffers", path):
        uri = buffer.get("uri")
        if not isinstance(uri, str):
            raise InputError("a buffer says nothing of where it lies", path, _REMEDY)
        data = of_data_uri(uri, path) if uri.startswith("data:") else bundle.find(uri, path)
        if data is None:
            raise InputError(
                f"its file {uri[:80]!r} is not there", path, "Pack the model with all its files in one zip"
            )
        begins.append(_appended(blob, data))
    views = _tables(document, "bufferViews", path)
    for view in views:
        number, offset = view.get("buffer", 0), view.get("byteOffset", 0)
        if isinstance(number, int) and 0 <= number < len(begins) and isinstance(offset, int):
            view["buffer"], view["byteOffset"] = 0, offset + begins[number]
    for image in _tables(document, "images", path):
        uri = image.get("uri")
        data = bundle.find(uri, path) if isinstance(uri, str) and not uri.startswith("data:") else None
        if data is not None:
            del image["uri"]
            image["bufferView"] = len(views)
            views.append({"buffer": 0, "byteOffset": _appended(blob, data), "byteLength": len(data)})
    document["bufferViews"] = views
    document["buffers"] = [{"byteLength": len(blob)}] if blob else []
    return glb_of(document, bytes(blob))


def _appended(blob: bytearray, data: bytes) -> int:
    """Where in the blob the data begins, on a multiple of four."""
    begins = len(blob)
    blob += data + b"\0" * (-len(data) % 4)
    return begins


def glb_of(document: dict[str, Any], blob: bytes) -> bytes:
    """A GLB of a description and its binary chunk (glTF 2.0, section 4.4)."""
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    chunks = struct.pack("<I4s", len(text), b"JSON") + text
    if blob:
        blob += b"\0" * (-len(blob) % 4)
        chunks += struct.pack("<I4s", len(blob), b"BIN\0") + blob
    return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks


def with_words(glb: bytes, words: list[str], metres: float = 1.0) -> bytes:
    """A GLB that carries what was found of it as it arrived, for all who read it later: what was said (`asset.extras.arrival`) and the
    metres of its unit (`asset.extras.unit_m`)."""
    if not words and metres == 1.0:
        return glb
    length = struct.unpack_from("<I", glb, 12)[0]
    document = json.loads(glb[20 : 20 + length])
    asset = document.setdefault("asset", {"version": "2.0"})
    extras = asset.get("extras") if isinstance(asset.get("extras"), dict) else {}
    asset["extras"] = {
        **extras,
        **({"arrival": words} if words else {}),
        **({"unit_m": metres} if metres != 1.0 else {}),
    }
    rest = glb[20 + length :]
    return glb_of(document, rest[8 : 8 + struct.unpack_from("<I", rest, 0)[0]] if len(rest) >= 8 else b"")


def _tables(document: dict[str, Any], name: str, path: str) -> list[dict[str, Any]]:
    held = document.get(name) or []
    if not isinstance(held, list) or not all(isinstance(item, dict) for item in held):
        raise InputError(f"its {name} are no list of tables", path, _REMEDY)
    return held
