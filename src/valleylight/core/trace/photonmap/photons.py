"""Light gathered through and off water and solid glass: photons from sun and fixtures, kept where they land.

A photon starts towards a caster (an object of solid glass or water), is bent and mirrored there, and is kept at the first
matt surface it meets within the region. Radiance towards the viewer is sum of f_r dPhi / (pi r^2) over the photons within
the radius r (H. W. Jensen, Realistic Image Synthesis Using Photon Mapping, 2001, eq. 7.6), with a cone filter. Paths that
would find the same light by chance are left out in path.py, so nothing is counted twice.
"""

from __future__ import annotations

import math

import numpy as np

from valleylight.core.jit.compiled import kernel
from valleylight.core.jit.held import held
from valleylight.core.lamps import record
from valleylight.core.trace.arrays import layout
from valleylight.core.trace.arrays.records import Segment
from valleylight.core.trace.bsdf import surface
from valleylight.core.trace.intersect import rays
from valleylight.core.trace.intersect.vertex import meet
from valleylight.core.trace.lights import lamplight
from valleylight.core.trace.media import air
from valleylight.core.trace.nextevent.direct import add
from valleylight.core.trace.nextevent.passage import FAR, facet, shade, tint
from valleylight.core.trace.sampling.dimensions import (
    EVENT_AIR,
    EVENT_FACET,
    EVENT_FATE,
    PHOTON_CASTER,
    PHOTON_DIRECTION,
    PHOTON_DISC,
    PHOTON_PLACE,
    PHOTON_POINT,
    of_event,
    of_photon,
    seed_of_event,
)
from valleylight.core.trace.sampling.sobol import basis, disk, hash32

U32, F64 = np.uint32, np.float64
MOST_EVENTS = 16


@kernel
def bend(dx, dy, dz, hx, hy, hz, ratio):
    """Direction refracted at a facet whose normal h looks back at d, ratio = index here / index beyond (Snell's law);
    zeros where all is reflected."""
    c = -(dx * hx + dy * hy + dz * hz)
    s2 = ratio * ratio * (1.0 - c * c)
    if s2 >= 1.0:
        return 0.0, 0.0, 0.0
    k = ratio * c - math.sqrt(1.0 - s2)
    return ratio * dx + k * hx, ratio * dy + k * hy, ratio * dz + k * hz


@kernel
def reflectance(cosine, index, inside):
    """Fresnel reflectance of solid glass from outside or from inside it."""
    if not inside:
        return surface.dielectric(cosine, index)
    s2 = (1.0 - cosine * cosine) * index * index
    if s2 >= 1.0:
        return 1.0
    return surface.dielectric(math.sqrt(1.0 - s2), index)


@kernel
def follow_photon(scene, work, box, out, row, start, group, index, seed):
    """Follow one photon from its first segment; returns 1 where it was kept in row `row` of `out`."""
    ox, oy, oz, dx, dy, dz, _, r, g, b = start
    bent = False
    for event in range(MOST_EVENTS):
        if not rays.closest(
            scene.handle, work.ray, work.word, ox, oy, oz, dx, dy, dz, FAR, rays.OPAQUE | rays.BODY | rays.PASSES
        ):
            return 0
        way = F64(work.ray[rays.FAR])
        _k, m, _, _, _, qx, qy, qz, gx, gy, gz, nx, ny, nz, facing, eps, _ = meet(scene, work, dx, dy, dz, index < 0)
        if work.settings[layout.AIR_ON] > 0.0:
            luck = seed_of_event(index, seed, event, EVENT_AIR)
            t = air.transmittance(scene.air, ox, oy, oz, dx, dy, dz, way, luck)
            r, g, b = r * t, g * t, b * t
        t = scene.materials
        kind = int(t[m, layout.KIND])
        if kind == layout.SOLID:
            inside = facing < 0.0
            if inside:
                e = layout.ABSORB
                r *= math.exp(-way * t[m, e])
                g *= math.exp(-way * t[m, e + 1])
                b *= math.exp(-way * t[m, e + 2])
            hx, hy, hz = facet(scene, m, nx, ny, nz, dx, dy, dz, *of_event(index, seed, event, EVENT_FACET))
            n = F64(t[m, layout.INDEX])
            cosine = min(max(-(dx * hx + dy * hy + dz * hz), 1e-4), 1.0)
            u, _ = of_event(index, seed, event, EVENT_FATE)
            bent = True
            if u < reflectance(cosine, n, inside):
                c = 2.0 * (dx * hx + dy * hy + dz * hz)
                dx, dy, dz = dx - c * hx, dy - c * hy, dz - c * hz
            else:
                dx, dy, dz = bend(dx, dy, dz, hx, hy, hz, n if inside else 1.0 / n)
                if dx == 0.0 and dy == 0.0 and dz == 0.0:
                    return 0
            side = eps if gx * dx + gy * dy + gz * dz > 0.0 else -eps
            ox, oy, oz = qx + gx * side, qy + gy * side, qz + gz * side
            continue
        if kind == layout.PANE:
            reflected, inner = surface.pane(max(abs(facing), 1e-3), F64(t[m, layout.INDEX]))
            pr, pg, pb = tint(scene, m, inner)
            w = 1.0 - reflected
            r, g, b = r * w * pr, g * w * pg, b * w * pb
            ox, oy, oz = qx - gx * eps, qy - gy * eps, qz - gz * eps
            continue
        if not bent or t[m, layout.METAL] > 0.99:
            return 0
        if (qx < box[layout.LOW] or qy < box[layout.LOW + 1] or qz < box[layout.LOW + 2] or qx > box[layout.HIGH] or qy > box[layout.HIGH + 1] or qz > box[layout.HIGH + 2]):  # fmt: skip
            return 0
        out[row, layout.LANDED_PLACE], out[row, layout.LANDED_PLACE + 1], out[row, layout.LANDED_PLACE + 2] = qx, qy, qz
        out[row, layout.LANDED_ALONG], out[row, layout.LANDED_ALONG + 1], out[row, layout.LANDED_ALONG + 2] = dx, dy, dz
        (
            out[row, layout.LANDED_POWER],
            out[row, layout.LANDED_POWER + 1],
            out[row, layout.LANDED_POWER + 2],
            out[row, layout.LANDED_GROUP],
        ) = r, g, b, group
        return 1
    return 0


