"""Surfaces out and in: a glTF binary of one tile in its material, or a zip of pictures named by channel with the numbers beside them.

What glTF has no word for (patterns, layouts, measured metals) travels in the material's `extras.surface`; other programs see the rest.
"""

from __future__ import annotations

import io
import json
import re
import zipfile
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import PurePosixPath
from typing import Any

import numpy as np
import pygltflib as g
from PIL import Image
from pydantic import ValidationError

from valleylight.core.errors import InputError
from valleylight.core.project.surface import Laying, Pictures, Surface
from valleylight.core.stage.arrival.bundle import Bundle, opened
from valleylight.core.stage.arrival.pack import packed
from valleylight.core.stage.channels import CHANNELS, Channel, Kept, kept_picture, laid_picture, suffix_of
from valleylight.core.stage.gltf import read_glb
from valleylight.core.stage.model import Material, StageData

#: How pictures of a channel are named (common practice), by the last words of their names.
NAMES: dict[Channel, tuple[str, ...]] = {
    "colour": ("colour", "color", "basecolor", "basecolour", "albedo", "diffuse", "diff", "col"),
    "roughness": ("roughness", "rough", "rgh"), "metal": ("metal", "metallic", "metalness"), "normal": ("normal", "normals", "nrm", "nor", "normalgl", "gl"),
    "height": ("height", "displacement", "disp", "bump"), "opacity": ("opacity", "alpha", "mask"),
    "light": ("light", "emission", "emissive", "emit"),
}  # fmt: skip
#: Words of names for pictures that say nothing here, or that point green down.
LEFT_OUT = ("ao", "occlusion", "ambientocclusion", "specular", "gloss", "glossiness")
DOWN = ("normaldx", "dx")
NUMBERS = "surface.json"
#: Luminance in cd/m2 of white in a picture of what shines, where no numbers stand beside it: a bright screen (common practice).
_SHINES = 400.0


@dataclass(frozen=True)
class Taken:
    """A surface that arrived: its name, its numbers, its pictures by channel, and words about what was left out."""

    name: str
    surface: Surface
    pictures: dict[Channel, Kept]
    words: tuple[str, ...]


def material_glb(name: str, surface: Surface, pictures: Mapping[Channel, bytes]) -> bytes:
    """A square metre in a surface, as glTF binary. `pictures` are PNG by channel, as `channels` keeps them."""
    laying = surface.laying or Laying(by="uv")
    shape = _shape(pictures)
    wide, high = laying.tile_m, laying.tile_height_m or laying.tile_m * shape
    doc = g.GLTF2(asset=g.Asset(version="2.0", generator="Valleylight"))
    blob = io.BytesIO()

    def view(data: bytes) -> int:
        blob.write(b"\0" * (-blob.tell() % 4))
        doc.bufferViews.append(g.BufferView(buffer=0, byteOffset=blob.tell(), byteLength=len(data)))
        blob.write(data)
        return len(doc.bufferViews) - 1

    def texture(png: bytes) -> g.TextureInfo:
        doc.images.append(g.Image(bufferView=view(png), mimeType="image/png"))
        doc.textures.append(g.Texture(source=len(doc.images) - 1, sampler=0))
        return g.TextureInfo(index=len(doc.textures) - 1)

    def accessor(values: np.ndarray[Any, Any], kind: str, component: int) -> int:
        made = g.Accessor(bufferView=view(values.tobytes()), componentType=component, count=len(values), type=kind)
        if kind == g.VEC3:
            made.min, made.max = values.min(0).tolist(), values.max(0).tolist()
        doc.accessors.append(made)
        return len(doc.accessors) - 1

    doc.samplers.append(g.Sampler(wrapS=g.REPEAT, wrapT=g.REPEAT))
    doc.materials.append(_material(name, surface, pictures, texture))
    square = np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]], "<f4")
    uv = np.array([[0, 0], [1, 0], [1, -1], [0, -1]]) / [wide, high]
    attributes = g.Attributes(
        POSITION=accessor(square, g.VEC3, g.FLOAT), NORMAL=accessor(np.tile(np.array([0, 0, 1], "<f4"), (4, 1)), g.VEC3, g.FLOAT),
        TEXCOORD_0=accessor(uv.astype("<f4"), g.VEC2, g.FLOAT),
    )  # fmt: skip
    faces = accessor(np.array([0, 1, 2, 0, 2, 3], "<u4"), g.SCALAR, g.UNSIGNED_INT)
    doc.meshes.append(g.Mesh(name=name, primitives=[g.Primitive(attributes=attributes, indices=faces, material=0)]))
    doc.nodes.append(g.Node(name=name, mesh=0))
    doc.scenes.append(g.Scene(nodes=[0]))
    doc.scene = 0
    doc.extensionsUsed = sorted(doc.materials[0].extensions or {})
    doc.buffers.append(g.Buffer(byteLength=blob.tell()))
    doc.set_binary_blob(blob.getvalue())
    return b"".join(doc.save_to_bytes())


