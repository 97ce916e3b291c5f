"""Import of glTF 2.0 binary models (GLB) with their materials.

Source: Khronos glTF 2.0 specification and the extensions KHR_materials_transmission, _volume, _ior, _specular,
_clearcoat, _sheen, _emissive_strength and _diffuse_transmission, and EXT_mesh_gpu_instancing. glTF is Y up and metres; the stage is Z up and metres.
Node extras `layer` (text) and `opening` (centre, half_u, half_v, inward) are read where a model carries them.
"""

from __future__ import annotations

import io
import json
import struct
from typing import Any

import numpy as np
import pygltflib
from numpy.typing import NDArray
from PIL import Image, UnidentifiedImageError
from pydantic import ValidationError

from valleylight.core.errors import InputError
from valleylight.core.project.description import Opening
from valleylight.core.stage.extent import together_of
from valleylight.core.stage.gltf_geometry import flat_shaded, good_normals, local_matrix, mended, rotation_matrices
from valleylight.core.stage.gltf_values import (
    COMPRESSIONS,
    check_extensions,
    checked_number,
    chunks_of,
    item_at,
    of_data_uri,
)
from valleylight.core.stage.model import Material, Mesh, MeshInstance, StageData, Texture

Y_UP_TO_Z_UP = np.array([[1, 0, 0, 0], [0, 0, -1, 0], [0, 1, 0, 0], [0, 0, 0, 1]], float)
_COMPONENT = {5120: np.int8, 5121: np.uint8, 5122: np.int16, 5123: np.uint16, 5125: np.uint32, 5126: np.float32}
_WIDTH = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}
LARGEST_TEXTURE = 4096
#: What one model may hold in all: numbers of its accessors, pixels of its pictures.
MOST_NUMBERS, MOST_PIXELS = 600_000_000, 600_000_000
MOST_NOTES = 50
#: No part of a model stands farther from its origin; no picture is repeated more often.
FARTHEST_M, FARTHEST_UV = 1e7, 1e6
#: A see-through colour that covers less than this is a pane.
SEEN_THROUGH = 0.99
_REMEDY = "Export the model again as glTF binary (.glb)"


def read_glb(data: bytes, file: str = "model") -> StageData:
    """Read a GLB. Raises InputError that names the file and the part of it that is at fault."""
    if data[:4] != b"glTF":
        kind = "a picture" if data[:8] in (b"\x89PNG\r\n\x1a\n",) or data[:3] == b"\xff\xd8\xff" else "not a GLB model"
        raise InputError(f"the content is {kind}", file, _REMEDY)
    if len(data) < 20:
        raise InputError("the file is cut off after its first bytes", file, _REMEDY)
    version, length = struct.unpack_from("<II", data, 4)
    if version != 2:
        raise InputError(f"glTF version {version} is not supported", file, "Export as glTF 2.0")
    if length > len(data):
        raise InputError(f"the file is cut off: {len(data)} of {length} bytes are there", file, "Copy it again")
    try:
        raw, blob = chunks_of(data, file)
        check_extensions(raw, file)
        nodes = raw.pop("nodes", [])
        # The library takes more than a millisecond for each node; they are plain enough to be read as they stand.
        document = pygltflib.GLTF2.from_json(json.dumps(raw))
        return _Reader(document, nodes, blob, file).stage()
    except InputError:
        raise
    except RecursionError as error:
        raise InputError("the model is nested too deeply", file, _REMEDY) from error
    except (ValueError, KeyError, IndexError, TypeError, AttributeError, OverflowError, struct.error) as error:
        raise InputError(f"the model is damaged ({type(error).__name__}: {error})", file, _REMEDY) from error