@kernel
def from_the_sun(arrays, workbench, box, casters, shares, out, row, first, last, seed):
    """Photons first to last of the sun towards casters drawn by `shares` (cumulated); kept ones from row `row` on.

    The sun's normal illuminance falls on a disc across its direction that covers the caster. Returns the next row.
    """
    scene, work = held(arrays), held(workbench)
    sun = scene.sun
    omega = 1.0 / sun[layout.SUN_DENSITY]
    for index in range(first, last):
        u, v = of_photon(index, seed, PHOTON_CASTER)
        c = 0
        while c < casters.shape[0] - 1 and shares[c + 1] <= u:
            c += 1
        chance = shares[c + 1] - shares[c]
        mx, my, mz = (
            (casters[c, layout.LOW] + casters[c, layout.HIGH]) / 2,
            (casters[c, layout.LOW + 1] + casters[c, layout.HIGH + 1]) / 2,
            (casters[c, layout.LOW + 2] + casters[c, layout.HIGH + 2]) / 2,
        )
        ex, ey, ez = casters[c, layout.HIGH] - mx, casters[c, layout.HIGH + 1] - my, casters[c, layout.HIGH + 2] - mz
        radius = math.sqrt(ex * ex + ey * ey + ez * ez)
        # A box across the sun's direction: half sizes of the caster's box seen from the sun.
        t1x, t1y, t1z, t2x, t2y, t2z = basis(
            sun[layout.SUN_TOWARDS], sun[layout.SUN_TOWARDS + 1], sun[layout.SUN_TOWARDS + 2]
        )
        ha = abs(t1x) * ex + abs(t1y) * ey + abs(t1z) * ez + 1e-3
        hb = abs(t2x) * ex + abs(t2y) * ey + abs(t2z) * ez + 1e-3
        p, q = of_photon(index, seed, PHOTON_PLACE)
        a, b = (2.0 * p - 1.0) * ha, (2.0 * q - 1.0) * hb
        p, q = disk(v, of_photon(index, seed, PHOTON_DISC)[0])
        soft = math.sqrt(max(1.0 - sun[layout.SUN_COS_RADIUS] * sun[layout.SUN_COS_RADIUS], 0.0))
        lx = sun[layout.SUN_TOWARDS] + soft * (p * t1x + q * t2x)
        ly = sun[layout.SUN_TOWARDS + 1] + soft * (p * t1y + q * t2y)
        lz = sun[layout.SUN_TOWARDS + 2] + soft * (p * t1z + q * t2z)
        s = 1.0 / math.sqrt(lx * lx + ly * ly + lz * lz)
        lx, ly, lz = lx * s, ly * s, lz * s
        away = radius + 2000.0
        ox = mx + a * t1x + b * t2x + away * lx
        oy = my + a * t1y + b * t2y + away * ly
        oz = mz + a * t1z + b * t2z + away * lz
        w = 4.0 * ha * hb * omega / (chance * (last - first))
        start = Segment(
            ox, oy, oz, -lx, -ly, -lz, FAR, sun[layout.SUN_LUMINANCE] * w, sun[layout.SUN_LUMINANCE + 1] * w,
            sun[layout.SUN_LUMINANCE + 2] * w,
        )  # fmt: skip
        row += follow_photon(scene, work, box, out, row, start, work.settings[layout.GROUP_SUN], index, seed)
    return row


