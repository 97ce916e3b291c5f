"""A path at a pane, solid glass or water: reflected, or passed on."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.jit.held import held
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.scene import SceneArrays
from valleylight.core.trace.bsdf import surface
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.intersect.vertex import meet
from valleylight.core.trace.nextevent.passage import FAR, MAX_PANES, facet, mirror, tint
from valleylight.core.trace.photonmap import photons
from valleylight.core.trace.sampling.dimensions import FACET, PANE, of_step, seed_of_step

U32, I64, F64 = np.uint32, np.int64, np.float64


@part
def move(p, row, x, y, z):
    """Let the ray of the path in a row start at a point."""
    p[row, layout.ORIGIN], p[row, layout.ORIGIN + 1], p[row, layout.ORIGIN + 2] = x, y, z


@part
def set_direction(p, row, dx, dy, dz):
    """Let the ray of the path in a row point along d."""
    p[row, layout.TOWARDS], p[row, layout.TOWARDS + 1], p[row, layout.TOWARDS + 2] = dx, dy, dz


@part
def carry(p, row, r, g, b):
    """Let the path in a row carry so much."""
    p[row, layout.LIGHT], p[row, layout.LIGHT + 1], p[row, layout.LIGHT + 2] = r, g, b


@part
def scattered_at(p, row, x, y, z, density):
    """Note where the path in a row was last scattered and with which density per sr (0: mirrored)."""
    k = layout.SCATTERED
    p[row, k], p[row, k + 1], p[row, k + 2], p[row, layout.DENSITY] = x, y, z, density


@part
def chance_of(p, row):
    """A random number for whether the path in a row is reflected."""
    return (
        seed_of_step(int(p[row, layout.NUMBER]), U32(p[row, layout.PIXEL]), int(p[row, layout.STEP]), PANE)
        / 4294967296.0
    )


@part
def facet_pair(p, row):
    """Random numbers for the facet that the path in a row meets."""
    index, pixel, step = int(p[row, layout.NUMBER]), U32(p[row, layout.PIXEL]), int(p[row, layout.STEP])
    return of_step(index, pixel, step, int(p[row, layout.BOUNCE]), FACET)


@kernel
def at_pane(scene, work, row, m, vertex):
    """Reflect the path in a row at a thin pane, or pass it straight on, tinted. Returns whether it goes on."""
    p = work.paths
    qx, qy, qz, gx, gy, gz, nx, ny, nz, wx, wy, wz, eps = vertex
    bounce, panes = int(p[row, layout.BOUNCE]), int(p[row, layout.PANES]) + 1
    tr, tg, tb = p[row, layout.LIGHT], p[row, layout.LIGHT + 1], p[row, layout.LIGHT + 2]
    p[row, layout.PANES] = panes
    if panes > MAX_PANES:
        return False
    reflected, inside = surface.pane(max(nx * wx + ny * wy + nz * wz, 1e-3), F64(scene.materials[m, layout.INDEX]))
    choice = min(max(reflected, 0.1), 0.95) if bounce == 0 else reflected
    if chance_of(p, row) >= choice:
        w = (1.0 - reflected) / (1.0 - choice)
        pr, pg, pb = tint(scene, m, inside)
        carry(p, row, tr * w * pr, tg * w * pg, tb * w * pb)
        move(p, row, qx - gx * eps, qy - gy * eps, qz - gz * eps)
        p[row, layout.LINKED] = 0.0  # places are asked for past nothing
        return True
    dx, dy, dz = mirror(scene, m, nx, ny, nz, -wx, -wy, -wz, *facet_pair(p, row))
    if bounce == 0:
        work.samples[int(p[row, layout.SAMPLE]), layout.WILL_REFLECT] = 1.0
    p[row, layout.BOUNCE] = bounce + 1
    if dx * gx + dy * gy + dz * gz <= 0.0 or bounce + 1 > work.settings[layout.MAX_BOUNCES]:
        return False
    w = reflected / choice
    carry(p, row, tr * w, tg * w, tb * w)
    set_direction(p, row, dx, dy, dz)
    ox, oy, oz = qx + gx * eps, qy + gy * eps, qz + gz * eps
    move(p, row, ox, oy, oz)
    scattered_at(p, row, ox, oy, oz, 0.0)
    p[row, layout.DRIFTING] = 0.0
    if p[row, layout.MIRRORED] > 0.0:
        p[row, layout.MASK] = rays.BY_MIRROR
    return True


@kernel
def at_solid(scene, work, row, m, vertex, inner):
    """Reflect the path in a row at solid glass or water, or bend it into or (`inner`) out of it. Returns whether it goes on."""
    p = work.paths
    qx, qy, qz, gx, gy, gz, nx, ny, nz, wx, wy, wz, eps = vertex
    dx, dy, dz = -wx, -wy, -wz
    bounce, panes = int(p[row, layout.BOUNCE]), int(p[row, layout.PANES]) + 1
    p[row, layout.PANES] = panes
    if panes > MAX_PANES or bounce > work.settings[layout.MAX_BOUNCES]:
        return False
    hx, hy, hz = facet(scene, m, nx, ny, nz, dx, dy, dz, *facet_pair(p, row))
    n = F64(scene.materials[m, layout.INDEX])
    cosine = min(max(-(dx * hx + dy * hy + dz * hz), 1e-4), 1.0)
    reflected = photons.reflectance(cosine, n, inner)
    choice = min(max(reflected, 0.1), 0.9) if bounce == 0 and reflected < 1.0 else reflected
    if chance_of(p, row) < choice:
        w = reflected / choice
        c = 2.0 * (dx * hx + dy * hy + dz * hz)
        dx, dy, dz = dx - c * hx, dy - c * hy, dz - c * hz
        if dx * gx + dy * gy + dz * gz <= 0.0:
            return False
        if not inner:
            if bounce == 0:
                work.samples[int(p[row, layout.SAMPLE]), layout.WILL_REFLECT] = 1.0
            p[row, layout.BOUNCE] = bounce + 1
        ox, oy, oz = qx + gx * eps, qy + gy * eps, qz + gz * eps
        if p[row, layout.MIRRORED] > 0.0:
            p[row, layout.MASK] = rays.BY_MIRROR
    else:
        # A path gathers radiance, and L / n^2 is what stays the same through a face (Nicodemus, 1963): light that spreads
        # on leaving water is as much weaker. Shadow rays and photons carry flux, which does not change so.
        w = (1.0 - reflected) / (1.0 - choice) * (n * n if inner else 1.0 / (n * n))
        dx, dy, dz = photons.bend(dx, dy, dz, hx, hy, hz, n if inner else 1.0 / n)
        if dx * gx + dy * gy + dz * gz >= 0.0:
            return False
        p[row, layout.MEDIUM] = -1 if inner else m
        ox, oy, oz = qx - gx * eps, qy - gy * eps, qz - gz * eps
    carry(p, row, p[row, layout.LIGHT] * w, p[row, layout.LIGHT + 1] * w, p[row, layout.LIGHT + 2] * w)
    set_direction(p, row, dx, dy, dz)
    move(p, row, ox, oy, oz)
    scattered_at(p, row, ox, oy, oz, 0.0)
    p[row, layout.BENT], p[row, layout.DRIFTING] = 1.0, 0.0
    return True


@kernel
def medium_at(scene, work, x, y, z):
    """Material of the solid glass or water that holds a point, -1 in air.

    Rays go upwards, straight and slanted, until one decides: the first face of a solid it meets is seen from within or from outside,
    or there is none. What is opaque ends a ray without an answer; panes and cut-outs are passed.
    """
    for k in range(5):
        dx, dy = (0.0, 0.0) if k == 0 else (0.6 * (1 - 2 * (k & 1)), 0.4 * (1 - (k & 2)))
        dz = math.sqrt(1.0 - dx * dx - dy * dy)
        ox, oy, oz = x, y, z
        for _ in range(MAX_PANES):
            if not rays.closest(
                scene.handle, work.ray, work.word, ox, oy, oz, dx, dy, dz, FAR, rays.OPAQUE | rays.BODY | rays.PASSES
            ):
                return I64(-1)
            _k, m, _, _, _, qx, qy, qz, gx, gy, gz, _, _, _, facing, eps, _ = meet(scene, work, dx, dy, dz, k >= 0)
            kind = int(scene.materials[m, layout.KIND])
            if kind == layout.SOLID:
                return I64(m) if facing < 0.0 else I64(-1)
            if kind != layout.PANE and scene.materials[m, layout.ALPHA_TEXTURE] < 0.0:
                break
            ox, oy, oz = qx - gx * eps, qy - gy * eps, qz - gz * eps
    return I64(-1)


@kernel
def medium_around(arrays, workbench):
    """Material of the solid glass or water about the lens, -1 in air."""
    camera = workbench.camera
    return medium_at(held(arrays), held(workbench), camera[0], camera[1], camera[2])


def lens_in(arrays: SceneArrays, settings: NDArray[np.float64], camera: NDArray[np.float64]) -> int:
    """Material of the solid glass or water that the lens stands in, -1 in air."""
    return int(medium_around(arrays, rays.new_work(settings, camera))) if arrays.glass else -1
