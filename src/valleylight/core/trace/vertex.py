"""Where a ray starts and what it meets: the lens, and the surface under a hit."""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.trace import rays
from valleylight.core.trace.compiled import kernel, part
from valleylight.core.trace.layout import RELIEF, RELIEF_TEXTURE, TRIANGLE_MATERIAL
from valleylight.core.trace.sampling import disk
from valleylight.core.trace.texture import lookup

U32 = np.uint32


@part
def camera_ray(camera, x, y, width, height, lens_u, lens_v):
    """Origin and unit direction of the ray through film position (x, y) in pixels."""
    a = (2.0 * x / width - 1.0) * camera[12] + camera[14]
    b = (1.0 - 2.0 * y / height) * camera[13] + camera[15]
    dx = camera[3] + a * camera[6] + b * camera[9]
    dy = camera[4] + a * camera[7] + b * camera[10]
    dz = camera[5] + a * camera[8] + b * camera[11]
    ox, oy, oz = camera[0], camera[1], camera[2]
    if camera[16] > 0.0:
        p, q = disk(lens_u, lens_v)
        p, q = p * camera[16], q * camera[16]
        lx = p * camera[6] + q * camera[9]
        ly = p * camera[7] + q * camera[10]
        lz = p * camera[8] + q * camera[11]
        focus = camera[17]
        dx, dy, dz = dx * focus - lx, dy * focus - ly, dz * focus - lz
        ox, oy, oz = ox + lx, oy + ly, oz + lz
    s = 1.0 / math.sqrt(dx * dx + dy * dy + dz * dz)
    return ox, oy, oz, dx * s, dy * s, dz * s


@part
def face_normal(t, k):
    """Cross product of the edges of triangle record k: its normal, twice its area long."""
    return (
        t[k, 4] * t[k, 8] - t[k, 5] * t[k, 7],
        t[k, 5] * t[k, 6] - t[k, 3] * t[k, 8],
        t[k, 3] * t[k, 7] - t[k, 4] * t[k, 6],
    )


@part
def unit(x, y, z):
    """The vector at length 1."""
    s = 1.0 / math.sqrt(x * x + y * y + z * z + 1e-30)
    return x * s, y * s, z * s


@kernel
def relief_normal(scene, k, m, u, v, nx, ny, nz):
    """Shading normal tilted by the material's normal map (glTF 2.0, section 3.9.3)."""
    t = scene.triangles
    e1u, e1v, e2u, e2v = t[k, 20] - t[k, 18], t[k, 21] - t[k, 19], t[k, 22] - t[k, 18], t[k, 23] - t[k, 19]
    det = e1u * e2v - e2u * e1v
    if abs(det) < 1e-14:
        return nx, ny, nz
    inv = 1.0 / det
    tx = (t[k, 3] * e2v - t[k, 6] * e1v) * inv
    ty = (t[k, 4] * e2v - t[k, 7] * e1v) * inv
    tz = (t[k, 5] * e2v - t[k, 8] * e1v) * inv
    d = tx * nx + ty * ny + tz * nz
    tx, ty, tz = unit(tx - d * nx, ty - d * ny, tz - d * nz)
    # glTF: v runs downwards in the picture, and green points up it.
    side = 1.0 if inv < 0.0 else -1.0
    bx, by, bz = side * (ny * tz - nz * ty), side * (nz * tx - nx * tz), side * (nx * ty - ny * tx)
    r, g, b = lookup(scene.pixels, scene.texture_info, scene.linear, int(scene.materials[m, RELIEF_TEXTURE]), u, v)
    scale = scene.materials[m, RELIEF]
    a, c, e = (2.0 * r - 1.0) * scale, (2.0 * g - 1.0) * scale, max(2.0 * b - 1.0, 0.05)
    return unit(a * tx + c * bx + e * nx, a * ty + c * by + e * ny, a * tz + c * bz + e * nz)


@part
def meet(scene, ray, word, dx, dy, dz):
    """The surface under the hit in the buffer, seen along d: triangle, material, uv, point, normal of the face and for
    shading (both on the viewer's side), cosine to the face, and the offset that keeps new rays off it."""
    geometry = word[rays.HIT_INSTANCE]
    if geometry == U32(rays.NOTHING):
        geometry = word[rays.HIT_GEOMETRY]
    k = scene.geometry_first[geometry] + word[rays.HIT_PRIMITIVE]
    t = scene.triangles
    a, b = ray[rays.HIT_U], ray[rays.HIT_V]
    c = 1.0 - a - b
    m = int(t[k, TRIANGLE_MATERIAL])
    u = c * t[k, 18] + a * t[k, 20] + b * t[k, 22]
    v = c * t[k, 19] + a * t[k, 21] + b * t[k, 23]
    qx = t[k, 0] + a * t[k, 3] + b * t[k, 6]
    qy = t[k, 1] + a * t[k, 4] + b * t[k, 7]
    qz = t[k, 2] + a * t[k, 5] + b * t[k, 8]
    gx, gy, gz = face_normal(t, k)
    nx, ny, nz = unit(
        c * t[k, 9] + a * t[k, 12] + b * t[k, 15],
        c * t[k, 10] + a * t[k, 13] + b * t[k, 16],
        c * t[k, 11] + a * t[k, 14] + b * t[k, 17],
    )
    if scene.materials[m, RELIEF_TEXTURE] >= 0.0:
        nx, ny, nz = relief_normal(scene, k, m, u, v, nx, ny, nz)
    turn = scene.geometry_transform[geometry]
    if turn >= 0:
        w = scene.transforms
        qx, qy, qz = (
            w[turn, 0] * qx + w[turn, 1] * qy + w[turn, 2] * qz + w[turn, 3],
            w[turn, 4] * qx + w[turn, 5] * qy + w[turn, 6] * qz + w[turn, 7],
            w[turn, 8] * qx + w[turn, 9] * qy + w[turn, 10] * qz + w[turn, 11],
        )
        gx, gy, gz = (
            w[turn, 12] * gx + w[turn, 13] * gy + w[turn, 14] * gz,
            w[turn, 15] * gx + w[turn, 16] * gy + w[turn, 17] * gz,
            w[turn, 18] * gx + w[turn, 19] * gy + w[turn, 20] * gz,
        )
        nx, ny, nz = unit(
            w[turn, 12] * nx + w[turn, 13] * ny + w[turn, 14] * nz,
            w[turn, 15] * nx + w[turn, 16] * ny + w[turn, 17] * nz,
            w[turn, 18] * nx + w[turn, 19] * ny + w[turn, 20] * nz,
        )
    gx, gy, gz = unit(gx, gy, gz)
    facing = -(gx * dx + gy * dy + gz * dz)
    if facing < 0.0:
        gx, gy, gz, facing = -gx, -gy, -gz, -facing
        nx, ny, nz = -nx, -ny, -nz
    if -(nx * dx + ny * dy + nz * dz) < 1e-3:  # a tilted normal must not look away
        nx, ny, nz = gx, gy, gz
    eps = 1e-4 + 2e-6 * max(max(abs(qx), abs(qy)), abs(qz))
    return k, m, u, v, qx, qy, qz, gx, gy, gz, nx, ny, nz, facing, eps
