"""The numbers that a glTF document's accessors describe, checked before anything is laid out for them."""

from __future__ import annotations

from typing import Any

import numpy as np
import pygltflib
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.stage.gltf.values import COMPRESSIONS, REMEDY, item_at, of_data_uri

_COMPONENT = {5120: np.int8, 5121: np.uint8, 5122: np.int16, 5123: np.uint16, 5125: np.uint32, 5126: np.float32}
_WIDTH = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}
#: What the accessors of one model may hold in all.
MOST_NUMBERS = 600_000_000


class Buffers:
    """Reads accessors and views of a document; `blob` is the file's own binary chunk."""

    def __init__(self, document: pygltflib.GLTF2, blob: bytes) -> None:
        self._doc, self._blob = document, blob
        self._read: dict[int, bytes] = {}
        self._numbers_left = MOST_NUMBERS

    def view(self, number: Any, place: str) -> bytes:
        """The bytes of a view. Raises InputError where it reaches past its buffer."""
        view = self._doc.bufferViews[item_at(self._doc.bufferViews, number, place)]
        if COMPRESSIONS & set(view.extensions or {}):
            raise InputError("its triangles are compressed", place, "Export the model without compression")
        data, start = self._buffer(view.buffer, place), view.byteOffset or 0
        if start < 0 or not isinstance(view.byteLength, int) or view.byteLength < 0 or start > len(data):
            raise InputError(f"view {number} reaches past the end of the data", place, REMEDY)
        return data[start : start + view.byteLength]

    def accessor(self, index: Any, place: str, wanted: int | None = None) -> NDArray[Any]:
        """The numbers of an accessor (count, width). Raises InputError that names the place where they are not sound."""
        accessor = self._doc.accessors[item_at(self._doc.accessors, index, place)]
        if accessor.type not in _WIDTH or accessor.componentType not in _COMPONENT:
            raise InputError(f"accessor {index} is of a type that glTF does not know", place, REMEDY)
        width, dtype = _WIDTH[accessor.type], np.dtype(_COMPONENT[accessor.componentType])
        if wanted is not None and width != wanted:
            raise InputError(f"accessor {index} has {width} numbers each where {wanted} belong", place, REMEDY)
        count = accessor.count
        if isinstance(count, bool) or not isinstance(count, int) or count < 1:
            raise InputError(f"accessor {index} holds nothing", place, REMEDY)
        self._numbers_left -= count * width
        if self._numbers_left < 0:
            raise InputError(
                f"the model holds more than {MOST_NUMBERS // 10**6} million numbers",
                place,
                "Split it, or leave detail out",
            )
        if accessor.bufferView is None:
            raw = np.zeros((count, width), dtype)
        else:
            raw = self._strided(
                accessor.bufferView, accessor.byteOffset or 0, count, width, dtype, f"accessor {index}", place
            )
        if accessor.sparse is not None:
            raw = self._with_sparse(raw, accessor.sparse, f"accessor {index}", place)
        if accessor.normalized and dtype.kind in "iu":
            return np.maximum(np.asarray(raw / np.iinfo(str(dtype)).max, np.float32), -1.0)
        return raw

    def _strided(
        self, number: Any, offset: int, count: int, width: int, dtype: np.dtype[Any], what: str, place: str
    ) -> NDArray[Any]:  # fmt: skip
        view = self._doc.bufferViews[item_at(self._doc.bufferViews, number, place)]
        if COMPRESSIONS & set(view.extensions or {}):
            raise InputError("its triangles are compressed", place, "Export the model without compression")
        data = self._buffer(view.buffer, place)
        start = (view.byteOffset or 0) + offset
        stride = view.byteStride or width * dtype.itemsize
        needed = start + stride * (count - 1) + width * dtype.itemsize
        if start < 0 or stride < 1 or needed > len(data):
            raise InputError(f"{what} reaches past the end of the data", place, REMEDY)
        return np.ndarray((count, width), dtype, data, start, (stride, dtype.itemsize))

    def _with_sparse(self, raw: NDArray[Any], sparse: Any, what: str, place: str) -> NDArray[Any]:
        """The numbers with those put in that a sparse accessor tells of (glTF 2.0, section 3.6.2.3)."""
        count, kind = sparse.count, sparse.indices.componentType
        if isinstance(count, bool) or not isinstance(count, int) or not 1 <= count <= len(raw):
            raise InputError(f"{what} replaces {count!r} of {len(raw)} numbers", place, REMEDY)
        if kind not in (5121, 5123, 5125):
            raise InputError(f"the indices of {what} are no whole numbers", place, REMEDY)
        indices, values = sparse.indices, sparse.values
        where = self._strided(
            indices.bufferView, indices.byteOffset or 0, count, 1, np.dtype(_COMPONENT[kind]), what, place
        ).ravel()
        if where.max() >= len(raw):
            raise InputError(f"{what} replaces number {where.max()} of {len(raw)}", place, REMEDY)
        out = raw.copy()
        out[where] = self._strided(
            values.bufferView, values.byteOffset or 0, count, raw.shape[1], raw.dtype, what, place
        )
        return out

    def _buffer(self, index: Any, place: str) -> bytes:
        """The bytes of a buffer: the file's own, or those written into its description."""
        number = item_at(self._doc.buffers, index or 0, place)
        uri = self._doc.buffers[number].uri
        if uri is None:
            if number:
                raise InputError(f"buffer {number} says nothing of where it lies", place, REMEDY)
            return self._blob
        if number not in self._read:
            self._read[number] = of_data_uri(uri, place)
        return self._read[number]
