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
from valleylight.core.stage.model import Material, Mesh, Placement, StageData, Texture

Y_UP_TO_Z_UP = np.array([[1, 0, 0, 0], [0, 0, -1, 0], [0, 1, 0, 0], [0, 0, 0, 1]], float)
_COMPONENT = {5120: np.int8, 5121: np.uint8, 5122: np.int16, 5123: np.uint16, 5125: np.uint32, 5126: np.float32}
_WIDTH = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}
LARGEST_TEXTURE = 4096
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
        document = pygltflib.GLTF2.load_from_bytes(data)
        return _Reader(document, file).stage()
    except InputError:
        raise
    except (ValueError, KeyError, IndexError, TypeError, AttributeError, struct.error, json.JSONDecodeError) as error:
        raise InputError(f"the model is damaged ({type(error).__name__}: {error})", file, _REMEDY) from error


class _Reader:
    def __init__(self, document: pygltflib.GLTF2 | None, file: str) -> None:
        if document is None:
            raise InputError("the model cannot be parsed", file, _REMEDY)
        self._doc = document
        self._file = file
        self._blob: bytes = document.binary_blob() or b""
        self._textures: list[Texture] = []
        self._texture_of: dict[tuple[int, bool], int] = {}
        self._notes: list[str] = []

    def stage(self) -> StageData:
        materials = [self._material(m, f"material {k}") for k, m in enumerate(self._doc.materials)]
        default = len(materials)
        materials.append(Material(name="placeholder"))
        meshes = [self._mesh(m, f"mesh {k}", default) for k, m in enumerate(self._doc.meshes)]
        placements: list[Placement] = []
        openings: list[Opening] = []
        scene = self._doc.scenes[self._doc.scene or 0]
        pending: list[tuple[int, NDArray[np.float64], str]] = [
            (n, Y_UP_TO_Z_UP, "") for n in reversed(scene.nodes or [])
        ]
        visited = 0
        while pending:
            index, parent, layer = pending.pop()
            visited += 1
            if visited > 1_000_000:
                raise InputError("the nodes form a loop", self._file, _REMEDY)
            node = self._doc.nodes[index]
            matrix = parent @ _local_matrix(node)
            extras = node.extras if isinstance(node.extras, dict) else {}
            layer = str(extras.get("layer", layer))
            if "opening" in extras:
                try:
                    openings.append(Opening.model_validate(extras["opening"]))
                except ValidationError:
                    self._notes.append(f"The opening of node {index} was left out: it is not complete.")
            if node.mesh is not None and len(meshes[node.mesh].triangles):
                name = node.name or f"object {index}"
                placements += [Placement(node.mesh, m, layer, name) for m in self._instances(node, matrix, name)]
            pending += [(child, matrix, layer) for child in reversed(node.children or [])]
        if not placements:
            raise InputError("the model holds no triangles", self._file, "Export the model with its meshes")
        return StageData(
            tuple(meshes), tuple(placements), tuple(materials), tuple(self._textures), tuple(openings),
            tuple(self._notes),
        )  # fmt: skip

    def _instances(self, node: Any, matrix: NDArray[np.float64], name: str) -> NDArray[np.float64]:
        """World matrices (N, 4, 4) of a node: one, or those of EXT_mesh_gpu_instancing."""
        attributes = (node.extensions or {}).get("EXT_mesh_gpu_instancing", {}).get("attributes", {})
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
        base = list(pbr.baseColorFactor or [1, 1, 1, 1])
        transmission = float(extensions.get("KHR_materials_transmission", {}).get("transmissionFactor", 0.0))
        diffuse_through = extensions.get("KHR_materials_diffuse_transmission", {})
        strength = float(extensions.get("KHR_materials_emissive_strength", {}).get("emissiveStrength", 1.0))
        glass = transmission >= 0.5
        volume = extensions.get("KHR_materials_volume", {})
        solid = glass and float(volume.get("thicknessFactor", 0.0)) > 0
        colour = (float(base[0]), float(base[1]), float(base[2]))
        tint = tuple(float(v) for v in volume.get("attenuationColor", (1.0, 1.0, 1.0))) if solid else colour
        coat = extensions.get("KHR_materials_clearcoat", {})
        sheen = extensions.get("KHR_materials_sheen", {})
        back = diffuse_through.get("diffuseTransmissionColorFactor")
        cut = source.alphaMode in ("MASK", "BLEND")
        return Material(
            name=source.name or where,
            base=(0.0, 0.0, 0.0) if glass else colour,
            roughness=_or(pbr.roughnessFactor, 1.0),
            metal=_or(pbr.metallicFactor, 1.0),
            specular=float(extensions.get("KHR_materials_specular", {}).get("specularFactor", 1.0)),
            index=float(extensions.get("KHR_materials_ior", {}).get("ior", 1.5)),
            thin_glass=glass and not solid,
            solid_glass=solid,
            tint=tint if glass else (1.0, 1.0, 1.0),  # type: ignore[arg-type]
            tint_depth_m=min(float(volume.get("attenuationDistance", 1000.0)), 1000.0) if solid else 0.1,
            translucency=float(diffuse_through.get("diffuseTransmissionFactor", 0.0)),
            through_tint=tuple(float(v) for v in back) if back else None,  # type: ignore[arg-type]
            emission=tuple(float(v) * strength for v in (source.emissiveFactor or [0, 0, 0])),  # type: ignore[arg-type]
            coat=float(coat.get("clearcoatFactor", 0.0)),
            coat_roughness=float(coat.get("clearcoatRoughnessFactor", 0.0)),
            sheen=tuple(float(v) for v in sheen.get("sheenColorFactor", (0.0, 0.0, 0.0))),  # type: ignore[arg-type]
            sheen_roughness=max(float(sheen.get("sheenRoughnessFactor", 0.3)), 0.05),
            base_texture=self._texture(pbr.baseColorTexture, where),
            relief_texture=self._texture(source.normalTexture, where),
            relief=_or(getattr(source.normalTexture, "scale", None), 1.0),
            rough_texture=self._texture(pbr.metallicRoughnessTexture, where),
            alpha_texture=self._texture(pbr.baseColorTexture, where, alpha=True) if cut else -1,
            alpha_cutoff=_or(source.alphaCutoff, 0.5),
        )

    def _texture(self, reference: Any, where: str, alpha: bool = False) -> int:
        """Number of a texture, or of its alpha as a grey one; -1 where there is none."""
        if reference is None or reference.index is None:
            return -1
        source = self._doc.textures[reference.index].source
        if source is None:
            return -1
        key = (source, alpha)
        if key not in self._texture_of:
            image = self._doc.images[source]
            if image.bufferView is None:
                self._notes.append(f"The texture of {where} lies outside the file and was left out.")
                return -1
            view = self._doc.bufferViews[image.bufferView]
            start = view.byteOffset or 0
            try:
                picture = Image.open(io.BytesIO(self._blob[start : start + view.byteLength]))
                picture.load()
            except (UnidentifiedImageError, OSError, Image.DecompressionBombError) as error:
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
            if primitive.attributes.POSITION is None:
                raise InputError("there are no positions", place, _REMEDY)
            p = self._accessor(primitive.attributes.POSITION, place).astype(np.float32)
            if not np.isfinite(p).all():
                raise InputError("a position is not a finite number", place, _REMEDY)
            if primitive.indices is None:
                t = np.arange(len(p) // 3 * 3, dtype=np.uint32).reshape(-1, 3)
            else:
                flat = self._accessor(primitive.indices, place).astype(np.uint32).ravel()
                t = flat[: len(flat) // 3 * 3].reshape(-1, 3)
            if len(t) and t.max() >= len(p):
                raise InputError(f"index {t.max()} points past the {len(p)} vertices", place, _REMEDY)
            if primitive.attributes.NORMAL is not None:
                n = self._accessor(primitive.attributes.NORMAL, place).astype(np.float32)
            else:
                p, t, n = _flat_shaded(p, t)
            uv = primitive.attributes.TEXCOORD_0
            w = (
                self._accessor(uv, place).astype(np.float32)
                if uv is not None and len(n) == len(p)
                else np.zeros((len(p), 2), np.float32)
            )
            if len(w) != len(p):
                w = np.zeros((len(p), 2), np.float32)
            points.append(p)
            normals.append(n)
            uvs.append(w)
            triangles.append(t + np.uint32(offset))
            material = primitive.material if primitive.material is not None else default_material
            materials.append(np.full(len(t), material, np.int32))
            offset += len(p)
        if not points:
            empty = np.zeros((0, 3), np.float32)
            return Mesh(empty, empty, np.zeros((0, 2), np.float32), np.zeros((0, 3), np.uint32), np.zeros(0, np.int32))
        return Mesh(
            np.concatenate(points), np.concatenate(normals), np.concatenate(uvs), np.concatenate(triangles),
            np.concatenate(materials),
        )  # fmt: skip

    def _accessor(self, index: int, place: str) -> NDArray[Any]:
        accessor = self._doc.accessors[index]
        width, dtype = _WIDTH[accessor.type], np.dtype(_COMPONENT[accessor.componentType])
        if accessor.sparse is not None:
            raise InputError("sparse accessors are not supported", place, "Export without morph targets")
        if accessor.bufferView is None:
            return np.zeros((accessor.count, width), dtype)
        view = self._doc.bufferViews[accessor.bufferView]
        start = (view.byteOffset or 0) + (accessor.byteOffset or 0)
        stride = view.byteStride or width * dtype.itemsize
        needed = start + stride * (accessor.count - 1) + width * dtype.itemsize
        if accessor.count < 1 or needed > len(self._blob):
            raise InputError(f"accessor {index} reaches past the end of the data", place, _REMEDY)
        raw = np.ndarray((accessor.count, width), dtype, self._blob, start, (stride, dtype.itemsize))
        if accessor.normalized and dtype.kind in "iu":
            return np.asarray(raw / np.iinfo(str(dtype)).max, np.float32)
        return raw


def _or(value: float | None, default: float) -> float:
    return default if value is None else float(value)


def rotation_matrices(quaternions: NDArray[np.float64]) -> NDArray[np.float64]:
    """Rotation matrices (N, 3, 3) of unit quaternions (N, 4) in the order x, y, z, w."""
    x, y, z, w = quaternions.T / np.linalg.norm(quaternions, axis=1)
    rows = [
        [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
        [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
        [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
    ]
    return np.moveaxis(np.array(rows), 2, 0)


def _local_matrix(node: Any) -> NDArray[np.float64]:
    if node.matrix:
        return np.array(node.matrix, float).reshape(4, 4).T
    matrix = np.eye(4)
    if node.rotation:
        matrix[:3, :3] = rotation_matrices(np.array([node.rotation], float))[0]
    if node.scale:
        matrix[:3, :3] *= np.array(node.scale, float)
    if node.translation:
        matrix[:3, 3] = node.translation
    return matrix


def _flat_shaded(
    points: NDArray[np.float32], triangles: NDArray[np.uint32]
) -> tuple[NDArray[np.float32], NDArray[np.uint32], NDArray[np.float32]]:
    """Vertices split per triangle with the face's own normal, for models that carry none."""
    corners = points[triangles]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-20)
    return (
        corners.reshape(-1, 3), np.arange(corners.shape[0] * 3, dtype=np.uint32).reshape(-1, 3),
        np.repeat(normal, 3, axis=0).astype(np.float32),
    )  # fmt: skip
