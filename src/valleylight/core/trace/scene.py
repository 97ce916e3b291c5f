"""From a stage and its lights to the arrays and the ray structure that kernels read."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import LUMINANCE, srgb_decode
from valleylight.core.project.description import Opening
from valleylight.core.sky.dome import Dome, solid_angles
from valleylight.core.stage.model import Material, StageData
from valleylight.core.trace import lamplight, layout, rays
from valleylight.core.trace.embree import RayScene

F32 = np.float32
#: Neutral reflectance of white-card mode.
CARD_REFLECTANCE = 0.5
INSTANCED_TRIANGLES = 20_000
GRID_CELL_M, GRID_CELLS_MOST = 1.2, 40


class SceneArrays(NamedTuple):
    """Everything a kernel reads; shapes beside each field."""

    handle: int  # Embree scene of everything
    glass: int  # Embree scene of the thin panes alone, 0 for none
    glass_first: int  # first triangle record of the panes
    triangles: NDArray[np.float32]  # (T, 28) corner, edges, normals, uv, material, fixture + 1
    geometry_first: NDArray[np.int64]  # (N,) first triangle record of an Embree geometry
    geometry_transform: NDArray[np.int64]  # (N,) row of `transforms`, -1 where the geometry stands in the world
    transforms: NDArray[np.float32]  # (K, 21) 3 x 4 matrix to the world, 3 x 3 matrix of normals
    materials: NDArray[np.float32]  # (M, 20)
    pixels: NDArray[np.uint8]  # all textures, flat
    texture_info: NDArray[np.int64]  # (X, 3) offset, width, height
    decode: NDArray[np.float32]  # (256,) sRGB code to linear
    linear: NDArray[np.float32]  # (256,) code / 255
    dome: NDArray[np.float32]  # (R, C, 3) cd/m2
    dome_density: NDArray[np.float32]  # (R, C) per sr
    dome_marginal: NDArray[np.float64]  # (R + 1,)
    dome_conditional: NDArray[np.float64]  # (R, C + 1)
    sun: NDArray[np.float64]  # (14,) direction, cos of radius, luminance RGB, density per sr, basis
    openings: NDArray[np.float64]  # (P, 13)
    lamps: NDArray[np.float32]  # (L, 24)
    profiles: NDArray[np.float32]  # (F, 73, 361) cd
    grid_box: NDArray[np.float64]  # (6,) low corner, inverse cell size
    grid_counts: NDArray[np.int64]  # (3,)
    grid_cdf: NDArray[np.float32]  # (cells, L + 1)
    emitters: NDArray[np.float32]  # (E, 16)
    emitter_cdf: NDArray[np.float64]  # (1, E + 1)


@dataclass(frozen=True)
class BodyMesh:
    """The visible body of fixtures, already in the world: points, normals, triangles, material index within
    `materials`, and for each triangle the number of its fixture plus 1 where it is a luminous face, else 0."""

    points: NDArray[np.float32]
    normals: NDArray[np.float32]
    triangles: NDArray[np.uint32]
    material: NDArray[np.int32]
    fixture: NDArray[np.int32]
    materials: tuple[Material, ...]


@dataclass(frozen=True)
class Geometry:
    """The part of a scene that does not depend on sun, sky or levels. Keeps the ray structures alive."""

    scene: RayScene
    panes: RayScene | None
    arrays: dict[str, object]
    emitted_total: float
    low: NDArray[np.float64]
    high: NDArray[np.float64]


def build_geometry(
    stage: StageData,
    hidden_layers: frozenset[str] = frozenset(),
    bodies: BodyMesh | None = None,
    white_card: bool = False,
) -> Geometry:
    """Triangle records, materials, textures and ray structure of a stage with some layers hidden."""
    shown = [p for p in stage.placements if p.layer not in hidden_layers]
    uses = np.bincount([p.mesh for p in shown], minlength=len(stage.meshes)) if shown else np.zeros(0, int)
    thin = np.array([m.thin_glass for m in stage.materials] or [False])
    lit = np.array([m.emits for m in stage.materials] or [False])
    instanced = {
        k
        for k, mesh in enumerate(stage.meshes)
        if shown and uses[k] > 2 and uses[k] * len(mesh.triangles) > INSTANCED_TRIANGLES
        and not (thin | lit)[mesh.material].any()  # panes and emitting surfaces are known triangle by triangle
    }  # fmt: skip
    records: list[NDArray[np.float32]] = []
    first: list[int] = []
    transform: list[int] = []
    transforms: list[NDArray[np.float32]] = []
    scene = RayScene()
    total = 0

    def add(record: NDArray[np.float32], mask: int) -> None:
        nonlocal total
        number = scene.add_triangles(*_soup(record), mask)
        assert number == len(first)
        first.append(total)
        transform.append(-1)
        records.append(record)
        total += len(record)

    solid, glass = [np.zeros((0, layout.TRIANGLE_WIDTH), F32)], [np.zeros((0, layout.TRIANGLE_WIDTH), F32)]
    for placement in shown:
        if placement.mesh in instanced:
            continue
        record = _records(stage.meshes[placement.mesh], placement.matrix)
        is_glass = thin[record[:, 24].astype(int)]
        solid.append(record[~is_glass])
        glass.append(record[is_glass])
    solid_record, glass_record = np.concatenate(solid), np.concatenate(glass)
    if len(solid_record):
        add(solid_record, rays.OPAQUE)
    panes, glass_first = None, 0
    if len(glass_record):
        glass_first = total
        add(glass_record, rays.GLASS)
        panes = RayScene()
        panes.add_triangles(*_soup(glass_record), rays.GLASS)
        panes.commit()
    materials = list(stage.materials) or [Material()]
    if bodies is not None and len(bodies.triangles):
        record = _body_records(bodies, len(materials))
        materials += bodies.materials
        add(record, rays.BODY)
    parts: dict[int, tuple[RayScene, int]] = {}
    for placement in shown:
        if placement.mesh not in instanced:
            continue
        if placement.mesh not in parts:
            record = _records(stage.meshes[placement.mesh], np.eye(4))
            part = RayScene()
            part.add_triangles(*_soup(record), rays.EVERYTHING)
            parts[placement.mesh] = (part.commit(), total)
            records.append(record)
            total += len(record)
        part, start = parts[placement.mesh]
        scene.add_instance(part, placement.matrix, rays.OPAQUE)
        first.append(start)
        transform.append(len(transforms))
        linear = placement.matrix[:3, :3]
        normal = np.linalg.inv(linear).T * abs(np.linalg.det(linear))
        transforms.append(np.concatenate([placement.matrix[:3, :4].ravel(), normal.ravel()]).astype(F32))
    scene.commit()
    triangles = np.concatenate(records) if records else np.zeros((1, layout.TRIANGLE_WIDTH), F32)
    table = np.stack([_material(m, white_card) for m in materials])
    low, high = stage.bounds() if stage.placements else (np.zeros(3), np.ones(3))
    emitters, emitter_cdf, emitted_total = _emitters(triangles[: len(solid_record)], table)
    pixels, info = _textures(stage)
    arrays: dict[str, object] = {
        "handle": scene.handle,
        "glass": panes.handle if panes else 0,
        "glass_first": glass_first,
        "triangles": triangles,
        "geometry_first": np.array(first or [0], np.int64),
        "geometry_transform": np.array(transform or [-1], np.int64),
        "transforms": np.stack(transforms) if transforms else np.zeros((1, 21), F32),
        "materials": table,
        "pixels": pixels,
        "texture_info": info,
        "decode": srgb_decode(np.arange(256) / 255.0).astype(F32),
        "linear": (np.arange(256) / 255.0).astype(F32),
        "emitters": emitters,
        "emitter_cdf": emitter_cdf,
    }
    return Geometry(scene, panes, arrays, emitted_total, low, high)


def _records(mesh: object, matrix: NDArray[np.float64]) -> NDArray[np.float32]:
    """Triangle records (T, 28) of a mesh under a matrix."""
    points = mesh.points.astype(float) @ matrix[:3, :3].T + matrix[:3, 3]  # type: ignore[attr-defined]
    turn = np.linalg.inv(matrix[:3, :3]).T
    normals = mesh.normals.astype(float) @ turn.T  # type: ignore[attr-defined]
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-20)
    t = mesh.triangles.astype(int)  # type: ignore[attr-defined]
    if np.linalg.det(matrix[:3, :3]) < 0:
        t = t[:, [0, 2, 1]]
    record = np.zeros((len(t), layout.TRIANGLE_WIDTH), F32)
    corner = points[t]
    record[:, 0:3] = corner[:, 0]
    record[:, 3:6] = corner[:, 1] - corner[:, 0]
    record[:, 6:9] = corner[:, 2] - corner[:, 0]
    record[:, 9:18] = normals[t].reshape(-1, 9)
    record[:, 18:24] = mesh.uv[t].reshape(-1, 6)  # type: ignore[attr-defined]
    record[:, 24] = mesh.material  # type: ignore[attr-defined]
    return record


def _body_records(bodies: BodyMesh, first_material: int) -> NDArray[np.float32]:
    record = np.zeros((len(bodies.triangles), layout.TRIANGLE_WIDTH), F32)
    corner = bodies.points[bodies.triangles]
    record[:, 0:3] = corner[:, 0]
    record[:, 3:6] = corner[:, 1] - corner[:, 0]
    record[:, 6:9] = corner[:, 2] - corner[:, 0]
    record[:, 9:18] = bodies.normals[bodies.triangles].reshape(-1, 9)
    record[:, 24] = bodies.material + first_material
    record[:, 25] = bodies.fixture
    return record


def _soup(record: NDArray[np.float32]) -> tuple[NDArray[np.float32], NDArray[np.uint32]]:
    """Points and indices for Embree, from the very numbers the kernels use."""
    points = np.stack([record[:, 0:3], record[:, 0:3] + record[:, 3:6], record[:, 0:3] + record[:, 6:9]], 1)
    return points.reshape(-1, 3), np.arange(3 * len(record), dtype=np.uint32).reshape(-1, 3)


def _material(m: Material, white_card: bool) -> NDArray[np.float32]:
    row = np.zeros(layout.MATERIAL_WIDTH, F32)
    row[0:3] = np.clip(m.base, 0, 1)
    row[layout.ROUGH], row[layout.METAL], row[layout.COAT] = m.roughness, m.metal, m.specular
    row[layout.INDEX] = max(m.index, 1.0001)
    row[layout.THIN] = 1.0 if m.thin_glass else 0.0
    row[layout.TINT : layout.TINT + 3] = np.clip(m.tint, 1e-6, 1)
    row[layout.EMISSION : layout.EMISSION + 3] = m.emission
    row[layout.BASE_TEXTURE], row[layout.RELIEF_TEXTURE], row[layout.RELIEF] = (
        m.base_texture,
        m.relief_texture,
        m.relief,
    )
    row[layout.THROUGH] = m.translucency
    row[layout.F0] = ((m.index - 1) / (m.index + 1)) ** 2
    row[layout.LIT] = 1.0 if m.emits else 0.0
    if white_card and not m.thin_glass and not m.emits:
        row[0:3] = CARD_REFLECTANCE
        row[layout.METAL] = row[layout.COAT] = 0.0
        row[layout.BASE_TEXTURE] = row[layout.RELIEF_TEXTURE] = -1.0
    return row


def _textures(stage: StageData) -> tuple[NDArray[np.uint8], NDArray[np.int64]]:
    if not stage.textures:
        return np.zeros(3, np.uint8), np.zeros((1, 3), np.int64)
    flat = [t.pixels.reshape(-1) for t in stage.textures]
    offsets = np.concatenate([[0], np.cumsum([len(f) for f in flat])[:-1]])
    info = np.array(
        [(o, t.pixels.shape[1], t.pixels.shape[0]) for o, t in zip(offsets, stage.textures, strict=True)], np.int64
    )
    return np.concatenate(flat), info


def _emitters(
    triangles: NDArray[np.float32], materials: NDArray[np.float32]
) -> tuple[NDArray[np.float32], NDArray[np.float64], float]:
    """Emitting triangles (E, 16), their cumulated share by luminance times area, and that total."""
    which = triangles[materials[triangles[:, 24].astype(int), layout.LIT] > 0]
    if not len(which):
        return lamplight.NO_EMITTERS, np.zeros((1, 1)), 1.0
    normal = np.cross(which[:, 3:6], which[:, 6:9])
    twice = np.maximum(np.linalg.norm(normal, axis=1), 1e-20)
    rgb = materials[which[:, 24].astype(int), layout.EMISSION : layout.EMISSION + 3]
    power = (rgb @ LUMINANCE) * twice / 2
    out = np.zeros((len(which), lamplight.EMITTER_WIDTH), F32)
    out[:, 0:9] = which[:, 0:9]
    out[:, 9:12] = rgb
    out[:, 12:15] = normal / twice[:, None]
    out[:, 15] = twice / 2
    cdf = np.concatenate([[0.0], np.cumsum(power)]) / power.sum()
    return out, cdf[None, :], float(power.sum())


def dome_arrays(dome: Dome | None) -> dict[str, object]:
    """Sampling tables of a sky."""
    if dome is None:
        one = np.ones((2, 2), F32)
        return {
            "dome": np.zeros((2, 2, 3), F32), "dome_density": one, "dome_marginal": np.linspace(0, 1, 3),
            "dome_conditional": np.tile(np.linspace(0, 1, 3), (2, 1)),
        }  # fmt: skip
    omega = solid_angles()[:, None]
    # A floor of the mean keeps every direction within reach, so that interpolated edges are never missed.
    luminance = dome.luminance
    weight = (luminance + 0.02 * luminance.mean()) * omega
    weight /= weight.sum()
    rows = weight.sum(1)
    conditional = np.concatenate([np.zeros((len(rows), 1)), np.cumsum(weight, 1)], 1) / rows[:, None]
    conditional[:, -1] = 1.0
    marginal = np.concatenate([[0.0], np.cumsum(rows)])
    marginal[-1] = 1.0
    return {
        "dome": dome.rgb, "dome_density": (weight / omega).astype(F32), "dome_marginal": marginal,
        "dome_conditional": conditional,
    }  # fmt: skip


def sun_array(
    direction: NDArray[np.float64], radius_deg: float, illuminance_rgb: NDArray[np.float64]
) -> NDArray[np.float64]:
    """The sun's disc: its luminance is its normal illuminance over its solid angle."""
    from valleylight.core.trace.sampling import basis

    cos_max = float(np.cos(np.radians(radius_deg)))
    omega = 2 * np.pi * (1 - cos_max)
    return np.concatenate([direction, [cos_max], illuminance_rgb / omega, [1 / omega], basis(*direction)])