@kernel
def from_lamps(arrays, workbench, box, casters, pairs, shares, out, row, first, last, seed):
    """Photons of fixtures; `pairs` (N, 2) are fixture and caster, drawn by `shares`. Uniform over the cone that holds
    the caster's sphere: power I(direction) times the cone's solid angle. Returns the next row."""
    scene, work = held(arrays), held(workbench)
    for index in range(first, last):
        u, _v = of_photon(index, seed, PHOTON_CASTER)
        n = 0
        low, high = 0, pairs.shape[0]
        while high - low > 1:
            n = (low + high) >> 1
            if shares[n] <= u:
                low = n
            else:
                high = n
        lamp, c = pairs[low, 0], pairs[low, 1]
        chance = shares[low + 1] - shares[low]
        mx, my, mz = (
            (casters[c, layout.LOW] + casters[c, layout.HIGH]) / 2,
            (casters[c, layout.LOW + 1] + casters[c, layout.HIGH + 1]) / 2,
            (casters[c, layout.LOW + 2] + casters[c, layout.HIGH + 2]) / 2,
        )
        ex, ey, ez = casters[c, layout.HIGH] - mx, casters[c, layout.HIGH + 1] - my, casters[c, layout.HIGH + 2] - mz
        p, q = of_photon(index, seed, PHOTON_POINT)
        ox, oy, oz = lamplight.point_on_lamp(scene.lamps, scene.lamp_points, lamp, mx, my, mz, p, q)
        lx, ly, lz = mx - ox, my - oy, mz - oz
        d2 = lx * lx + ly * ly + lz * lz
        r2 = ex * ex + ey * ey + ez * ez
        cos_most = math.sqrt(1.0 - r2 / d2) if d2 > 1.02 * r2 else -1.0
        s = 1.0 / math.sqrt(d2 + 1e-12)
        lx, ly, lz = lx * s, ly * s, lz * s
        t1x, t1y, t1z, t2x, t2y, t2z = basis(lx, ly, lz)
        a, b = of_photon(index, seed, PHOTON_DIRECTION)
        z = 1.0 - a * (1.0 - cos_most)
        sine, phi = math.sqrt(max(1.0 - z * z, 0.0)), 6.283185307179586 * b
        x, y = sine * math.cos(phi), sine * math.sin(phi)
        dx, dy, dz = z * lx + x * t1x + y * t2x, z * ly + x * t1y + y * t2y, z * lz + x * t1z + y * t2z
        w = lamplight.intensity(scene.lamps, scene.profiles, lamp, dx, dy, dz)
        if w <= 0.0:
            continue
        w *= 6.283185307179586 * (1.0 - cos_most) / (chance * (last - first))
        t = scene.lamps
        start = Segment(
            ox, oy, oz, dx, dy, dz, FAR, t[lamp, record.COLOUR] * w, t[lamp, record.COLOUR + 1] * w,
            t[lamp, record.COLOUR + 2] * w,
        )  # fmt: skip
        row += follow_photon(scene, work, box, out, row, start, F64(t[lamp, record.GROUP]), index, seed)
    return row


@kernel
def cell_of(net, px, py, pz):
    """Number of the cell of the net's grid that holds a point (which lies in the region). `net` is the region's low and
    high corner, the cell's size, the cells along x, y, z, and the radius."""
    nx, ny, nz = int(net[layout.NET_CELLS]), int(net[layout.NET_CELLS + 1]), int(net[layout.NET_CELLS + 2])
    x = min(max(int((px - net[layout.NET_BOX]) / net[layout.NET_CELL_M]), 0), nx - 1)
    y = min(max(int((py - net[layout.NET_BOX + 1]) / net[layout.NET_CELL_M]), 0), ny - 1)
    z = min(max(int((pz - net[layout.NET_BOX + 2]) / net[layout.NET_CELL_M]), 0), nz - 1)
    return (x * ny + y) * nz + z


