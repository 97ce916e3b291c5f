"""What lies on a surface where it is met: snow, a film of water, a puddle; looked up in the layers that were found for the place.

A node of the table holds up to four surfaces one above the other: height in m, depth of snow in m, wetness 0 to 1, depth
of standing water in m, share covered by fallen leaves and their colour. A vertex asks the nearest nodes for the surface at its own height. What stands between them, as
leaves and thin rails, is open where nothing stands over it.
"""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.records import Paint
from valleylight.core.trace.bsdf import albedo, surface
from valleylight.core.trace.sampling.sobol import hash32
from valleylight.core.trace.textures.pattern import noise, turbulence
from valleylight.core.weather.wet import WATER, drinks, under_water

U32, F64, I64 = np.uint32, np.float64, np.int64
NONE = -1.0e9
#: So much snow covers a surface; so much water lies smooth, in metres.
COVERING_M, SMOOTH_M = 0.006, 0.0025
#: GGX width of a film of water on a rough surface, and of standing water.
FILM_ALPHA, WATER_ALPHA = 0.035, 0.0004


@part
def slides(up):
    """Share of snow that stays on a slope whose normal rises by `up`: all of it below 32 degrees, none above 58 (common practice:
    snow avalanches off slopes of 35 to 55 degrees)."""
    t = min(max((up - 0.5299) / (0.8480 - 0.5299), 0.0), 1.0)
    return t * t * (3.0 - 2.0 * t)


@kernel
def _asked(table, w, first, x, y, z, up):
    """Snow in m, wetness, water in m at a place, and how far the table knows of it, 0 to 1."""
    nodes = table.shape[0]
    fx, fy = (x - w[first]) * w[first + 2], (y - w[first + 1]) * w[first + 2]
    if fx < 0.0 or fy < 0.0 or fx >= nodes - 1 or fy >= nodes - 1:
        return 0.0, 0.0, 0.0, 0.0, 1.0
    i, j = int(fx), int(fy)
    fx, fy = fx - i, fy - j
    snow, wet, water, known, under = 0.0, 0.0, 0.0, 0.0, 0.0
    reach = 0.08 + 1.2 * math.sqrt(max(1.0 - up * up, 0.0)) / max(up, 0.2) / w[first + 2]
    for corner in range(4):
        u, v = i + (corner & 1), j + (corner >> 1)
        share = (fx if corner & 1 else 1.0 - fx) * (fy if corner >> 1 else 1.0 - fy)
        best, which = reach, -1
        for level in range(table.shape[2]):
            away = abs(table[v, u, level, 0] - z)
            if away < best:
                best, which = away, level
        if table[v, u, 0, 0] > z + 0.25:
            under += share
        if which >= 0:
            known += share
            snow += share * table[v, u, which, 1]
            wet += share * table[v, u, which, 2]
            water += share * table[v, u, which, 3]
    if known > 0.0:
        snow, wet, water = snow / known, wet / known, water / known
    return snow, wet, water, known, 1.0 - under


@part
def _leaf_at(x, y, size, seed):
    """A leaf of a scatter of leaves at a place: a number of its own from 0 to 1, below zero between leaves. One lies in each cell of a
    grid, somewhere and turned somehow."""
    ix, iy = math.floor(x / size), math.floor(y / size)
    h = hash32(U32(U32(I64(ix)) * U32(0x8DA6B343) + U32(I64(iy)) * U32(0xD8163841) + U32(seed)))
    a = (h & U32(255)) / 255.0 * 6.2832
    u, v = x / size - ix - 0.5 - 0.16 * math.cos(3.0 * a), y / size - iy - 0.5 - 0.16 * math.sin(5.0 * a)
    p, q = u * math.cos(a) + v * math.sin(a), v * math.cos(a) - u * math.sin(a)
    if (p / 0.46) ** 2 + (q / 0.27) ** 2 > 1.0:
        return -1.0
    return (h >> U32(8)) / 16777216.0


