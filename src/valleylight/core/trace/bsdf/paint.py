"""What a surface is made of where it is met: colour from pictures and patterns, weathering, and the lobes to draw from."""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.jit.compiled import kernel
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.records import Light, Paint, Unit
from valleylight.core.trace.bsdf import albedo, layered, surface
from valleylight.core.trace.bsdf.cover import covered
from valleylight.core.trace.sampling.sobol import basis, disk
from valleylight.core.trace.textures import laying
from valleylight.core.trace.textures.courses import chance, shift_of, unit_at
from valleylight.core.trace.textures.lookup import lookup, nearest
from valleylight.core.trace.textures.pattern import turbulence, value

F64 = np.float64
#: Weathering: width in metres of worn edges, height over which lower zones clear up.
EDGE_WIDTH_M, LOWER_ZONE_M = 0.03, 0.9
#: Mortar is matt.
JOINT_ALPHA = 0.85
#: Lobes that a direction is drawn from: matt, glossy of some width, and perfect mirrors: gloss or metal, and a clear coat.
MATT, GLOSSY, BY_GLOSS, BY_CLEAR_COAT = (np.int64(k) for k in range(4))


@kernel
def from_three_sides(scene, m, number, decode, vertex):
    """Picture `number` of material m laid on from three sides and blended by the normal (triplanar mapping), RGB through `decode`."""
    nx, ny, nz = vertex.nx, vertex.ny, vertex.nz
    # Seen from behind, a face is what it is from before.
    if vertex.wx * vertex.gx + vertex.wy * vertex.gy + vertex.wz * vertex.gz < 0.0:
        nx, ny, nz = -nx, -ny, -nz
    t = scene.materials
    r, g, b, total = 0.0, 0.0, 0.0, 0.0
    for side in range(3):
        share = laying.shares_of_sides(nx, ny, nz)[side]
        if share > 0.01:
            along, up = laying.on_side(t, m, side, vertex.x, vertex.y, vertex.z, nx, ny, nz)
            a = lookup(
                scene.pixels, scene.texture_info, decode, number, along / t[m, layout.TILE], -up / t[m, layout.TILE + 1]
            )
            r, g, b, total = r + share * a[0], g + share * a[1], b + share * a[2], total + share
    return r / total, g / total, b / total


@kernel
def of_unit(t, m, at, br, bg, bb, alpha, metal):
    """Colour, alpha and metal of a unit of a layout, or of the joint beside it."""
    if at.inside < 0.0:
        c = layout.JOINT_COLOUR
        return F64(t[m, c]), F64(t[m, c + 1]), F64(t[m, c + 2]), JOINT_ALPHA, 0.0
    w = chance(at.column, at.row, 7)
    c = layout.UNIT_TINT
    if t[m, c] >= 0.0:
        br, bg, bb = br + w * (t[m, c] - br), bg + w * (t[m, c + 1] - bg), bb + w * (t[m, c + 2] - bb)
    light = 1.0 + t[m, layout.SHADE] * (2.0 * chance(at.column, at.row, 11) - 1.0)
    return br * light, bg * light, bb * light, alpha, metal