class _Reader:
    def __init__(self, document: pygltflib.GLTF2 | None, nodes: list[dict[str, Any]], blob: bytes, file: str) -> None:
        if document is None:
            raise InputError("the model cannot be parsed", file, _REMEDY)
        self._doc = document
        self._nodes = nodes
        self._file = file
        self._blob = blob
        self._buffers: dict[int, bytes] = {}
        self._numbers_left, self._pixels_left = MOST_NUMBERS, MOST_PIXELS
        self._textures: list[Texture] = []
        self._texture_of: dict[tuple[int, bool], int] = {}
        self._notes: list[str] = []

    def stage(self) -> StageData:
        materials = [self._material(m, f"material {k}") for k, m in enumerate(self._doc.materials)]
        default = len(materials)
        materials.append(Material(name="placeholder"))
        meshes = [self._mesh(m, f"mesh {k}", default) for k, m in enumerate(self._doc.meshes)]
        hung: list[tuple[int, str, str, NDArray[np.float64]]] = []
        openings: list[Opening] = []
        scene = self._doc.scenes[self._doc.scene or 0]
        pending: list[tuple[int, NDArray[np.float64], str]] = [
            (n, Y_UP_TO_Z_UP, "") for n in reversed(scene.nodes or [])
        ]
        met: set[int] = set()
        while pending:
            index, parent, layer = pending.pop()
            if index in met or not 0 <= index < len(self._nodes):
                lost = f"there is no node {index}"
                raise InputError(
                    f"node {index} is hung up twice, or in a loop" if index in met else lost, self._file, _REMEDY
                )
            met.add(index)
            node = self._nodes[index]
            matrix = parent @ local_matrix(node)
            extras = node.get("extras")
            extras = extras if isinstance(extras, dict) else {}
            layer = str(extras.get("layer", layer))[:80]
            if "opening" in extras:
                try:
                    openings.append(Opening.model_validate(extras["opening"]))
                except ValidationError:
                    self._notes.append(f"The opening of node {index} was left out: it is not complete.")
            number = node.get("mesh")
            if number is not None and len(meshes[item_at(meshes, number, f"{self._file}, node {index}")].triangles):
                name = str(node.get("name") or f"object {index}")
                hung += [(number, layer, name, m) for m in self._instances(node, matrix, name)]
            pending += [(child, matrix, layer) for child in reversed(node.get("children") or [])]
        instances = self._placed(hung, meshes)
        if not instances:
            raise InputError("the model holds no triangles", self._file, "Export the model with its meshes")
        return StageData(
            tuple(meshes), tuple(instances), tuple(materials), tuple(self._textures), tuple(openings),
            tuple(self._notes),
        )  # fmt: skip

    def _placed(self, hung: list[tuple[int, str, str, NDArray[np.float64]]], meshes: list[Mesh]) -> list[MeshInstance]:
        """Meshes (number, layer, name, matrix) in their places, but for those that have no size there. Raises InputError for
        places beyond all reach."""
        if not hung:
            return []
        matrices = np.array([m for *_, m in hung])
        linear = matrices[:, :3, :3]
        far = np.array([np.abs(mesh.points).max() if len(mesh.points) else 0.0 for mesh in meshes])
        reach = np.abs(linear).sum((1, 2)) * far[[number for number, *_ in hung]] + np.abs(matrices[:, :3, 3]).max(1)
        beyond = np.flatnonzero(~(reach < FARTHEST_M))  # NaN is not either
        if len(beyond):
            raise InputError(
                f"object {hung[beyond[0]][2]!r} stands or reaches farther than {FARTHEST_M / 1000:g} km", self._file,
                "Export the model in metres, near its origin",
            )  # fmt: skip
        flat = np.abs(np.linalg.det(linear)) <= 1e-12 * np.maximum(np.abs(linear).max((1, 2)), 1e-30) ** 3
        for k in np.flatnonzero(flat):
            self._note(f"Object {hung[k][2]!r} is scaled to nothing in one direction and was left out.")
        instances = [
            MeshInstance(number, m, layer, name)
            for (number, layer, name, m), without in zip(hung, flat, strict=True) if not without
        ]  # fmt: skip
        together, strays = together_of(instances, meshes, self._file)
        for text in strays:
            self._note(text)
        return together

    def _note(self, text: str) -> None:
        if text not in self._notes and len(self._notes) < MOST_NOTES:
            self._notes.append(text)

    def _instances(self, node: dict[str, Any], matrix: NDArray[np.float64], name: str) -> NDArray[np.float64]:
        """World matrices (N, 4, 4) of a node: one, or those of EXT_mesh_gpu_instancing."""
        attributes = (node.get("extensions") or {}).get("EXT_mesh_gpu_instancing", {}).get("attributes", {})
        if not attributes:
            return matrix[None]
        place = f"{self._file}, node {name!r}"
        parts = {key: self._accessor(index, place).astype(float) for key, index in attributes.items()}
        count = max(len(values) for values in parts.values())
        local = np.tile(np.eye(4), (count, 1, 1))
        if "ROTATION" in parts:
            local[:, :3, :3] = rotation_matrices(parts["ROTATION"])
        if "SCALE" in parts:
            local[:, :3, :3] *= parts["SCALE"][:, None, :]
        if "TRANSLATION" in parts:
            local[:, :3, 3] = parts["TRANSLATION"]
        return np.asarray(matrix @ local)

    def _material(self, source: Any, where: str) -> Material:
        extensions = source.extensions or {}
        pbr = source.pbrMetallicRoughness or pygltflib.PbrMetallicRoughness()
        place = f"{self._file}, {where}"

        def number(value: Any, otherwise: float, most: float = 1.0, least: float = 0.0) -> float:
            return checked_number(value, otherwise, least, most, place)

        def colour_of(values: Any, otherwise: tuple[float, ...] = (0.0, 0.0, 0.0), most: float = 1.0) -> Any:
            values = otherwise if values is None else values
            return tuple(number(v, 0.0, most) for v in (values[0], values[1], values[2]))

        base = [number(v, 1.0) for v in (pbr.baseColorFactor or [1, 1, 1, 1])]
        transmission = number(extensions.get("KHR_materials_transmission", {}).get("transmissionFactor"), 0.0)
        diffuse_through = extensions.get("KHR_materials_diffuse_transmission", {})
        strength = number(extensions.get("KHR_materials_emissive_strength", {}).get("emissiveStrength"), 1.0, 1e9)
        opacity = base[3] if len(base) > 3 else 1.0
        # Many exporters of drawings write window panes as see-through colour: light would not get through paint.
        pane = source.alphaMode == "BLEND" and opacity < SEEN_THROUGH and transmission < 0.5
        if pane:
            self._note(f"Material {(source.name or where)!r} is see-through in the file and was taken as thin glass.")
        glass = transmission >= 0.5 or pane
        volume = extensions.get("KHR_materials_volume", {})
        solid = glass and not pane and number(volume.get("thicknessFactor"), 0.0, 1e9) > 0
        colour = (base[0], base[1], base[2])
        tint = colour_of(volume.get("attenuationColor"), (1.0, 1.0, 1.0)) if solid else colour
        if pane:
            tint = tuple(1.0 - opacity * (1.0 - v) for v in colour)
        coat = extensions.get("KHR_materials_clearcoat", {})
        sheen = extensions.get("KHR_materials_sheen", {})
        back = diffuse_through.get("diffuseTransmissionColorFactor")
        cut = source.alphaMode in ("MASK", "BLEND")
        return Material(
            name=source.name or where,
            base=(0.0, 0.0, 0.0) if glass else colour,
            roughness=0.0 if pane else number(pbr.roughnessFactor, 1.0),
            metal=0.0 if pane else number(pbr.metallicFactor, 1.0),
            specular=number(extensions.get("KHR_materials_specular", {}).get("specularFactor"), 1.0),
            index=number(extensions.get("KHR_materials_ior", {}).get("ior"), 1.5, 3.0, 1.0),
            thin_glass=glass and not solid,
            solid_glass=solid,
            tint=tint if glass else (1.0, 1.0, 1.0),
            tint_depth_m=number(volume.get("attenuationDistance"), 1000.0, 1000.0, 1e-6) if solid else 0.1,
            translucency=number(diffuse_through.get("diffuseTransmissionFactor"), 0.0),
            through_tint=colour_of(back) if back else None,
            emission=tuple(v * strength for v in colour_of(source.emissiveFactor, most=1e9)),  # type: ignore[arg-type]
            coat=number(coat.get("clearcoatFactor"), 0.0),
            coat_roughness=number(coat.get("clearcoatRoughnessFactor"), 0.0),
            sheen=colour_of(sheen.get("sheenColorFactor")),
            sheen_roughness=number(sheen.get("sheenRoughnessFactor"), 0.3, 1.0, 0.05),
            base_texture=self._texture(pbr.baseColorTexture, where),
            relief_texture=self._texture(source.normalTexture, where),
            relief=number(getattr(source.normalTexture, "scale", None), 1.0, 100.0, -100.0),
            rough_texture=self._texture(pbr.metallicRoughnessTexture, where),
            alpha_texture=self._texture(pbr.baseColorTexture, where, alpha=True) if cut and not pane else -1,
            alpha_cutoff=number(source.alphaCutoff, 0.5, 1e9),
        )

    def _texture(self, reference: Any, where: str, alpha: bool = False) -> int:
        """Number of a texture, or of its alpha as a grey one; -1 where there is none."""
        if reference is None or reference.index is None:
            return -1
        textures = self._doc.textures
        source = textures[item_at(textures, reference.index, f"{self._file}, texture of {where}")].source
        if source is None:
            return -1
        key = (source, alpha)
        if key not in self._texture_of:
            image = self._doc.images[item_at(self._doc.images, source, f"{self._file}, {where}")]
            if image.bufferView is not None:
                view = self._doc.bufferViews[item_at(self._doc.bufferViews, image.bufferView, f"{self._file}, {where}")]
                start = view.byteOffset or 0
                coded = self._buffer(view.buffer, f"{self._file}, {where}")[start : start + view.byteLength]
            elif (image.uri or "").startswith("data:"):
                coded = of_data_uri(image.uri, f"{self._file}, {where}")
            else:
                self._note(f"The texture of {where} lies outside the file and was left out.")
                return -1
            try:
                picture = Image.open(io.BytesIO(coded))
                self._pixels_left -= picture.width * picture.height
                if self._pixels_left < 0:
                    raise InputError(
                        f"its pictures hold more than {MOST_PIXELS // 10**6} million pixels", f"{self._file}, {where}",
                        f"Make them smaller: {LARGEST_TEXTURE} pixels a side are used at most",
                    )  # fmt: skip
                picture.draft("RGB", (LARGEST_TEXTURE, LARGEST_TEXTURE))
                picture.load()
            except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
                if isinstance(error, InputError):
                    raise
                raise InputError(f"image {source} cannot be read", f"{self._file}, {where}", _REMEDY) from error
            if max(picture.size) > LARGEST_TEXTURE:
                picture.thumbnail((LARGEST_TEXTURE, LARGEST_TEXTURE))
            if alpha and "A" not in picture.getbands() and "transparency" not in picture.info:
                self._texture_of[key] = -1  # nothing is cut out
                return -1
            shown = picture.convert("RGBA").getchannel("A").convert("RGB") if alpha else picture.convert("RGB")
            self._texture_of[key] = len(self._textures)
            self._textures.append(Texture(np.ascontiguousarray(np.asarray(shown))))
        return self._texture_of[key]

    def _mesh(self, source: Any, where: str, default_material: int) -> Mesh:
        points, normals, uvs, triangles, materials = [], [], [], [], []
        offset = 0
        for number, primitive in enumerate(source.primitives):
            place = f"{self._file}, {where}, primitive {number}"
            if primitive.mode not in (None, 4):
                self._notes.append(f"{where}, primitive {number} is not made of triangles and was left out.")
                continue
            if COMPRESSIONS & set(primitive.extensions or {}):
                raise InputError("its triangles are compressed", place, "Export the model without compression")
            if primitive.attributes.POSITION is None:
                raise InputError("there are no positions", place, _REMEDY)
            p = self._accessor(primitive.attributes.POSITION, place, 3).astype(np.float32)
            if not np.isfinite(p).all():
                raise InputError("a position is not a finite number", place, _REMEDY)
            if primitive.indices is None:
                t = np.arange(len(p) // 3 * 3, dtype=np.uint32).reshape(-1, 3)
            else:
                counted = self._accessor(primitive.indices, place, 1)
                if counted.dtype.kind == "f":
                    raise InputError("its indices are no whole numbers", place, _REMEDY)
                flat = counted.astype(np.uint32).ravel()
                t = flat[: len(flat) // 3 * 3].reshape(-1, 3)
            if len(t) and t.max() >= len(p):
                raise InputError(f"index {t.max()} points past the {len(p)} vertices", place, _REMEDY)
            w = self._uv(primitive.attributes.TEXCOORD_0, len(p), place)
            n = None
            if primitive.attributes.NORMAL is not None:
                n = self._accessor(primitive.attributes.NORMAL, place, 3).astype(np.float32)
                if len(n) != len(p):
                    self._note(
                        f"{where}, primitive {number} has {len(n)} normals for {len(p)} points; its own were made."
                    )
                    n = None
            if n is None:
                p, w, t, n = flat_shaded(p, w, t)
            elif not good_normals(n).all():
                self._note(f"{where}, primitive {number} has normals without direction; they were made from its faces.")
                n = mended(n, p, t)
            points.append(p)
            normals.append(n)
            uvs.append(w)
            triangles.append(t + np.uint32(offset))
            material = default_material
            if primitive.material is not None:
                material = item_at(self._doc.materials, primitive.material, place)
            materials.append(np.full(len(t), material, np.int32))
            offset += len(p)
        if not points:
            empty = np.zeros((0, 3), np.float32)
            return Mesh(empty, empty, np.zeros((0, 2), np.float32), np.zeros((0, 3), np.uint32), np.zeros(0, np.int32))
        return Mesh(
            np.concatenate(points), np.concatenate(normals), np.concatenate(uvs), np.concatenate(triangles),
            np.concatenate(materials),
        )  # fmt: skip

    def _uv(self, index: int | None, count: int, place: str) -> NDArray[np.float32]:
        """Texture coordinates (count, 2), zero where there are none or where they are no numbers to look a picture up by."""
        if index is None:
            return np.zeros((count, 2), np.float32)
        uv = self._accessor(index, place, 2).astype(np.float64)
        if len(uv) != count:
            self._note(f"{place} has {len(uv)} texture coordinates for {count} points; they were left out.")
            return np.zeros((count, 2), np.float32)
        good = (np.abs(uv) <= FARTHEST_UV).all(1)  # NaN is not either
        if not good.all():
            self._note(f"{place}: {int((~good).sum())} texture coordinates are no usable numbers and were set to zero.")
            uv[~good] = 0.0
        return uv.astype(np.float32)

    def _buffer(self, index: int | None, place: str) -> bytes:
        """The bytes of a buffer: the file's own, or those written into its description."""
        number = item_at(self._doc.buffers, index or 0, place)
        uri = self._doc.buffers[number].uri
        if uri is None:
            if number:
                raise InputError(f"buffer {number} says nothing of where it lies", place, _REMEDY)
            return self._blob
        if number not in self._buffers:
            self._buffers[number] = of_data_uri(uri, place)
        return self._buffers[number]

    def _accessor(self, index: int, place: str, wanted: int | None = None) -> NDArray[Any]:
        """The numbers of an accessor (count, width); its size is known to be sound before anything is laid out."""
        accessor = self._doc.accessors[item_at(self._doc.accessors, index, place)]
        if accessor.type not in _WIDTH or accessor.componentType not in _COMPONENT:
            raise InputError(f"accessor {index} is of a type that glTF does not know", place, _REMEDY)
        if wanted is not None and _WIDTH[accessor.type] != wanted:
            raise InputError(
                f"accessor {index} has {_WIDTH[accessor.type]} numbers each where {wanted} belong", place, _REMEDY
            )
        if not isinstance(accessor.count, int) or accessor.count < 1:
            raise InputError(f"accessor {index} holds nothing", place, _REMEDY)
        self._numbers_left -= accessor.count * _WIDTH[accessor.type]
        if self._numbers_left < 0:
            raise InputError(
                f"the model holds more than {MOST_NUMBERS // 10**6} million numbers",
                place,
                "Split it, or leave detail out",
            )
        width, dtype = _WIDTH[accessor.type], np.dtype(_COMPONENT[accessor.componentType])
        if accessor.sparse is not None:
            raise InputError("sparse accessors are not supported", place, "Export without morph targets")
        if accessor.bufferView is None:
            return np.zeros((accessor.count, width), dtype)
        view = self._doc.bufferViews[item_at(self._doc.bufferViews, accessor.bufferView, place)]
        if COMPRESSIONS & set(view.extensions or {}):
            raise InputError("its triangles are compressed", place, "Export the model without compression")
        data = self._buffer(view.buffer, place)
        start = (view.byteOffset or 0) + (accessor.byteOffset or 0)
        stride = view.byteStride or width * dtype.itemsize
        needed = start + stride * (accessor.count - 1) + width * dtype.itemsize
        if start < 0 or stride < 1 or needed > len(data):
            raise InputError(f"accessor {index} reaches past the end of the data", place, _REMEDY)
        raw = np.ndarray((accessor.count, width), dtype, data, start, (stride, dtype.itemsize))
        if accessor.normalized and dtype.kind in "iu":
            return np.asarray(raw / np.iinfo(str(dtype)).max, np.float32)
        return raw
