"""Where a ray starts and what it meets: the lens, and the surface under a hit."""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.jit.held import prefetch
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.layout import (
    BOND,
    BUMP,
    LAID,
    RELIEF_TEXTURE,
    TRIANGLE_EDGES,
    TRIANGLE_MATERIAL,
    TRIANGLE_OBJECT,
    TRIANGLE_WIDTH,
    WEATHER,
)
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.intersect.relief import bumped, laid_normal, relief_normal, unit
from valleylight.core.trace.sampling.sobol import disk
from valleylight.core.trace.textures import laying

U32, F64 = np.uint32, np.float64
#: Rays start off a surface by this share of the greatest number at hand: its place, its edges, where it was put from. Rays, corners
#: and distances are single-precision numbers, right to 6e-8 of their size; from four times that on no ray met its own triangle in
#: a million tries (edges of 1 cm to 50 km, up to 40 km from the origin).
OFF_SHARE = 5e-7


@part
def iris(blades, turn, u, v):
    """A point of a diaphragm of radius 1: a disc, or a regular polygon whose corners lie on it."""
    if blades < 3:
        return disk(u, v)
    u *= blades
    k = min(int(u), blades - 1)
    r, t = math.sqrt(u - k), v
    a0, a1 = turn + 6.283185307179586 * k / blades, turn + 6.283185307179586 * (k + 1) / blades
    p, q = r * (1.0 - t), r * t
    return p * math.cos(a0) + q * math.cos(a1), p * math.sin(a0) + q * math.sin(a1)


@part
def camera_ray(camera, x, y, width, height, lens_u, lens_v, moment):
    """Origin and unit direction of the ray through film position (x, y) in pixels, at a moment 0 to 1 of the shutter.

    Rays of one film position meet in the plane of focus, whose normal stands in the camera record; a tilted lens leans it
    (the Scheimpflug condition).
    """
    a = (2.0 * x / width - 1.0) * camera[layout.CAMERA_HALF_WIDTH] + camera[layout.CAMERA_SHIFT_X]
    b = (1.0 - 2.0 * y / height) * camera[layout.CAMERA_HALF_HEIGHT] + camera[layout.CAMERA_SHIFT_Y]
    dx = camera[layout.CAMERA_FORWARD] + a * camera[layout.CAMERA_RIGHT] + b * camera[layout.CAMERA_UP]
    dy = camera[layout.CAMERA_FORWARD + 1] + a * camera[layout.CAMERA_RIGHT + 1] + b * camera[layout.CAMERA_UP + 1]
    dz = camera[layout.CAMERA_FORWARD + 2] + a * camera[layout.CAMERA_RIGHT + 2] + b * camera[layout.CAMERA_UP + 2]
    ox = camera[layout.CAMERA_PLACE] + moment * camera[layout.CAMERA_MOVES]
    oy = camera[layout.CAMERA_PLACE + 1] + moment * camera[layout.CAMERA_MOVES + 1]
    oz = camera[layout.CAMERA_PLACE + 2] + moment * camera[layout.CAMERA_MOVES + 2]
    if camera[layout.CAMERA_LENS_RADIUS] > 0.0:
        p, q = iris(int(camera[layout.CAMERA_BLADES]), camera[layout.CAMERA_BLADES_TURN], lens_u, lens_v)
        p, q = p * camera[layout.CAMERA_LENS_RADIUS], q * camera[layout.CAMERA_LENS_RADIUS]
        lx = p * camera[layout.CAMERA_RIGHT] + q * camera[layout.CAMERA_UP]
        ly = p * camera[layout.CAMERA_RIGHT + 1] + q * camera[layout.CAMERA_UP + 1]
        lz = p * camera[layout.CAMERA_RIGHT + 2] + q * camera[layout.CAMERA_UP + 2]
        # Distance along d to the plane of focus; far beyond where the plane is met behind the lens.
        ahead = (
            camera[layout.CAMERA_FOCUS_NORMAL] * dx
            + camera[layout.CAMERA_FOCUS_NORMAL + 1] * dy
            + camera[layout.CAMERA_FOCUS_NORMAL + 2] * dz
        )
        straight = (
            camera[layout.CAMERA_FOCUS_NORMAL] * camera[layout.CAMERA_FORWARD]
            + camera[layout.CAMERA_FOCUS_NORMAL + 1] * camera[layout.CAMERA_FORWARD + 1]
            + camera[layout.CAMERA_FOCUS_NORMAL + 2] * camera[layout.CAMERA_FORWARD + 2]
        )
        focus = (
            camera[layout.CAMERA_FOCUS] * straight / ahead
            if ahead > 1e-4 * straight
            else 1e4 * camera[layout.CAMERA_FOCUS]
        )
        dx, dy, dz = dx * focus - lx, dy * focus - ly, dz * focus - lz
        ox, oy, oz = ox + lx, oy + ly, oz + lz
    s = 1.0 / math.sqrt(dx * dx + dy * dy + dz * dz)
    return ox, oy, oz, dx * s, dy * s, dz * s


