"""What air takes away and what it scatters."""

from __future__ import annotations

import numpy as np
from scipy.integrate import quad

from valleylight.core.project import Sky, Sun, View
from valleylight.core.project.air import Air
from valleylight.core.stage import Material
from valleylight.core.trace.media import air as kernels
from valleylight.core.trace.render import render
from valleylight.core.trace.scene.quality import TRUE
from valleylight.core.trace.scene.tables import air_array
from valleylight.validation import stages
from valleylight.validation.case import Outcome, case

ORIGIN, FAR_CORNER = np.zeros(3), np.full(3, 100.0)


@case("Extinction", "Beer-Lambert law, L exp(-s d), of a bright wall behind fog that only absorbs")
def absorbing() -> list[Outcome]:
    wall = stages.quad([(-20, 10, -20), (-20, 10, 20), (20, 10, 20), (20, 10, -20)], 0)
    bright = Material(base=(0, 0, 0), specular=0.0, emission=(1000.0,) * 3)
    out = []
    for path in (5.0, 20.0):
        view = View(key="v", name="v", position=(0, 0, 0), target=(0, 10, 0.0), focal_mm=400)
        fog = Air(on=True, free_path_m=path, colour=(0, 0, 0))
        project, compiler = stages.project_of([wall], [bright], view, air=fog)
        film = render(project, "v", "o", 8, 8, 512, 1, TRUE, compiler=compiler)
        out.append(Outcome(f"10 m at a free path of {path:g} m", 1000 * np.exp(-10 / path),
                           float(stages.luminance(film, "surfaces").mean()), 0.02, "cd/m2"))  # fmt: skip
    return out


@case("Height-falling density", "optical depth and its inverse against quadrature (scipy)")
def falling() -> list[Outcome]:
    row = air_array(Air(on=True, free_path_m=30, base_height_m=2.0, fall_m=5.0), ORIGIN, FAR_CORNER)
    out = []
    for z, dz in ((0.0, 0.6), (12.0, -0.5), (4.0, 0.0)):
        expected = quad(lambda t, z=z, dz=dz: np.exp(-max(z + dz * t - 2.0, 0) / 5.0) / 30, 0, 24, points=[10])[0]
        out.append(
            Outcome(f"depth from {z:g} m, climbing {dz:g}", expected, kernels.depth(row, z, dz, 0.0, 24.0), 1e-4)
        )
        out.append(Outcome("its inverse", 24.0, kernels.reach(row, z, dz, 0.0, 30.0, expected), 1e-3, "m"))
    return out


@case("Uneven fog", "ratio tracking keeps the mean: E[T] against quadrature of the same noise (scipy)")
def uneven() -> list[Outcome]:
    row = air_array(Air(on=True, free_path_m=4, unevenness=1.0, uneven_size_m=0.7), ORIGIN, FAR_CORNER)

    def density(t: float) -> float:
        return (1 + kernels.swing(row, 0.3, 0.2 + t, 0.9)) / 4

    expected = np.exp(-quad(density, 0, 6, limit=400)[0])
    got = np.mean(
        [kernels.transmittance(row, 0.3, 0.2, 0.9, 0.0, 1.0, 0.0, 6.0, np.uint32(k * 7919)) for k in range(20000)]
    )
    return [Outcome("6 m at a free path of 4 m", float(expected), float(got), 0.02)]


@case("Phase function", "Henyey-Greenstein, 1941: integrates to one, mean cosine g; sampled as it is evaluated")
def phase() -> list[Outcome]:
    row = air_array(Air(on=True, forward=0.6, back=0.3, back_share=0.25), ORIGIN, FAR_CORNER)
    whole = quad(lambda c: 2 * np.pi * kernels.phase(row, -c), -1, 1)[0]
    mean = quad(lambda c: 2 * np.pi * c * kernels.phase(row, -c), -1, 1)[0]
    u = (np.arange(60) + 0.5) / 60
    drawn = [kernels.sample_phase(row, 0.0, 0.6, 0.8, a, b) for a in u for b in u]
    cosines = np.array(drawn) @ np.array([0.0, 0.6, 0.8])
    return [
        Outcome("integral", 1.0, whole, 1e-6),
        Outcome("mean cosine", 0.75 * 0.6 - 0.25 * 0.3, mean, 1e-6),
        Outcome("mean cosine of samples", 0.75 * 0.6 - 0.25 * 0.3, float(cosines.mean()), 0.01),
    ]


