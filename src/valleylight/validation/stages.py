"""Stages for cases: a few faces given outright, and how to read illuminance off a film."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from valleylight.core.colour.rgb import LUMINANCE
from valleylight.core.film.film import Film
from valleylight.core.photometry import Photometry
from valleylight.core.preview.studio import Corner, quad, studio
from valleylight.core.project import Fixture, FixtureKind, LoadedProject, Site, Stage, View
from valleylight.core.project.description import Opening
from valleylight.core.stage import Material, Mesh, MeshInstance, StageData
from valleylight.core.trace.scene.compiler import Compiler, RenderScene
from valleylight.core.trace.scene.quality import TRUE

MATT = Material(base=(0.5, 0.5, 0.5), specular=0.0)
BLACK = Material(base=(0.0, 0.0, 0.0), specular=0.0)
FLOOR_CORNERS = [(-40.0, -40.0, 0.0), (40.0, -40.0, 0.0), (40.0, 40.0, 0.0), (-40.0, 40.0, 0.0)]


def disc(centre: Corner, radius: float, material: int, sides: int = 96) -> Mesh:
    """A level disc that faces down."""
    a = np.linspace(0, 2 * np.pi, sides + 1)[:-1]
    x, y, z = centre
    rim = np.stack([x + radius * np.cos(a), y + radius * np.sin(a), np.full(sides, z)], 1)
    p = np.concatenate([[centre], rim]).astype(np.float32)
    k = np.arange(sides)
    t = np.stack([np.zeros(sides, int), (k + 1) % sides + 1, k + 1], 1).astype(np.uint32)
    n = np.tile(np.array([0, 0, -1], np.float32), (len(p), 1))
    return Mesh(p, n, np.zeros((len(p), 2), np.float32), t, np.full(len(t), material, np.int32))


def sphere(radius: float, material: int, inwards: bool = False, detail: int = 64, centre: Corner = (0, 0, 0)) -> Mesh:
    """A sphere with smooth normals."""
    v, u = np.linspace(-np.pi / 2, np.pi / 2, detail), np.linspace(0, 2 * np.pi, 2 * detail)
    d = np.stack([np.cos(v)[:, None] * np.cos(u), np.cos(v)[:, None] * np.sin(u), np.sin(v)[:, None] + 0 * u], -1)
    i, j = np.meshgrid(np.arange(detail - 1), np.arange(2 * detail - 1), indexing="ij")
    k = (i * 2 * detail + j).ravel()
    t = np.concatenate(
        [np.column_stack([k, k + 1, k + 2 * detail + 1]), np.column_stack([k, k + 2 * detail + 1, k + 2 * detail])]
    )
    normal = (-d if inwards else d).reshape(-1, 3).astype(np.float32)
    points = (d * radius).reshape(-1, 3) + np.array(centre)
    uv = np.zeros((len(normal), 2), np.float32)
    return Mesh(points.astype(np.float32), normal, uv, t.astype(np.uint32), np.full(len(t), material, np.int32))


def box_room(size: Corner, material: int, leave: str = "") -> list[Mesh]:
    """The inner faces of a room from the origin: floor, ceiling, south, north, west, east; `leave` names one to omit."""
    x, y, z = size
    faces: dict[str, Any] = {
        "floor": [(0, 0, 0), (x, 0, 0), (x, y, 0), (0, y, 0)],
        "ceiling": [(0, 0, z), (0, y, z), (x, y, z), (x, 0, z)],
        "south": [(0, 0, 0), (0, 0, z), (x, 0, z), (x, 0, 0)],
        "north": [(0, y, 0), (x, y, 0), (x, y, z), (0, y, z)],
        "west": [(0, 0, 0), (0, y, 0), (0, y, z), (0, 0, z)],
        "east": [(x, 0, 0), (x, 0, z), (x, y, z), (x, y, 0)],
    }
    return [
        quad([(float(c[0]), float(c[1]), float(c[2])) for c in corners], material)
        for name, corners in faces.items()
        if name != leave
    ]


def holed(low: tuple[float, float], high: tuple[float, float], hole: tuple[float, float, float, float], to: Any,
          material: int) -> list[Mesh]:  # fmt: skip
    """A rectangle with a rectangular hole (u0, v0, u1, v1); `to(u, v)` places a point in space."""
    u0, v0, u1, v1 = hole
    parts = [
        (low[0], low[1], u0, high[1]), (u1, low[1], high[0], high[1]), (u0, low[1], u1, v0), (u0, v1, u1, high[1])
    ]  # fmt: skip
    return [quad([to(a, b), to(c, b), to(c, d), to(a, d)], material) for a, b, c, d in parts if c > a and d > b]


def looking_at(point: Corner, away: Corner, focal_mm: float = 900.0) -> View:
    """A narrow view of a small patch about a point, from `away` beside it."""
    position = tuple(p + a for p, a in zip(point, away, strict=True))
    return View(key="v", name="v", position=position, target=point, focal_mm=focal_mm, keep_verticals=False)  # type: ignore[arg-type]


def project_of(
    meshes: Iterable[Mesh], materials: Iterable[Material], view: View, fixtures: Iterable[Fixture] = (),
    kinds: Iterable[FixtureKind] = (), profile: Photometry | None = None, openings: tuple[Opening, ...] = (),
    settings: Stage | None = None, site: Site | None = None, names: tuple[str, ...] = (), **occasion: Any,
) -> tuple[LoadedProject, Compiler]:  # fmt: skip
    """A project without files whose stage is given outright, and a compiler that knows it. Without more, it is night."""
    meshes = tuple(meshes)
    names = names or tuple(f"object {k}" for k in range(len(meshes)))
    instances = tuple(MeshInstance(k, np.eye(4), name=names[k]) for k in range(len(meshes)))
    stage = StageData(meshes, instances, tuple(materials), openings=openings)
    return studio(stage, view, fixtures, kinds, profile, settings, site, **occasion)


def scene_of(project: LoadedProject, compiler: Compiler, width: int = 8, height: int = 8) -> RenderScene:
    """The compiled scene of a case."""
    return compiler.scene(
        project, project.description.views[0], project.description.occasions[0], width, height, 1, TRUE
    )


def evenly_lit(scene: RenderScene, luminance: float) -> RenderScene:
    """The scene under a sky of the same luminance in cd/m2 everywhere."""
    a = scene.arrays
    return replace(
        scene, arrays=a._replace(dome=np.full_like(a.dome, luminance), backdrop=np.full_like(a.backdrop, luminance))
    )


def incident_lx(film: Film, group: str, reflectance: float = 0.5) -> float:
    """Illuminance in lx of a matt surface that fills the picture: E = pi L / rho."""
    return float(np.pi * (film.groups[group] @ LUMINANCE).mean() / reflectance)


def luminance(film: Film, group: str) -> NDArray[np.float64]:
    """Luminance in cd/m2 of a light group, H x W."""
    return np.asarray(film.groups[group] @ LUMINANCE, float)


def even(candela: float = 100.0) -> Photometry:
    """The same intensity in every direction."""
    return Photometry(np.zeros(1), np.array([0.0, 180.0]), np.full((1, 2), candela))


def lamp(position: Corner, aim: Corner, **more: Any) -> tuple[list[Fixture], list[FixtureKind]]:
    """A fixture in white light, and its kind."""
    kind = FixtureKind(key="k", name="k", profile="0" * 64, kelvin=6500)
    return [Fixture(key="f", kind="k", group="G", position=position, aim=aim, **more)], [kind]
