"""Light gathered by glass and water, against ray optics in closed form."""

from __future__ import annotations

import numpy as np

from valleylight.core.project import Sky, Stage, Sun
from valleylight.core.project.air import LightNet
from valleylight.core.stage import Material
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.quality import TRUE
from valleylight.validation import stages
from valleylight.validation.case import Outcome, case

INDEX = 1.5
ZENITH = Sun(true_to_place=False, azimuth_deg=180, altitude_deg=90, size=0.1)


def ball_lens(radius: float, below: float, rho: np.ndarray, index: float = INDEX) -> np.ndarray:
    """Mean over discs of radius `rho`, on a plane `below` the centre of a glass ball, of what level sunlight of 1 lx
    becomes after two refractions: rays at height h leave turned by 2 (i - t) and lose (1 - F)^2."""
    h = (np.arange(200_000) + 0.5) / 200_000 * radius
    i = np.arcsin(h / radius)
    t = np.arcsin(h / radius / index)
    rs = (np.cos(i) - index * np.cos(t)) / (np.cos(i) + index * np.cos(t))
    rp = (np.cos(t) - index * np.cos(i)) / (np.cos(t) + index * np.cos(i))
    passed = (1 - (rs**2 + rp**2) / 2) ** 2
    turn = 2 * (i - t)
    leaves = 2 * t - i  # polar angle of the exit point, from straight down, beyond the axis when negative
    x, z = -radius * np.sin(leaves), -radius * np.cos(leaves)
    landing = np.abs(-x - (below + z) * np.tan(turn))
    ring = 2 * np.pi * h * (radius / len(h))
    return np.array([(ring * passed)[landing < r].sum() / (np.pi * r * r) for r in rho])


@case(
    "Ball lens", "two refractions at a glass ball by Snell and Fresnel, rays summed ring by ring (Born and Wolf, 4.4)"
)
def ball() -> list[Outcome]:
    radius, below = 0.5, 0.8
    lens = stages.sphere(radius, 1, detail=160, centre=(0, 0, below))
    glass = Material(solid_glass=True, roughness=0.0, index=INDEX)
    net = LightNet(on=True, low=(-1, -1, -0.1), high=(1, 1, 0.2), fineness_m=0.01, photons=400_000)
    out = []
    view = stages.looking_at((0.0, 0, 0), (0, -0.9, 0.15), focal_mm=300)
    project, compiler = stages.project_of(
        [stages.quad(stages.FLOOR_CORNERS, 0), lens], [stages.MATT, glass], view, sun=ZENITH, sky=Sky(cie_type=12),
        settings=Stage(light_net=net),
    )  # fmt: skip
    scene = stages.scene_of(project, compiler)
    light = scene.daylight.sun_normal_lx
    photons = scene.arrays.photons
    away = np.hypot(photons[:, 0], photons[:, 1])
    sizes = np.array([0.06, 0.12, 0.3])
    flux = photons[:, 6:9] @ np.array([0.2126, 0.7152, 0.0722])
    down = photons[:, 5] < 0
    for r, expected in zip(sizes, ball_lens(radius, below, sizes), strict=True):
        got = float(flux[(away < r) & down].sum() / (np.pi * r * r))
        out.append(Outcome(f"mean illuminance within {r:g} m, photons", expected * light, got, 0.03, "lx"))
    return out


@case(
    "Light under level water",
    "straight down, 1 - F passes; at 40 degrees the bent light covers the floor with E sin(a) (1 - F)",
)
def water() -> list[Outcome]:
    out = []
    for altitude in (90.0, 40.0):
        view = stages.looking_at((0, 0, -1.0), (0.3, -0.5, 0.6))
        surface = stages.quad([(-6, -6, 0), (6, -6, 0), (6, 6, 0), (-6, 6, 0)], 1)
        floor = stages.quad([(-40, -40, -1), (40, -40, -1), (40, 40, -1), (-40, 40, -1)], 0)
        clear = Material(solid_glass=True, roughness=0.0, index=1.33)
        dim = Material(base=(0.05, 0.05, 0.05), specular=0.0)
        net = LightNet(on=True, low=(-3, -3, -1.5), high=(3, 3, -0.5), fineness_m=0.45, photons=1_000_000)
        sun = Sun(true_to_place=False, azimuth_deg=180, altitude_deg=altitude)
        project, compiler = stages.project_of(
            [floor, surface], [dim, clear], view, sun=sun, sky=Sky(cie_type=12), settings=Stage(light_net=net)
        )
        film = render(project, "v", "o", 12, 12, 32, 1, TRUE, compiler=compiler)
        day = stages.scene_of(project, compiler).daylight
        from valleylight.core.trace.bsdf.surface import dielectric

        sine = float(np.sin(np.radians(altitude)))
        expected = day.sun_normal_lx * sine * (1 - dielectric(sine, 1.33))
        got = stages.incident_lx(film, "sun", 0.05)
        out.append(Outcome(f"sun at {altitude:g} degrees", expected, got, 0.05, "lx"))
    return out