@case(
    "Cone of a fixture in fog",
    "single scattering: integral of s p I / d^2 exp(-s (t + d)) along the ray, by quadrature (scipy)",
)
def lamp_in_fog() -> list[Outcome]:
    path, intensity = 12.0, 800.0
    view = View(key="v", name="v", position=(0, -5, 0), target=(0, 5, 0), focal_mm=1200)
    wall = stages.quad([(-20, 6, -20), (-20, 6, 20), (20, 6, 20), (20, 6, -20)], 0)
    fog = Air(on=True, free_path_m=path, colour=(0.9, 0.9, 0.9), forward=0.5, back_share=0.0, multiple=False)
    fixtures, kinds = stages.lamp((1.0, 0, 0.5), (1.0, 0, -2))
    project, compiler = stages.project_of(
        [wall], [stages.BLACK], view, fixtures, kinds, stages.even(intensity), air=fog
    )
    film = render(project, "v", "o", 8, 8, 512, 1, TRUE, compiler=compiler)
    away = np.hypot(1.0, 0.5)

    def part(t: float) -> float:
        gap = 5.0 - t
        d = np.hypot(gap, away)
        # The ray runs along +y; light goes on towards the lens, along -y, and has come from the fixture.
        p = (1 - 0.25) / (4 * np.pi * (1 + 0.25 - 2 * 0.5 * gap / d) ** 1.5)
        return 0.9 / path * p * intensity / d**2 * np.exp(-(t + d) / path)

    expected = quad(part, 0, 11, points=[5])[0]
    beam, kinds = stages.lamp((1.0, 0, 0.5), (1.0, 0, -2), beam=0.05)
    project, compiler = stages.project_of([wall], [stages.BLACK], view, beam, kinds, stages.even(intensity))
    clear = render(project, "v", "o", 8, 8, 256, 1, TRUE, compiler=compiler)
    shown = quad(lambda t: 0.05 / (4 * np.pi) * intensity / ((5 - t) ** 2 + away**2), 0, 11, points=[5])[0]
    return [
        Outcome("fog everywhere", expected, float(stages.luminance(film, "G").mean()), 0.02, "cd/m2"),
        Outcome("air in the beam alone", shown, float(stages.luminance(clear, "G").mean()), 0.02, "cd/m2"),
    ]


@case(
    "Shaft of sun",
    "single scattering of sun through a slot: s p E exp(-s (t + h)) over the lit part of the ray (quadrature)",
)
def shaft() -> list[Outcome]:
    """Sun in the zenith through a slot 2 m wide, 3 m above a level ray that crosses the lit part."""
    path = 15.0
    roof = stages.holed((-30, -30), (30, 30), (-30, -1, 30, 1), lambda x, y: (x, y, 3.0), 0)
    end = stages.quad([(-20, 9, -20), (-20, 9, 20), (20, 9, 20), (20, 9, -20)], 0)
    view = View(key="v", name="v", position=(0, -6, 0), target=(0, 6, 0), focal_mm=1200)
    fog = Air(on=True, extent="box", low=(-30, -30, -5), high=(30, 30, 3), free_path_m=path, colour=(1, 1, 1), forward=0.0,
              back_share=0.0, multiple=False)  # fmt: skip
    sun = Sun(true_to_place=False, azimuth_deg=180, altitude_deg=90)
    project, compiler = stages.project_of([*roof, end], [stages.BLACK], view, sun=sun, sky=Sky(cie_type=12), air=fog)
    film = render(project, "v", "o", 8, 8, 512, 1, TRUE, compiler=compiler)
    day = stages.scene_of(project, compiler).daylight
    expected = quad(lambda t: day.sun_normal_lx / (4 * np.pi) / path * np.exp(-(t + 3) / path), 5, 7)[0]
    return [Outcome("luminance of the shaft", expected, float(stages.luminance(film, "sun").mean()), 0.02, "cd/m2")]
