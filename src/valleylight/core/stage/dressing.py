"""The stage's materials with the artist's surfaces in their place, and with the pictures those bring."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from valleylight.core.project.surface import Apart, Laying, Pictures, Surface
from valleylight.core.stage.channels import Channel, Laid, laid_picture
from valleylight.core.stage.model import Material, Mesh, StageData, Texture

#: Material slots of the channels.
SLOTS: dict[Channel, str] = {
    "colour": "base_texture", "roughness": "rough_texture", "metal": "rough_texture", "normal": "relief_texture", "height": "relief_texture", "opacity": "alpha_texture",
    "light": "emission_texture",
}  # fmt: skip
#: Units lie by box where nobody says otherwise.
BY_BOX = Laying()


class PictureOf(NamedTuple):
    """A picture that a surface asks for, see `channels.laid_picture`."""

    asset: str
    channel: Channel
    stretch: float = 1.0
    #: The picture of metal that shares its texture with that of the roughness.
    metal: str = ""


def laid(wanted: PictureOf, read: Callable[[str], bytes]) -> Laid:
    """A picture that a surface asks for, its files read by their SHA-256."""
    metal = read(wanted.metal) if wanted.metal else None
    return laid_picture(read(wanted.asset), wanted.channel, wanted.stretch, metal)


def pictures_of(surface: Surface) -> dict[Channel, str]:
    """Files of a surface's pictures by channel; a height only where there is no normal map."""
    wanted = surface.pictures or Pictures()
    named: dict[Channel, str | None] = {
        "colour": wanted.colour, "roughness": wanted.roughness, "metal": wanted.metal, "normal": wanted.normal,
        "height": None if wanted.normal else wanted.height, "opacity": wanted.opacity,
        "light": wanted.light,
    }  # fmt: skip
    return {channel: asset for channel, asset in named.items() if asset}


def dressed(
    stage: StageData, surfaces: Mapping[str, Surface], picture: Callable[[PictureOf], Laid], uv_metres: Callable[[int], float],
) -> tuple[StageData, tuple[PictureOf, ...]]:  # fmt: skip
    """The stage in the artist's surfaces, its materials' numbers unchanged, and which pictures now follow on its own. `uv_metres` says
    how many metres of the stage one turn of a material's own uv is, by its number."""
    asked: dict[PictureOf, int] = {}
    more: list[Texture] = []
    materials = []
    for number, material in enumerate(stage.materials):
        surface = surfaces.get(material.name)
        if surface is None:
            materials.append(material)
            continue
        made = material.made_of(surface)
        laying = surface.laying or (BY_BOX if surface.courses else None)
        aspect = None
        pictures = pictures_of(surface)
        metal = pictures.pop("metal", "") if "roughness" in pictures else ""
        for channel, asset in pictures.items():
            shape = picture(PictureOf(asset, channel))
            aspect = aspect or (None if channel == "light" else shape.aspect)
            stretch = (laying.tile_height_m / laying.tile_m / shape.aspect) if laying and laying.tile_height_m else 1.0
            key = PictureOf(
                asset,
                channel,
                round(stretch, 6) if channel == "height" else 1.0,
                metal if channel == "roughness" else "",
            )
            if key not in asked:
                asked[key] = len(stage.textures) + len(more)
                more.append(picture(key).texture)
            made = replace(made, **{SLOTS[channel]: asked[key]})  # type: ignore[arg-type]
            if channel == "height" and surface.pictures:
                tile = laying.tile_m if laying else uv_metres(number)
                made = replace(made, relief=made.relief * surface.pictures.height_m / tile / picture(key).steep)
        if laying:
            made = replace(
                made, laying=_whole(laying, aspect or 1.0), uv_m=uv_metres(number) if laying.by == "uv" else 1.0
            )
        materials.append(made)
    return replace(stage, materials=tuple(materials), textures=(*stage.textures, *more)), tuple(asked)


def _whole(laying: Laying, aspect: float) -> Laying:
    """A laying whose tile has a height."""
    return laying.model_copy(update={"tile_height_m": laying.tile_height_m or laying.tile_m * aspect})


def uv_metres(stage: StageData) -> dict[int, float]:
    """Metres of the stage to one turn of the uv of each material in use, by its number: by the areas of its triangles there and in the
    picture, of each mesh where it stands first; 1 where it has no uv."""
    on_stage: dict[int, float] = {}
    in_picture: dict[int, float] = {}
    first = {i.mesh: i.matrix for i in reversed(stage.instances)}
    for number, matrix in first.items():
        mesh = stage.meshes[number]
        corner = (mesh.points.astype(float) @ matrix[:3, :3].T)[mesh.triangles.astype(int)]
        area = np.linalg.norm(np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]), axis=1)
        uv = mesh.uv[mesh.triangles.astype(int)].astype(float)
        a, b = uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]
        turn = np.abs(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0])
        for material in np.unique(mesh.material):
            of = mesh.material == material
            on_stage[int(material)] = on_stage.get(int(material), 0.0) + float(area[of].sum())
            in_picture[int(material)] = in_picture.get(int(material), 0.0) + float(turn[of].sum())
    return {
        k: float(np.sqrt(metres / in_picture[k])) if metres > 0 and in_picture[k] > 1e-12 else 1.0
        for k, metres in on_stage.items()
    }


def set_apart(stage: StageData, wanted: Sequence[Apart]) -> StageData:
    """The stage with what some objects have of a material under a name of its own, behind the other materials. A mesh used by others
    stays theirs."""
    by_object: dict[str, list[Apart]] = {}
    for apart in wanted:
        by_object.setdefault(apart.object, []).append(apart)
    if not any(i.name in by_object for i in stage.instances):
        return stage
    meshes, materials, instances = list(stage.meshes), list(stage.materials), list(stage.instances)
    numbers: dict[tuple[str, int], int] = {}
    made: dict[tuple[int, str], int] = {}
    for at, instance in enumerate(instances):
        if instance.name not in by_object:
            continue
        key = (instance.mesh, instance.name)
        if key not in made:
            mesh = _renamed(stage.meshes[instance.mesh], by_object[instance.name], stage.materials, materials, numbers)
            made[key] = instance.mesh if mesh is None else len(meshes)
            if mesh is not None:
                meshes.append(mesh)
        instances[at] = replace(instance, mesh=made[key])
    return replace(stage, meshes=tuple(meshes), materials=tuple(materials), instances=tuple(instances))


def _renamed(
    mesh: Mesh, wanted: Sequence[Apart], known: Sequence[Material], materials: list[Material], numbers: dict[tuple[str, int], int],
) -> Mesh | None:  # fmt: skip
    """A mesh whose triangles of some materials have ones of their own; None where it has none of them."""
    material = mesh.material.copy()
    for apart in wanted:
        for old in np.unique(mesh.material):
            if known[old].name != apart.material:
                continue
            key = (apart.name, int(old))
            if key not in numbers:
                numbers[key] = len(materials)
                materials.append(replace(known[old], name=apart.name))
            material[mesh.material == old] = numbers[key]
    return None if np.array_equal(material, mesh.material) else replace(mesh, material=material)