@kernel
def detailed(scene, m, reduced, u, v, at, colour, alpha, metal, vertex, edge, ground):
    """Base colour, alpha and metal after the details few materials have: roughness picture, pattern, the unit of a layout,
    weathering."""
    t = scene.materials
    br, bg, bb = colour
    px, py, pz = vertex.x, vertex.y, vertex.z
    if t[m, layout.ROUGH_TEXTURE] >= 0.0:  # glTF 2.0: roughness in green, metal in blue
        number = int(t[m, layout.ROUGH_TEXTURE]) + reduced
        if t[m, layout.LAID] == laying.SIDES:
            _, g, b = from_three_sides(scene, m, number, scene.linear, vertex)
        else:
            _, g, b = lookup(scene.pixels, scene.texture_info, scene.linear, number, u, v)
        rough = math.sqrt(alpha) * g
        alpha, metal = max(rough * rough, surface.LEAST_ALPHA) if rough > 0.0 else 0.0, metal * b
    if t[m, layout.PATTERN] > 0.0:
        size = F64(t[m, layout.PATTERN_SIZE])
        if t[m, layout.BOND] > 0.0:  # along each unit, and another piece of it on each
            x, y, z = at.along, at.across, 0.0
            dx, dy, dz = 37.0 * chance(at.column, at.row, 3), 23.0 * chance(at.column, at.row, 5), 11.0 * at.standing
            w = value(int(t[m, layout.PATTERN]), x / size + dx, y / size + dy, z / size + dz, 0.0, 0.0, 1.0)
        else:
            w = value(int(t[m, layout.PATTERN]), px / size, py / size, pz / size, vertex.nx, vertex.ny, vertex.nz)
        c = layout.PATTERN_TINT
        br, bg, bb = br + w * (t[m, c] - br), bg + w * (t[m, c + 1] - bg), bb + w * (t[m, c + 2] - bb)
    if t[m, layout.BOND] > 0.0:
        br, bg, bb, alpha, metal = of_unit(t, m, at, br, bg, bb, alpha, metal)
    amount = t[m, layout.WEATHER]
    if amount > 0.0:
        # Run-off and splash darken low zones and blotch the rest; edges gather dirt and lose their gloss.
        blotch = 0.5 + 0.5 * turbulence(1.7 * px, 1.7 * py, 0.9 * pz, np.int64(4))
        low = math.exp(-max(pz - ground, 0.0) / LOWER_ZONE_M)
        worn = math.exp(-edge / EDGE_WIDTH_M) * (0.5 + blotch)
        dark = min(amount * (0.75 * low * (0.4 + blotch) + 0.25 * blotch + 0.45 * worn), 0.85)
        br, bg, bb = br * (1.0 - 0.9 * dark), bg * (1.0 - 0.92 * dark), bb * (1.0 - 0.97 * dark)
        rough = math.sqrt(alpha)
        rough += (1.0 - rough) * dark
        alpha = max(rough * rough, surface.LEAST_ALPHA) if rough > 0.0 else 0.0
    return br, bg, bb, alpha, metal


@kernel
def paint_at(scene, m, u, v, vertex, edge, ground, least_alpha, plain):
    """What the surface is made of at (u, v) of a vertex: the `paint` of `passage.shade`; `plain` takes reduced pictures."""
    reduced = scene.texture_info.shape[0] // 2 if plain else 0
    t = scene.materials
    nx, ny, nz = vertex.nx, vertex.ny, vertex.nz
    cosine = nx * vertex.wx + ny * vertex.wy + nz * vertex.wz
    br, bg, bb = F64(t[m, 0]), F64(t[m, 1]), F64(t[m, 2])
    at = Unit(np.int64(0), np.int64(0), 0.0, 0.0, 0.0, 0.0)
    if t[m, layout.BOND] > 0.0:
        along, up = laying.metres(t, m, u, v)
        at = unit_at(
            int(t[m, layout.BOND]),
            along,
            up,
            F64(t[m, layout.UNIT_LENGTH]),
            F64(t[m, layout.UNIT_HEIGHT]),
            F64(t[m, layout.JOINT]),
        )
        du, dv = shift_of(at)
        u, v = u + du, v + dv
    if t[m, layout.BASE_TEXTURE] >= 0.0:
        if t[m, layout.LAID] == laying.SIDES:
            r, g, b = from_three_sides(scene, m, int(t[m, layout.BASE_TEXTURE]) + reduced, scene.decode, vertex)
        elif plain:
            r, g, b = nearest(
                scene.pixels, scene.texture_info, scene.decode, int(t[m, layout.BASE_TEXTURE]) + reduced, u, v
            )
        else:
            r, g, b = lookup(scene.pixels, scene.texture_info, scene.decode, int(t[m, layout.BASE_TEXTURE]), u, v)
        br, bg, bb = br * r, bg * g, bb * b
    metal, gloss, index = F64(t[m, layout.METAL]), F64(t[m, layout.GLOSS]), F64(t[m, layout.INDEX])
    alpha = F64(t[m, layout.ROUGH])
    alpha = max(alpha * alpha, surface.LEAST_ALPHA) if alpha > 0.0 else 0.0
    if t[m, layout.DETAIL] > 0.0:
        br, bg, bb, alpha, metal = detailed(
            scene, m, reduced, u, v, at, Light(br, bg, bb), alpha, metal, vertex, edge, ground
        )
    alpha = max(alpha, least_alpha)
    kind, clear = -1.0, 0.0
    if t[m, layout.KIND] == layout.FROSTED:
        reflected, _ = surface.pane(max(cosine, 1e-3), F64(t[m, layout.INDEX]))
        return Paint(
            br, bg, bb, alpha, 0.0, 0.0, index, 1.0, min(max(reflected, 0.1), 0.9), 1.0, 0.0, -2.0, 0.0, F64(m),
        )  # fmt: skip
    if t[m, layout.LAYERED] > 0.0:
        kind, clear = 0.0, layered.clear_share(t, m, cosine)
    share = surface.specular_share(br, bg, bb, metal, gloss, index, cosine)
    under, lost = albedo.seen_from(alpha, gloss, index, cosine)
    paint = Paint(
        br, bg, bb, alpha, metal, gloss, index, F64(t[m, layout.THROUGH]), share, under, lost, kind,
        clear, F64(m),
    )  # fmt: skip
    if scene.weather[layout.WEATHER_ON] > 0.0 and t[m, layout.UNCOVERED] <= 0.0:
        return covered(scene, m, vertex, paint, least_alpha)
    return paint


