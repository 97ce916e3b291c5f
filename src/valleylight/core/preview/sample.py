"""A small picture of a material as an architect lays samples out: a tile of a stated true size with an eased edge, stood at a slant in
raking light, a measure of ten parts before it; glass before a line of text; cloth in folds. Textures are at true scale."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from valleylight.core.making.shapes import Shape, box
from valleylight.core.preview.studio import quad, small_picture, studio
from valleylight.core.project.description import Lens, Stage, View
from valleylight.core.project.surface import Laying
from valleylight.core.stage.model import Material, Mesh, MeshInstance, StageData, Texture
from valleylight.core.stage.samples import Presented, presented
from valleylight.core.trace.scene.quality import Quality

QUALITY = Quality("sample", 0, 0, max_bounces=8, clamp_stops=2.0, soften=0.2)
SAMPLES = 24
SURROUND_CD_M2 = 260.0
#: How far a tile leans back from upright, in degrees, and how thick it is, in shares of its side.
LEAN_DEG, THICK = 18.0, 0.05


def sample_picture(
    material: Material, textures: tuple[Texture, ...] = (), shown: Presented | None = None, uv_m: float = 1.0, size: int = 128,
    stop: Callable[[], bool] = lambda: False,
) -> NDArray[np.uint8]:  # fmt: skip
    """Picture (size, size, 3) uint8 of a material. `uv_m` is how many metres one turn of its own uv is. Water is shown as a pane of its
    glass. Raises StoppedError once `stop` says so."""
    shown = shown or presented(material.surface())
    s = shown.size_m
    # A tile leans: what is laid by its planes in the stage is laid by its own uv here, which is in metres.
    laying = material.laying or (Laying() if material.courses else None)
    flat = material if laying is None else replace(material, laying=laying.model_copy(update={"by": "uv"}), uv_m=1.0)
    worn, textures = _with_its_own(replace(flat, ripple_m=0.0), textures)
    scale = 1.0 if laying is not None else uv_m
    table = Material(name="table", base=(0.42, 0.415, 0.40), roughness=0.7, specular=0.25)
    wall = Material(name="wall", base=(0.52, 0.52, 0.51), roughness=0.9, specular=0.1)
    ink = Material(name="ink", base=(0.05, 0.05, 0.05), roughness=0.9, specular=0.0)
    white = Material(name="white", base=(0.8, 0.8, 0.8), roughness=0.9, specular=0.0)
    lamp = Material(name="window", base=(0, 0, 0), specular=0.0, emission=(10500.0, 10300.0, 10000.0))
    edge = Material(name="edge", base=(0.30, 0.46, 0.40), roughness=0.2)
    page = Material(name="page", base=(0.85, 0.85, 0.84), roughness=0.9, specular=0.1, base_texture=len(textures))
    meshes = [*_room(s), *_measure(s), _window(s), *_form(shown, scale, worn.solid_glass)]
    instances = tuple(MeshInstance(k, np.eye(4), name=f"part {k}") for k in range(len(meshes)))
    stage = StageData(
        tuple(meshes),
        instances,
        (worn, table, wall, ink, white, lamp, page, edge),
        (*textures, *_text(shown.form == "glass")),
    )
    view = View(
        key="v", name="v", position=(0.55 * s, -3.6 * s, 1.05 * s), target=(0, 0.05 * s, 0.46 * s), focal_mm=112, format=(1, 1),
        keep_verticals=False, lens=Lens(f_number=8, shutter_s=1 / 125, iso=1100),
    )  # fmt: skip
    # A pane of glass is no window to look for.
    project, compiler = studio(stage, view, settings=Stage(find_openings=False))
    return small_picture(project, compiler, (size, size), QUALITY, SAMPLES, SURROUND_CD_M2, stop)


def _with_its_own(material: Material, textures: tuple[Texture, ...]) -> tuple[Material, tuple[Texture, ...]]:
    """The material with only those pictures of the stage that it uses: laying out all of them would take longest."""
    slots = ("base_texture", "relief_texture", "rough_texture", "alpha_texture", "emission_texture")
    used = sorted({getattr(material, slot) for slot in slots} - {-1})
    new = {-1: -1, **{k: at for at, k in enumerate(used)}}
    own = replace(material, **{slot: new[getattr(material, slot)] for slot in slots})  # type: ignore[arg-type]
    return own, tuple(textures[k] for k in used)


def _room(s: float) -> list[Mesh]:
    table = quad([(-9 * s, -6 * s, 0), (9 * s, -6 * s, 0), (9 * s, 1.2 * s, 0), (-9 * s, 1.2 * s, 0)], 1)
    wall = quad([(-9 * s, 1.2 * s, 0), (9 * s, 1.2 * s, 0), (9 * s, 1.2 * s, 6 * s), (-9 * s, 1.2 * s, 6 * s)], 2)
    # Dark cards above the lens: what mirrors has something to show.
    cards = [
        quad(
            [
                (x * s, -5 * s, 2.2 * s),
                (x * s, -5 * s, 4.6 * s),
                ((x + 0.9) * s, -5 * s, 4.6 * s),
                ((x + 0.9) * s, -5 * s, 2.2 * s),
            ],
            3,
        )
        for x in (-2.6, -0.5, 1.6)
    ]
    return [table, wall, *cards]


def _measure(s: float) -> list[Mesh]:
    """A measure before the sample, as long as it is wide: ten parts, dark and light by turns."""
    edges = np.linspace(-s / 2, s / 2, 11)
    y, z = -0.3 * s, 0.003 * s
    return [
        quad([(a, y, z), (b, y, z), (b, y + 0.035 * s, z), (a, y + 0.035 * s, z)], 3 + k % 2)
        for k, (a, b) in enumerate(zip(edges, edges[1:], strict=False))
    ]


def _window(s: float) -> Mesh:
    """Raking light from the left: a tall window nearly in the plane of the sample."""
    return quad(
        [
            (-2.3 * s, -1.15 * s, 0.3 * s),
            (-2.3 * s, -0.25 * s, 0.3 * s),
            (-2.1 * s, -0.25 * s, 2.3 * s),
            (-2.1 * s, -1.15 * s, 2.3 * s),
        ],
        5,
    )


def _form(shown: Presented, uv_m: float, solid: bool) -> list[Mesh]:
    s = shown.size_m
    if shown.form == "cloth":
        return [_mesh(_folds(s), uv_m)]
    if shown.form == "glass":
        page = quad([(x * s, 0.3 * s, z * s) for x, z in ((-0.6, 0.28), (0.6, 0.28), (0.6, 0.76), (-0.6, 0.76))], 6)
        page = replace(page, uv=np.array([[0, 1], [1, 1], [1, 0], [0, 0]], np.float32))
        if solid:
            return [page, _mesh(box([-0.5 * s, -0.08 * s, 0.001 * s], [0.25 * s, 0.06 * s, s], 0.012 * s), uv_m)]
        rim = 0.012 * s
        edges = [
            quad(
                [
                    (x * s, -0.001 * s, z * s),
                    (x * s + w, -0.001 * s, z * s),
                    (x * s + w, -0.001 * s, z * s + h),
                    (x * s, -0.001 * s, z * s + h),
                ],
                7,
            )
            for x, z, w, h in ((-0.5, 0.001, rim, s), (0.25, 0.001, rim, s), (-0.5, 1.0, 0.75 * s + rim, rim))
        ]
        return [page, *edges, quad([(-0.5 * s, 0, 0.001), (0.25 * s, 0, 0.001), (0.25 * s, 0, s), (-0.5 * s, 0, s)], 0)]
    tile = box([-s / 2, 0, 0], [s / 2, THICK * s, s], 0.008 * s, along=2)
    tile = replace(tile, uv=tile.uv * [1, -1]).turned(-LEAN_DEG, "x").moved([0, -0.12 * s, 0.001 * s])
    return [_mesh(tile, uv_m)]


def _folds(s: float) -> Shape:
    """Cloth that hangs in soft folds, its uv along the thread."""
    columns, rows = 160, 48
    u, v = np.meshgrid(np.linspace(-0.5, 0.5, columns), np.linspace(0, 1, rows), indexing="ij")
    deep = (0.02 + 0.05 * (1 - v)) * s
    wave = 2 * np.pi * (3.4 * u + 0.25 * np.sin(5 * u))
    points = np.stack(
        [u * s, -0.05 * s + deep * np.sin(wave) + 0.012 * s * np.sin(2.7 * wave + 2 * v), v * s + 0.001 * s], -1
    )
    along, up = np.gradient(points, axis=0), np.gradient(points, axis=1)
    normals = np.cross(along, up)
    normals /= np.linalg.norm(normals, axis=-1, keepdims=True)
    run = np.cumsum(np.linalg.norm(along, axis=-1), axis=0)
    i, j = np.meshgrid(np.arange(columns - 1), np.arange(rows - 1), indexing="ij")
    k = (i * rows + j).ravel()
    triangles = np.concatenate(
        [np.column_stack([k, k + rows, k + rows + 1]), np.column_stack([k, k + rows + 1, k + 1])]
    )
    return Shape(
        points.reshape(-1, 3), normals.reshape(-1, 3), np.stack([run, -points[..., 2]], -1).reshape(-1, 2), triangles
    )


def _mesh(shape: Shape, uv_m: float) -> Mesh:
    return Mesh(
        shape.points.astype(np.float32), shape.normals.astype(np.float32), (shape.uv / uv_m).astype(np.float32),
        shape.triangles.astype(np.uint32), np.zeros(len(shape.triangles), np.int32),
    )  # fmt: skip


def _text(wanted: bool) -> tuple[Texture, ...]:
    """A page with a line of text."""
    if not wanted:
        return ()
    page = Image.new("RGB", (640, 256), (255, 255, 255))
    draw = ImageDraw.Draw(page)
    for row, size in enumerate((56, 40, 26)):
        draw.text((24, 18 + row * 84), "clear as day 0123456789", fill=(20, 20, 20), font=ImageFont.load_default(size))
    return (Texture(np.asarray(page)),)
