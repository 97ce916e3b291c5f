"""Sky through openings: the daylight cases of CIE 171:2006, expected values by quadrature of the CIE S 011 sky."""

from __future__ import annotations

import numpy as np
from scipy.integrate import dblquad

from valleylight.core.project import Sky, Stage, Sun
from valleylight.core.project.description import Opening
from valleylight.core.sky.dome import Dome
from valleylight.core.stage import Material, Mesh
from valleylight.core.trace.bsdf import surface
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.quality import TRUE
from valleylight.validation import stages
from valleylight.validation.case import Outcome, case
from valleylight.validation.stages import BLACK, MATT, Corner

SIZE: Corner = (4.0, 4.0, 3.0)
SKIES = ((1, "overcast"), (5, "uniform"), (12, "clear"))
SUN = Sun(true_to_place=False, azimuth_deg=180, altitude_deg=60)


def luminance_towards(dome: Dome, d: np.ndarray) -> float:
    """Luminance of the dome in cd/m2 along a unit direction, interpolated as the tables stand."""
    rows, columns = dome.rgb.shape[:2]
    y = (np.arcsin(d[2]) / np.pi + 0.5) * rows - 0.5
    x = (np.arctan2(d[0], d[1]) / (2 * np.pi) % 1.0) * columns - 0.5
    y = np.clip(y, rows // 2, rows - 1.0)
    y0, x0 = int(y), int(np.floor(x))
    t, s = y - y0, x - x0
    y1 = min(y0 + 1, rows - 1)
    a, b = x0 % columns, (x0 + 1) % columns
    table = dome.luminance
    return float(
        (1 - t) * ((1 - s) * table[y0, a] + s * table[y0, b]) + t * ((1 - s) * table[y1, a] + s * table[y1, b])
    )


def through_roof(
    dome: Dome, point: Corner, hole: tuple[float, float, float, float], z: float, index: float = 0.0
) -> float:
    """Illuminance on a level point by the sky through a hole (x0, y0, x1, y1) of a roof at height z; through a clear
    pane of an index where one is given."""
    h = z - point[2]

    def part(y: float, x: float) -> float:
        d = np.array([x - point[0], y - point[1], h])
        r = np.linalg.norm(d)
        d /= r
        passed = 1.0 - surface.pane(float(d[2]), index)[0] if index else 1.0
        return passed * luminance_towards(dome, d) * d[2] ** 2 / r**2

    return float(dblquad(part, hole[0], hole[2], hole[1], hole[3], epsrel=2e-3)[0])


def through_wall(dome: Dome, point: Corner, hole: tuple[float, float, float, float], index: float = 0.0,
                 hidden_above: tuple[float, float] | None = None) -> float:  # fmt: skip
    """Illuminance on a level point by the sky through a hole (x0, z0, x1, z1) of the wall y = 0; `hidden_above` is the
    distance and height of a long black obstruction outside."""

    def part(z: float, x: float) -> float:
        d = np.array([x - point[0], -point[1], z - point[2]])
        r = np.linalg.norm(d)
        d /= r
        if d[2] <= 0:
            return 0.0
        if hidden_above is not None:
            away, height = hidden_above
            if point[2] + d[2] / -d[1] * (point[1] + away) < height:
                return 0.0
        passed = 1.0 - surface.pane(float(-d[1]), index)[0] if index else 1.0
        return passed * luminance_towards(dome, d) * d[2] * -d[1] / r**2

    return float(dblquad(part, hole[0], hole[2], hole[1], hole[3], epsrel=2e-3)[0])


def _measure(meshes: list[Mesh], materials: list[Material], point: Corner, sky: int, openings: tuple[Opening, ...],
             samples: int = 256) -> tuple[float, Dome]:  # fmt: skip
    view = stages.looking_at(point, (0.25, 0.3, 0.8))
    project, compiler = stages.project_of(
        meshes, materials, view, openings=openings, sun=SUN, sky=Sky(cie_type=sky), settings=Stage(find_openings=False)
    )
    film = render(project, "v", "o", 8, 8, samples, 1, TRUE, compiler=compiler)
    return stages.incident_lx(film, "sky"), stages.scene_of(project, compiler).daylight.dome


def _room(leave: str, hole: list[Mesh], extra: list[Mesh] = []) -> list[Mesh]:  # noqa: B006
    """A black room with a matt floor, one face of it holed."""
    faces = stages.box_room(SIZE, 1, leave)
    faces[0] = stages.quad([(0, 0, 0), (4, 0, 0), (4, 4, 0), (0, 4, 0)], 0)
    return [*faces, *hole, *extra]


def _roof(x: float, y: float) -> Corner:
    return x, y, SIZE[2]


def _wall(x: float, z: float) -> Corner:
    return x, 0.0, z


ROOF_HOLE = (1.5, 1.5, 2.5, 2.5)
WALL_HOLE = (1.0, 1.0, 3.0, 2.0)
ROOF_OPENING = Opening(centre=(2, 2, 3), half_u=(0.5, 0, 0), half_v=(0, 0.5, 0), inward=(0, 0, -1))
WALL_OPENING = Opening(centre=(2, 0, 1.5), half_u=(1, 0, 0), half_v=(0, 0, 0.5), inward=(0, 1, 0))
ROOF = stages.holed((0, 0), (4, 4), ROOF_HOLE, _roof, 1)
WALL = stages.holed((0, 0), (4, 3), WALL_HOLE, _wall, 1)
CLEAR = Material(thin_glass=True, roughness=0.0, index=1.5)


@case("Sky component under a roof opening, without glass", "CIE 171:2006, 5.9; CIE S 011/E:2003 by quadrature (scipy)")
def roof() -> list[Outcome]:
    out = []
    for sky, name in SKIES:
        for point in ((2.0, 2.0, 0.0), (0.5, 2.0, 0.0)):
            got, dome = _measure(_room("ceiling", ROOF), [MATT, BLACK], point, sky, (ROOF_OPENING,))
            out.append(Outcome(f"{name} sky, {abs(2 - point[0])} m off the axis", through_roof(dome, point, ROOF_HOLE, 3.0),
                               got, 0.02, "lx"))  # fmt: skip
    return out


@case(
    "Sky component under a roof opening, clear glass", "CIE 171:2006, 5.10; Fresnel's equations for a pane of index 1.5"
)
def glazed_roof() -> list[Outcome]:
    pane = stages.quad([(1.5, 1.5, 3), (2.5, 1.5, 3), (2.5, 2.5, 3), (1.5, 2.5, 3)], 2)
    out = []
    for point in ((2.0, 2.0, 0.0), (0.5, 2.0, 0.0)):
        got, dome = _measure(_room("ceiling", ROOF, [pane]), [MATT, BLACK, CLEAR], point, 1, (ROOF_OPENING,))
        out.append(Outcome(f"overcast sky, {abs(2 - point[0])} m off the axis",
                           through_roof(dome, point, ROOF_HOLE, 3.0, 1.5), got, 0.02, "lx"))  # fmt: skip
    return out


@case("Sky component by a window, without glass", "CIE 171:2006, 5.11; CIE S 011/E:2003 by quadrature (scipy)")
def window() -> list[Outcome]:
    out = []
    for sky, name in SKIES:
        for depth in (1.0, 3.0):
            point = (2.0, depth, 0.0)
            got, dome = _measure(_room("south", WALL), [MATT, BLACK], point, sky, (WALL_OPENING,))
            out.append(Outcome(f"{name} sky, {depth} m deep", through_wall(dome, point, WALL_HOLE), got, 0.02, "lx"))
    return out


@case("Sky component by a window, clear glass", "CIE 171:2006, 5.12; Fresnel's equations for a pane of index 1.5")
def glazed_window() -> list[Outcome]:
    pane = stages.quad([(1, 0, 1), (3, 0, 1), (3, 0, 2), (1, 0, 2)], 2)
    point = (2.0, 1.0, 0.0)
    got, dome = _measure(_room("south", WALL, [pane]), [MATT, BLACK, CLEAR], point, 1, (WALL_OPENING,))
    return [Outcome("overcast sky, 1 m deep", through_wall(dome, point, WALL_HOLE, 1.5), got, 0.02, "lx")]


@case("Window with an obstruction outside", "CIE 171:2006, 5.13, with a black obstruction that spans the horizon")
def obstruction() -> list[Outcome]:
    away, height = 6.0, 5.0
    wall = stages.quad([(-400, -away, -1), (-400, -away, height), (400, -away, height), (400, -away, -1)], 1)
    point = (2.0, 1.5, 0.0)
    got, dome = _measure(_room("south", WALL, [wall]), [MATT, BLACK], point, 5, (WALL_OPENING,))
    return [Outcome("uniform sky", through_wall(dome, point, WALL_HOLE, hidden_above=(away, height)), got, 0.02, "lx")]


@case(
    "Openings do not change the light",
    "the same window found by its glass, marked by hand, and not known at all (equal means)",
)
def guidance() -> list[Outcome]:
    point = (2.0, 1.0, 0.0)
    plain, _ = _measure(_room("south", WALL), [MATT, BLACK], point, 5, (), 4096)
    guided, _ = _measure(_room("south", WALL), [MATT, BLACK], point, 5, (WALL_OPENING,))
    return [Outcome("illuminance, guided against plain", plain, guided, 0.02, "lx")]
