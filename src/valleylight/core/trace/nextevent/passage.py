"""How light gets from one point to another: past what is opaque, through panes, glass and cut-outs, and through air."""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.layout import INDEX, KIND, ROUGH, TINT, TRIANGLE_MATERIAL
from valleylight.core.trace.bsdf import layered, surface
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.intersect.vertex import face_normal, record_of
from valleylight.core.trace.media import air
from valleylight.core.trace.sampling.sobol import basis, hash32
from valleylight.core.trace.textures.laying import lay
from valleylight.core.trace.textures.lookup import lookup

U32, I64, F64 = np.uint32, np.int64, np.float64
FAR = 1e7
MAX_PANES = 32
#: So far behind a pane the way goes on, as a share of the way and of where it began (single precision).
NEXT_SHARE = 1e-6
#: How solid glass and water treat a shadow ray: they block it, or pass it straight on; or whatever lets light by blocks it.
BLOCKS, PASSES, CLEAR = np.int64(0), np.int64(1), np.int64(2)


@kernel
def laid_at(scene, k, m, a, b, x, y, z, turn):
    """The place (u, v) in the pictures of material m at barycentrics (a, b) of triangle k, which is the point (x, y, z) of the stage;
    `turn` is the number of the transform that the triangle stands under, below zero for none."""
    t = scene.triangles
    c = 1.0 - a - b
    u = c * t[k, layout.TRIANGLE_UV] + a * t[k, layout.TRIANGLE_UV + 2] + b * t[k, layout.TRIANGLE_UV + 4]
    v = c * t[k, layout.TRIANGLE_UV + 1] + a * t[k, layout.TRIANGLE_UV + 3] + b * t[k, layout.TRIANGLE_UV + 5]
    if scene.materials[m, layout.LAID] > 0.0:
        gx, gy, gz = normal_of(scene, k, turn)
        u, v = lay(scene.materials, m, u, v, x, y, z, gx, gy, gz)
    return u, v


@kernel
def normal_of(scene, k, turn):
    """Normal, of no certain length, of triangle k in the stage."""
    gx, gy, gz = face_normal(scene.triangles, k)
    if turn >= 0:
        w = scene.transforms
        gx, gy, gz = (
            w[turn, layout.TRANSFORM_NORMALS] * gx
            + w[turn, layout.TRANSFORM_NORMALS + 1] * gy
            + w[turn, layout.TRANSFORM_NORMALS + 2] * gz,
            w[turn, layout.TRANSFORM_NORMALS + 3] * gx
            + w[turn, layout.TRANSFORM_NORMALS + 4] * gy
            + w[turn, layout.TRANSFORM_NORMALS + 5] * gz,
            w[turn, layout.TRANSFORM_NORMALS + 6] * gx
            + w[turn, layout.TRANSFORM_NORMALS + 7] * gy
            + w[turn, layout.TRANSFORM_NORMALS + 8] * gz,
        )
    return gx, gy, gz


@part
def may_let_by(scene, m):
    """Whether some rays pass material m as if it were not there."""
    t = scene.materials
    return t[m, layout.ALPHA_TEXTURE] >= 0.0 or t[m, layout.SCARCE] > 0.0 or t[m, layout.LEAVES] < 1.0


@part
def _fallen(scene, k, share):
    """Whether the card that triangle k is half of has fallen, where a share of them is left. Both halves have the longest edge in
    common, whose middle tells one card from another."""
    t = scene.triangles
    a, b, c = 0.0, 0.0, 0.0
    for axis in range(3):
        p, q = F64(t[k, layout.TRIANGLE_EDGE_1 + axis]), F64(t[k, layout.TRIANGLE_EDGE_2 + axis])
        a, b, c = a + p * p, b + q * q, c + (p - q) * (p - q)
    luck = U32(0x9E3779B9)
    for axis in range(3):
        corner = F64(t[k, layout.TRIANGLE_CORNER + axis])
        p, q = F64(t[k, layout.TRIANGLE_EDGE_1 + axis]), F64(t[k, layout.TRIANGLE_EDGE_2 + axis])
        middle = corner + 0.5 * (p if a >= b and a >= c else (q if b >= c else p + q))
        luck = hash32(U32(luck ^ U32(I64(math.floor(middle * 200.0 + 0.5)) & I64(0xFFFFFFFF))))
    return luck / 4294967296.0 >= share


@kernel
def cut_out(scene, k, m, u, v):
    """True where the alpha picture of material m, or a leaf that has fallen, lets everything by at (u, v) of triangle k. Of what is scarce, as a drop that crosses the picture
    while the shutter is open, v is the share of rays that meet it; which they are follows from the last digits of u."""
    if scene.materials[m, layout.LEAVES] < 1.0:
        if _fallen(scene, k, F64(scene.materials[m, layout.LEAVES])):
            return True
        if scene.materials[m, layout.ALPHA_TEXTURE] < 0.0:
            return False
    if scene.materials[m, layout.SCARCE] > 0.0:
        luck = hash32(U32(I64(u * 1073741824.0) & I64(0xFFFFFFFF)))
        return luck / 4294967296.0 >= v
    alpha, _, _ = lookup(
        scene.pixels, scene.texture_info, scene.linear, int(scene.materials[m, layout.ALPHA_TEXTURE]), u, v
    )
    return alpha < scene.materials[m, layout.CUTOFF]


