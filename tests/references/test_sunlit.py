"""A patch of sun on a floor lights a wall: the tracer and its meter against scipy quadrature."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.integrate import dblquad

from tests import small
from valleylight.core.measure.incident import incident
from valleylight.core.project.description import Opening, Sun, View
from valleylight.core.project.sky import Sky
from valleylight.core.stage import Material
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.scene.compiler import Compiler
from valleylight.core.trace.scene.quality import TRUE

REFLECTANCE = 0.5
FLOOR = Material(base=(REFLECTANCE,) * 3, roughness=1.0, specular=0.0)
BLACK = Material(base=(0.0,) * 3, roughness=1.0, specular=0.0)
POINT, NORMAL = np.array([[2.0, 0.0, 1.0]]), np.array([[-1.0, 0.0, 0.0]])


def box_with_a_hole():
    """Six by six metres and three high, black but for its floor; the sun stands above a hole of 1 m2 in the ceiling."""
    floor = small.quad([(-3, -3, 0), (3, -3, 0), (3, 3, 0), (-3, 3, 0)], 0)
    walls = [
        small.quad([(ax, ay, 0), (bx, by, 0), (bx, by, 3), (ax, ay, 3)], 1)
        for ax, ay, bx, by in ((-3, -3, 3, -3), (3, -3, 3, 3), (3, 3, -3, 3), (-3, 3, -3, -3))
    ]
    ceiling = [
        small.quad([(x0, y0, 3), (x1, y0, 3), (x1, y1, 3), (x0, y1, 3)], 1)
        for x0, y0, x1, y1 in ((-3, -3, -0.5, 3), (0.5, -3, 3, 3), (-0.5, -3, 0.5, -0.5), (-0.5, 0.5, 0.5, 3))
    ]
    view = View(key="v", name="v", position=(-2, -2, 1.5), target=(1, 1, 1), focal_mm=20)
    project, compiler = small.scene_of(
        [floor, *walls, *ceiling],
        [FLOOR, BLACK],
        view,
        sun=Sun(true_to_place=False, altitude_deg=90),
        sky=Sky(cie_type=12),
    )
    hole = Opening(centre=(0, 0, 3), half_u=(0.5, 0, 0), half_v=(0, 0.5, 0), inward=(0, 0, -1))
    stage = replace(compiler.stage(project), openings=(hole,))
    return Compiler(stage).scene(project, view, project.description.occasions[0], 16, 9, 1, TRUE)


def test_light_of_a_sunlit_patch_on_a_wall():
    """E = integral over the patch of (rho E_n / pi) cos cos / d^2; the wall sees no sun itself."""
    scene = box_with_a_hole()
    assert scene.settings[layout.SELDOM] > 1.0 and len(scene.arrays.sunlit) > 1000
    luminance = REFLECTANCE * scene.daylight.sun_normal_lx / np.pi
    factor = dblquad(lambda y, x: (2 - x) / ((x - 2) ** 2 + y * y + 1) ** 2, -0.5, 0.5, -0.5, 0.5)[0]
    names = scene.group_names
    asked = incident(scene, POINT, NORMAL, 256)
    assert asked.lux({n: float(n == "sun") for n in names})[0] == pytest.approx(luminance * factor, rel=0.01)
    alone = replace(scene, arrays=scene.arrays._replace(sunlit=scene.arrays.sunlit[:0]))
    found = incident(alone, POINT, NORMAL, 8192)
    assert found.lux({n: float(n == "sun") for n in names})[0] == pytest.approx(luminance * factor, rel=0.06)