@kernel
def count_cells(net, photons, counts):
    """Add up the photons of every cell in counts[cell + 1]."""
    for k in range(photons.shape[0]):
        counts[
            cell_of(
                net,
                photons[k, layout.LANDED_PLACE],
                photons[k, layout.LANDED_PLACE + 1],
                photons[k, layout.LANDED_PLACE + 2],
            )
            + 1
        ] += 1


@kernel
def sort_cells(net, photons, place, out):
    """Lay photons out cell by cell; `place` is where each cell's next one goes."""
    for k in range(photons.shape[0]):
        cell = cell_of(
            net,
            photons[k, layout.LANDED_PLACE],
            photons[k, layout.LANDED_PLACE + 1],
            photons[k, layout.LANDED_PLACE + 2],
        )
        for c in range(photons.shape[1]):
            out[place[cell], c] = photons[k, c]
        place[cell] += 1


@kernel
def in_region(net, px, py, pz):
    """True inside the region of the net of light."""
    return (
        net[layout.NET_BOX] <= px <= net[layout.NET_BOX + layout.HIGH]
        and net[layout.NET_BOX + 1] <= py <= net[layout.NET_BOX + layout.HIGH + 1]
        and net[layout.NET_BOX + 2] <= pz <= net[layout.NET_BOX + layout.HIGH + 2]
    )


@kernel
def gather(scene, vertex, paint, work, sample, tr, tg, tb):
    """Add the light of the photons around a vertex to the film, cone filter w = 1 - d / r, by light group."""
    net = scene.net
    qx, qy, qz, gx, gy, gz, nx, ny, nz, wx, wy, wz, _ = vertex
    radius, size = net[layout.NET_RADIUS], net[layout.NET_CELL_M]
    scale = 3.0 / (math.pi * radius * radius)  # the cone filter integrates to a third of the disc
    cx0, cy0, cz0 = (
        int((qx - radius - net[layout.NET_BOX]) / size),
        int((qy - radius - net[layout.NET_BOX + 1]) / size),
        int((qz - radius - net[layout.NET_BOX + 2]) / size),
    )
    cx1, cy1, cz1 = (
        int((qx + radius - net[layout.NET_BOX]) / size),
        int((qy + radius - net[layout.NET_BOX + 1]) / size),
        int((qz + radius - net[layout.NET_BOX + 2]) / size),
    )
    mx, my, mz = int(net[layout.NET_CELLS]), int(net[layout.NET_CELLS + 1]), int(net[layout.NET_CELLS + 2])
    p = scene.photons
    for cx in range(max(cx0, 0), min(cx1, mx - 1) + 1):
        for cy in range(max(cy0, 0), min(cy1, my - 1) + 1):
            for cz in range(max(cz0, 0), min(cz1, mz - 1) + 1):
                cell = (cx * my + cy) * mz + cz
                for k in range(scene.photon_cells[cell], scene.photon_cells[cell + 1]):
                    ux, uy, uz = (
                        p[k, layout.LANDED_PLACE] - qx,
                        p[k, layout.LANDED_PLACE + 1] - qy,
                        p[k, layout.LANDED_PLACE + 2] - qz,
                    )
                    d2 = ux * ux + uy * uy + uz * uz
                    if d2 >= radius * radius:
                        continue
                    off = ux * gx + uy * gy + uz * gz
                    if abs(off) > 0.3 * radius:  # another surface nearby
                        continue
                    lx, ly, lz = (
                        -p[k, layout.LANDED_ALONG],
                        -p[k, layout.LANDED_ALONG + 1],
                        -p[k, layout.LANDED_ALONG + 2],
                    )
                    if gx * lx + gy * ly + gz * lz <= 0.0:
                        continue
                    cosine = abs(nx * lx + ny * ly + nz * lz)
                    r, g, b, _ = shade(scene, paint, nx, ny, nz, wx, wy, wz, F64(lx), F64(ly), F64(lz))
                    w = (1.0 - math.sqrt(d2) / radius) * scale / max(cosine, 0.05)
                    group = int(p[k, layout.LANDED_GROUP])
                    add(
                        work,
                        sample,
                        group,
                        tr * r * w * p[k, layout.LANDED_POWER],
                        tg * g * w * p[k, layout.LANDED_POWER + 1],
                        tb * b * w * p[k, layout.LANDED_POWER + 2],
                        0.0,
                    )


@kernel
def seed_of(seed, batch):
    """A seed for a batch of photons."""
    return hash32(U32(U32(seed) + U32(batch) * U32(0x9E3779B9)))
