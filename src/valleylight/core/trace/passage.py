"""How light gets from one point to another: past what is opaque, through thin panes, and by reflection at them."""

from __future__ import annotations

import math

from valleylight.core.trace import rays, surface
from valleylight.core.trace.compiled import kernel, part
from valleylight.core.trace.layout import INDEX, ROUGH, TINT, TRIANGLE_MATERIAL
from valleylight.core.trace.sampling import basis, scatter_square
from valleylight.core.trace.vertex import face_normal

FAR = 1e7
MAX_PANES = 24


@kernel
def through_glass(scene, ray, word, ox, oy, oz, dx, dy, dz, far):
    """What thin panes pass along a free segment, straight on: RGB 0 to 1."""
    r, g, b = 1.0, 1.0, 1.0
    if scene.glass == 0:
        return r, g, b
    travelled = 0.0
    for _ in range(MAX_PANES):
        if not rays.closest(
            scene.glass, ray, word, ox + dx * travelled, oy + dy * travelled, oz + dz * travelled, dx, dy, dz,
            far - travelled, rays.GLASS,
        ):  # fmt: skip
            return r, g, b
        k = scene.glass_first + word[rays.HIT_PRIMITIVE]
        gx, gy, gz = face_normal(scene.triangles, k)
        cosine = abs(gx * dx + gy * dy + gz * dz) / math.sqrt(gx * gx + gy * gy + gz * gz + 1e-30)
        m = int(scene.triangles[k, TRIANGLE_MATERIAL])
        reflected, inside = surface.pane(max(cosine, 1e-3), scene.materials[m, INDEX])
        pr, pg, pb = tint(scene, m, inside)
        passed = 1.0 - reflected
        r, g, b = r * passed * pr, g * passed * pg, b * passed * pb
        travelled += ray[rays.FAR] + 1e-4
        if travelled >= far:
            return r, g, b
    return 0.0, 0.0, 0.0


@part
def tint(scene, m, inside):
    """Tint of a pane at the cosine inside it: Beer's law over the longer way, tint^(1 / cosine)."""
    way = 1.0 / inside
    t = scene.materials
    return t[m, TINT] ** way, t[m, TINT + 1] ** way, t[m, TINT + 2] ** way


@kernel
def mirror(scene, m, nx, ny, nz, dx, dy, dz, index, pixel, panes):
    """Direction of light along d reflected at a pane, about the normal or, when it is rough, about a facet's."""
    alpha = scene.materials[m, ROUGH]
    alpha = alpha * alpha
    hx, hy, hz = nx, ny, nz
    if alpha > 1e-4:
        t1x, t1y, t1z, t2x, t2y, t2z = basis(nx, ny, nz)
        u, v = scatter_square(index, pixel, 500 + panes)
        lx, ly, lz = surface.sample_visible_normal(
            alpha, -(dx * t1x + dy * t1y + dz * t1z), -(dx * t2x + dy * t2y + dz * t2z),
            max(-(nx * dx + ny * dy + nz * dz), 1e-3), u, v,
        )  # fmt: skip
        hx = lx * t1x + ly * t2x + lz * nx
        hy = lx * t1y + ly * t2y + lz * ny
        hz = lx * t1z + ly * t2z + lz * nz
    d = 2.0 * (dx * hx + dy * hy + dz * hz)
    return dx - d * hx, dy - d * hy, dz - d * hz


@kernel
def arriving(scene, ray, word, vertex, paint, lx, ly, lz, far, mask):
    """What light along l does at a vertex: BSDF x cosine x what panes pass (RGB), its sampling density, rays spent.

    `vertex` is point, face normal, shading normal, direction to the viewer, offset; `paint` are the arguments of
    `surface.evaluate` up to `lost`.
    """
    qx, qy, qz, gx, gy, gz, nx, ny, nz, wx, wy, wz, eps = vertex
    br, bg, bb, alpha, metal, coat, f0, through, share, under, lost = paint
    r, g, b, density = surface.evaluate(
        br, bg, bb, alpha, metal, coat, f0, through, share, under, lost, nx, ny, nz, wx, wy, wz, lx, ly, lz
    )
    side = gx * lx + gy * ly + gz * lz
    # Light that the face and the tilted normal place on different sides would leak.
    if r + g + b <= 0.0 or side * (nx * lx + ny * ly + nz * lz) <= 0.0:
        return 0.0, 0.0, 0.0, 0.0, 0
    e = eps if side > 0.0 else -eps
    sx, sy, sz = qx + gx * e, qy + gy * e, qz + gz * e
    if rays.blocked(scene.handle, ray, word, sx, sy, sz, lx, ly, lz, far, mask):
        return 0.0, 0.0, 0.0, 0.0, 1
    pr, pg, pb = through_glass(scene, ray, word, sx, sy, sz, lx, ly, lz, far)
    return r * pr, g * pg, b * pb, density, 1
