"""Write the demo's model as a GLB, the way any modeller would export it."""

from __future__ import annotations

import io
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import pygltflib as g
from numpy.typing import NDArray
from PIL import Image

from valleylight.demo.shapes import Shape, join


@dataclass
class Surface:
    """A material of the demo. `texture_m` is the size of one texture tile in metres."""

    name: str
    base: tuple[float, float, float] = (1.0, 1.0, 1.0)
    roughness: float = 0.8
    metal: float = 0.0
    specular: float = 1.0
    index: float = 1.5
    transmission: float = 0.0
    translucency: float = 0.0
    emission_cd_m2: tuple[float, float, float] = (0.0, 0.0, 0.0)
    texture: NDArray[np.uint8] | None = None
    relief: NDArray[np.uint8] | None = None
    relief_scale: float = 1.0
    texture_m: float = 1.0
    cut_out: bool = False  # the texture has an alpha channel that cuts leaves out of their card


@dataclass
class Thing:
    """A named mesh: shapes by surface name."""

    name: str
    shapes: dict[str, list[Shape]] = field(default_factory=dict)

    def add(self, surface: str, *shapes: Shape) -> Thing:
        self.shapes.setdefault(surface, []).extend(shapes)
        return self


@dataclass
class Model:
    """Surfaces, things and where they stand (4 x 4 matrices, Z up)."""

    surfaces: dict[str, Surface] = field(default_factory=dict)
    things: list[Thing] = field(default_factory=list)
    places: list[tuple[int, NDArray[np.float64], str]] = field(default_factory=list)  # thing, (N, 4, 4), layer
    openings: list[dict[str, Any]] = field(default_factory=list)

    def surface(self, surface: Surface) -> None:
        self.surfaces[surface.name] = surface

    def put(self, thing: Thing, layer: str = "", at: list[NDArray[np.float64]] | None = None) -> None:
        """Place a thing once in the world's frame, or at each of the given matrices."""
        self.things.append(thing)
        self.places.append((len(self.things) - 1, np.stack(at if at is not None else [np.eye(4)]), layer))


def place(position: tuple[float, float, float], turn_deg: float = 0.0, scale: float = 1.0) -> NDArray[np.float64]:
    a = np.radians(turn_deg)
    matrix = np.eye(4)
    matrix[:2, :2] = [[np.cos(a), -np.sin(a)], [np.sin(a), np.cos(a)]]
    matrix[:3, :3] *= scale
    matrix[:3, 3] = position
    return matrix


_TO_Y_UP = np.array([[1, 0, 0, 0], [0, 0, 1, 0], [0, -1, 0, 0], [0, 0, 0, 1]], float)


def write_glb(model: Model) -> bytes:
    """The model as GLB bytes: textures embedded, one mesh a thing, instances as nodes that share it."""
    blob = io.BytesIO()
    doc = g.GLTF2(asset=g.Asset(version="2.0", generator="Valleylight demo"))

    def view(data: bytes, target: int | None = None) -> int:
        blob.write(b"\0" * (-blob.tell() % 4))
        doc.bufferViews.append(g.BufferView(buffer=0, byteOffset=blob.tell(), byteLength=len(data), target=target))
        blob.write(data)
        return len(doc.bufferViews) - 1

    def accessor(values: NDArray[Any], kind: str, component: int, target: int) -> int:
        entry = g.Accessor(
            bufferView=view(np.ascontiguousarray(values).tobytes(), target), componentType=component,
            count=len(values) if kind != g.SCALAR else values.size, type=kind,
        )  # fmt: skip
        if kind == g.VEC3 and target == g.ARRAY_BUFFER:
            entry.min, entry.max = values.min(0).tolist(), values.max(0).tolist()
        doc.accessors.append(entry)
        return len(doc.accessors) - 1

    def texture(pixels: NDArray[np.uint8], lossless: bool) -> int:
        out = io.BytesIO()
        if lossless or pixels.shape[2] == 4:
            Image.fromarray(pixels).save(out, "PNG", compress_level=2)
        else:
            Image.fromarray(pixels).save(out, "JPEG", quality=92, subsampling=0)
        doc.images.append(
            g.Image(
                bufferView=view(out.getvalue()),
                mimeType="image/png" if lossless or pixels.shape[2] == 4 else "image/jpeg",
            )
        )
        doc.textures.append(g.Texture(source=len(doc.images) - 1, sampler=0))
        return len(doc.textures) - 1

    doc.samplers.append(g.Sampler(wrapS=g.REPEAT, wrapT=g.REPEAT))
    numbers: dict[str, int] = {}
    for surface in model.surfaces.values():
        numbers[surface.name] = len(doc.materials)
        doc.materials.append(_material(surface, texture))
    for thing in model.things:
        primitives = []
        for name, shapes in thing.shapes.items():
            whole = join(shapes)
            y_up = whole.points @ _TO_Y_UP[:3, :3].T
            normals = whole.normals @ _TO_Y_UP[:3, :3].T
            primitives.append(
                g.Primitive(
                    attributes=g.Attributes(
                        POSITION=accessor(y_up.astype("<f4"), g.VEC3, g.FLOAT, g.ARRAY_BUFFER),
                        NORMAL=accessor(normals.astype("<f4"), g.VEC3, g.FLOAT, g.ARRAY_BUFFER),
                        TEXCOORD_0=accessor(
                            (whole.uv / model.surfaces[name].texture_m).astype("<f4"), g.VEC2, g.FLOAT, g.ARRAY_BUFFER
                        ),
                    ),
                    indices=accessor(
                        whole.triangles.astype("<u4").ravel(), g.SCALAR, g.UNSIGNED_INT, g.ELEMENT_ARRAY_BUFFER
                    ),
                    material=numbers[name],
                )
            )
        doc.meshes.append(g.Mesh(name=thing.name, primitives=primitives))
    for thing_number, matrices, layer in model.places:
        node = g.Node(name=model.things[thing_number].name, mesh=thing_number)
        if len(matrices) > 1 or not np.allclose(matrices[0], np.eye(4)):
            node.extensions = {"EXT_mesh_gpu_instancing": {"attributes": _instances(matrices, accessor)}}
        if layer:
            node.extras = {"layer": layer}
        doc.nodes.append(node)
    for opening in model.openings:
        doc.nodes.append(g.Node(name="opening", extras={"opening": opening}))
    doc.scenes.append(g.Scene(nodes=list(range(len(doc.nodes)))))
    doc.scene = 0
    doc.extensionsUsed = sorted({e for part in (*doc.materials, *doc.nodes) for e in (part.extensions or {})})
    doc.buffers.append(g.Buffer(byteLength=blob.tell()))
    doc.set_binary_blob(blob.getvalue())
    return b"".join(doc.save_to_bytes())


