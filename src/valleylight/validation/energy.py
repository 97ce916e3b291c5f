"""Nothing made, nothing lost."""

from __future__ import annotations

import os
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np

from valleylight.core.film import columns
from valleylight.core.project import View
from valleylight.core.project.air import Air
from valleylight.core.stage import Material
from valleylight.core.trace.render import new_film, render, trace
from valleylight.core.trace.scene.quality import TRUE
from valleylight.validation import stages
from valleylight.validation.case import Outcome, case

BALL = View(key="v", name="v", position=(0, -6, 0), target=(0, 0, 0), focal_mm=180)


def furnace(material: Material, samples: int = 128, view: View = BALL, **occasion: Any) -> float:
    """Mean luminance of a ball in the same light of 1 cd/m2 from everywhere."""
    project, compiler = stages.project_of([stages.sphere(1.0, 0)], [material], view, **occasion)
    scene = stages.evenly_lit(stages.scene_of(project, compiler, 20, 20), 1.0)
    film = new_film(scene, view, project.description.occasions[0], 20, 20)
    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        trace(scene, film, 0, samples, pool)
    met = film.passes["depth"] < 100 if film.auxiliary[..., columns.PASS_HITS].any() else np.ones((20, 20), bool)
    return float(stages.luminance(film, "sky")[met].mean())


@case("Furnace", "a white body in even light cannot be told from it (conservation of energy)")
def in_even_light() -> list[Outcome]:
    white = (1.0, 1.0, 1.0)
    plain = Material(base=white, specular=0.0)
    bodies = [
        ("matt", plain, 0.01),
        ("rough matt (EON, 1.0)", Material(base=white, specular=0.0, diffuse_roughness=1.0), 0.02),
        ("matt under gloss, roughness 0.4", Material(base=white, roughness=0.4), 0.02),
        ("metal, roughness 0.2", Material(base=white, metal=1.0, roughness=0.2), 0.02),
        ("metal, roughness 0.8", Material(base=white, metal=1.0, roughness=0.8), 0.03),
        ("translucent, half through", Material(base=white, specular=0.0, translucency=0.5), 0.02),
        ("thin clear glass", Material(thin_glass=True, roughness=0.0), 0.01),
        ("frosted glass, roughness 0.5", Material(thin_glass=True, roughness=0.5), 0.05),
        ("solid glass, index 1.5", Material(solid_glass=True, roughness=0.0), 0.02),
        ("clear coat over metal", Material(base=white, metal=1.0, roughness=0.3, coat=1.0), 0.05),
        ("sheen over matt", Material(base=white, specular=0.0, sheen=(0.5, 0.5, 0.5)), 0.06),
    ]  # fmt: skip
    return [Outcome(name, 1.0, furnace(m), tolerance, "cd/m2") for name, m, tolerance in bodies]


@case("Furnace of fog", "fog that absorbs nothing in even light cannot be told from it (conservation of energy)")
def fog_in_even_light() -> list[Outcome]:
    air = Air(
        on=True, extent="box", low=(-4, -4, -4), high=(4, 4, 4), free_path_m=2.0, colour=(1, 1, 1), forward=0.7,
        back=0.2, back_share=0.2,
    )  # fmt: skip
    uneven = air.model_copy(update={"unevenness": 0.9, "uneven_size_m": 0.8})
    white = Material(base=(1, 1, 1), specular=0.0)
    return [
        Outcome("even fog around a white ball", 1.0, furnace(white, 384, air=air), 0.02, "cd/m2"),
        Outcome("uneven fog", 1.0, furnace(white, 384, air=uneven), 0.025, "cd/m2"),
    ]


@case("Integrating sphere", "E = F / (4 pi r^2) (1 + rho / (1 - rho)); CIE 084-1989, section 6; W. Sumpner, 1892")
def integrating_sphere() -> list[Outcome]:
    out = []
    for rho in (0.6, 0.9):
        r = 2.0
        view = View(key="v", name="v", position=(0.2, 0.1, 0.1), target=(1.5, 0.9, -0.6), focal_mm=40)
        fixtures, kinds = stages.lamp((0, 0, 0), (0, 0, -1))
        ball = stages.sphere(r, 0, inwards=True, detail=96)
        project, compiler = stages.project_of(
            [ball], [Material(base=(rho,) * 3, specular=0.0)], view, fixtures, kinds, stages.even()
        )
        film = render(project, "v", "o", 12, 12, 96 if rho < 0.8 else 256, 1, TRUE, compiler=compiler)
        flux = 400 * np.pi
        expected = flux / (4 * np.pi * r**2) / (1 - rho)
        out.append(Outcome(f"reflectance {rho}", expected, stages.incident_lx(film, "G", rho), 0.02, "lx"))
    return out


@case("Cube, diffuse inter-reflection", "CIE 171:2006, 5.7: mean indirect E = F rho / (S (1 - rho)) in a closed room")
def cube() -> list[Outcome]:
    """Mean illuminance over the faces of a 4 m cube, with an even source in its middle: direct plus indirect is
    F / (S (1 - rho)) on the mean."""
    rho, side = 0.5, 4.0
    fixtures, kinds = stages.lamp((2, 2, 2), (2, 2, 0))
    material = Material(base=(rho,) * 3, specular=0.0)
    # All six faces are alike: the mean over the floor is the mean over the room. A view straight down covers the floor.
    view = View(key="v", name="v", position=(2, 2.0, 3.9), target=(2, 2.1, 0), focal_mm=18, film_width_mm=36,
                keep_verticals=False)  # fmt: skip
    project, compiler = stages.project_of(
        stages.box_room((side,) * 3, 0), [material], view, fixtures, kinds, stages.even()
    )
    film = render(project, "v", "o", 48, 48, 64, 1, TRUE, compiler=compiler)
    position = film.passes["position"]
    floor = position[..., 2] < 0.01
    # Every pixel weighs by the floor it covers.
    gap = position - np.array([2, 2.0, 3.9])
    distance = np.linalg.norm(gap, axis=-1)
    axis = np.array([0, 0.1, -3.9]) / np.hypot(0.1, 3.9)
    weight = distance**2 / np.maximum(-gap[..., 2] / distance, 1e-6) * (gap @ axis / distance) ** 3 * floor
    lit = stages.luminance(film, "G") * np.pi / rho
    got = float((lit * weight).sum() / weight.sum())
    return [Outcome("mean illuminance", 400 * np.pi / (6 * side**2 * (1 - rho)), got, 0.02, "lx")]
