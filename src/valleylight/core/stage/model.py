"""A stage in memory: meshes, materials, textures and where each mesh stands."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from valleylight.core.project.description import Opening
from valleylight.core.project.surface import Courses, Laying, Surface
from valleylight.core.stage.offers import Offers

#: Thin glass of at most this roughness passes light straight on; rougher glass spreads it.
SMOOTH = 0.03


@dataclass(frozen=True)
class Texture:
    """Pixels, shape (H, W, 3) uint8; colour is sRGB encoded, relief (normal map) is linear."""

    pixels: NDArray[np.uint8]


@dataclass(frozen=True)
class Material:
    """One surface as the tracer takes it. Reflectances 0 to 1 in linear RGB; `emission` in cd/m2 linear RGB, multiplied by the picture `emission_texture` where there is one, which lies by the model's own uv; `tint` is
    what a thin pane passes at normal incidence, or a solid at `tint_depth_m`, without the loss by reflection; `relief`
    scales the normal map; `uv_m` is how many metres of the stage one turn of its own uv is, where it is laid by that; textures are numbers in the stage, -1 for none. The fields of the artist's `Surface` keep
    their meaning here. `leaf` is a kind of leaf, of whose cards the share `leaves` is on the tree. What is `scarce` is met by a share of the rays alone, the second of its uv; no weather lies on what is `uncovered`; a `sward` stands for blades of grass."""

    name: str = "plain"
    base: tuple[float, float, float] = (0.5, 0.5, 0.5)
    roughness: float = 0.8
    metal: float = 0.0
    specular: float = 1.0
    index: float = 1.5
    thin_glass: bool = False
    solid_glass: bool = False
    tint: tuple[float, float, float] = (1.0, 1.0, 1.0)
    tint_depth_m: float = 0.1
    translucency: float = 0.0
    through_tint: tuple[float, float, float] | None = None
    emission: tuple[float, float, float] = (0.0, 0.0, 0.0)
    diffuse_roughness: float = 0.0
    conductor: str | None = None
    coat: float = 0.0
    coat_roughness: float = 0.05
    sheen: tuple[float, float, float] = (0.0, 0.0, 0.0)
    sheen_roughness: float = 0.4
    base_texture: int = -1
    relief_texture: int = -1
    rough_texture: int = -1
    alpha_texture: int = -1
    emission_texture: int = -1
    alpha_cutoff: float = 0.5
    relief: float = 1.0
    laying: Laying | None = None
    courses: Courses | None = None
    uv_m: float = 1.0
    pattern: str = "none"
    pattern_m: float = 0.2
    pattern_tint: tuple[float, float, float] = (0.5, 0.5, 0.5)
    bump_m: float = 0.0
    ripple_m: float = 0.0
    ripple_length_m: float = 0.6
    weathering: float = 0.0
    leaf: str | None = None
    leaves: float = 1.0
    scarce: bool = False
    sward: bool = False
    uncovered: bool = False

    @property
    def emits(self) -> bool:
        return max(self.emission) > 0

    @property
    def structure(self) -> tuple[object, ...]:
        """What the ray structure depends on; everything else of a material may change without building it anew."""
        return (
            self.thin_glass and self.roughness <= SMOOTH, self.solid_glass, self.emits, self.alpha_texture >= 0,
            self.weathering > 0, self.alpha_texture < 0 and self.leaves < 1, (self.ripple_m, self.ripple_length_m) if self.ripple_m > 0 else None,
        )  # fmt: skip

    def surface(self) -> Surface:
        """The material as the artist would set it."""
        return Surface(
            base=_clip(self.base), roughness=_share(self.roughness), diffuse_roughness=self.diffuse_roughness,
            gloss=_share(self.specular), index=min(max(self.index, 1.0001), 3.0), metal=_share(self.metal),
            conductor=self.conductor, coat=self.coat, coat_roughness=self.coat_roughness, sheen=self.sheen,
            sheen_roughness=max(self.sheen_roughness, 0.05),
            glass="thin" if self.thin_glass else "solid" if self.solid_glass else "none", tint=_clip(self.tint),
            tint_depth_m=self.tint_depth_m, through=_share(self.translucency), through_tint=self.through_tint,
            emission_cd_m2=self.emission, relief=min(max(self.relief, 0.0), 4.0),
            laying=self.laying, courses=self.courses, pattern=self.pattern, pattern_m=self.pattern_m,
            pattern_tint=self.pattern_tint, bump_m=self.bump_m, ripple_m=self.ripple_m,
            ripple_length_m=self.ripple_length_m, weathering=self.weathering, leaf=self.leaf,
        )  # fmt: skip

    def made_of(self, s: Surface) -> Material:
        """This material with the artist's surface in its place; it keeps its name and, if wanted, its pictures."""
        without: dict[str, Any] = (
            {}
            if s.keep_picture
            else {"base_texture": -1, "relief_texture": -1, "rough_texture": -1, "emission_texture": -1}
        )
        return replace(
            self, base=s.base, roughness=s.roughness, diffuse_roughness=s.diffuse_roughness, specular=s.gloss,
            index=s.index, metal=s.metal, conductor=s.conductor, coat=s.coat, coat_roughness=s.coat_roughness,
            sheen=s.sheen, sheen_roughness=s.sheen_roughness, thin_glass=s.glass == "thin",
            solid_glass=s.glass == "solid", tint=s.tint, tint_depth_m=s.tint_depth_m, translucency=s.through,
            through_tint=s.through_tint, emission=s.emission_cd_m2, relief=s.relief,
            laying=s.laying, courses=s.courses, pattern=s.pattern, pattern_m=s.pattern_m, pattern_tint=s.pattern_tint,
            bump_m=s.bump_m, ripple_m=s.ripple_m, ripple_length_m=s.ripple_length_m, weathering=s.weathering, leaf=s.leaf,
            **without,
        )  # fmt: skip