@kernel
def leaves_over(scene, vertex, r, g, b):
    """Colour of the ground, or of a leaf that lies on it."""
    w, x, y = scene.weather, vertex.x, vertex.y
    table, first = scene.lying, layout.WEATHER_NEAR
    i, j = int((x - w[first]) * w[first + 2] + 0.5), int((y - w[first + 1]) * w[first + 2] + 0.5)
    if i < 0 or j < 0 or i >= table.shape[0] or j >= table.shape[0] or table.shape[0] < 2:
        table, first = scene.lying_far, layout.WEATHER_FAR
        i, j = int((x - w[first]) * w[first + 2] + 0.5), int((y - w[first + 1]) * w[first + 2] + 0.5)
        if i < 0 or j < 0 or i >= table.shape[0] or j >= table.shape[0]:
            return r, g, b
    best, which = 0.3, -1
    for level in range(table.shape[2]):
        away = abs(table[j, i, level, 0] - vertex.z)
        if away < best:
            best, which = away, level
    if which < 0 or table[j, i, which, 4] <= 0.0:
        return r, g, b
    share = F64(table[j, i, which, 4])
    for scatter in range(3):  # one over the other
        luck = _leaf_at(x + 0.37 * scatter, y - 0.23 * scatter, 0.075 + 0.012 * scatter, U32(77 + scatter))
        if 0.0 <= luck < share:
            light = 0.65 + 0.7 * luck / share
            r, g, b = (
                light * table[j, i, which, 5],
                (0.85 + 0.3 * luck / share) * light * table[j, i, which, 6],
                light * table[j, i, which, 7],
            )
    return r, g, b


@kernel
def lying(scene, vertex):
    """Snow in m, wetness 0 to 1, and standing water in m at a vertex, by its facet; far off, where facets are large, by its shading normal."""
    w = scene.weather
    up = vertex.gz
    x, y, z = vertex.x, vertex.y, vertex.z
    snow, wet, water, known, bare = _asked(scene.lying, w, layout.WEATHER_NEAR, x, y, z, up)
    if known < 0.25:
        snow, wet, water, known, far = _asked(scene.lying_far, w, layout.WEATHER_FAR, x, y, z, up)
        bare = min(bare, far)
    stays = slides(up)
    if known < 0.25:
        # Ledges and hollows hold snow on far slopes that are steep as a whole.
        held = 0.5 + 0.5 * turbulence(0.03 * x, 0.03 * y, 0.06 * z, I64(3))
        stays = max(stays, min(max((vertex.nz - 0.25 - 0.4 * (1.0 - held)) * 2.5, 0.0), 1.0))
    snow = min(snow, w[layout.WEATHER_SNOW] * stays)
    if known < 0.25:
        if bare > 0.5 and w[layout.WEATHER_BARE] > -1.0:
            s = 1.0 / w[layout.WEATHER_PATCH]
            stays *= 1.0 if turbulence(s * x, s * y, 0.0, I64(3)) > w[layout.WEATHER_BARE] else 0.0
        # How deep it is cannot be seen there; how much of the ground it covers can.
        snow = min(w[layout.WEATHER_SNOW], COVERING_M) * stays * bare
        wet, water = w[layout.WEATHER_WET] * bare, 0.0
    if up < 0.0:
        snow, water = 0.0, 0.0
    return snow, wet, water


@kernel
def water_normal(scene, x, y):
    """Normal of a puddle at a place: level, and stirred by drops and wind."""
    amount = scene.weather[layout.WEATHER_STIR]
    if amount <= 0.0:
        return 0.0, 0.0, 1.0
    a = amount * (noise(14.0 * x, 14.0 * y, 3.1) + 0.6 * noise(41.0 * x, 41.0 * y, 9.7))
    b = amount * (noise(14.0 * x + 57.0, 14.0 * y, 6.3) + 0.6 * noise(41.0 * x, 41.0 * y + 31.0, 2.9))
    s = 1.0 / math.sqrt(1.0 + a * a + b * b)
    return a * s, b * s, s


