"""Kernels of the clear atmosphere: single scattering with its phase, multiple scattering order by order.

Light scattered once keeps its direction: Rayleigh's and Henyey-Greenstein's phase functions. Light scattered again is
followed order by order through the curved shell (B. Hapke's successive orders; J. Lenoble, Atmospheric Radiative Transfer,
1993, chapter 6), each order being taken as the mean over all directions at a height and a sun altitude. Once scattered,
light meets aerosol with its transport coefficients (similarity relation: what goes straight on has not been scattered).
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.sky.constituents import (
    AEROSOL_HEIGHT_M,
    AIR_STEP_M,
    EARTH_M,
    LOG_AIR,
    OZONE_HALF_M,
    OZONE_PEAK_M,
    TOP_M,
)

PI = math.pi
#: Sun altitudes of the table of mean radiance: denser near the horizon, from LOWEST to 90 degrees.
LOWEST = math.radians(-27.0)
SPLIT = 0.45  # share of the nodes below the horizon
SUN_RADIUS = math.radians(0.2666)


@part
def node_of(altitude, count):
    """Fractional node of a sun altitude in radians among `count`."""
    if altitude < 0.0:
        x = SPLIT * (1.0 - math.sqrt(min(altitude / LOWEST, 1.0)))
    else:
        x = SPLIT + (1.0 - SPLIT) * math.sqrt(min(altitude / (0.5 * PI), 1.0))
    return x * (count - 1)


@part
def densities(height):
    """Air, aerosol and ozone at a height in m, relative to ground and peak."""
    h = max(height, 0.0)
    x = min(h / AIR_STEP_M, LOG_AIR.shape[0] - 1.001)
    k = int(x)
    return (
        math.exp(LOG_AIR[k] + (x - k) * (LOG_AIR[k + 1] - LOG_AIR[k])),
        math.exp(-h / AEROSOL_HEIGHT_M),
        max(1.0 - abs(h - OZONE_PEAK_M) / OZONE_HALF_M, 0.0),
    )


@kernel
def sun_columns(table, height, cosine):
    """Columns of air, aerosol and ozone towards the sun at the zenith angle of `cosine`, and the share of its disc
    above the ground's horizon."""
    heights, angles = table.shape[0], table.shape[1]
    h = min(max(height, 0.0), TOP_M - EARTH_M - 1.0)
    dip = math.acos(EARTH_M / (EARTH_M + h))
    above = math.asin(min(max(cosine, -1.0), 1.0)) + dip
    seen = min(max((above + SUN_RADIUS) / (2.0 * SUN_RADIUS), 0.0), 1.0)
    if seen <= 0.0:
        return 0.0, 0.0, 0.0, 0.0
    i = math.sqrt(h / (TOP_M - EARTH_M)) * (heights - 1)
    j = math.sqrt(min(max(above, 0.0) / (0.5 * PI + dip), 1.0)) * (angles - 1)
    i0, j0 = min(int(i), heights - 2), min(int(j), angles - 2)
    s, t = i - i0, j - j0
    a, b, c, d = (1 - s) * (1 - t), (1 - s) * t, s * (1 - t), s * t
    return (
        math.exp(a * table[i0, j0, 0] + b * table[i0, j0 + 1, 0] + c * table[i0 + 1, j0, 0] + d * table[i0 + 1, j0 + 1, 0]),
        math.exp(a * table[i0, j0, 1] + b * table[i0, j0 + 1, 1] + c * table[i0 + 1, j0, 1] + d * table[i0 + 1, j0 + 1, 1]),
        math.exp(a * table[i0, j0, 2] + b * table[i0, j0 + 1, 2] + c * table[i0 + 1, j0, 2] + d * table[i0 + 1, j0 + 1, 2]),
        seen,
    )  # fmt: skip


@part
def to_boundary(radius, cosine):
    """Length in m of a ray to the ground or the top of the atmosphere, and whether it meets the ground."""
    b = radius * cosine
    c = b * b - radius * radius + EARTH_M * EARTH_M
    if cosine < 0.0 and c > 0.0:
        return max(-b - math.sqrt(c), 0.0), True
    return -b + math.sqrt(max(b * b - radius * radius + TOP_M * TOP_M, 0.0)), False


