"""Point, line, area and measured sources over a plane and in corners."""

from __future__ import annotations

import numpy as np
from scipy.integrate import dblquad

from valleylight.core.lamps.compile import orientation
from valleylight.core.measure import direct
from valleylight.core.stage import Material
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.quality import TRUE
from valleylight.validation import stages
from valleylight.validation.case import Outcome, case

FLOOR = stages.quad(stages.FLOOR_CORNERS, 0)
LUMINANCE_CD_M2 = 1000.0
EMITTER = Material(base=(0, 0, 0), specular=0.0, emission=(LUMINANCE_CD_M2,) * 3)


def _under(
    mesh: object, point: tuple[float, float, float], away: tuple[float, float, float], floor: object = FLOOR
) -> float:
    """Illuminance by an emitting mesh at a point of the floor (or another face)."""
    project, compiler = stages.project_of([floor, mesh], [stages.MATT, EMITTER], stages.looking_at(point, away))  # type: ignore[list-item]
    return stages.incident_lx(render(project, "v", "o", 8, 8, 512, 1, TRUE, compiler=compiler), "surfaces")


@case("Point source over a plane", "inverse-square cosine law, E = I cos^3 / h^2; CIE 171:2006, 4.1")
def point() -> list[Outcome]:
    out = []
    for x in (0.0, 1.0, 2.5):
        fixtures, kinds = stages.lamp((0, 0, 2.5), (0, 0, 0))
        view = stages.looking_at((x, 0, 0), (0.3, -0.9, 1.0))
        project, compiler = stages.project_of([FLOOR], [stages.MATT], view, fixtures, kinds, stages.even(500.0))
        got = stages.incident_lx(render(project, "v", "o", 8, 8, 64, 1, TRUE, compiler=compiler), "G")
        out.append(Outcome(f"{x} m aside, 2.5 m high", 500 * 2.5 / np.hypot(x, 2.5) ** 3, got, 0.01, "lx"))
    return out


@case(
    "Line source over a plane",
    "diffuse strip of width w: E = L w (a + sin a cos a) / (2 h), tan a = l / h (IES Handbook)",
)
def line() -> list[Outcome]:
    w, h, length = 0.02, 1.5, 2.0
    strip = stages.quad([(0, -w / 2, h), (0, w / 2, h), (length, w / 2, h), (length, -w / 2, h)], 1)
    a = np.arctan(length / h)
    expected = LUMINANCE_CD_M2 * w * (a + np.sin(a) * np.cos(a)) / (2 * h)
    return [Outcome("under its end", expected, _under(strip, (0, 0, 0), (-0.7, -0.4, 0.8)), 0.015, "lx")]


@case("Disc over a plane", "E = pi L a^2 / (a^2 + h^2) below its centre (IES Lighting Handbook)")
def disc() -> list[Outcome]:
    a, h = 0.8, 1.5
    got = _under(stages.disc((0, 0, h), a, 1), (0, 0, 0), (0, -0.9, 0.9))
    return [Outcome("below its centre", np.pi * LUMINANCE_CD_M2 * a**2 / (a**2 + h**2), got, 0.015, "lx")]


@case(
    "Rectangle over a plane",
    "configuration factor under a corner of a parallel rectangle (J. R. Howell, B-3); CIE 171:2006, 4.3",
)
def rectangle() -> list[Outcome]:
    a, b, h = 1.2, 0.7, 1.1
    shape = stages.quad([(0, 0, h), (0, b, h), (a, b, h), (a, 0, h)], 1)
    x, y = a / h, b / h
    factor = (
        x / np.hypot(1, x) * np.arctan(y / np.hypot(1, x)) + y / np.hypot(1, y) * np.arctan(x / np.hypot(1, y))
    ) / (2 * np.pi)
    got = _under(shape, (0, 0, 0), (-0.8, -0.8, 0.9))
    return [Outcome("under its corner", np.pi * LUMINANCE_CD_M2 * factor, got, 0.015, "lx")]