@kernel
def levelled(scene, m, vertex):
    """The shading normal of a vertex under what lies on it: puddles are level, snow hides relief."""
    nx, ny, nz = vertex.nx, vertex.ny, vertex.nz
    if scene.weather[layout.WEATHER_ON] <= 0.0 or scene.materials[m, layout.UNCOVERED] > 0.0 or vertex.gz < 0.3:
        return nx, ny, nz
    snow, _wet, water = lying(scene, vertex)
    hidden = min(snow / COVERING_M, 1.0)
    if hidden > 0.0:
        nx, ny, nz = nx + hidden * (vertex.gx - nx), ny + hidden * (vertex.gy - ny), nz + hidden * (vertex.gz - nz)
    if water > 0.0:
        still = min(water / SMOOTH_M, 1.0)
        px, py, pz = water_normal(scene, vertex.x, vertex.y)
        nx, ny, nz = nx + still * (px - nx), ny + still * (py - ny), nz + still * (pz - nz)
    s = 1.0 / math.sqrt(nx * nx + ny * ny + nz * nz + 1e-30)
    nx, ny, nz = nx * s, ny * s, nz * s
    if nx * vertex.wx + ny * vertex.wy + nz * vertex.wz < 1e-3:
        return vertex.gx, vertex.gy, vertex.gz
    return nx, ny, nz


@kernel
def covered(scene, m, vertex, paint, least_alpha):
    """A paint with what lies on it. Metals and what is layered keep their own colour under water."""
    snow, wet, water = lying(scene, vertex)
    w = scene.weather
    r, g, b = paint.red, paint.green, paint.blue
    alpha, metal, gloss, index, through = paint.alpha, paint.metal, paint.gloss, paint.refraction, paint.through
    kind, clear = paint.layer, paint.clear
    up = max(vertex.gz, 0.0)
    if up > 0.5 and paint.through <= 0.0:
        r, g, b = leaves_over(scene, vertex, r, g, b)
    film = max(wet * (0.3 + 0.7 * up), min(water / SMOOTH_M, 1.0))
    # Drops hang on blades that look everywhere: no sheet of them mirrors the sky (share: common practice).
    if scene.materials[m, layout.SWARD] > 0.0:
        film *= 0.12
    if film > 0.0:
        soaked = film * drinks(math.sqrt(alpha)) * (1.0 - metal)
        r, g, b = (
            r + soaked * (under_water(r) - r),
            g + soaked * (under_water(g) - g),
            b + soaked * (under_water(b) - b),
        )
        still = min(water / SMOOTH_M, 1.0)
        smooth = FILM_ALPHA + still * (WATER_ALPHA - FILM_ALPHA)
        # A rough surface holds its film in hollows: half of its gloss shows the stone between.
        share = film * (0.55 + 0.45 * still)
        if alpha > smooth:
            alpha = math.exp((1.0 - share) * math.log(alpha) + share * math.log(smooth))
        index, gloss = index + film * (1.0 - metal) * (WATER - index), max(gloss, film)
    cover = min(snow / COVERING_M, 1.0)
    if cover > 0.0:
        edge = 0.5 + 0.5 * turbulence(9.0 * vertex.x, 9.0 * vertex.y, 9.0 * vertex.z, I64(3))
        cover = min(max((cover - 0.6 * edge) / 0.4, 0.0), 1.0)
        c = layout.WEATHER_COLOUR
        r, g, b = r + cover * (w[c] - r), g + cover * (w[c + 1] - g), b + cover * (w[c + 2] - b)
        alpha, metal, gloss = alpha + cover * (1.0 - alpha), metal * (1.0 - cover), gloss * (1.0 - cover)
        through *= 1.0 - cover
        if cover > 0.5:
            kind, clear = -1.0, 0.0
    alpha = max(alpha, least_alpha)
    cosine = vertex.nx * vertex.wx + vertex.ny * vertex.wy + vertex.nz * vertex.wz
    share = surface.specular_share(r, g, b, metal, gloss, index, cosine)
    under, lost = albedo.seen_from(alpha, gloss, index, cosine)
    return Paint(r, g, b, alpha, metal, gloss, index, through, share, under, lost, kind, clear, paint.material)