@part
def mean_at(mean, height, altitude, w):
    """Mean radiance at a height and sun altitude, wavelength w; bilinear in (H, S, W)."""
    heights, nodes = mean.shape[0], mean.shape[1]
    i = math.sqrt(min(max(height, 0.0) / (TOP_M - EARTH_M), 1.0)) * (heights - 1)
    j = node_of(altitude, nodes)
    i0, j0 = min(int(i), heights - 2), min(int(j), nodes - 2)
    s, t = i - i0, j - j0
    return (1 - s) * ((1 - t) * mean[i0, j0, w] + t * mean[i0, j0 + 1, w]) + s * (
        (1 - t) * mean[i0 + 1, j0, w] + t * mean[i0 + 1, j0 + 1, w]
    )


class Medium(NamedTuple):
    """The air as light meets it, per metre at the ground, by wavelength (W)."""

    columns: NDArray[np.float64]  # table of columns to the sun, see `sun_columns`
    extinct: NDArray[np.float64]  # (3, W) of direct light by air, aerosol and ozone
    transport: NDArray[np.float64]  # (3, W) of diffuse light
    scattering: NDArray[np.float64]  # (2, W) of air and (transport) aerosol


class Directions(NamedTuple):
    """Sun altitudes (S,) of a table; cosines from the zenith (C,) with their weights, and turns from the sun's azimuth (T,)."""

    altitudes: NDArray[np.float64]
    cosines: NDArray[np.float64]
    weights: NDArray[np.float64]
    turns: NDArray[np.float64]


@kernel
def next_order(medium, sun, albedo, first, mean, ground, directions, low, high, work, new_mean, new_ground):
    """One more order of scattering, for heights `low` to `high` of the table.

    `sun` (W,) irradiance; `mean` (H, S, W) and `ground` (S, W), W/(m2 sr nm) and W/(m2 nm), are the order before (the
    direct sun where `first`); `work` (STEPS, 6 + W) is scratch. Fills `new_mean` and, at the ground, `new_ground`.
    """
    table, extinct, transport, scattering = medium
    altitudes, cosines, weights, turns = directions
    heights, nodes, waves, steps = mean.shape[0], mean.shape[1], mean.shape[2], work.shape[0]
    for i in range(low, high):
        radius = EARTH_M + min((TOP_M - EARTH_M) * (i / (heights - 1)) ** 2, TOP_M - EARTH_M - 1.0)
        for j in range(nodes):
            for w in range(waves):
                new_mean[i, j, w] = 0.0
                if i == 0:
                    new_ground[j, w] = 0.0
        for k in range(cosines.shape[0]):
            c = cosines[k]
            flat = math.sqrt(1.0 - c * c)
            length, lands = to_boundary(radius, c)
            for w in range(waves):
                work[0, 6 + w] = 1.0
            d0, d1, d2 = 0.0, 0.0, 0.0
            for n in range(steps):
                e0, e1 = (n / steps) ** 2 * length, ((n + 1) / steps) ** 2 * length
                t, dt = 0.5 * (e0 + e1), e1 - e0
                r = math.sqrt(radius * radius + t * t + 2.0 * t * radius * c)
                a, m, o = densities(r - EARTH_M)
                work[n, 0], work[n, 1], work[n, 2], work[n, 3], work[n, 4] = t, r, a * dt, m * dt, dt
                for w in range(waves):
                    depth = (
                        (d0 + 0.5 * a * dt) * transport[0, w]
                        + (d1 + 0.5 * m * dt) * transport[1, w]
                        + (d2 + 0.5 * o * dt) * transport[2, w]
                    )
                    work[n, 6 + w] = math.exp(-depth)
                d0, d1, d2 = d0 + a * dt, d1 + m * dt, d2 + o * dt
            for j in range(nodes):
                sx, sz = math.cos(altitudes[j]), math.sin(altitudes[j])
                for p in range(turns.shape[0]):
                    across = flat * math.cos(turns[p])
                    share = weights[k] / turns.shape[0]
                    for n in range(steps + (1 if lands else 0)):
                        on_ground = n == steps
                        t = length if on_ground else work[n, 0]
                        r = EARTH_M if on_ground else work[n, 1]
                        cosine = (t * across * sx + (radius + t * c) * sz) / r
                        height = r - EARTH_M
                        if first:
                            ca, cm, co, seen = sun_columns(table, height, cosine)
                            if seen <= 0.0:
                                continue
                            for w in range(waves):
                                light = sun[w] * seen * math.exp(
                                    -ca * extinct[0, w] - cm * extinct[1, w] - co * extinct[2, w]
                                )  # fmt: skip
                                if on_ground:
                                    light *= albedo / PI * max(cosine, 0.0) * math.exp(
                                        -d0 * transport[0, w] - d1 * transport[1, w] - d2 * transport[2, w]
                                    )  # fmt: skip
                                else:
                                    light *= work[n, 6 + w] / (4.0 * PI) * (
                                        work[n, 2] * scattering[0, w] + work[n, 3] * scattering[1, w]
                                    )  # fmt: skip
                                new_mean[i, j, w] += share * light
                                if i == 0 and c > 0.0:
                                    new_ground[j, w] += 4.0 * PI * share * c * light
                            continue
                        altitude = math.asin(min(max(cosine, -1.0), 1.0))
                        for w in range(waves):
                            if on_ground:
                                x = node_of(altitude, nodes)
                                x0 = min(int(x), nodes - 2)
                                light = ((1.0 - x + x0) * ground[x0, w] + (x - x0) * ground[x0 + 1, w]) * albedo / PI
                                light *= math.exp(
                                    -d0 * transport[0, w] - d1 * transport[1, w] - d2 * transport[2, w]
                                )  # fmt: skip
                            else:
                                light = mean_at(mean, height, altitude, w) * work[n, 6 + w] * (
                                    work[n, 2] * scattering[0, w] + work[n, 3] * scattering[1, w]
                                )  # fmt: skip
                            new_mean[i, j, w] += share * light
                            if i == 0 and c > 0.0:
                                new_ground[j, w] += 4.0 * PI * share * c * light


