"""Kernels that light a cloud layer and look through it.

Light once scattered keeps Henyey-Greenstein's forward lobe. Light scattered again is taken from the two-stream solution
of a conservative layer (Eddington's approximation; e.g. G. Thomas, K. Stamnes, Radiative Transfer in the Atmosphere and
Ocean, 1999, section 7.5) with the similarity relation tau* = (1 - g) tau: of the flux F0 that falls on a layer of tau*
there passes F = F0 (4/3) / (tau* + 4/3), and its mean radiance where tau*_b still lies below is
J = 3 F / (4 pi) (tau*_b + 2/3). An overcast sky thus gets the right brightness without being told.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from valleylight.core.jit.compiled import kernel, part
from valleylight.core.sky.cloudfield import DROPLET_ASYMMETRY, TILE_M
from valleylight.core.sky.constituents import AIR_HEIGHT_M, EARTH_M

PI, F32 = math.pi, np.float32
SIMILAR = 1.0 - DROPLET_ASYMMETRY
SUN_STEPS, VIEW_STEPS_MOST = 8, 48
#: Steps of a line through a torn layer at most, and of how many at least its clear air is crossed.
MOST_STEPS, MOST_CLEAR = 420, 90
#: Thinner than this a layer's air is taken for clear.
LEAST_DENSITY = 0.005
#: Beyond this distance a layer is lost in the horizon.
FARTHEST_M = 220_000.0
#: Numbers of what a line of sight finds: light before the haze RGB, share let through, light of the air in front RGB.
ANSWER = 7


class SeenLayer(NamedTuple):
    """A layer as a line of sight marches through it. Fields (X, Y, L) are periodic."""

    density: NDArray[np.float32]
    busy: NDArray[np.uint8]  # (X, Y), 0 where the four columns of cells about a point hold no cloud
    to_sun: NDArray[np.float32]  # optical depth towards the sun
    above: NDArray[np.float32]  # optical depth straight up
    block: NDArray[np.float32]  # noise that tears its edges
    extinction: float  # optical depth per metre at density 1
    base_m: float
    depth_m: float
    ragged: float
    detail_m: float  # metres to a cell of that noise; below 0 for a sheet, which has no edges to be torn
    turn_x: float  # cosine and sine of the field's turn
    turn_y: float
    east_m: float  # its drift
    north_m: float
    steps: int  # straight through it


class LayerLight(NamedTuple):
    """The light that falls on a layer."""

    sun: NDArray[np.float64]  # (3,) its direction: east, north, up
    sun_rgb: NDArray[np.float64]  # (S, 3) illuminance at the layer for sun altitudes from `low_sun` to `high_sun`
    low_sun: float  # radians
    high_sun: float
    sky_rgb: NDArray[np.float64]  # (3,) illuminance from above
    ground_rgb: NDArray[np.float64]  # (3,) illuminance from below
    air_per_m: NDArray[np.float64]  # (3,) extinction of clear air at the ground


@part
def around(x, count):
    """The two of so many periodic cells that lie about x (in cells), and the share of the second."""
    x -= count * math.floor(x / count)
    first = min(int(x), count - 1)
    return first, first + 1 if first + 1 < count else 0, x - first


@part
def level_of(field, x, y, u):
    """Trilinear value of a periodic field (X, Y, L) at metres x, y and share u of the layer's depth."""
    cells, levels = field.shape[0], field.shape[2]
    x0, x1, s = around(x / TILE_M * cells - 0.5, cells)
    y0, y1, t = around(y / TILE_M * cells - 0.5, cells)
    fz = min(max(u * levels - 0.5, 0.0), levels - 1.001)
    iz = int(fz)
    r = fz - iz
    low = (1 - s) * ((1 - t) * field[x0, y0, iz] + t * field[x0, y1, iz]) + s * (
        (1 - t) * field[x1, y0, iz] + t * field[x1, y1, iz]
    )
    high = (1 - s) * ((1 - t) * field[x0, y0, iz + 1] + t * field[x0, y1, iz + 1]) + s * (
        (1 - t) * field[x1, y0, iz + 1] + t * field[x1, y1, iz + 1]
    )
    return (1 - r) * low + r * high


@part
def block_at(block, x, y, z):
    """Trilinear value of the periodic block of noise; coordinates in its cells."""
    n = block.shape[0]
    x0, x1, s = around(x, n)
    y0, y1, t = around(y, n)
    z0, z1, r = around(z, n)
    a = (1 - s) * ((1 - t) * block[x0, y0, z0] + t * block[x0, y1, z0]) + s * (
        (1 - t) * block[x1, y0, z0] + t * block[x1, y1, z0]
    )
    b = (1 - s) * ((1 - t) * block[x0, y0, z1] + t * block[x0, y1, z1]) + s * (
        (1 - t) * block[x1, y0, z1] + t * block[x1, y1, z1]
    )
    return (1 - r) * a + r * b