def _share(value: float) -> float:
    return min(max(float(value), 0.0), 1.0)


def _clip(rgb: tuple[float, float, float]) -> tuple[float, float, float]:
    return _share(rgb[0]), _share(rgb[1]), _share(rgb[2])


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
class MeshInstance:
    """A mesh in the stage: index of the mesh, 4 x 4 matrix to the world (float64), layer and object name."""

    mesh: int
    matrix: NDArray[np.float64]
    layer: str = ""
    name: str = ""


@dataclass(frozen=True)
class StageData:
    """Everything an import yields."""

    meshes: tuple[Mesh, ...] = ()
    instances: tuple[MeshInstance, ...] = ()
    materials: tuple[Material, ...] = ()
    textures: tuple[Texture, ...] = ()
    openings: tuple[Opening, ...] = ()
    notes: tuple[str, ...] = field(default=())
    offers: Offers = field(default_factory=Offers)

    @property
    def layers(self) -> tuple[str, ...]:
        return tuple(sorted({p.layer for p in self.instances if p.layer}))

    @property
    def used(self) -> tuple[int, ...]:
        """Numbers of the materials that some instance shows."""
        meshes = {p.mesh for p in self.instances}
        return tuple(sorted({int(m) for k in meshes for m in np.unique(self.meshes[k].material)}))

    def bounds(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Least and greatest corner in metres over all instances, each shape (3,)."""
        low, high = boxes_of(self.instances, self.meshes)
        return low.min(0), high.max(0)

    def heart(self) -> NDArray[np.float64]:
        """About the middle (3,) of the stage's triangles in metres, whatever strays from them."""
        return heart_of(self.instances, self.meshes)


def boxes_of(
    instances: Sequence[MeshInstance], meshes: Sequence[Mesh]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Least and greatest corners (P, 3) in metres of the boxes of placed meshes."""
    matrices = np.array([p.matrix for p in instances])
    which = np.array([p.mesh for p in instances])
    boxes = np.zeros((len(meshes), 2, 3))
    for k in np.unique(which) if len(instances) else ():
        if len(meshes[k].points):
            boxes[k] = meshes[k].points.min(0), meshes[k].points.max(0)
    middle, half = (boxes[:, 0] + boxes[:, 1])[which] / 2, (boxes[:, 1] - boxes[:, 0])[which] / 2
    at = np.einsum("nij,nj->ni", matrices[:, :3, :3], middle) + matrices[:, :3, 3]
    reach = np.einsum("nij,nj->ni", np.abs(matrices[:, :3, :3]), half)
    return at - reach, at + reach


def heart_of(instances: Sequence[MeshInstance], meshes: Sequence[Mesh]) -> NDArray[np.float64]:
    """About the middle (3,) of the triangles of placed meshes: the median of their boxes' middles, weighed by their triangles."""
    low, high = boxes_of(instances, meshes)
    middle, weights = (low + high) / 2, np.array([len(meshes[p.mesh].triangles) for p in instances], float)
    found = []
    for axis in range(3):
        order = np.argsort(middle[:, axis], kind="stable")
        passed = np.cumsum(weights[order])
        found.append(middle[order[min(int(np.searchsorted(passed, passed[-1] / 2)), len(order) - 1)], axis])
    return np.array(found)
