"""A model of shapes, surfaces and places, written as glTF binary the way any modeller would export it."""

from __future__ import annotations

import io
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import pygltflib as g
from numpy.typing import NDArray
from PIL import Image

from valleylight.core.making.shapes import Shape, join


@dataclass
class Surface:
    """A material. `texture_m` is the size of one texture tile in metres."""

    name: str
    base: tuple[float, float, float] = (1.0, 1.0, 1.0)
    roughness: float = 0.8
    metal: float = 0.0
    specular: float = 1.0
    index: float = 1.5
    transmission: float = 0.0
    translucency: float = 0.0
    emission_cd_m2: tuple[float, float, float] = (0.0, 0.0, 0.0)
    shining: NDArray[np.uint8] | None = None  # picture of what it gives off
    texture: NDArray[np.uint8] | None = None
    relief: NDArray[np.uint8] | None = None
    relief_scale: float = 1.0
    texture_m: float = 1.0
    opacity: float = 1.0
    leaf: str | None = None  # a kind of leaf, which follows the year
    cut_out: bool = False  # the texture has an alpha channel that cuts leaves out of their card


@dataclass
class Thing:
    """A named mesh: shapes by surface name."""

    name: str
    shapes: dict[str, list[Shape]] = field(default_factory=dict)

    def add(self, surface: str, *shapes: Shape) -> Thing:
        """Shapes of a surface; those without triangles are nothing."""
        some = [shape for shape in shapes if len(shape.triangles)]
        if some:
            self.shapes.setdefault(surface, []).extend(some)
        return self


@dataclass
class Offer:
    """A camera or a light: where it stands and which way it looks (matrix 4 x 4, Z up, looking along its own -Z), and what glTF
    says of it. A place for a fixture has neither."""

    name: str
    matrix: NDArray[np.float64]
    camera: dict[str, Any] | None = None
    light: dict[str, Any] | None = None


@dataclass
class Model:
    """Surfaces, things and where they stand (4 x 4 matrices, Z up)."""

    surfaces: dict[str, Surface] = field(default_factory=dict)
    things: list[Thing] = field(default_factory=list)
    places: list[tuple[int, NDArray[np.float64], str]] = field(default_factory=list)  # thing, (N, 4, 4), layer
    openings: list[dict[str, Any]] = field(default_factory=list)
    offers: list[Offer] = field(default_factory=list)
    extras: dict[str, Any] = field(default_factory=dict)  # of the asset
    generator: str = "Valleylight"

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
    doc = g.GLTF2(asset=g.Asset(version="2.0", generator=model.generator))

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
        doc.nodes += _nodes(model.things[thing_number].name, thing_number, matrices, layer, accessor)
    for opening in model.openings:
        doc.nodes.append(g.Node(name="opening", extras={"opening": opening}))
    lights: list[dict[str, Any]] = []
    for offer in model.offers:
        node = g.Node(name=offer.name, matrix=(_TO_Y_UP @ offer.matrix).T.ravel().tolist())
        if offer.camera is not None:
            doc.cameras.append(g.Camera(type="perspective", perspective=g.Perspective(**offer.camera), name=offer.name))
            node.camera = len(doc.cameras) - 1
        elif offer.light is not None:
            lights.append({"name": offer.name, **offer.light})
            node.extensions = {"KHR_lights_punctual": {"light": len(lights) - 1}}
        else:
            node.extras = {"fixture": True}
        doc.nodes.append(node)
    if lights:
        doc.extensions = {"KHR_lights_punctual": {"lights": lights}}
    if model.extras and doc.asset is not None:
        doc.asset.extras = model.extras
    doc.scenes.append(g.Scene(nodes=list(range(len(doc.nodes)))))
    doc.scene = 0
    doc.extensionsUsed = sorted({e for part in (*doc.materials, *doc.nodes) for e in (part.extensions or {})})
    doc.buffers.append(g.Buffer(byteLength=blob.tell()))
    doc.set_binary_blob(blob.getvalue())
    return b"".join(doc.save_to_bytes())


def _nodes(name: str, mesh: int, matrices: NDArray[np.float64], layer: str, accessor: Any) -> list[g.Node]:
    """Nodes that hang a mesh up: one for all places where they are turned about the vertical and scaled evenly, else one for each."""
    extras = {"layer": layer} if layer else {}
    if len(matrices) == 1 and np.allclose(matrices[0], np.eye(4), atol=1e-12):
        return [g.Node(name=name, mesh=mesh, extras=extras)]
    if len(matrices) > 1 and _upright(matrices):
        instancing = {"EXT_mesh_gpu_instancing": {"attributes": _instances(matrices, accessor)}}
        return [g.Node(name=name, mesh=mesh, extras=extras, extensions=instancing)]
    return [
        g.Node(name=name, mesh=mesh, extras=extras, matrix=(_TO_Y_UP @ m @ _TO_Y_UP.T).T.ravel().tolist())
        for m in matrices
    ]


def _upright(matrices: NDArray[np.float64]) -> bool:
    scale = np.linalg.norm(matrices[:, :3, 0], axis=1)
    kept = np.zeros((len(matrices), 3, 3))
    kept[:, 2, 2] = scale
    kept[:, :2, :2] = matrices[:, :2, :2]
    even = np.abs(matrices[:, 0, 0] - matrices[:, 1, 1]) + np.abs(matrices[:, 0, 1] + matrices[:, 1, 0])
    near = matrices[:, :3, 3]
    return bool(
        np.allclose(matrices[:, :3, :3], kept, atol=1e-9) and (even < 1e-9 * scale).all() and np.abs(near).max() < 1e4
    )


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
            baseColorFactor=[*s.base, s.opacity], roughnessFactor=s.roughness, metallicFactor=s.metal,
            baseColorTexture=g.TextureInfo(index=texture(s.texture, False)) if s.texture is not None else None,
        ),
        normalTexture=g.NormalMaterialTexture(index=texture(s.relief, True), scale=s.relief_scale)
        if s.relief is not None
        else None,
        emissiveFactor=[v / strength for v in s.emission_cd_m2] if strength > 0 else [0, 0, 0],
        emissiveTexture=g.TextureInfo(index=texture(s.shining, False)) if s.shining is not None else None,
        extensions=extensions,
        extras={"leaf": s.leaf} if s.leaf else {},
        doubleSided=True,
        alphaMode="MASK" if s.cut_out else "BLEND" if s.opacity < 1 else "OPAQUE",
        alphaCutoff=0.5 if s.cut_out else None,
    )  # fmt: skip
    return made