@kernel
def light_layer(density, depth_m, sx, sy, sz, low, high, to_sun):
    """Optical depth `to_sun` (L, X, Y) from every cell towards the sun, columns `low` to `high` along x.

    `density` (L, X, 2 Y + 1) is in optical depth per metre, and goes round once more along y. The sun's direction is in the
    field's own frame; below the horizon it shines through the base. All cells of a level look for the sun by the same steps, so
    the weights of the eight cells around a step are worked out once.
    """
    levels, cells, wide = to_sun.shape[0], to_sun.shape[1], to_sun.shape[2]
    cell, step_z = TILE_M / cells, depth_m / levels
    for k in range(levels):
        z = (k + 0.5) * step_z
        way = ((depth_m - z) if sz >= 0.0 else z) / max(abs(sz), 0.02)
        way = min(way, 9000.0)
        for i in range(low, high):
            for j in range(wide):
                to_sun[k, i, j] = 0.0
        for n in range(SUN_STEPS):
            e0, e1 = (n / SUN_STEPS) ** 2 * way, ((n + 1) / SUN_STEPS) ** 2 * way
            t = 0.5 * (e0 + e1)
            u = (z + t * sz) / depth_m
            if u < 0.0 or u > 1.0:
                break
            fz = min(max(u * levels - 0.5, 0.0), levels - 1.001)
            iz = int(fz)
            c, y, b = fz - iz, int(math.floor(t * sy / cell)), t * sy / cell
            y, b = y % wide, b - y
            p, q, r, s = (
                (e1 - e0) * (1.0 - c) * (1.0 - b),
                (e1 - e0) * c * (1.0 - b),
                (e1 - e0) * (1.0 - c) * b,
                (e1 - e0) * c * b,
            )
            for i in range(low, high):
                x0, x1, a = around(i + t * sx / cell, cells)
                p0, q0, r0, s0 = F32((1.0 - a) * p), F32((1.0 - a) * q), F32((1.0 - a) * r), F32((1.0 - a) * s)
                p1, q1, r1, s1 = F32(a * p), F32(a * q), F32(a * r), F32(a * s)
                # Views, so that the loop over them has no indices to check and runs on many cells at a time.
                here, into = density[iz, x0, y : y + wide + 1], to_sun[k, i]
                here_up, there = density[iz + 1, x0, y : y + wide + 1], density[iz, x1, y : y + wide + 1]
                there_up = density[iz + 1, x1, y : y + wide + 1]
                for j in range(wide):
                    near = p0 * here[j] + q0 * here_up[j] + r0 * here[j + 1] + s0 * here_up[j + 1]
                    far = p1 * there[j] + q1 * there_up[j] + r1 * there[j + 1] + s1 * there_up[j + 1]
                    into[j] += near + far


@part
def lobe(g, cosine):
    """Henyey-Greenstein's phase function."""
    return (1.0 - g * g) / (4.0 * PI * (1.0 + g * g - 2.0 * g * cosine) ** 1.5)


@part
def shaped(block, ragged, detail_m, x, y, z, u, footprint_m, coarse):
    """Density of a layer at a point: `coarse` is the field there, x, y, z in m, u the share of its depth; `detail_m` as in SeenLayer.

    Inverted cellular noise (S. Worley, A Cellular Texture Basis Function, SIGGRAPH 1996) in three sizes, the larger tearing deeper, is taken off
    where the field thins out (erosion of edges); billows finer than the line of sight is wide are left out. Bases fray, tops are crisp.
    A sheet has no edges of its own: its thickness is uneven, in two sizes. Smooth layers are as the field has them.
    """
    if ragged <= 0.0 or detail_m > 1e6:
        return coarse
    scale = 1.0 / abs(detail_m)
    sx, sy, sz = x * scale, y * scale, z * scale
    first = 1.0 - block_at(block, sx, sy, sz)
    if detail_m < 0.0:
        off = 0.62 * first + 0.3 * (1.0 - block_at(block, 3.7 * sx, 3.7 * sy, 3.7 * sz))
        return min(max(3.5 * (coarse - ragged * off * (1.15 - min(coarse, 1.0))), 0.0), 1.2)
    off = 1.5 * first
    if footprint_m < 5.0 * detail_m:
        off += 0.75 * (1.0 - block_at(block, 3.7 * sx, 3.7 * sy, 3.7 * sz))
    else:
        off += 0.40
    if footprint_m < 1.4 * detail_m:
        off += 0.34 * (1.0 - block_at(block, 11.3 * sx, 11.3 * sy, 11.3 * sz))
    else:
        off += 0.18
    body = coarse - ragged * off * (1.25 - min(coarse, 1.2))
    crisp = 1.6 + 6.4 * min(u * 5.0, 1.0)
    return min(max(crisp * body, 0.0), 1.25)