@kernel
def gather_fields(medium, full, sun, mean, height, altitude, turns, sun_altitude, steps, to_rgb, out):
    """Radiance of the sky seen from a height, before the phase functions.

    `full` (W,) is the aerosol's whole scattering, for light met for the first time. Fills `out` (A, T, 3, 3): parts
    scattered once by air, once by aerosol, and more than once; each as luminance-scaled RGB.
    """
    table, extinct, transport, scattering = medium
    waves = sun.shape[0]
    radius = EARTH_M + height
    sx, sz = math.cos(sun_altitude), math.sin(sun_altitude)
    for i in range(altitude.shape[0]):
        c = math.sin(altitude[i])
        length, _ = to_boundary(radius, c)
        for p in range(turns.shape[0]):
            across = math.cos(altitude[i]) * math.cos(turns[p])
            for q in range(3):
                for col in range(3):
                    out[i, p, q, col] = 0.0
            d0, d1, d2 = 0.0, 0.0, 0.0
            for n in range(steps):
                e0, e1 = (n / steps) ** 2 * length, ((n + 1) / steps) ** 2 * length
                t, dt = 0.5 * (e0 + e1), e1 - e0
                r = math.sqrt(radius * radius + t * t + 2.0 * t * radius * c)
                a, m, o = densities(r - EARTH_M)
                cosine = (t * across * sx + (radius + t * c) * sz) / r
                ca, cm, co, seen = sun_columns(table, r - EARTH_M, cosine)
                local = math.asin(min(max(cosine, -1.0), 1.0))
                for w in range(waves):
                    depth = (
                        (d0 + 0.5 * a * dt) * transport[0, w]
                        + (d1 + 0.5 * m * dt) * transport[1, w]
                        + (d2 + 0.5 * o * dt) * transport[2, w]
                    )
                    through = math.exp(-depth) * dt
                    once = 0.0
                    if seen > 0.0:
                        once = through * sun[w] * seen * math.exp(
                            -ca * extinct[0, w] - cm * extinct[1, w] - co * extinct[2, w]
                        )  # fmt: skip
                    again = through * mean_at(mean, r - EARTH_M, local, w) * (
                        a * scattering[0, w] + m * scattering[1, w]
                    )  # fmt: skip
                    for col in range(3):
                        out[i, p, 0, col] += once * a * scattering[0, w] * to_rgb[w, col]
                        out[i, p, 1, col] += once * m * full[w] * to_rgb[w, col]
                        out[i, p, 2, col] += again * to_rgb[w, col]
                d0, d1, d2 = d0 + a * dt, d1 + m * dt, d2 + o * dt