@part
def face_normal(t, k):
    """Cross product of the edges of triangle record k: its normal, twice its area long."""
    return (
        t[k, layout.TRIANGLE_EDGE_1 + 1] * t[k, layout.TRIANGLE_EDGE_2 + 2]
        - t[k, layout.TRIANGLE_EDGE_1 + 2] * t[k, layout.TRIANGLE_EDGE_2 + 1],
        t[k, layout.TRIANGLE_EDGE_1 + 2] * t[k, layout.TRIANGLE_EDGE_2]
        - t[k, layout.TRIANGLE_EDGE_1] * t[k, layout.TRIANGLE_EDGE_2 + 2],
        t[k, layout.TRIANGLE_EDGE_1] * t[k, layout.TRIANGLE_EDGE_2 + 1]
        - t[k, layout.TRIANGLE_EDGE_1 + 1] * t[k, layout.TRIANGLE_EDGE_2],
    )


@kernel
def edge_distance(t, k, a, b):
    """Distance in metres from the hit at barycentrics (a, b) to the nearest sharp edge of triangle k."""
    bits = int(t[k, TRIANGLE_EDGES])
    x, y, z = face_normal(t, k)
    twice = math.sqrt(F64(x * x + y * y + z * z))
    near = 1e9
    for corner in range(3):
        if bits >> corner & 1:
            if corner == 0:
                ex, ey, ez = (
                    t[k, layout.TRIANGLE_EDGE_2] - t[k, layout.TRIANGLE_EDGE_1],
                    t[k, layout.TRIANGLE_EDGE_2 + 1] - t[k, layout.TRIANGLE_EDGE_1 + 1],
                    t[k, layout.TRIANGLE_EDGE_2 + 2] - t[k, layout.TRIANGLE_EDGE_1 + 2],
                )
                share = 1.0 - a - b
            elif corner == 1:
                ex, ey, ez, share = (
                    t[k, layout.TRIANGLE_EDGE_2],
                    t[k, layout.TRIANGLE_EDGE_2 + 1],
                    t[k, layout.TRIANGLE_EDGE_2 + 2],
                    a,
                )
            else:
                ex, ey, ez, share = (
                    t[k, layout.TRIANGLE_EDGE_1],
                    t[k, layout.TRIANGLE_EDGE_1 + 1],
                    t[k, layout.TRIANGLE_EDGE_1 + 2],
                    b,
                )
            near = min(near, share * twice / math.sqrt(ex * ex + ey * ey + ez * ez + 1e-20))
    return near


@part
def record_of(word, first):
    """Number of the geometry met, and of its triangle record; `first` is the table of first records."""
    geometry = word[rays.HIT_INSTANCE]
    if geometry == U32(rays.NOTHING):
        geometry = word[rays.HIT_GEOMETRY]
    return geometry, first[geometry] + word[rays.HIT_PRIMITIVE]


@part
def fetch_record(scene, work, row):
    """Have the record of the triangle met by the path in a row fetched: it is seldom at hand, and others can be seen to meanwhile."""
    word = work.met_word
    if word[row, rays.HIT_GEOMETRY] == U32(rays.NOTHING):
        return
    geometry = word[row, rays.HIT_INSTANCE]
    if geometry == U32(rays.NOTHING):
        geometry = word[row, rays.HIT_GEOMETRY]
    k = scene.geometry_first[geometry] + word[row, rays.HIT_PRIMITIVE]
    address = scene.triangles.ctypes.data + np.int64(k) * (4 * TRIANGLE_WIDTH)
    prefetch(address)
    prefetch(address + 64)