def _shape(pictures: Mapping[Channel, bytes]) -> float:
    """Height over width of the first picture; 1 without."""
    for png in pictures.values():
        with Image.open(io.BytesIO(png)) as image:
            return image.height / image.width
    return 1.0


def _material(name: str, s: Surface, pictures: Mapping[Channel, bytes], texture: Any) -> g.Material:
    glass, strength = s.glass != "none", max(s.emission_cd_m2)
    told: dict[str, dict[str, Any]] = {
        "transmission": {"transmissionFactor": 1.0} if glass else {},
        "volume": {"thicknessFactor": 1.0, "attenuationColor": list(s.tint), "attenuationDistance": s.tint_depth_m}
        if s.glass == "solid" else {},
        "ior": {"ior": s.index} if s.index != 1.5 else {}, "specular": {"specularFactor": s.gloss} if s.gloss != 1 else {},
        "clearcoat": {"clearcoatFactor": s.coat, "clearcoatRoughnessFactor": s.coat_roughness} if s.coat else {},
        "sheen": {"sheenColorFactor": list(s.sheen), "sheenRoughnessFactor": s.sheen_roughness} if max(s.sheen) else {},
        "emissive_strength": {"emissiveStrength": strength} if strength > 1 else {},
        "diffuse_transmission": {"diffuseTransmissionFactor": s.through, "diffuseTransmissionColorFactor": list(s.through_tint or s.base)}
        if s.through else {},
    }  # fmt: skip
    colour, relief, rough = _coloured(pictures), _relief(pictures), _rough(pictures)
    return g.Material(
        name=name,
        pbrMetallicRoughness=g.PbrMetallicRoughness(
            baseColorFactor=[*(s.tint if glass else s.base), 1.0], metallicFactor=s.metal, roughnessFactor=s.roughness,
            baseColorTexture=texture(colour) if colour else None,
            metallicRoughnessTexture=texture(rough) if rough else None,
        ),
        normalTexture=g.NormalMaterialTexture(index=texture(relief).index, scale=s.relief) if relief else None,
        emissiveFactor=[v / max(strength, 1) for v in s.emission_cd_m2],
        emissiveTexture=texture(pictures["light"]) if "light" in pictures else None,
        alphaMode="MASK" if "opacity" in pictures else "OPAQUE", alphaCutoff=0.5 if "opacity" in pictures else None, doubleSided=True,
        extensions={f"KHR_materials_{k}": v for k, v in told.items() if v},
        extras={"surface": s.model_dump(mode="json", exclude={"pictures"}, exclude_defaults=True)},
    )  # fmt: skip


def _png(pixels: np.ndarray[Any, Any]) -> bytes:
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG", compress_level=4)
    return out.getvalue()


def _coloured(pictures: Mapping[Channel, bytes]) -> bytes | None:
    """The colour, with the opacity as its alpha."""
    if "opacity" not in pictures:
        return pictures.get("colour")
    alpha = Image.open(io.BytesIO(pictures["opacity"])).convert("L")
    colour = (
        Image.open(io.BytesIO(pictures["colour"])).convert("RGB")
        if "colour" in pictures
        else Image.new("RGB", alpha.size, "white")
    )
    colour.putalpha(alpha.resize(colour.size))
    out = io.BytesIO()
    colour.save(out, "PNG", compress_level=4)
    return out.getvalue()


