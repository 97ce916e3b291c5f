"""Kernels that lay a sky out on its sphere: the clear sky with its phase functions, and cloud layers over it."""

from __future__ import annotations

import math

from valleylight.core.jit.compiled import kernel
from valleylight.core.sky.cloudlight import ANSWER, lobe, see_layer
from valleylight.core.sky.constituents import ASYMMETRY

PI = math.pi


@kernel
def lay_clear(fields, sun_azimuth, sun_altitude, north, strength, frame, low, high, out):
    """Add the clear sky to rows `low` to `high` of `out` (R, C, 3), in cd/m2.

    Rows run upwards, columns clockwise from the model's north, whose azimuth is `north`, as `frame` has them (see `frames`); angles in
    radians. What lies below the horizon is left. Rayleigh's phase function 3 (1 + cos^2) / (16 pi) and Henyey-Greenstein's meet the two fields of single
    scattering. Colours outside the primaries are brought in, luminance kept.
    """
    columns = out.shape[1]
    cell, bottom, left = frame
    tall, wide = fields.shape[0], fields.shape[1]
    sx, sy, sz = (
        math.cos(sun_altitude) * math.sin(sun_azimuth),
        math.cos(sun_altitude) * math.cos(sun_azimuth),
        math.sin(sun_altitude),
    )
    for row in range(low, high):
        altitude = bottom + (row + 0.5) * cell
        if altitude <= 0.0:
            continue
        y = math.sqrt(altitude / (0.5 * PI)) * (tall - 1)
        y0 = min(int(y), tall - 2)
        t = y - y0
        for column in range(columns):
            azimuth = left + (column + 0.5) * cell + north
            turn = abs((azimuth - sun_azimuth + PI) % (2.0 * PI) - PI)
            x = turn / PI * (wide - 1)
            x0 = min(int(x), wide - 2)
            s = x - x0
            cosine = math.cos(altitude) * (math.sin(azimuth) * sx + math.cos(azimuth) * sy) + math.sin(altitude) * sz
            air = 3.0 / (16.0 * PI) * (1.0 + cosine * cosine)
            dust = lobe(ASYMMETRY, cosine)
            r, g, b = 0.0, 0.0, 0.0
            for q in range(3):
                w = air if q == 0 else dust if q == 1 else 1.0
                a00, a01, a10, a11 = w * (1 - t) * (1 - s), w * (1 - t) * s, w * t * (1 - s), w * t * s
                f = fields
                r += a00 * f[y0, x0, q, 0] + a01 * f[y0, x0 + 1, q, 0] + a10 * f[y0 + 1, x0, q, 0] + a11 * f[y0 + 1, x0 + 1, q, 0]  # fmt: skip
                g += a00 * f[y0, x0, q, 1] + a01 * f[y0, x0 + 1, q, 1] + a10 * f[y0 + 1, x0, q, 1] + a11 * f[y0 + 1, x0 + 1, q, 1]  # fmt: skip
                b += a00 * f[y0, x0, q, 2] + a01 * f[y0, x0 + 1, q, 2] + a10 * f[y0 + 1, x0, q, 2] + a11 * f[y0 + 1, x0 + 1, q, 2]  # fmt: skip
            before = 0.212639 * r + 0.7151687 * g + 0.0721923 * b
            r, g, b = max(r, 0.0), max(g, 0.0), max(b, 0.0)
            after = 0.212639 * r + 0.7151687 * g + 0.0721923 * b
            scale = strength * max(before, 0.0) / after if after > 0.0 else 0.0
            out[row, column, 0] += r * scale
            out[row, column, 1] += g * scale
            out[row, column, 2] += b * scale


@kernel
def lay_clouds(layer, light, haze, north, clear, frame, low, high, answer, out):
    """Lay one cloud layer over rows `low` to `high` of `out`; see `see_layer`. `clear` is the sky without clouds, `haze` how much of
    the light of its air is left below them, `answer` (10,) is scratch."""
    columns = out.shape[1]
    cell, bottom, left = frame
    in_haze = answer[ANSWER:]
    for row in range(low, high):
        altitude = bottom + (row + 0.5) * cell
        if altitude <= 0.0:
            continue
        for column in range(columns):
            azimuth = left + (column + 0.5) * cell + north
            # The first step is spread so that any 3 x 3 neighbours together hit all phases of a step (J. Jimenez, 2014,
            # interleaved gradient noise); their mean, taken afterwards, shows neither rings nor grain.
            luck = (52.9829189 * ((0.06711056 * column + 0.00583715 * row) % 1.0)) % 1.0
            for c in range(3):
                in_haze[c] = clear[row, column, c] * haze
            see_layer(layer, light, in_haze, altitude, azimuth, luck, cell, answer)
            for c in range(3):
                out[row, column, c] = answer[c] + answer[4 + c] + answer[3] * out[row, column, c]
