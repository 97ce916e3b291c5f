"""Kernels of scattering air against integrals done by scipy, and their samplers against their own densities.

Sources: Beer-Lambert's law; L. Henyey, J. Greenstein, 1941; C. Kulla, M. Fajardo, 2012 (equiangular).
"""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.integrate import quad

from valleylight.core.project import Air
from valleylight.core.trace.media import air as kernels
from valleylight.core.trace.sampling.sobol import hash32
from valleylight.core.trace.scene.tables import air_array

LOW, HIGH = np.array([-50.0, -50.0, 0.0]), np.array([50.0, 50.0, 30.0])
EVEN = Air(on=True, free_path_m=8.0)
FALLING = Air(on=True, free_path_m=4.0, base_height_m=1.5, fall_m=2.5)
BOX = Air(on=True, extent="box", low=(-2, -1, 0), high=(3, 4, 5), free_path_m=6.0, fall_m=3.0)
UNEVEN = FALLING.model_copy(update={"unevenness": 0.8, "uneven_size_m": 1.3, "drift": (0.3, -0.2, 0.1)})
SEEDS = np.arange(20_000, dtype=np.uint32)


def array(air: Air) -> np.ndarray:
    return air_array(air, LOW, HIGH)


def unit(x: float, y: float, z: float) -> tuple[float, float, float]:
    length = math.sqrt(x * x + y * y + z * z)
    return x / length, y / length, z / length


RAYS = {
    "level": ((0.0, 0.0, 2.0), (1.0, 0.0, 0.0)), "up from below the base": ((0.0, 0.0, 0.2), unit(1, 0, 2)),
    "down through the base": ((0.0, 0.0, 6.0), unit(0.2, 1, -1)), "down above it": ((0.0, 0.0, 9.0), unit(3, 0, -1)),
    "straight up": ((0.5, 0.5, 0.0), (0.0, 0.0, 1.0)), "nearly level": ((0.0, 0.0, 3.0), unit(1, 0, 1e-9)),
}  # fmt: skip


def density(air: Air, z: float) -> float:
    """Extinction per metre, as the description means it: even up to the base, then falling."""
    above = max(z - air.base_height_m, 0.0)
    return math.exp(-above / air.fall_m if air.fall_m else 0.0) / air.free_path_m


@pytest.mark.parametrize("air", [EVEN, FALLING], ids=["even", "falling"])
@pytest.mark.parametrize("name", RAYS)
def test_optical_depth_is_the_integral_of_density(air, name):
    (_, _, oz), (_, _, dz) = RAYS[name]
    for t0, t1 in ((0.0, 7.0), (1.2, 1.3), (2.0, 40.0), (3.0, 3.0), (5.0, 2.0)):
        points = [(air.base_height_m - oz) / dz] if abs(dz) > 1e-6 else None
        expected = quad(lambda t, dz=dz, oz=oz: density(air, oz + t * dz), t0, t1, points=points)[0] if t1 > t0 else 0.0
        assert kernels.depth(array(air), oz, dz, t0, t1) == pytest.approx(expected, rel=1e-6, abs=1e-12)


@pytest.mark.parametrize("air", [EVEN, FALLING], ids=["even", "falling"])
@pytest.mark.parametrize("name", RAYS)
def test_reach_is_the_inverse_of_depth(air, name):
    (_, _, oz), (_, _, dz) = RAYS[name]
    a = array(air)
    for t0, t1 in ((0.0, 12.0), (0.5, 3.0)):
        whole = kernels.depth(a, oz, dz, t0, t1)
        for share in (0.0, 0.01, 0.3, 0.77, 0.999):
            t = kernels.reach(a, oz, dz, t0, t1, share * whole)
            assert t0 <= t <= t1
            assert kernels.depth(a, oz, dz, t0, t) == pytest.approx(share * whole, abs=1e-8 + 1e-6 * whole)
        assert kernels.reach(a, oz, dz, t0, t1, whole * 1.01 + 1e-9) == t1


@pytest.mark.parametrize(("origin", "towards"), [
    ((-9.0, 0.0, 1.0), (1.0, 0.0, 0.0)), ((0.0, 0.0, 1.0), unit(1, 2, 3)), ((0.0, 9.0, 1.0), (1.0, 0.0, 0.0)),
    ((9.0, 9.0, 9.0), unit(-1, -1, -1)), ((0.0, 0.0, 20.0), (0.0, 0.0, 1.0)),
])  # fmt: skip
def test_a_ray_is_clipped_to_the_box(origin, towards):
    t0, t1 = kernels.clip(array(BOX), *origin, *towards, 100.0)
    steps = np.linspace(0, 100, 200_001)
    places = np.array(origin) + steps[:, None] * np.array(towards)
    inside = steps[((places >= BOX.low) & (places <= BOX.high)).all(1)]
    if len(inside) == 0:
        assert t1 <= t0
    else:
        assert (t0, t1) == pytest.approx((inside[0], inside[-1]), abs=1e-3)