@kernel
def visible_facet(alpha, nx, ny, nz, wx, wy, wz, u, v):
    """Facet normal drawn among those visible from w, in the world."""
    t1x, t1y, t1z, t2x, t2y, t2z = basis(nx, ny, nz)
    hx, hy, hz = surface.sample_visible_normal(
        alpha, wx * t1x + wy * t1y + wz * t1z, wx * t2x + wy * t2y + wz * t2z, nx * wx + ny * wy + nz * wz, u, v
    )
    return hx * t1x + hy * t2x + hz * nx, hx * t1y + hy * t2y + hz * ny, hx * t1z + hy * t2z + hz * nz


@kernel
def sharply(scene, vertex, paint, lobe):
    """What a perfect mirror that was drawn makes of light (r, g, b), over the chance of drawing it."""
    cosine = vertex.nx * vertex.wx + vertex.ny * vertex.wy + vertex.nz * vertex.wz
    return layered.mirror_weight(scene.materials, paint, lobe == BY_CLEAR_COAT, min(max(cosine, 1e-3), 1.0))


@kernel
def draw(scene, vertex, paint, choice, u, v):
    """A new direction drawn from the surface: direction, the lobe it came from, and whether there is one (or the light was lost
    between facets)."""
    nx, ny, nz, wx, wy, wz = vertex.nx, vertex.ny, vertex.nz, vertex.wx, vertex.wy, vertex.wz
    alpha, through, share, kind, clear = paint.alpha, paint.through, paint.share, paint.layer, paint.clear
    flip, sharp = False, BY_GLOSS
    if clear > 0.0:
        if choice < clear:
            alpha = layered.clear_alpha(scene.materials, int(paint.material))
            choice, share, sharp = 0.0, 1.0, BY_CLEAR_COAT
        else:
            choice = (choice - clear) / (1.0 - clear)
    if kind == -2.0:
        flip = choice >= share
        choice, share = 0.0, 1.0
    if choice < share and alpha == 0.0 and kind != -2.0:
        d = 2.0 * (wx * nx + wy * ny + wz * nz)
        return d * nx - wx, d * ny - wy, d * nz - wz, sharp, True
    if choice < share:
        hx, hy, hz = visible_facet(alpha, nx, ny, nz, wx, wy, wz, u, v)
        d = 2.0 * (wx * hx + wy * hy + wz * hz)
        dx, dy, dz = d * hx - wx, d * hy - wy, d * hz - wz
        drawn = kind != -2.0 or nx * dx + ny * dy + nz * dz > 0.0
        if flip:
            d = 2.0 * (nx * dx + ny * dy + nz * dz)
            dx, dy, dz = dx - d * nx, dy - d * ny, dz - d * nz
        return dx, dy, dz, GLOSSY, drawn
    p, q = disk(u, v)
    z = math.sqrt(max(1.0 - p * p - q * q, 1e-9))
    if through > 0.0 and (choice - share) < through * (1.0 - share):
        z = -z
    t1x, t1y, t1z, t2x, t2y, t2z = basis(nx, ny, nz)
    return p * t1x + q * t2x + z * nx, p * t1y + q * t2y + z * ny, p * t1z + q * t2z + z * nz, MATT, True