def _instances(matrices: NDArray[np.float64], accessor: Any) -> dict[str, int]:
    """Accessors of translation, rotation about the vertical and even scale (EXT_mesh_gpu_instancing)."""
    scale = np.linalg.norm(matrices[:, :3, 0], axis=1)
    turn = np.arctan2(matrices[:, 1, 0], matrices[:, 0, 0])
    x, y, z = matrices[:, 0, 3], matrices[:, 1, 3], matrices[:, 2, 3]
    zero = np.zeros_like(turn)
    rotation = np.column_stack([zero, np.sin(turn / 2), zero, np.cos(turn / 2)])
    return {
        "TRANSLATION": accessor(np.column_stack([x, z, -y]).astype("<f4"), g.VEC3, g.FLOAT, g.ARRAY_BUFFER),
        "ROTATION": accessor(rotation.astype("<f4"), g.VEC4, g.FLOAT, g.ARRAY_BUFFER),
        "SCALE": accessor(np.repeat(scale[:, None], 3, 1).astype("<f4"), g.VEC3, g.FLOAT, g.ARRAY_BUFFER),
    }


def _material(s: Surface, texture: Any) -> g.Material:
    extensions: dict[str, Any] = {}
    if s.transmission:
        extensions["KHR_materials_transmission"] = {"transmissionFactor": s.transmission}
    if s.index != 1.5:
        extensions["KHR_materials_ior"] = {"ior": s.index}
    if s.specular != 1.0:
        extensions["KHR_materials_specular"] = {"specularFactor": s.specular}
    if s.translucency:
        extensions["KHR_materials_diffuse_transmission"] = {"diffuseTransmissionFactor": s.translucency}
    strength = max(s.emission_cd_m2)
    if strength > 0:
        extensions["KHR_materials_emissive_strength"] = {"emissiveStrength": strength}
    made = g.Material(
        name=s.name,
        pbrMetallicRoughness=g.PbrMetallicRoughness(
            baseColorFactor=[*s.base, 1.0], roughnessFactor=s.roughness, metallicFactor=s.metal,
            baseColorTexture=g.TextureInfo(index=texture(s.texture, False)) if s.texture is not None else None,
        ),
        normalTexture=g.NormalMaterialTexture(index=texture(s.relief, True), scale=s.relief_scale)
        if s.relief is not None
        else None,
        emissiveFactor=[v / strength for v in s.emission_cd_m2] if strength > 0 else [0, 0, 0],
        extensions=extensions,
        doubleSided=True,
        alphaMode="MASK" if s.cut_out else "OPAQUE",
        alphaCutoff=0.5 if s.cut_out else None,
    )  # fmt: skip
    return made