@pytest.mark.parametrize("name", ["level", "up from below the base", "down through the base"])
def test_uneven_air_passes_what_its_integral_says_in_the_mean(name):
    """Ratio tracking is unbiased: its mean is exp of minus the integral of the density at hand; so is the share of free flights
    that get through."""
    origin, towards = RAYS[name]
    a, far = array(UNEVEN), 6.0

    def extinction(t: float) -> float:
        x, y, z = (o + t * d for o, d in zip(origin, towards, strict=True))
        return density(UNEVEN, z) * (1.0 + 0.8 * kernels.swing(a, x, y, z))

    steps = (np.arange(4000) + 0.5) / 4000 * far
    expected = math.exp(-sum(extinction(t) for t in steps) * far / 4000)
    seeds = [hash32(seed) for seed in SEEDS]
    passed = np.array([kernels.transmittance(a, *origin, *towards, far, seed) for seed in seeds])
    assert passed.mean() == pytest.approx(expected, abs=4 * passed.std() / math.sqrt(len(passed)))
    flights = np.array([kernels.free_flight(a, *origin, *towards, 0.0, far, seed) for seed in seeds])
    through = (flights < 0).mean()
    assert through == pytest.approx(expected, abs=4 * math.sqrt(expected / len(flights)))
    assert flights.max() <= far


def test_free_flights_in_even_air_are_exponential():
    a = array(EVEN)
    flights = np.array([kernels.free_flight(a, 0.0, 0.0, 2.0, 1.0, 0.0, 0.0, 0.0, 40.0, hash32(s)) for s in SEEDS])
    met = flights[flights >= 0]
    for far in (1.0, 4.0, 8.0, 20.0):
        expected = 1 - math.exp(-far / 8.0)
        assert (met < far).sum() / len(flights) == pytest.approx(expected, abs=0.015)


@pytest.mark.parametrize(
    ("forward", "back", "share"), [(0.0, 0.0, 0.0), (0.6, 0.2, 0.1), (0.95, 0.9, 0.5), (0.3, 0.0, 1.0)]
)
def test_the_phase_function_holds_all_light_and_has_its_mean_cosine(forward, back, share):
    """Henyey-Greenstein lobes integrate to 1 over the sphere; their mean cosine is g, here (1 - s) g1 - s g2."""
    a = array(EVEN.model_copy(update={"forward": forward, "back": back, "back_share": share}))
    # `phase` takes the cosine between the ways to viewer and light: -1 straight on.
    whole = quad(lambda c: 2 * math.pi * kernels.phase(a, -c), -1, 1, limit=200)[0]
    mean = quad(lambda c: 2 * math.pi * c * kernels.phase(a, -c), -1, 1, limit=200)[0]
    assert whole == pytest.approx(1, abs=1e-6)
    assert mean == pytest.approx((1 - share) * forward - share * back, abs=1e-6)


@pytest.mark.parametrize("towards", [(0.0, 0.0, 1.0), (0.0, 0.0, -1.0), unit(1, 2, 2), unit(-3, 1, -0.2)])
def test_directions_are_drawn_as_the_phase_function_says(towards):
    a = array(EVEN.model_copy(update={"forward": 0.7, "back": 0.4, "back_share": 0.25}))
    rng = np.random.default_rng(5)
    drawn = np.array([kernels.sample_phase(a, *towards, *uv) for uv in rng.random((20_000, 2))])
    assert np.linalg.norm(drawn, axis=1) == pytest.approx(np.ones(len(drawn)), abs=1e-9)
    cosine = drawn @ towards
    edges = np.linspace(-1, 1, 9)
    counts = np.histogram(cosine, edges)[0] / len(cosine)
    for low, high, share in zip(edges, edges[1:], counts, strict=False):
        expected = quad(lambda c: 2 * math.pi * kernels.phase(a, -c), low, high)[0]
        assert share == pytest.approx(expected, abs=0.012)
    # Nothing leans to a side: the part across the way has no mean.
    across = drawn - cosine[:, None] * np.array(towards)
    assert np.abs(across.mean(0)).max() < 0.012


@pytest.mark.parametrize(("light", "t0", "t1"), [
    ((2.0, 1.0, 0.0), 0.0, 10.0), ((-3.0, 0.5, 0.0), 0.0, 4.0), ((5.0, 0.01, 0.0), 2.0, 9.0), ((1.0, 30.0, 5.0), 0.0, 1.0),
])  # fmt: skip
def test_equiangular_places_have_the_density_that_is_stated(light, t0, t1):
    ray = (0.0, 0.0, 0.0, 1.0, 0.0, 0.0)
    whole = quad(
        lambda t: kernels.equiangular_density(*light, *ray, t0, t1, t), t0, t1, points=[min(max(light[0], t0), t1)]
    )[0]
    assert whole == pytest.approx(1, abs=1e-6)
    for u in np.linspace(0.02, 0.98, 13):
        t, stated = kernels.equiangular(*light, *ray, t0, t1, u)
        assert stated == pytest.approx(kernels.equiangular_density(*light, *ray, t0, t1, t), rel=1e-9)
        below = quad(
            lambda s: kernels.equiangular_density(*light, *ray, t0, t1, s), t0, t, points=[min(max(light[0], t0), t)]
        )[0]
        assert below == pytest.approx(u, abs=1e-6)
