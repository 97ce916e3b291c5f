"""A stage of several files, each put where its placement says."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from valleylight.core.errors import InputError
from valleylight.core.project.description import Layer, Opening, Placement, Point
from valleylight.core.project.repeats import Strewn
from valleylight.core.stage.model import Material, Mesh, MeshInstance, StageData, Texture
from valleylight.core.stage.repeats import Matrices, repeated, turned

#: Turns (3, 3) that set an axis of a file upright.
UP_MATRICES: dict[str, NDArray[np.float64]] = {
    "z": np.eye(3), "-z": np.diag([1.0, -1.0, -1.0]),
    "y": np.array([[1.0, 0, 0], [0, 0, -1], [0, 1, 0]]), "-y": np.array([[1.0, 0, 0], [0, 0, 1], [0, -1, 0]]),
    "x": np.array([[0.0, 0, -1], [0, 1, 0], [1, 0, 0]]), "-x": np.array([[0.0, 0, 1], [0, 1, 0], [-1, 0, 0]]),
}  # fmt: skip


@dataclass(frozen=True)
class _Offsets:
    """Where the parts of one file begin among those of the whole stage."""

    meshes: int
    materials: int
    textures: int


def assembled(
    files: Mapping[str, StageData], placements: Sequence[Placement], layers: Sequence[Layer] = (),
    strewn: Mapping[str, Matrices] | None = None,
) -> StageData:  # fmt: skip
    """One stage of files by their SHA-256, as they are placed; what a file placed twice holds is there once.

    Instances stand on the layer of their placement, or on those of their file: under the key of the project's layer that goes by that
    name in models, else under the name itself. `strewn` holds the places (N, 4, 4) of those that are strewn, by key of placement;
    without it they stand nowhere. Objects of the catalogue go by the name of their placement.
    """
    known = {layer.in_models: layer.key for layer in layers if layer.in_models}
    meshes: list[Mesh] = []
    materials: list[Material] = []
    textures: list[Texture] = []
    instances: list[MeshInstance] = []
    openings: list[Opening] = []
    notes: list[str] = []
    begins: dict[str, _Offsets] = {}
    for placement in placements:
        file = files[placement.asset]
        if placement.asset not in begins:
            begins[placement.asset] = _Offsets(len(meshes), len(materials), len(textures))
            first = begins[placement.asset]
            meshes += [
                replace(mesh, material=mesh.material + np.int32(first.materials)) if first.materials else mesh
                for mesh in file.meshes
            ]
            materials += [_with_textures_from(m, first.textures) for m in file.materials]
            textures += file.textures
            notes += file.notes
        if placement.hidden:  # what it is made of stays, so that numbers of materials and pictures do
            continue
        matrix, first = matrix_of(placement), begins[placement.asset]
        name = placement.name if placement.made is not None else None
        for each in _places(placement, matrix, strewn or {}):
            instances += [
                replace(
                    i, mesh=i.mesh + first.meshes, matrix=i.matrix if each is None else each @ i.matrix, name=name or i.name,
                    layer=placement.layer if placement.layer is not None else known.get(i.layer, i.layer),
                )
                for i in file.instances
            ]  # fmt: skip
        if placement.repeat is None:
            openings += file.openings if matrix is None else [_moved(o, matrix) for o in file.openings]
    return StageData(tuple(meshes), tuple(instances), tuple(materials), tuple(textures), tuple(openings), tuple(notes))


def extended(stage: StageData, more: StageData) -> StageData:
    """A stage with another one behind it: numbers of its meshes, materials and pictures stay as they are."""
    meshes, materials, textures = len(stage.meshes), len(stage.materials), len(stage.textures)
    return replace(
        stage,
        meshes=(*stage.meshes, *(replace(m, material=m.material + np.int32(materials)) for m in more.meshes)),
        instances=(*stage.instances, *(replace(i, mesh=i.mesh + meshes) for i in more.instances)),
        materials=(*stage.materials, *(_with_textures_from(m, textures) for m in more.materials)),
        textures=(*stage.textures, *more.textures),
        openings=(*stage.openings, *more.openings),
        notes=(*stage.notes, *more.notes),
    )


def matrix_of(placement: Placement) -> NDArray[np.float64] | None:
    """The 4 x 4 matrix from a file's frame to the stage: set upright, mirrored, scaled, turned about its upright, moved. None where it
    changes nothing."""
    plain = placement.turn_deg == 0 and placement.scale == 1 and placement.up == "z" and not placement.mirrored
    if plain and not any(placement.position):
        return None
    matrix = np.eye(4)
    matrix[:3, :3] = placement.scale * turned(placement.turn_deg)[:3, :3] @ UP_MATRICES[placement.up]
    if placement.mirrored:
        matrix[:3, :3] = matrix[:3, :3] @ (
            UP_MATRICES[placement.up].T @ np.diag([-1.0, 1.0, 1.0]) @ UP_MATRICES[placement.up]
        )
    matrix[:3, 3] = placement.position
    return matrix


def _places(
    placement: Placement, matrix: NDArray[np.float64] | None, strewn: Mapping[str, Matrices]
) -> Sequence[NDArray[np.float64] | None]:
    if placement.repeat is None:
        return [matrix]
    if isinstance(placement.repeat, Strewn):
        return list(strewn.get(placement.key, ()))
    return list(repeated(placement.repeat, np.eye(4) if matrix is None else matrix, placement.turn_deg))


def _with_textures_from(material: Material, first: int) -> Material:
    if first == 0:
        return material
    slots = ("base_texture", "relief_texture", "rough_texture", "alpha_texture", "emission_texture")
    return replace(material, **{k: getattr(material, k) + first for k in slots if getattr(material, k) >= 0})  # type: ignore[arg-type]


def _moved(opening: Opening, matrix: NDArray[np.float64]) -> Opening:
    def turned(v: Point) -> Point:
        x, y, z = (matrix[:3, :3] @ v).tolist()
        return x, y, z

    x, y, z = (matrix[:3, :3] @ opening.centre + matrix[:3, 3]).tolist()
    return Opening(
        centre=(x, y, z), half_u=turned(opening.half_u), half_v=turned(opening.half_v), inward=turned(opening.inward)
    )


def apart(placement: Placement) -> list[Placement]:
    """The copies of a thing in a row, in a grid or along a line, each placed by itself under the same key. Raises InputError for what
    is strewn."""
    if placement.repeat is None or isinstance(placement.repeat, Strewn):
        raise InputError("it stands in no row, grid or line", placement.name, "Choose one that does")
    plain = placement.model_copy(update={"repeat": None})
    first = turned(placement.turn_deg)
    first[:3, 3] = placement.position
    singles = []
    for matrix in repeated(placement.repeat, first, placement.turn_deg):
        x, y, z = np.round(matrix[:3, 3], 6).tolist()
        turn = float(np.degrees(np.arctan2(matrix[1, 0], matrix[0, 0])))
        singles.append(plain.model_copy(update={"position": (x, y, z), "turn_deg": round(turn, 6)}))
    return singles
