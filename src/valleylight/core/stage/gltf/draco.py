"""Triangles packed by Draco (KHR_draco_mesh_compression), unpacked by DracoPy."""

from __future__ import annotations

from typing import Any

import DracoPy
import numpy as np
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.stage.gltf.values import REMEDY

DRACO = "KHR_draco_mesh_compression"
_REMEDY = "Export the model without compression"


class Packed:
    """One primitive's triangles and attributes as they were packed together."""

    def __init__(self, data: bytes, ids: Any, place: str) -> None:
        """Raises InputError where the bytes are no Draco mesh."""
        self._place, self._ids = place, ids if isinstance(ids, dict) else {}
        try:
            self._mesh = DracoPy.decode(data)
        except MemoryError:
            raise
        except Exception as error:  # the library raises whatever it met
            raise InputError(f"its compressed triangles cannot be unpacked ({error})", place, _REMEDY) from None
        if not hasattr(self._mesh, "faces"):
            raise InputError("its compressed part holds points without triangles", place, _REMEDY)

    def faces(self) -> NDArray[np.uint32]:
        """Corners (T, 3)."""
        return np.asarray(self._mesh.faces, np.uint32).reshape(-1, 3)

    def attribute(self, name: str, accessor: Any, width: int | None) -> NDArray[Any] | None:
        """The numbers (V, width) of an attribute, scaled where the accessor says so; None where it is not packed."""
        number = self._ids.get(name)
        if number is None:
            return None
        found = next((a for a in self._mesh.attributes if a.get("unique_id") == number), None)
        if found is None:
            raise InputError(f"its compressed {name} is not there", self._place, REMEDY)
        data = np.asarray(found["data"])
        data = data.reshape(len(data), -1)
        if width is not None and data.shape[1] != width:
            raise InputError(
                f"its compressed {name} has {data.shape[1]} numbers each where {width} belong", self._place, REMEDY
            )
        if accessor.normalized and data.dtype.kind in "iu":
            return np.maximum(np.asarray(data / np.iinfo(str(data.dtype)).max, np.float32), -1.0)
        return data