def opening_array(openings: tuple[Opening, ...]) -> NDArray[np.float64]:
    """Openings (P, 13): centre, half edges u and v, inward normal, area."""
    if not openings:
        return np.zeros((0, 13))
    rows = []
    for o in openings:
        u, v, n = np.array(o.half_u), np.array(o.half_v), np.array(o.inward)
        rows.append(np.concatenate([o.centre, u, v, n / np.linalg.norm(n), [4 * np.linalg.norm(np.cross(u, v))]]))
    return np.array(rows)


def lamp_grid(lamps: NDArray[np.float32], profiles: NDArray[np.float32]) -> dict[str, object]:
    """The grid that chooses fixtures: its box reaches 6 m beyond the outermost ones."""
    if not len(lamps):
        return {
            "grid_box": np.array([0, 0, 0, 1, 1, 1], float), "grid_counts": np.ones(3, np.int64),
            "grid_cdf": np.zeros((1, 1), F32),
        }  # fmt: skip
    low = lamps[:, 0:3].min(0).astype(float) - [6, 6, 4]
    high = lamps[:, 0:3].max(0).astype(float) + [6, 6, 2]
    counts = np.clip(np.ceil((high - low) / GRID_CELL_M), 1, GRID_CELLS_MOST).astype(np.int64)
    if len(lamps) > 100:
        counts = np.maximum(counts // 2, 1)
    box = np.concatenate([low, counts / (high - low)])
    cdf = np.zeros((int(counts.prod()), len(lamps) + 1), F32)
    lamplight.fill_grid(lamps, profiles, box, counts, cdf, 0, len(cdf))
    return {"grid_box": box, "grid_counts": counts, "grid_cdf": cdf}