def _rough(pictures: Mapping[Channel, bytes]) -> bytes | None:
    """Roughness and metal in one picture."""
    if "roughness" in pictures:
        return _png(laid_picture(pictures["roughness"], "roughness", metal=pictures.get("metal")).texture.pixels)
    return _png(laid_picture(pictures["metal"], "metal").texture.pixels) if "metal" in pictures else None


def _relief(pictures: Mapping[Channel, bytes]) -> bytes | None:
    if "normal" in pictures:
        return pictures["normal"]
    return _png(laid_picture(pictures["height"], "height").texture.pixels) if "height" in pictures else None


def picture_zip(name: str, surface: Surface, pictures: Mapping[Channel, bytes]) -> bytes:
    """Pictures named by channel, and the numbers of a surface, in a zip."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
        numbers = surface.model_dump(mode="json", exclude={"pictures"}, exclude_defaults=True)
        if surface.pictures and surface.pictures.height:
            numbers["pictures"] = {"height_m": surface.pictures.height_m}
        archive.writestr(NUMBERS, json.dumps({"name": name, "surface": numbers}, indent=1))
        for channel, png in pictures.items():
            archive.writestr(f"{channel}.png", png)
    return out.getvalue()


def taken_surface(data: bytes, name: str) -> Taken:
    """A surface from a glTF file (alone or in a zip), or from pictures named by channel. Raises InputError that says what is wrong."""
    if not data.startswith(b"PK"):
        if data.startswith(b"glTF"):
            return _from_glb(data, name)
        return _from_pictures(Bundle({name: data}), name)
    bundle = opened(data, name)
    models = [p for p in bundle.files if PurePosixPath(p).suffix.lower() in (".glb", ".gltf")]
    if len(models) == 1:
        held = bundle.files[models[0]]
        return _from_glb(held if held.startswith(b"glTF") else packed(held, bundle, models[0]), models[0])
    if models:
        raise InputError(f"there are {len(models)} glTF files in it", name, "Hand in one at a time")
    return _from_pictures(bundle, name)


def _from_glb(glb: bytes, name: str) -> Taken:
    stage = read_glb(glb, name)
    used = stage.used
    material = next((stage.materials[k] for k in used), None)
    if material is None:
        raise InputError("there is no material in it", name, "Export a surface with at least one material")
    words = [f"Of its {len(used)} materials the first, {material.name!r}, was taken."] if len(used) > 1 else []
    pictures = _pictures_of(stage, material, words)
    told = _told(glb, material.name)
    surface = material.surface()
    if told is not None:
        surface = _checked(told, f"{name}, extras of {material.name}")
    return Taken(
        material.name[:80],
        surface.model_copy(update={"keep_picture": False, "pictures": None}),
        pictures,
        (*stage.notes, *words),
    )


def _told(glb: bytes, name: str) -> Any:
    for material in g.GLTF2.load_from_bytes(glb).materials:
        if material.name == name and isinstance(material.extras, dict):
            return material.extras.get("surface")
    return None


def _checked(raw: Any, where: str) -> Surface:
    try:
        return Surface.model_validate(raw)
    except ValidationError as error:
        first = error.errors()[0]
        raise InputError(
            f"its numbers are none of a surface: {'.'.join(str(p) for p in first['loc']) or 'all of them'}",
            where,
            "Export it anew",
        ) from None


def _pictures_of(stage: StageData, material: Material, words: list[str]) -> dict[Channel, Kept]:
    """Pictures of a material that was read, as they are kept."""
    found: dict[Channel, Kept] = {}
    slots: tuple[tuple[Channel, int, int | None], ...] = (
        ("colour", material.base_texture, None), ("roughness", material.rough_texture, 1), ("metal", material.rough_texture, 2), ("normal", material.relief_texture, None),
        ("opacity", material.alpha_texture, 0), ("light", material.emission_texture, None),
    )  # fmt: skip
    for channel, number, plane in slots:
        if number < 0:
            continue
        pixels = stage.textures[number].pixels
        if plane is not None and channel != "opacity" and int(pixels[..., plane].min()) == 255:
            continue  # it says nothing
        made = kept_picture(
            _png(pixels if plane is None else np.ascontiguousarray(pixels[..., plane])), channel, channel
        )
        found[channel] = made
        words += [f"{channel}: {w}." for w in made.words]
    return found


def _from_pictures(bundle: Bundle, name: str) -> Taken:
    """Pictures by the last words of their names, and the numbers beside them."""
    found: dict[Channel, Kept] = {}
    words: list[str] = []
    raw: dict[str, Any] = {}
    title = PurePosixPath(name).stem
    for path in sorted(bundle.files):
        data, last = bundle.files[path], PurePosixPath(path).name
        if last == NUMBERS:
            raw = _numbers(data, path)
            continue
        try:
            suffix_of(data, path)
        except InputError:
            words.append(f"{last[:80]} is no picture and was left out.")
            continue
        channel, down = _channel_of(last, alone=len(bundle.files) == 1)
        if channel is None:
            words.append(f"{last[:80]} was left out: its name says no channel that is used.")
            continue
        if channel in found:
            words.append(f"{last[:80]} was left out: there is another picture of {channel}.")
            continue
        made = kept_picture(data, path, channel)
        found[channel] = _green_up(made) if down else made
        words += [f"{last[:80]}: {w}." for w in made.words]
    if not found and not raw:
        raise InputError(
            "there is no picture of a channel in it",
            name,
            "Name the pictures by what they say: colour, roughness, metal, normal, height, opacity, light",
        )
    surface = _checked(
        raw.get(
            "surface",
            {
                "base": [1, 1, 1],
                "laying": {},
                "roughness": 1.0 if "roughness" in found else 0.8,
                "metal": 1.0 if "metal" in found else 0.0,
                "emission_cd_m2": [_SHINES] * 3 if "light" in found else [0, 0, 0],
            },
        ),
        NUMBERS,
    )
    given = raw.get("name")
    title = given if isinstance(given, str) and given.strip() else title
    deep = Pictures(height_m=surface.pictures.height_m) if surface.pictures and "height" in found else None
    plain = surface.model_copy(update={"keep_picture": False, "pictures": deep})
    return Taken(title.strip()[:80] or "Surface", plain, found, tuple(words))


def _numbers(data: bytes, path: str) -> dict[str, Any]:
    try:
        told = json.loads(data)
    except (ValueError, RecursionError):
        told = None
    if not isinstance(told, dict):
        raise InputError("it is no JSON of numbers", path, "Export it anew, or leave it out")
    return told


def _channel_of(name: str, alone: bool) -> tuple[Channel | None, bool]:
    """What a picture says by its name, and whether its green points down; one by itself is a colour where its name says nothing."""
    stem = PurePosixPath(name).stem.lower()
    parts = [p for p in re.split(r"[^a-z]+", stem) if p]
    joined = "".join(parts[-2:])
    for part in (joined, *reversed(parts)):
        if part in DOWN:
            return "normal", True
        for channel in CHANNELS:
            if part in NAMES[channel]:
                return channel, False
        if part in LEFT_OUT:
            return None, False
    return ("colour", False) if alone else (None, False)


def _green_up(made: Kept) -> Kept:
    with Image.open(io.BytesIO(made.png)) as image:
        pixels = np.array(image)
    pixels[..., 1] = 255 - pixels[..., 1]
    return Kept(_png(pixels), made.width, made.height, (*made.words, "its green pointed down and was turned"))


def with_pictures(surface: Surface, named: Mapping[Channel, str]) -> Surface:
    """A surface with pictures of its own by the SHA-256 of their files."""
    if not named:
        return surface
    held = Pictures(height_m=surface.pictures.height_m) if surface.pictures else Pictures()
    return surface.model_copy(
        update={"pictures": held.model_copy(update={str(channel): file for channel, file in named.items()})}
    )
