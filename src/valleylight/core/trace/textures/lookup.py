"""Texture lookup: all pixels in one flat array, bilinear, repeating."""

from __future__ import annotations

import math

from valleylight.core.jit.compiled import kernel


@kernel
def _texel(pixels, offset, width, x, y):
    k = offset + 3 * (y * width + x)
    return pixels[k], pixels[k + 1], pixels[k + 2]


@kernel
def nearest(pixels, info, decode, number, u, v):
    """RGB of the texel of texture `number` that holds (u, v), as `lookup` without blending."""
    width, height = info[number, 1], info[number, 2]
    x, y = int((u - math.floor(u)) * width), int((v - math.floor(v)) * height)
    r, g, b = _texel(pixels, info[number, 0], width, min(x, width - 1), min(y, height - 1))
    return decode[r], decode[g], decode[b]


@kernel
def lookup(pixels, info, decode, number, u, v):
    """RGB of texture `number` at (u, v), v downwards as in glTF, through the 256-entry table `decode`."""
    offset, width, height = info[number, 0], info[number, 1], info[number, 2]
    x = (u - math.floor(u)) * width - 0.5
    y = (v - math.floor(v)) * height - 0.5
    xf, yf = math.floor(x), math.floor(y)
    s, t = x - xf, y - yf
    x0, y0 = int(xf), int(yf)
    if x0 < 0:
        x0 += width
    if y0 < 0:
        y0 += height
    x1 = x0 + 1 if x0 + 1 < width else 0
    y1 = y0 + 1 if y0 + 1 < height else 0
    a = _texel(pixels, offset, width, x0, y0)
    b = _texel(pixels, offset, width, x1, y0)
    c = _texel(pixels, offset, width, x0, y1)
    d = _texel(pixels, offset, width, x1, y1)
    wa, wb, wc, wd = (1 - s) * (1 - t), s * (1 - t), (1 - s) * t, s * t
    return (
        wa * decode[a[0]] + wb * decode[b[0]] + wc * decode[c[0]] + wd * decode[d[0]],
        wa * decode[a[1]] + wb * decode[b[1]] + wc * decode[c[1]] + wd * decode[d[1]],
        wa * decode[a[2]] + wb * decode[b[2]] + wc * decode[c[2]] + wd * decode[d[2]],
    )