@kernel
def meet(scene, work, dx, dy, dz, plain):
    """The surface under the hit in the buffer, seen along d: triangle, material, object, uv, point, normal of the face
    and for shading (both on the viewer's side), cosine to the face (below zero: seen from behind), the offset that keeps
    new rays off it, and the distance to a sharp edge where the material is weathered. `plain` leaves relief out."""
    geometry, k = record_of(work.word, scene.geometry_first)
    t = scene.triangles
    a, b = F64(work.ray[rays.HIT_U]), F64(work.ray[rays.HIT_V])
    c = 1.0 - a - b
    m = np.int64(t[k, TRIANGLE_MATERIAL])
    u = c * t[k, layout.TRIANGLE_UV] + a * t[k, layout.TRIANGLE_UV + 2] + b * t[k, layout.TRIANGLE_UV + 4]
    v = c * t[k, layout.TRIANGLE_UV + 1] + a * t[k, layout.TRIANGLE_UV + 3] + b * t[k, layout.TRIANGLE_UV + 5]
    qx = t[k, layout.TRIANGLE_CORNER] + a * t[k, layout.TRIANGLE_EDGE_1] + b * t[k, layout.TRIANGLE_EDGE_2]
    qy = t[k, layout.TRIANGLE_CORNER + 1] + a * t[k, layout.TRIANGLE_EDGE_1 + 1] + b * t[k, layout.TRIANGLE_EDGE_2 + 1]
    qz = t[k, layout.TRIANGLE_CORNER + 2] + a * t[k, layout.TRIANGLE_EDGE_1 + 2] + b * t[k, layout.TRIANGLE_EDGE_2 + 2]
    gx, gy, gz = face_normal(t, k)
    gx, gy, gz = F64(gx), F64(gy), F64(gz)
    nx, ny, nz = unit(
        c * t[k, layout.TRIANGLE_NORMALS]
        + a * t[k, layout.TRIANGLE_NORMALS + 3]
        + b * t[k, layout.TRIANGLE_NORMALS + 6],
        c * t[k, layout.TRIANGLE_NORMALS + 1]
        + a * t[k, layout.TRIANGLE_NORMALS + 4]
        + b * t[k, layout.TRIANGLE_NORMALS + 7],
        c * t[k, layout.TRIANGLE_NORMALS + 2]
        + a * t[k, layout.TRIANGLE_NORMALS + 5]
        + b * t[k, layout.TRIANGLE_NORMALS + 8],
    )
    way = scene.materials[m, LAID]
    if way == laying.OWN_UV:
        u, v = laying.lay(scene.materials, m, u, v, 0.0, 0.0, 0.0, 0.0, 0.0, 1.0)
    relief = not plain and (scene.materials[m, RELIEF_TEXTURE] >= 0.0 or scene.materials[m, BOND] > 0.0)
    if relief and way <= laying.OWN_UV:
        nx, ny, nz = relief_normal(scene, k, m, u, v, nx, ny, nz)
    if scene.materials[m, BUMP] > 0.0 and not plain:
        nx, ny, nz = bumped(scene, m, qx, qy, qz, nx, ny, nz)
    reach = 0.0
    for column in range(3, 9):
        reach = max(reach, abs(F64(t[k, column])))
    edge = edge_distance(t, k, a, b) if scene.materials[m, WEATHER] > 0.0 else 1e9
    body = np.int64(t[k, TRIANGLE_OBJECT])
    turn = scene.geometry_transform[geometry]
    if turn >= 0:
        body = scene.geometry_object[geometry]
        w = scene.transforms
        # A ray is turned into the frame of what is placed, and rounded there and on its way.
        reach, grown, moved = max(reach, max(max(abs(qx), abs(qy)), abs(qz))), 0.0, 0.0
        for row in range(3):
            moved = max(moved, abs(F64(w[turn, 4 * row + 3])))
            for column in range(3):
                grown = max(grown, abs(F64(w[turn, 4 * row + column])))
        reach = 4.0 * max(reach * grown, moved)
        qx, qy, qz = (
            w[turn, layout.TRANSFORM_MATRIX] * qx
            + w[turn, layout.TRANSFORM_MATRIX + 1] * qy
            + w[turn, layout.TRANSFORM_MATRIX + 2] * qz
            + w[turn, layout.TRANSFORM_MATRIX + 3],
            w[turn, layout.TRANSFORM_MATRIX + 4] * qx
            + w[turn, layout.TRANSFORM_MATRIX + 5] * qy
            + w[turn, layout.TRANSFORM_MATRIX + 6] * qz
            + w[turn, layout.TRANSFORM_MATRIX + 7],
            w[turn, layout.TRANSFORM_MATRIX + 8] * qx
            + w[turn, layout.TRANSFORM_MATRIX + 9] * qy
            + w[turn, layout.TRANSFORM_MATRIX + 10] * qz
            + w[turn, layout.TRANSFORM_MATRIX + 11],
        )
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
        nx, ny, nz = unit(
            w[turn, layout.TRANSFORM_NORMALS] * nx
            + w[turn, layout.TRANSFORM_NORMALS + 1] * ny
            + w[turn, layout.TRANSFORM_NORMALS + 2] * nz,
            w[turn, layout.TRANSFORM_NORMALS + 3] * nx
            + w[turn, layout.TRANSFORM_NORMALS + 4] * ny
            + w[turn, layout.TRANSFORM_NORMALS + 5] * nz,
            w[turn, layout.TRANSFORM_NORMALS + 6] * nx
            + w[turn, layout.TRANSFORM_NORMALS + 7] * ny
            + w[turn, layout.TRANSFORM_NORMALS + 8] * nz,
        )
    gx, gy, gz = unit(gx, gy, gz)
    if way > laying.OWN_UV:
        u, v = laying.lay(scene.materials, m, u, v, qx, qy, qz, gx, gy, gz)
        if relief:
            nx, ny, nz = laid_normal(scene, m, u, v, qx, qy, qz, gx, gy, gz, nx, ny, nz)
    facing = -(gx * dx + gy * dy + gz * dz)
    if facing < 0.0:
        gx, gy, gz = -gx, -gy, -gz
        nx, ny, nz = -nx, -ny, -nz
    if -(nx * dx + ny * dy + nz * dz) < 1e-3:  # a tilted normal must not look away
        nx, ny, nz = gx, gy, gz
    eps = OFF_SHARE * max(reach, max(max(abs(qx), abs(qy)), abs(qz)))
    return k, m, body, u, v, qx, qy, qz, gx, gy, gz, nx, ny, nz, facing, eps, edge
