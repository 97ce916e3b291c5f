"""A stage in memory: meshes, materials, textures and where each mesh stands."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from valleylight.core.project.description import Opening


@dataclass(frozen=True)
class Texture:
    """Pixels, shape (H, W, 3) uint8; colour is sRGB encoded, relief (normal map) is linear."""

    pixels: NDArray[np.uint8]


@dataclass(frozen=True)
class Material:
    """One surface. Reflectances 0 to 1 in linear RGB; `emission` in cd/m2 linear RGB; `tint` is what a thin pane
    passes at normal incidence, without the loss by reflection; `relief` scales the normal map."""

    name: str = "plain"
    base: tuple[float, float, float] = (0.5, 0.5, 0.5)
    roughness: float = 0.8
    metal: float = 0.0
    specular: float = 1.0
    index: float = 1.5
    thin_glass: bool = False
    tint: tuple[float, float, float] = (1.0, 1.0, 1.0)
    translucency: float = 0.0
    emission: tuple[float, float, float] = (0.0, 0.0, 0.0)
    base_texture: int = -1
    relief_texture: int = -1
    relief: float = 1.0

    @property
    def emits(self) -> bool:
        return max(self.emission) > 0


@dataclass(frozen=True)
class Mesh:
    """Triangles of one or more materials, in the mesh's own frame.

    `points` (V, 3), `normals` (V, 3), `uv` (V, 2) float32; `triangles` (T, 3) uint32; `material` (T,) int32.
    """

    points: NDArray[np.float32]
    normals: NDArray[np.float32]
    uv: NDArray[np.float32]
    triangles: NDArray[np.uint32]
    material: NDArray[np.int32]


@dataclass(frozen=True)
class Placement:
    """A mesh in the stage: index of the mesh, 4 x 4 matrix to the world (float64), layer and object name."""

    mesh: int
    matrix: NDArray[np.float64]
    layer: str = ""
    name: str = ""


@dataclass(frozen=True)
class StageData:
    """Everything an import yields."""

    meshes: tuple[Mesh, ...] = ()
    placements: tuple[Placement, ...] = ()
    materials: tuple[Material, ...] = ()
    textures: tuple[Texture, ...] = ()
    openings: tuple[Opening, ...] = ()
    notes: tuple[str, ...] = field(default=())

    @property
    def layers(self) -> tuple[str, ...]:
        return tuple(sorted({p.layer for p in self.placements if p.layer}))

    def bounds(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Least and greatest corner in metres over all placements, each shape (3,)."""
        low, high = np.full(3, np.inf), np.full(3, -np.inf)
        for placement in self.placements:
            points = self.meshes[placement.mesh].points
            corners = np.array(np.meshgrid(*zip(points.min(0), points.max(0), strict=True))).reshape(3, -1).T
            world = corners @ placement.matrix[:3, :3].T + placement.matrix[:3, 3]
            low, high = np.minimum(low, world.min(0)), np.maximum(high, world.max(0))
        return low, high


def merge(stages: list[StageData]) -> StageData:
    """Several imported models as one stage."""
    if len(stages) == 1:
        return stages[0]
    from dataclasses import replace

    meshes: list[Mesh] = []
    placements: list[Placement] = []
    materials: list[Material] = []
    textures: list[Texture] = []
    for stage in stages:
        m0, t0, x0 = len(meshes), len(materials), len(textures)
        meshes += [replace(mesh, material=mesh.material + np.int32(t0)) for mesh in stage.meshes]
        placements += [replace(p, mesh=p.mesh + m0) for p in stage.placements]
        materials += [
            replace(
                m,
                base_texture=m.base_texture + x0 if m.base_texture >= 0 else -1,
                relief_texture=m.relief_texture + x0 if m.relief_texture >= 0 else -1,
            )
            for m in stage.materials
        ]
        textures += stage.textures
    return StageData(
        tuple(meshes), tuple(placements), tuple(materials), tuple(textures),
        tuple(o for s in stages for o in s.openings), tuple(n for s in stages for n in s.notes),
    )  # fmt: skip
