"""What stands in a glTF document, checked before it is used: chunks, extensions, references, numbers and data URIs."""

from __future__ import annotations

import base64
import binascii
import json
import struct
from typing import Any
from urllib.parse import unquote_to_bytes

from valleylight.core.errors import InputError

#: What the description of a model may hold, in bytes; and how many words are said of a model.
LARGEST_JSON_BYTES, MOST_NOTES = 256 * 2**20, 50
#: Ways of packing triangles that are not unpacked here. (KHR_draco_mesh_compression is, see draco.py.)
COMPRESSIONS = frozenset(("EXT_meshopt_compression", "KHR_meshopt_compression"))
#: Extensions a file may require: those that are read, and those that only add to what the core of glTF says.
KNOWN_EXTENSIONS = frozenset((
    "KHR_materials_transmission", "KHR_materials_volume", "KHR_materials_ior", "KHR_materials_specular",
    "KHR_materials_clearcoat", "KHR_materials_sheen",
    "KHR_materials_diffuse_transmission", "KHR_materials_unlit", "KHR_mesh_quantization", "EXT_mesh_gpu_instancing",
    "KHR_lights_punctual", "KHR_xmp_json_ld", "KHR_texture_transform", "EXT_texture_webp",
    "KHR_draco_mesh_compression", "KHR_materials_pbrSpecularGlossiness", "KHR_materials_emissive_strength", "KHR_materials_variants",
))  # fmt: skip
REMEDY = "Export the model again as glTF binary (.glb)"


def chunks_of(data: bytes, file: str) -> tuple[dict[str, Any], bytes]:
    """The JSON and the binary chunk of a GLB (glTF 2.0, section 4.4)."""
    found: dict[bytes, bytes] = {}
    place = 12
    while place + 8 <= len(data):
        length, kind = struct.unpack_from("<I4s", data, place)
        if place + 8 + length > len(data):
            raise InputError("a part of the file is cut off", file, REMEDY)
        found.setdefault(kind, data[place + 8 : place + 8 + length])
        place += 8 + length
    if len(found.get(b"JSON", b"")) > LARGEST_JSON_BYTES:
        raise InputError(f"its description is larger than {LARGEST_JSON_BYTES // 2**20} MB", file, "Split the model")
    raw = json.loads(found.get(b"JSON", b"{}"))
    if not isinstance(raw, dict):
        raise InputError("the model cannot be parsed", file, REMEDY)
    return raw, found.get(b"BIN\0", b"")


def check_extensions(raw: dict[str, Any], file: str) -> None:
    """Refuse what the file says cannot be read without an extension that is not known here."""
    for name in raw.get("extensionsRequired") or []:
        if name in COMPRESSIONS:
            raise InputError(f"its triangles are compressed ({name})", file, "Export the model without compression")
        if name not in KNOWN_EXTENSIONS:
            raise InputError(f"it needs the glTF extension {name}", file, "Export the model without that extension")


def item_at(things: Any, number: Any, place: str) -> int:
    """A number that points at one of `things`. Raises InputError where it points past them."""
    if isinstance(number, bool) or not isinstance(number, int) or not 0 <= number < len(things or ()):
        raise InputError(f"it points at number {number!r} of {len(things or ())}", place, REMEDY)
    return number


def checked_number(value: Any, otherwise: float, least: float, most: float, place: str) -> float:
    """A factor of a material, held to its range. Raises InputError for what is no number."""
    if value is None:
        return otherwise
    if isinstance(value, bool) or not isinstance(value, int | float) or value != value:
        raise InputError(f"{value!r} is no number", place, REMEDY)
    return float(min(max(value, least), most))


def of_data_uri(uri: str, place: str) -> bytes:
    """The bytes that a data URI holds (RFC 2397)."""
    head, comma, body = uri.partition(",")
    if not head.startswith("data:") or not comma:
        raise InputError(
            f"a part of it lies in another file, {uri[:60]!r}", place, "Export the model as one binary file (.glb)"
        )
    try:
        return base64.b64decode(body, validate=True) if head.endswith(";base64") else unquote_to_bytes(body)
    except binascii.Error as error:
        raise InputError("bytes written into its description are damaged", place, REMEDY) from error


class Notes:
    """What is to be told of a model: each word once, and not without end."""

    def __init__(self) -> None:
        self.texts: list[str] = []

    def add(self, text: str) -> None:
        if text not in self.texts and len(self.texts) < MOST_NOTES:
            self.texts.append(text)