@kernel
def through_glass(scene, work, ox, oy, oz, dx, dy, dz, far, solids):
    """What panes, cut-outs and (where `solids` says PASSES) solid glass pass along a free segment, straight on: RGB 0
    to 1, and the rays spent. Solid glass is taken without its bending: Fresnel's loss at each face, Beer's law in between."""
    r, g, b = 1.0, 1.0, 1.0
    if scene.glass == 0:
        return r, g, b, 0
    travelled, since, last, before = 0.0, 0.0, np.int64(-1), np.int64(-1)
    size = max(max(abs(ox), abs(oy)), abs(oz))
    for spent in range(MAX_PANES):
        if not rays.closest(
            scene.glass, work.shadow, work.shadow_word, ox + dx * travelled, oy + dy * travelled, oz + dz * travelled, dx, dy, dz,
            far - travelled, rays.EVERYTHING,
        ):  # fmt: skip
            return r, g, b, spent + 1
        way = F64(work.shadow[rays.FAR])
        geometry, k = record_of(work.shadow_word, scene.glass_first)
        step_off = NEXT_SHARE * max(size, travelled + way)
        if k == last and geometry == before:  # rounding put the ray before the face that it has passed
            travelled += way + step_off
            if travelled >= far:
                return r, g, b, spent + 1
            continue
        last, before = k, np.int64(geometry)
        m = int(scene.triangles[k, TRIANGLE_MATERIAL])
        t = scene.materials
        if may_let_by(scene, m):
            at = travelled + way
            u, v = laid_at(
                scene, k, m, F64(work.shadow[rays.HIT_U]), F64(work.shadow[rays.HIT_V]), ox + dx * at, oy + dy * at, oz + dz * at,
                scene.glass_transform[geometry],
            )  # fmt: skip
            if not cut_out(scene, k, m, u, v):
                return 0.0, 0.0, 0.0, spent + 1
        else:
            gx, gy, gz = normal_of(scene, k, scene.glass_transform[geometry])
            slant = (gx * dx + gy * dy + gz * dz) / math.sqrt(gx * gx + gy * gy + gz * gz + 1e-30)
            cosine = max(abs(F64(slant)), 1e-3)
            if t[m, KIND] == layout.SOLID:
                if solids == BLOCKS:
                    return 0.0, 0.0, 0.0, spent + 1
                passed = 1.0 - surface.dielectric(cosine, F64(t[m, INDEX]))
                if slant > 0.0:  # leaving: what lay behind was glass
                    depth = travelled + way - since
                    e = layout.ABSORB
                    r *= math.exp(-depth * t[m, e])
                    g *= math.exp(-depth * t[m, e + 1])
                    b *= math.exp(-depth * t[m, e + 2])
                r, g, b = r * passed, g * passed, b * passed
            else:
                reflected, inside = surface.pane(cosine, F64(t[m, INDEX]))
                pr, pg, pb = tint(scene, m, inside)
                passed = 1.0 - reflected
                r, g, b = r * passed * pr, g * passed * pg, b * passed * pb
        since = travelled + way
        travelled = since + step_off
        if travelled >= far:
            return r, g, b, spent + 1
    return 0.0, 0.0, 0.0, MAX_PANES


@part
def short_of(d, off):
    """Length of a ray to something d metres away that must not meet what holds it: a millimetre short, and by some of the offset
    `off` of rays there, but most of the way."""
    return d - max(min(1e-3, 0.01 * d), min(4.0 * off, 0.1 * d))


@part
def tint(scene, m, inside):
    """Tint of a pane at the cosine inside it: Beer's law over the longer way, tint^(1 / cosine)."""
    way = 1.0 / inside
    t = scene.materials
    return t[m, TINT] ** way, t[m, TINT + 1] ** way, t[m, TINT + 2] ** way


@kernel
def mirror(scene, m, nx, ny, nz, dx, dy, dz, u, v):
    """Direction of light along d reflected at a pane, about the normal or, when it is rough, about a facet's."""
    hx, hy, hz = facet(scene, m, nx, ny, nz, dx, dy, dz, u, v)
    d = 2.0 * (dx * hx + dy * hy + dz * hz)
    return dx - d * hx, dy - d * hy, dz - d * hz


@kernel
def facet(scene, m, nx, ny, nz, dx, dy, dz, u, v):
    """Normal of the facet met by light along d: the surface's own where it is smooth, else drawn among the visible."""
    alpha = F64(scene.materials[m, ROUGH])
    alpha = alpha * alpha
    if alpha <= 1e-4:
        return nx, ny, nz
    t1x, t1y, t1z, t2x, t2y, t2z = basis(nx, ny, nz)
    lx, ly, lz = surface.sample_visible_normal(
        alpha, -(dx * t1x + dy * t1y + dz * t1z), -(dx * t2x + dy * t2y + dz * t2z),
        max(-(nx * dx + ny * dy + nz * dz), 1e-3), u, v,
    )  # fmt: skip
    return (
        lx * t1x + ly * t2x + lz * nx,
        lx * t1y + ly * t2y + lz * ny,
        lx * t1z + ly * t2z + lz * nz,
    )


@part
def shade(scene, paint, nx, ny, nz, wx, wy, wz, lx, ly, lz):
    """BSDF times cosine (r, g, b) and sampling density of light along l seen from w; in air, the phase function."""
    if paint.layer == -2.0:
        return layered.frosted(scene.materials, paint, nx, ny, nz, wx, wy, wz, lx, ly, lz)
    if paint.layer == -3.0:
        p = air.phase(scene.air, wx * lx + wy * ly + wz * lz)
        return paint.red * p, paint.green * p, paint.blue * p, 0.0
    rough = F64(scene.materials[int(paint.material), layout.DIFFUSE_ROUGH])
    base = surface.evaluate(paint, rough, nx, ny, nz, wx, wy, wz, lx, ly, lz)
    if paint.layer == -1.0:
        return base
    return layered.over(scene.materials, paint, base, nx, ny, nz, wx, wy, wz, lx, ly, lz)
