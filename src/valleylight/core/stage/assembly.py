"""A stage of several files, each put where its placement says."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from valleylight.core.project.description import Layer, Opening, Placement, Point
from valleylight.core.stage.model import Material, Mesh, MeshInstance, StageData, Texture


@dataclass(frozen=True)
class _Offsets:
    """Where the parts of one file begin among those of the whole stage."""

    meshes: int
    materials: int
    textures: int


def assembled(
    files: Mapping[str, StageData], placements: Sequence[Placement], layers: Sequence[Layer] = ()
) -> StageData:
    """One stage of files by their SHA-256, as they are placed; what a file placed twice holds is there once.

    Instances stand on the layer of their placement, or on those of their file: under the key of the project's layer that goes by that
    name in models, else under the name itself.
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
        matrix, first = matrix_of(placement), begins[placement.asset]
        instances += [
            replace(
                i, mesh=i.mesh + first.meshes, matrix=i.matrix if matrix is None else matrix @ i.matrix,
                layer=placement.layer if placement.layer is not None else known.get(i.layer, i.layer),
            )
            for i in file.instances
        ]  # fmt: skip
        openings += file.openings if matrix is None else [_moved(o, matrix) for o in file.openings]
    return StageData(tuple(meshes), tuple(instances), tuple(materials), tuple(textures), tuple(openings), tuple(notes))


def matrix_of(placement: Placement) -> NDArray[np.float64] | None:
    """The 4 x 4 matrix from a file's frame to the stage: scaled, turned about its upright, moved. None where it changes nothing."""
    if not any(placement.position) and placement.turn_deg == 0 and placement.scale == 1:
        return None
    angle = np.radians(placement.turn_deg)
    c, s = np.cos(angle), np.sin(angle)
    matrix = np.eye(4)
    matrix[:3, :3] = placement.scale * np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])
    matrix[:3, 3] = placement.position
    return matrix


def _with_textures_from(material: Material, first: int) -> Material:
    if first == 0:
        return material
    slots = ("base_texture", "relief_texture", "rough_texture", "alpha_texture")
    return replace(material, **{k: getattr(material, k) + first for k in slots if getattr(material, k) >= 0})  # type: ignore[arg-type]


def _moved(opening: Opening, matrix: NDArray[np.float64]) -> Opening:
    def turned(v: Point) -> Point:
        x, y, z = (matrix[:3, :3] @ v).tolist()
        return x, y, z

    x, y, z = (matrix[:3, :3] @ opening.centre + matrix[:3, 3]).tolist()
    return Opening(
        centre=(x, y, z), half_u=turned(opening.half_u), half_v=turned(opening.half_v), inward=turned(opening.inward)
    )