@case(
    "Rectangle in a corner",
    "configuration factor of a rectangle in a plane at right angles (J. R. Howell, B-4), and quadrature by scipy",
)
def corner() -> list[Outcome]:
    width, height, away = 1.0, 1.4, 0.6
    wall = stages.quad([(0, 0, 0), (width, 0, 0), (width, 0, height), (0, 0, height)], 1)
    x, y = width / height, away / height
    closed = (np.arctan(x / y) - y / np.hypot(1, y) * np.arctan(x / np.hypot(1, y))) / (2 * np.pi)
    numeric = dblquad(lambda z, u: z * away / (u * u + z * z + away * away) ** 2 / np.pi, 0, width, 0, height)[0]
    got = _under(wall, (0, away, 0), (-0.5, 0.6, 0.9))
    return [
        Outcome("closed form by quadrature", float(numeric), float(closed), 0.001),
        Outcome("illuminance at its foot", np.pi * LUMINANCE_CD_M2 * closed, got, 0.015, "lx"),
    ]


@case(
    "Fixtures with a measured profile on a grid",
    "inverse-square cosine law at 20 points, CIE 018:2019; CIE 171:2006, 4.2",
)
def profiles() -> list[Outcome]:
    from valleylight.demo.profiles import CATALOGUE
    from valleylight.demo.profiles import photometry as demo_photometry

    out = []
    position, aim, turn = np.array([0.4, -0.2, 3.0]), np.array([0.9, 0.3, 0.0]), 25.0
    axes = orientation(position, aim, turn)
    xs, ys = np.linspace(-1.2, 2.4, 5), np.linspace(-1.1, 1.3, 4)
    for luminaire in [lu for lu in CATALOGUE if lu.opening.shape in ("disc", "rectangle")][:4]:
        profile = demo_photometry(luminaire)
        fixtures, kinds = stages.lamp(tuple(position), tuple(aim), turn_deg=turn)
        view = stages.looking_at((0.6, 0.1, 0.0), (0.4, -0.8, 1.2))
        project, compiler = stages.project_of([FLOOR], [stages.MATT], view, fixtures, kinds, profile)
        grid = direct.on_level(stages.scene_of(project, compiler), {}, xs, ys, 0.001)
        expected = np.zeros_like(grid)
        for j, y in enumerate(ys):
            for i, x in enumerate(xs):
                d = np.array([x, y, 0.001]) - position
                r = np.linalg.norm(d)
                local = axes @ (d / r)
                c, gamma = np.degrees(np.arctan2(local[1], local[0])), np.degrees(np.arccos(-local[2]))
                expected[j, i] = profile.intensity(c, gamma) * (-d[2] / r) / r**2
        worst = np.unravel_index(np.abs(grid - expected).argmax(), grid.shape)
        name = luminaire.name.lower()
        out.append(Outcome(f"{name}, worst of 20 points", float(expected[worst]), float(grid[worst]), 0.01, "lx",
                           float(expected.max())))  # fmt: skip
        traced = render(project, "v", "o", 8, 8, 256, 1, TRUE, compiler=compiler)
        spot = film_mean_expected(traced, profile, position, axes)
        out.append(Outcome(f"{name}, traced", spot, stages.incident_lx(traced, "G"), 0.01, "lx"))
    return out


def film_mean_expected(film: object, profile: object, position: np.ndarray, axes: np.ndarray) -> float:
    """Illuminance by the law at the mean place of the film's pixels."""
    d = film.passes["position"].mean((0, 1)) - position  # type: ignore[attr-defined]
    r = np.linalg.norm(d)
    local = axes @ (d / r)
    c, gamma = np.degrees(np.arctan2(local[1], local[0])), np.degrees(np.arccos(-local[2]))
    return float(profile.intensity(c, gamma) * (-d[2] / r) / r**2)  # type: ignore[attr-defined]