@kernel
def shape_layer(density, block, ragged, detail_m, base_m, depth_m, low, high, result):
    """The field (X, Y, L) as it is seen, torn and all, in the mean over each cell (eight points of it): what its light and its shadow are
    computed from, so that cloud that was torn away shades nothing. Fills columns `low` to `high` of `result` along x."""
    cells, levels = density.shape[0], density.shape[2]
    cell, step = TILE_M / cells, 1.0 / levels
    for i in range(low, high):
        for j in range(cells):
            for k in range(levels):
                total = 0.0
                if density[i, j, k] > 0.0:
                    for corner in range(8):
                        x = (i + 0.25 + 0.5 * (corner & 1)) * cell
                        y = (j + 0.25 + 0.25 * (corner & 2)) * cell
                        u = (k + 0.25 + 0.125 * (corner & 4)) * step
                        coarse = level_of(density, x, y, u)
                        if coarse > LEAST_DENSITY:
                            total += shaped(block, ragged, detail_m, x, y, base_m + u * depth_m, u, 0.0, coarse)
                result[i, j, k] = 0.125 * total


@kernel
def see_layer(layer, light, in_haze, altitude, azimuth, luck, cell_rad, answer):
    """What a layer adds to a line of sight from the ground, `cell_rad` wide, and what it lets through.

    `in_haze` (3,) is the radiance of the clear sky there. Fills `answer` (7,): light RGB before haze, share let through, and share of
    the clear air's light RGB that lies in front of it. Clear air between clouds is crossed in long steps; in a torn cloud steps are as
    short as its billows are small, or as the line is wide.
    """
    (
        density,
        busy,
        to_sun,
        above,
        block,
        extinction,
        base_m,
        depth_m,
        ragged,
        detail_m,
        turn_x,
        turn_y,
        east,
        north,
        least,
    ) = layer
    sun, sun_rgb, low_sun, high_sun, sky_rgb, ground_rgb, air_per_m = light
    sin_h, cos_h = math.sin(altitude), math.cos(altitude)
    dx, dy = cos_h * math.sin(azimuth), cos_h * math.cos(azimuth)
    b = EARTH_M * sin_h
    t0 = -b + math.sqrt(b * b + 2.0 * EARTH_M * base_m + base_m * base_m)
    top = base_m + depth_m
    t1 = -b + math.sqrt(b * b + 2.0 * EARTH_M * top + top * top)
    for c in range(7):
        answer[c] = 0.0
    answer[3] = 1.0
    if t0 > FARTHEST_M:
        return
    t1 = min(t1, FARTHEST_M)
    torn = ragged > 0.0 and 0.0 < detail_m < 1e6
    steps = min(max(int((t1 - t0) / depth_m * least), least), max(VIEW_STEPS_MOST * least // 20, least))
    even = (t1 - t0) / steps
    towards = dx * sun[0] + dy * sun[1] + sin_h * sun[2]
    forward = 0.75 * lobe(DROPLET_ASYMMETRY, towards) + 0.25 * lobe(0.25, towards)
    through, cells = 1.0, busy.shape[0]
    seen_at, weight = 0.0, 0.0
    flat_sun = math.sqrt(max(1.0 - sun[2] * sun[2], 1e-9))
    side = (dx * sun[0] + dy * sun[1]) / flat_sun
    sun_altitude = math.asin(min(max(sun[2], -1.0), 1.0))
    # The sun in the field's own frame, for billows that shade each other.
    lx, ly, lz = sun[0] * turn_x + sun[1] * turn_y, sun[1] * turn_x - sun[0] * turn_y, sun[2]
    t, within, clear_steps = t0, not torn, 0
    crease, passed_s = 1.0, 0.0
    for _ in range(MOST_STEPS if torn else steps):
        if torn:
            footprint = cell_rad * t
            fine = max(0.9 * detail_m, 1.1 * footprint)
            dt = min(fine if within else max(4.5 * detail_m, 2.0 * footprint, (t1 - t0) / MOST_CLEAR), t1 - t)
            if dt <= 0.01:
                break
        else:
            footprint, dt = 0.0, even
        at = t + luck * dt
        t += dt
        z = math.sqrt(EARTH_M * EARTH_M + at * at + 2.0 * EARTH_M * at * sin_h) - EARTH_M
        u = (z - base_m) / depth_m
        if u <= 0.0 or u >= 1.0:
            continue
        px, py = at * dx - east, at * dy - north
        x, y = px * turn_x + py * turn_y, py * turn_x - px * turn_y
        if busy[around(x / TILE_M * cells - 0.5, cells)[0], around(y / TILE_M * cells - 0.5, cells)[0]] == 0:
            within = not torn
            continue
        body = level_of(density, x, y, u)
        if torn:
            if body <= LEAST_DENSITY:
                clear_steps += 1
                if clear_steps > 5:
                    within = False
                continue
            if not within:  # a cloud begins within the last long step: it is taken again in short ones
                within, clear_steps = True, 0
                t -= dt
                continue
            clear_steps = 0
        elif body <= LEAST_DENSITY:
            continue
        body = shaped(block, ragged, detail_m, x, y, z, u, footprint, body)
        if body <= 0.0:
            continue
        tau = body * extinction * dt
        a = level_of(above, x, y, u)
        below = max(level_of(above, x, y, 0.0) - a, 0.0)
        if torn and through < 0.3 and weight > 0.0:
            s = passed_s  # what lies behind most of a cloud is shaded like what lies before it
        elif torn and footprint < 8.0 * detail_m:
            # Towards the sun the nearest billows are asked one by one, the rest is looked up beyond them.
            near_m, far_m = 1.6 * detail_m, 5.0 * detail_m
            passed = 0.0
            for k in range(2):
                off = near_m if k == 0 else far_m
                v = u + off * lz / depth_m
                if v > 0.0 and v < 1.0:
                    px, py = x + off * lx, y + off * ly
                    coarse = level_of(density, px, py, v)
                    if coarse > LEAST_DENSITY:
                        wide = 3.0 * detail_m if k == 0 else 4.5 * detail_m
                        passed += wide * shaped(block, ragged, detail_m, px, py, z + off * lz, v, footprint, coarse)
            beyond = u + 7.5 * detail_m * lz / depth_m
            s = extinction * passed
            if beyond > 0.0 and beyond < 1.0:
                s += level_of(to_sun, x + 7.5 * detail_m * lx, y + 7.5 * detail_m * ly, beyond)
            # Light scattered a few times still knows the billow it passed (M. Wrenninge et al., SIGGRAPH 2013: each order is dimmed half
            # as much as the one before): what the two streams spread evenly is drawn to the sunlit side.
            crease = 0.34 + 0.92 * math.exp(-0.25 * extinction * passed)
        else:
            s, crease = level_of(to_sun, x, y, u), 1.0
        passed_s = s
        # The sun's height where this part of the layer stands: it rises towards the sun.
        local_sun = sun_altitude + math.atan2(at * side, EARTH_M)
        w = min(max((local_sun - low_sun) / (high_sun - low_sun), 0.0), 1.0) * (sun_rgb.shape[0] - 1)
        w0 = min(int(w), sun_rgb.shape[0] - 2)
        mu = max(math.sin(local_sun), 0.03)
        flank = min(max(1.0 - s * mu / (a + 0.1), 0.0), 1.0)
        mu += (1.0 - mu) * flank * 0.7
        sunward = SIMILAR * min(s, a)
        # Seen at a slant, light comes from as deep as one scaled depth: I(mu) = 3 F / (4 pi) (tau*_b + mu + 2/3).
        over = SIMILAR * a
        rest = SIMILAR * below + min(over, max(sin_h, 0.0))
        over = SIMILAR * (a + below) - rest
        again = 1.0 - math.exp(-0.6 * (s + below))
        diffuse = again * mu / (PI * (sunward + rest + 4.0 / 3.0)) * (rest + 2.0 / 3.0)
        direct = forward * math.exp(-s)
        sky = (rest + 2.0 / 3.0) / (PI * (over + rest + 4.0 / 3.0))
        floor = (over + 2.0 / 3.0) / (PI * (over + rest + 4.0 / 3.0))
        kept = through * (1.0 - math.exp(-tau))
        for c in range(3):
            lit = (1.0 - w + w0) * sun_rgb[w0, c] + (w - w0) * sun_rgb[w0 + 1, c]
            answer[c] += kept * (lit * (crease * diffuse + direct) + sky_rgb[c] * sky + ground_rgb[c] * floor)
        seen_at += kept * at
        weight += kept
        through *= math.exp(-tau)
        if through < 0.004:
            through = 0.0
            break
    answer[3] = through
    if weight > 0.0:
        way = seen_at / weight
        height = max(way * sin_h, 1.0)
        air = AIR_HEIGHT_M * 0.6 / height * (1.0 - math.exp(-height / (AIR_HEIGHT_M * 0.6))) * way
        for c in range(3):
            clear = math.exp(-air_per_m[c] * air)
            answer[c] *= clear
            answer[4 + c] = (1.0 - clear) * weight * in_haze[c]
