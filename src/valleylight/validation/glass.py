"""Reflection, bending and tint at glass and water."""

from __future__ import annotations

import numpy as np

from valleylight.core.project import Sky, Sun
from valleylight.core.stage import Material, Mesh, metals
from valleylight.core.trace.bsdf import surface
from valleylight.core.trace.photonmap import photons
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.quality import TRUE
from valleylight.validation import stages
from valleylight.validation.case import Outcome, case

DIM = Material(base=(0.04, 0.04, 0.04), specular=0.0)  # so that little comes back from a pane's underside


@case(
    "Fresnel's equations",
    "M. Born, E. Wolf, Principles of Optics, 1.5.2 (s and p at 60 degrees, index 1.5); critical angle of water",
)
def fresnel() -> list[Outcome]:
    ct = np.sqrt(1 - 0.75 / 2.25)
    s, p = ((0.5 - 1.5 * ct) / (0.5 + 1.5 * ct)) ** 2, ((ct - 0.75) / (ct + 0.75)) ** 2
    critical = float(np.cos(np.arcsin(1 / 1.33)))
    return [
        Outcome("glass, normal incidence", 0.04, surface.dielectric(1.0, 1.5), 1e-6),
        Outcome("glass, 60 degrees", (s + p) / 2, surface.dielectric(0.5, 1.5), 1e-6),
        Outcome(
            "water from below, past the critical angle", 1.0, photons.reflectance(0.98 * critical, 1.33, True), 1e-6
        ),
        Outcome(
            "water from below, normal incidence", ((1.33 - 1) / 2.33) ** 2, photons.reflectance(1.0, 1.33, True), 1e-6
        ),
    ]


@case(
    "Metals",
    "Fresnel reflectance of n + ik (Born and Wolf, 14.2); silver and copper, about 0.96 and 0.95 in red (from memory)",
)
def metal() -> list[Outcome]:
    n, k = np.array([0.05]), np.array([4.36])
    exact = ((n - 1) ** 2 + k**2) / ((n + 1) ** 2 + k**2)
    return [
        Outcome("silver at 650 nm, normal incidence", float(exact[0]), float(metals.reflectance(n, k, 1.0)[0]), 1e-6),
        Outcome("copper, red", 0.95, metals.colour("copper")[0][0], 0.03),
        Outcome("grazing incidence", 1.0, float(metals.reflectance(n, k, 1e-4)[0]), 1e-3),
    ]


@case("Snell's law", "sin(t) = sin(i) / n")
def snell() -> list[Outcome]:
    out = []
    for degrees in (20.0, 45.0, 70.0):
        a = np.radians(degrees)
        d = photons.bend(float(np.sin(a)), 0.0, float(-np.cos(a)), 0.0, 0.0, 1.0, 1 / 1.5)
        out.append(Outcome(f"glass, {degrees:g} degrees", np.degrees(np.arcsin(np.sin(a) / 1.5)),
                           float(np.degrees(np.arctan2(d[0], -d[2]))), 1e-6, "deg"))  # fmt: skip
    return out


def _under(meshes: list[Mesh], glass: Material, altitude: float) -> tuple[np.ndarray, np.ndarray]:
    """Sunlight (RGB, lx) on a floor at the origin below glass, and without it."""
    view = stages.looking_at((0, 0, 0), (0.2, -0.6, 1.2))
    sun = Sun(true_to_place=False, azimuth_deg=180, altitude_deg=altitude)
    light = []
    for extra in (meshes, []):
        project, compiler = stages.project_of(
            [stages.quad(stages.FLOOR_CORNERS, 0), *extra],
            [DIM, glass],
            view,
            sun=sun,
            sky=Sky(cie_type=12),  # type: ignore[list-item]
        )
        film = render(project, "v", "o", 8, 8, 64, 1, TRUE, compiler=compiler)
        light.append(film.groups["sun"].mean((0, 1)))
    return light[0], light[1]


@case("Tinted pane", "tint^(1 / cos t) (1 - R)^2 / (1 - R^2) of the sun (Beer-Lambert law; Born and Wolf, 1.5)")
def tinted() -> list[Outcome]:
    tint = (0.9, 0.5, 0.2)
    pane = stages.quad([(-30, -30, 2), (30, -30, 2), (30, 30, 2), (-30, 30, 2)], 1)
    out = []
    for altitude in (90.0, 40.0):
        with_pane, without = _under([pane], Material(thin_glass=True, roughness=0.0, tint=tint), altitude)
        cosine = float(np.sin(np.radians(altitude)))
        r = surface.dielectric(cosine, 1.5)
        inside = np.sqrt(1 - (1 - cosine**2) / 2.25)
        for name, t, got in zip(("red", "green", "blue"), tint, with_pane / without, strict=True):
            out.append(
                Outcome(
                    f"sun at {altitude:g} degrees, {name}", t ** (1 / inside) * (1 - r) / (1 + r), float(got), 0.015
                )
            )
    return out


@case("Solid tinted block", "(1 - R)^2 exp(-a d) straight through (Beer-Lambert law)")
def block() -> list[Outcome]:
    top = stages.quad([(-30, -30, 2.2), (30, -30, 2.2), (30, 30, 2.2), (-30, 30, 2.2)], 1)
    bottom = stages.quad([(-30, -30, 2.0), (-30, 30, 2.0), (30, 30, 2.0), (30, -30, 2.0)], 1)
    glass = Material(solid_glass=True, roughness=0.0, tint=(0.8, 0.6, 0.4), tint_depth_m=0.1)
    through, without = _under([top, bottom], glass, 90.0)
    return [
        Outcome(name, t ** (0.2 / 0.1) * 0.96**2, float(got), 0.02)
        for name, t, got in zip(("red", "green", "blue"), (0.8, 0.6, 0.4), through / without, strict=True)
    ]
