"""Triangles of a glTF document's meshes: lists, strips and fans, with normals, coordinates of pictures and colours of vertices."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import pygltflib
from numpy.typing import NDArray

from valleylight.core.colour.rgb import srgb_encode
from valleylight.core.errors import InputError
from valleylight.core.stage.gltf.buffers import Buffers
from valleylight.core.stage.gltf.draco import DRACO, Packed
from valleylight.core.stage.gltf.geometry import flat_shaded, good_normals, mended
from valleylight.core.stage.gltf.materials import Laying
from valleylight.core.stage.gltf.pictures import LARGEST_TEXTURE, Pictures
from valleylight.core.stage.gltf.values import COMPRESSIONS, REMEDY, Notes, item_at
from valleylight.core.stage.model import Material, Mesh

#: No picture is repeated more often.
FARTHEST_UV = 1e6
TRIANGLES, STRIP, FAN = 4, 5, 6
#: Colours of vertices that differ by less than this are one colour.
ONE_COLOUR = 1.5 / 255
F32 = np.float32


@dataclass(frozen=True)
class _Part:
    """One primitive: points, normals (V, 3), coordinates of pictures (V, 2), triangles (T, 3), and the number of its material."""

    points: NDArray[np.float32]
    normals: NDArray[np.float32]
    uv: NDArray[np.float32]
    triangles: NDArray[np.uint32]
    material: int


class _Reading:
    """The numbers of one primitive, wherever they lie."""

    def __init__(self, buffers: Buffers, document: pygltflib.GLTF2, packed: Packed | None, place: str) -> None:
        self._buffers, self._doc, self._packed, self._place = buffers, document, packed, place

    def attribute(self, name: str, index: Any, width: int | None = None) -> NDArray[Any]:
        if self._packed is not None:
            accessor = self._doc.accessors[item_at(self._doc.accessors, index, self._place)]
            values = self._packed.attribute(name, accessor, width)
            if values is not None:
                return values
        return self._buffers.accessor(index, self._place, width)

    def corners(self, indices: Any, count: int) -> NDArray[np.uint32]:
        """Numbers of vertices, one after the other."""
        if self._packed is not None:
            return self._packed.faces().ravel()
        if indices is None:
            return np.arange(count, dtype=np.uint32)
        counted = self._buffers.accessor(indices, self._place, 1)
        if counted.dtype.kind == "f":
            raise InputError("its indices are no whole numbers", self._place, REMEDY)
        return counted.astype(np.uint32).ravel()


class Primitives:
    """Reads meshes. Vertices' own colours become pictures of materials that are added to `materials`."""

    def __init__(
        self, document: pygltflib.GLTF2, buffers: Buffers, pictures: Pictures, materials: list[Material], layings: list[Laying],
        file: str, notes: Notes,
    ) -> None:  # fmt: skip
        self._doc, self._buffers, self._pictures, self._file, self._notes = document, buffers, pictures, file, notes
        self.materials, self._layings, self._default = materials, layings, len(materials) - 1
        self._painted: dict[tuple[int, tuple[float, ...]], int] = {}

    def mesh(self, source: Any, where: str) -> Mesh:
        """A mesh of all that is made of triangles. Raises InputError that names the primitive at fault."""
        if source.weights or any(primitive.targets for primitive in source.primitives):
            self._notes.add(f"{where} changes its shape in the file; it stands in its first one.")
        parts = [self._part(p, where, k) for k, p in enumerate(source.primitives)]
        found = [part for part in parts if part is not None]
        if not found:
            empty = np.zeros((0, 3), F32)
            return Mesh(empty, empty, np.zeros((0, 2), F32), np.zeros((0, 3), np.uint32), np.zeros(0, np.int32))
        begins = np.cumsum([0, *(len(part.points) for part in found)])
        return Mesh(
            np.concatenate([part.points for part in found]), np.concatenate([part.normals for part in found]),
            np.concatenate([part.uv for part in found]),
            np.concatenate([part.triangles + np.uint32(first) for part, first in zip(found, begins, strict=False)]),
            np.concatenate([np.full(len(part.triangles), part.material, np.int32) for part in found]),
        )  # fmt: skip

    def _part(self, primitive: Any, where: str, number: int) -> _Part | None:
        place = f"{self._file}, {where}, primitive {number}"
        mode = TRIANGLES if primitive.mode is None else primitive.mode
        if mode not in (TRIANGLES, STRIP, FAN):
            self._notes.add(f"{where}, primitive {number} is not made of triangles and was left out.")
            return None
        extensions = primitive.extensions or {}
        if COMPRESSIONS & set(extensions):
            raise InputError("its triangles are compressed", place, "Export the model without compression")
        read = _Reading(self._buffers, self._doc, self._packed(extensions.get(DRACO), place), place)
        attributes = primitive.attributes
        if attributes.POSITION is None:
            raise InputError("there are no positions", place, REMEDY)
        if attributes.JOINTS_0 is not None:
            self._notes.add(f"{where} hangs on a skeleton in the file; it stands as it was drawn.")
        points = read.attribute("POSITION", attributes.POSITION, 3).astype(F32)
        if not np.isfinite(points).all():
            raise InputError("a position is not a finite number", place, REMEDY)
        triangles = self._triangles(read.corners(primitive.indices, len(points)), mode, len(points), place)
        material = self._default
        if primitive.material is not None:
            material = item_at(self._doc.materials, primitive.material, place)
        uv = self._uv(read, attributes, self._layings[material], len(points), place)
        colours = self._colours(read, attributes.COLOR_0, len(points), place)
        normals = None
        if attributes.NORMAL is not None:
            normals = read.attribute("NORMAL", attributes.NORMAL, 3).astype(F32)
            if len(normals) != len(points):
                self._notes.add(
                    f"{where}, primitive {number} has {len(normals)} normals for {len(points)} points; its own were made."
                )
                normals = None
        if normals is None:
            colours = None if colours is None else colours[triangles].reshape(-1, 3)
            points, uv, triangles, normals = flat_shaded(points, uv, triangles)
        elif not good_normals(normals).all():
            self._notes.add(
                f"{where}, primitive {number} has normals without direction; they were made from its faces."
            )
            normals = mended(normals, points, triangles)
        part = _Part(points, normals, uv, triangles, material)
        return part if colours is None or not len(triangles) else self._with_colours(part, colours)

    def _packed(self, extension: Any, place: str) -> Packed | None:
        if not isinstance(extension, dict):
            return None
        return Packed(self._buffers.view(extension.get("bufferView"), place), extension.get("attributes"), place)

    def _triangles(self, flat: NDArray[np.uint32], mode: int, count: int, place: str) -> NDArray[np.uint32]:
        """Corners (T, 3) of a list, a strip or a fan (glTF 2.0, section 3.7.2.1), without those of a strip that have no size."""
        if mode == TRIANGLES:
            triangles = flat[: len(flat) // 3 * 3].reshape(-1, 3)
        elif len(flat) < 3:
            triangles = np.zeros((0, 3), np.uint32)
        elif mode == FAN:
            triangles = np.column_stack([flat[1:-1], flat[2:], np.full(len(flat) - 2, flat[0])])
        else:
            odd = np.arange(len(flat) - 2) % 2
            triangles = np.column_stack(
                [flat[:-2], flat[1:-1] * (1 - odd) + flat[2:] * odd, flat[2:] * (1 - odd) + flat[1:-1] * odd]
            )
        if len(triangles) and triangles.max() >= count:
            raise InputError(f"index {triangles.max()} points past the {count} vertices", place, REMEDY)
        if mode != TRIANGLES:
            a, b, c = triangles.T
            triangles = triangles[(a != b) & (b != c) & (c != a)]
        return np.ascontiguousarray(triangles, np.uint32)

    def _uv(self, read: _Reading, attributes: Any, laying: Laying, count: int, place: str) -> NDArray[np.float32]:
        """Texture coordinates (count, 2), zero where there are none or where they are no numbers to look a picture up by."""
        name = "TEXCOORD_1" if laying.uv_set == 1 else "TEXCOORD_0"
        index = getattr(attributes, name)
        if index is None:
            return np.zeros((count, 2), F32)
        uv = read.attribute(name, index, 2).astype(np.float64)
        if len(uv) != count:
            self._notes.add(f"{place} has {len(uv)} texture coordinates for {count} points; they were left out.")
            return np.zeros((count, 2), F32)
        if laying.matrix is not None:
            with np.errstate(over="ignore", invalid="ignore"):
                uv = uv @ laying.matrix[:, :2].T + laying.matrix[:, 2]
        good = (np.abs(uv) <= FARTHEST_UV).all(1)  # NaN is not either
        if not good.all():
            self._notes.add(
                f"{place}: {int((~good).sum())} texture coordinates are no usable numbers and were set to zero."
            )
            uv[~good] = 0.0
        return uv.astype(F32)

    def _colours(self, read: _Reading, index: Any, count: int, place: str) -> NDArray[np.float64] | None:
        """Linear colours (count, 3) of vertices, 0 to 1; None where they change nothing."""
        if index is None:
            return None
        colours = read.attribute("COLOR_0", index).astype(np.float64)
        if colours.shape[1] not in (3, 4) or len(colours) != count:
            self._notes.add(f"{place} has {len(colours)} colours for {count} points; they were left out.")
            return None
        colours = np.clip(np.nan_to_num(colours[:, :3]), 0.0, 1.0)
        return None if (colours > 1.0 - ONE_COLOUR / 2).all() else colours

    def _with_colours(self, part: _Part, colours: NDArray[np.float64]) -> _Part:
        """The part in a material of its own: of one colour, or with a picture in which every triangle has a patch of its own.

        A patch is 2 x 2 texels: a, b, c at three middles and b + c - a at the fourth, so that bilinear lookup is linear over the triangle.
        The corner a is the one for which the fourth is a colour too; where there is none, strong colours bend a little between them.
        """
        used = colours[part.triangles]
        plain = used.reshape(-1, 3).mean(0)
        side = 2 * int(np.ceil(np.sqrt(len(part.triangles))))
        textured = self.materials[part.material].base_texture >= 0
        one = np.abs(used - plain).max() < ONE_COLOUR
        if one or textured or side > LARGEST_TEXTURE:
            if not one:
                why = "besides its picture" if textured else "for so many triangles"
                name = self.materials[part.material].name
                self._notes.add(f"Colours of vertices on material {name!r} are taken as their mean {why}.")
            return replace(part, material=self._tinted(part.material, plain))
        row, column = np.divmod(np.arange(len(part.triangles)), side // 2)
        texels = np.zeros((side, side, 3))
        turns = (np.arange(3)[:, None] + np.arange(3)) % 3  # which corners are a, b, c
        fourth = used[:, turns[:, 1]] + used[:, turns[:, 2]] - used[:, turns[:, 0]]
        turn = turns[np.abs(fourth - np.clip(fourth, 0, 1)).sum(2).argmin(1)]
        a, b, c = np.moveaxis(np.take_along_axis(used, turn[:, :, None], 1), 1, 0)
        for (down, across), values in (((0, 0), a), ((0, 1), b), ((1, 0), c), ((1, 1), b + c - a)):
            texels[2 * row + down, 2 * column + across] = np.clip(values, 0, 1)
        number = self._pictures.added(np.round(srgb_encode(texels) * 255).astype(np.uint8))
        corner = np.stack([2 * column + 0.5, 2 * row + 0.5], 1)
        place = np.zeros((len(turn), 3, 2))
        np.put_along_axis(place, turn[:, :, None], np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]])[None], 1)
        uv = (corner[:, None] + place) / side
        flat = part.triangles.ravel()
        material = len(self.materials)
        self.materials.append(replace(self.materials[part.material], base_texture=number))
        return _Part(
            part.points[flat], part.normals[flat], uv.reshape(-1, 2).astype(F32),
            np.arange(len(flat), dtype=np.uint32).reshape(-1, 3), material,
        )  # fmt: skip

    def _tinted(self, number: int, colour: NDArray[np.float64]) -> int:
        """Number of a material times a colour."""
        key = (number, tuple(np.round(colour, 3).tolist()))
        if key not in self._painted:
            self._painted[key] = len(self.materials)
            red, green, blue = (float(v * k) for v, k in zip(self.materials[number].base, colour, strict=True))
            self.materials.append(replace(self.materials[number], base=(red, green, blue)))
        return self._painted[key]
