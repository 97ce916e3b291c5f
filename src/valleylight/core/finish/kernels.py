"""The per-pixel part of finishing, compiled: one pass over the picture for all treatments of a look.

Sources: tone curve: straight up to a knee, then a rational shoulder of matched slope that reaches 1 at the white point
(own); hue kept by scaling all channels alike; display encoding IEC 61966-2-1.
"""

from __future__ import annotations

import math

from valleylight.core.jit.compiled import kernel

MATRIX, TONE, CONTRAST, SATURATION = 1, 2, 3, 4
OPERATION_WIDTH = 12
ENCODE_STEPS = 4096
CURVE_STEPS = 1024


@kernel
def shoulder(x, knee, white):
    """Tone curve: x up to the knee, then rising to 1 at `white` with a slope that starts at 1 and falls."""
    if x <= knee:
        return x
    a = (white - knee) / (1.0 - knee)
    t = (x - knee) / (white - knee)
    return min(knee + (1.0 - knee) * a * t / (1.0 + (a - 1.0) * t), 1.0)


@kernel
def _tone(r, g, b, knee, white, toe):
    n = max(max(r, g), b)
    if n <= 0.0:
        return 0.0, 0.0, 0.0
    y = shoulder(n, knee, white)
    if toe > 0.0:
        y = y * y * (1.0 + toe) / (y + toe)
    s = y / n
    r, g, b = r * s, g * s, b * s
    if n > knee:
        # Highlights run to white along their own hue instead of breaking channel by channel.
        d = min((n - knee) / (white - knee), 1.0)
        d = d * d * (3.0 - 2.0 * d)
        r, g, b = r + (y - r) * d, g + (y - g) * d, b + (y - b) * d
    return r, g, b


@kernel
def _bend(curves, number, x):
    """Value of a tabulated curve over the square root of x, linear between the steps."""
    place = math.sqrt(min(max(x, 0.0), 1.0)) * CURVE_STEPS
    k = min(int(place), CURVE_STEPS - 1)
    t = place - k
    return (1.0 - t) * curves[number, k] + t * curves[number, k + 1]


@kernel
def apply_rows(source, operations, curves, result, first, last):
    """Run operations (K, 12) over rows first to last of a linear picture (H, W, 3), into `result` (H, W, 3).

    `curves` (K, CURVE_STEPS + 1) holds the curve of each operation that has one.
    """
    for y in range(first, last):
        for x in range(source.shape[1]):
            r, g, b = float(source[y, x, 0]), float(source[y, x, 1]), float(source[y, x, 2])
            for k in range(operations.shape[0]):
                kind = operations[k, 0]
                if kind == MATRIX:
                    r, g, b = (
                        operations[k, 1] * r + operations[k, 2] * g + operations[k, 3] * b,
                        operations[k, 4] * r + operations[k, 5] * g + operations[k, 6] * b,
                        operations[k, 7] * r + operations[k, 8] * g + operations[k, 9] * b,
                    )
                    r, g, b = max(r, 0.0), max(g, 0.0), max(b, 0.0)
                elif kind == TONE:
                    r, g, b = _tone(r, g, b, operations[k, 1], operations[k, 2], operations[k, 3])
                elif kind == CONTRAST:
                    r, g, b = _bend(curves, k, r), _bend(curves, k, g), _bend(curves, k, b)
                elif kind == SATURATION:
                    lum = 0.2126 * r + 0.7152 * g + 0.0722 * b
                    s = operations[k, 1]
                    r, g, b = (
                        max(lum + s * (r - lum), 0.0),
                        max(lum + s * (g - lum), 0.0),
                        max(lum + s * (b - lum), 0.0),
                    )
            result[y, x, 0], result[y, x, 1], result[y, x, 2] = r, g, b


@kernel
def encode_rows(source, table, result, first, last):
    """Display code values (uint8) of linear rows through a table of ENCODE_STEPS over the square root of the value."""
    for y in range(first, last):
        for x in range(source.shape[1]):
            for c in range(3):
                v = math.sqrt(min(max(source[y, x, c], 0.0), 1.0))
                result[y, x, c] = table[int(v * (ENCODE_STEPS - 1) + 0.5)]


@kernel
def mix_enlarged_rows(source, small, share, result, first, last):
    """(1 - share) source + share x the small picture enlarged bilinearly, for rows first to last."""
    height, width = source.shape[0], source.shape[1]
    sh, sw = small.shape[0], small.shape[1]
    for y in range(first, last):
        v = min(max((y + 0.5) * sh / height - 0.5, 0.0), sh - 1.0)
        y0 = int(v)
        y1 = min(y0 + 1, sh - 1)
        t = v - y0
        for x in range(width):
            u = min(max((x + 0.5) * sw / width - 0.5, 0.0), sw - 1.0)
            x0 = int(u)
            x1 = min(x0 + 1, sw - 1)
            s = u - x0
            for c in range(3):
                far = (1 - t) * ((1 - s) * small[y0, x0, c] + s * small[y0, x1, c]) + t * (
                    (1 - s) * small[y1, x0, c] + s * small[y1, x1, c]
                )
                result[y, x, c] = (1.0 - share) * source[y, x, c] + share * far
